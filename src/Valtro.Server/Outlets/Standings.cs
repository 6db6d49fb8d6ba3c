using System.Collections.Concurrent;
using Microsoft.Extensions.Caching.Memory;
using Valtro.Server.Api;
using Valtro.Server.Live;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>What may have happened to a publication since it was looked up.</summary>
internal enum Doubt
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>It sends out something else, and nothing less: what is kept may be shown until the new is ready.</summary>
    Altered,

    /// <summary>Anything, for changes were not heard of: it is looked up before anything is shown, if there is a database.</summary>
    Missed,

    /// <summary>It may send out less, or was taken down: nothing of it is shown before it was looked up.</summary>
    Narrowed,
}

/// <summary>A question to the database what there is at a link.</summary>
/// <param name="Number">Which of that link's: clocks do not tell apart what happens within some milliseconds.</param>
/// <param name="Doubts">How many doubts there were when it began.</param>
/// <param name="At">When it began, as the machine counts.</param>
internal readonly record struct LookUp(long Number, long Doubts, long At);

/// <summary>What is known of one link of a publication. Its writes are under its own lock.</summary>
/// <param name="key">The link.</param>
internal sealed class Standing(string key)
{
    private volatile PublicationState? state;
    private volatile int doubt = (int)Doubt.Missed;
    private long begun;
    private long looks;
    private long taken;
    // Up to when what was read may be of revisions there are not any more; what was on disk when this was first looked up may be.
    private long setBackAt = -1;

    /// <summary>The link.</summary>
    public string Key => key;

    /// <summary>What was found when it was last looked up; null before, and where nothing is.</summary>
    public PublicationState? State => state;

    /// <summary>What may have happened since.</summary>
    public Doubt Doubt => (Doubt)doubt;

    /// <summary>Since when, as the machine counts (<see cref="Environment.TickCount64"/>).</summary>
    public long DoubtedAt { get; private set; }

    /// <summary>When the last look that answered began.</summary>
    public long AskedAt => Volatile.Read(ref begun);

    /// <summary>The answers kept of it.</summary>
    public ConcurrentDictionary<OutletAsk, Kept> Kept { get; } = [];

    /// <summary>The look that is under way; joined by who comes meanwhile.</summary>
    internal Task? Asking { get; set; }

    /// <summary>What began it.</summary>
    internal LookUp AskingLookUp { get; set; }

    // Grows with every doubt, so that a look tells whether another came while it was under way.
    internal long Doubts { get; private set; }

    internal void DoubtIt(Doubt why)
    {
        lock (this)
        {
            Doubts++;
            if (Doubt == Doubt.None)
                DoubtedAt = Environment.TickCount64;
            if ((int)why > doubt)
                doubt = (int)why;
        }
    }

    /// <summary>Begins a look; the database is asked after that.</summary>
    internal LookUp Begin()
    {
        lock (this)
            return new LookUp(++looks, Doubts, Environment.TickCount64);
    }

    /// <summary>Takes what a look found, unless one that began later was taken before.</summary>
    /// <param name="found">What is there; null for nothing.</param>
    /// <param name="look">The look.</param>
    internal void Take(PublicationState? found, LookUp look)
    {
        lock (this)
        {
            if (look.Number < taken)
                return;
            if (begun == 0)
                Volatile.Write(ref setBackAt, 0);
            else if (state is { } before && (found is null || found.Id != before.Id || found.Revision < before.Revision))
                Volatile.Write(ref setBackAt, Environment.TickCount64);
            (taken, begun, state) = (look.Number, look.At, found);
            if (look.Doubts == Doubts)
                doubt = (int)Doubt.None;
        }
    }

    /// <summary>
    /// Whether an answer is of the publication that was at this link before, or of a revision there is not: the database may have been
    /// restored from a backup, and another state get its number. What was read since then may be younger than the state.
    /// </summary>
    /// <param name="rendered">The answer.</param>
    /// <param name="now">What was found.</param>
    public bool IsOfOther(Rendered rendered, PublicationState now) =>
        rendered.PublicationId != now.Id
        || (rendered.Revision == now.Revision && rendered.RevisedAt is { } at && at != now.ChangedAt)
        || (rendered.Revision > now.Revision && rendered.ReadAt <= Volatile.Read(ref setBackAt));

    /// <summary>Takes what was known when its bytes were kept on disk; it is looked up when there is a database.</summary>
    internal void TakeOld(PublicationState known)
    {
        lock (this)
            state ??= known;
    }
}

