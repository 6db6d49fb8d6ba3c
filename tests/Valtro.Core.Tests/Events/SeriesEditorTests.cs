using FsCheck;
using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

public class SeriesEditorTests
{
    private static readonly Instant Later = Now + Duration.FromHours(1);
    private static readonly Dictionary<LocalDateTime, MisfitChoice> Nothing = [];

    /// <summary>Tuesdays and Thursdays at half past nine: 1, 3, 8, 10, 15, 17, 22, 24 September.</summary>
    private static Event Lessons(string end = ";COUNT=8") => Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;BYDAY=TU,TH" + end);

    private static SeriesPlan Plan(Event e, EditScope scope, string date, Func<EventDraft, EventDraft> edit, params (string Date, MisfitChoice Choice)[] choices)
    {
        var at = At(date);
        var draft = scope == EditScope.ThisDate ? SeriesEditor.DraftOf(e, at)
            : scope == EditScope.EveryDate ? new EventDraft(e.Title, e.Place, e.Description, e.Timing, e.Rule)
            : new EventDraft(e.Title, e.Place, e.Description, e.Timing.At(at), e.Rule);
        return SeriesEditor.Plan(e, new SeriesEdit(scope, at, edit(draft), e.CalendarId), choices.ToDictionary(c => At(c.Date), c => c.Choice), Later, Guid.NewGuid);
    }

    private static string[] Seen(params Event?[] events) =>
        [.. events.OfType<Event>().SelectMany(e => e.All.In(new TimeWindow(Day("2026-08-20"), Day("2026-12-20"), Halifax)))
            .OrderBy(d => d.Span.Start)
            .Select(d => d.Span.Start.ToString("MM-dd HH:mm", null) + (d.Change?.IsCalledOff == true ? " off" : "") + (d.Change?.Title is { } t ? " " + t : ""))];

    private static Event Changed(Event e, string date, Func<EventDraft, EventDraft> edit) => Plan(e, EditScope.ThisDate, date, edit).After;

    [Fact]
    public void This_date_keeps_only_what_differs()
    {
        var plan = Plan(Lessons(), EditScope.ThisDate, "2026-09-08 09:30", d => d with { Place = "Quay", Timing = Timed("2026-09-09 14:00", "2026-09-09 15:00") });
        var change = Assert.Single(plan.After.Changes);
        Assert.Equal((At("2026-09-08 09:30"), null, "Quay", null), (change.Date, change.Title, change.Place, change.Description));
        Assert.Equal(new MovedDate(At("2026-09-08 09:30"), At("2026-09-09 14:00")), Assert.Single(plan.Moved));
        Assert.Equal(["09-01 09:30", "09-03 09:30", "09-09 14:00", "09-10 09:30"], Seen(plan.After)[..4]);
        // Put back to what every date is, nothing differs any more.
        var back = Changed(plan.After, "2026-09-08 09:30", d => d with { Place = "Loft 2", Timing = Timed("2026-09-08 09:30", "2026-09-08 11:00") });
        Assert.Empty(back.Changes);
        Assert.Equal(2, back.Sequence);
    }

    [Fact]
    public void A_date_that_moves_onto_a_left_out_one_is_told()
    {
        var gap = Lessons().Skip(At("2026-09-10 09:30"), Later);
        SeriesPlan To(string start, string end) => Plan(gap, EditScope.ThisDate, "2026-09-08 09:30", d => d with { Timing = Timed(start, end) });
        Assert.Equal(At("2026-09-10 14:00"), Assert.Single(To("2026-09-10 14:00", "2026-09-10 15:00").OntoLeftOut).To);
        Assert.Empty(To("2026-09-09 14:00", "2026-09-09 15:00").OntoLeftOut);
    }

