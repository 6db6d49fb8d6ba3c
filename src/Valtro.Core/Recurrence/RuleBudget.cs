using System.Globalization;
using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Recurrence;

/// <summary>
/// How dense a series may be. Everybody who looks at a calendar pays for its dates: on the board, in the checks, on the page
/// and in each feed. A lesson every quarter of an hour fits, and an hourly watch for a week; a rule by the second does not.
/// </summary>
public static class RuleBudget
{
    /// <summary>The most dates on one local day.</summary>
    public const int MaxADay = 100;

    /// <summary>The most dates in 366 days.</summary>
    public const int MaxAYear = 4_000;

    private const int Year = 366;

    /// <summary>Refuses a rule that is too dense; it looks at no more dates than two years may have.</summary>
    /// <param name="timing">When the series first is.</param>
    /// <param name="rule">Its rule.</param>
    /// <exception cref="InvalidInputException"><c>rule_too_dense</c>; <c>rule_too_many_steps</c>, <c>rule_contradiction</c> as of the rule itself.</exception>
    public static void Check(EventTiming timing, RecurrenceRule rule)
    {
        var dates = new SeriesDates(timing, rule, []);
        // The first year, and the one from the second day on: the first date may be far before the others (RFC 5545, 3.8.5.3),
        // and the first day may have begun already.
        Check(dates, timing.Start.Date);
        if (dates.From(timing.Start.Date.PlusDays(1).AtMidnight()).Select(d => (LocalDate?)d.Date).FirstOrDefault() is { } second)
            Check(dates, second);
    }

    private static void Check(SeriesDates dates, LocalDate from)
    {
        var (inYear, onDay, day) = (0, 0, from);
        foreach (var date in dates.Between(from, from.PlusDays(Year)))
        {
            onDay = date.Date == day ? onDay + 1 : 1;
            day = date.Date;
            if (onDay > MaxADay)
                throw TooDense($"more than {MaxADay} dates on {day.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)}");
            if (++inYear > MaxAYear)
                throw TooDense(string.Create(CultureInfo.InvariantCulture, $"more than {MaxAYear:N0} dates in a year"));
        }
    }

    private static InvalidInputException TooDense(string what) =>
        new("rule_too_dense", "rule", $"This repeat has {what}. Let it be less often, or end earlier.");
}
