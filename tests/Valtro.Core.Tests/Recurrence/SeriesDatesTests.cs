using FsCheck;
using FsCheck.Xunit;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

public class SeriesDatesTests
{
    private static readonly EventTiming Lesson = Timed("2026-09-01 09:30", "2026-09-01 11:00"); // a Tuesday

    private static SeriesDates Series(string rule, EventTiming? timing = null, params string[] skips) =>
        new(timing ?? Lesson, Rule(rule), [.. skips.Select(At)]);

    [Fact]
    public void A_weekly_series_falls_on_its_days()
    {
        Assert.Equal(
            ["2026-09-01", "2026-09-03", "2026-09-08", "2026-09-10"],
            Series("FREQ=WEEKLY;BYDAY=TU,TH").Dates("2026-08-01", "2026-09-15"));
        Assert.Equal(["2026-09-01", "2026-09-08"], Series("FREQ=WEEKLY").Dates("2026-08-01", "2026-09-15"));
    }

    [Fact]
    public void Where_a_week_begins_decides_which_weeks_are_left_out()
    {
        // The standard's own example (RFC 5545, 3.8.5.3): the same rule with two week starts.
        var timing = Timed("1997-08-05 09:00", "1997-08-05 10:00");
        Assert.Equal(
            ["1997-08-05", "1997-08-10", "1997-08-19", "1997-08-24"],
            Series("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", timing).Dates("1997-08-01", "1997-10-01"));
        Assert.Equal(
            ["1997-08-05", "1997-08-17", "1997-08-19", "1997-08-31"],
            Series("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", timing).Dates("1997-08-01", "1997-10-01"));
    }

    [Fact]
    public void It_ends_after_a_number_of_times_counting_from_its_start_whatever_the_window()
    {
        var series = Series("FREQ=WEEKLY;BYDAY=TU,TH;COUNT=5");
        Assert.Equal(["2026-09-10", "2026-09-15"], series.Dates("2026-09-10", "2026-12-01"));
        Assert.Equal(At("2026-09-15 09:30"), series.Last);
    }

    [Fact]
    public void An_end_date_belongs_to_the_series_and_an_end_time_counts()
    {
        Assert.Equal(["2026-09-01", "2026-09-02", "2026-09-03"], Series("FREQ=DAILY;UNTIL=20260903").Dates("2026-08-01", "2026-10-01"));
        Assert.Equal(["2026-09-01", "2026-09-02"], Series("FREQ=DAILY;UNTIL=20260903T092959").Dates("2026-08-01", "2026-10-01"));
        Assert.Equal(["2026-09-01", "2026-09-02", "2026-09-03"], Series("FREQ=DAILY;UNTIL=20260903T093000").Dates("2026-08-01", "2026-10-01"));
    }

    [Fact]
    public void A_start_that_the_rule_does_not_give_is_no_date_and_is_not_counted()
    {
        var series = Series("FREQ=WEEKLY;BYDAY=FR;COUNT=2");
        Assert.Equal(["2026-09-04", "2026-09-11"], series.Dates("2026-08-01", "2026-12-01"));
        Assert.Equal(At("2026-09-04 09:30"), series.First);
    }

    [Fact]
    public void Nine_thirty_stays_nine_thirty_when_the_clocks_change()
    {
        // Halifax: 1 November 2026 back to UTC−4, 14 March 2027 on to UTC−3.
        var around = Series("FREQ=WEEKLY;BYDAY=MO").In(new TimeWindow(Day("2026-10-26"), Day("2026-11-03"), Halifax)).ToArray();
        Assert.Equal(Instant.FromUtc(2026, 10, 26, 12, 30), around[0].Start);
        Assert.Equal(Instant.FromUtc(2026, 11, 2, 13, 30), around[1].Start);
    }

    [Fact]
    public void A_time_in_the_gap_moves_on_by_the_gap_and_a_time_that_comes_twice_is_the_earlier()
    {
        // RFC 5545, 3.3.5.
        Assert.Equal(Instant.FromUtc(2027, 3, 14, 6, 30), Zones.ToInstant(At("2027-03-14 02:30"), Halifax));
        Assert.Equal(Instant.FromUtc(2026, 11, 1, 4, 30), Zones.ToInstant(At("2026-11-01 01:30"), Halifax));
        var night = Series("FREQ=DAILY", Timed("2027-03-13 02:30", "2027-03-13 03:00")).In(new TimeWindow(Day("2027-03-13"), Day("2027-03-16"), Halifax));
        Assert.Equal(
            [Instant.FromUtc(2027, 3, 13, 6, 30), Instant.FromUtc(2027, 3, 14, 6, 30), Instant.FromUtc(2027, 3, 15, 5, 30)],
            night.Select(o => o.Start));
        Assert.All(night, o => Assert.Equal(Duration.FromMinutes(30), o.End - o.Start));
    }

    [Fact]
    public void Skipped_dates_are_gone_but_still_counted()
    {
        var series = Series("FREQ=WEEKLY;COUNT=3", null, "2026-09-08 09:30");
        Assert.Equal(["2026-09-01", "2026-09-15"], series.Dates("2026-08-01", "2026-12-01"));
        Assert.Equal([At("2026-09-01 09:30"), At("2026-09-15 09:30")], series.FirstStarts(5));
        Assert.True(series.Makes(At("2026-09-08 09:30")));
        Assert.False(series.Makes(At("2026-09-09 09:30")));
        Assert.False(series.Makes(At("2026-09-08 09:31")));
        Assert.False(series.Makes(At("2026-09-22 09:30")));
    }

