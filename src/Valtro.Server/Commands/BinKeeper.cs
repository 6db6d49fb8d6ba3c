using NodaTime;
using Valtro.Core.Events;
using Valtro.Server.Jobs;
using Valtro.Server.Views;

namespace Valtro.Server.Commands;

/// <summary>Removes once a day what has been kept for its time: events in the bin, the log, proposals decided long ago, all but one state a day of old history, and contents that nobody has any more.</summary>
internal sealed class BinKeeper(
    Store.Connections db, Store.Schools schools, Store.Publications publications, Projections projections, Store.Proposals proposals, Store.Contents contents, Store.AuditLog audit, Store.RepeatedRequests repeated, Store.HistoryKeeping history, ServerSettings settings, IClock clock, ILogger<BinKeeper> log)
    : IJob
{
    public string Name => "bin";

    public TimeSpan Pause => TimeSpan.FromHours(24);

    public TimeSpan FirstPause => TimeSpan.FromSeconds(1);

    public async Task RunAsync(CancellationToken stopping)
    {
        var now = clock.GetCurrentInstant();
        var removed = 0;
        await Each.DoAsync<Func<Task>>(
            [
                async () => await Each.DoAsync(await schools.ListAsync(), async school =>
                {
                    // Their links go on saying that they are no longer planned: nothing is removed before that is known.
                    foreach (var id in await publications.LosingAsync(school.Id, now - Event.BinTime))
                        await publications.KeepGoneAsync(school.Id, id, (await projections.OfAsync(school.Id, id)).Projection.Binned);
                    removed += await Store.CommandWork.EmptyBinAsync(db, school.Id, now);
                }),
                () => proposals.RemoveOldAsync(now),
                () => audit.RemoveOldAsync(now),
                () => repeated.RemoveOldAsync(now),
                async () =>
                {
                    if (settings.HistoryDays > 0 && await history.ThinAsync(now - Duration.FromDays(settings.HistoryDays)) is var thinned and > 0)
                        log.LogInformation("{Thinned} entries of old history are gone: one state a day stays of each thing.", thinned);
                },
                async () => removed += await contents.RemoveLooseAsync(now),
            ],
            step => step());
        if (removed > 0)
            log.LogInformation("{Removed} events that had lain in the bin for their time, and files nobody has any more, are removed.", removed);
    }
}
