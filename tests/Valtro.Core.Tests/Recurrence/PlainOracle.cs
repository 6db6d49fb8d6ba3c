using NodaTime.Calendars;
using Valtro.Core.Recurrence;

namespace Valtro.Core.Tests.Recurrence;

/// <summary>
/// Looks at every day, hour, minute or second there is and asks whether the rule wants it, part by part as the table of
/// RFC 5545, 3.3.10 says. Slow, and shares nothing with the engine.
/// </summary>
internal static class PlainOracle
{
    public static IEnumerable<LocalDateTime> Dates(RecurrenceRule rule, LocalDateTime start, LocalDateTime until)
    {
        var given = 0;
        foreach (var date in Chosen(rule, start, until))
        {
            if (date < start)
                continue;
            if (given++ == rule.Count || date >= until)
                yield break;
            yield return date;
        }
    }

    private static IEnumerable<LocalDateTime> Chosen(RecurrenceRule rule, LocalDateTime start, LocalDateTime until)
    {
        foreach (var period in Candidates(rule, start, until).GroupAdjacent(c => PeriodOf(rule, start, c)))
        {
            if (period.Key % rule.Interval != 0)
                continue;
            var set = period.Items.Where(c => Wants(rule, start, c)).ToList();
            if (rule.By.Positions.IsEmpty)
            {
                foreach (var date in set)
                    yield return date;
                continue;
            }
            for (var i = 0; i < set.Count; i++)
            {
                if (rule.By.Positions.Contains(i + 1) || rule.By.Positions.Contains(i - set.Count))
                    yield return set[i];
            }
        }
    }

    /// <summary>Every moment that could be one: whole periods, from the one the start lies in.</summary>
    private static IEnumerable<LocalDateTime> Candidates(RecurrenceRule rule, LocalDateTime start, LocalDateTime until)
    {
        var by = rule.By;
        var hours = by.Hours.IsEmpty && rule.Frequency >= Frequency.Daily ? [start.Hour] : by.Hours.IsEmpty ? Enumerable.Range(0, 24).ToArray() : [.. by.Hours];
        var minutes = by.Minutes.IsEmpty && rule.Frequency >= Frequency.Hourly ? [start.Minute] : by.Minutes.IsEmpty ? Enumerable.Range(0, 60).ToArray() : [.. by.Minutes];
        var seconds = by.Seconds.IsEmpty && rule.Frequency >= Frequency.Minutely ? [start.Second] : by.Seconds.IsEmpty ? Enumerable.Range(0, 60).ToArray() : by.Seconds.ToArray();
        var first = rule.Frequency switch
        {
            Frequency.Yearly => new LocalDate(start.Year, 1, 1).PlusDays(-7),
            Frequency.Monthly => new LocalDate(start.Year, start.Month, 1),
            Frequency.Weekly => start.Date.PlusDays(-6),
            _ => start.Date,
        };
        // One period more than asked for: a place counted from its end needs it whole.
        var last = rule.Frequency switch { Frequency.Yearly => 380, Frequency.Monthly => 31, Frequency.Weekly => 7, _ => 0 };
        for (var day = first; day <= until.Date.PlusDays(last); day = day.PlusDays(1))
        {
            if (!WantsDay(rule, start, day))
                continue;
            foreach (var hour in hours)
            {
                foreach (var minute in minutes)
                {
                    foreach (var second in seconds)
                        yield return day.At(new LocalTime(hour, minute, second));
                }
            }
        }
    }

    private static long PeriodOf(RecurrenceRule rule, LocalDateTime start, LocalDateTime date)
    {
        long Between(LocalDateTime a, LocalDateTime b, long seconds) =>
            (long)Math.Floor((double)Period.Between(a, b, PeriodUnits.Seconds).Seconds / seconds);
        LocalDate WeekOf(LocalDate day) => day.PlusDays(-(((int)day.DayOfWeek - (int)rule.WeekStart + 7) % 7));
        return rule.Frequency switch
        {
            Frequency.Yearly => YearOf(rule, date.Date) - YearOf(rule, start.Date, true),
            Frequency.Monthly => (date.Year - start.Year) * 12 + date.Month - start.Month,
            Frequency.Weekly => Period.DaysBetween(WeekOf(start.Date), WeekOf(date.Date)) / 7,
            Frequency.Daily => Period.DaysBetween(start.Date, date.Date),
            Frequency.Hourly => Between(start.With(TimeAdjusters.TruncateToHour), date, 3600),
            Frequency.Minutely => Between(start.With(TimeAdjusters.TruncateToMinute), date, 60),
            _ => Between(start, date, 1),
        };
    }

