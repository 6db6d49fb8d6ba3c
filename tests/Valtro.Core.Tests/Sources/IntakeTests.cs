using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.SchoolYears;
using Valtro.Core.Sources;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Sources;

/// <summary>What reading a source does to what is here: nothing twice, nothing lost, and all of it as it is there now.</summary>
public class IntakeTests
{
    private static readonly Guid Lane = Guid.Parse("00000000-0000-7000-8000-0000000000aa");
    private static readonly Guid Class = Guid.Parse("00000000-0000-7000-8000-0000000000bb");
    private static readonly Guid Feed = Guid.Parse("00000000-0000-7000-8000-0000000000cc");

    /// <summary>A school in memory: what the store keeps between two readings.</summary>
    private sealed class Here
    {
        private int made;

        public Dictionary<Guid, Event> Events { get; } = [];

        public Dictionary<Guid, Origin> Origins { get; } = [];

        public IReadOnlyList<IntakeRow> Take(string body, Guid? source = null, Func<SourceEvent, Guid?>? calendarOf = null, Func<IntakeWish, IntakeWish>? wish = null) =>
            Take(OddFilesTests.Read(body).Events, source, calendarOf, wish);

        public IReadOnlyList<IntakeRow> Take(IEnumerable<ReadEvent> read, Guid? source = null, Func<SourceEvent, Guid?>? calendarOf = null, Func<IntakeWish, IntakeWish>? wish = null)
        {
            var wanted = new IntakeWish { CalendarOf = calendarOf ?? (_ => Lane), Zone = Halifax, SourceId = source, LetsGo = source is not null, BringsBack = source is null, Name = "autumn.ics" };
            var rows = Intake.Plan(SourceEvent.Of(read, Halifax), [.. Origins.Values], Events, wish?.Invoke(wanted) ?? wanted, Now, SchoolDays.None, () => new Guid(++made, 0, 0, [0, 0, 0, 0, 0, 0, 0, 1]));
            foreach (var row in rows.Where(r => r.After is not null))
                Events[row.After!.Id] = row.After;
            foreach (var row in rows.Where(r => r.Origin is not null))
                Origins[row.Origin!.EventId] = row.Origin;
            return rows;
        }

        public IEnumerable<Event> There => Events.Values.Where(e => e.DeletedAt is null);

        public Event One(string title) => Assert.Single(There, e => e.Title == title);

        public void Edit(string title, Func<Event, Event> edit)
        {
            var e = One(title);
            Events[e.Id] = edit(e) with { Version = e.Version + 1 };
        }
    }

    private static string Event(string uid, string title, string start = "20261103T093000", string more = "") =>
        $"BEGIN:VEVENT\nUID:{uid}\nSUMMARY:{title}\nDTSTART;TZID=America/Halifax:{start}\nDURATION:PT1H\n{more}\nEND:VEVENT\n";

    private static string Kinds(IEnumerable<IntakeRow> rows) => string.Join(' ', rows.Select(r => r.Kind).Order());

    [Fact]
    public void The_same_again_changes_nothing()
    {
        var here = new Here();
        var body = Event("a", "Rigging test") + Event("b", "Row", more: "RRULE:FREQ=WEEKLY;COUNT=5\nEXDATE;TZID=America/Halifax:20261110T093000");
        Assert.Equal("New New", Kinds(here.Take(body)));
        var rows = here.Take(body);
        Assert.Equal("Same Same", Kinds(rows));
        Assert.All(rows, r => Assert.True(r.After is null && r.Origin is null));
        Assert.Equal(2, here.There.Count());
    }

    [Fact]
    public void What_moved_there_moves_here_and_what_was_added_here_stays()
    {
        var here = new Here();
        here.Take(Event("a", "Rigging test"));
        here.Edit("Rigging test", e => e with { Place = "Loft 2", Facts = e.Facts with { Tags = ["knots"] } });
        var row = Assert.Single(here.Take(Event("a", "Rigging test", "20261105T100000")));
        Assert.Equal((IntakeKind.Changed, 0), (row.Kind, row.Own.Count));
        var e = here.One("Rigging test");
        Assert.Equal(("2026-11-05T10:00", "Loft 2", "knots"), ($"{e.Timing.Start:uuuu-MM-dd'T'HH:mm}", e.Place, Assert.Single(e.Facts.Tags)));
    }

    [Fact]
    public void What_both_changed_stays_as_it_is_here_and_is_told()
    {
        var here = new Here();
        here.Take(Event("a", "Rigging test"));
        here.Edit("Rigging test", e => e with { Title = "Rigging exam" });
        var row = Assert.Single(here.Take(Event("a", "Test of rigging")));
        Assert.Equal(["title"], row.Own);
        Assert.Equal("Rigging exam", Assert.Single(here.There).Title);
        // Said once; from then on it is the same there.
        Assert.Equal("Same", Kinds(here.Take(Event("a", "Test of rigging"))));
        Assert.Equal(["title"], here.Origins.Values.Single().Own);
    }

