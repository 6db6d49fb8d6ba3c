using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

public class RecurrenceSetTests
{
    private static RecurrenceSet Set(string start, string[] rules, string[]? added = null, string[]? leftOut = null) =>
        new(At(start), false, [.. rules.Select(r => Rule(r))], added?.Select(a => new AddedDate(At(a))).ToArray(), leftOut?.Select(At).ToArray());

    private static string[] Starts(RecurrenceSet set, DateTimeZone zone, Instant from, Instant to) =>
        [.. new Occurrences(set, zone, Duration.FromHours(1), true, from, to).Select(o => o.Start.ToString("MM-dd HH:mm", null))];

    [Fact]
    public void Several_rules_added_dates_and_left_out_ones_make_one_ordered_set()
    {
        var set = Set(
            "2026-09-01 09:00",
            ["FREQ=WEEKLY;COUNT=3", "FREQ=MONTHLY;BYMONTHDAY=8;COUNT=2"],
            ["2026-09-05 10:00", "2026-09-15 09:00"],
            ["2026-09-15 09:00"]);
        Assert.Equal(
            [At("2026-09-01 09:00"), At("2026-09-05 10:00"), At("2026-09-08 09:00"), At("2026-10-08 09:00")],
            set.StartsFrom(At("2026-01-01 00:00")));
        Assert.Equal((At("2026-09-01 09:00"), At("2026-10-08 09:00")), (set.First, set.Last));
        Assert.True(set.Contains(At("2026-09-05 10:00")));
        Assert.False(set.Contains(At("2026-09-15 09:00")));
    }

    [Fact]
    public void Without_a_rule_the_start_is_a_date_and_with_one_only_when_it_gives_it()
    {
        Assert.Equal([At("2026-09-01 09:00"), At("2026-09-03 09:00")], Set("2026-09-01 09:00", [], ["2026-09-03 09:00"]).StartsFrom(At("2026-01-01 00:00")));
        Assert.Equal(At("2026-09-04 09:00"), Set("2026-09-01 09:00", ["FREQ=WEEKLY;BYDAY=FR"]).First);
    }

    [Fact]
    public void An_added_period_keeps_its_own_length()
    {
        var set = new RecurrenceSet(At("2026-09-01 09:00"), false, [], [new AddedDate(At("2026-09-02 09:00"), Duration.FromHours(3))]);
        var lengths = new Occurrences(set, Halifax, Duration.FromHours(1), true, Now - Duration.FromDays(1), Now + Duration.FromDays(9)).Select(o => o.End - o.Start);
        Assert.Equal([Duration.FromHours(1), Duration.FromHours(3)], lengths);
    }

    [Fact]
    public void The_last_date_is_the_one_before_when_the_last_is_left_out()
    {
        var set = Set("2026-09-01 09:00", ["FREQ=WEEKLY;COUNT=3"], null, ["2026-09-15 09:00"]);
        Assert.Equal(At("2026-09-08 09:00"), set.Last);
        Assert.Null(Set("2026-09-01 09:00", ["FREQ=WEEKLY"]).Last);
    }

