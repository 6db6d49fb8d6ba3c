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
