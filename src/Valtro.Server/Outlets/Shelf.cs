using System.Collections.Concurrent;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Valtro.Server.Live;

namespace Valtro.Server.Outlets;

/// <summary>
/// The answers of outlets that are kept in memory, bounded by size: what was not asked for since room was last sought goes first
/// (the clock of Corbató, 1968). It never is emptied as a whole. What may not be shown any more goes at once.
/// </summary>
internal sealed class Shelf : IDisposable
{
    private const int MaxAddress = 200;

    private readonly ConcurrentDictionary<string, Kept> byAddress = new(StringComparer.Ordinal);
    private readonly ConcurrentQueue<Kept> hand = new();
    private readonly MemoryCache codings;
    private readonly Standings standings;
    private readonly KeptFiles files;
    private readonly ChangeFeed feed;
    private readonly IClock clock;
    private readonly Duration stale;
    private readonly long limit;
    private long size;

    public Shelf(ServerSettings settings, Standings standings, KeptFiles files, ChangeFeed feed, IClock clock)
    {
        (this.standings, this.files, this.feed, this.clock) = (standings, files, feed, clock);
        stale = Duration.FromHours(settings.StaleHours);
        // A quarter is for what is asked for in another coding than the one that is kept.
        limit = settings.CacheBytes / 4 * 3;
        codings = new MemoryCache(new MemoryCacheOptions { SizeLimit = settings.CacheBytes / 4 });
        standings.Narrowed += Hide;
        standings.Looked += Sort;
    }

    /// <summary>Keeps other codings of what is kept, while they are asked for.</summary>
    public IMemoryCache Codings => codings;

    /// <summary>Told of answers that are outdated, and shall be made anew.</summary>
    public event Action<Kept>? Outdated;

    /// <summary>Whether more can be kept without anything having to go.</summary>
    public bool HasRoom => Volatile.Read(ref size) < limit;

    /// <summary>The answer to an address as it was asked for, if one is kept.</summary>
    public Kept? At(string address) => byAddress.GetValueOrDefault(address);

    /// <summary>What may be done with a kept answer now, without asking anybody.</summary>
    public Verdict Judge(Kept kept, out Rendered? rendered, long? came = null) => Judge(kept, clock.GetCurrentInstant(), out rendered, came);

    /// <summary>The same at a moment.</summary>
    /// <param name="kept">Where it is kept.</param>
    /// <param name="now">The moment.</param>
    /// <param name="rendered">The answer.</param>
    /// <param name="came">When somebody came for whom it is enough if its link was looked up since; null for it having to be right now.</param>
    public Verdict Judge(Kept kept, Instant now, out Rendered? rendered, long? came = null)
    {
        var standing = kept.Standing;
        // Asked first: what is read after that is judged by a state that was believed, or a younger one, and not by one that was in
        // doubt until a look that is over by now.
        var isSure = standings.IsSure(standing, came);
        rendered = kept.Rendered;
        if (rendered is null || standing.State is not { } state || standing.IsOfOther(rendered, state) || !IsOut(state, now))
            return Verdict.Ask;
        if (isSure)
        {
            if (rendered.Revision >= state.Revision && rendered.IsFresh(now))
                return Verdict.Right;
            if (kept.TakeAhead(now) is { } ahead)
            {
                Put(kept, rendered = ahead);
                return Verdict.Right;
            }
            return kept.IsBefore(now, rendered) ? Verdict.Before : Verdict.Ask;
        }
        if (feed.IsHearing && standing.Doubt == Doubt.Altered && kept.IsBefore(now, rendered))
            return Verdict.Before;
        return standings.IsAway && MayStay(kept, rendered, now) ? Verdict.LastGood : Verdict.Ask;
    }

    /// <summary>
    /// Whether an answer may be shown while the database cannot be asked: nothing was heard by which it might have to go, and it
    /// is not too long ago that it was surely right.
    /// </summary>
    public bool MayStay(Kept kept, Rendered rendered, Instant now) => kept.Standing.Doubt != Doubt.Narrowed && MayGo(kept, rendered, now) && now - AsOf(kept) < stale;

    /// <summary>Whether nothing is known by which an answer may not be shown any more, doubts apart.</summary>
    public bool MayGo(Kept kept, Rendered rendered) => MayGo(kept, rendered, clock.GetCurrentInstant());

    private static bool MayGo(Kept kept, Rendered rendered, Instant now) =>
        kept.Standing.State is { } state && !kept.Standing.IsOfOther(rendered, state) && IsOut(state, now) && rendered.Revision >= state.NarrowedRevision;

    /// <summary>When an answer was last surely right: when changes were last heard of, or when it became outdated.</summary>
    public Instant AsOf(Kept kept) => files.AsOf(feed.LastHeard) is var heard && kept.OutdatedSince < heard ? kept.OutdatedSince.Value : heard;

    /// <summary>Whether a publication is out at a moment.</summary>
    public static bool IsOut(Store.PublicationState state, Instant now) => state is { IsGone: false, IsClosed: false } && !(state.From > now) && !(state.Until <= now);

