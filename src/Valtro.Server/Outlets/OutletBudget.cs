using System.Threading.RateLimiting;
using Valtro.Server.Api;
using Valtro.Server.Audit;

namespace Valtro.Server.Outlets;

/// <summary>
/// How much work one address may make of outlets. What is kept ready has no limit, for a whole school may stand behind one
/// address; what has to be looked up or made anew for it has one: made-up windows of days, filters and links.
/// </summary>
internal sealed class OutletBudget(ServerSettings settings) : IDisposable
{
    private readonly PartitionedRateLimiter<string> limiter = PartitionedRateLimiter.Create<string, string>(address => RateLimitPartition.GetTokenBucketLimiter(address, _ => new TokenBucketRateLimiterOptions
    {
        TokenLimit = settings.RendersAMinute,
        TokensPerPeriod = Math.Max(1, settings.RendersAMinute / 60),
        ReplenishmentPeriod = TimeSpan.FromSeconds(1),
        AutoReplenishment = true,
    }));

    /// <summary>Counts pieces of work; none only asks whether there may be more.</summary>
    /// <exception cref="TooOftenException">The address made too much of it.</exception>
    public void Take(HttpContext http, int pieces = 1)
    {
        using var lease = limiter.AttemptAcquire(http.Network(), pieces);
        if (lease.IsAcquired)
            return;
        var wait = lease.TryGetMetadata(MetadataName.RetryAfter, out var after) ? after : TimeSpan.FromSeconds(1);
        throw new TooOftenException(NodaTime.Duration.FromTimeSpan(wait));
    }

    public void Dispose() => limiter.Dispose();
}
