// The peer of bench/outlet-load: Kestrel with nothing between it and fixed bytes. Started with a port, a file, the file's
// tag, and how many copies of it lie in memory and are sent in turns: one lies in the processor's cache, a thousand do not.
using Microsoft.Extensions.Primitives;

var (port, file, tag) = (args[0], args[1], new StringValues(args[2]));
var copies = new byte[int.Parse(args[3], System.Globalization.CultureInfo.InvariantCulture)][];
for (var i = 0; i < copies.Length; i++)
    copies[i] = await File.ReadAllBytesAsync(file);
var next = 0u;
var builder = WebApplication.CreateSlimBuilder();
builder.Logging.ClearProviders();
builder.WebHost.ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
builder.WebHost.UseUrls($"http://127.0.0.1:{port}");
var app = builder.Build();
app.Run(async http =>
{
    http.Response.Headers.ETag = tag;
    if (http.Request.Headers.IfNoneMatch == tag)
    {
        http.Response.StatusCode = StatusCodes.Status304NotModified;
        return;
    }
    http.Response.ContentType = "text/calendar; charset=utf-8";
    var bytes = copies[Interlocked.Increment(ref next) % copies.Length];
    http.Response.ContentLength = bytes.Length;
    await http.Response.BodyWriter.WriteAsync(bytes);
});
app.Run();
