using System.Collections.Concurrent;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Valtro.Server.Live;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>What is known of a publication by one of its links, and whether that still holds.</summary>
/// <param name="State">What is known.</param>
/// <param name="Mark">Its school's mark.</param>
internal sealed record KnownState(PublicationState State, ChangeFeed.SchoolMark Mark);

/// <summary>An address with its answer: no query and no rendering is needed for it while it holds.</summary>
/// <param name="Known">The state it was made from.</param>
/// <param name="Rendered">The answer.</param>
/// <param name="Outlet">Which outlet it is.</param>
internal sealed record ReadyAnswer(KnownState Known, Rendered Rendered, OutletKind Outlet);

/// <summary>
/// Rendered outlets by revision, bounded by size; the same one is never rendered twice at a time. Beside them the states of
/// publications and the answers by address, which are believed only while the server surely hears of every change.
/// </summary>
internal sealed class RenderedCache : IDisposable
{
    private const int MaxReady = 50_000;
    private const int MaxAddress = 200;
    private const int MaxUnknown = 10_000;

    private readonly MemoryCache cache;
    private readonly Dictionary<object, Task<Rendered>> rendering = [];
    private readonly ConcurrentDictionary<string, KnownState> states = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, ReadyAnswer> ready = new(StringComparer.Ordinal);
    // Links nothing is at, with how many changes had been heard of: after the next one something may be there.
    private readonly ConcurrentDictionary<string, long> unknown = new(StringComparer.Ordinal);
    private readonly Lock gate = new();
    private readonly ChangeFeed feed;
    private readonly Store.Publications publications;
    private readonly IClock clock;

    public RenderedCache(ServerSettings settings, ChangeFeed feed, Store.Publications publications, IClock clock)
    {
        (this.feed, this.publications, this.clock) = (feed, publications, clock);
        cache = new MemoryCache(new MemoryCacheOptions { SizeLimit = settings.CacheBytes });
    }

    /// <summary>How often something was rendered.</summary>
    public long Renderings { get; private set; }

    /// <summary>The answer to an address, when it is ready and surely right.</summary>
    public ReadyAnswer? Ready(string address)
    {
        if (!ready.TryGetValue(address, out var answer))
            return null;
        if (answer.Known.Mark.IsOld || !answer.Rendered.IsKept || Holds(answer) is false)
        {
            ready.TryRemove(KeyValuePair.Create(address, answer));
            return null;
        }
        return feed.IsHearing ? answer : null;
    }

    /// <summary>Keeps the answer to an address ready.</summary>
    public void MakeReady(string address, KnownState known, Rendered rendered, OutletKind outlet)
    {
        if (!rendered.IsKept || known.Mark.IsOld || address.Length > MaxAddress)
            return;
        // Addresses can be made up without end (windows of days); what is asked often comes back at once.
        if (ready.Count >= MaxReady)
            ready.Clear();
        ready[address] = new ReadyAnswer(known, rendered, outlet);
    }

    /// <summary>What there is at a link; null for nothing. Asked of the database only when it may have changed.</summary>
    /// <param name="key">The link.</param>
    /// <param name="take">Counts that the database is asked for nothing, or asks before whether it may be; it may refuse.</param>
    public async Task<(PublicationState? State, KnownState? Known)> StateAsync(string key, Action<int> take)
    {
        if (states.TryGetValue(key, out var known) && !known.Mark.IsOld && feed.IsHearing)
            return (known.State, known);
        var before = feed.Count;
        if (unknown.TryGetValue(key, out var count) && count == before && feed.IsHearing)
            return (null, null);
        if (known is null)
            take(0);
        var state = await publications.StateAsync(key);
        if (state is null)
        {
            states.TryRemove(key, out _);
            if (unknown.Count >= MaxUnknown)
                unknown.Clear();
            unknown[key] = before;
            take(1);
            return (null, null);
        }
        known = feed.MarkOf(state.SchoolId, before) is { } mark ? new KnownState(state, mark) : null;
        if (known is not null)
        {
            if (states.Count >= MaxReady)
                states.Clear();
            states[key] = known;
        }
        return (state, known);
    }

    /// <summary>What is rendered for a key that holds the revision: from memory, or made now, once for all who wait.</summary>
    /// <param name="key">What.</param>
    /// <param name="take">Counts that it is made; it may refuse.</param>
    /// <param name="render">Makes it.</param>
    public Task<Rendered> GetAsync(object key, Action take, Func<Task<Rendered>> render)
    {
        lock (gate)
        {
            if (cache.TryGetValue(key, out Rendered? known) && !(known!.ValidUntil <= clock.GetCurrentInstant()))
                return Task.FromResult(known);
            if (!rendering.TryGetValue(key, out var running))
            {
                take();
                rendering[key] = running = RenderAsync(key, render);
            }
            return running;
        }
    }

    public void Dispose() => cache.Dispose();

    private bool Holds(ReadyAnswer answer)
    {
        var now = clock.GetCurrentInstant();
        var state = answer.Known.State;
        return !(answer.Rendered.ValidUntil <= now) && !(state.Until <= now) && !(state.From > now);
    }

    private async Task<Rendered> RenderAsync(object key, Func<Task<Rendered>> render)
    {
        // Leaves the lock before any work is done.
        await Task.Yield();
        try
        {
            var rendered = await render();
            var options = new MemoryCacheEntryOptions { Size = rendered.Size };
            options.RegisterPostEvictionCallback(static (_, value, _, _) => ((Rendered)value!).IsKept = false);
            cache.Set(key, rendered, options);
            // What finds no room is told so by its callback, which may come later than this.
            if (!cache.TryGetValue(key, out _))
                rendered.IsKept = false;
            return rendered;
        }
        finally
        {
            lock (gate)
            {
                Renderings++;
                rendering.Remove(key);
            }
        }
    }
}
