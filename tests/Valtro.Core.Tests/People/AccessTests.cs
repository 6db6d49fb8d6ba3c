using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;
using Valtro.Core.Views;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.People;

public class AccessTests
{
    private static Access With(params (Calendar Calendar, CalendarRole Role)[] roles) =>
        new(SchoolRole.Member, roles.ToDictionary(r => r.Calendar.Id, r => r.Role));

    private static readonly Access Nobody = With();

    [Fact]
    public void A_role_makes_one_of_the_team_and_administrators_are_of_every_team()
    {
        var calendar = Calendar(new ReachTable(Detail.Nothing, Detail.Nothing, Detail.Nothing));
        Assert.False(Nobody.Sees(calendar));
        Assert.True(With((calendar, CalendarRole.Reader)).Sees(calendar));
        Assert.Equal(CalendarRole.Keeper, new Access(SchoolRole.Administrator, Nobody.Roles).RoleOn(calendar.Id));
        Assert.False(With((calendar, CalendarRole.Proposer)).Has(calendar.Id, CalendarRole.Editor));
        Assert.False(Nobody.Has(calendar.Id, CalendarRole.Reader));
    }

    [Fact]
    public void An_event_is_changed_by_editors_of_its_homes_and_of_where_it_newly_stands()
    {
        var (home, other, third) = (Calendar(), Calendar(), Calendar());
        var e = Event(AllDay("2026-09-01"), calendar: home.Id);
        Event In(params Calendar[] also) => e with { Facts = new EventFacts { AlsoIn = [.. also.Select(c => c.Id)] } };
        var editor = With((home, CalendarRole.Editor), (third, CalendarRole.Reader));
        Assert.True(editor.MayChange(null, e));
        Assert.False(With((home, CalendarRole.Proposer)).MayChange(null, e));
        Assert.False(editor.MayChange(null, In(other)));
        // Where it stands already it may stay, and go from.
        Assert.True(editor.MayChange(In(other), In(other) with { Title = "New" }));
        Assert.True(editor.MayChange(In(other), e));
        Assert.False(editor.MayChange(In(other), In(other, third)));
        // It goes to another home only where one is an editor too, and comes only from there.
        Assert.False(editor.MayChange(e, e with { CalendarId = other.Id }));
        Assert.False(editor.MayChange(e with { CalendarId = other.Id }, e));
    }

    [Fact]
    public void Times_only_says_nothing_but_when()
    {
        var calendar = Calendar(new ReachTable(Detail.TimesOnly, Detail.Nothing, Detail.Nothing));
        var e = Event(Timed("2026-09-01 09:00", "2026-09-01 10:00"), "FREQ=WEEKLY", "Secret", calendar.Id) with
        {
            Facts = new EventFacts { Subtitle = "Secret", Tags = ["Secret"], Files = [new EventFile(Guid.NewGuid(), Guid.NewGuid(), "Secret.pdf", "application/pdf", 1)], Mark = 3 },
            Changes = [new EventChange { Date = At("2026-09-08 09:00"), Title = "Secret", Description = "Secret" }],
        };
        var (calendars, salt) = (new Dictionary<Guid, Calendar> { [calendar.Id] = calendar }, Guid.NewGuid());
        EventView Seen(Guid by) => Eyes.Of(Nobody, calendars, SchoolLists.Empty, by).View(e)!;
        var seen = Seen(Guid.Empty);
        Assert.Equal(Detail.TimesOnly, seen.Detail);
        Assert.DoesNotContain("Secret", System.Text.Json.JsonSerializer.Serialize(new { seen.Title, seen.Place, seen.Description, seen.Facts, seen.Changes, seen.Uid }));
        Assert.Empty(seen.Changes);
        Assert.Equal(e.Timing, seen.Timing);
        Assert.NotEqual((e.Id, e.Uid), (seen.Id, seen.Uid));
        // Two who look cannot tell that they look at one event.
        Assert.NotEqual(seen.Uid, Seen(salt).Uid);
        Assert.Equal(Seen(salt).Uid, Seen(salt).Uid);
    }

    /// <summary>Nobody sees more than the best of the calendars it stands in gives them, whatever their role.</summary>
    [Property(MaxTest = 300)]
    public void What_is_seen_is_what_the_decision_says(byte first, byte second, byte? role, bool draft)
    {
        static ReachTable Reach(byte seed) => new((Detail)(seed % 4), Detail.Nothing, Detail.Nothing);
        var (a, b) = (Calendar(Reach(first)), Calendar(Reach(second)));
        var calendars = new Dictionary<Guid, Calendar> { [a.Id] = a, [b.Id] = b };
        var e = Event(AllDay("2026-09-01"), calendar: a.Id) with { Facts = new EventFacts { AlsoIn = [b.Id], IsDraft = draft } };
        var access = role is { } r ? With((b, (CalendarRole)(r % 4))) : Nobody;
        var expected = role is not null ? Detail.Everything : draft ? Detail.Nothing : (Detail)Math.Max(first % 4, second % 4);
        var seen = Eyes.Of(access, calendars, SchoolLists.Empty, Guid.Empty).View(e);
        Assert.Equal(expected, seen?.Detail ?? Detail.Nothing);
        Assert.Equal(role is not null, seen?.IsTeams ?? false);
    }
}