/// <summary>
/// What is known of the links of publications, and whether that still holds. It holds while the server surely hears of every change;
/// what it hears of is looked up anew in the background, and by whoever asks meanwhile, all of them with one question.
/// </summary>
internal sealed class Standings : IDisposable
{
    private const int MaxUnknown = 10_000;
    private const int MaxKnown = 100_000;
    private const int MaxAtOnce = 500;
    // A look that is as young as this is believed while changes are not heard of, but the database answers.
    private const int BelievedMilliseconds = 400;
    private const int AwayMilliseconds = 1_000;

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    private readonly ConcurrentDictionary<string, Standing> known = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<Guid, ConcurrentDictionary<Standing, bool>> ofPublication = [];
    // Links nothing is at, with how many doubts there had been: after the next one something may be there.
    private readonly MemoryCache unknown = new(new MemoryCacheOptions { SizeLimit = MaxUnknown });
    private readonly ConcurrentDictionary<Guid, bool> looking = [];
    private readonly ChangeFeed feed;
    private readonly Store.Publications publications;
    // Of known links by their school, of others by none.
    private readonly AskedTogether<Guid, string, PublicationState> asking;
    private readonly DatabaseGate gate;
    private readonly ILogger<Standings> log;
    private long heard;
    private long told;
    private long awayUntil = long.MinValue / 2;

    public Standings(ChangeFeed feed, Store.Publications publications, DatabaseGate gate, ILogger<Standings> log)
    {
        (this.feed, this.publications, this.gate, this.log) = (feed, publications, gate, log);
        asking = new((school, keys) => publications.StatesAsync(keys, school == Guid.Empty ? null : school));
        feed.Outgoing += Hear;
        feed.Missed += MissAll;
    }

    /// <summary>Told of links whose publication is another one, once it was looked up.</summary>
    public event Action<IReadOnlyList<Standing>>? Looked;

    /// <summary>Told of publications, with what is known of their links, of which nothing may be shown until they were looked up.</summary>
    public event Action<IReadOnlySet<Guid>, IReadOnlyList<Standing>>? Narrowed;

    /// <summary>Told of publications that send out something else, and of which nothing is known here.</summary>
    public event Action<IReadOnlySet<Guid>>? Asleep;

    /// <summary>All that is known.</summary>
    public IEnumerable<Standing> All => known.Values;

    /// <summary>Whether the database did not answer a moment ago, so that nobody waits for it now.</summary>
    public bool IsAway => !feed.IsHearing && Environment.TickCount64 < Volatile.Read(ref awayUntil);

    /// <summary>Whether what is known of a link is surely right.</summary>
    /// <param name="standing">What is known.</param>
    /// <param name="came">When somebody came for whom it is enough if it was looked up since; null for it having to be so now.</param>
    public bool IsSure(Standing standing, long? came = null) =>
        standing.Doubt == Doubt.None && (feed.IsHearing || standing.AskedAt >= came || Environment.TickCount64 - standing.AskedAt < BelievedMilliseconds);

    /// <summary>What is known of a link; null for nothing.</summary>
    public Standing? Find(string key) => known.GetValueOrDefault(key);

    /// <summary>A link as it was known when something of it was kept on disk.</summary>
    public Standing Remember(string key, PublicationState state)
    {
        var standing = known.GetOrAdd(key, k => new Standing(k));
        standing.TakeOld(state);
        Index(standing, state.Id);
        return standing;
    }

    /// <summary>What there is at a link, surely; null for nothing. The database is asked only when it may have changed.</summary>
    /// <param name="key">The link.</param>
    /// <param name="take">Counts that the database is asked for nothing, or asks before whether it may be; it may refuse.</param>
    /// <exception cref="DatabaseAwayException">The database cannot be asked.</exception>
    public async Task<Standing?> SureAsync(string key, Action<int> take)
    {
        var standing = Find(key);
        if (standing is not null && IsSure(standing))
            return standing;
        var (before, notices) = (Volatile.Read(ref heard), Volatile.Read(ref told));
        if (feed.IsHearing && unknown.TryGetValue(key, out long count) && count == before)
            return null;
        if (standing is null)
            take(0);
        standing ??= new Standing(key);
        await LookAsync(standing);
        if (standing.State is null)
        {
            known.TryRemove(KeyValuePair.Create(key, standing));
            unknown.Set(key, before, new MemoryCacheEntryOptions { Size = 1 });
            take(1);
            return null;
        }
        // Two who asked for the first time at once go on with one.
        standing = known.GetOrAdd(key, standing);
        Index(standing, standing.State!.Id);
        Trim();
        // What was told before it stood here went by it.
        if (notices != Volatile.Read(ref told))
        {
            standing.DoubtIt(Doubt.Missed);
            await LookAsync(standing);
        }
        return standing;
    }

    /// <summary>Looks up the links of a school that are in doubt, many with one question.</summary>
    /// <returns>How many there were.</returns>
    public async Task<int> LookAsync(Guid schoolId, IReadOnlyList<Standing> doubted)
    {
        foreach (var some in doubted.Chunk(MaxAtOnce))
        {
            var begun = some.Select(s => (s.Begin(), s)).ToList();
            var found = await AskAsync(() => publications.StatesAsync([.. some.Select(s => s.Key)], schoolId));
            foreach (var (look, standing) in begun)
                standing.Take(found.GetValueOrDefault(standing.Key), look);
            Looked?.Invoke(some);
        }
        return doubted.Count;
    }

    public void Dispose()
    {
        feed.Outgoing -= Hear;
        feed.Missed -= MissAll;
        unknown.Dispose();
    }

