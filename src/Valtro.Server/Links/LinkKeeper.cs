using NodaTime;
using Valtro.Server.Jobs;
using Valtro.Store;

namespace Valtro.Server.Links;

/// <summary>Tries the links of events still to come, each once a day, a few of each school at a time.</summary>
internal sealed class LinkKeeper(LinkChecker checker, LinkChecks checks, IClock clock) : IJob
{
    private const int AtOnce = 25;
    private static readonly Duration Fresh = Duration.FromHours(24);

    public string Name => "links";

    public TimeSpan Pause => TimeSpan.FromMinutes(10);

    public TimeSpan FirstPause => TimeSpan.FromSeconds(20);

    public async Task RunAsync(CancellationToken stopping)
    {
        var now = clock.GetCurrentInstant();
        await Each.DoAsync(await checks.DueAsync(now, now - Fresh, AtOnce), async due =>
            await checks.SaveAsync(due.SchoolId, [await checker.CheckAsync(due.Address, stopping)]));
    }
}