    [Fact]
    public void An_all_day_series_is_the_same_days_in_every_zone()
    {
        var series = Series("FREQ=WEEKLY", AllDay("2026-09-01"));
        foreach (var zone in new[] { "Pacific/Kiritimati", "Pacific/Pago_Pago", "America/Halifax" })
        {
            var window = new TimeWindow(Day("2026-09-08"), Day("2026-09-09"), Zones.Get(zone));
            Assert.Equal(At("2026-09-08 00:00"), Assert.Single(series.In(window)).LocalStart);
            Assert.Empty(series.In(new TimeWindow(Day("2026-09-09"), Day("2026-09-15"), Zones.Get(zone))));
        }
    }

    [Fact]
    public void What_touches_the_window_is_in_it_and_what_ends_as_it_opens_is_not()
    {
        var night = new SeriesDates(Timed("2026-09-01 21:00", "2026-09-02 00:30"), null, []);
        Assert.Single(night.Dates("2026-09-02", "2026-09-03"));
        var evening = new SeriesDates(Timed("2026-09-01 21:00", "2026-09-02 00:00"), null, []);
        Assert.Empty(evening.Dates("2026-09-02", "2026-09-03"));
        // An event without length at the first instant of a window belongs to it.
        var bell = new SeriesDates(Timed("2026-09-02 00:00", "2026-09-02 00:00"), null, []);
        Assert.Single(bell.Dates("2026-09-02", "2026-09-03"));
        Assert.Empty(bell.Dates("2026-09-01", "2026-09-02"));
    }

    [Fact]
    public void Contradicting_parts_give_a_series_without_dates()
    {
        // Every seventh day from a Tuesday is never a Monday.
        var never = Series("FREQ=DAILY;INTERVAL=7;BYDAY=MO");
        Assert.Null(never.First);
        Assert.Empty(never.Dates("2026-08-01", "2027-08-01"));
        Assert.Empty(never.StartsFrom(Day("2026-09-01"), 5));
        Assert.Null(Series("FREQ=DAILY;UNTIL=20260101").First);
    }

    [Fact]
    public void Asking_from_a_day_on_gives_the_last_dates_when_too_few_follow()
    {
        var series = Series("FREQ=WEEKLY;COUNT=4");
        Assert.Equal(["2026-09-08", "2026-09-15"], series.StartsFrom(Day("2026-09-02"), 2).Select(s => s.ToString("uuuu-MM-dd", null)));
        Assert.Equal(["2026-09-15", "2026-09-22"], series.StartsFrom(Day("2026-12-01"), 2).Select(s => s.ToString("uuuu-MM-dd", null)));
    }

    [Property(MaxTest = 300)]
    public void It_gives_what_counting_day_by_day_gives(
        bool daily, byte interval, byte days, byte weekStart, byte startOffset, byte ending, ushort windowOffset, byte windowLength)
    {
        var set = Enumerable.Range(1, 7).Where(d => (days >> (d - 1) & 1) != 0)
            .Aggregate(WeekdaySet.Empty, (s, d) => s.With((IsoDayOfWeek)d));
        var start = Day("2026-09-01").PlusDays(startOffset);
        var rule = new RecurrenceRule(
            daily ? Frequency.Daily : Frequency.Weekly,
            interval % 9 + 1,
            set,
            ending % 3 == 1 ? ending + 1 : null,
            ending % 3 == 2 ? new RuleEnd(start.PlusDays(ending)) : null,
            (IsoDayOfWeek)(weekStart % 7 + 1));
        var from = start.PlusDays(windowOffset % 1500 - 100);
        var to = from.PlusDays(windowLength % 120 + 1);

        var timing = EventTiming.Zoned(start.At(new LocalTime(9, 30)), start.At(new LocalTime(11, 0)), Halifax);
        var found = new SeriesDates(timing, rule, []).In(new TimeWindow(from, to, Halifax)).Select(o => o.LocalStart.Date);

        Assert.Equal(DayByDay(rule, start).TakeWhile(d => d < to).Where(d => d >= from), found);
    }

    /// <summary>Looks at every day and asks whether the rule wants it: slow, and too plain to be wrong.</summary>
    private static IEnumerable<LocalDate> DayByDay(RecurrenceRule rule, LocalDate start)
    {
        LocalDate WeekOf(LocalDate day) => day.PlusDays(-(((int)day.DayOfWeek - (int)rule.WeekStart + 7) % 7));
        var given = 0;
        for (var day = start; day < start.PlusDays(2500); day = day.PlusDays(1))
        {
            var wanted = rule.Frequency == Frequency.Daily
                ? Period.DaysBetween(start, day) % rule.Interval == 0 && (rule.Days.IsEmpty || rule.Days.Contains(day.DayOfWeek))
                : Period.DaysBetween(WeekOf(start), WeekOf(day)) / 7 % rule.Interval == 0
                    && (rule.Days.IsEmpty ? day.DayOfWeek == start.DayOfWeek : rule.Days.Contains(day.DayOfWeek));
            if (!wanted)
                continue;
            if (given++ == rule.Count || day > rule.Until?.Date)
                yield break;
            yield return day;
        }
    }
}
