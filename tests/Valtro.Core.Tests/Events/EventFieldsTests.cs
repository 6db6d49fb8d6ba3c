using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

/// <summary>What the fields of an event hold: for which of its dates, moved, typed over, and changed by somebody else.</summary>
public sealed class EventFieldsTests
{
    private static readonly Event Series = Event(Timed("2026-09-01 22:30", "2026-09-02 00:15"), "FREQ=WEEKLY;BYDAY=TU;COUNT=8", "Knots") with
    {
        Changes = [new EventChange { Date = At("2026-09-15 22:30"), Title = "Exam", Timing = Timed("2026-09-16 14:00", "2026-09-16 15:00") }],
    };

    private static EventFields Fields(string date, EditScope scope, Event? e = null) => EventFields.Of((e ?? Series).Seen(), At(date), scope);

    private static (string, string) When(EventFields f) => (f.When.Start.ToString("MM-dd HH:mm", null), f.When.End.ToString("MM-dd HH:mm", null));

    private static EventFields At_(EventFields f, string start, string end) => f with { When = f.When with { Start = At(start), End = At(end) } };

    [Fact]
    public void They_are_those_of_one_date_with_what_was_changed_on_it()
    {
        var plain = Fields("2026-09-08 22:30", EditScope.ThisDate);
        Assert.Equal(("Knots", ("09-08 22:30", "09-09 00:15")), (plain.Title, When(plain)));
        var changed = Fields("2026-09-15 22:30", EditScope.ThisDate);
        Assert.Equal(("Exam", "Loft 2", ("09-16 14:00", "09-16 15:00")), (changed.Title, changed.Place, When(changed)));
    }

    [Fact]
    public void They_are_the_series_own_for_more_dates_whatever_was_changed_on_the_one()
    {
        var rest = Fields("2026-09-15 22:30", EditScope.FromThisDate);
        Assert.Equal(("Knots", ("09-15 22:30", "09-16 00:15")), (rest.Title, When(rest)));
        Assert.Equal(("09-01 22:30", "09-02 00:15"), When(Fields("2026-09-15 22:30", EditScope.EveryDate)));
    }

    [Fact]
    public void Whole_days_stay_whole_and_end_with_their_last_one()
    {
        var camp = Fields("2026-10-30 00:00", EditScope.FromThisDate, Event(AllDay("2026-09-01", "2026-09-03"), "FREQ=DAILY"));
        Assert.Equal((TimeKind.AllDay, ("10-30 00:00", "11-01 00:00")), (camp.When.Kind, When(camp)));
        Assert.Equal(("10-28 00:00", "10-28 00:00"), When(camp.Shifted(new BoardShift(Days: -2, LongerDays: -9), Day("2026-10-30"), EditScope.ThisDate)));
    }

    [Fact]
    public void What_was_typed_for_one_date_goes_along_to_the_others_with_the_rule()
    {
        var (here, every) = (Fields("2026-09-08 22:30", EditScope.ThisDate), Fields("2026-09-08 22:30", EditScope.EveryDate));
        EventFields Carried(EventFields typed) => typed.CarriedOver(here, EditScope.ThisDate, every, EditScope.EveryDate, Day("2026-09-08"));
        Assert.Equal(every, Carried(here));
        var quay = Carried(At_(here, "2026-09-08 21:00", "2026-09-09 00:15") with { Place = "Quay" });
        Assert.Equal(("Quay", "Knots", ("09-01 21:00", "09-02 00:15")), (quay.Place, quay.Title, When(quay)));
        var typed = At_(here, "2026-09-10 22:30", "2026-09-11 00:15");
        var moved = Carried(typed);
        Assert.Equal((("09-03 22:30", "09-04 00:15"), Rule("FREQ=WEEKLY;BYDAY=TH;COUNT=8")), (When(moved), moved.Rule));
        // And back: one date has no rule of its own.
        Assert.Equal(typed, moved.CarriedOver(every, EditScope.EveryDate, here, EditScope.ThisDate, Day("2026-09-08")));
    }

    [Fact]
    public void A_shift_of_the_board_moves_one_date_or_the_rule_with_all()
    {
        var shift = new BoardShift(Days: 2, Minutes: -90);
        var one = Fields("2026-09-08 22:30", EditScope.ThisDate).Shifted(shift, Day("2026-09-08"), EditScope.ThisDate);
        Assert.Equal((("09-10 21:00", "09-10 22:45"), Series.Rule), (When(one), one.Rule));
        var every = Fields("2026-09-08 22:30", EditScope.EveryDate).Shifted(shift, Day("2026-09-08"), EditScope.EveryDate);
        Assert.Equal((("09-03 21:00", "09-03 22:45"), Rule("FREQ=WEEKLY;BYDAY=TH;COUNT=8")), (When(every), every.Rule));
        // Minutes over midnight are a day as well.
        var late = Fields("2026-09-08 22:30", EditScope.EveryDate).Shifted(new BoardShift(Minutes: 120), Day("2026-09-08"), EditScope.EveryDate);
        Assert.Equal((("09-02 00:30", "09-02 02:15"), Rule("FREQ=WEEKLY;BYDAY=WE;COUNT=8")), (When(late), late.Rule));
    }

