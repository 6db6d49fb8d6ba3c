using System.Diagnostics;
using NodaTime;
using Valtro.Server.Api;
using Valtro.Server.Live;
using Valtro.Server.Seeing;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>
/// Makes outlets: once for all who wait, and off the readers' path for those that are outdated, in order of how often they are asked
/// for. Before midnight it makes ahead what says something of the day; when there is nothing else to do it packs better what stays.
/// </summary>
internal sealed class Renewal : BackgroundService
{
    // As many as keep the processors busy while others wait for the database; who waits for longer waits in order.
    private const int AtOnce = 16;
    private const int PolishedAtOnce = 20;
    // Whoever waits for what is made gets the processor: between two of those who ask it only seems to be idle.
    private const int MostMadeABeat = 10;
    private const int AheadSeconds = 2_700;
    private const int LeastAheadSeconds = 300;

    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(2);
    private static readonly Duration Settled = Duration.FromSeconds(10);

    private readonly Shelf shelf;
    private readonly Standings standings;
    private readonly KeptFiles files;
    private readonly Projections projections;
    private readonly OutletRenderer outlets;
    private readonly Telemetry telemetry;
    private readonly ChangeFeed feed;
    private readonly IClock clock;
    private readonly ILogger<Renewal> log;
    private readonly SemaphoreSlim room = new(AtOnce);
    private readonly PriorityQueue<Kept, int> queue = new();
    private readonly HashSet<Kept> queued = [];
    private readonly SemaphoreSlim waiting = new(0);
    private long made;

    public Renewal(
        Shelf shelf, Standings standings, KeptFiles files, Projections projections, OutletRenderer outlets, Telemetry telemetry, ChangeFeed feed, IClock clock, ILogger<Renewal> log)
    {
        (this.shelf, this.standings, this.files, this.projections, this.outlets, this.telemetry) = (shelf, standings, files, projections, outlets, telemetry);
        (this.feed, this.clock, this.log) = (feed, clock, log);
        shelf.Outdated += Enqueue;
        standings.Asleep += Wake;
    }

    /// <summary>How often something was made.</summary>
    public long Made => Volatile.Read(ref made);

    /// <summary>Makes an answer, or joins who makes it: of the publication's state that is known now, or a younger one.</summary>
    /// <param name="kept">Where it is kept.</param>
    /// <param name="found">The state it was asked for in, in case there is none any more.</param>
    /// <param name="take">Counts that it is made; it may refuse.</param>
    public Task<Rendered> MakeAsync(Kept kept, PublicationState found, Action? take = null)
    {
        lock (kept)
        {
            var wanted = (kept.Standing.State ?? found).Revision;
            if (kept.Making is { IsCompleted: false } running && kept.MakingRevision >= wanted)
                return running;
            try
            {
                take?.Invoke();
            }
            catch
            {
                Forget(kept);
                throw;
            }
            kept.MakingRevision = wanted;
            return kept.Making = MakeNowAsync(kept, found);
        }
    }

    // What there is none of, or too much, can be asked for under any number of names: nothing stays of it.
    private static void Forget(Kept kept)
    {
        if (kept.Rendered is null)
            kept.Standing.Kept.TryRemove(KeyValuePair.Create(kept.Ask, kept));
    }

    public override void Dispose()
    {
        shelf.Outdated -= Enqueue;
        standings.Asleep -= Wake;
        room.Dispose();
        waiting.Dispose();
        base.Dispose();
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        await Task.Yield();
        var workers = Enumerable.Range(0, Math.Max(1, Environment.ProcessorCount / 2)).Select(_ => WorkAsync(stopping));
        await Task.WhenAll([.. workers, WarmAsync(stopping), KeepAsync(stopping)]);
    }

    private async Task<Rendered> MakeNowAsync(Kept kept, PublicationState found)
    {
        // Leaves the lock before any work is done.
        await Task.Yield();
        try
        {
            var rendered = await RenderAsync(kept, found);
            // The same bytes lie there already, and nothing less went out since: that is removed at once.
            shelf.Put(kept, rendered, isOnDisk: kept.IsOnDisk && kept.Rendered is { } before && rendered.Hash == before.Hash && ReferenceEquals(rendered.Kept, before.Kept));
            return rendered;
        }
        catch
        {
            Forget(kept);
            throw;
        }
    }

    private async Task<Rendered> RenderAsync(Kept kept, PublicationState found, Instant? at = null)
    {
        await room.WaitAsync();
        try
        {
            var (state, readAt) = (kept.Standing.State ?? found, Environment.TickCount64);
            var (projection, school) = await projections.OfAsync(state, at);
            using var activity = telemetry.Source.StartActivity("render " + kept.Ask.Kind);
            var begun = Stopwatch.GetTimestamp();
            var rendered = await kept.Ask.RenderAsync(new OutletWork(outlets, projection, SchoolDay.At(school, at ?? clock.GetCurrentInstant()), kept.Standing.Key, kept.Rendered));
            (rendered.IsPrivate, rendered.PublicationId, rendered.RevisedAt, rendered.ReadAt) = (state.IsPersonal, state.Id, projection.Publication.ChangedAt, readAt);
            telemetry.Rendered(kept.Ask.Kind, Stopwatch.GetElapsedTime(begun));
            Interlocked.Increment(ref made);
            return rendered;
        }
        finally
        {
            room.Release();
        }
    }

