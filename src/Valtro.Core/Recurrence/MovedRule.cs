using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>Rules whose date on one day is moved to another day.</summary>
public static class MovedRule
{
    /// <summary>
    /// The rule that has the date on the other day: of weekdays, days of the month and months that one goes along and the
    /// others stay, of a numbered weekday its place in the month. The very same rule where the day follows from the start.
    /// </summary>
    /// <param name="rule">The rule.</param>
    /// <param name="from">The day of a date it gives.</param>
    /// <param name="to">The day that date is moved to.</param>
    public static RecurrenceRule Of(RecurrenceRule rule, LocalDate from, LocalDate to)
    {
        if (from == to)
            return rule;
        if (rule.Frequency == Frequency.Weekly && rule.Days.Contains(from.DayOfWeek))
            return With(rule, [.. rule.Days.InOrder().Select(d => d == from.DayOfWeek ? to.DayOfWeek : d)], rule.By);
        if (rule.Frequency is not (Frequency.Monthly or Frequency.Yearly))
            return rule;
        var by = rule.By;
        // Without months a year's numbered weekday is the year's, and its place in the month says nothing of it.
        var isOfMonth = rule.Frequency == Frequency.Monthly || !by.Months.IsEmpty;
        var moved = by with
        {
            Months = by.Months.Contains(from.Month) && to.Month != from.Month && rule.Frequency == Frequency.Yearly
                ? [.. by.Months.Select(m => m == from.Month ? to.Month : m).Distinct()]
                : by.Months,
            MonthDays = [.. by.MonthDays.Select(d => Is(d, from) ? (d < 0 && IsLast(to) ? -1 : to.Day) : d).Distinct()],
            NumberedDays = isOfMonth ? [.. by.NumberedDays.Select(n => Is(n, from) ? Numbered(to, fromEnd: n.Number < 0) : n).Distinct()] : by.NumberedDays,
        };
        return moved.Months.SequenceEqual(by.Months) && moved.MonthDays.SequenceEqual(by.MonthDays) && moved.NumberedDays.SequenceEqual(by.NumberedDays) ? rule : With(rule, rule.Days, moved);
    }

    /// <summary>
    /// Where a series begins when its date on one day goes to another one. Of several weekdays only one moves: the first of
    /// those the series had in its first week begins it.
    /// </summary>
    /// <param name="rule">The rule before.</param>
    /// <param name="start">The first day before.</param>
    /// <param name="from">The day of the date that is moved.</param>
    /// <param name="to">The day it is moved to.</param>
    public static LocalDate Start(RecurrenceRule rule, LocalDate start, LocalDate from, LocalDate to)
    {
        if (rule.Frequency != Frequency.Weekly || rule.Days.Count < 2 || !rule.Days.Contains(from.DayOfWeek))
            return start.PlusDays(Period.DaysBetween(from, to));
        var first = rule.Days.InOrder().Where(d => d >= start.DayOfWeek).Select(d => d == from.DayOfWeek ? to.DayOfWeek : d).DefaultIfEmpty(start.DayOfWeek).Min();
        return start.PlusDays(first - start.DayOfWeek);
    }

    private static RecurrenceRule With(RecurrenceRule rule, IsoDayOfWeek[] days, ByParts by) => With(rule, WeekdaySet.Of(days), by);

    private static RecurrenceRule With(RecurrenceRule rule, WeekdaySet days, ByParts by) =>
        new(rule.Frequency, rule.Interval, days, rule.Count, rule.Until, rule.WeekStart, by);

    private static bool IsLast(LocalDate day) => day.PlusDays(1).Month != day.Month;

    private static bool Is(int monthDay, LocalDate day) =>
        monthDay == (monthDay > 0 ? day.Day : day.Day - day.Calendar.GetDaysInMonth(day.Year, day.Month) - 1);

    private static bool Is(NumberedDay numbered, LocalDate day) =>
        numbered.Day == day.DayOfWeek && numbered.Number == (numbered.Number > 0 ? FromStart(day) : FromEnd(day));

    private static NumberedDay Numbered(LocalDate day, bool fromEnd) => new(fromEnd && FromEnd(day) == -1 ? -1 : FromStart(day), day.DayOfWeek);

    private static int FromStart(LocalDate day) => (day.Day + 6) / 7;

    private static int FromEnd(LocalDate day) => -((day.Calendar.GetDaysInMonth(day.Year, day.Month) - day.Day) / 7 + 1);
}