    [Fact]
    public void Stretching_leaves_a_quarter_of_an_hour_and_moving_leaves_the_length()
    {
        var one = Fields("2026-09-08 22:30", EditScope.ThisDate);
        EventFields By(EventFields f, BoardShift shift) => f.Shifted(shift, Day("2026-09-08"), EditScope.ThisDate);
        Assert.Equal(("09-08 22:30", "09-08 22:45"), When(By(one, new BoardShift(LongerMinutes: -600))));
        var deadline = At_(one, "2026-09-08 23:59", "2026-09-08 23:59");
        Assert.Equal(("09-09 23:59", "09-09 23:59"), When(By(deadline, new BoardShift(Days: 1))));
        Assert.Equal("shift_too_far", Code(() => new BoardShift(Days: BoardShift.MaxDays + 1).Checked()));
        Assert.Equal("shift_too_far", Code(() => new BoardShift(LongerMinutes: int.MinValue).Checked()));
    }

    private static readonly Event[] Moving =
    [
        Series,
        Event(Timed("2026-09-01 09:00", "2026-09-01 10:00"), "FREQ=WEEKLY;BYDAY=TU,TH;COUNT=9", "Knots"),
        Event(AllDay("2026-09-01", "2026-09-03"), "FREQ=MONTHLY;BYDAY=1TU;COUNT=5", "Camp"),
        Event(Timed("2026-09-08 23:00", "2026-09-09 00:30"), "FREQ=YEARLY;BYMONTH=9;BYMONTHDAY=8;COUNT=3", "Founders"),
        Event(Timed("2026-09-08 23:00", "2026-09-09 00:30"), title: "Once"),
    ];

    private static BoardShift Step(int n) =>
        new(n % 7 - 3, n / 7 % 5 * 45 - 90, n / 3 % 2, n / 5 % 2 * 15, n % 11 == 0 ? new Guid(n, 0, 0, new byte[8]) : null, n % 13 == 0 ? "Quay " + n : null);

    [Property]
    public void However_many_steps_a_move_is_made_in_and_whichever_dates_were_meant_on_the_way_it_is_one_move(byte which, (byte Step, byte Scope)[] steps)
    {
        var (e, date) = (Moving[which % Moving.Length], At("2026-09-08 22:30"));
        date = e.Timing.Start.Date == date.Date ? e.Timing.Start : date.Date.At(e.Timing.Start.TimeOfDay);
        var (was, over, shift) = (EditScope.ThisDate, EventFields.Of(e.Seen(), date, EditScope.ThisDate), BoardShift.None);
        var fields = over;
        foreach (var (step, meant) in steps.Append(((byte)0, (byte)0)))
        {
            var (next, scope) = (Step(step), (EditScope)(meant % 3));
            var saved = EventFields.Of(e.Seen(), date, scope);
            // What is typed on the way stands where it was typed.
            fields = EventFields.Filled(saved, date, scope, next, new TypedFields(fields with { Title = "Typed" }, over, was, shift), out var conflicts);
            Assert.Empty(conflicts);
            Assert.Equal(EventFields.Filled(saved, date, scope, next, null, out _) with { Title = "Typed" }, fields);
            (was, over, shift) = (scope, saved, next);
        }
    }

    [Property]
    public void A_time_that_was_typed_is_moved_on_by_what_is_new_and_the_rule_with_it(byte typedDays, byte typedMinutes, byte first, byte then)
    {
        var date = At("2026-09-08 22:30");
        var (one, every) = (Fields("2026-09-08 22:30", EditScope.ThisDate), Fields("2026-09-08 22:30", EditScope.EveryDate));
        var (before, now) = (new BoardShift(first % 5), new BoardShift(then % 5 - 2));
        var moved = EventFields.Filled(one, date, EditScope.ThisDate, before, null, out _);
        var typed = moved with { When = moved.When with { Start = moved.When.Start.PlusDays(typedDays % 4 + 1).PlusMinutes(-(typedMinutes % 60)) } };
        var here = EventFields.Filled(one, date, EditScope.ThisDate, now, new TypedFields(typed, one, EditScope.ThisDate, before), out var conflicts);
        Assert.Empty(conflicts);
        Assert.Equal(typed.When.Start.PlusDays(now.Days - before.Days), here.When.Start);
        var all = EventFields.Filled(every, date, EditScope.EveryDate, now, new TypedFields(typed, one, EditScope.ThisDate, before), out _);
        Assert.Equal(here.When.Start.PlusDays(-7), all.When.Start);
        Assert.Equal([here.When.Start.DayOfWeek], all.Rule!.Days.InOrder());
    }

