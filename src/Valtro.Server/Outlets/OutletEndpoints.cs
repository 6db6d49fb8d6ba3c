using System.Diagnostics;
using System.Diagnostics.CodeAnalysis;
using System.Text.Json.Serialization;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Api;
using Valtro.Server.Files;
using Valtro.Server.Seeing;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>The public side. Its own door: no session is read, no cookie set, and nothing here can write.</summary>
internal static class OutletEndpoints
{
    private const int MaxKey = 60;
    private const int MaxDate = 80;

    private static readonly string[] Reading = ["GET", "HEAD"];

    public static void AddOutlets(this IServiceCollection services)
    {
        services.AddSingleton<RenderedCache>();
        services.AddSingleton<OutletBudget>();
        services.AddSingleton<OutletAssets>();
        services.AddSingleton<OutletRenderer>();
        services.AddSingleton<ReadingLog>();
        services.AddSingleton<SearchFiles>();
    }

    public static void MapOutlets(this WebApplication app)
    {
        var outlets = app.MapGroup("/p").ExcludeFromDescription();
        void Map(string path, OutletKind kind, Func<OutletWork, HttpContext, Task<Rendered>> render, Func<HttpContext, object?>? apart = null) =>
            outlets.MapMethods("/{key}" + path, Reading, (string key, HttpContext http) =>
                AnswerAsync(key, http, kind, apart?.Invoke(http), render));
        void MapFile(string path, OutletKind kind, Func<OutletWork, Rendered> render) => Map(path, kind, (work, _) => Task.FromResult(render(work)));

        Task<Rendered> Document(OutletWork work, HttpContext http, OutletShape shape) => work.Renderer.DocumentAsync(
            work.Projection, work.School, work.Key, shape, OutletPlace.OfQuery(http.Request.Query), $"/p/{work.Key}/events.json?", $"/p/{work.Key}/found.json");
        Map("", OutletKind.Page, (work, http) => Document(work, http, OutletShape.Page), http => OutletPlace.OfQuery(http.Request.Query));
        Map(
            "/embed",
            OutletKind.Embed,
            (work, http) => Document(work, http, OutletShape.OfQuery(http.Request.Query)),
            http => (OutletShape.OfQuery(http.Request.Query), OutletPlace.OfQuery(http.Request.Query)));
        // What a reader chose on the page can be followed: never more than the publication, under one address a choice.
        Map("/feed.ics", OutletKind.Feed, (w, http) => Task.FromResult(w.Renderer.Feed(w.Projection, w.School, w.Key, ChoiceOf(http))), ChoiceOf);
        Map("/found.json", OutletKind.Days, (w, http) => Task.FromResult(w.Renderer.Found(w.Projection, w.School, w.Key, ChoiceOf(http), LanguageOf(http))), http => (ChoiceOf(http), LanguageOf(http)));
        MapFile("/snapshot.ics", OutletKind.Snapshot, w => w.Renderer.Snapshot(w.Projection, w.School, w.Key));
        MapFile("/busy.ifb", OutletKind.Busy, w => w.Renderer.Busy(w.Projection, w.School, w.Key));
        MapFile("/feed.json", OutletKind.JCal, w => w.Renderer.JCalendar(w.Projection, w.School, w.Key));
        MapFile("/atom.xml", OutletKind.Atom, w => w.Renderer.Atom(w.Projection, w.School, w.Key));
        MapFile("/dates.json", OutletKind.Json, w => w.Renderer.PlainJson(w.Projection, w.School, w.Key));
        MapFile("/dates.csv", OutletKind.Csv, w => w.Renderer.Csv(w.Projection, w.School, w.Key));
        MapFile("/qr.svg", OutletKind.Code, w => w.Renderer.Code(w.Projection, w.Key, isPage: false, isSvg: true));
        MapFile("/qr.png", OutletKind.Code, w => w.Renderer.Code(w.Projection, w.Key, isPage: false, isSvg: false));
        MapFile("/qr-page.svg", OutletKind.Code, w => w.Renderer.Code(w.Projection, w.Key, isPage: true, isSvg: true));
        MapFile("/qr-page.png", OutletKind.Code, w => w.Renderer.Code(w.Projection, w.Key, isPage: true, isSvg: false));
        outlets.MapMethods("/{key}/events.json", Reading, (string key, DayParameter from, DayParameter to, HttpContext http) =>
            AnswerAsync(key, http, OutletKind.Days, (from.Date, to.Date, LanguageOf(http)), (w, _) => Task.FromResult(w.Renderer.Events(w.Projection, w.School, w.Key, from, to, LanguageOf(http)))));
        Map(
            "/wall",
            OutletKind.Wall,
            (w, http) => w.Renderer.WallAsync(w.Projection, w.School, w.Key, OutletPlace.OfQuery(http.Request.Query), OutletShape.OfQuery(http.Request.Query)),
            http => (OutletPlace.OfQuery(http.Request.Query), OutletShape.OfQuery(http.Request.Query).Light));
        Map("/term", OutletKind.Term, (w, http) => w.Renderer.TermAsync(w.Projection, w.School, w.Key, LanguageOf(http)), LanguageOf);
        outlets.MapMethods("/{key}/e/{date}/embed", Reading, (string key, string date, HttpContext http) => DateAsync(key, date, http, isEmbed: true));
        outlets.MapMethods("/{key}/e/{date}", Reading, (string key, string date, HttpContext http) => DateAsync(key, date, http));
        outlets.MapMethods("/{key}/files/{id:guid}/{name?}", Reading, FileAsync);
        outlets.MapMethods("", Reading, (Delegate)Missing);
        outlets.MapMethods("/{key}/{**rest}", Reading, (Delegate)Missing);
        // Nothing here can be written to (RFC 9110, 15.5.6).
        outlets.MapMethods("/{key}/{**rest}", ["POST", "PUT", "PATCH", "DELETE", "OPTIONS"], (HttpContext http) =>
        {
            http.Response.Headers.Allow = "GET, HEAD";
            return Results.StatusCode(StatusCodes.Status405MethodNotAllowed);
        });
        SearchFiles.Map(app);
        app.MapMethods("/oembed", Reading, OEmbedAsync).ExcludeFromDescription();
    }

