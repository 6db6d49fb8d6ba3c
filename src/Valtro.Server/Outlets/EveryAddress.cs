using System.Collections.Concurrent;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Api;
using Valtro.Server.Live;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>
/// Makes what is published and nobody has asked for yet, so that it is there when there is no database: the page, the embed and the
/// feed of each publication, with the pictures and files in them. Slowly, one after the other, beside everything else.
/// </summary>
internal sealed class EveryAddress : BackgroundService
{
    private static readonly TimeSpan Settle = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan Rest = TimeSpan.FromMilliseconds(50);
    private static readonly OutletAsk[] Main = [.. new[] { "", "embed", "feed.ics" }.Select(address => OutletAsk.Read(address)!)];

    private readonly Schools schools;
    private readonly Store.Publications publications;
    private readonly OutletDesk desk;
    private readonly KeptFiles files;
    private readonly Projections projections;
    private readonly ChangeFeed feed;
    private readonly DatabaseGate gate;
    private readonly IClock clock;
    private readonly ILogger<EveryAddress> log;
    private readonly ConcurrentDictionary<(Guid School, Guid Publication), bool> changed = [];

    public EveryAddress(Schools schools, Store.Publications publications, OutletDesk desk, KeptFiles files, Projections projections, ChangeFeed feed, DatabaseGate gate, IClock clock, ILogger<EveryAddress> log)
    {
        (this.schools, this.publications, this.desk, this.files, this.projections) = (schools, publications, desk, files, projections);
        (this.feed, this.gate, this.clock, this.log) = (feed, gate, clock, log);
        if (files.IsOn)
            feed.Outgoing += Hear;
    }

    /// <summary>Makes what is not on disk of a school's publications.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="only">Of which publications; null for all.</param>
    /// <param name="stopping">Ends it.</param>
    public async Task SweepAsync(Guid schoolId, Guid[]? only, CancellationToken stopping)
    {
        var keys = await publications.KeysOutAsync(schoolId, only);
        foreach (var some in keys.Chunk(200))
        {
            foreach (var (key, state) in await publications.StatesAsync(some, schoolId))
            {
                if (!Shelf.IsOut(state, clock.GetCurrentInstant()))
                    continue;
                foreach (var ask in Main)
                    await MakeAsync(key, state, ask, stopping);
                var (projection, _) = await projections.OfAsync(state);
                await Task.Delay(Rest, stopping);
                foreach (var ask in BroughtIn(projection))
                    await MakeAsync(key, state, ask, stopping);
            }
        }
    }

    public override void Dispose()
    {
        feed.Outgoing -= Hear;
        base.Dispose();
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        if (!files.IsOn)
            return;
        await gate.Opened.WaitAsync(stopping);
        // What is asked for first is made first; this has time.
        await Task.Delay(Settle, stopping);
        await TryAsync(async () =>
        {
            foreach (var school in await schools.ListAsync())
                await TryAsync(() => SweepAsync(school.Id, null, stopping));
        });
        while (true)
        {
            await Task.Delay(Settle, stopping);
            foreach (var of in changed.Keys.ToLookup(c => c.School, c => c.Publication))
            {
                foreach (var id in of)
                    changed.TryRemove((of.Key, id), out _);
                await TryAsync(() => SweepAsync(of.Key, [.. of], stopping));
            }
        }
    }

    private static IEnumerable<OutletAsk> BroughtIn(Projection projection)
    {
        var pictures = projection.Events.Select(e => e.Facts.Picture?.Id).Append(projection.Publication.Look.Picture?.Id).OfType<Guid>().Distinct();
        var brought = projection.Events.SelectMany(e => e.Files).Select(f => f.Id).Distinct();
        return [.. pictures.SelectMany(id => new[] { OutletAsk.Brought(id, "small"), OutletAsk.Brought(id, "large") }), .. brought.Select(id => OutletAsk.Brought(id))];
    }

    private async Task MakeAsync(string key, PublicationState state, OutletAsk ask, CancellationToken stopping)
    {
        if (files.Has(key, state, ask))
            return;
        await TryAsync(() => desk.GetAsync(key, ask, isNewest: false, _ => { }));
        await Task.Delay(Rest, stopping);
    }

    private void Hear(PublicationsNotice notice)
    {
        foreach (var id in notice.Altered.Concat(notice.Narrowed))
            changed[(notice.SchoolId, id)] = true;
    }

    private async Task TryAsync(Func<Task> work)
    {
        try
        {
            await work();
        }
        catch (Exception error) when (error is not OperationCanceledException)
        {
            // Taken out meanwhile, or the database is away: it is made when it is asked for.
            if (!DatabaseAwayException.Is(error) && error is not NotFoundException)
                log.LogError(error, "What is published could not be made ahead; it is when it is asked for.");
        }
    }
}
