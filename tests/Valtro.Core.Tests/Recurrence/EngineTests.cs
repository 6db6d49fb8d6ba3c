using Valtro.Core.Recurrence;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

public class EngineTests
{
    [Theory]
    [InlineData(false, 1500, 1500)]
    [InlineData(true, 200, 5)]
    public void Every_kind_of_rule_gives_what_asking_every_moment_gives(bool withShort, int rules, int days)
    {
        var failures = new List<string>();
        var some = 0;
        for (var seed = 0; seed < rules; seed++)
        {
            var maker = new RuleMaker(seed);
            var (start, text) = (maker.Start(), maker.Rule(withShort));
            var rule = Rule(text);
            var until = start.PlusDays(days);
            // Two looks through the same window: from the start, and by jumping into its middle.
            var middle = start.PlusDays(days / 2);
            var set = new RecurrenceSet(start, false, [rule]);
            var expected = PlainOracle.Dates(rule, start, until).Take(3000).ToArray();
            var found = set.StartsFrom(start).TakeWhile(d => d < until).Take(3000).ToArray();
            var late = set.StartsFrom(middle).TakeWhile(d => d < until).Take(300).ToArray();
            some += expected.Length > 0 ? 1 : 0;
            if (!expected.SequenceEqual(found))
                failures.Add($"{seed}: {text} from {start}: {First(expected, found)}");
            else if (found.Length < 3000 && !expected.Where(d => d >= middle).Take(300).SequenceEqual(late))
                failures.Add($"{seed}: {text} from {start} seen from {middle}");
            if (set.Last is { } last && expected.Length < 3000 && last < until && last != expected[^1])
                failures.Add($"{seed}: {text} from {start}: ends {last}, not {expected[^1]}");
        }
        Assert.Empty(failures);
        Assert.True(some > rules / 3, $"only {some} rules gave dates");
    }

    /// <summary>
    /// An independent library over thousands of rules. Where it differs, the standard's text decides, and the reason
    /// stands with the kind of rule.
    /// </summary>
    [Fact]
    public void An_independent_library_gives_the_same_but_where_the_standard_is_against_it()
    {
        var failures = new List<string>();
        var (compared, apart) = (0, 0);
        for (var seed = 10_000; seed < 13_000; seed++)
        {
            var maker = new RuleMaker(seed);
            var (start, text) = (maker.Start(), maker.Rule(withShort: false));
            var rule = Rule(text);
            if (WhyApart(rule) is not null)
            {
                apart++;
                continue;
            }
            var until = start.PlusDays(1500);
            var ours = new RecurrenceSet(start, false, [rule]).StartsFrom(start).TakeWhile(d => d < until).Take(25).ToArray();
            // It looks for dates that never come through thousands of years, so it is asked for as many as there are.
            if (ours.Length == 0)
                continue;
            compared++;
            var theirs = Theirs(text, start, ours.Length);
            if (!theirs.SequenceEqual(ours))
                failures.Add($"{seed}: {text} from {start}: {First(theirs, ours)}");
        }
        Assert.Empty(failures);
        Assert.True(compared > 1500, $"only {compared} compared, {apart} not");
    }

    /// <summary>Why the library cannot decide about a rule; null when it can.</summary>
    private static string? WhyApart(RecurrenceRule rule)
    {
        var by = rule.By;
        if (rule.Frequency != Frequency.Yearly)
            return null;
        if (!by.MonthDays.IsEmpty && by.Months.IsEmpty && by.YearDays.IsEmpty && by.Weeks.IsEmpty)
            return "It takes the start's month; the table lets BYMONTHDAY expand the whole year.";
        if (!by.Months.IsEmpty && !(by.YearDays.IsEmpty && by.Weeks.IsEmpty))
            return "It forgets BYMONTH; parts are applied one after the other to the set so far.";
        return null;
    }

    private static LocalDateTime[] Theirs(string rule, LocalDateTime start, int count)
    {
        var e = new Ical.Net.CalendarComponents.CalendarEvent
        {
            Start = new Ical.Net.DataTypes.CalDateTime(start.ToDateTimeUnspecified()),
            RecurrenceRule = new Ical.Net.DataTypes.RecurrenceRule(rule),
        };
        var found = new List<LocalDateTime>();
        try
        {
            foreach (var occurrence in e.GetOccurrences())
            {
                found.Add(LocalDateTime.FromDateTime(occurrence.Period.StartTime.Value));
                if (found.Count == count)
                    break;
            }
        }
        catch (Ical.Net.Evaluation.EvaluationOutOfRangeException)
        {
            // It looked to the end of its calendar for one more date.
        }
        return [.. found];
    }

    private static string First(LocalDateTime[] expected, LocalDateTime[] found)
    {
        var at = expected.Zip(found).TakeWhile(p => p.First == p.Second).Count();
        return $"at {at} of {expected.Length}: expected {(at < expected.Length ? expected[at] : null)}, found {(at < found.Length ? found[at] : null)}";
    }
}
