using Microsoft.AspNetCore.Http.Features;
using Valtro.Server.Seeing;

namespace Valtro.Server.Outlets;

/// <summary>
/// Stands before everything else: an address whose answer is ready is answered at once. All others go the whole way and
/// become ready there.
/// </summary>
internal sealed class OutletDoor(RequestDelegate next, RenderedCache cache, ReadingLog log, Telemetry telemetry)
{
    public Task InvokeAsync(HttpContext http)
    {
        var method = http.Request.Method;
        if (!HttpMethods.IsGet(method) && !HttpMethods.IsHead(method))
            return next(http);
        var address = AddressOf(http);
        if (!address.StartsWith("/p/", StringComparison.Ordinal) || cache.Ready(address) is not { } answer || OutletFrames.IsElsewhere(http, answer.Rendered))
            return next(http);
        var isUnchanged = OutletAnswers.Write(http, answer.Rendered, out var body);
        if (answer.Rendered.Status == StatusCodes.Status200OK)
            log.Note(http, answer.Known.State, answer.Outlet, isUnchanged);
        telemetry.Answered(answer.Outlet, http.Response.StatusCode, wasReady: true);
        return body.IsEmpty ? Task.CompletedTask : Send(http, body);
    }

    /// <summary>The address as it was asked for, query and all.</summary>
    public static string AddressOf(HttpContext http)
    {
        var target = http.Features.Get<IHttpRequestFeature>()!.RawTarget;
        return target.Length > 0 ? target : http.Request.Path + http.Request.QueryString;
    }

    private static Task Send(HttpContext http, ReadOnlyMemory<byte> body)
    {
        var sent = http.Response.BodyWriter.WriteAsync(body, http.RequestAborted);
        return sent.IsCompletedSuccessfully ? Task.CompletedTask : sent.AsTask();
    }
}
