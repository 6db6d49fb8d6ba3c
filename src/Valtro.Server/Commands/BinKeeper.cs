using NodaTime;

namespace Valtro.Server.Commands;

/// <summary>Removes once a day what has been kept for its time: events in the bin, the log, proposals decided long ago, and contents that nobody has any more.</summary>
internal sealed class BinKeeper(Store.Connections db, Store.Proposals proposals, Store.Contents contents, Store.AuditLog audit, Store.RepeatedRequests repeated, IClock clock, ILogger<BinKeeper> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromHours(24));
        do
        {
            try
            {
                var removed = await Store.CommandWork.EmptyBinAsync(db, clock.GetCurrentInstant());
                await proposals.RemoveOldAsync(clock.GetCurrentInstant());
                await audit.RemoveOldAsync(clock.GetCurrentInstant());
                await repeated.RemoveOldAsync(clock.GetCurrentInstant());
                removed += await contents.RemoveLooseAsync(clock.GetCurrentInstant());
                if (removed > 0)
                    log.LogInformation("{Removed} events that had lain in the bin for their time, and files nobody has any more, are removed.", removed);
            }
            catch (Npgsql.NpgsqlException error)
            {
                log.LogWarning("The bin could not be looked through ({Message}); tomorrow again.", error.Message);
            }
        }
        while (await timer.WaitForNextTickAsync(stopping).AsTask().ContinueWith(t => t.IsCompletedSuccessfully && t.Result, TaskScheduler.Default));
    }
}
