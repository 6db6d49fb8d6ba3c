namespace Valtro.Core.Recurrence.Sentences;

internal sealed class EnglishWords : SentenceWords
{
    private static readonly string[] Units = ["second", "minute", "hour", "day", "week", "month", "year"];
    private static readonly string[] Ordinals = ["first", "second", "third", "fourth", "fifth"];

    public override string EveryWorkday => "every day from Monday to Friday";

    public override string Workday => "day from Monday to Friday";

    protected override string And => "and";

    protected override string[] Weekdays { get; } = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

    protected override string[] Months { get; } =
        ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];

    public override string Every(Frequency frequency, int interval) => interval switch
    {
        1 => $"every {Units[(int)frequency]}",
        2 => $"every second {Units[(int)frequency]}",
        _ => $"every {interval} {Units[(int)frequency]}s",
    };

    public override string EveryWeekday(int interval, string days) => interval switch
    {
        1 => $"every {days}",
        2 => $"every second {days}",
        _ => $"every {interval} weeks on {days}",
    };

    public override string OnWeekdays(string days) => $"on {days}";

    public override string OnThe(string days) => $"on {days}";

    public override string OnDate(string date) => $"on {date}";

    public override string OnMonthDays(string days) => $"on {days}";

    public override string OnYearDays(string days) => $"on day {days} of the year";

    public override string InWeeks(string weeks) => $"in week {weeks}";

    public override string InMonths(string months) => $"in {months}";

    public override string WhenThatIs(string days) => $"when that is {days}";

    public override string AnyOf(string days) => $"a {days.Replace(" and ", " or ", StringComparison.Ordinal)}";

    public override string MonthDay(int day) => day switch
    {
        -1 => "the last day",
        < 0 => $"the {Ordinal(-day)}-last day",
        _ => $"day {day}",
    };

    public override string Numbered(int number, string day)
    {
        var plain = day.StartsWith("a ", StringComparison.Ordinal) ? day[2..] : day;
        return number switch
        {
            -1 => $"the last {plain}",
            < 0 => $"the {Ordinal(-number)}-last {plain}",
            _ => $"the {Ordinal(number)} {plain}",
        };
    }

    public override string OnlyPositions(string positions) => $"(number {positions} of these)";

    public override string AtTimes(string times) => $"at {times}";

    public override string InHours(string hours) => $"in hour {hours}";

    public override string AtMinutes(string minutes) => $"at minute {minutes}";

    public override string AtSeconds(string seconds) => $"at second {seconds}";

    public override string Clock(int hour, int minute) => $"{hour}:{minute:00}";

    public override string Until(string date) => $"until {date}";

    public override string CountTimes(int count) => count == 1 ? ", once" : $", {count} times";

    public override string EverySchoolDay => "every school day";

    public override string OnSchoolDays => "on school days";

    public override string InTerm => "in term";

    public override string ClosuresLeftOut => "closures left out";

    public override string ClosuresNext => "on a closure the next open day";

    public override string ClosuresPrevious => "on a closure the open day before";

    public override string EveryOf(string days) => $"every {days}";

    public override string WhenCycleDay(string days) => $"when it is {days.Replace(" and ", " or ", StringComparison.Ordinal)}";

    public override string CycleDay(int day) => $"Day {day}";

    public override string InAlternateWeeks(string weeks) => $"in week {weeks}";

    private static string Ordinal(int number) => number <= Ordinals.Length
        ? Ordinals[number - 1]
        : number + ((number % 100) is 11 or 12 or 13 ? "th" : (number % 10) switch { 1 => "st", 2 => "nd", 3 => "rd", _ => "th" });
}
