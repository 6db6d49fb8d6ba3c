namespace Valtro.Core.Reach;

/// <summary>
/// Which audience gets which detail: of a calendar what it gives, of an event, a category or a placement the most it
/// allows. The team always gets everything; a wider audience never gets more than a narrower one.
/// </summary>
public sealed record ReachTable
{
    /// <summary>Makes a reach.</summary>
    /// <exception cref="InvalidInputException"><c>reach_widens</c>: a wider audience would get more.</exception>
    public ReachTable(Detail members, Detail linkHolders, Detail everyone)
    {
        if (linkHolders > members || everyone > linkHolders)
            throw new InvalidInputException("reach_widens", "reach", "A wider audience cannot get more than a narrower one.");
        Members = members;
        LinkHolders = linkHolders;
        Everyone = everyone;
    }

    /// <summary>A new calendar's reach: the school's members read it, nobody else.</summary>
    public static ReachTable MembersOnly { get; } = new(Detail.Everything, Detail.Nothing, Detail.Nothing);

    /// <summary>Everyone reads everything.</summary>
    public static ReachTable Open { get; } = new(Detail.Everything, Detail.Everything, Detail.Everything);

    /// <summary>What members get.</summary>
    public Detail Members { get; }

    /// <summary>What holders of a secret link get.</summary>
    public Detail LinkHolders { get; }

    /// <summary>What everyone gets.</summary>
    public Detail Everyone { get; }

    /// <summary>What is left of this within a limit: of each audience the lower detail.</summary>
    /// <param name="limit">The limit; null for none.</param>
    public ReachTable Within(ReachTable? limit) =>
        limit is null ? this : new ReachTable(Lower(Members, limit.Members), Lower(LinkHolders, limit.LinkHolders), Lower(Everyone, limit.Everyone));

    /// <summary>This with one audience getting a detail: wider ones get no more than it, narrower ones no less.</summary>
    /// <param name="audience">The audience; the team gets everything whatever is asked.</param>
    /// <param name="detail">What it shall get.</param>
    public ReachTable Opened(Audience audience, Detail detail)
    {
        Detail Next(Audience other) => other == audience ? detail : other > audience ? Lower(For(other), detail) : Higher(For(other), detail);
        return audience is Audience.Team ? this : new ReachTable(Next(Audience.Members), Next(Audience.LinkHolders), Next(Audience.Everyone));
    }

    /// <summary>
    /// The limit by which an audience gets a detail of what this gives. Wider audiences get no more than it, narrower ones no
    /// less as far as this gives it; null when nothing is left to limit.
    /// </summary>
    /// <param name="limit">The limit so far; null for none.</param>
    /// <param name="audience">The audience.</param>
    /// <param name="detail">What it shall get.</param>
    public ReachTable? Limited(ReachTable? limit, Audience audience, Detail detail)
    {
        var before = Within(limit);
        Detail Next(Audience other) => Lower(For(other), other == audience ? detail : other > audience ? Lower(before.For(other), detail) : Higher(before.For(other), detail));
        // Where nothing is limited the calendar keeps the say, also when it opens later.
        var (isLimited, most) = (false, Detail.Everything);
        Detail Made(Audience other)
        {
            if (Next(other) is var next && next != For(other))
                (isLimited, most) = (true, next);
            return most;
        }

        var made = new ReachTable(Made(Audience.Members), Made(Audience.LinkHolders), Made(Audience.Everyone));
        return isLimited ? made : null;
    }

    /// <summary>The widest audience that gets more than it did; null when none does.</summary>
    /// <param name="before">What each audience got.</param>
    public Audience? WidestBeyond(ReachTable before) =>
        new[] { Audience.Everyone, Audience.LinkHolders, Audience.Members }.Select(a => (Audience?)a).FirstOrDefault(a => For(a!.Value) > before.For(a.Value));

    /// <summary>What an audience gets.</summary>
    public Detail For(Audience audience) => audience switch
    {
        Audience.Team => Detail.Everything,
        Audience.Members => Members,
        Audience.LinkHolders => LinkHolders,
        Audience.Everyone => Everyone,
        _ => Detail.Nothing,
    };

    private static Detail Higher(Detail a, Detail b) => a > b ? a : b;

    private static Detail Lower(Detail a, Detail b) => a < b ? a : b;
}
