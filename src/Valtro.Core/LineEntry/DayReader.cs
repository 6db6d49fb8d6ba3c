using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>What a typed day is read by.</summary>
/// <param name="Near">The day it stands in for: without a year the nearest date is meant, without a date the weekday on or after it.</param>
/// <param name="Today">Today where it is typed.</param>
public sealed record DayContext(LocalDate Near, LocalDate Today)
{
    /// <summary>Whether 5/12 is the twelfth of May.</summary>
    public bool MonthFirst { get; init; }

    /// <summary>The first day of a teaching week by its number; null where weeks are not counted so.</summary>
    public Func<int, LocalDate?> WeekOf { get; init; } = _ => null;

    /// <summary>The school's terms.</summary>
    public IReadOnlyList<(LocalDate First, LocalDate Last)> Terms { get; init; } = [];

    internal LineContext AsLine => new(Near, DateTimeZone.Utc, "") { Today = Today, MonthFirst = MonthFirst, WeekOf = WeekOf, Terms = Terms, IsField = true };
}

/// <summary>Some days with what they are called.</summary>
/// <param name="Name">Empty where nothing but days was typed.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day, which belongs to it.</param>
public sealed record NamedDays(string Name, LocalDate First, LocalDate Last);

/// <summary>
/// Reads days, spans of days and times of day as people type them, in English and French whatever the interface speaks, by the
/// grammar of a line. What cannot be told is not guessed.
/// </summary>
public static class DayReader
{
    /// <summary>The longest text that is looked at.</summary>
    public const int MaxLength = 200;

    private static readonly LineWords[] Languages = [LineWords.English, LineWords.French];

    /// <summary>
    /// The day that is meant by "12 May", "may 12", "5/12", "fri", "next week", "week 6" or "2026-05-12"; null when it cannot be
    /// told, as when a weekday is named that the date does not fall on.
    /// </summary>
    public static LocalDate? Read(string text, DayContext context) =>
        text.Length > MaxLength ? null : Languages.Select(words => new LineGrammar(text, context.AsLine, words).WholeDay()).FirstOrDefault(day => day is not null);

    /// <summary>
    /// A name with its days: "Storm closure 27 Nov", "Ice break 15–17 feb", "Winter term 4 jan to 12 mar"; null when no days can
    /// be told.
    /// </summary>
    public static NamedDays? ReadSpan(string text, DayContext context)
    {
        if (text.Length > MaxLength)
            return null;
        NamedDays? best = null;
        foreach (var words in Languages)
        {
            var grammar = new LineGrammar(text, context.AsLine, words);
            if (grammar.DaysAtEnd() is not var (at, first, last))
                continue;
            var name = text[..grammar.Tokens[at].Start].TrimEnd().TrimEnd(':', ',', '-', '–', '—').TrimEnd();
            // The longest text that is days.
            if (best is null || name.Length < best.Name.Length)
                best = new NamedDays(name, first, last);
        }
        return best;
    }

    /// <summary>A time of day: "9", "9:30", "930", "9h30", "9.30 pm"; null when it is none.</summary>
    /// <param name="text">What was typed.</param>
    /// <param name="bySense">Whether hours that say neither half of the day are taken by the sense of a school's day: 3 is 15:00.</param>
    public static LocalTime? ReadClock(string text, bool bySense = false) =>
        text.Length > MaxLength ? null : Languages.Select(words => new LineGrammar(text, new DayContext(default, default).AsLine, words).WholeClock(bySense)).FirstOrDefault(clock => clock is not null);
}
