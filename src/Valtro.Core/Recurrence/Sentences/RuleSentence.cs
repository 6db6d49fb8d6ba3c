using NodaTime;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Recurrence.Sentences;

/// <summary>Says a rule as a plain sentence: "every second Tuesday and Thursday until 12 December 2026".</summary>
public static class RuleSentence
{
    private static readonly WeekdaySet Workdays =
        WeekdaySet.Of(IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday);

    /// <summary>The sentence, without a capital and a full stop.</summary>
    /// <param name="rule">The rule.</param>
    /// <param name="start">The series' local start, which says what the rule leaves out.</param>
    /// <param name="language">"en" or "fr"; another one is said in English.</param>
    /// <param name="follows">How the series follows school days, or null.</param>
    /// <param name="weekLetters">The names of the school's alternating weeks; a week without one is said by its number.</param>
    public static string Of(
        RecurrenceRule rule, LocalDateTime start, string language, SchoolDayRule? follows = null, IReadOnlyList<string>? weekLetters = null)
    {
        SentenceWords words = language == "fr" ? new FrenchWords() : new EnglishWords();
        var parts = new List<string>();
        if (follows is not null && IsEveryDay(rule) && follows.Days == SchoolDayChoice.OnSchoolDays)
        {
            parts.Add(follows.CycleDays.IsEmpty ? words.EverySchoolDay : words.EveryOf(CycleDays(follows, words)));
        }
        else
        {
            if (AsWeekdays(rule) is { } days)
                parts.Add(days == Workdays && rule.Interval == 1 ? words.EveryWorkday : words.EveryWeekday(rule.Interval, Names(days, words)));
            else
                parts.Add(words.Every(rule.Frequency, rule.Interval));
            parts.AddRange(Days(rule, start.Date, words));
            if (!rule.By.Months.IsEmpty && !SaysMonths(rule))
                parts.Add(words.InMonths(words.Join(rule.By.Months.Select(words.Month))));
            parts.AddRange(Times(rule, start, words));
            if (follows is { CycleDays.IsEmpty: false })
                parts.Add(words.WhenCycleDay(CycleDays(follows, words)));
            else if (follows is { Days: not SchoolDayChoice.AnyDay })
                parts.Add(follows.Days == SchoolDayChoice.InTerm ? words.InTerm : words.OnSchoolDays);
        }
        if (follows is { Weeks.IsEmpty: false })
            parts.Add(words.InAlternateWeeks(words.Join(follows.Weeks.Select(w => weekLetters is { } letters && w <= letters.Count ? letters[w - 1] : $"{w}"))));
        var sentence = string.Join(' ', parts);
        if (rule.Count is { } count)
            sentence += words.CountTimes(count);
        else if (rule.Until is { } until)
            sentence = $"{sentence} {words.Until(words.Date(until.Date))}";
        return follows?.Closures switch
        {
            // Nobody expects school days to be shut ones.
            ClosureChoice.LeaveOut when follows.Days != SchoolDayChoice.OnSchoolDays => $"{sentence}, {words.ClosuresLeftOut}",
            ClosureChoice.NextOpenDay => $"{sentence}, {words.ClosuresNext}",
            ClosureChoice.PreviousOpenDay => $"{sentence}, {words.ClosuresPrevious}",
            _ => sentence,
        };
    }

    private static bool IsEveryDay(RecurrenceRule rule) => rule.WithEnd(null, null).ToString() == "FREQ=DAILY";

    private static string CycleDays(SchoolDayRule follows, SentenceWords words) => words.Join(follows.CycleDays.Select(words.CycleDay));

    /// <summary>The weekdays of a rule that is said by them alone.</summary>
    private static WeekdaySet? AsWeekdays(RecurrenceRule rule) =>
        !rule.Days.IsEmpty && rule.By.MonthDays.IsEmpty && rule.By.Positions.IsEmpty
            && (rule.Frequency == Frequency.Weekly || (rule.Frequency == Frequency.Daily && rule.Interval == 1))
            ? rule.Days
            : null;