    private static string? LanguageOf(HttpContext http) => OutletPlace.LanguageOf(http.Request.Query);

    private static ReaderChoice ChoiceOf(HttpContext http) => OutletPlace.OfQuery(http.Request.Query).Choice;

    /// <summary>Whether a person reads what is wrong with an address of ours: words on a page, unless data was asked for.</summary>
    public static bool IsForPeople(HttpContext http)
    {
        if (!http.Request.Path.StartsWithSegments("/p", StringComparison.OrdinalIgnoreCase, out var rest))
            return false;
        var accepted = http.Request.Headers.Accept.ToString();
        return accepted.Contains("text/html", StringComparison.OrdinalIgnoreCase)
            || (!accepted.Contains("json", StringComparison.OrdinalIgnoreCase) && !Path.HasExtension(rest.Value));
    }

    private static Task<IResult> Missing(HttpContext http) => GoneAsync(http, null, OutletKind.Page);

    private static Task<IResult> DateAsync(string key, string date, HttpContext http, bool isEmbed = false)
    {
        var isFile = !isEmbed && date.EndsWith(".ics", StringComparison.OrdinalIgnoreCase);
        // Nothing is sought under a name that can be none, and nothing kept of it.
        var name = (isFile ? date[..^4] : date) is { Length: <= MaxDate } sought ? sought : "";
        var language = isFile ? null : LanguageOf(http);
        var embed = isEmbed ? OutletShape.OfQuery(http.Request.Query) : null;
        return AnswerAsync(key, http, isFile ? OutletKind.EventFile : OutletKind.Event, (name, language, embed?.Light, isEmbed), async (work, _) =>
        {
            if ((work.Projection.Find(name) ?? work.Renderer.NextOf(work.Projection, work.School, name)) is not { } found)
                return await work.Renderer.NoDateAsync(work.Projection, work.School, work.Key, work.Projection.IsNoLonger(name), language);
            return isFile
                ? work.Renderer.DateFile(work.Projection, work.School, work.Key, found)
                : await work.Renderer.DateAsync(work.Projection, work.School, work.Key, found, language, embed);
        });
    }