    /// <summary>A numbered week belongs whole to its year, also where it reaches over the year's ends.</summary>
    private static int YearOf(RecurrenceRule rule, LocalDate date, bool isStart = false) =>
        rule.By.Weeks.IsEmpty || isStart ? date.Year : Weeks(rule).GetWeekYear(date);

    private static IWeekYearRule Weeks(RecurrenceRule rule) => WeekYearRules.ForMinDaysInFirstWeek(4, rule.WeekStart);

    private static bool Wants(RecurrenceRule rule, LocalDateTime start, LocalDateTime date) =>
        // Whole periods of seconds, minutes and hours lie from the start on.
        rule.Frequency >= Frequency.Daily || PeriodOf(rule, start, date) >= 0;

    private static bool WantsDay(RecurrenceRule rule, LocalDateTime start, LocalDate day)
    {
        var by = rule.By;
        var monthLength = CalendarSystem.Iso.GetDaysInMonth(day.Year, day.Month);
        var yearLength = CalendarSystem.Iso.GetDaysInYear(day.Year);
        bool In(IReadOnlyCollection<int> values, int number, int size) => values.Contains(number) || values.Contains(number - size - 1);

        if (!by.Months.IsEmpty && !by.Months.Contains(day.Month))
            return false;
        if (!by.Weeks.IsEmpty)
        {
            var year = Weeks(rule).GetWeekYear(day);
            if (!In(by.Weeks, Weeks(rule).GetWeekOfWeekYear(day), Weeks(rule).GetWeeksInWeekYear(year, CalendarSystem.Iso)))
                return false;
        }
        if (!by.YearDays.IsEmpty && !In(by.YearDays, day.DayOfYear, yearLength))
            return false;
        if (!by.MonthDays.IsEmpty && !In(by.MonthDays, day.Day, monthLength))
            return false;
        if (!rule.Days.IsEmpty || !by.NumberedDays.IsEmpty)
        {
            var inMonth = rule.Frequency == Frequency.Monthly || !by.Months.IsEmpty;
            var (place, size) = inMonth ? (day.Day, monthLength) : (day.DayOfYear, yearLength);
            return rule.Days.Contains(day.DayOfWeek) || by.NumberedDays.Any(n =>
                n.Day == day.DayOfWeek && (n.Number == (place - 1) / 7 + 1 || -n.Number == (size - place) / 7 + 1));
        }
        // What the rule does not say, the start says.
        var saysDay = !by.MonthDays.IsEmpty || !by.YearDays.IsEmpty;
        return rule.Frequency switch
        {
            Frequency.Yearly when !by.Weeks.IsEmpty => saysDay || day.DayOfWeek == start.DayOfWeek,
            Frequency.Yearly => saysDay || (day.Day == start.Day && (!by.Months.IsEmpty || day.Month == start.Month)),
            Frequency.Monthly => saysDay || day.Day == start.Day,
            Frequency.Weekly => day.DayOfWeek == start.DayOfWeek,
            _ => true,
        };
    }

    private static IEnumerable<(long Key, List<T> Items)> GroupAdjacent<T>(this IEnumerable<T> items, Func<T, long> key)
    {
        List<T>? group = null;
        var current = 0L;
        foreach (var item in items)
        {
            var own = key(item);
            if (group is null || own != current)
            {
                if (group is not null)
                    yield return (current, group);
                (group, current) = ([], own);
            }
            group.Add(item);
        }
        if (group is not null)
            yield return (current, group);
    }
}