    [Fact]
    public void What_somebody_else_saved_is_moved_with_it_and_no_conflict()
    {
        var date = At("2026-09-08 22:30");
        var (over, shift) = (Fields("2026-09-08 22:30", EditScope.EveryDate), new BoardShift(2));
        var typed = EventFields.Filled(over, date, EditScope.EveryDate, shift, null, out _) with { Place = "Quay" };
        var theirs = over with { When = over.When with { Start = At("2026-09-01 21:30") }, Title = "Bends" };
        var merged = EventFields.Filled(theirs, date, EditScope.EveryDate, shift, new TypedFields(typed, over, null, shift), out var conflicts);
        Assert.Empty(conflicts);
        Assert.Equal(("Bends", "Quay", ("09-03 21:30", "09-04 00:15")), (merged.Title, merged.Place, When(merged)));
        // Of what was typed and saved otherwise it is asked, moved on or not.
        typed = typed with { When = typed.When with { Start = At("2026-09-03 20:00") } };
        merged = EventFields.Filled(theirs, date, EditScope.EveryDate, new BoardShift(3), new TypedFields(typed, over, null, shift), out conflicts);
        Assert.Equal(["when"], conflicts);
        Assert.Equal(("09-04 20:00", "09-05 00:15"), When(merged));
    }

    [Fact]
    public void Of_two_who_change_different_things_both_hold_and_of_one_thing_it_is_asked()
    {
        var over = Fields("2026-09-08 22:30", EditScope.EveryDate);
        var mine = over with { Title = "Splices", Facts = over.Facts with { Tags = ["rope"] } };
        var theirs = over with { Place = "Quay", Facts = over.Facts with { Subtitle = "Long ones" } };
        var merged = mine.MergedWith(over, theirs, out var conflicts);
        Assert.Empty(conflicts);
        Assert.Equal(mine with { Place = "Quay", Facts = mine.Facts with { Subtitle = "Long ones" } }, merged);

        mine = mine with { Place = "Slip 1", When = mine.When with { End = At("2026-09-02 00:30") } };
        theirs = theirs with { Rule = Rule("FREQ=WEEKLY;BYDAY=TU;COUNT=9") };
        merged = mine.MergedWith(over, theirs, out conflicts);
        Assert.Equal(["place", "when"], conflicts);
        Assert.Equal(("Slip 1", mine.When, mine.Rule, "Long ones"), (merged.Place, merged.When, merged.Rule, merged.Facts.Subtitle));
    }

    [Property]
    public void Merging_loses_nothing_and_makes_nothing_up(byte mine, byte theirs)
    {
        var over = Fields("2026-09-08 22:30", EditScope.EveryDate);
        EventFields Changed(byte bits, string by) => over with
        {
            Title = (bits & 1) != 0 ? "Title " + by : over.Title,
            Place = (bits & 2) != 0 ? "Place " + by : over.Place,
            Description = (bits & 4) != 0 ? "Same" : over.Description,
            When = (bits & 8) != 0 ? over.When with { End = over.When.End.PlusMinutes(by.Length) } : over.When,
            Facts = over.Facts with { Tags = (bits & 16) != 0 ? [by] : over.Facts.Tags, Size = (bits & 32) != 0 ? by.Length : null },
        };
        var (a, b) = (Changed(mine, "a"), Changed(theirs, "bb"));
        var merged = a.MergedWith(over, b, out var conflicts);
        // The same both ways but for what is asked, and settled with one of both.
        var other = b.MergedWith(over, a, out var others);
        Assert.Equal(conflicts, others);
        var both = mine & theirs & ~4;
        Assert.Equal(conflicts.Count, int.PopCount(both & 59));
        Assert.Equal((mine | theirs) & 1, merged.Title == over.Title ? 0 : 1);
        Assert.Equal(conflicts.Contains("title") ? a.Title : (theirs & 1) != 0 ? b.Title : a.Title, merged.Title);
        Assert.Equal((mine | theirs) & 4, merged.Description == "Same" ? 4 : 0);
        if (conflicts.Count == 0)
            Assert.Equal(merged, other);
        Assert.Equal(b, over.MergedWith(over, b, out _));
        Assert.Equal(a, a.MergedWith(over, over, out _));
    }
}