    /// <summary>A file or picture of an event that this publication shows in full, or its page's own picture; else there is none.</summary>
    private static async Task<IResult> FileAsync(string key, Guid id, string? name, HttpContext http, RenderedCache cache, Contents contents, Projections projections)
    {
        var (state, _) = await StateAsync(key, http, cache);
        if (!IsOut(http, state))
            return await GoneAsync(http, state, OutletKind.File);
        var (projection, _) = await projections.OfAsync(state);
        var file = projection.Events.SelectMany(e => e.Files).FirstOrDefault(f => f.Id == id);
        var isPicture = file is null && (projection.Publication.Look.Picture?.Id == id || projection.Events.Any(e => e.Facts.Picture?.Id == id));
        if (file is null && !isPicture)
            throw FileEndpoints.Missing();
        var content = await contents.FindAsync(state.SchoolId, file?.ContentId ?? id) ?? throw FileEndpoints.Missing();
        return await FileEndpoints.SendAsync(http, contents, state.SchoolId, content, isPicture && name == "small" ? 1 : 0, file?.Name);
    }

    private static async Task<IResult> AnswerAsync(string key, HttpContext http, OutletKind kind, object? apart, Func<OutletWork, HttpContext, Task<Rendered>> render)
    {
        try
        {
            return await MadeAsync(key, http, kind, apart, render);
        }
        catch (TooOftenException)
        {
            http.RequestServices.GetRequiredService<Telemetry>().Answered(kind, StatusCodes.Status429TooManyRequests, wasReady: false);
            throw;
        }
    }

    private static async Task<IResult> MadeAsync(string key, HttpContext http, OutletKind kind, object? apart, Func<OutletWork, HttpContext, Task<Rendered>> render)
    {
        var cache = http.RequestServices.GetRequiredService<RenderedCache>();
        var (state, known) = await StateAsync(key, http, cache);
        if (!IsOut(http, state))
            return await GoneAsync(http, state, kind);

        var outlet = http.RequestServices.GetRequiredService<OutletRenderer>();
        // One outlet in several forms has as many codes: svg and png, of the feed and of the page.
        var what = (kind, kind == OutletKind.Code ? http.Request.Path.Value : apart);
        var telemetry = http.RequestServices.GetRequiredService<Telemetry>();
        var rendered = await outlet.GetAsync(
            state,
            key.ToLowerInvariant(),
            what,
            async work =>
            {
                using var activity = telemetry.Source.StartActivity("render " + kind);
                var begun = Stopwatch.GetTimestamp();
                var made = await render(work, http);
                telemetry.Rendered(kind, Stopwatch.GetElapsedTime(begun));
                return made;
            },
            () => Take(http));
        if (OutletFrames.IsElsewhere(http, rendered))
            return await NotHereAsync(http, outlet, key);
        if (known is not null)
            cache.MakeReady(OutletDoor.AddressOf(http), known, rendered, kind);
        var isUnchanged = OutletAnswers.Write(http, rendered, out var body);
        if (rendered.Status == StatusCodes.Status200OK)
            http.RequestServices.GetRequiredService<ReadingLog>().Note(http, state, kind, isUnchanged);
        telemetry.Answered(kind, http.Response.StatusCode, wasReady: false);
        if (!body.IsEmpty)
            await http.Response.Body.WriteAsync(body, http.RequestAborted);
        return Results.Empty;
    }

    // Words in the frame instead of a browser's own error, and the way to where it can be read.
    private static async Task<IResult> NotHereAsync(HttpContext http, OutletRenderer outlet, string key)
    {
        var texts = OutletTexts.ForReader(http.Request);
        http.Response.Headers.CacheControl = "no-store";
        var page = http.RequestServices.GetRequiredService<ServerSettings>().OutletUrl(key.ToLowerInvariant(), "");
        return Results.Text(
            await outlet.NoticeAsync(texts, texts["notHereTitle"], texts["notHereText"], (page, texts["mailHere"]), isInFrame: true), "text/html; charset=utf-8", statusCode: StatusCodes.Status403Forbidden);
    }

    // Links have small letters only; who types one in capitals means the same.
    private static Task<(PublicationState? State, KnownState? Known)> StateAsync(string asked, HttpContext http, RenderedCache cache) =>
        asked.ToLowerInvariant() is { Length: <= MaxKey } key ? cache.StateAsync(key, pieces => Take(http, pieces)) : Task.FromResult<(PublicationState?, KnownState?)>((null, null));

    private static void Take(HttpContext http, int pieces = 1) => http.RequestServices.GetRequiredService<OutletBudget>().Take(http, pieces);

    private static Instant Now(HttpContext http) => http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant();