    // One look for all who wait.
    private Task LookAsync(Standing standing)
    {
        lock (standing)
        {
            // Whoever comes after a doubt was raised does not join a look that began before it.
            if (standing.Asking is { IsCompleted: false } running && standing.AskingLookUp.Doubts == standing.Doubts)
                return running;
            standing.AskingLookUp = standing.Begin();
            return standing.Asking = LookNowAsync(standing, standing.AskingLookUp);
        }
    }

    private async Task LookNowAsync(Standing standing, LookUp look)
    {
        await Task.Yield();
        var before = standing.State;
        var found = await AskAsync(() => asking.AskAsync(before?.SchoolId ?? Guid.Empty, standing.Key));
        standing.Take(found, look);
        if (before is not null && before != found)
            Looked?.Invoke([standing]);
    }

    // Who finds that the database does not answer spares the next ones the wait.
    private async Task<T> AskAsync<T>(Func<Task<T>> ask)
    {
        if (IsAway || !gate.IsOpen)
            throw new DatabaseAwayException();
        try
        {
            return await ask().WaitAsync(Patience);
        }
        catch (Exception error) when (DatabaseAwayException.Is(error))
        {
            Volatile.Write(ref awayUntil, Environment.TickCount64 + AwayMilliseconds);
            throw new DatabaseAwayException(error);
        }
    }

    private void Hear(PublicationsNotice notice)
    {
        Interlocked.Increment(ref told);
        if (notice.IsOfMembers || notice.Narrowed.Count > 0)
            Interlocked.Increment(ref heard);
        var narrowed = new List<Standing>();
        var any = false;
        var members = notice.IsOfMembers ? known.Values.Where(s => s.State is { IsPersonal: true } state && state.SchoolId == notice.SchoolId) : [];
        foreach (var standing in Of(notice.Narrowed).Concat(members))
        {
            standing.DoubtIt(Doubt.Narrowed);
            narrowed.Add(standing);
        }
        foreach (var standing in Of(notice.Altered))
        {
            standing.DoubtIt(Doubt.Altered);
            any = true;
        }
        if (notice.Narrowed.Count > 0)
            Narrowed?.Invoke(notice.Narrowed, [.. narrowed.Where(s => s.State is { } state && notice.Narrowed.Contains(state.Id))]);
        if (notice.Altered.Where(id => !ofPublication.TryGetValue(id, out var links) || links.IsEmpty).ToHashSet() is { Count: > 0 } asleep)
            Asleep?.Invoke(asleep);
        if (any || narrowed.Count > 0)
            LookSoon(notice.SchoolId);
    }

    private IEnumerable<Standing> Of(IReadOnlySet<Guid> ids) => ids.SelectMany(id => ofPublication.TryGetValue(id, out var standings) ? standings.Keys : []);

    private void MissAll()
    {
        Interlocked.Increment(ref told);
        Interlocked.Increment(ref heard);
        var schools = new HashSet<Guid>();
        foreach (var standing in known.Values)
        {
            standing.DoubtIt(Doubt.Missed);
            if (standing.State is { } state)
                schools.Add(state.SchoolId);
        }
        foreach (var school in schools)
            LookSoon(school);
    }

    // One after the other for a school: what is heard of while one is under way is looked up by the next.
    private void LookSoon(Guid schoolId)
    {
        if (looking.TryAdd(schoolId, true))
            _ = Task.Run(() => LookAllAsync(schoolId));
    }

    private async Task LookAllAsync(Guid schoolId)
    {
        try
        {
            while (true)
            {
                // What nothing is kept of is looked up when it is asked for.
                var doubted = known.Values.Where(s => s.Doubt != Doubt.None && !s.Kept.IsEmpty && s.State?.SchoolId == schoolId).ToList();
                if (doubted.Count > 0)
                    await LookAsync(schoolId, doubted);
                else if (looking.TryRemove(schoolId, out _) && !known.Values.Any(s => s.Doubt != Doubt.None && !s.Kept.IsEmpty && s.State?.SchoolId == schoolId))
                    return;
                else if (!looking.TryAdd(schoolId, true))
                    return;
            }
        }
        catch (DatabaseAwayException)
        {
            // Looked up when the connection for changes is made again.
            looking.TryRemove(schoolId, out _);
        }
        catch (Exception error)
        {
            looking.TryRemove(schoolId, out _);
            log.LogError(error, "The publications of {School} could not be looked up; each is when it is asked for.", schoolId);
        }
    }

    private void Index(Standing standing, Guid publicationId) => ofPublication.GetOrAdd(publicationId, _ => [])[standing] = true;

    private void Trim()
    {
        if (known.Count <= MaxKnown)
            return;
        foreach (var standing in known.Values.Where(s => s.Kept.IsEmpty).Take(MaxKnown / 10))
        {
            known.TryRemove(KeyValuePair.Create(standing.Key, standing));
            if (standing.State is { } state && ofPublication.TryGetValue(state.Id, out var of))
                of.TryRemove(standing, out _);
        }
    }
}
