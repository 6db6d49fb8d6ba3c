using NodaTime;

namespace Valtro.Core.SchoolYears;

/// <summary>What a date is to the school.</summary>
/// <param name="Date">The date.</param>
/// <param name="Term">The term it lies in, or null.</param>
/// <param name="TeachingWeek">The number of its week within the term, or null in a week without teaching.</param>
/// <param name="AlternateWeek">Which of the alternating weeks it lies in, from 1; null when none do, or without teaching.</param>
/// <param name="WeekLetter">That week's name ("A", "B"), or null.</param>
/// <param name="CycleDay">Its place in the rotation, or null on a day without teaching.</param>
/// <param name="IsPinned">Whether that place was set by hand.</param>
/// <param name="IsSchoolDay">Whether it is one of the school's weekdays in a term, shut or not.</param>
/// <param name="Closure">Why the whole school is shut, or null.</param>
public sealed record SchoolDay(
    LocalDate Date,
    Term? Term,
    int? TeachingWeek,
    int? AlternateWeek,
    string? WeekLetter,
    int? CycleDay,
    bool IsPinned,
    bool IsSchoolDay,
    Closure? Closure);

/// <summary>
/// What every day is to a school: its years turned into tables, once. Teaching weeks are numbered within their term,
/// week letters and cycle days are counted over teaching weeks and open days, through the year or anew with each term.
/// </summary>
public sealed class SchoolDays
{
    private readonly SchoolYear[] years;
    private readonly SchoolDay[][] tables;

    /// <summary>Makes the tables.</summary>
    /// <param name="years">The school's years, checked; in any order, not overlapping.</param>
    public SchoolDays(IEnumerable<SchoolYear> years)
    {
        this.years = [.. years.OrderBy(y => y.First)];
        tables = [.. this.years.Select(Table)];
    }

    /// <summary>A school that keeps no years.</summary>
    public static SchoolDays None { get; } = new([]);

    /// <summary>The years, in order.</summary>
    public IReadOnlyList<SchoolYear> Years => years;

    /// <summary>The last day of the last year; null without any.</summary>
    public LocalDate? KnownUntil => years.Length == 0 ? null : years[^1].Last;

    /// <summary>Whether a year is kept for a date.</summary>
    public bool Knows(LocalDate date) => IndexOf(date) >= 0;

    /// <summary>The year around a date; a plain one when none is kept.</summary>
    public SchoolYear Year(LocalDate date) => IndexOf(date) is >= 0 and var i ? years[i] : SchoolYear.Plain(date);

    /// <summary>What a date is; outside the years it is a plain day.</summary>
    public SchoolDay Day(LocalDate date) => IndexOf(date) is >= 0 and var i
        ? tables[i][Period.DaysBetween(years[i].First, date)]
        : new SchoolDay(date, null, null, null, null, null, false, false, null);

    /// <summary>Why a calendar's classes do not take place on a date; null when they do.</summary>
    public Closure? ClosureOf(LocalDate date, Guid calendarId)
    {
        if (IndexOf(date) is not (>= 0 and var i))
            return null;
        if (tables[i][Period.DaysBetween(years[i].First, date)].Closure is { } shut)
            return shut;
        foreach (var closure in years[i].Closures)
        {
            if (closure.Covers(date) && closure.Shuts(calendarId))
                return closure;
        }
        return null;
    }

    /// <summary>The closures on a date that are for some calendars only.</summary>
    public IEnumerable<Closure> PartClosures(LocalDate date) =>
        IndexOf(date) is >= 0 and var i ? years[i].Closures.Where(c => !c.IsForAll && c.Covers(date)) : [];

