using FsCheck.Xunit;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

/// <summary>A series dragged on the board: its rule has the date where it was let go.</summary>
public sealed class MovedRuleTests
{
    [Theory]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-24", "2026-11-27", "FREQ=WEEKLY;BYDAY=TH,FR")]
    // On a weekday it has already there is one date less.
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-24", "2026-11-26", "FREQ=WEEKLY;BYDAY=TH")]
    [InlineData("FREQ=MONTHLY;BYDAY=2TU", "2026-11-10", "2026-11-18", "FREQ=MONTHLY;BYDAY=3WE")]
    [InlineData("FREQ=MONTHLY;BYDAY=-1FR", "2026-11-27", "2026-11-26", "FREQ=MONTHLY;BYDAY=-1TH")]
    [InlineData("FREQ=MONTHLY;BYDAY=-1FR", "2026-11-27", "2026-11-20", "FREQ=MONTHLY;BYDAY=3FR")]
    // The fifth one from the start is the last one too: what was said stays said.
    [InlineData("FREQ=MONTHLY;BYDAY=5MO", "2026-11-30", "2026-11-23", "FREQ=MONTHLY;BYDAY=4MO")]
    [InlineData("FREQ=MONTHLY;BYDAY=1MO,3MO", "2026-11-16", "2026-11-18", "FREQ=MONTHLY;BYDAY=1MO,3WE")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=10", "2026-11-10", "2026-11-12", "FREQ=MONTHLY;BYMONTHDAY=12")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=1,15", "2026-11-15", "2026-11-16", "FREQ=MONTHLY;BYMONTHDAY=1,16")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=-1", "2026-11-30", "2026-11-28", "FREQ=MONTHLY;BYMONTHDAY=28")]
    [InlineData("FREQ=YEARLY;BYMONTH=11;BYMONTHDAY=11", "2026-11-11", "2026-12-02", "FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=2")]
    [InlineData("FREQ=YEARLY;BYMONTH=5;BYDAY=2SU", "2026-05-10", "2026-05-16", "FREQ=YEARLY;BYMONTH=5;BYDAY=3SA")]
    public void The_part_that_gave_the_date_goes_along_and_the_others_stay(string rule, string from, string to, string moved) =>
        Assert.Equal(Rule(moved), MovedRule.Of(Rule(rule), Day(from), Day(to)));

    [Theory]
    [InlineData("FREQ=DAILY")]
    [InlineData("FREQ=WEEKLY")]
    [InlineData("FREQ=YEARLY")]
    [InlineData("FREQ=YEARLY;BYDAY=20MO")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=9")]
    public void It_is_the_very_same_where_its_day_follows_from_the_start_or_another_gave_it(string text)
    {
        var rule = Rule(text);
        Assert.Same(rule, MovedRule.Of(rule, Day("2026-11-24"), Day("2026-11-27")));
        Assert.Same(rule, MovedRule.Of(rule, Day("2026-11-24"), Day("2026-11-24")));
    }

    [Theory]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-24", "2026-11-26", "2026-11-27", "2026-11-24")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-24", "2026-11-24", "2026-11-25", "2026-11-25")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-24", "2026-12-01", "2026-12-04", "2026-11-26")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-24", "2026-11-26", "2026-11-23", "2026-11-23")]
    // It began on a Thursday: the Tuesday of that week never was one.
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-26", "2026-11-26", "2026-11-27", "2026-11-27")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "2026-11-26", "2026-12-01", "2026-12-02", "2026-11-26")]
    // Its start is on none of its days.
    [InlineData("FREQ=WEEKLY;BYDAY=MO,TU", "2026-11-26", "2026-12-01", "2026-12-02", "2026-11-26")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU", "2026-11-24", "2026-12-01", "2026-12-03", "2026-11-26")]
    public void It_begins_with_the_first_date_it_had_moved_or_not(string rule, string start, string from, string to, string begins) =>
        Assert.Equal(Day(begins), MovedRule.Start(Rule(rule), Day(start), Day(from), Day(to)));

    /// <summary>Whatever simple rule, whichever of its first dates, moved within its period: the date lies where it was let go.</summary>
    [Property(MaxTest = 500)]
    public void The_moved_date_is_one_of_the_series_then(byte kind, byte offset, byte which, sbyte by)
    {
        var start = Day("2026-09-01").PlusDays(offset % 28);
        string[] kinds =
        [
            "FREQ=WEEKLY", $"FREQ=WEEKLY;BYDAY={WeekdaySet.CodeOf(start.DayOfWeek)},WE,FR", $"FREQ=MONTHLY;BYMONTHDAY={start.Day}",
            $"FREQ=MONTHLY;BYDAY={(start.Day + 6) / 7}{WeekdaySet.CodeOf(start.DayOfWeek)}", "FREQ=DAILY;INTERVAL=9", "FREQ=WEEKLY;INTERVAL=2",
        ];
        var rule = Rule(kinds[kind % kinds.Length]);
        var dates = new SeriesDates(EventTiming.AllDay(start, start), rule, []).FirstStarts(5).Select(d => d.Date).ToList();
        var from = dates[which % dates.Count];
        // Of several weekdays one moves within its week; a day of the month within its month.
        var isOfWeek = rule.Days.Count > 1;
        var to = isOfWeek ? from.PlusDays(1 - (int)from.DayOfWeek + Math.Abs(by % 7)) : from.PlusDays(by % 4);
        if (rule.Frequency == Frequency.Monthly && to.Month != from.Month)
            return;
        // A weekday of every other week stays in its weeks.
        var moved = MovedRule.Of(rule, from, to);
        var begins = MovedRule.Start(rule, start, from, to);
        Assert.Contains(to, new SeriesDates(EventTiming.AllDay(begins, begins), moved, []).FirstStarts(12).Select(d => d.Date));
    }
}
