using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;

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
public sealed record Closure(string Name, LocalDate First, LocalDate Last)
{
    /// <summary>The calendars it is for; empty for the whole school.</summary>
    public ImmutableArray<Guid> CalendarIds { get; init; } = [];

    /// <summary>Whether the whole school is shut.</summary>
    public bool IsForAll => CalendarIds.IsEmpty;

    /// <summary>Whether a date lies in it.</summary>
    public bool Covers(LocalDate date) => First <= date && date <= Last;

    /// <summary>Whether it shuts a calendar's classes.</summary>
    public bool Shuts(Guid calendarId) => IsForAll || CalendarIds.Contains(calendarId);
}

/// <summary>A date whose place in the rotation is set by hand; the rotation goes on from there.</summary>
/// <param name="Date">The date.</param>
/// <param name="CycleDay">Its place, from 1.</param>
public readonly record struct PinnedDay(LocalDate Date, int CycleDay);

/// <summary>A school year as it is kept. What each of its days is follows from it: <see cref="SchoolDays"/>.</summary>
public sealed record SchoolYear
{
    /// <summary>The longest year, in days.</summary>
    public const int MaxDays = 800;

    /// <summary>The longest rotation.</summary>
    public const int MaxCycle = 10;

    /// <summary>The most terms of a year.</summary>
    public const int MaxTerms = 12;

    /// <summary>The most closures of a year, and the most pinned days.</summary>
    public const int MaxClosures = 200;

    /// <summary>The most weeks that alternate.</summary>
    public const int MaxWeekLetters = 6;

    /// <summary>The longest name of a term, a closure or a week.</summary>
    public const int MaxName = 100;

    /// <summary>Monday to Friday.</summary>
    public static readonly WeekdaySet UsualWeek =
        WeekdaySet.Of(IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday);

    /// <summary>Identity.</summary>
    public Guid Id { get; init; }

    /// <summary>The first day.</summary>
    public required LocalDate First { get; init; }

    /// <summary>The last day.</summary>
    public required LocalDate Last { get; init; }

    /// <summary>The terms, in order.</summary>
    public ImmutableArray<Term> Terms { get; init; } = [];

    /// <summary>The closures, in order.</summary>
    public ImmutableArray<Closure> Closures { get; init; } = [];

    /// <summary>The weekdays on which the school teaches.</summary>
    public WeekdaySet Week { get; init; } = UsualWeek;

    /// <summary>Days in the rotation; 0 for none.</summary>
    public int CycleLength { get; init; }

    /// <summary>Whether the rotation begins anew with each term.</summary>
    public bool CycleRestarts { get; init; }

    /// <summary>Dates set to a place in the rotation by hand, in order.</summary>
    public ImmutableArray<PinnedDay> Pins { get; init; } = [];

    /// <summary>The names of the teaching weeks in turn, such as A and B; empty for none.</summary>
    public ImmutableArray<string> WeekLetters { get; init; } = [];

    /// <summary>Whether the letters begin anew with each term.</summary>
    public bool LettersRestart { get; init; }

    /// <summary>Grows with every change.</summary>
    public int Version { get; init; } = 1;

    /// <summary>This state as the one that follows another.</summary>
    public SchoolYear After(SchoolYear? before) => this with { Version = before is null ? Version : before.Version + 1 };

    /// <summary>Whether two states say the same.</summary>
    public bool SaysAs(SchoolYear other) =>
        (Id, First, Last, Week, CycleLength, CycleRestarts, LettersRestart) == (other.Id, other.First, other.Last, other.Week, other.CycleLength, other.CycleRestarts, other.LettersRestart)
        && Terms.SequenceEqual(other.Terms) && Pins.SequenceEqual(other.Pins) && WeekLetters.SequenceEqual(other.WeekLetters)
        && Closures.Select(c => (c.Name, c.First, c.Last, string.Join(',', c.CalendarIds))).SequenceEqual(other.Closures.Select(c => (c.Name, c.First, c.Last, string.Join(',', c.CalendarIds))));