    [Fact]
    public void A_date_called_off_stays_and_is_marked()
    {
        var off = Lessons().CallOff(At("2026-09-03 09:30"), true, Later);
        Assert.Equal(["09-01 09:30", "09-03 09:30 off", "09-08 09:30"], Seen(off)[..3]);
        Assert.Empty(off.CallOff(At("2026-09-03 09:30"), false, Later).Changes);
        Assert.Equal("no_such_date", Code(() => off.CallOff(At("2026-09-04 09:30"), true, Later)));
    }

    [Fact]
    public void An_added_date_comes_beside_the_rule_s_and_goes_again()
    {
        var more = Lessons().AddDate(At("2026-09-05 10:00"), Later);
        Assert.Contains("09-05 10:00", Seen(more));
        Assert.Equal("date_is_there", Code(() => more.AddDate(At("2026-09-08 09:30"), Later)));
        Assert.Equal("not_a_series", Code(() => Event(AllDay("2026-09-01")).AddDate(At("2026-09-05 00:00"), Later)));
        Assert.Equal(Seen(Lessons()), Seen(more.RemoveExtra(At("2026-09-05 10:00"), Later)));
    }

    [Fact]
    public void A_field_edit_of_every_date_leaves_changed_fields_alone()
    {
        var e = Changed(Lessons(), "2026-09-08 09:30", d => d with { Title = "Exam" });
        var plan = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", d => d with { Title = "Ropes", Place = "Quay" });
        Assert.Equal(("Ropes", "Quay"), (plan.After.Title, plan.After.Place));
        Assert.Equal("Exam", Assert.Single(plan.After.Changes).Title);
        Assert.Equal(e.Sequence, plan.After.Sequence);
    }

    [Fact]
    public void A_new_time_takes_skips_extras_and_changes_along()
    {
        var e = Changed(Lessons().Skip(At("2026-09-03 09:30"), Later).AddDate(At("2026-09-05 09:30"), Later), "2026-09-10 09:30", d => d with { Title = "Exam" });
        var plan = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", d => d with { Timing = Timed("2026-09-01 13:00", "2026-09-01 14:00") });
        Assert.Equal(["09-01 13:00", "09-05 13:00", "09-08 13:00", "09-10 13:00 Exam"], Seen(plan.After)[..4]);
        Assert.Empty(plan.Gone);
        Assert.Empty(plan.Come);
        Assert.Equal(new MovedDate(At("2026-09-01 09:30"), At("2026-09-01 13:00")), plan.Moved[0]);
        Assert.Equal(At("2026-09-10 13:00"), Assert.Single(plan.Changes).To);
    }

    [Fact]
    public void A_new_pattern_refits_to_the_same_place_in_the_week()
    {
        var e = Changed(Lessons(), "2026-09-10 09:30", d => d with { Title = "Exam" });
        var plan = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", d => d with { Rule = Rule("FREQ=WEEKLY;BYDAY=MO,WE;COUNT=8"), Timing = Timed("2026-08-31 09:30", "2026-08-31 11:00") });
        Assert.Equal("09-09 09:30 Exam", Seen(plan.After)[3]);
        Assert.Equal(new MovedDate(At("2026-09-03 09:30"), At("2026-09-02 09:30")), plan.Moved[1]);
    }

    [Fact]
    public void A_change_that_fits_nowhere_is_named_and_waits_for_a_decision()
    {
        var e = Changed(Lessons(), "2026-09-10 09:30", d => d with { Title = "Exam" });
        EventDraft OnlyTuesdays(EventDraft d) => d with { Rule = Rule("FREQ=WEEKLY;BYDAY=TU;COUNT=4") };
        var open = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", OnlyTuesdays);
        Assert.Equal("Exam", Assert.Single(open.Undecided).Title);
        var named = Assert.Single(open.Changes);
        Assert.True(named.IsMisfit);
        Assert.Equal(At("2026-09-08 09:30"), named.Nearest);
        Assert.Equal([At("2026-09-03 09:30"), At("2026-09-10 09:30"), At("2026-09-17 09:30"), At("2026-09-24 09:30")], open.Gone);

        var kept = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", OnlyTuesdays, ("2026-09-10 09:30", MisfitChoice.KeepAsEvent));
        Assert.Empty(kept.Undecided);
        var own = Assert.Single(kept.Kept);
        Assert.Equal(("Exam", null, At("2026-09-10 09:30"), e.Uid), (own.Title, own.Rule, own.Timing.Start, own.RelatedTo));
        var near = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", OnlyTuesdays, ("2026-09-10 09:30", MisfitChoice.ToNearestDate));
        Assert.Contains("09-08 09:30 Exam", Seen(near.After));
        var dropped = Plan(e, EditScope.EveryDate, "2026-09-01 09:30", OnlyTuesdays, ("2026-09-10 09:30", MisfitChoice.Drop));
        Assert.Empty(dropped.Undecided);
        Assert.Empty(dropped.After.Changes);
    }

