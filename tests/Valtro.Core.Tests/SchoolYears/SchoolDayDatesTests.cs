using System.Text;
using Ical.Net.DataTypes;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Tests.ICalendar;
using Valtro.Core.Time;
using static Valtro.Core.SchoolYears.ClosureChoice;
using static Valtro.Core.SchoolYears.SchoolDayChoice;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.SchoolYears;

public class SchoolDayDatesTests
{
    private static readonly Guid Class = Guid.NewGuid();

    private static readonly SchoolYear Year = new()
    {
        First = Day("2026-08-01"),
        Last = Day("2027-07-31"),
        Terms = [new Term("Autumn", Day("2026-09-07"), Day("2026-12-18")), new Term("Winter", Day("2027-01-04"), Day("2027-03-12"))],
        Closures = [new Closure("Harvest", Day("2026-09-18"), Day("2026-09-18")), new Closure("Half-term", Day("2026-10-26"), Day("2026-10-30"))],
        CycleLength = 6,
        WeekLetters = ["A", "B"],
    };

    private static readonly SchoolDays Days = new([Year]);

    private static SchoolDayRule Follow(SchoolDayChoice days = AnyDay, ClosureChoice closures = Keep, int[]? cycle = null, int[]? weeks = null) =>
        SchoolDayRule.Of(days, closures, cycle ?? [], weeks ?? [])!;

    private static Event Series(string start, string rule, SchoolDayRule follows, SchoolDays? days = null) => Core.Events.Event.Create(
        Guid.NewGuid(),
        Class,
        new EventDraft("Watch", "", "", Timed($"{start} 09:30", $"{start} 10:30"), Rule(rule), follows),
        Now,
        days ?? Days);

    private static string[] Seen(Event e, string from, string to) =>
        [.. e.All.In(new TimeWindow(Day(from), Day(to), Halifax)).Select(d => d.Span.Start.ToString("MM-dd", null)).Order()];

    [Fact]
    public void Closures_are_left_out()
    {
        var e = Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR", Follow(closures: LeaveOut));
        Assert.Equal(["09-04", "09-11", "09-25"], Seen(e, "2026-09-01", "2026-10-01"));
        // Beyond the years that are kept nothing is known to leave out.
        Assert.Equal(["09-03", "09-10"], Seen(e, "2027-09-01", "2027-09-15"));
        Assert.True(e.Dates.IsEndless);
        Assert.Equal("FREQ=WEEKLY;BYDAY=FR", e.Plain.Rule!.ToString());
        Assert.Equal([At("2026-09-18 09:30"), At("2026-10-30 09:30")], e.Plain.LeftOut);
    }

