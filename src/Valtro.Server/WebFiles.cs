using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Extensions.FileProviders;
using Valtro.Server.Outlets;

namespace Valtro.Server;

/// <summary>The files of the interface, compressed when they were built. Names carry a hash of their contents, so they are kept for good.</summary>
internal static class WebFiles
{
    public static void UseWebFiles(this WebApplication app)
    {
        var folder = app.Services.GetRequiredService<ServerSettings>().WebFolder;
        Use(app, Path.Combine(folder, "workspace", "assets"), "/assets");
        Use(app, Path.Combine(folder, "outlet", "assets"), "/outlet/assets");
        // Sites name this one for good, so it has one name and is asked for again every hour.
        var files = FilesIn(Path.Combine(folder, "outlet"));
        app.MapMethods("/outlet/frame.js", ["GET", "HEAD"], (HttpContext http) =>
        {
            http.Response.Headers.CacheControl = "public, max-age=3600";
            http.Response.Headers.AccessControlAllowOrigin = "*";
            return FileOf(files, "frame.js", "text/javascript; charset=utf-8", http) ?? Results.NotFound();
        }).ExcludeFromDescription();
    }

    /// <summary>Every other address is a screen of the workspace.</summary>
    public static void MapWorkspace(this WebApplication app)
    {
        var files = FilesIn(Path.Combine(app.Services.GetRequiredService<ServerSettings>().WebFolder, "workspace"));
        app.MapFallback(http =>
        {
            http.Response.Headers.CacheControl = "no-cache";
            var page = FileOf(files, "index.html", "text/html; charset=utf-8", http)
                ?? Results.Text("The interface has not been built: run npm run build in web/.", statusCode: 404);
            return page.ExecuteAsync(http);
        });
    }

    private static IFileProvider FilesIn(string folder) => Directory.Exists(folder) ? new PhysicalFileProvider(folder) : new NullFileProvider();

    private static IResult? FileOf(IFileProvider files, string name, string type, HttpContext http)
    {
        var file = files.GetFileInfo(CompressedOf(files, name, http) ?? name);
        if (!file.Exists)
            return null;
        http.Response.Headers.Vary = "Accept-Encoding";
        if (CodingOf(file.Name) is { } coding)
            http.Response.Headers.ContentEncoding = coding;
        return Results.File(file.PhysicalPath!, type, lastModified: file.LastModified);
    }

    private static void Use(WebApplication app, string folder, string path)
    {
        var files = FilesIn(folder);
        app.Use((http, next) =>
        {
            if (http.Request.Path.StartsWithSegments(path, out var file) && !file.Value!.EndsWith('/'))
            {
                http.Response.Headers.Vary = "Accept-Encoding";
                if (CompressedOf(files, file.Value!, http) is { } compressed)
                    http.Request.Path = path + compressed;
            }
            return next(http);
        });
        app.UseStaticFiles(new StaticFileOptions
        {
            FileProvider = files,
            RequestPath = path,
            ContentTypeProvider = new TypesOfCompressed(),
            OnPrepareResponse = file =>
            {
                var headers = file.Context.Response.Headers;
                headers.CacheControl = "public, max-age=31536000, immutable";
                // Outlets stand in frames of other origins; their fonts and scripts are public.
                headers.AccessControlAllowOrigin = "*";
                if (CodingOf(file.File.Name) is { } coding)
                    headers.ContentEncoding = coding;
            },
        });
    }

    /// <summary>The file as it was compressed at the build, in the best way the reader takes; null when it goes out as it is.</summary>
    private static string? CompressedOf(IFileProvider files, string file, HttpContext http)
    {
        var ending = Rendered.Accepted(http.Request.Headers.AcceptEncoding) switch { Coding.Brotli => ".br", Coding.Gzip => ".gz", _ => null };
        return ending is not null && files.GetFileInfo(file + ending).Exists ? file + ending : null;
    }

    private static string? CodingOf(string file) => Path.GetExtension(file) switch { ".br" => "br", ".gz" => "gzip", _ => null };

    /// <summary>A compressed file has the type of what is in it.</summary>
    private sealed class TypesOfCompressed : IContentTypeProvider
    {
        private readonly FileExtensionContentTypeProvider known = new();

        public bool TryGetContentType(string subpath, [System.Diagnostics.CodeAnalysis.MaybeNullWhen(false)] out string contentType) =>
            known.TryGetContentType(CodingOf(subpath) is null ? subpath : Path.ChangeExtension(subpath, null), out contentType);
    }
}
