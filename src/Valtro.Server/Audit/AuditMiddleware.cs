using NodaTime;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Audit;

/// <summary>An endpoint that writes nothing worth telling: it computes only, or keeps how somebody likes their screen.</summary>
internal sealed class NotLogged
{
    public static readonly NotLogged Mark = new();
}

/// <summary>Writes down every change that was made through the API: in one place, so that none is forgotten.</summary>
internal sealed class AuditMiddleware(RequestDelegate next, AuditLog audit, IClock clock, ILogger<AuditMiddleware> log)
{
    public async Task InvokeAsync(HttpContext http)
    {
        await next(http);
        if (HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method) || http.Response.StatusCode >= 400 || http.User.Identity is not { IsAuthenticated: true })
            return;
        if (http.GetEndpoint() is not RouteEndpoint endpoint || endpoint.Metadata.GetMetadata<NotLogged>() is not null)
            return;
        try
        {
            Guid? about = http.Request.RouteValues.Values.OfType<string>().Select(v => Guid.TryParse(v, out var id) ? id : (Guid?)null).FirstOrDefault(id => id is not null);
            await audit.AddAsync(http.User.SchoolId(), http.User.PersonId(), ActionOf(http.Request.Method, endpoint.RoutePattern.RawText!), about, http.Address(), clock.GetCurrentInstant());
        }
        catch (Npgsql.NpgsqlException error)
        {
            log.LogError(error, "A change was made that the log could not take");
        }
    }

    /// <summary>The name of an action: the method and the words of the path.</summary>
    internal static string ActionOf(string method, string pattern) =>
        string.Join(' ', pattern.Split('/').Where(part => part.Length > 0 && part != "api" && !part.StartsWith('{')).Prepend(method.ToLowerInvariant()));
}

internal static class AuditExtensions
{
    public static TBuilder IsNotLogged<TBuilder>(this TBuilder builder)
        where TBuilder : IEndpointConventionBuilder => builder.WithMetadata(NotLogged.Mark);

    /// <summary>The network address a request came from; behind a proxy that is set, the one it tells of.</summary>
    public static string Address(this HttpContext http) => http.Connection.RemoteIpAddress is { } address ? (address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address).ToString() : "";
}
