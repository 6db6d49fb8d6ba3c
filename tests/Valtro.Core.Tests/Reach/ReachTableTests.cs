using Valtro.Core.Reach;

namespace Valtro.Core.Tests.Reach;

/// <summary>Reach while it is chosen: audiences around the chosen one go along, and nothing is opened by a limit.</summary>
public sealed class ReachTableTests
{
    private const Detail None = Detail.Nothing, Times = Detail.TimesOnly, Heads = Detail.Headlines, All = Detail.Everything;

    private static readonly Audience[] Audiences = [Audience.Members, Audience.LinkHolders, Audience.Everyone];
    private static readonly Detail[] Details = [None, Times, Heads, All];

    private static readonly IReadOnlyList<ReachTable> Tables =
        [.. from a in Details from b in Details from c in Details where a >= b && b >= c select new ReachTable(a, b, c)];

    [Fact]
    public void A_limit_takes_from_wider_audiences_too_and_gives_to_narrower_ones()
    {
        var closed = ReachTable.Open.Limited(null, Audience.LinkHolders, Heads);
        Assert.Equal(new ReachTable(All, Heads, Heads), ReachTable.Open.Within(closed));
        Assert.Null(ReachTable.Open.Limited(closed, Audience.Everyone, All));
        // The calendar keeps the say where nothing is limited.
        Assert.Equal(new ReachTable(Heads, Heads, Heads), ReachTable.MembersOnly.Limited(null, Audience.Members, Heads));
    }

    [Fact]
    public void A_limit_gives_what_was_picked_for_every_calendar_and_never_more_than_that()
    {
        foreach (var calendar in Tables)
        {
            foreach (var before in Tables.Cast<ReachTable?>().Append(null))
            {
                foreach (var (audience, detail) in Audiences.SelectMany(a => Details.Where(d => d <= calendar.For(a)).Select(d => (a, d))))
                {
                    var left = calendar.Within(calendar.Limited(before, audience, detail));
                    Assert.Equal(detail, left.For(audience));
                    Assert.All(Audiences, a => Assert.True(left.For(a) <= calendar.For(a)));
                }
            }
        }
    }

    [Fact]
    public void Opening_and_closing_take_the_audiences_around_along_and_say_who_gets_more()
    {
        Assert.Equal(new ReachTable(All, Heads, Heads), ReachTable.MembersOnly.Opened(Audience.Everyone, Heads));
        Assert.Equal(new ReachTable(Times, Times, Times), ReachTable.Open.Opened(Audience.Members, Times));
        Assert.Equal(ReachTable.MembersOnly, ReachTable.MembersOnly.Opened(Audience.Team, None));
        foreach (var before in Tables)
        {
            foreach (var (audience, detail) in Audiences.SelectMany(a => Details.Select(d => (a, d))))
            {
                var after = before.Opened(audience, detail);
                Assert.Equal(detail, after.For(audience));
                // As little as can be: what did not have to change stays.
                Assert.All(Audiences, a => Assert.True(after.For(a) == before.For(a) || after.For(a) == detail));
                var more = Audiences.Where(a => after.For(a) > before.For(a)).ToList();
                Assert.Equal(more.Count == 0 ? null : more[^1], after.WidestBeyond(before));
            }
        }
    }
}
