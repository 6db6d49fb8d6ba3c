using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

/// <summary>How dense a series may be.</summary>
public class RuleBudgetTests
{
    private static void Check(string rule) => RuleBudget.Check(Timed("2026-09-01 09:00", "2026-09-01 09:05"), Rule(rule));

    [Theory]
    [InlineData("FREQ=HOURLY;COUNT=168")]
    [InlineData("FREQ=MINUTELY;INTERVAL=15;COUNT=96")]
    [InlineData("FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR;BYHOUR=8,9,10,11,12,13,14,15")]
    [InlineData("FREQ=DAILY")]
    [InlineData("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29")]
    [InlineData("FREQ=SECONDLY;COUNT=100")]
    [InlineData("FREQ=SECONDLY;BYHOUR=9;BYMINUTE=0;BYSECOND=0")]
    public void What_people_do_fits(string rule) => Check(rule);

    [Theory]
    [InlineData("FREQ=SECONDLY")]
    [InlineData("FREQ=SECONDLY;COUNT=101")]
    [InlineData("FREQ=MINUTELY")]
    [InlineData("FREQ=HOURLY")]
    [InlineData("FREQ=HOURLY;UNTIL=20270301T000000Z")]
    [InlineData("FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=29")]
    [InlineData("FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=31;BYHOUR=0,1,2,3,4,5,6,7,8,9,10,11;BYMINUTE=0,5,10,15,20,25,30,35,40,45")]
    [InlineData("FREQ=DAILY;INTERVAL=800;BYHOUR=10,11;BYMINUTE=1,2,3;BYSECOND=0,1,2,3,4,5,6,7,8,9,10,11,12,13,14,15,16,17,18,19")]
    [InlineData("FREQ=DAILY;BYHOUR=8,9,10,11,12,13;BYMINUTE=0,30")]
    public void What_everybody_else_would_pay_for_is_refused(string rule) =>
        Assert.Equal("rule_too_dense", Assert.Throws<InvalidInputException>(() => Check(rule)).Code);

    [Fact]
    public void What_is_let_in_stays_within_it_in_whatever_year_one_looks()
    {
        var (let, refused) = (0, 0);
        for (var seed = 0; seed < 3_000; seed++)
        {
            var random = new Random(seed);
            var start = At("2026-01-01 00:00").PlusHours(random.Next(24 * 500));
            var timing = EventTiming.Zoned(start, start.PlusMinutes(5), Halifax);
            var rule = Dense(random);
            try
            {
                RuleBudget.Check(timing, rule);
            }
            catch (InvalidInputException e)
            {
                Assert.Contains(e.Code, new[] { "rule_too_dense", "rule_too_many_steps" });
                refused++;
                continue;
            }
            let++;
            var from = start.Date.PlusDays(random.Next(3_000));
            var dates = new SeriesDates(timing, rule, []).Between(from, from.PlusDays(366)).Take(10 * RuleBudget.MaxAYear).ToList();
            // A year may hold a leap day or a fifth week more than the one that was counted.
            Assert.True(dates.Count <= RuleBudget.MaxAYear * 1.2, $"{seed}: {rule} has {dates.Count}");
            Assert.True(dates.GroupBy(d => d.Date).All(d => d.Count() <= RuleBudget.MaxADay), $"{seed}: {rule}");
        }
        Assert.True(let > 500 && refused > 500, $"{let} let in, {refused} refused");
    }

    [Fact]
    public void Whatever_series_is_there_already_touches_a_window_or_is_named_and_fails_nothing()
    {
        var (dense, shown) = (0, 0);
        for (var seed = 0; seed < 3_000; seed++)
        {
            var random = new Random(seed);
            var start = At("2026-01-01 00:00").PlusHours(random.Next(24 * 500));
            var timing = EventTiming.Zoned(start, start.PlusMinutes(5), Halifax);
            var rule = Dense(random);
            var dates = new EventDates(new PlainDates(timing, rule, [], []), [], [], []);
            var from = start.Date.PlusDays(random.Next(3_000));
            var found = dates.In(new TimeWindow(from, from.PlusDays(70), Halifax)).Count();
            var isRefused = Record.Exception(() => RuleBudget.Check(timing, rule)) is not null;
            Assert.Equal(isRefused, dates.IsTooDense);
            Assert.True(found <= 70 * RuleBudget.MaxADay, $"{seed}: {rule} has {found}");
            Assert.False(dates.IsTooDense && (found > 0 || dates.Touches(start.Date, null, Halifax)), $"{seed}: {rule}");
            (dense, shown) = (dense + (dates.IsTooDense ? 1 : 0), shown + (found > 0 ? 1 : 0));
        }
        Assert.True(dense > 500 && shown > 300, $"{dense} too dense, {shown} shown");
    }

    private static RecurrenceRule Dense(Random random)
    {
        string Some(int count, int from, int below) => string.Join(',', Enumerable.Range(0, count).Select(_ => random.Next(from, below)).Distinct().Order());
        var rule = "FREQ=" + new[] { "SECONDLY", "MINUTELY", "HOURLY", "DAILY", "WEEKLY", "MONTHLY", "YEARLY" }[random.Next(7)] + ";INTERVAL=" + new[] { 1, 1, 2, 7, 60, 400 }[random.Next(6)];
        if (random.Next(3) == 0)
            rule += ";BYMONTH=" + Some(random.Next(1, 4), 1, 13);
        if (random.Next(2) == 0)
            rule += ";BYHOUR=" + Some(random.Next(1, 12), 0, 24);
        if (random.Next(2) == 0)
            rule += ";BYMINUTE=" + Some(random.Next(1, 30), 0, 60);
        if (random.Next(3) == 0)
            rule += ";BYSECOND=" + Some(random.Next(1, 30), 0, 60);
        return Rule(rule);
    }
}
