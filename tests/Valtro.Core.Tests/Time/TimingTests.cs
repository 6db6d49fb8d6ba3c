using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Time;

public class TimingTests
{
    [Fact]
    public void An_end_before_the_start_is_refused_and_an_equal_one_is_not()
    {
        Assert.Equal("end_before_start", Code(() => Timed("2026-09-01 10:00", "2026-09-01 09:59")));
        Assert.Equal("end_before_start", Code(() => AllDay("2026-09-02", "2026-09-01")));
        Assert.Equal(Duration.Zero, Timed("2026-09-01 10:00", "2026-09-01 10:00").Length);
    }

    [Fact]
    public void Too_long_and_too_far_are_refused()
    {
        Assert.Equal("too_long", Code(() => AllDay("2026-09-01", "2027-10-06")));
        Assert.Equal(400, AllDay("2026-09-01", "2027-10-05").Days);
        Assert.Equal("date_out_of_range", Code(() => AllDay("1899-12-31")));
        Assert.Equal("date_out_of_range", Code(() => AllDay("2199-12-31", "2200-01-01")));
    }

    [Fact]
    public void Length_is_elapsed_time_also_over_a_clock_change()
    {
        var night = Timed("2026-10-31 23:00", "2026-11-01 03:00");
        Assert.Equal(Duration.FromHours(5), night.Length);
        Assert.Equal(At("2026-11-01 03:00"), night.End);
    }

    [Fact]
    public void A_span_that_turns_round_in_the_repeated_hour_has_no_length()
    {
        // 01:30 comes twice: the earlier is meant, so an end just after the change lies where its clock says.
        var change = Timed("2026-11-01 01:30", "2026-11-01 01:45");
        Assert.Equal(Duration.FromMinutes(15), change.Length);
    }

    [Fact]
    public void An_all_day_event_ends_with_its_last_day()
    {
        var camp = AllDay("2026-09-04", "2026-09-06");
        Assert.Equal(3, camp.Days);
        Assert.Equal(At("2026-09-07 00:00"), camp.End);
        var seen = Seen(camp, "Pacific/Auckland");
        Assert.Equal((Day("2026-09-04"), Day("2026-09-06")), (seen.FirstDay, seen.LastDay));
    }

    [Fact]
    public void A_zoned_event_lies_on_the_days_of_whoever_looks()
    {
        var evening = Timed("2026-09-04 21:00", "2026-09-04 22:00");
        var seen = Seen(evening, "Europe/Paris");
        Assert.Equal(At("2026-09-05 02:00"), seen.Start);
        Assert.Equal(Day("2026-09-05"), seen.FirstDay);
    }

    [Fact]
    public void An_end_at_midnight_does_not_touch_the_next_day()
    {
        var seen = Seen(Timed("2026-09-04 21:00", "2026-09-05 00:00"), "America/Halifax");
        Assert.Equal(Day("2026-09-04"), seen.LastDay);
        var midnight = Seen(Timed("2026-09-05 00:00", "2026-09-05 00:00"), "America/Halifax");
        Assert.Equal((Day("2026-09-05"), Day("2026-09-05")), (midnight.FirstDay, midnight.LastDay));
    }

    [Fact]
    public void A_floating_event_keeps_its_clock_in_every_zone()
    {
        var bell = EventTiming.Floating(At("2026-09-04 09:00"), At("2026-09-04 09:30"));
        var tokyo = Zones.Get("Asia/Tokyo");
        var one = Assert.Single(new SeriesDates(bell, null, []).In(new TimeWindow(Day("2026-09-04"), Day("2026-09-05"), tokyo)));
        Assert.Equal(Instant.FromUtc(2026, 9, 4, 0, 0), one.Start);
        Assert.Equal(At("2026-09-04 09:00"), SeenSpan.Of(bell, one, tokyo).Start);
    }

    [Fact]
    public void Zones_are_known_by_name_and_others_refused_with_a_hint()
    {
        Assert.Contains("America/Halifax", Zones.Names);
        Assert.Contains("UTC", Zones.Names);
        var error = Assert.Throws<InvalidInputException>(() => Zones.Get("Atlantis/Harbour"));
        Assert.Equal(("zone_unknown", "zone"), (error.Code, error.Field));
        Assert.Contains("America/Halifax", error.Message);
    }

    [Fact]
    public void A_window_has_to_be_some_days_long_and_not_too_many()
    {
        Assert.Equal("window_empty", Code(() => new TimeWindow(Day("2026-09-01"), Day("2026-09-01"), Halifax)));
        Assert.Equal("window_too_long", Code(() => new TimeWindow(Day("2026-09-01"), Day("2028-12-01"), Halifax)));
    }

    private static SeenSpan Seen(EventTiming timing, string zone)
    {
        var viewer = Zones.Get(zone);
        var window = new TimeWindow(timing.Start.Date.PlusDays(-3), timing.Start.Date.PlusDays(10), viewer);
        return SeenSpan.Of(timing, Assert.Single(new SeriesDates(timing, null, []).In(window)), viewer);
    }
}
