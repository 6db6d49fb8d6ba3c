using NodaTime;

namespace Valtro.Core.SchoolYears;

/// <summary>A run of days in which the school teaches, both ends included.</summary>
/// <param name="Name">As people call it.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day.</param>
public sealed record Term(string Name, LocalDate First, LocalDate Last);

/// <summary>A day or span on which the school is shut, both ends included.</summary>
/// <param name="Name">Why.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day.</param>
public sealed record Closure(string Name, LocalDate First, LocalDate Last);

/// <summary>What a date is to the school.</summary>
/// <param name="Date">The date.</param>
/// <param name="Term">The term it lies in, or null.</param>
/// <param name="TeachingWeek">The number of its week within the term, or null in a week without teaching.</param>
/// <param name="WeekLetter">The letter of its teaching week ("A", "B"), or null.</param>
/// <param name="CycleDay">Its place in the rotation, or null on a day without teaching.</param>
/// <param name="Closure">Why the school is shut, or null.</param>
public sealed record SchoolDay(LocalDate Date, Term? Term, int? TeachingWeek, string? WeekLetter, int? CycleDay, Closure? Closure);

/// <summary>
/// Terms, closures and the day cycle of a school, turned into a table of days once: cycle days are counted over open
/// days, week letters over teaching weeks, both right through the year.
/// </summary>
public sealed class SchoolYear
{
    private readonly SchoolDay[] days;

    /// <summary>Makes the table.</summary>
    /// <param name="first">The first day shown of the year.</param>
    /// <param name="last">The last day shown of the year.</param>
    /// <param name="terms">In order, not overlapping.</param>
    /// <param name="closures">In any order.</param>
    /// <param name="cycleLength">Days in the rotation; 0 for none.</param>
    /// <param name="weekLetters">The letters in turn; empty for none.</param>
    /// <exception cref="InvalidInputException"><c>school_year_dates</c>, <c>cycle_length</c>.</exception>
    public SchoolYear(LocalDate first, LocalDate last, IReadOnlyList<Term> terms, IReadOnlyList<Closure> closures, int cycleLength, IReadOnlyList<string> weekLetters)
    {
        if (last < first || Period.DaysBetween(first, last) > 800)
            throw new InvalidInputException("school_year_dates", "last", "A school year ends after it begins and lasts two years at most.");
        if (cycleLength is < 0 or 1 or > 10)
            throw new InvalidInputException("cycle_length", "cycleLength", "A rotation has 2 to 10 days, or 0 for none.");
        First = first;
        Last = last;
        Terms = terms;
        Closures = closures;
        days = Table(cycleLength, weekLetters);
    }

    /// <summary>The first day.</summary>
    public LocalDate First { get; }

    /// <summary>The last day.</summary>
    public LocalDate Last { get; }

    /// <summary>The terms.</summary>
    public IReadOnlyList<Term> Terms { get; }

    /// <summary>The closures.</summary>
    public IReadOnlyList<Closure> Closures { get; }

    /// <summary>What a date is; outside the year it is a plain day.</summary>
    public SchoolDay Day(LocalDate date) =>
        date < First || date > Last
            ? new SchoolDay(date, null, null, null, null, null)
            : days[Period.DaysBetween(First, date)];

    /// <summary>The year a school without one is shown: August to July around a date, no terms.</summary>
    public static SchoolYear Plain(LocalDate around)
    {
        var start = StartOfYear(around);
        return new SchoolYear(start, start.PlusYears(1).PlusDays(-1), [], [], 0, []);
    }

    /// <summary>The first of August on or before a date.</summary>
    public static LocalDate StartOfYear(LocalDate date) => new(date.Month >= 8 ? date.Year : date.Year - 1, 8, 1);

    private SchoolDay[] Table(int cycleLength, IReadOnlyList<string> weekLetters)
    {
        var table = new SchoolDay[Period.DaysBetween(First, Last) + 1];
        var openDays = 0;
        var letters = 0;
        var week = 0;
        LocalDate? countedWeek = null;
        Term? countedTerm = null;
        for (var i = 0; i < table.Length; i++)
        {
            var date = First.PlusDays(i);
            var term = Terms.FirstOrDefault(t => t.First <= date && date <= t.Last);
            var closure = Closures.FirstOrDefault(c => c.First <= date && date <= c.Last);
            var monday = date.PlusDays(1 - (int)date.DayOfWeek);
            var teaches = term is not null && closure is null && date.DayOfWeek < IsoDayOfWeek.Saturday;
            if (teaches && countedWeek != monday)
            {
                week = countedTerm == term ? week + 1 : 1;
                countedTerm = term;
                countedWeek = monday;
                letters++;
            }
            var inTeachingWeek = term is not null && countedWeek == monday;
            table[i] = new SchoolDay(
                date,
                term,
                inTeachingWeek ? week : null,
                inTeachingWeek && weekLetters.Count > 0 ? weekLetters[(letters - 1) % weekLetters.Count] : null,
                teaches && cycleLength > 0 ? openDays++ % cycleLength + 1 : null,
                closure);
        }
        return table;
    }
}
