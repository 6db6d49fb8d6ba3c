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

    /// <summary>
    /// Whether a series that is there already is too dense to be shown: it was kept before there was a limit, or came into the
    /// database another way. It is named then and left out, so that it fails nobody's board, checks, page or feed.
    /// </summary>
    /// <param name="timing">When the series first is.</param>
    /// <param name="rule">Its rule; null for a one-time event.</param>
    public static bool IsTooDense(EventTiming timing, RecurrenceRule? rule)
    {
        if (rule is null || IsSurelyFine(rule))
            return false;
        try
        {
            Check(timing, rule);
            return false;
        }
        catch (InvalidInputException)
        {
            return true;
        }
    }

    // From the rule's parts alone, so that nearly every series is told to be fine without looking at a date.
    private static bool IsSurelyFine(RecurrenceRule rule)
    {
        static long Or(int length, long all) => length == 0 ? all : length;
        var by = rule.By;
        var (hours, minutes, seconds) = (Or(by.Hours.Length, 24), Or(by.Minutes.Length, 60), Or(by.Seconds.Length, 60));
        var aDay = rule.Frequency switch
        {
            Frequency.Secondly => Math.Min(hours * minutes * seconds, 86_400 / rule.Interval + 1),
            Frequency.Minutely => Math.Min(hours * minutes, 1_440 / rule.Interval + 1) * Or(by.Seconds.Length, 1),
            Frequency.Hourly => Math.Min(hours, 24 / rule.Interval + 1) * Or(by.Minutes.Length, 1) * Or(by.Seconds.Length, 1),
            _ => Or(by.Hours.Length, 1) * Or(by.Minutes.Length, 1) * Or(by.Seconds.Length, 1),
        };
        var most = rule.Count ?? long.MaxValue;
        return Math.Min(aDay, most) <= MaxADay && Math.Min(aDay * Year, most) <= MaxAYear;
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