    [Fact]
    public void What_vanished_goes_and_comes_back_when_it_is_there_again()
    {
        var here = new Here();
        here.Take(Event("a", "Kept there") + Event("b", "Comes and goes"), Feed);
        Assert.Equal("Same Gone", Kinds(here.Take(Event("a", "Kept there"), Feed)));
        Assert.Equal("Kept there", Assert.Single(here.There).Title);
        Assert.Equal("New Same", Kinds(here.Take(Event("a", "Kept there") + Event("b", "Comes and goes"), Feed)));
        Assert.Equal(2, here.There.Count());
        Assert.Equal(2, here.Events.Count);
    }

    [Fact]
    public void What_vanished_and_has_something_of_ours_stays_and_says_so()
    {
        var here = new Here();
        here.Take(Event("a", "With a worksheet"), Feed);
        here.Edit("With a worksheet", e => e with { Facts = e.Facts with { Files = [new EventFile(Guid.NewGuid(), Guid.NewGuid(), "Sheet.pdf", "application/pdf", 9)] } });
        var row = Assert.Single(here.Take("", Feed));
        Assert.Equal(IntakeKind.Kept, row.Kind);
        Assert.True(here.Origins.Values.Single().IsKept);
        Assert.Single(here.There);
        // Asked again nothing more happens.
        Assert.Empty(here.Take("", Feed));
    }

    [Fact]
    public void What_was_thrown_away_here_stays_away_in_a_feed_and_comes_back_with_a_file()
    {
        var (followed, brought) = (new Here(), new Here());
        followed.Take(Event("a", "Unwanted"), Feed);
        followed.Edit("Unwanted", e => e with { DeletedAt = Now });
        Assert.Equal("ThrownAway", Kinds(followed.Take(Event("a", "Unwanted"), Feed)));
        // Long after, when nothing but where it came from is left.
        followed.Events.Clear();
        Assert.Equal("ThrownAway", Kinds(followed.Take(Event("a", "Unwanted"), Feed)));

        brought.Take(Event("a", "Undone"));
        brought.Edit("Undone", e => e with { DeletedAt = Now });
        Assert.Equal("New", Kinds(brought.Take(Event("a", "Undone"))));
        Assert.Single(brought.Events);
        Assert.Single(brought.There);
    }

    [Fact]
    public void Other_uids_at_each_reading_are_the_same_events()
    {
        var here = new Here();
        here.Take(Event("x1", "Tide table") + Event("x2", "Star log", "20261104T090000"), Feed);
        var rows = here.Take(Event("y1", "Tide table") + Event("y2", "Star log", "20261104T090000"), Feed);
        Assert.Equal("Same Same", Kinds(rows));
        Assert.All(rows, r => Assert.Equal("identity_changed", Assert.Single(r.Notes).Code));
        Assert.Equal(2, here.Events.Count);
        Assert.Equal(["y1", "y2"], here.Origins.Values.Select(o => o.Key).Order());
    }

    [Fact]
    public void Sorted_elsewhere_it_moves_and_moved_by_hand_it_stays()
    {
        var here = new Here();
        here.Take(Event("a", "Essay [Rigging 2]"), Feed);
        here.Take(Event("a", "Essay [Rigging 2]"), Feed, _ => Class);
        Assert.Equal(Class, Assert.Single(here.There).CalendarId);
        var other = Guid.NewGuid();
        here.Edit("Essay [Rigging 2]", e => e with { CalendarId = other });
        here.Take(Event("a", "Essay [Rigging 2]"), Feed, _ => Lane);
        Assert.Equal(other, Assert.Single(here.There).CalendarId);
    }

    [Fact]
    public void A_file_in_two_calendars_is_two()
    {
        var here = new Here();
        here.Take(Event("a", "Open day"));
        Assert.Equal("New", Kinds(here.Take(Event("a", "Open day"), calendarOf: _ => Class)));
        Assert.Equal("Same", Kinds(here.Take(Event("a", "Open day"), calendarOf: _ => Class)));
        Assert.Equal(2, here.There.Count());
    }

    [Fact]
    public void What_lies_outside_or_is_left_does_not_come_and_what_is_here_goes_on()
    {
        var here = new Here();
        var body = Event("a", "Old", "20200103T090000") + Event("b", "Wanted") + Event("c", "Left");
        var rows = here.Take(body, wish: w => w with { From = Day("2026-08-01"), After = Day("2027-08-01"), Leaves = new HashSet<string> { "c" } });
        Assert.Equal("New Outside Left", Kinds(rows));
        // A gone row is shown, and goes only when that is wanted.
        Assert.Equal("Same Gone", Kinds([.. here.Take(Event("b", "Wanted")), .. here.Take(Event("z", "Other"), wish: w => w with { Leaves = new HashSet<string> { "z" } }).Where(r => r.Kind == IntakeKind.Gone)]));
        Assert.Single(here.There);
        here.Take(Event("z", "Other"), wish: w => w with { LetsGo = true });
        Assert.Equal("Other", Assert.Single(here.There).Title);
    }