    [Theory]
    [InlineData("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30")]
    [InlineData("FREQ=DAILY;BYMONTH=4;BYMONTHDAY=31")]
    [InlineData("FREQ=HOURLY;INTERVAL=2;BYHOUR=4")]
    [InlineData("FREQ=MINUTELY;INTERVAL=30;BYMINUTE=7")]
    [InlineData("FREQ=SECONDLY;INTERVAL=10;BYSECOND=3")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO;BYSETPOS=9")]
    [InlineData("FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=31")]
    public void A_rule_that_never_happens_comes_to_an_end_without_dates(string rule)
    {
        var set = Set("2026-09-01 09:00", [rule]);
        Assert.Null(set.First);
        Assert.Empty(Starts(set, Halifax, Now, Now + Duration.FromDays(700)));
    }

    [Fact]
    public void A_rule_that_happens_every_second_is_lazy_and_a_limit_met_is_said()
    {
        var set = Set("2026-09-01 09:00", ["FREQ=SECONDLY"]);
        Assert.Equal(At("2026-09-01 09:00").PlusSeconds(4), set.StartsFrom(At("2026-09-01 09:00")).ElementAt(4));
        Assert.Equal("too_many_dates", Code(() => Starts(set, Halifax, Now, Now + Duration.FromDays(20))));
    }

    [Theory]
    [InlineData("FREQ=DAILY;COUNT=400000", "3000-01-01")]
    [InlineData("FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR;COUNT=5001", "2045-10-31")]
    [InlineData("FREQ=MONTHLY;BYDAY=1MO;COUNT=1200", "2126-08-05")]
    [InlineData("FREQ=YEARLY;COUNT=100", "2125-09-01")]
    [InlineData("FREQ=DAILY;BYDAY=MO,WE;COUNT=1000", "2036-03-31")]
    public void Far_ends_by_number_are_found(string rule, string last)
    {
        var start = Set("2026-09-01 09:00", [rule]);
        if (last != "3000-01-01")
            Assert.Equal(Day(last), start.Last?.Date);
        else
            Assert.Null(start.StartsFrom(Day("3001-01-01").AtMidnight()).Cast<LocalDateTime?>().FirstOrDefault());
    }

    [Fact]
    public void Whole_days_have_no_hours()
    {
        var set = new RecurrenceSet(At("2026-09-01 00:00"), true, [Rule("FREQ=DAILY;BYHOUR=9,10;COUNT=2")]);
        Assert.Equal([At("2026-09-01 00:00"), At("2026-09-02 00:00")], set.StartsFrom(At("2026-09-01 00:00")));
        Assert.Equal("rule_contradiction", Code(() => new RecurrenceSet(At("2026-09-01 00:00"), true, [Rule("FREQ=HOURLY")])));
    }

    /// <summary>Zone, a time in its gap and the instant it means; a time that comes twice and the instant it means.</summary>
    [Theory]
    [InlineData("America/Halifax", "2027-03-14 02:30", "2027-03-14 06:30", "2026-11-01 01:30", "2026-11-01 04:30")]
    [InlineData("Europe/Paris", "2027-03-28 02:30", "2027-03-28 01:30", "2026-10-25 02:30", "2026-10-25 00:30")]
    [InlineData("Australia/Sydney", "2026-10-04 02:30", "2026-10-03 16:30", "2027-04-04 02:30", "2027-04-03 15:30")]
    [InlineData("Australia/Lord_Howe", "2026-10-04 02:15", "2026-10-03 15:45", "2027-04-04 01:45", "2027-04-03 14:45")]
    [InlineData("America/St_Johns", "2027-03-14 02:30", "2027-03-14 06:00", "2026-11-01 01:30", "2026-11-01 04:00")]
    [InlineData("Pacific/Auckland", "2026-09-27 02:30", "2026-09-26 14:30", "2027-04-04 02:30", "2027-04-03 13:30")]
    public void Gaps_and_repeated_hours_are_as_the_standard_says_in_both_hemispheres(string zone, string gap, string gapMeans, string twice, string twiceMeans)
    {
        var own = Zones.Get(zone);
        foreach (var (local, means) in new[] { (At(gap), At(gapMeans).InUtc().ToInstant()), (At(twice), At(twiceMeans).InUtc().ToInstant()) })
        {
            var set = new RecurrenceSet(local.PlusDays(-2), false, [RecurrenceRule.Parse("FREQ=DAILY;COUNT=5", own)]);
            var found = new Occurrences(set, own, Duration.Zero, true, means - Duration.FromHours(12), means + Duration.FromHours(12));
            Assert.Equal(means, Assert.Single(found).Start);
            Assert.Equal(local, Assert.Single(found).LocalStart);
            Assert.Equal(means, Zones.ToInstant(local, own));
        }
    }

    [Fact]
    public void Times_that_move_out_of_a_gap_take_their_place_among_the_others_and_count_once()
    {
        var set = Set("2027-03-13 02:15", ["FREQ=DAILY;BYHOUR=2,3;BYMINUTE=0,15,45"]);
        Assert.Equal(
            ["03-14 06:00", "03-14 06:15", "03-14 06:45"],
            Starts(set, Halifax, Instant.FromUtc(2027, 3, 14, 0, 0), Instant.FromUtc(2027, 3, 14, 12, 0)));
        var uneven = Set("2027-03-13 02:50", ["FREQ=DAILY;BYHOUR=2;BYMINUTE=50"], ["2027-03-14 03:05"]);
        Assert.Equal(
            ["03-14 06:05", "03-14 06:50"],
            Starts(uneven, Halifax, Instant.FromUtc(2027, 3, 14, 0, 0), Instant.FromUtc(2027, 3, 14, 12, 0)));
    }

    [Theory]
    [InlineData("FREQ=WEEKLY;BYMONTHDAY=3", "rule_contradiction")]
    [InlineData("FREQ=MONTHLY;BYWEEKNO=3", "rule_contradiction")]
    [InlineData("FREQ=MONTHLY;BYYEARDAY=3", "rule_contradiction")]
    [InlineData("FREQ=WEEKLY;BYDAY=2MO", "rule_contradiction")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=3;BYDAY=2MO", "rule_contradiction")]
    [InlineData("FREQ=MONTHLY;BYSETPOS=1", "rule_contradiction")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=32", "rule_out_of_range")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=0", "rule_out_of_range")]
    [InlineData("FREQ=YEARLY;BYMONTH=13", "rule_out_of_range")]
    [InlineData("FREQ=DAILY;BYHOUR=24", "rule_out_of_range")]
    [InlineData("FREQ=YEARLY;BYDAY=54MO", "rule_out_of_range")]
    [InlineData("FREQ=FORTNIGHTLY", "rule_malformed")]
    [InlineData("FREQ=MONTHLY;BYDAY=MOO", "rule_malformed")]
    [InlineData("FREQ=DAILY;BYEASTER=1", "rule_malformed")]
    public void What_the_standard_does_not_allow_is_refused_with_its_part(string rule, string code)
    {
        var error = Assert.Throws<InvalidInputException>(() => Rule(rule));
        Assert.Equal(code, error.Code);
        Assert.Contains(code == "rule_malformed" ? "expected" : "RFC 5545, 3.3.10", error.Message);
    }

    [Fact]
    public void Every_kind_of_rule_reads_back_from_its_shortest_text()
    {
        for (var seed = 0; seed < 2000; seed++)
        {
            var rule = Rule(new RuleMaker(seed).Rule(withShort: true));
            Assert.Equal(rule, Rule(rule.ToString()));
            Assert.Equal(rule.ToString(), Rule(rule.ToString()).ToString());
        }
    }
}
