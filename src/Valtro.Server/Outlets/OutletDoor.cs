using Microsoft.AspNetCore.Http.Features;
using NodaTime;

namespace Valtro.Server.Outlets;

/// <summary>
/// Stands before everything else: an address whose answer is ready is answered at once. All others go the whole way and
/// become ready there.
/// </summary>
internal sealed class OutletDoor(RequestDelegate next, Shelf shelf, OutletAnswers answers, IClock clock)
{
    // That somebody was chosen to wait for the newest.
    private static readonly object Chosen = new();

    public Task InvokeAsync(HttpContext http)
    {
        var method = http.Request.Method;
        if (!HttpMethods.IsGet(method) && !HttpMethods.IsHead(method))
            return next(http);
        var address = AddressOf(http);
        if (!address.StartsWith("/p/", StringComparison.Ordinal) || shelf.At(address) is not { } kept)
            return next(http);
        var now = clock.GetCurrentInstant();
        var verdict = shelf.Judge(kept, now, out var rendered);
        if (verdict == Verdict.Ask || OutletFrames.IsElsewhere(http, rendered!))
            return next(http);
        if (verdict == Verdict.Before && (WantsNewest(http) || kept.IsFirst()))
        {
            http.Items[Chosen] = true;
            return next(http);
        }
        var body = answers.Write(http, kept, rendered!, now, verdict == Verdict.LastGood ? shelf.AsOf(kept) : null, wasReady: true);
        return body.IsEmpty ? Task.CompletedTask : Send(http, body);
    }

    /// <summary>
    /// Whether who asks waits for the newest (RFC 9111, 5.2.1): a browser whose page is loaded again, and the first who comes after a
    /// change.
    /// </summary>
    public static bool WantsNewest(HttpContext http) =>
        http.Items.ContainsKey(Chosen)
        || (http.Request.Headers.CacheControl is { Count: > 0 } asked && asked.ToString() is var text && (text.Contains("no-cache", StringComparison.OrdinalIgnoreCase) || text.Contains("max-age=0", StringComparison.OrdinalIgnoreCase)));

    /// <summary>The address as it was asked for, query and all.</summary>
    public static string AddressOf(HttpContext http)
    {
        var target = http.Features.Get<IHttpRequestFeature>()!.RawTarget;
        return target.Length > 0 ? target : http.Request.Path + http.Request.QueryString;
    }

    private static Task Send(HttpContext http, ReadOnlyMemory<byte> body)
    {
        // Whoever is gone takes nothing, and nothing waits for them: no sign of it is needed, which would be made for each.
        var sent = http.Response.BodyWriter.WriteAsync(body);
        return sent.IsCompletedSuccessfully ? Task.CompletedTask : sent.AsTask();
    }
}
