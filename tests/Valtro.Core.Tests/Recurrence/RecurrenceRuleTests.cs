using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Valtro.Core.Recurrence;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

public class RecurrenceRuleTests
{
    [Theory]
    [InlineData("FREQ=WEEKLY;BYDAY=TU,TH", "FREQ=WEEKLY;BYDAY=TU,TH")]
    [InlineData("freq=weekly;interval=1;byday=th,tu", "FREQ=WEEKLY;BYDAY=TU,TH")]
    [InlineData("INTERVAL=2;FREQ=DAILY;COUNT=5", "FREQ=DAILY;INTERVAL=2;COUNT=5")]
    [InlineData("FREQ=WEEKLY;WKST=SU;BYDAY=MO", "FREQ=WEEKLY;BYDAY=MO")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2;WKST=SU", "FREQ=WEEKLY;INTERVAL=2")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2;WKST=WE;BYDAY=WE", "FREQ=WEEKLY;INTERVAL=2;BYDAY=WE;WKST=WE")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2;WKST=SU;BYDAY=SU,MO", "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,SU;WKST=SU")]
    [InlineData("FREQ=DAILY;UNTIL=20261212", "FREQ=DAILY;UNTIL=20261212")]
    public void A_rule_is_printed_in_its_shortest_form(string text, string printed) =>
        Assert.Equal(printed, Rule(text).ToString());

    [Fact]
    public void An_end_in_UTC_is_read_as_local_time_of_the_series()
    {
        // Halifax is three hours behind in summer, four in winter.
        Assert.Equal(new RuleEnd(Day("2026-07-01"), new LocalTime(21, 30)), Rule("FREQ=DAILY;UNTIL=20260702T003000Z").Until);
        Assert.Equal(new RuleEnd(Day("2026-12-01"), new LocalTime(20, 30)), Rule("FREQ=DAILY;UNTIL=20261202T003000Z").Until);
    }

    [Fact]
    public void In_a_feed_the_end_takes_the_form_the_start_has()
    {
        var rule = Rule("FREQ=WEEKLY;UNTIL=20261208");
        Assert.Equal("FREQ=WEEKLY;UNTIL=20261208T133000Z", rule.ToICalendar(Timed("2026-09-01 09:30", "2026-09-01 11:00")));
        Assert.Equal("FREQ=WEEKLY;UNTIL=20261208", rule.ToICalendar(AllDay("2026-09-01")));
        Assert.Equal(
            "FREQ=WEEKLY;UNTIL=20261208T093000",
            rule.ToICalendar(Valtro.Core.Time.EventTiming.Floating(At("2026-09-01 09:30"), At("2026-09-01 11:00"))));
    }

    [Theory]
    [InlineData("", "rule_malformed")]
    [InlineData("FREQ", "rule_malformed")]
    [InlineData("INTERVAL=2", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;FREQ=DAILY", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;INTERVAL=two", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;INTERVAL=-1", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;BYDAY=XX", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;UNTIL=tomorrow", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;UNTIL=20260230", "rule_malformed")]
    [InlineData("FREQ=WEEKLY;INTERVAL=0", "rule_interval")]
    [InlineData("FREQ=WEEKLY;INTERVAL=1000001", "rule_interval")]
    [InlineData("FREQ=WEEKLY;COUNT=0", "rule_count")]
    [InlineData("FREQ=WEEKLY;COUNT=1000001", "rule_count")]
    [InlineData("FREQ=WEEKLY;COUNT=2;UNTIL=20261212", "rule_two_ends")]
    public void A_rule_that_says_nothing_sensible_is_refused_by_name(string text, string code) =>
        Assert.Equal(code, Code(() => Rule(text)));

    [Property]
    public void Printed_and_read_back_a_rule_is_the_same(bool daily, PositiveInt interval, byte days, byte ending, PositiveInt amount, byte weekStart)
    {
        var set = Enumerable.Range(1, 7).Where(d => (days >> (d - 1) & 1) != 0)
            .Aggregate(WeekdaySet.Empty, (s, d) => s.With((IsoDayOfWeek)d));
        var end = Day("2026-09-01").PlusDays(amount.Get % 10_000);
        var rule = new RecurrenceRule(
            daily ? Frequency.Daily : Frequency.Weekly,
            interval.Get % 1000 + 1,
            set,
            ending % 3 == 1 ? amount.Get % 10_000 + 1 : null,
            ending % 3 == 2 ? new RuleEnd(end, ending % 2 == 0 ? new LocalTime(9, 30) : null) : null,
            (IsoDayOfWeek)(weekStart % 7 + 1));

        var read = RecurrenceRule.Parse(rule.ToString(), null);

        // WKST is left out where it changes nothing; the dates then are the same.
        var window = new Valtro.Core.Time.TimeWindow(Day("2026-08-01"), Day("2028-08-01"), Halifax);
        var timing = Timed("2026-09-01 09:30", "2026-09-01 11:00");
        Assert.Equal(rule.ToString(), read.ToString());
        Assert.Equal(new SeriesDates(timing, rule, []).In(window), new SeriesDates(timing, read, []).In(window));
    }
}