    private static IEnumerable<string> Days(RecurrenceRule rule, LocalDate start, SentenceWords words)
    {
        if (AsWeekdays(rule) is not null)
            yield break;
        var by = rule.By;
        if (!by.Weeks.IsEmpty)
            yield return words.InWeeks(Numbers(by.Weeks, words));
        if (!by.YearDays.IsEmpty)
            yield return words.OnYearDays(Numbers(by.YearDays, words));
        if (!by.MonthDays.IsEmpty)
            yield return words.OnMonthDays(words.Join(InTurn(by.MonthDays).Select(words.MonthDay)));

        var numbered = by.NumberedDays.OrderBy(d => d.Number < 0).ThenBy(d => d.Number).Select(d => words.Numbered(d.Number, words.Weekday(d.Day)));
        if (!by.Positions.IsEmpty && !rule.Days.IsEmpty && by.NumberedDays.IsEmpty)
        {
            var each = rule.Days == Workdays ? words.Workday : words.AnyOf(Names(rule.Days, words));
            yield return words.OnThe(words.Join(InTurn(by.Positions).Select(p => words.Numbered(p, each))));
        }
        else if (!by.NumberedDays.IsEmpty)
        {
            yield return words.OnThe(words.Join(numbered.Concat(rule.Days.InOrder().Select(words.Weekday))));
        }
        else if (!rule.Days.IsEmpty)
        {
            yield return by.MonthDays.IsEmpty ? words.OnWeekdays(Names(rule.Days, words)) : words.WhenThatIs(words.AnyOf(Names(rule.Days, words)));
        }
        else if (by.MonthDays.IsEmpty && by.YearDays.IsEmpty && by.Weeks.IsEmpty)
        {
            if (rule.Frequency == Frequency.Yearly)
                yield return by.Months.IsEmpty ? words.OnDate(words.DayAndMonth(start)) : words.OnMonthDays(words.MonthDay(start.Day));
            else if (rule.Frequency == Frequency.Monthly)
                yield return words.OnMonthDays(words.MonthDay(start.Day));
            else if (rule.Frequency == Frequency.Weekly)
                yield return words.OnWeekdays(words.Weekday(start.DayOfWeek));
        }
        if (!by.Positions.IsEmpty && (rule.Days.IsEmpty || !by.NumberedDays.IsEmpty))
            yield return words.OnlyPositions(Numbers(by.Positions, words));
    }

    private static IEnumerable<string> Times(RecurrenceRule rule, LocalDateTime start, SentenceWords words)
    {
        var by = rule.By;
        if (rule.GivesOneTimeADay)
            yield break;
        if (rule.Frequency >= Frequency.Daily && by.Seconds.IsEmpty)
        {
            var hours = by.Hours.IsEmpty ? [start.Hour] : by.Hours;
            var minutes = by.Minutes.IsEmpty ? [start.Minute] : by.Minutes;
            yield return words.AtTimes(words.Join(hours.SelectMany(h => minutes.Select(m => words.Clock(h, m)))));
            yield break;
        }
        if (!by.Hours.IsEmpty)
            yield return words.InHours(Numbers(by.Hours, words));
        if (!by.Minutes.IsEmpty)
            yield return words.AtMinutes(Numbers(by.Minutes, words));
        if (!by.Seconds.IsEmpty)
            yield return words.AtSeconds(Numbers(by.Seconds, words));
    }

    private static bool SaysMonths(RecurrenceRule rule) => rule.By.Months.Length == 12 && rule.Frequency < Frequency.Yearly;

    /// <summary>Counted from the front before counted from the end.</summary>
    private static IEnumerable<int> InTurn(IEnumerable<int> numbers) => numbers.OrderBy(n => n < 0).ThenBy(n => n);

    private static string Names(WeekdaySet days, SentenceWords words) => words.Join(days.InOrder().Select(words.Weekday));

    private static string Numbers(IEnumerable<int> numbers, SentenceWords words) =>
        words.Join(InTurn(numbers).Select(n => n.ToString(System.Globalization.CultureInfo.InvariantCulture).Replace('-', '−')));
}
