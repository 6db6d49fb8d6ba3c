using NodaTime;
using Valtro.Core.SchoolYears;

namespace Valtro.Demo;

/// <summary>The demo school's year around a date: terms, closures, a six-day cycle, weeks A and B.</summary>
public sealed class DemoYear
{
    /// <summary>The length of the rotation.</summary>
    public const int CycleLength = 6;

    /// <summary>Makes the year.</summary>
    /// <param name="today">A day in it.</param>
    /// <param name="id">Its identity.</param>
    /// <param name="workshop">The calendar whose workshop is shut for a day in autumn.</param>
    public DemoYear(LocalDate today, Guid id = default, Guid workshop = default)
    {
        var start = SchoolYear.StartOfYear(today);
        var next = start.Year + 1;
        Autumn = new Term("Autumn term", Nth(start.Year, 9, IsoDayOfWeek.Monday, 1).PlusDays(1), Monday(new LocalDate(start.Year, 12, 18)).PlusDays(4));
        Winter = new Term("Winter term", Monday(new LocalDate(next, 1, 7)), Nth(next, 3, IsoDayOfWeek.Friday, 2));
        Spring = new Term("Spring term", Winter.Last.PlusDays(10), Monday(new LocalDate(next, 6, 24)).PlusDays(4));
        var heritage = Nth(next, 2, IsoDayOfWeek.Monday, 3);
        IReadOnlyList<Closure> closures =
        [
            One("Harvest holiday", Nth(start.Year, 10, IsoDayOfWeek.Monday, 2)),
            new("Autumn half-term", Nth(start.Year, 10, IsoDayOfWeek.Monday, 2).PlusDays(14), Nth(start.Year, 10, IsoDayOfWeek.Monday, 2).PlusDays(18)),
            One("Remembrance Day", new LocalDate(start.Year, 11, 11)),
            One("Storm closure", Nth(start.Year, 11, IsoDayOfWeek.Friday, 4)),
            new("Winter break", Autumn.Last.PlusDays(1), Winter.First.PlusDays(-1)),
            One("Storm closure", Nth(next, 1, IsoDayOfWeek.Wednesday, 4)),
            new("Ice break", heritage, heritage.PlusDays(2)),
            new("Spring break", Winter.Last.PlusDays(1), Spring.First.PlusDays(-1)),
            One("Harbour Day", Nth(next, 5, IsoDayOfWeek.Monday, 3)),
        ];
        Year = new SchoolYear
        {
            Id = id,
            First = start,
            Last = start.PlusYears(1).PlusDays(-1),
            Terms = [Autumn, Winter, Spring],
            Closures = [.. closures],
            CycleLength = CycleLength,
            WeekLetters = ["A", "B"],
        };
        Days = new SchoolDays([Year]);
        var saw = On(Autumn, 12, IsoDayOfWeek.Thursday);
        Year = (Year with { Closures = Year.Closures.Add(new Closure("Band saw overhaul", saw, saw) { CalendarIds = [workshop] }) }).Checked();
        Days = new SchoolDays([Year]);
    }

    public SchoolYear Year { get; }

    public SchoolDays Days { get; }

    public Term Autumn { get; }

    public Term Winter { get; }

    public Term Spring { get; }

    /// <summary>The first day of the summer programme: the Monday after the last term.</summary>
    public LocalDate Summer => Spring.Last.PlusDays(3);

    /// <summary>The weekday of the n-th week of a term, counted from 1; moved on past closures.</summary>
    public LocalDate On(Term term, int week, IsoDayOfWeek day)
    {
        var date = Monday(term.First).PlusDays(7 * (week - 1) + (int)day - 1);
        while (date < term.First || (day < IsoDayOfWeek.Saturday && Days.Day(date).Closure is not null))
            date = date.PlusDays(7);
        return date;
    }

    private static Closure One(string name, LocalDate date) => new(name, date, date);

    private static LocalDate Monday(LocalDate date) => date.PlusDays(1 - (int)date.DayOfWeek);

    private static LocalDate Nth(int year, int month, IsoDayOfWeek day, int n)
    {
        var first = new LocalDate(year, month, 1);
        return first.PlusDays(((int)day - (int)first.DayOfWeek + 7) % 7 + 7 * (n - 1));
    }
}
