using NodaTime;
using Valtro.Store;

namespace Valtro.Server.Links;

/// <summary>Tries the links of events still to come, each once a day, a few at a time.</summary>
internal sealed class LinkKeeper(LinkChecker checker, LinkChecks checks, IClock clock, ILogger<LinkKeeper> log) : BackgroundService
{
    private const int AtOnce = 25;
    private static readonly Duration Fresh = Duration.FromHours(24);

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMinutes(10));
        try
        {
            await Task.Delay(TimeSpan.FromSeconds(20), stopping);
            do
                await TryDueAsync(stopping);
            while (await timer.WaitForNextTickAsync(stopping));
        }
        catch (OperationCanceledException)
        {
            // The server stops.
        }
    }

    private async Task TryDueAsync(CancellationToken stopping)
    {
        try
        {
            var now = clock.GetCurrentInstant();
            foreach (var (schoolId, address) in await checks.DueAsync(now, now - Fresh, AtOnce))
                await checks.SaveAsync(schoolId, [await checker.CheckAsync(address, stopping)]);
        }
        catch (Npgsql.NpgsqlException error)
        {
            log.LogWarning("The links could not be looked through ({Message}); later again.", error.Message);
        }
    }
}