    private static bool IsOut(HttpContext http, [NotNullWhen(true)] PublicationState? state) =>
        state is { IsGone: false, IsClosed: false } && !(state.From > Now(http)) && !(state.Until <= Now(http));

    private static async Task<IResult> GoneAsync(HttpContext http, PublicationState? state, OutletKind kind)
    {
        var (outlet, settings) = (http.RequestServices.GetRequiredService<OutletRenderer>(), http.RequestServices.GetRequiredService<ServerSettings>());
        http.Response.Headers.CacheControl = "no-store";
        http.Response.Headers["X-Robots-Tag"] = "noindex";
        var texts = OutletTexts.ForReader(http.Request);
        // What is still to come is not told of.
        var wasThere = state is not null && (state.IsGone || state.Until <= Now(http));
        var isClosed = !wasThere && state is { IsClosed: true } && !(state.From > Now(http));
        http.RequestServices.GetRequiredService<Telemetry>().Answered(kind, isClosed ? StatusCodes.Status403Forbidden : wasThere ? StatusCodes.Status410Gone : StatusCodes.Status404NotFound, wasReady: false);
        var (status, name) = isClosed ? (StatusCodes.Status403Forbidden, "members") : wasThere ? (StatusCodes.Status410Gone, "gone") : (StatusCodes.Status404NotFound, "unknown");
        var (title, text) = (texts[name + "Title"], texts[name + "Text"]);
        if (kind is not (OutletKind.Page or OutletKind.Embed or OutletKind.Event or OutletKind.Days or OutletKind.Wall or OutletKind.Term))
            return Results.Text($"{title}\n{text}\n", "text/plain; charset=utf-8", statusCode: status);
        var key = (http.Request.RouteValues["key"] as string)?.ToLowerInvariant();
        var html = await outlet.NoticeAsync(texts, title, text, isClosed ? ($"{settings.Address}/members/{key}", texts["membersOnward"]) : null);
        return Results.Text(html, "text/html; charset=utf-8", statusCode: status);
    }

    /// <summary>What a site needs to show a page's embed by its address alone (oEmbed 1.0).</summary>
    private static async Task<IResult> OEmbedAsync(string? url, string? format, int? maxwidth, int? maxheight, HttpContext http, RenderedCache cache, Projections projections, ServerSettings settings)
    {
        if (format is not (null or "" or "json"))
            return Problems.Of(StatusCodes.Status501NotImplemented, "format_unknown", "Only the format json is given.");
        var start = settings.Address + "/p/";
        if (url is null || !url.StartsWith(start, StringComparison.Ordinal))
            throw new NotFoundException("no_such_address", "There is no calendar at this address.");
        var key = url[start.Length..].Split('/', '?', '#')[0].ToLowerInvariant();
        var (state, _) = await StateAsync(key, http, cache);
        if (!IsOut(http, state))
            throw new NotFoundException("no_such_address", "There is no calendar at this address.");
        var (projection, school) = await projections.OfAsync(state);
        var (width, height) = (Math.Clamp(maxwidth ?? 640, 200, 2000), Math.Clamp(maxheight ?? 640, 200, 2000));
        var title = projection.Publication.Title;
        http.Response.Headers.AccessControlAllowOrigin = "*";
        return Results.Json(new OEmbed(
            "1.0", "rich", title, school.Name, settings.OutletUrl(key, ""), school.Name, 3600, width, height,
            $"<iframe src=\"{settings.OutletUrl(key, "/embed")}\" title=\"{System.Net.WebUtility.HtmlEncode(title)}\" width=\"{width}\" height=\"{height}\" style=\"border:0;display:block\" allow=\"clipboard-write\" loading=\"lazy\"></iframe>"));
    }

    private sealed record OEmbed(
        [property: JsonPropertyName("version")] string Version,
        [property: JsonPropertyName("type")] string Type,
        [property: JsonPropertyName("title")] string Title,
        [property: JsonPropertyName("author_name")] string AuthorName,
        [property: JsonPropertyName("author_url")] string AuthorUrl,
        [property: JsonPropertyName("provider_name")] string ProviderName,
        [property: JsonPropertyName("cache_age")] int CacheAge,
        [property: JsonPropertyName("width")] int Width,
        [property: JsonPropertyName("height")] int Height,
        [property: JsonPropertyName("html")] string Html);
}