    private void Enqueue(Kept kept)
    {
        lock (queue)
        {
            if (!queued.Add(kept))
                return;
            queue.Enqueue(kept, -Volatile.Read(ref kept.Asked));
        }
        waiting.Release();
    }

    private async Task EnqueueLaterAsync(Kept kept, CancellationToken stopping)
    {
        await Task.Delay(Kept.PauseMilliseconds, stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        if (!stopping.IsCancellationRequested)
            Enqueue(kept);
    }

    private async Task WorkAsync(CancellationToken stopping)
    {
        while (true)
        {
            await waiting.WaitAsync(stopping);
            Kept kept;
            lock (queue)
            {
                kept = queue.Dequeue();
                queued.Remove(kept);
            }
            // Made meanwhile for somebody who waited, or gone.
            if (kept.Standing.State is not { } state || !Shelf.IsOut(state, clock.GetCurrentInstant()) || kept.Rendered?.Revision >= state.Revision || !kept.IsShelved)
                continue;
            if (!kept.IsRested)
            {
                _ = EnqueueLaterAsync(kept, stopping);
                continue;
            }
            // Those who waited ask again, and are told what is wrong.
            await TryAsync(() => MakeAsync(kept, state));
        }
    }

    // What lies on disk is there at once; what of it still holds is told by one question a school.
    private async Task WarmAsync(CancellationToken stopping)
    {
        await foreach (var file in files.ReadAllAsync())
        {
            if (stopping.IsCancellationRequested || !shelf.HasRoom)
                break;
            Take(file);
        }
        foreach (var school in standings.All.Where(s => s.Doubt != Doubt.None && s.State is not null).ToLookup(s => s.State!.SchoolId))
            await TryAsync(() => standings.LookAsync(school.Key, [.. school]));
    }

    private void Take(KeptFile file) => shelf.Take(standings.Remember(file.Key, file.State), file);

    // What lies on disk alone is made anew, too, so that it says what was last out.
    private void Wake(IReadOnlySet<Guid> publications) => _ = Task.Run(() => TryAsync(async () =>
    {
        foreach (var id in publications)
        {
            await foreach (var file in files.ReadOfAsync(id))
                Take(file);
        }
        foreach (var school in standings.All.Where(s => s.Doubt != Doubt.None && s.State is { } state && publications.Contains(state.Id)).ToLookup(s => s.State!.SchoolId))
            await standings.LookAsync(school.Key, [.. school]);
    }));

    private async Task KeepAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(Beat);
        var madeBefore = Made;
        while (await timer.WaitForNextTickAsync(stopping))
        {
            files.NoteHeard(feed.LastHeard);
            var now = clock.GetCurrentInstant();
            var (polished, isQuiet) = (0, Made - madeBefore <= MostMadeABeat);
            madeBefore = Made;
            foreach (var kept in shelf.All)
            {
                if (kept.Rendered is not { } rendered || kept.Standing.State is not { } state)
                    continue;
                if (IsAheadDue(kept, rendered, now))
                    await TryAsync(async () => kept.Ahead = await RenderAsync(kept, state, rendered.FreshUntil));
                else if (isQuiet && polished < PolishedAtOnce && IsIdle && Volatile.Read(ref kept.Asked) > 0 && Environment.TickCount64 - kept.MadeAt > Settled.TotalMilliseconds && rendered.Polish() is var spared and > 0)
                {
                    polished++;
                    shelf.Spare(spared);
                }
            }
        }
    }

    private bool IsIdle => queue.Count == 0 && room.CurrentCount == AtOnce;

    // Spread over most of an hour, each publication at its own minute.
    private static bool IsAheadDue(Kept kept, Rendered rendered, Instant now)
    {
        if (!kept.Ask.IsPlain || rendered.FreshUntil is not { } until || now >= until || kept.Ahead?.Revision >= kept.Standing.State?.Revision)
            return false;
        var slot = LeastAheadSeconds + (int)((uint)kept.Standing.Key.GetHashCode(StringComparison.Ordinal) % (AheadSeconds - LeastAheadSeconds));
        return now >= until - Duration.FromSeconds(slot);
    }

    private async Task TryAsync(Func<Task> work)
    {
        try
        {
            await work();
        }
        catch (Exception error)
        {
            // A picture or file that was taken out is told to who asks for it.
            if (!DatabaseAwayException.Is(error) && error is not NotFoundException)
                log.LogError(error, "An outlet could not be made in the background; it is when it is asked for.");
        }
    }
}
