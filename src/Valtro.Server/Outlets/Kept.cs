using NodaTime;

namespace Valtro.Server.Outlets;

/// <summary>What may be done with a kept answer.</summary>
internal enum Verdict
{
    /// <summary>It is surely what goes out now.</summary>
    Right,

    /// <summary>Something else goes out since less than a second, and nothing of it may not be shown: it is, while the new is made.</summary>
    Before,

    /// <summary>The database is away; it was right when changes were last heard of.</summary>
    LastGood,

    /// <summary>It has to be looked up or made anew first.</summary>
    Ask,
}

/// <summary>The answer to one thing that is asked of one link, as it was last made.</summary>
/// <param name="standing">The link.</param>
/// <param name="ask">What is asked.</param>
internal sealed class Kept(Standing standing, OutletAsk ask)
{
    private const int MaxAliases = 8;
    private const int BeforeMilliseconds = 1_000;
    private const long NobodyChosen = -1;

    // What is changed now and then is made anew at once; what is changed all the time not all the time.
    private const int MaxCredit = 20;

    /// <summary>How long it takes until what was made too often may be made once more.</summary>
    public const int PauseMilliseconds = 400;

    private readonly List<string> aliases = [];
    private volatile Rendered? rendered;
    // Of how many doubts somebody was chosen to wait for what is new; none yet.
    private long chosenOf = NobodyChosen;
    private double creditThen = MaxCredit;

    public Standing Standing => standing;

    public OutletAsk Ask => ask;

    /// <summary>The answer; null before it was made.</summary>
    public Rendered? Rendered => rendered;

    /// <summary>The same for the day to come, made ahead; null for none.</summary>
    public Rendered? Ahead { get; set; }

    /// <summary>How often it was asked for since it was made, about: those who ask at once may count as one.</summary>
    public int Asked;

    /// <summary>Whether it was asked for since room was last sought.</summary>
    public bool IsInUse { get; set; }

    /// <summary>When it was found that something else goes out; null while it is right.</summary>
    public Instant? OutdatedSince { get; set; }

    /// <summary>The same, as the machine counts: since the first change that it does not show.</summary>
    public long? OutdatedAt { get; set; }

    /// <summary>Whether it lies on disk as it is.</summary>
    public bool IsOnDisk { get; set; }

    /// <summary>Whether it stands in the queue of those that may have to go.</summary>
    public bool IsShelved;

    /// <summary>When it was made last, as the machine counts.</summary>
    public long MadeAt { get; private set; }

    /// <summary>The making that is under way.</summary>
    internal Task<Rendered>? Making { get; set; }

    /// <summary>Of what state that will be.</summary>
    internal long MakingRevision { get; set; }

    /// <summary>Keeps a new answer.</summary>
    public void Put(Rendered made)
    {
        (rendered, IsOnDisk, OutdatedSince, OutdatedAt) = (made, false, null, null);
        if (Ahead?.Revision < made.Revision)
            Ahead = null;
        creditThen = Credit - 1;
        MadeAt = Environment.TickCount64;
        Volatile.Write(ref chosenOf, NobodyChosen);
        Volatile.Write(ref Asked, 0);
    }

    /// <summary>At the day's start: takes what was made ahead, if the publication is still the one it was made of; null for none.</summary>
    public Rendered? TakeAhead(Instant now)
    {
        if (Ahead is not { } ahead || !ahead.IsFresh(now))
            return null;
        Ahead = null;
        return standing.State is { } state && (ahead.Revision < state.Revision || standing.IsOfOther(ahead, state)) ? null : ahead;
    }

    /// <summary>Notes that it was asked for.</summary>
    public void Use()
    {
        Asked++;
        if (!IsInUse)
            IsInUse = true;
    }

    /// <summary>Drops the answer: it may not be shown any more.</summary>
    public void Drop() => (rendered, Ahead) = (null, null);

    /// <summary>
    /// Whether the first of those who find it outdated asks: that one waits for the new, the others are not kept waiting. With every
    /// doubt there is a first one again, also where the last one found that nothing was new. Of what is changed all the time nobody
    /// waits.
    /// </summary>
    public bool IsFirst() => IsRested && standing.Doubts is var doubts && Interlocked.Exchange(ref chosenOf, doubts) != doubts;

    /// <summary>Whether it was not made too often lately.</summary>
    public bool IsRested => Credit >= 1;

    private double Credit => Math.Min(MaxCredit, creditThen + (double)(Environment.TickCount64 - MadeAt) / PauseMilliseconds);

    /// <summary>Whether one of the first bytes of before may still be shown, by their age.</summary>
    /// <param name="now">The moment.</param>
    /// <param name="known">What was made.</param>
    public bool IsBefore(Instant now, Rendered known)
    {
        if (standing.State is not { } state || known.Revision < state.NarrowedRevision || standing.Doubt > Doubt.Altered)
            return false;
        var isAltered = standing.Doubt == Doubt.Altered || known.Revision < state.Revision;
        return (!isAltered || Environment.TickCount64 - (OutdatedAt ?? standing.DoubtedAt) < BeforeMilliseconds)
            && (known.IsFresh(now) || (known.FreshUntil is { } until && now - until < Duration.FromMilliseconds(BeforeMilliseconds)));
    }

    /// <summary>Adds an address it is asked by; of one thing there can be many, and only some are remembered.</summary>
    public bool AddAlias(string asked)
    {
        lock (aliases)
        {
            if (aliases.Count >= MaxAliases)
                return false;
            aliases.Add(asked);
            return true;
        }
    }

    /// <summary>The addresses it is asked by; none from now on.</summary>
    public IReadOnlyList<string> TakeAliases()
    {
        lock (aliases)
        {
            string[] all = [.. aliases];
            aliases.Clear();
            return all;
        }
    }
}