    public static IEnumerable<TheoryDataRow<int>> Seeds() => Enumerable.Range(0, 80).Select(i => new TheoryDataRow<int>(i));

    /// <summary>
    /// A source that changes at random beside hands that do: after each reading every event that is there is here once, as it is
    /// there wherever no hand touched it, and no hand's work is gone.
    /// </summary>
    [Theory]
    [MemberData(nameof(Seeds))]
    public void However_both_change_nothing_doubles_and_nothing_by_hand_is_lost(int seed)
    {
        var random = new Random(seed);
        var here = new Here();
        var there = new Dictionary<string, (string Title, string Start, string Rule)>();
        var places = new Dictionary<Guid, string>();
        for (var round = 0; round < 8; round++)
        {
            for (var i = 0; i < 4; i++)
            {
                var uid = $"u{random.Next(8)}";
                if (random.Next(4) == 0)
                    there.Remove(uid);
                else
                    there[uid] = ($"Title {uid} {random.Next(5)}", $"2026{random.Next(10, 13)}{random.Next(10, 28)}T0{random.Next(8, 10)}0000", random.Next(3) == 0 ? "RRULE:FREQ=WEEKLY;COUNT=4" : "");
            }
            here.Take(string.Concat(there.Select(e => Event(e.Key, e.Value.Title, e.Value.Start, e.Value.Rule))), Feed);
            // What is there is here once.
            foreach (var (uid, said) in there)
            {
                var origin = Assert.Single(here.Origins.Values, o => o.Key == uid && !o.IsKept);
                var e = here.Events[origin.EventId];
                Assert.Null(e.DeletedAt);
                Assert.Equal((said.Title, said.Start), (e.Title, $"{e.Timing.Start:uuuuMMdd'T'HHmmss}"));
                Assert.Equal(said.Rule.Length > 0, e.Rule is not null);
            }
            // What hands wrote is still there; what they did not touch is gone with its source.
            foreach (var (id, place) in places)
                Assert.Equal((place, null), (here.Events[id].Place, here.Events[id].DeletedAt));
            Assert.All(here.Events.Values.Where(e => e.DeletedAt is null && !places.ContainsKey(e.Id)), e => Assert.Contains(here.Origins[e.Id].Key, there.Keys));
            foreach (var e in here.There.Where(_ => random.Next(4) == 0).ToList())
            {
                places[e.Id] = $"Loft {random.Next(9)}";
                here.Events[e.Id] = e with { Place = places[e.Id], Version = e.Version + 1 };
            }
        }
    }

    [Fact]
    public void It_is_a_command_that_editors_give_and_no_lane_of_a_source_is_changed_by_hand()
    {
        var (lane, own) = (Sample.Calendar() with { Id = Lane, IsFollowed = true }, Sample.Calendar() with { Id = Class });
        var access = new Access(SchoolRole.Member, new Dictionary<Guid, CalendarRole> { [Lane] = CalendarRole.Keeper, [Class] = CalendarRole.Editor }) { Followed = new HashSet<Guid> { Lane } };
        CommandState State(Guid? person, Access may) => new()
        {
            Now = Now,
            PersonId = person,
            Access = may,
            Eyes = Core.Views.Eyes.Of(may, new Dictionary<Guid, Calendar> { [Lane] = lane, [Class] = own }, SchoolLists.Empty, Guid.Empty),
            Calendars = new Dictionary<Guid, Calendar> { [Lane] = lane, [Class] = own },
            Lists = SchoolLists.Empty,
            Days = SchoolDays.None,
        };
        TakeIn Into(Guid calendar) => new(SourceEvent.Of(OddFilesTests.Read(Event("a", "Essay")).Events, Halifax), new IntakeWish { CalendarOf = _ => calendar, Zone = Halifax });
        var me = Guid.NewGuid();
        Assert.Equal("a", Assert.Single(Into(Class).Apply(State(me, access)).Steps).After.Uid);
        Assert.Throws<NotAllowedException>(() => Into(Lane).Apply(State(me, access)));
        Assert.Throws<NotAllowedException>(() => Into(Class).Apply(State(me, access with { Roles = new Dictionary<Guid, CalendarRole> { [Class] = CalendarRole.Reader } })));
        Assert.Throws<NotAllowedException>(() => new MakeEvent(Guid.NewGuid(), Lane, new EventDraft("By hand", "", "", Core.Time.EventTiming.AllDay(Day("2026-11-03"), Day("2026-11-03")), null)).Apply(State(me, access)));
        // An administrator neither.
        Assert.False((access with { School = SchoolRole.Administrator }).MayEdit(Lane));
        // The program itself reads into it; an identity that is taken is not taken twice.
        Assert.NotEqual("a", Assert.Single(Into(Lane).Apply(State(null, Access.Nobody) with { TakenUids = new HashSet<string> { "a" } }).Steps).After.Uid);
    }
}
