using Valtro.Core.Clashes;
using Valtro.Core.Events;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using static Valtro.Core.Clashes.ClashKind;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Clashes;

public class ClashFinderTests
{
    private static readonly Category Test = new(Guid.NewGuid(), "Test", null, true);
    private static readonly SchoolLists Lists = new() { Categories = [Test], Places = [new Place(Guid.NewGuid(), "Loft 2", 18, "", null, null)], TestsADay = 1 };
    private static readonly TimeWindow Window = new(Day("2026-09-01"), Day("2026-12-31"), Halifax);

    private static readonly SchoolDays Days = new([new SchoolYear
    {
        First = Day("2026-08-01"),
        Last = Day("2027-07-31"),
        Terms = [new Term("Autumn", Day("2026-09-07"), Day("2026-12-18"))],
        Closures = [new Closure("Storm", Day("2026-11-27"), Day("2026-11-27"))],
    }]);

    private int _made;

    /// <summary>Makes an event, each a second younger than the one before.</summary>
    private Event At(string from, string to, string title = "Knots", string place = "Loft 2", string? rule = null, EventFacts? facts = null, Guid? calendar = null) =>
        Core.Events.Event.Create(
            Guid.CreateVersion7(),
            calendar ?? Guid.NewGuid(),
            new EventDraft(title, place, "", Timed(from, from[..11] + to), rule is null ? null : Rule(rule), null, facts),
            Now + Duration.FromSeconds(_made++));

    private static string[] Find(params Event[] events) => Find(null, events);

    private static string[] Find(Guid? about, params Event[] events) =>
        [.. ClashFinder.Find(events.Select(e => e.Seen(Lists)), Window, Lists, Days, about is { } one ? new HashSet<Guid> { one } : null).Select(c => $"{c.Kind} {c.Span.FirstDay:MM-dd} {c.Event.Title}{(c.Other is null ? "" : $" / {c.Other.Title}")}{(c.About.Length == 0 ? "" : $" ({c.About})")}")];

    [Fact]
    public void A_place_taken_twice_is_found_however_it_is_written()
    {
        var sails = At("2026-09-10 09:00", "10:30", "Sail repair", "LOFT  2");
        Assert.Equal(["PlaceTaken 09-10 Sail repair / Splicing (Loft 2)"], Find(sails, At("2026-09-10 10:15", "11:00", "Splicing")));
        Assert.Empty(Find(sails, At("2026-09-10 10:30", "11:00", "Splicing")));
        Assert.Empty(Find(sails, At("2026-09-10 09:00", "11:00", "Splicing", "Loft 1")));
        Assert.Empty(Find(At("2026-09-10 09:00", "10:30", "A", ""), At("2026-09-10 09:00", "10:30", "B", "")));
    }

    [Fact]
    public void A_test_in_the_classes_own_lesson_is_taken_for_what_it_is()
    {
        var (mine, theirs) = (Guid.NewGuid(), Guid.NewGuid());
        var isTest = new EventFacts { CategoryId = Test.Id };
        var lesson = At("2026-09-10 09:00", "10:30", "Chart work", calendar: mine);
        Assert.Equal(["TestInLesson 09-10 Tides quiz / Chart work (Loft 2)"], Find(lesson, At("2026-09-10 09:15", "10:00", "Tides quiz", facts: isTest, calendar: mine)));
        // Whichever was there first, and of the whole lesson too.
        var early = At("2026-09-10 09:00", "10:30", "Tides quiz", facts: isTest, calendar: mine);
        Assert.Equal(["TestInLesson 09-10 Tides quiz / Chart work (Loft 2)"], Find(early, lesson with { CreatedAt = early.CreatedAt + Duration.FromSeconds(1) }));
        // Another class, longer than the lesson, or no test: the room is taken twice.
        Assert.StartsWith("PlaceTaken", Find(lesson, At("2026-09-10 09:15", "10:00", "Tides quiz", facts: isTest, calendar: theirs)).Single());
        Assert.StartsWith("PlaceTaken", Find(lesson, At("2026-09-10 09:15", "10:45", "Tides quiz", facts: isTest, calendar: mine)).Single());
        Assert.StartsWith("PlaceTaken", Find(lesson, At("2026-09-10 09:15", "10:00", "Tides talk", calendar: mine)).Single());
        // Two tests at once are no lesson of each other.
        Assert.Contains(Find(early, At("2026-09-10 09:15", "10:00", "Knots quiz", facts: isTest, calendar: mine)), c => c.StartsWith("PlaceTaken", StringComparison.Ordinal));
        // Placed in the class's calendar it is the class's too.
        var placed = At("2026-09-10 09:15", "10:00", "Tides quiz", facts: isTest with { AlsoIn = [mine] }, calendar: theirs);
        Assert.Equal(["TestInLesson 09-10 Tides quiz / Chart work (Loft 2)"], Find(lesson, placed));
    }