    /// <summary>The place of an answer, whether it was made or not.</summary>
    public static Kept Of(Standing standing, OutletAsk ask) =>
        standing.Kept.TryGetValue(ask, out var kept) ? kept : standing.Kept.GetOrAdd(ask, a => new Kept(standing, a));

    /// <summary>What is kept of something that is asked, in memory or on disk; null for nothing.</summary>
    public async Task<Kept?> FindAsync(Standing standing, OutletAsk ask)
    {
        if (standing.Kept.TryGetValue(ask, out var kept) && kept.Rendered is not null)
            return kept;
        if (standing.State is not { IsPersonal: false } || await files.ReadAsync(standing.Key, ask) is not { } file || standing.State is not { } state || standing.IsOfOther(file.Rendered, state))
            return null;
        return Take(standing, file);
    }

    /// <summary>Takes what was found on disk, unless what is known of its link by now says otherwise.</summary>
    public Kept Take(Standing standing, KeptFile file)
    {
        var kept = Of(standing, file.Ask);
        if (kept.Rendered is not null)
            return kept;
        Put(kept, file.Rendered, isOnDisk: true);
        // What somebody brought never changes: while it goes out at all, it is right. All else is outdated since long.
        if (file.Rendered.Revision < standing.State?.Revision && file.Rendered.ContentId is null)
            (kept.OutdatedSince, kept.OutdatedAt) = (file.At, 0);
        // A look that was answered while it was read sorted without it.
        if (standing.AskedAt != 0)
            Sort(standing, kept, clock.GetCurrentInstant());
        return kept;
    }

    /// <summary>Keeps an answer.</summary>
    public void Put(Kept kept, Rendered rendered, bool isOnDisk = false)
    {
        lock (hand)
        {
            size += rendered.Size - (kept.Rendered?.Size ?? 0);
            kept.Put(rendered);
            kept.IsOnDisk = isOnDisk;
            if (!kept.IsShelved)
            {
                kept.IsShelved = true;
                hand.Enqueue(kept);
            }
            MakeRoom();
        }
        files.Write(kept);
    }

    /// <summary>Notes that an answer became smaller.</summary>
    public void Spare(int bytes)
    {
        lock (hand)
            size -= bytes;
    }

    /// <summary>Answers an address at once from now on.</summary>
    public void MakeReady(string address, Kept kept)
    {
        if (address.Length > MaxAddress || !kept.IsShelved || (byAddress.TryGetValue(address, out var known) && known == kept) || !kept.AddAlias(address))
            return;
        byAddress[address] = kept;
    }

    /// <summary>Those that say something of the day, for them to be made ahead; and all others.</summary>
    public IEnumerable<Kept> All => hand;

    public void Dispose()
    {
        standings.Narrowed -= Hide;
        standings.Looked -= Sort;
        codings.Dispose();
    }

    // It is not known yet what may still be shown; what is on disk would be found by a server that starts now.
    private void Hide(IReadOnlySet<Guid> publications, IReadOnlyList<Standing> narrowed)
    {
        foreach (var id in publications)
            files.Remove(id);
        foreach (var kept in narrowed.SelectMany(s => s.Kept.Values))
            kept.IsOnDisk = false;
    }

    // What was looked up: what may not be shown goes, what is outdated is made anew.
    private void Sort(IReadOnlyList<Standing> looked)
    {
        var now = clock.GetCurrentInstant();
        foreach (var standing in looked)
        {
            foreach (var kept in standing.Kept.Values)
                Sort(standing, kept, now);
            if (standing.State is { IsPersonal: false } state && !IsOut(state, now))
                files.Remove(state.Id);
        }
    }

    private void Sort(Standing standing, Kept kept, Instant now)
    {
        var state = standing.State;
        if (kept.Rendered is not { } rendered)
            return;
        var isOut = state is not null && IsOut(state, now);
        var isOther = state is not null && standing.IsOfOther(rendered, state);
        if (!isOut || isOther || rendered.Revision < state!.NarrowedRevision)
        {
            lock (hand)
                Drop(kept);
        }
        if (!isOut)
            return;
        if (isOther || rendered.Revision < state!.Revision)
        {
            (kept.OutdatedSince, kept.OutdatedAt) = (kept.OutdatedSince ?? now, kept.OutdatedAt ?? standing.DoubtedAt);
            Outdated?.Invoke(kept);
        }
        // Its publication may have been only touched with others that send out less.
        else
            files.Write(kept);
    }

    private void MakeRoom()
    {
        // Each is looked at twice at most: the first time what was asked for stays. Under the lock of who keeps.
        for (var looks = hand.Count * 2; looks > 0 && size > limit && hand.TryDequeue(out var kept); looks--)
        {
            if (kept.IsInUse && looks > 1)
            {
                kept.IsInUse = false;
                hand.Enqueue(kept);
                continue;
            }
            Remove(kept);
        }
    }

    private void Remove(Kept kept)
    {
        kept.IsShelved = false;
        kept.Standing.Kept.TryRemove(KeyValuePair.Create(kept.Ask, kept));
        foreach (var address in kept.TakeAliases())
            byAddress.TryRemove(KeyValuePair.Create(address, kept));
        Drop(kept);
    }

    private void Drop(Kept kept)
    {
        size -= kept.Rendered?.Size ?? 0;
        kept.Drop();
    }
}