    [Fact]
    public void A_date_on_a_closure_moves_to_the_next_or_the_previous_open_day()
    {
        Assert.Equal(["09-04", "09-11", "09-21", "09-25"], Seen(Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR", Follow(closures: NextOpenDay)), "2026-09-01", "2026-10-01"));
        Assert.Equal(["09-04", "09-11", "09-17", "09-25"], Seen(Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR", Follow(closures: PreviousOpenDay)), "2026-09-01", "2026-10-01"));
        // Five days of half-term move to one day, which the series has once.
        var daily = Series("2026-10-22", "FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR", Follow(closures: NextOpenDay));
        Assert.Equal(["10-22", "10-23", "11-02", "11-03"], Seen(daily, "2026-10-20", "2026-11-04"));
    }

    [Fact]
    public void A_moved_date_does_not_pass_the_end()
    {
        var e = Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR;UNTIL=20260918", Follow(closures: NextOpenDay));
        Assert.Equal(["09-04", "09-11"], Seen(e, "2026-09-01", "2026-10-01"));
    }

    [Fact]
    public void In_term_there_are_no_dates_outside_of_terms()
    {
        var e = Series("2026-09-01", "FREQ=WEEKLY;BYDAY=TU", Follow(InTerm));
        Assert.Equal("09-08", Seen(e, "2026-08-01", "2026-12-31")[0]);
        Assert.Contains("10-27", Seen(e, "2026-10-01", "2026-11-01"));
        Assert.Equal(["12-15", "01-05"], [Seen(e, "2026-09-01", "2026-12-31")[^1], Seen(e, "2027-01-01", "2027-02-01")[0]]);
        Assert.Equal(At("2027-03-09 09:30"), e.Dates.Last);
    }

    [Fact]
    public void Every_school_day_is_written_as_weeks_with_the_closures_left_out()
    {
        var e = Series("2026-09-01", "FREQ=DAILY;UNTIL=20261218", Follow(OnSchoolDays, LeaveOut));
        Assert.Equal(69, e.Dates.FirstStarts(1000).Count());
        Assert.Equal("FREQ=WEEKLY;UNTIL=20261218;BYDAY=MO,TU,WE,TH,FR", Order(e.Plain.Rule!.ToString()));
        Assert.Equal(6, e.Plain.LeftOut.Length);
        Assert.Empty(e.Plain.Added);
        Assert.Equal(At("2026-09-07 09:30"), e.Plain.Timing.Start);
    }

    [Fact]
    public void Days_of_the_rotation_are_written_as_dates()
    {
        var e = Series("2026-09-01", "FREQ=DAILY;COUNT=8", Follow(cycle: [3]));
        Assert.Equal(["09-09", "09-17", "09-28", "10-06", "10-14", "10-22", "11-06", "11-16"], Seen(e, "2026-09-01", "2027-07-01"));
        Assert.Null(e.Plain.Rule);
        Assert.All(e.Dates.FirstStarts(10), d => Assert.Equal(3, Days.Day(d.Date).CycleDay));
    }

    [Fact]
    public void In_week_B_only()
    {
        var e = Series("2026-09-01", "FREQ=WEEKLY;BYDAY=MO", Follow(InTerm, LeaveOut, weeks: [2]));
        Assert.Equal(["09-14", "09-28", "10-12", "11-02", "11-16"], Seen(e, "2026-09-01", "2026-11-20"));
    }

    [Fact]
    public void A_count_counts_the_dates_taken_and_reaches_beyond_the_years_kept()
    {
        var e = Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR;COUNT=3", Follow(closures: LeaveOut));
        Assert.Equal(["09-04", "09-11", "09-25"], Seen(e, "2026-08-01", "2027-07-01"));
        var far = Series("2027-07-02", "FREQ=WEEKLY;BYDAY=FR;COUNT=7", Follow(closures: LeaveOut));
        Assert.Equal(7, far.Dates.FirstStarts(100).Count());
        Assert.Equal(At("2027-08-13 09:30"), far.Dates.Last);
    }

    [Fact]
    public void A_closure_for_chosen_calendars_concerns_their_series_only()
    {
        var camp = new Closure("Camp", Day("2026-09-08"), Day("2026-09-08"));
        var rule = Follow(closures: LeaveOut);
        string[] With(params Guid[] calendars) => Seen(
            Series("2026-09-01", "FREQ=WEEKLY;BYDAY=TU;COUNT=3", rule, new SchoolDays([Year with { Closures = [camp with { CalendarIds = [.. calendars] }] }])), "2026-09-01", "2026-10-10");
        Assert.Equal(["09-01", "09-15", "09-22"], With(Class));
        Assert.Equal(["09-01", "09-08", "09-15"], With(Guid.NewGuid()));
    }

    [Fact]
    public void Without_a_year_a_series_that_needs_one_is_refused_and_others_go_by_their_rule()
    {
        Assert.Equal("no_school_days", Code(() => Series("2026-09-01", "FREQ=DAILY", Follow(cycle: [3]), SchoolDays.None)));
        Assert.Equal("no_school_days", Code(() => Series("2026-09-01", "FREQ=DAILY", Follow(cycle: [9]))));
        Assert.Equal("no_school_days", Code(() => Series("2027-03-20", "FREQ=DAILY", Follow(InTerm))));
        Assert.Equal(["09-04", "09-11", "09-18"], Seen(Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR", Follow(closures: LeaveOut), SchoolDays.None), "2026-09-01", "2026-09-25"));
    }

    [Fact]
    public void A_pattern_that_changes_nothing_is_none_and_bad_ones_are_refused()
    {
        Assert.Null(SchoolDayRule.Of(AnyDay, Keep, [], []));
        // School days are open ones, whatever was said of closures.
        Assert.Equal((OnSchoolDays, LeaveOut), (Follow(cycle: [2]).Days, Follow(cycle: [2]).Closures));
        Assert.Equal(Follow(cycle: [3, 1, 3]), Follow(cycle: [1, 3]));
        Assert.Equal("cycle_day_unknown", Code(() => SchoolDayRule.Of(AnyDay, Keep, [11], [])));
        Assert.Equal("week_unknown", Code(() => SchoolDayRule.Of(AnyDay, Keep, [], [0])));
    }

    [Fact]
    public void A_rule_with_too_many_dates_is_refused()
    {
        Assert.Equal("too_many_dates", Code(() => Series("2026-09-04", "FREQ=MINUTELY", Follow(closures: LeaveOut))));
    }

    [Fact]
    public void When_the_year_changes_dates_come_and_go_and_those_changed_by_hand_stay()
    {
        var e = Series("2026-09-08", "FREQ=WEEKLY;BYDAY=TU", Follow(InTerm, LeaveOut))
            .CallOff(At("2026-09-22 09:30"), true, Now)
            .Skip(At("2026-09-29 09:30"), Now)
            .AddDate(At("2026-12-22 09:30"), Now);
        var storm = new SchoolDays([Year with { Closures = [.. Year.Closures, new Closure("Storm", Day("2026-09-14"), Day("2026-09-22")), new Closure("Gale", Day("2026-12-21"), Day("2026-12-23"))] }]);
        var after = e.Recomputed(storm, Now);
        Assert.Equal((e.Sequence + 1, e.Version + 1), (after.Sequence, after.Version));
        // The 15th is shut now; the 22nd too, but was called off by hand; the 29th stays left out, the added date stays.
        Assert.Equal(["09-08", "09-22", "10-06"], Seen(after, "2026-09-01", "2026-10-08"));
        Assert.Contains("12-22", Seen(after, "2026-12-20", "2026-12-24"));
        // As every other date, it goes; and the year put back gives the series back.
        Assert.Equal(["09-08", "10-06"], Seen(after.WithoutChange(At("2026-09-22 09:30"), Now), "2026-09-01", "2026-10-08"));
        var back = after.Recomputed(Days, Now);
        Assert.Equal(e.Plain, back.Plain);
        Assert.Same(back, back.Recomputed(Days, Now));
        Assert.Equal(Seen(e, "2026-09-01", "2027-07-01"), Seen(back, "2026-09-01", "2027-07-01"));
    }

    [Fact]
    public void A_series_may_lose_its_last_date_with_the_year_and_then_goes_out_no_more()
    {
        var e = Series("2026-09-08", "FREQ=WEEKLY;BYDAY=TU;COUNT=2", Follow(InTerm));
        var none = e.Recomputed(new SchoolDays([Year with { Terms = [] }]), Now);
        Assert.Empty(Seen(none, "2026-08-01", "2027-07-31"));
        Assert.True(none.Plain.IsNothing);
        Assert.False(Ics.Of(none).Has("UID"));
        Assert.Equal(Seen(e, "2026-08-01", "2027-07-31"), Seen(none.Recomputed(Days, Now), "2026-08-01", "2027-07-31"));
    }

    [Fact]
    public void From_a_moved_date_on_a_series_splits_where_its_rule_has_that_date()
    {
        var e = Series("2026-09-04", "FREQ=WEEKLY;BYDAY=FR;UNTIL=20261010", Follow(closures: NextOpenDay));
        var moved = At("2026-09-21 09:30");
        var plan = SeriesEditor.Plan(
            e,
            new SeriesEdit(EditScope.FromThisDate, moved, new EventDraft("Long watch", "", "", e.Timing.At(moved), e.Rule, e.Follows), e.CalendarId),
            new Dictionary<LocalDateTime, MisfitChoice>(),
            Now,
            Guid.NewGuid,
            Days);
        Assert.Equal(["09-04", "09-11"], Seen(plan.After, "2026-08-01", "2027-07-01"));
        Assert.Equal(["09-21", "09-25", "10-02", "10-09"], Seen(plan.Second!, "2026-08-01", "2027-07-01"));
        Assert.Empty(plan.Come);
        Assert.Empty(plan.Gone);
    }

    [Fact]
    public void An_edit_to_school_days_shows_which_dates_go_and_refits_changes()
    {
        var e = Event(Timed("2026-09-04 09:30", "2026-09-04 10:30"), "FREQ=WEEKLY;BYDAY=FR;UNTIL=20261010", calendar: Class)
            .CallOff(At("2026-09-18 09:30"), true, Now);
        SeriesPlan To(ClosureChoice closures) => SeriesEditor.Plan(
            e,
            new SeriesEdit(EditScope.EveryDate, e.Timing.Start, new EventDraft(e.Title, e.Place, e.Description, e.Timing, e.Rule, Follow(closures: closures)), e.CalendarId),
            new Dictionary<LocalDateTime, MisfitChoice>(),
            Now,
            Guid.NewGuid,
            Days);
        var left = To(LeaveOut);
        Assert.Equal([At("2026-09-18 09:30")], left.Gone);
        Assert.Equal(At("2026-09-18 09:30"), Assert.Single(left.Undecided).Date);
        var next = To(NextOpenDay);
        Assert.Empty(next.Undecided);
        Assert.Equal(new MovedDate(At("2026-09-18 09:30"), At("2026-09-21 09:30")), Assert.Single(next.Moved));
        Assert.Equal(At("2026-09-21 09:30"), Assert.Single(next.After.Changes).Date);
        Assert.Equal("no_school_days", Code(() => SeriesEditor.Plan(
            e,
            new SeriesEdit(EditScope.EveryDate, e.Timing.Start, new EventDraft(e.Title, e.Place, e.Description, e.Timing, e.Rule, Follow(cycle: [9])), e.CalendarId),
            new Dictionary<LocalDateTime, MisfitChoice>(),
            Now,
            Guid.NewGuid,
            Days)));
    }

    /// <summary>600 generated series over generated years: the dates a person with a pencil finds, in the shortest of the forms, the same for an independent reader.</summary>
    [Fact]
    public void Generated_series_give_the_dates_found_by_walking_through_the_year()
    {
        var (checkedSeries, rules, lists) = (0, 0, 0);
        for (var seed = 0; seed < 600; seed++)
        {
            var maker = new SchoolMaker(seed);
            var year = maker.Year(2026, Class);
            if (maker.Follows() is not { } follows)
                continue;
            var (start, text) = maker.Rule(2026);
            var days = new SchoolDays([year]);
            var rule = Rule(text);
            Event e;
            try
            {
                e = Core.Events.Event.Create(
                    Guid.NewGuid(), Class, new EventDraft("Watch", "", "", EventTiming.Zoned(start, start.PlusHours(1), Halifax), rule, follows), Now, days);
            }
            catch (InvalidInputException error) when (error.Code is "no_school_days" or "rule_never_happens")
            {
                continue;
            }
            var plain = rule.WithEnd(null, rule.Until);
            var given = new SeriesDates(e.Timing, plain, []).From(e.Timing.Start).TakeWhile(d => d.Date <= year.Last.PlusDays(200));
            var expected = given
                .Select(d => d.Date > year.Last ? (follows.NeedsYear ? null : d) : SchoolMaker.Placed(d, follows, year, Class, rule.Until?.Date))
                .OfType<LocalDateTime>().Distinct().Order().Take(rule.Count ?? int.MaxValue)
                .Where(d => d.Date <= year.Last.PlusDays(150)).ToList();
            var ours = e.Dates.From(LocalDateTime.MinIsoValue).TakeWhile(d => d.Date <= year.Last.PlusDays(150)).ToList();
            Assert.True(expected.SequenceEqual(ours), $"Seed {seed}: {text} from {start}, {follows}: {string.Join(' ', expected.Except(ours))} / {string.Join(' ', ours.Except(expected))}");

            var feed = Ics.Of(e);
            var read = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(feed.Bytes))!
                .GetOccurrences(new CalDateTime(2026, 7, 1))
                .Select(o => LocalDateTime.FromDateTime(o.Period.StartTime.Value))
                .TakeWhile(d => d.Date <= year.Last.PlusDays(150)).Distinct().Order();
            Assert.True(ours.SequenceEqual(read), $"Seed {seed}: the reader finds other dates: {string.Join(' ', read.Except(ours))} / {string.Join(' ', ours.Except(read))}");
            if (!e.Dates.IsEndless && e.Dates.Last!.Value.Date <= year.Last)
            {
                var listed = e with { BySchoolDays = new PlainDates(e.Timing.At(ours[0]), null, [], [.. ours.Skip(1)]) };
                Assert.True(feed.Bytes.Length <= Ics.Of(listed).Bytes.Length, $"Seed {seed}: a list is shorter.");
            }
            checkedSeries++;
            rules += e.Plain.Rule is null ? 0 : 1;
            lists += e.Plain.Rule is null ? 1 : 0;
        }
        Assert.InRange(checkedSeries, 350, 600);
        Assert.InRange(rules, 100, checkedSeries);
        Assert.InRange(lists, 50, checkedSeries);
    }

    [Fact]
    public void Split_at_any_date_and_with_nothing_changed_both_halves_are_the_whole()
    {
        var split = 0;
        for (var seed = 1000; seed < 1300; seed++)
        {
            var maker = new SchoolMaker(seed);
            var days = new SchoolDays([maker.Year(2026, Class)]);
            var (follows, (start, text)) = (maker.Follows(), maker.Rule(2026));
            Event e;
            try
            {
                e = Core.Events.Event.Create(
                    Guid.NewGuid(), Class, new EventDraft("Watch", "", "", EventTiming.Zoned(start, start.PlusHours(1), Halifax), Rule(text), follows), Now, days);
            }
            catch (InvalidInputException error) when (error.Code is "no_school_days" or "rule_never_happens")
            {
                continue;
            }
            var window = new TimeWindow(Day("2026-07-01"), Day("2027-10-01"), Halifax);
            var whole = e.Dates.In(window).Select(o => o.LocalStart).ToList();
            var at = whole[seed % whole.Count];
            SeriesPlan To(EditScope scope, LocalDateTime from, string title) => SeriesEditor.Plan(
                e, new SeriesEdit(scope, at, new EventDraft(title, "", "", e.Timing.At(from), e.Rule, e.Follows), Class), new Dictionary<LocalDateTime, MisfitChoice>(), Now, Guid.NewGuid, days);

            Assert.Same(e, To(EditScope.EveryDate, e.Timing.Start, "Watch").After);
            if (at == whole[0])
                continue;
            var plan = To(EditScope.FromThisDate, at, "Long watch");
            var halves = plan.After.Dates.In(window).Concat(plan.Second!.Dates.In(window)).Select(o => o.LocalStart).ToList();
            Assert.True(whole.SequenceEqual(halves), $"Seed {seed}: {text} from {start}, {follows}, split at {at}: {string.Join(" ", whole)} / {string.Join(" ", halves)} / {plan.After.Plain.Rule}, {plan.Second.Plain.Rule}");
            Assert.True(plan.Second.Dates.Makes(at), $"Seed {seed}: {at}");
            split++;
        }
        Assert.InRange(split, 100, 300);
    }

    private static string Order(string rule) => string.Join(';', rule.Split(';').OrderBy(p => p.Length > 5 && p.StartsWith("BYDAY", StringComparison.Ordinal)));
}