    [Fact]
    public void Whole_days_and_series_take_a_place_too()
    {
        var oiling = Event(AllDay("2026-09-10", "2026-09-11"), title: "Floor oiling") with { Place = "Loft 2" };
        var splicing = At("2026-09-03 13:00", "14:30", "Splicing", rule: "FREQ=WEEKLY;BYDAY=TH,FR");
        Assert.Equal(["PlaceTaken 09-10 Floor oiling / Splicing (Loft 2)", "PlaceTaken 09-11 Floor oiling / Splicing (Loft 2)"], Find(oiling, splicing).Take(2));
        var clashes = ClashFinder.Find([oiling.Seen(), splicing.Seen()], Window, Lists, SchoolDays.None);
        // Both days are one matter.
        Assert.Single(clashes.Select(c => c.Key).Distinct());
        Assert.Equal(2, clashes.Count);
    }

    [Fact]
    public void What_is_called_off_moved_away_free_or_binned_takes_no_place()
    {
        var sails = At("2026-09-10 09:00", "10:30", "Sail repair");
        var other = At("2026-09-10 09:00", "10:30", "Splicing");
        Assert.Empty(Find(sails, other.CallOff(other.Timing.Start, true, Now)));
        Assert.Empty(Find(sails, other with { Facts = new EventFacts { IsFree = true } }));
        Assert.Empty(Find(sails, other.Delete(Now)));
        Assert.Empty(Find(sails, At("2026-09-10 09:00", "10:30", "Splicing", "Loft 1")));
    }

    [Fact]
    public void Too_many_people_for_a_place()
    {
        Assert.Equal(["OverCapacity 09-10 Knots (Loft 2)"], Find(At("2026-09-10 09:00", "10:00", facts: new EventFacts { Size = 19 })));
        Assert.Empty(Find(At("2026-09-10 09:00", "10:00", facts: new EventFacts { Size = 18 })));
        Assert.Empty(Find(At("2026-09-10 09:00", "10:00", place: "Quay", facts: new EventFacts { Size = 900 })));
    }

    [Fact]
    public void On_a_closure_and_a_test_outside_of_term()
    {
        Assert.Equal(["OnClosure 11-27 Knots (Storm)"], Find(At("2026-11-27 09:00", "10:00")));
        Assert.Empty(Find(Event(AllDay("2026-11-27"), title: "Storm closure")));
        Assert.Equal(["OutsideTerm 12-22 Exam"], Find(At("2026-12-22 09:00", "10:00", "Exam", facts: new EventFacts { CategoryId = Test.Id })));
        Assert.Empty(Find(At("2026-12-22 09:00", "10:00")));
    }

    [Fact]
    public void More_tests_on_a_day_than_the_school_allows_for_a_calendar_or_a_placement()
    {
        var (rigging, boats) = (Guid.NewGuid(), Guid.NewGuid());
        var test = new EventFacts { CategoryId = Test.Id };
        var knots = At("2026-09-10 09:00", "10:00", "Knots test", "A", facts: test, calendar: rigging);
        var lines = At("2026-09-10 13:00", "14:00", "Lines test", "B", facts: test with { AlsoIn = [rigging] }, calendar: boats);
        Assert.Equal(["TooManyTests 09-10 Knots test / Lines test"], Find(knots, lines));
        Assert.Equal(rigging, Assert.Single(ClashFinder.Find([knots.Seen(Lists), lines.Seen(Lists)], Window, Lists, Days)).CalendarId);
        Assert.Empty(Find(knots, At("2026-09-10 13:00", "14:00", "Lines test", "B", facts: test, calendar: boats)));
        Assert.Empty(Find(knots, At("2026-09-11 13:00", "14:00", "Lines test", "B", facts: test, calendar: rigging)));
        Assert.Empty(ClashFinder.Find([knots.Seen(Lists), lines.Seen(Lists)], Window, Lists with { TestsADay = 2 }, Days));
    }

    [Fact]
    public void The_same_event_twice()
    {
        Assert.Equal(["Twice 09-10 Launch / launch"], Find(At("2026-09-10 09:00", "10:00", "Launch", "A"), At("2026-09-10 09:00", "10:00", "launch", "B")));
        Assert.Empty(Find(At("2026-09-10 09:00", "10:00", "Launch", "A"), At("2026-09-10 09:00", "10:30", "Launch", "B")));
    }

