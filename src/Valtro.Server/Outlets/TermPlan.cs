using NodaTime;
using Valtro.Core.SchoolYears;

namespace Valtro.Server.Outlets;

/// <summary>A term's weeks for paper: a row a week, a column a day on which something is ever on.</summary>
/// <param name="Title">The term's name.</param>
/// <param name="First">Its first day.</param>
/// <param name="Last">Its last day.</param>
/// <param name="Days">A day of each weekday shown, in order.</param>
/// <param name="Weeks">The weeks.</param>
public sealed record TermPlan(string Title, LocalDate First, LocalDate Last, IReadOnlyList<LocalDate> Days, IReadOnlyList<TermWeek> Weeks)
{
    /// <summary>Without terms, or between the last and none, so many weeks are a plan.</summary>
    private const int PlainWeeks = 14;

    private const int MaxWeeks = 30;

    /// <summary>The days a plan is about: the term of today, else the next, else the weeks to come.</summary>
    /// <param name="days">The school's days.</param>
    /// <param name="today">The day at the school.</param>
    /// <param name="plain">What weeks without a term are called.</param>
    public static (string Title, LocalDate First, LocalDate Last) Span(SchoolDays days, LocalDate today, string plain)
    {
        var term = days.Years.SelectMany(y => y.Terms).Where(t => t.Last >= today).OrderBy(t => t.First).FirstOrDefault();
        if (term is null)
            return (plain, today, today.PlusWeeks(PlainWeeks).PlusDays(-1));
        var most = term.First.PlusWeeks(MaxWeeks);
        return (term.Name, term.First, term.Last < most ? term.Last : most);
    }

    /// <summary>Lays events into weeks; weekends stand there only when something is on then.</summary>
    public static TermPlan Of((string Title, LocalDate First, LocalDate Last) span, IReadOnlyList<OutletEvent> events, IsoDayOfWeek weekStart)
    {
        var begin = span.First.PlusDays(-(((int)span.First.DayOfWeek - (int)weekStart + 7) % 7));
        bool IsOn(OutletEvent e, LocalDate day) => e.FirstDay <= day && day <= e.LastDay;
        var weeks = new List<(LocalDate First, List<(LocalDate Day, IReadOnlyList<OutletEvent> Events)> Days)>();
        for (var week = begin; week <= span.Last; week = week.PlusDays(7))
        {
            var first = week;
            weeks.Add((first, [.. Enumerable.Range(0, 7).Select(i => first.PlusDays(i)).Select(d => (d, (IReadOnlyList<OutletEvent>)[.. events.Where(e => d >= span.First && d <= span.Last && IsOn(e, d))]))]));
        }
        var shown = Enumerable.Range(0, 7).Where(i => begin.PlusDays(i).DayOfWeek < IsoDayOfWeek.Saturday || weeks.Any(w => w.Days[i].Events.Count > 0)).ToList();
        return new TermPlan(span.Title, span.First, span.Last, [.. shown.Select(i => begin.PlusDays(i))], [.. weeks.Select(w => new TermWeek(w.First, [.. shown.Select(i => w.Days[i])]))]);
    }
}

/// <summary>A week of a plan.</summary>
public sealed record TermWeek(LocalDate First, IReadOnlyList<(LocalDate Day, IReadOnlyList<OutletEvent> Events)> Days);
