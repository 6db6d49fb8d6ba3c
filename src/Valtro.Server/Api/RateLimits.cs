using System.Globalization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.HttpOverrides;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;

namespace Valtro.Server.Api;

/// <summary>
/// How often the API may be asked: by a person who is signed in, and by an address where nobody is. Outlets have no limit:
/// a whole school may stand behind one address.
/// </summary>
internal static class RateLimits
{
    /// <summary>The policy of what has the server ask an address outside: as often as one person needs, and no tool for others.</summary>
    public const string Outside = "outside";

    private const int OutsideAMinute = 30;

    public static void AddRateLimits(this IServiceCollection services, ServerSettings settings)
    {
        services.AddRateLimiter(limiter =>
        {
            limiter.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(http =>
            {
                if (!http.Request.Path.StartsWithSegments("/api"))
                    return RateLimitPartition.GetNoLimiter("");
                var isKnown = http.User.Identity is { IsAuthenticated: true };
                var perMinute = isKnown ? settings.RequestsAMinute : Math.Max(1, settings.RequestsAMinute / 4);
                return RateLimitPartition.GetTokenBucketLimiter(isKnown ? "p " + http.User.PersonId() : "a " + http.Network(), _ => new TokenBucketRateLimiterOptions
                {
                    // Half a minute's worth at once: a screen that opens asks for much.
                    TokenLimit = Math.Max(1, perMinute / 2),
                    TokensPerPeriod = Math.Max(1, perMinute / 60),
                    ReplenishmentPeriod = TimeSpan.FromSeconds(1),
                    AutoReplenishment = true,
                });
            });
            limiter.AddPolicy(Outside, http => RateLimitPartition.GetTokenBucketLimiter("o " + (http.User.Identity is { IsAuthenticated: true } ? http.User.PersonId().ToString() : http.Network()), _ => new TokenBucketRateLimiterOptions
            {
                TokenLimit = OutsideAMinute,
                TokensPerPeriod = 1,
                ReplenishmentPeriod = TimeSpan.FromSeconds(60.0 / OutsideAMinute),
                AutoReplenishment = true,
            }));
            limiter.OnRejected = async (rejected, _) =>
            {
                var wait = rejected.Lease.TryGetMetadata(MetadataName.RetryAfter, out var after) ? after : TimeSpan.FromSeconds(1);
                var seconds = Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds));
                rejected.HttpContext.Response.Headers.RetryAfter = seconds.ToString(CultureInfo.InvariantCulture);
                await Problems.Of(429, "too_often", $"Too many requests. Wait {seconds} seconds and try again.").ExecuteAsync(rejected.HttpContext);
            };
        });
        // What a proxy tells of the address behind it is believed from proxies that are set, and from nobody else.
        services.Configure<ForwardedHeadersOptions>(forwarded =>
        {
            forwarded.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto;
            forwarded.KnownIPNetworks.Clear();
            forwarded.KnownProxies.Clear();
            foreach (var proxy in settings.Proxies)
                forwarded.KnownProxies.Add(proxy);
        });
    }
}