    [Fact]
    public void A_link_that_outsiders_cannot_open_is_one_matter_for_all_dates_of_a_series()
    {
        var facts = new EventFacts { Links = [new EventLink(LinkKind.More, "", "https://a.example/open"), new EventLink(LinkKind.Register, "", "https://a.example/" + new string('x', 1500))] };
        var e = At("2026-09-10 09:00", "10:00", "Knots", "", "FREQ=WEEKLY;COUNT=4", facts);
        IReadOnlyList<Clash> FindWith(Guid? about, params string[] closed) => ClashFinder.Find([e.Seen()], Window, Lists, Days, about is { } one ? new HashSet<Guid> { one } : null, closed.ToHashSet());
        var clash = Assert.Single(FindWith(null, facts.Links[1].Address, "https://a.example/others"));
        Assert.Equal((LinkClosed, facts.Links[1].Address, Day("2026-09-10")), (clash.Kind, clash.About, clash.Span.FirstDay));
        // What it is accepted by stays short.
        Assert.True(clash.Key.Length < 100);
        Assert.Equal(2, FindWith(null, [.. facts.Links.Select(l => l.Address)]).Select(c => c.Key).Distinct().Count());
        Assert.Empty(FindWith(null));
        Assert.Empty(FindWith(Guid.NewGuid(), facts.Links[0].Address));
    }

    [Fact]
    public void Asked_about_one_event_only_its_own_clashes_are_told_and_it_never_clashes_with_itself()
    {
        var sails = At("2026-09-10 09:00", "10:30", "Sail repair");
        var splicing = At("2026-09-10 09:30", "10:30", "Splicing");
        var knots = At("2026-09-10 10:00", "10:30", "Knots");
        Assert.Equal(3, Find(sails, splicing, knots).Length);
        Assert.Equal(["PlaceTaken 09-10 Sail repair / Knots (Loft 2)", "PlaceTaken 09-10 Splicing / Knots (Loft 2)"], Find(knots.Id, sails, splicing, knots));
        Assert.Empty(Find(At("2026-09-10 09:00", "12:00", rule: "FREQ=HOURLY;COUNT=3")));
    }

    [Fact]
    public void A_school_full_of_clashes_is_told_so_many_of_and_no_more()
    {
        var all = Enumerable.Range(0, 80).Select(i => At("2026-09-10 09:00", "10:30", "Event " + i)).ToArray();
        Assert.Equal(ClashFinder.MaxFound, ClashFinder.Find(all.Select(e => e.Seen()), Window, Lists, Days).Count);
    }

    /// <summary>Places beside comparing every date with every other.</summary>
    [Fact]
    public void Generated_schools_have_the_clashes_that_comparing_all_pairs_finds()
    {
        var found = 0;
        for (var seed = 0; seed < 120; seed++)
        {
            var random = new Random(seed);
            var events = Enumerable.Range(0, 14).Select(i =>
            {
                var start = $"2026-09-{random.Next(7, 12):00} {random.Next(8, 16):00}:{random.Next(4) * 15:00}";
                var facts = random.Next(5) == 0 ? new EventFacts { IsFree = true } : null;
                var e = At(start, "23:00", "Event " + i, "Place " + random.Next(3), random.Next(3) == 0 ? "FREQ=DAILY;COUNT=3" : null, facts);
                return e with { Timing = EventTiming.Zoned(e.Timing.Start, e.Timing.Start.PlusMinutes(random.Next(0, 5) * 45), Halifax) };
            }).ToList();
            var dates = events.Where(e => !e.Facts.IsFree).SelectMany(e => e.All.In(Window), (e, d) => (Event: e, d.Span))
                // What has no length takes no place.
                .Where(d => d.Span.End > d.Span.Start).ToList();
            var expected = (from a in dates
                            from b in dates
                            where a.Event.Id.CompareTo(b.Event.Id) < 0 && a.Event.Place == b.Event.Place
                                && a.Span.Start < b.Span.End && b.Span.Start < a.Span.End
                            select (Max(a.Span.Start, b.Span.Start), Min(a.Span.End, b.Span.End), Pair(a.Event.Title, b.Event.Title))).Order().ToList();
            var ours = ClashFinder.Find(events.Select(e => e.Seen()), Window, Lists, SchoolDays.None).Where(c => c.Kind == PlaceTaken)
                .Select(c => (c.Span.Start, c.Span.End, Pair(c.Event.Title!, c.Other!.Title!))).Order().ToList();
            Assert.True(expected.SequenceEqual(ours), $"Seed {seed}: {string.Join(' ', expected.Except(ours))} / {string.Join(' ', ours.Except(expected))}");
            found += ours.Count;
        }
        Assert.InRange(found, 150, 20_000);
    }

    private static LocalDateTime Min(LocalDateTime a, LocalDateTime b) => LocalDateTime.Min(a, b);

    private static LocalDateTime Max(LocalDateTime a, LocalDateTime b) => LocalDateTime.Max(a, b);

    private static string Pair(string a, string b) => string.CompareOrdinal(a, b) < 0 ? $"{a}/{b}" : $"{b}/{a}";
}
