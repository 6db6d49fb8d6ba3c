using Valtro.Core.Events;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

public class EventTests
{
    private static readonly Instant Later = Now + Duration.FromHours(1);

    private static Event Weekly() => Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;BYDAY=TU,TH;COUNT=6");

    private static Event Change(Event e, EventDraft draft) =>
        SeriesEditor.Plan(e, new SeriesEdit(EditScope.EveryDate, e.Timing.Start, draft, e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>(), Later, Guid.NewGuid).After;

    private static EventDraft DraftOf(Event e) => new(e.Title, e.Place, e.Description, e.Timing, e.Rule);

    [Theory]
    [InlineData(null, "title_missing")]
    [InlineData("  \t ", "title_missing")]
    public void A_title_is_needed(string? title, string code) =>
        Assert.Equal(code, Code(() => Event(AllDay("2026-09-01"), title: title!)));

    [Fact]
    public void A_text_that_does_not_fit_is_refused_whole_and_never_cut()
    {
        Assert.Equal("text_too_long", Code(() => Event(AllDay("2026-09-01"), title: new string('x', 201))));
        Assert.Equal(200, Event(AllDay("2026-09-01"), title: new string('x', 200)).Title.Length);
        Assert.Equal("text_too_long", Code(() => Texts.Optional(new string('x', 11), "description", 10)));
    }

    [Fact]
    public void Texts_are_trimmed_and_lose_control_characters_but_keep_their_lines()
    {
        Assert.Equal("Rigging test", Texts.Title(" Rigging\ntest ", "title", 50));
        Assert.Equal("One\nTwo\nThree", Texts.Optional("One\r\nTwo\rThree\u0085".TrimEnd('\u0085') + "\u0000", "description", 50));
    }

    [Fact]
    public void A_start_the_rule_does_not_give_moves_to_its_first_date()
    {
        var e = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;BYDAY=FR");
        Assert.Equal(At("2026-09-04 09:30"), e.Timing.Start);
        Assert.Equal(Duration.FromMinutes(90), e.Timing.Length);
    }

    [Fact]
    public void A_rule_that_never_happens_is_refused()
    {
        Assert.Equal("rule_never_happens", Code(() => Event(AllDay("2026-09-01"), "FREQ=DAILY;INTERVAL=7;BYDAY=MO")));
        Assert.Equal("rule_never_happens", Code(() => Event(AllDay("2026-09-01"), "FREQ=WEEKLY;UNTIL=20260831")));
    }

    [Fact]
    public void The_sequence_grows_with_a_change_of_time_and_rests_with_one_of_words()
    {
        var e = Weekly();
        var renamed = Change(e, DraftOf(e) with { Title = "Rope test" });
        Assert.Equal((0, 2, Later), (renamed.Sequence, renamed.Version, renamed.ChangedAt));
        var moved = Change(renamed, DraftOf(renamed) with { Timing = Timed("2026-09-01 10:30", "2026-09-01 12:00") });
        Assert.Equal((1, 3, e.Uid), (moved.Sequence, moved.Version, moved.Uid));
    }

    [Fact]
    public void A_skipped_date_can_be_put_back()
    {
        var e = Weekly();
        var skipped = e.Skip(At("2026-09-08 09:30"), Later);
        Assert.Equal(["2026-09-01", "2026-09-03", "2026-09-10", "2026-09-15", "2026-09-17"], skipped.Dates.Dates("2026-09-01", "2026-10-01"));
        Assert.Same(skipped, skipped.Skip(At("2026-09-08 09:30"), Later));
        var back = skipped.Unskip(At("2026-09-08 09:30"), Later);
        Assert.Equal(e.Dates.Dates("2026-09-01", "2026-10-01"), back.Dates.Dates("2026-09-01", "2026-10-01"));
        Assert.Equal((2, 3), (back.Sequence, back.Version));
        Assert.Equal("no_such_date", Code(() => e.Skip(At("2026-09-09 09:30"), Later)));
        Assert.Equal("no_such_date", Code(() => Event(AllDay("2026-09-01")).Skip(At("2026-09-01 00:00"), Later)));
    }

    [Fact]
    public void The_last_date_of_a_series_cannot_be_skipped()
    {
        var e = Event(AllDay("2026-09-01"), "FREQ=DAILY;COUNT=2").Skip(At("2026-09-01 00:00"), Later);
        Assert.Equal("last_date", Code(() => e.Skip(At("2026-09-02 00:00"), Later)));
    }

    [Fact]
    public void Skips_move_with_a_new_time_of_day()
    {
        var e = Weekly().Skip(At("2026-09-08 09:30"), Later);
        var moved = Change(e, DraftOf(e) with { Timing = Timed("2026-09-01 13:00", "2026-09-01 14:00") });
        Assert.Equal([At("2026-09-08 13:00")], moved.Skips);
        Assert.DoesNotContain("2026-09-08", moved.Dates.Dates("2026-09-01", "2026-10-01"));
    }

    [Fact]
    public void Bin_and_back_keep_the_identity_and_leave_its_readers_where_they_were()
    {
        var e = Weekly();
        var gone = e.Delete(Later);
        Assert.Equal((Later, 0, 2), (gone.DeletedAt, gone.Sequence, gone.Version));
        Assert.Same(gone, gone.Delete(Later));
        var back = gone.Restore(Later);
        Assert.Equal((null, 0, e.Uid, e.Stamps), (back.DeletedAt, back.Sequence, back.Uid, back.Stamps));
    }

    [Fact]
    public void Its_bounds_hold_every_date_as_seen_from_any_zone()
    {
        var e = Weekly();
        var (from, to) = e.Bounds;
        var farEast = e.Dates.In(new Valtro.Core.Time.TimeWindow(Day("2026-08-20"), Day("2026-10-20"), Valtro.Core.Time.Zones.Get("Pacific/Kiritimati")));
        Assert.All(farEast, o => Assert.True(o.Start >= from && o.End <= to));
        Assert.Null(Event(AllDay("2026-09-01"), "FREQ=DAILY").Bounds.To);
    }

    [Fact]
    public void A_calendar_starts_closed_to_outsiders_and_keeps_its_reach_when_renamed()
    {
        var calendar = Valtro.Core.Events.Calendar.Apply(null, Guid.NewGuid(), "Harbour choir", "", "Groups", "America/Halifax", 8);
        Assert.Equal(Valtro.Core.Reach.ReachTable.MembersOnly, calendar.Reach);
        var open = calendar with { Reach = Valtro.Core.Reach.ReachTable.Open };
        var renamed = Valtro.Core.Events.Calendar.Apply(open, open.Id, "Choir", "", "Groups", "America/Halifax", 8);
        Assert.Equal((open.Reach, "Choir", 2), (renamed.Reach, renamed.Title, renamed.After(open).Version));
        Assert.Equal("mark_unknown", Code(() => Valtro.Core.Events.Calendar.Apply(null, Guid.NewGuid(), "Choir", "", "", "America/Halifax", 13)));
        Assert.Equal("zone_unknown", Code(() => Valtro.Core.Events.Calendar.Apply(null, Guid.NewGuid(), "Choir", "", "", null, 1)));
    }
}
