using System.Diagnostics.CodeAnalysis;
using Microsoft.Net.Http.Headers;
using NodaTime;
using Valtro.Server.Api;
using Valtro.Server.Files;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>The public side. Its own door: no session is read, no cookie set, and nothing here can write.</summary>
internal static class OutletEndpoints
{
    private static readonly string[] Reading = ["GET", "HEAD"];

    public static void AddOutlets(this IServiceCollection services)
    {
        services.AddSingleton<RenderedCache>();
        services.AddSingleton<OutletAssets>();
        services.AddSingleton<OutletRenderer>();
    }

    public static void MapOutlets(this WebApplication app)
    {
        var outlets = app.MapGroup("/p").ExcludeFromDescription();
        outlets.MapMethods("/{key}", Reading, (string key, HttpContext http, OutletRenderer outlet) =>
            AnswerAsync(key, http, isFeed: false, state => outlet.DocumentAsync(state, key, OutletShape.Page)));
        outlets.MapMethods("/{key}/embed", Reading, (string key, HttpContext http, OutletRenderer outlet) =>
            AnswerAsync(key, http, isFeed: false, state => outlet.DocumentAsync(state, key, OutletShape.OfQuery(http.Request.Query))));
        outlets.MapMethods("/{key}/feed.ics", Reading, (string key, HttpContext http, OutletRenderer outlet) =>
            AnswerAsync(key, http, isFeed: true, state => outlet.FeedAsync(state, key)));
        outlets.MapMethods("/{key}/files/{id:guid}/{name?}", Reading, FileAsync);
        outlets.MapMethods("/{key}/events.json", Reading, (string key, DayParameter from, DayParameter to, HttpContext http, OutletRenderer outlet) =>
            AnswerAsync(key, http, isFeed: false, state => outlet.EventsAsync(state, key, from, to)));
    }

    /// <summary>A file or picture of an event that this publication shows in full; else there is none.</summary>
    private static async Task<IResult> FileAsync(string key, Guid id, string? name, HttpContext http, Store.Publications store, Contents contents, OutletRenderer outlet)
    {
        var state = key.Length <= 60 ? await store.StateAsync(key) : null;
        if (!IsOut(http, state))
            return await GoneAsync(http, WasThere(http, state), isFeed: false);
        var projection = await outlet.ProjectAsync(state, id);
        var file = projection.Shown.SelectMany(e => e.Facts.Files).FirstOrDefault(f => f.Id == id);
        var isPicture = file is null && projection.Shown.Any(e => e.Facts.Picture?.Id == id);
        if (file is null && !isPicture)
            throw FileEndpoints.Missing();
        var content = await contents.FindAsync(state.SchoolId, file?.ContentId ?? id) ?? throw FileEndpoints.Missing();
        return await FileEndpoints.SendAsync(http, contents, state.SchoolId, content, isPicture && name == "small" ? 1 : 0, file?.Name);
    }

    private static async Task<IResult> AnswerAsync(string key, HttpContext http, bool isFeed, Func<PublicationState, Task<Rendered>> render)
    {
        var store = http.RequestServices.GetRequiredService<Store.Publications>();
        var state = key.Length <= 60 ? await store.StateAsync(key) : null;
        if (!IsOut(http, state))
            return await GoneAsync(http, WasThere(http, state), isFeed);

        var rendered = await render(state);
        var (body, encoding) = Choose(http.Request, rendered);
        var headers = http.Response.GetTypedHeaders();
        // A weak comparison would do for readers, but each encoding is its own representation (RFC 9110, 8.8.3.3).
        headers.ETag = new EntityTagHeaderValue($"\"{rendered.Hash}{(encoding is null ? "" : "-" + encoding)}\"");
        headers.LastModified = rendered.LastModified.ToDateTimeOffset();
        headers.CacheControl = new CacheControlHeaderValue { Public = true, MaxAge = TimeSpan.Zero, MustRevalidate = true };
        http.Response.Headers.Vary = HeaderNames.AcceptEncoding;
        if (rendered.IsOutOfSearch)
            http.Response.Headers["X-Robots-Tag"] = "noindex";
        if (IsUnchanged(http.Request, rendered))
            return Results.StatusCode(StatusCodes.Status304NotModified);

        if (encoding is not null)
            http.Response.Headers.ContentEncoding = encoding;
        http.Response.ContentType = rendered.ContentType;
        http.Response.ContentLength = body.Length;
        if (HttpMethods.IsGet(http.Request.Method))
            await http.Response.Body.WriteAsync(body, http.RequestAborted);
        return Results.Empty;
    }

    private static Instant Now(HttpContext http) => http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant();

    private static bool IsOut(HttpContext http, [NotNullWhen(true)] PublicationState? state) =>
        state is { IsGone: false } && !(state.From > Now(http)) && !(state.Until <= Now(http));

    // What is still to come is not told of.
    private static bool WasThere(HttpContext http, PublicationState? state) => state is not null && (state.IsGone || state.Until <= Now(http));

    private static async Task<IResult> GoneAsync(HttpContext http, bool wasThere, bool isFeed)
    {
        var status = wasThere ? StatusCodes.Status410Gone : StatusCodes.Status404NotFound;
        http.Response.Headers.CacheControl = "no-store";
        var texts = OutletTexts.ForReader(http.Request);
        var (title, text) = wasThere ? (texts["goneTitle"], texts["goneText"]) : (texts["unknownTitle"], texts["unknownText"]);
        if (isFeed)
            return Results.Text($"{title}\n{text}\n", "text/plain; charset=utf-8", statusCode: status);
        var html = await http.RequestServices.GetRequiredService<OutletRenderer>().NoticeAsync(texts, title, text);
        return Results.Text(html, "text/html; charset=utf-8", statusCode: status);
    }

    /// <summary>If-None-Match goes before If-Modified-Since (RFC 9110, 13.1.3).</summary>
    private static bool IsUnchanged(HttpRequest request, Rendered rendered)
    {
        var headers = request.GetTypedHeaders();
        if (request.Headers.IfNoneMatch.Count > 0)
        {
            // Any encoding of the same bytes will do: the reader only asks whether they changed.
            return headers.IfNoneMatch.Any(tag =>
                tag.Tag == "*" || tag.Tag.AsSpan().TrimStart('"').StartsWith(rendered.Hash, StringComparison.Ordinal));
        }
        return headers.IfModifiedSince is { } since && rendered.LastModified.ToDateTimeOffset() <= since;
    }

    private static (byte[] Body, string? Encoding) Choose(HttpRequest request, Rendered rendered)
    {
        var accepted = request.GetTypedHeaders().AcceptEncoding;
        bool Takes(string coding) => accepted.Any(a => a.Value.Equals(coding, StringComparison.OrdinalIgnoreCase) && a.Quality != 0);
        return Takes("br") ? (rendered.Brotli, "br") : Takes("gzip") ? (rendered.Gzip, "gzip") : (rendered.Plain, null);
    }
}
