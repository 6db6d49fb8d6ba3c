using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Reach;

public class ReachDecisionTests
{
    private static readonly Audience[] Audiences = Enum.GetValues<Audience>();

    private static ReachTable Table(byte seed)
    {
        var levels = new[] { seed % 4, seed / 4 % 4, seed / 16 % 4 }.OrderDescending().Select(n => (Detail)n).ToArray();
        return new ReachTable(levels[0], levels[1], levels[2]);
    }

    [Fact]
    public void Each_reason_is_told()
    {
        var calendar = Calendar(ReachTable.Open);
        var headlines = new ReachTable(Detail.Headlines, Detail.Headlines, Detail.TimesOnly);
        var category = new Category(Guid.NewGuid(), "Duty", null, false, headlines);
        var lists = new SchoolLists { Categories = [category] };
        var e = Event(AllDay("2026-09-01"), calendar: calendar.Id);
        (Detail, ReachReason) Of(Event e, Calendar c, Audience a) => ReachDecision.For(e, c, a, lists) is var d ? (d.Detail, d.Reason) : default;

        Assert.Equal((Detail.Everything, ReachReason.CalendarReach), Of(e, calendar, Audience.Everyone));
        Assert.Equal((Detail.TimesOnly, ReachReason.EventNarrows), Of(e with { Facts = new EventFacts { Reach = headlines } }, calendar, Audience.Everyone));
        Assert.Equal((Detail.Headlines, ReachReason.CategoryNarrows), Of(e with { Facts = new EventFacts { CategoryId = category.Id } }, calendar, Audience.Members));
        Assert.Equal((Detail.Nothing, ReachReason.EventIsDraft), Of(e with { Facts = new EventFacts { IsDraft = true } }, calendar, Audience.Members));
        Assert.Equal((Detail.Everything, ReachReason.Team), Of(e with { Facts = new EventFacts { IsDraft = true } }, calendar, Audience.Team));
        Assert.Equal((Detail.Nothing, ReachReason.EventInBin), Of(e with { DeletedAt = Now }, calendar, Audience.Everyone));
        Assert.Equal((Detail.Nothing, ReachReason.CalendarInBin), Of(e, calendar with { DeletedAt = Now }, Audience.Members));
        Assert.Equal((Detail.Nothing, ReachReason.CalendarClosed), Of(e, calendar with { Reach = ReachTable.MembersOnly }, Audience.Everyone));
        Assert.Equal((Detail.Nothing, ReachReason.NotInCalendar), Of(e, Calendar(), Audience.Team));

        var other = Calendar(ReachTable.Open);
        var placed = e with { Facts = new EventFacts { AlsoIn = [other.Id], Limits = [new PlacementLimit(other.Id, Detail.TimesOnly)] }.Checked(e.CalendarId) };
        Assert.Equal((Detail.TimesOnly, ReachReason.PlacementNarrows), Of(placed, other, Audience.Members));
        Assert.Equal((Detail.Everything, ReachReason.CalendarReach), Of(placed, calendar, Audience.Members));
        Assert.Equal(Detail.Everything, ReachDecision.Best(placed, [other, calendar], _ => Audience.Everyone, lists).Detail);
    }

    [Fact]
    public void Limits_that_say_nothing_are_not_kept()
    {
        var (home, other, third) = (Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid());
        var facts = new EventFacts
        {
            Reach = ReachTable.Open,
            AlsoIn = [other],
            Limits = [new PlacementLimit(home, Detail.Nothing), new PlacementLimit(other, Detail.Everything), new PlacementLimit(third, Detail.Nothing)],
        }.Checked(home);
        Assert.Equal(new EventFacts { AlsoIn = [other] }, facts);
    }

    /// <summary>Whatever narrows: never more than the calendar gives, never more to the wider audience, the reason true.</summary>
    [Property(MaxTest = 500)]
    public void Nothing_widens(byte calendarSeed, byte? eventSeed, byte? categorySeed, byte? placement, bool draft, bool binned)
    {
        var home = Guid.NewGuid();
        var calendar = Calendar(Table(calendarSeed));
        var category = new Category(Guid.NewGuid(), "Duty", null, false, categorySeed is { } c ? Table(c) : null);
        var lists = new SchoolLists { Categories = [category] };
        var facts = new EventFacts
        {
            AlsoIn = [calendar.Id],
            CategoryId = category.Id,
            IsDraft = draft,
            Reach = eventSeed is { } s ? Table(s) : null,
            Limits = placement is { } p ? [new PlacementLimit(calendar.Id, (Detail)(p % 4))] : [],
        }.Checked(home);
        var e = Event(AllDay("2026-09-01"), calendar: home) with { Facts = facts, DeletedAt = binned ? Now : null };

        var details = Audiences.Select(a => ReachDecision.For(e, calendar, a, lists)).ToArray();
        Assert.Equal(new ReachDecision(Detail.Everything, ReachReason.Team), details[0]);
        for (var i = 1; i < details.Length; i++)
        {
            var (audience, (detail, reason)) = (Audiences[i], details[i]);
            Assert.True(detail <= details[i - 1].Detail);
            Assert.True(detail <= calendar.Reach.For(audience));
            Assert.True(facts.Reach is null || detail <= facts.Reach.For(audience));
            Assert.True(category.Reach is null || detail <= category.Reach.For(audience));
            Assert.True(facts.MostIn(calendar.Id) is not { } most || detail <= most);
            if (draft || binned)
                Assert.Equal(Detail.Nothing, detail);
            Assert.Equal(reason == ReachReason.CalendarReach, detail == calendar.Reach.For(audience) && detail > Detail.Nothing && !draft && !binned);
        }
    }
}
