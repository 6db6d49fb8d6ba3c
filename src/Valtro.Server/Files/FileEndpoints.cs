using Microsoft.AspNetCore.Mvc;
using Microsoft.Net.Http.Headers;
using Valtro.Core.Files;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Files;

internal sealed record PictureDto(Guid Id, string Alt);

/// <summary>Files come in as they are and go out to those who can read the event they are of in full.</summary>
internal static class FileEndpoints
{
    private const int Megabyte = 1_000_000;

    public static void MapFiles(this IEndpointRouteBuilder api)
    {
        // The contents are the body: nothing has to be unpacked, and progress is what was sent.
        api.MapPost("/files", async (string? name, HttpContext http, Caller caller, Contents contents) =>
        {
            await caller.NeedOfferSomewhereAsync();
            var clean = FileKind.CleanName(name);
            await using var body = await ReceiveAsync(http, caller);
            var kind = FileKind.Of(clean, body);
            var author = caller.Author();
            var id = Guid.CreateVersion7();
            body.Position = 0;
            await contents.AddAsync(new StoredContent(id, author.PersonId, kind.MediaType, body.Length), author, body);
            return new FileDto(id, id, clean, kind.MediaType, body.Length);
        }).WithMetadata(new DisableRequestSizeLimitAttribute());

        api.MapPost("/pictures", async (double x, double y, double width, double height, HttpContext http, Caller caller, Contents contents) =>
        {
            await caller.NeedOfferSomewhereAsync();
            var crop = new Crop(x, y, width, height);
            if (!crop.IsValid)
                throw new InvalidInputException("picture_crop", "picture", "The chosen part does not lie within the picture.");
            await using var body = await ReceiveAsync(http, caller);
            body.Position = 0;
            var (large, small) = await Pictures.BannerAsync(body, crop, http.RequestAborted);
            var author = caller.Author();
            var id = Guid.CreateVersion7();
            await contents.AddAsync(new StoredContent(id, author.PersonId, Pictures.MediaType, large.Length), author, new MemoryStream(large), new MemoryStream(small));
            return new PictureDto(id, "");
        }).WithMetadata(new DisableRequestSizeLimitAttribute());

        api.MapGet("/pictures/{id:guid}/{variant}", async (Guid id, string variant, HttpContext http, Caller caller, Contents contents, EventViews views, Templates.TemplateViews templates, Store.Publications publications) =>
        {
            var content = await contents.FindAsync(caller.SchoolId, id) ?? throw Missing();
            // Before it is saved with an event, it is its bringer's, and theirs whom it is proposed to.
            if (content.PersonId != caller.PersonId && !await views.MayReadContentAsync(id) && !await templates.HaveContentAsync(id))
            {
                var may = await caller.AccessAsync();
                if (!(await publications.ListAsync(caller.SchoolId)).Any(p => may.MayChange(caller.PersonId, p) && (p.Look.Picture?.Id == id || p.Draft?.Look.Picture?.Id == id)))
                    throw Missing();
            }
            return await SendAsync(http, contents, caller.SchoolId, content, variant == "small" ? 1 : 0, null);
        });

        api.MapGet("/events/{eventId:guid}/files/{fileId:guid}/{name?}", async (Guid eventId, Guid fileId, string? name, HttpContext http, Caller caller, Contents contents, EventViews views) =>
        {
            var e = await views.NeedAsync(eventId, Detail.Everything);
            var file = e.Files.FirstOrDefault(f => f.Id == fileId) ?? throw Missing();
            var content = await contents.FindAsync(caller.SchoolId, file.ContentId) ?? throw Missing();
            return await SendAsync(http, contents, caller.SchoolId, content, 0, file.Name);
        });
    }

    public static NotFoundException Missing() => new("no_such_file", "There is no such file. It may have been removed.");

    /// <summary>What a browser may do with what somebody brought: nothing.</summary>
    public const string Policy = "sandbox; default-src 'none'";

    /// <summary>What contents are, for a browser.</summary>
    public static string TypeOf(StoredContent content) => content.MediaType.StartsWith("text/", StringComparison.Ordinal) ? content.MediaType + "; charset=utf-8" : content.MediaType;

    /// <summary>Sends contents so that no browser runs them as ours: saved under their name, or a picture of our making.</summary>
    public static async Task<IResult> SendAsync(HttpContext http, Contents contents, Guid schoolId, StoredContent content, int variant, string? name)
    {
        var headers = http.Response.GetTypedHeaders();
        // Contents never change; who may read them can.
        headers.CacheControl = new CacheControlHeaderValue { Private = true, NoCache = true };
        var tag = new EntityTagHeaderValue($"\"{content.Id:N}-{variant}\"");
        headers.ETag = tag;
        http.Response.Headers.ContentSecurityPolicy = Policy;
        if (http.Request.GetTypedHeaders().IfNoneMatch.Any(t => t.Tag == tag.Tag))
            return Results.StatusCode(StatusCodes.Status304NotModified);
        http.Response.ContentType = TypeOf(content);
        if (name is not null)
        {
            var disposition = new ContentDispositionHeaderValue("attachment");
            disposition.SetHttpFileName(name);
            headers.ContentDisposition = disposition;
            http.Response.ContentLength = content.Size;
        }
        if (!HttpMethods.IsHead(http.Request.Method))
        {
            await foreach (var part in contents.ReadAsync(schoolId, content.Id, variant))
                await http.Response.Body.WriteAsync(part, http.RequestAborted);
        }
        return Results.Empty;
    }

    /// <summary>The body in a file of its own that goes with it, read no further than the school's limit.</summary>
    /// <exception cref="TooLargeException">It is larger.</exception>
    private static async Task<FileStream> ReceiveAsync(HttpContext http, Caller caller)
    {
        var limit = (await caller.ListsAsync()).MaxFileMegabytes;
        if (http.Request.ContentLength > (long)limit * Megabyte)
            throw new TooLargeException(limit);
        var file = new FileStream(Path.Combine(Path.GetTempPath(), Path.GetRandomFileName()), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16, FileOptions.DeleteOnClose | FileOptions.Asynchronous);
        try
        {
            var buffer = new byte[1 << 16];
            for (int length; (length = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0;)
            {
                if (file.Length + length > (long)limit * Megabyte)
                    throw new TooLargeException(limit);
                await file.WriteAsync(buffer.AsMemory(0, length), http.RequestAborted);
            }
            return file.Length > 0 ? file : throw new InvalidInputException("file_empty", "name", "The file is empty.");
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
    }
}

/// <summary>A file is larger than the school allows.</summary>
/// <param name="megabytes">What it allows.</param>
internal sealed class TooLargeException(int megabytes) : Exception($"The file is larger than the {megabytes} MB the school allows.");