    /// <summary>
    /// Whether a calendar's classes can take place on a date: one of the school's weekdays, and not shut. Where no year
    /// is kept, Monday to Friday.
    /// </summary>
    /// <param name="date">The date.</param>
    /// <param name="calendarId">The calendar.</param>
    /// <param name="inTerm">Whether it has to lie in a term, where the year has terms.</param>
    public bool IsOpen(LocalDate date, Guid calendarId, bool inTerm)
    {
        if (IndexOf(date) is not (>= 0 and var i))
            return SchoolYear.UsualWeek.Contains(date.DayOfWeek);
        return years[i].Week.Contains(date.DayOfWeek)
            && ClosureOf(date, calendarId) is null
            && (!inTerm || years[i].Terms.IsEmpty || tables[i][Period.DaysBetween(years[i].First, date)].Term is not null);
    }

    private int IndexOf(LocalDate date)
    {
        for (var i = years.Length - 1; i >= 0; i--)
        {
            if (years[i].First <= date)
                return date <= years[i].Last ? i : -1;
        }
        return -1;
    }

    private static SchoolDay[] Table(SchoolYear year)
    {
        var table = new SchoolDay[Period.DaysBetween(year.First, year.Last) + 1];
        // A school that teaches on Sundays and not on Saturdays begins its week on Sunday.
        var weekStart = year.Week.Contains(IsoDayOfWeek.Sunday) && !year.Week.Contains(IsoDayOfWeek.Saturday) ? IsoDayOfWeek.Sunday : IsoDayOfWeek.Monday;
        var (cycle, letter, week, nextTerm, nextPin) = (0, 0, 0, 0, 0);
        Term? term = null;
        Term? countedTerm = null;
        LocalDate? countedWeek = null;
        for (var i = 0; i < table.Length; i++)
        {
            var date = year.First.PlusDays(i);
            if (term is not null && date > term.Last)
                term = null;
            if (nextTerm < year.Terms.Length && year.Terms[nextTerm].First == date)
                term = year.Terms[nextTerm++];
            Closure? closure = null;
            foreach (var c in year.Closures)
            {
                if (c.IsForAll && c.Covers(date))
                {
                    closure = c;
                    break;
                }
            }
            var isSchoolDay = term is not null && year.Week.Contains(date.DayOfWeek);
            var teaches = isSchoolDay && closure is null;
            var opened = date.PlusDays(-(((int)date.DayOfWeek - (int)weekStart + 7) % 7));
            if (teaches && (countedWeek != opened || countedTerm != term))
            {
                if (countedTerm != term)
                {
                    week = 0;
                    letter = year.LettersRestart ? 0 : letter;
                    cycle = year.CycleRestarts ? 0 : cycle;
                }
                week++;
                // Two terms that share a week share its letter.
                letter += countedWeek == opened && !year.LettersRestart ? 0 : 1;
                (countedWeek, countedTerm) = (opened, term);
            }
            while (nextPin < year.Pins.Length && year.Pins[nextPin].Date < date)
                nextPin++;
            var pinned = teaches && year.CycleLength > 0 && nextPin < year.Pins.Length && year.Pins[nextPin].Date == date;
            if (teaches)
                cycle = pinned ? year.Pins[nextPin].CycleDay : cycle + 1;
            var inTeachingWeek = term is not null && countedWeek == opened && countedTerm == term;
            int? alternate = inTeachingWeek && !year.WeekLetters.IsEmpty ? (letter - 1) % year.WeekLetters.Length + 1 : null;
            table[i] = new SchoolDay(
                date,
                term,
                inTeachingWeek ? week : null,
                alternate,
                alternate is { } a ? year.WeekLetters[a - 1] : null,
                teaches && year.CycleLength > 0 ? (cycle - 1) % year.CycleLength + 1 : null,
                pinned,
                isSchoolDay,
                closure);
        }
        // A week is one from its first day on, also where that day itself is shut.
        for (var i = table.Length - 2; i >= 0; i--)
        {
            var (day, after) = (table[i], table[i + 1]);
            if (day.TeachingWeek is null && day.Term is not null && day.Term == after.Term && after.TeachingWeek is not null && after.Date.DayOfWeek != weekStart)
                table[i] = day with { TeachingWeek = after.TeachingWeek, AlternateWeek = after.AlternateWeek, WeekLetter = after.WeekLetter };
        }
        return table;
    }
}
