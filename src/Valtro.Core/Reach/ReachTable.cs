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

    /// <summary>What an audience gets.</summary>
    public Detail For(Audience audience) => audience switch
    {
        Audience.Team => Detail.Everything,
        Audience.Members => Members,
        Audience.LinkHolders => LinkHolders,
        Audience.Everyone => Everyone,
        _ => Detail.Nothing,
    };

    private static Detail Lower(Detail a, Detail b) => a < b ? a : b;
}
