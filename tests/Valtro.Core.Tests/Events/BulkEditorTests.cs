using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.SchoolYears;
using Valtro.Core.Tests.ICalendar;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

public class BulkEditorTests
{
    private static Event Apply(Event e, BulkAction action, params string[] dates) =>
        BulkEditor.Apply(e, [.. dates.Select(At)], action, Now + Duration.FromHours(1), SchoolDays.None);

    private static Event Series() => Event(Timed("2026-09-08 09:30", "2026-09-08 11:00"), "FREQ=WEEKLY;BYDAY=TU;COUNT=5");

    [Fact]
    public void A_one_time_event_moves_with_its_length_and_keeps_the_rest()
    {
        var e = Event(AllDay("2026-09-08", "2026-09-10"));
        var moved = Apply(e, new BulkAction { MoveDays = -7, Place = "" }, "2026-09-08 00:00");
        Assert.Equal((AllDay("2026-09-01", "2026-09-03"), "", e.Version + 1), (moved.Timing, moved.Place, moved.Version));
    }

    [Fact]
    public void Of_a_series_only_the_chosen_dates_move_change_place_and_are_called_off()
    {
        var after = Apply(Series(), new BulkAction { MoveDays = 1, Place = "Quay", IsOff = true }, "2026-09-15 09:30", "2026-09-22 09:30");
        Assert.Equal([At("2026-09-15 09:30"), At("2026-09-22 09:30")], after.Changes.Select(c => c.Date));
        Assert.All(after.Changes, c => Assert.Equal((c.Date.PlusDays(1), "Quay", true), (c.Timing!.Start, c.Place, c.IsCalledOff)));
        Assert.Equal(Series().Rule, after.Rule);
        Assert.Equal(2, after.Version);
    }

    [Fact]
    public void What_belongs_to_the_event_changes_all_its_dates()
    {
        var (home, category) = (Guid.NewGuid(), Guid.NewGuid());
        var after = Apply(Series(), new BulkAction { CalendarId = home, SetsCategory = true, CategoryId = category, AddTags = ["rope", "Rope"], IsDraft = true }, "2026-09-15 09:30");
        Assert.Equal((home, category, true), (after.CalendarId, after.Facts.CategoryId!.Value, after.Facts.IsDraft));
        Assert.Equal(["rope"], after.Facts.Tags);
        Assert.Empty(after.Changes);
        Assert.Null(Apply(after, new BulkAction { SetsCategory = true }, "2026-09-15 09:30").Facts.CategoryId);
    }

    [Fact]
    public void Deleting_leaves_the_dates_out_and_the_last_one_takes_the_event_along()
    {
        var some = Apply(Series(), new BulkAction { Deletes = true }, "2026-09-15 09:30");
        Assert.Equal((1, null), (some.Skips.Length, some.DeletedAt));
        var all = Apply(Series(), new BulkAction { Deletes = true }, "2026-09-08 09:30", "2026-09-15 09:30", "2026-09-22 09:30", "2026-09-29 09:30", "2026-10-06 09:30");
        Assert.NotNull(all.DeletedAt);
        Assert.NotNull(Apply(Event(AllDay("2026-09-08")), new BulkAction { Deletes = true }, "2026-09-08 00:00").DeletedAt);
    }

    [Property(MaxTest = 60)]
    public void Nothing_to_do_changes_nothing_and_there_and_back_is_where_it_was(sbyte days)
    {
        var series = Series();
        Assert.Same(series, Apply(series, new BulkAction(), "2026-09-15 09:30"));
        Assert.Same(series, Apply(series, new BulkAction { MoveDays = 0, Place = "Loft 2", IsOff = false }, "2026-09-15 09:30"));
        var e = Event(AllDay("2026-09-08", "2026-09-10"));
        var there = Apply(e, new BulkAction { MoveDays = days }, "2026-09-08 00:00");
        Assert.Equal(e.Timing, Apply(there, new BulkAction { MoveDays = -days }, "2026-09-08 00:00").Timing);
    }

    [Fact]
    public void What_cannot_be_is_refused()
    {
        Assert.Equal("move_range", Code(() => Apply(Series(), new BulkAction { MoveDays = 401 }, "2026-09-15 09:30")));
        Assert.Equal("no_such_date", Code(() => Apply(Series(), new BulkAction { IsOff = true }, "2026-09-16 09:30")));
    }

    [Fact]
    public void A_one_time_event_called_off_stays_in_the_feed_as_one_cancelled_component()
    {
        var e = Apply(Event(Timed("2026-09-08 09:30", "2026-09-08 11:00")), new BulkAction { IsOff = true }, "2026-09-08 09:30");
        var feed = Ics.Of(e);
        Assert.Equal("STATUS:CANCELLED", feed.Line("STATUS"));
        Assert.False(feed.Has("RECURRENCE-ID"));
        Assert.Single(feed.Lines, l => l == "BEGIN:VEVENT");
        var on = Apply(e, new BulkAction { IsOff = false }, "2026-09-08 09:30");
        Assert.False(Ics.Of(on).Has("STATUS"));
        Assert.Empty(on.Changes);
        // It is moved with what was said of its date.
        var moved = Apply(e, new BulkAction { MoveDays = 1 }, "2026-09-08 09:30");
        Assert.Equal((At("2026-09-09 09:30"), true), (moved.Timing.Start, moved.All.Of(At("2026-09-09 09:30"))!.IsCalledOff));
    }
}
