using System.Net;
using System.Net.Sockets;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Audit;

/// <summary>An endpoint that writes nothing worth telling: it computes only, or keeps how somebody likes their screen.</summary>
internal sealed class NotLogged
{
    public static readonly NotLogged Mark = new();
}

/// <summary>
/// Says what the log has of a request that changes something. It is written in the transaction of the change
/// (<see cref="LogEntry"/>), so that neither is there without the other; in one place, so that none is forgotten.
/// </summary>
internal sealed class AuditMiddleware(RequestDelegate next)
{
    /// <summary>The header that names the step a request made, for taking it back.</summary>
    public const string StepHeader = "Valtro-Step";

    /// <summary>
    /// The header that names the change a request made and the events it was about, where it changed nothing else: by it who
    /// made it asks for these alone, as everybody does who hears of it.
    /// </summary>
    public const string ChangedHeader = "Valtro-Changed";

    public Task InvokeAsync(HttpContext http, CurrentPerson current)
    {
        var isRead = HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method) || http.GetEndpoint()?.Metadata.GetMetadata<NotLogged>() is not null;
        // A question is given up when nobody waits for its answer; what somebody did is done, also when they have gone to
        // another page meanwhile.
        current.Aborted = isRead ? http.RequestAborted : CancellationToken.None;
        if (isRead || http.User.Identity is not { IsAuthenticated: true } || http.GetEndpoint() is not RouteEndpoint endpoint)
            return next(http);
        Guid? about = http.Request.RouteValues.Values.OfType<string>().Select(v => Guid.TryParse(v, out var id) ? id : (Guid?)null).FirstOrDefault(id => id is not null);
        var entry = new LogEntry(ActionOf(http.Request.Method, endpoint.RoutePattern.RawText!), about, http.Address());
        current.Log = entry;
        http.Response.OnStarting(() =>
        {
            if (entry.StepId is { } step)
                http.Response.Headers[StepHeader] = step.ToString();
            if (entry.OnlyEvents is { } only)
                http.Response.Headers[ChangedHeader] = string.Join(' ', only.EventIds.Prepend(only.ChangeId));
            return Task.CompletedTask;
        });
        return next(http);
    }

    /// <summary>The name of an action: the method and the words of the path.</summary>
    internal static string ActionOf(string method, string pattern) =>
        string.Join(' ', pattern.Split('/').Where(part => part.Length > 0 && part != "api" && !part.StartsWith('{')).Prepend(method.ToLowerInvariant()));
}

internal static class AuditExtensions
{
    public static TBuilder IsNotLogged<TBuilder>(this TBuilder builder)
        where TBuilder : IEndpointConventionBuilder => builder.WithMetadata(NotLogged.Mark);

    /// <summary>
    /// What one who tries things cannot change at will: the address, or the first half of an IPv6 address, of which one
    /// household has a whole network (RFC 6177).
    /// </summary>
    public static string Network(this HttpContext http)
    {
        if (http.Connection.RemoteIpAddress is not { AddressFamily: AddressFamily.InterNetworkV6, IsIPv4MappedToIPv6: false } address)
            return http.Address();
        var bytes = address.GetAddressBytes();
        Array.Clear(bytes, 8, 8);
        return new IPAddress(bytes) + "/64";
    }

    /// <summary>The network address a request came from; behind a proxy that is set, the one it tells of.</summary>
    public static string Address(this HttpContext http) => http.Connection.RemoteIpAddress is { } address ? (address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address).ToString() : "";
}
