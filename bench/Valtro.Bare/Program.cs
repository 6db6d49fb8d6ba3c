// The peer of bench/outlet-load: Kestrel with nothing between it and fixed bytes. Started with a port, a file, the file's
// tag, and how many copies of it lie in memory and are sent in turns: one lies in the processor's cache, a thousand do not. Files with
// lines of a head, of an answer with the bytes and of one without, make its answers the same as ours to the last byte but the tag; then
// whoever has any tag is told that nothing changed.
using Microsoft.Extensions.Primitives;

var (port, file, tag) = (args[0], args[1], new StringValues(args[2]));
var copies = new byte[int.Parse(args[3], System.Globalization.CultureInfo.InvariantCulture)][];
for (var i = 0; i < copies.Length; i++)
    copies[i] = await File.ReadAllBytesAsync(file);
var heads = args.Skip(4).Select(HeadOf).ToArray();
var next = 0u;
var builder = WebApplication.CreateSlimBuilder();
builder.Logging.ClearProviders();
builder.WebHost.ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
builder.WebHost.UseUrls($"http://127.0.0.1:{port}");
var app = builder.Build();
app.Run(async http =>
{
    http.Response.Headers.ETag = tag;
    var isUnchanged = heads.Length > 0 ? http.Request.Headers.IfNoneMatch.Count > 0 : http.Request.Headers.IfNoneMatch == tag;
    if (heads.Length > 0)
    {
        foreach (var (name, value) in heads[isUnchanged ? 1 : 0])
            http.Response.Headers[name] = value;
    }
    if (isUnchanged)
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

static KeyValuePair<string, StringValues>[] HeadOf(string file) =>
    [.. File.ReadLines(file).Select(l => l.Split(": ", 2)).Where(l => l.Length == 2).Select(l => KeyValuePair.Create(l[0], new StringValues(l[1])))];