    /// <summary>The year a school without one is shown: August to July around a date, no terms.</summary>
    public static SchoolYear Plain(LocalDate around)
    {
        var start = StartOfYear(around);
        return new SchoolYear { First = start, Last = start.PlusYears(1).PlusDays(-1) };
    }

    /// <summary>The first of August on or before a date.</summary>
    public static LocalDate StartOfYear(LocalDate date) => new(date.Month >= 8 ? date.Year : date.Year - 1, 8, 1);

    /// <summary>The year with its names cleaned and its parts in order.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>school_year_dates</c>; <c>term_dates</c>, <c>terms_overlap</c>, <c>closure_dates</c>: with the part's place in
    /// its list in the field's name; <c>school_week</c>, <c>cycle_length</c>, <c>cycle_pin</c>, <c>week_letters</c>,
    /// <c>too_many_parts</c>; <c>title_missing</c>, <c>text_too_long</c>.
    /// </exception>
    public SchoolYear Checked()
    {
        if (Last < First || Period.DaysBetween(First, Last) >= MaxDays)
            throw new InvalidInputException("school_year_dates", "last", "A school year ends after it begins and lasts two years at most.");
        if (Terms.Length > MaxTerms || Closures.Length > MaxClosures || Pins.Length > MaxClosures)
            throw new InvalidInputException("too_many_parts", null, $"A school year has {MaxTerms} terms and {MaxClosures} closures and pinned days at most.");
        if (Week.IsEmpty)
            throw new InvalidInputException("school_week", "week", "The school teaches on one weekday at least.");
        if (CycleLength is < 0 or 1 or > MaxCycle)
            throw new InvalidInputException("cycle_length", "cycleLength", $"A rotation has 2 to {MaxCycle} days, or 0 for none.");
        if (WeekLetters.Length is 1 or > MaxWeekLetters)
            throw new InvalidInputException("week_letters", "weekLetters", $"Between 2 and {MaxWeekLetters} weeks alternate, or none.");

        var terms = Terms.Select((t, i) => Within(t.First, t.Last)
            ? t with { Name = Texts.Title(t.Name, $"terms.{i}.name", MaxName) }
            : throw new InvalidInputException("term_dates", $"terms.{i}.last", $"“{t.Name}” has to end after it begins, and to lie in the school year.")).ToList();
        for (var i = 1; i < terms.Count; i++)
        {
            if (terms.Take(i).Any(t => t.First <= terms[i].Last && terms[i].First <= t.Last))
                throw new InvalidInputException("terms_overlap", $"terms.{i}.first", $"“{terms[i].Name}” overlaps another term. A day lies in one term.");
        }
        var closures = Closures.Select((c, i) => Within(c.First, c.Last)
            ? c with { Name = Texts.Title(c.Name, $"closures.{i}.name", MaxName), CalendarIds = [.. c.CalendarIds.Distinct()] }
            : throw new InvalidInputException("closure_dates", $"closures.{i}.last", $"“{c.Name}” has to end after it begins, and to lie in the school year."));
        for (var i = 0; i < Pins.Length; i++)
        {
            if (Pins[i].CycleDay < 1 || Pins[i].CycleDay > CycleLength || !Within(Pins[i].Date, Pins[i].Date))
                throw new InvalidInputException("cycle_pin", $"pins.{i}", "A pinned day lies in the school year and has a number of the rotation.");
        }
        return this with
        {
            Terms = [.. terms.OrderBy(t => t.First)],
            Closures = [.. closures.OrderBy(c => c.First).ThenBy(c => c.Last)],
            Pins = [.. Pins.DistinctBy(p => p.Date).OrderBy(p => p.Date)],
            WeekLetters = [.. WeekLetters.Select((l, i) => Texts.Title(l, $"weekLetters.{i}", MaxName))],
        };
    }

    private bool Within(LocalDate first, LocalDate last) => First <= first && first <= last && last <= Last;
}
