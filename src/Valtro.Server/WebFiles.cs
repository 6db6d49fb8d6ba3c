using Microsoft.Extensions.FileProviders;

namespace Valtro.Server;

/// <summary>The files of the interface. Names carry a hash of their contents, so they are kept for good.</summary>
internal static class WebFiles
{
    public static void UseWebFiles(this WebApplication app)
    {
        var folder = app.Services.GetRequiredService<ServerSettings>().WebFolder;
        Use(app, Path.Combine(folder, "workspace", "assets"), "/assets");
        Use(app, Path.Combine(folder, "outlet", "assets"), "/outlet/assets");
        // Sites name this one for good, so it has one name and is asked for again every hour.
        var frame = Path.Combine(folder, "outlet", "frame.js");
        app.MapMethods("/outlet/frame.js", ["GET", "HEAD"], (HttpContext http) =>
        {
            http.Response.Headers.CacheControl = "public, max-age=3600";
            http.Response.Headers.AccessControlAllowOrigin = "*";
            return File.Exists(frame) ? Results.File(frame, "text/javascript; charset=utf-8", lastModified: File.GetLastWriteTimeUtc(frame)) : Results.NotFound();
        }).ExcludeFromDescription();
    }

    /// <summary>Every other address is a screen of the workspace.</summary>
    public static void MapWorkspace(this WebApplication app)
    {
        var page = Path.Combine(app.Services.GetRequiredService<ServerSettings>().WebFolder, "workspace", "index.html");
        app.MapFallback(http =>
        {
            http.Response.Headers.CacheControl = "no-cache";
            var answer = File.Exists(page)
                ? Results.File(page, "text/html; charset=utf-8")
                : Results.Text("The interface has not been built: run npm run build in web/.", statusCode: 404);
            return answer.ExecuteAsync(http);
        });
    }

    private static void Use(WebApplication app, string folder, string path)
    {
        if (!Directory.Exists(folder))
            return;
        app.UseStaticFiles(new StaticFileOptions
        {
            FileProvider = new PhysicalFileProvider(folder),
            RequestPath = path,
            OnPrepareResponse = file =>
            {
                file.Context.Response.Headers.CacheControl = "public, max-age=31536000, immutable";
                // Outlets stand in frames of other origins; their fonts and scripts are public.
                file.Context.Response.Headers.AccessControlAllowOrigin = "*";
            },
        });
    }
}
