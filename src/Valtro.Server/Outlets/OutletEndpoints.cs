using System.Diagnostics.CodeAnalysis;
using System.Text.Json.Serialization;
using NodaTime;
using Valtro.Server.Api;
using Valtro.Server.Seeing;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>The public side. Its own door: no session is read, no cookie set, and nothing here can write.</summary>
internal static class OutletEndpoints
{
    private const int MaxKey = 60;

    private static readonly string[] Reading = ["GET", "HEAD"];

    public static void AddOutlets(this IServiceCollection services)
    {
        services.AddSingleton<Standings>();
        services.AddSingleton<KeptFiles>();
        services.AddSingleton<LargeFiles>();
        services.AddSingleton<Shelf>();
        services.AddSingleton<Renewal>();
        services.AddSingleton<OutletDesk>();
        services.AddSingleton<EveryAddress>();
        services.AddSingleton<OutletAnswers>();
        services.AddSingleton<OutletBudget>();
        services.AddSingleton<OutletAssets>();
        services.AddSingleton<OutletRenderer>();
        services.AddSingleton<ReadingLog>();
        services.AddSingleton<SearchFiles>();
    }

    public static void MapOutlets(this WebApplication app)
    {
        var outlets = app.MapGroup("/p").ExcludeFromDescription();
        outlets.MapMethods("", Reading, (Delegate)Missing);
        outlets.MapMethods("/{key}/{**rest}", Reading, (string key, string? rest, HttpContext http) =>
            OutletAsk.Read((rest ?? "").TrimEnd('/'), http.Request.Query) is { } ask ? AnswerAsync(key, http, ask) : Missing(http));
        // Nothing here can be written to (RFC 9110, 15.5.6).
        outlets.MapMethods("/{key}/{**rest}", ["POST", "PUT", "PATCH", "DELETE", "OPTIONS"], (HttpContext http) =>
        {
            http.Response.Headers.Allow = "GET, HEAD";
            return Results.StatusCode(StatusCodes.Status405MethodNotAllowed);
        });
        SearchFiles.Map(app);
        app.MapMethods("/oembed", Reading, OEmbedAsync).ExcludeFromDescription();
    }

    /// <summary>Whether a person reads what is wrong with an address of ours: words on a page, unless data was asked for.</summary>
    public static bool IsForPeople(HttpContext http)
    {
        if (!http.Request.Path.StartsWithSegments("/p", StringComparison.OrdinalIgnoreCase, out var rest))
            return false;
        var accepted = http.Request.Headers.Accept.ToString();
        return accepted.Contains("text/html", StringComparison.OrdinalIgnoreCase)
            || (!accepted.Contains("json", StringComparison.OrdinalIgnoreCase) && !Path.HasExtension(rest.Value));
    }

    private static Instant NowOf(HttpContext http) => http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant();

    private static Task<IResult> Missing(HttpContext http) => GoneAsync(http, null, OutletKind.Page);

    private static async Task<IResult> AnswerAsync(string asked, HttpContext http, OutletAsk ask)
    {
        try
        {
            var answers = http.RequestServices.GetRequiredService<OutletAnswers>();
            // Links have small letters only; who types one in capitals means the same.
            var key = asked.ToLowerInvariant();
            var answer = key.Length > MaxKey
                ? new OutletAnswer(null, null, null)
                : await http.RequestServices.GetRequiredService<OutletDesk>().GetAsync(key, ask, OutletDoor.WantsNewest(http), pieces => Take(http, pieces));
            if (answer is not { Kept: { } kept, Rendered: { } rendered })
                return await GoneAsync(http, answer.State, ask.Kind);
            if (OutletFrames.IsElsewhere(http, rendered))
                return await NotHereAsync(http, http.RequestServices.GetRequiredService<OutletRenderer>(), key);
            if (rendered.IsLarge)
                return await LargeAsync(http, answers, kept, rendered, answer.AsOf);
            http.RequestServices.GetRequiredService<Shelf>().MakeReady(OutletDoor.AddressOf(http), kept);
            var body = answers.Write(http, kept, rendered, NowOf(http), answer.AsOf, wasReady: false);
            if (!body.IsEmpty)
                await http.Response.Body.WriteAsync(body, http.RequestAborted);
            return Results.Empty;
        }
        catch (TooOftenException)
        {
            http.RequestServices.GetRequiredService<Telemetry>().Answered(ask.Kind, StatusCodes.Status429TooManyRequests, wasReady: false);
            throw;
        }
    }

    private static async Task<IResult> LargeAsync(HttpContext http, OutletAnswers answers, Kept kept, Rendered rendered, Instant? asOf)
    {
        await using var parts = http.RequestServices.GetRequiredService<LargeFiles>().ReadAsync(kept, rendered).GetAsyncEnumerator();
        // Whether its bytes can be read is known before anything is said of them.
        var hasBody = HttpMethods.IsGet(http.Request.Method) && !rendered.IsKnown(http.Request.Headers.IfNoneMatch, http.Request.Headers.IfModifiedSince) && await parts.MoveNextAsync();
        answers.Write(http, kept, rendered, NowOf(http), asOf, wasReady: false);
        for (; hasBody; hasBody = await parts.MoveNextAsync())
            await http.Response.Body.WriteAsync(parts.Current, http.RequestAborted);
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

    private static async Task<PublicationState?> StateAsync(string asked, HttpContext http, OutletDesk desk) =>
        asked.ToLowerInvariant() is { Length: <= MaxKey } key ? await desk.StateAsync(key, pieces => Take(http, pieces)) : null;

    private static void Take(HttpContext http, int pieces = 1) => http.RequestServices.GetRequiredService<OutletBudget>().Take(http, pieces);

    private static Instant Now(HttpContext http) => http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant();

    private static bool IsOut(HttpContext http, [NotNullWhen(true)] PublicationState? state) =>
        state is not null && Shelf.IsOut(state, Now(http));

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
    private static async Task<IResult> OEmbedAsync(string? url, string? format, int? maxwidth, int? maxheight, HttpContext http, OutletDesk desk, Projections projections, ServerSettings settings)
    {
        if (format is not (null or "" or "json"))
            return Problems.Of(StatusCodes.Status501NotImplemented, "format_unknown", "Only the format json is given.");
        var start = settings.Address + "/p/";
        if (url is null || !url.StartsWith(start, StringComparison.Ordinal))
            throw new NotFoundException("no_such_address", "There is no calendar at this address.");
        var key = url[start.Length..].Split('/', '?', '#')[0].ToLowerInvariant();
        var state = await StateAsync(key, http, desk);
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