    [Fact]
    public void From_this_date_on_splits_and_each_part_keeps_its_own()
    {
        var e = Changed(Changed(Lessons().Skip(At("2026-09-17 09:30"), Later), "2026-09-03 09:30", d => d with { Title = "First" }), "2026-09-22 09:30", d => d with { Title = "Last" });
        var plan = Plan(e, EditScope.FromThisDate, "2026-09-15 09:30", d => d with { Place = "Quay" });
        Assert.Equal(["09-01 09:30", "09-03 09:30 First", "09-08 09:30", "09-10 09:30"], Seen(plan.After));
        Assert.Equal(["09-15 09:30", "09-22 09:30 Last", "09-24 09:30"], Seen(plan.Second));
        Assert.Equal((4, 4), (plan.After.Rule!.Count, plan.Second!.Rule!.Count));
        Assert.Equal((e.Uid, "Quay", "Loft 2"), (plan.Second.RelatedTo, plan.Second.Place, plan.After.Place));
        Assert.NotEqual(e.Uid, plan.Second.Uid);
        Assert.Equal(2, plan.Changes.Count);
    }

    [Fact]
    public void From_the_first_date_on_is_every_date()
    {
        var plan = Plan(Lessons(), EditScope.FromThisDate, "2026-09-01 09:30", d => d with { Place = "Quay" });
        Assert.Null(plan.Second);
        Assert.Equal("Quay", plan.After.Place);
    }

    [Fact]
    public void One_date_cannot_go_to_another_calendar()
    {
        var e = Lessons();
        Assert.Equal("date_calendar", Code(() => SeriesEditor.Plan(
            e, new SeriesEdit(EditScope.ThisDate, e.Timing.Start, SeriesEditor.DraftOf(e, e.Timing.Start), Guid.NewGuid()), Nothing, Later, Guid.NewGuid)));
        Assert.Equal("no_such_date", Code(() => Plan(e, EditScope.ThisDate, "2026-09-02 09:30", d => d)));
    }

    [Fact]
    public void One_date_cannot_turn_into_whole_days() =>
        Assert.Equal("date_kind", Code(() => Plan(Lessons(), EditScope.ThisDate, "2026-09-08 09:30", d => d with { Timing = AllDay("2026-09-08") })));

    [Fact]
    public void A_start_takes_the_time_its_rule_gives_too() =>
        Assert.Equal(At("2026-09-01 13:15"), Event(Timed("2026-09-01 09:30", "2026-09-01 10:00"), "FREQ=DAILY;BYHOUR=8,13;BYMINUTE=15").Timing.Start);

    [Fact]
    public void A_series_made_one_time_keeps_its_added_dates_in_the_feed()
    {
        var once = Plan(Lessons().AddDate(At("2026-09-05 09:30"), Later), EditScope.EveryDate, "2026-09-01 09:30", d => d with { Rule = null }).After;
        Assert.Equal(["09-01 09:30", "09-05 09:30"], Seen(once));
        Assert.Contains("RDATE;TZID=America/Halifax:20260905T093000", ICalendar.Ics.Of(once).Lines);
    }

