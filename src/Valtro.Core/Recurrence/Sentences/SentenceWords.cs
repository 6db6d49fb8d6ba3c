using NodaTime;

namespace Valtro.Core.Recurrence.Sentences;

/// <summary>How one language says the parts of a rule.</summary>
internal abstract class SentenceWords
{
    public abstract string EveryWorkday { get; }

    public abstract string Workday { get; }

    protected abstract string And { get; }

    protected abstract string[] Weekdays { get; }

    protected abstract string[] Months { get; }

    public abstract string Every(Frequency frequency, int interval);

    public abstract string EveryWeekday(int interval, string days);

    public abstract string OnWeekdays(string days);

    public abstract string OnThe(string days);

    public abstract string OnDate(string date);

    public abstract string OnMonthDays(string days);

    public abstract string OnYearDays(string days);

    public abstract string InWeeks(string weeks);

    public abstract string InMonths(string months);

    public abstract string WhenThatIs(string days);

    public abstract string AnyOf(string days);

    public abstract string MonthDay(int day);

    public abstract string Numbered(int number, string day);

    public abstract string OnlyPositions(string positions);

    public abstract string AtTimes(string times);

    public abstract string InHours(string hours);

    public abstract string AtMinutes(string minutes);

    public abstract string AtSeconds(string seconds);

    public abstract string Clock(int hour, int minute);

    public abstract string Until(string date);

    public abstract string CountTimes(int count);

    public abstract string EverySchoolDay { get; }

    public abstract string OnSchoolDays { get; }

    public abstract string InTerm { get; }

    public abstract string ClosuresLeftOut { get; }

    public abstract string ClosuresNext { get; }

    public abstract string ClosuresPrevious { get; }

    public abstract string EveryOf(string days);

    public abstract string WhenCycleDay(string days);

    public abstract string CycleDay(int day);

    public abstract string InAlternateWeeks(string weeks);

    public string Weekday(IsoDayOfWeek day) => Weekdays[(int)day - 1];

    public string Month(int month) => Months[month - 1];

    public virtual string DayAndMonth(LocalDate date) => $"{date.Day} {Month(date.Month)}";

    public string Date(LocalDate date) => $"{DayAndMonth(date)} {date.Year}";

    /// <summary>"a", "a and b", "a, b and c".</summary>
    public string Join(IEnumerable<string> words)
    {
        var list = words.ToList();
        return list.Count < 2 ? string.Concat(list) : $"{string.Join(", ", list[..^1])} {And} {list[^1]}";
    }
}