    [Property(MaxTest = 200)]
    public void Applying_nothing_changes_nothing(int seed, byte scope, byte pick)
    {
        var (e, dates) = Made(seed);
        if (dates.Length == 0)
            return;
        var date = dates[pick % dates.Length];
        if ((EditScope)(scope % 3) == EditScope.FromThisDate)
            return;
        var plan = Plan(e, (EditScope)(scope % 3), date.ToString("uuuu-MM-dd HH:mm", null), d => d);
        Assert.True(plan.IsEmpty);
        Assert.Same(e, plan.After);
    }

    [Property(MaxTest = 200)]
    public void Both_halves_of_a_split_read_as_the_whole(int seed, byte pick)
    {
        var (e, dates) = Made(seed);
        if (dates.Length == 0)
            return;
        var date = dates[pick % dates.Length];
        var plan = Plan(e, EditScope.FromThisDate, date.ToString("uuuu-MM-dd HH:mm", null), d => d);
        Assert.Empty(plan.Undecided);
        Assert.Empty(plan.Come);
        Assert.Empty(plan.Gone);
        Assert.Empty(plan.Moved);
        Assert.Equal(Seen(e), Seen(plan.After, plan.Second));
    }

    [Property(MaxTest = 200)]
    public void No_change_and_no_skip_disappears_without_being_named(int seed, byte pick, byte scope, byte pattern)
    {
        var (e, dates) = Made(seed);
        if (dates.Length == 0)
            return;
        var date = dates[pick % dates.Length];
        string[] rules = ["FREQ=WEEKLY;BYDAY=MO", "FREQ=DAILY;INTERVAL=3", "FREQ=MONTHLY", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,FR"];
        var plan = Plan(
            e,
            scope % 2 == 0 ? EditScope.EveryDate : EditScope.FromThisDate,
            date.ToString("uuuu-MM-dd HH:mm", null),
            d => d with { Rule = Rule(rules[pattern % 4]), Timing = pattern % 2 == 0 ? d.Timing : d.Timing.At(d.Timing.Start.PlusMinutes(45)) });
        Assert.Equal(e.Changes.Select(c => c.Date).Order(), plan.Changes.Select(c => c.Change.Date).Order());
        var found = plan.After.Changes.Length + (plan.Second?.Changes.Length ?? 0) + plan.Undecided.Count;
        Assert.Equal(e.Changes.Length, found);
        Assert.Equal(plan.Changes.Count(c => c.IsMisfit), plan.Undecided.Count);
        Assert.True(e.Skips.Length <= plan.After.Skips.Length + (plan.Second?.Skips.Length ?? 0) + plan.LostSkips.Count + 1);
    }

    /// <summary>A series with skips and changes here and there, and its dates.</summary>
    private static (Event Event, LocalDateTime[] Dates) Made(int seed)
    {
        var random = new Random(seed);
        string[] rules =
        [
            "FREQ=WEEKLY;BYDAY=TU,TH;COUNT=20", "FREQ=DAILY;COUNT=25", "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,WE,FR", "FREQ=MONTHLY;BYDAY=1TU;COUNT=4",
            "FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR;UNTIL=20261120",
        ];
        var e = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), rules[random.Next(rules.Length)]);
        var dates = e.Dates.From(e.Timing.Start).TakeWhile(d => d < At("2026-12-01 00:00")).ToArray();
        foreach (var date in dates)
        {
            e = random.Next(8) switch
            {
                0 when e.Dates.FirstStarts(2).Count() > 1 => e.Skip(date, Later),
                1 => e.CallOff(date, true, Later),
                2 => Changed(e, date.ToString("uuuu-MM-dd HH:mm", null), d => d with { Title = "Other" }),
                3 => Changed(e, date.ToString("uuuu-MM-dd HH:mm", null), d => d with { Timing = d.Timing.At(d.Timing.Start.PlusHours(2)) }),
                _ => e,
            };
        }
        return (e, [.. dates.Where(d => !e.Skips.Contains(d))]);
    }
}
