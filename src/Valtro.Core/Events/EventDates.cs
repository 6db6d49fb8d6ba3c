using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>One date of an event in a window.</summary>
/// <param name="Date">Which of its dates: the local start the series gives.</param>
/// <param name="Span">Where it lies for whoever looks; of a moved date, where it was moved to.</param>
/// <param name="Timing">How it is tied to time.</param>
/// <param name="Change">What differs on it, or null.</param>
public readonly record struct EventDate(LocalDateTime Date, SeenSpan Span, EventTiming Timing, EventChange? Change);

/// <summary>All the dates of an event: what its rule and its extras give, less its skips, with its changes.</summary>
/// <param name="Given">What is given without a hand.</param>
/// <param name="Skips">Local starts left out, ascending.</param>
/// <param name="Extras">Local starts added, ascending.</param>
/// <param name="Changes">What differs on single dates, by their dates.</param>
public sealed record EventDates(
    PlainDates Given,
    ImmutableArray<LocalDateTime> Skips,
    ImmutableArray<LocalDateTime> Extras,
    ImmutableArray<EventChange> Changes)
{
    /// <summary>Whether it is a series no one is shown, see <see cref="RuleBudget.IsTooDense"/>; it touches no window then.</summary>
    public bool IsTooDense => RuleBudget.IsTooDense(Given.Timing, Given.Rule);

    /// <summary>The dates that touch a window; moved ones come after the others. None of a series that is too dense.</summary>
    public IEnumerable<EventDate> In(TimeWindow window)
    {
        if (IsTooDense)
            yield break;
        var moved = Changes.Where(c => c.Timing is not null).ToList();
        var others = moved.Count == 0 ? Skips : [.. Skips.Concat(moved.Select(c => c.Date)).Order()];
        foreach (var occurrence in new SeriesDates(Given, others, Extras).In(window))
        {
            var date = occurrence.LocalStart;
            yield return new EventDate(date, SeenSpan.Of(Given.Timing, occurrence, window.Zone), Given.Timing, Of(date));
        }
        foreach (var change in moved)
        {
            foreach (var occurrence in new SeriesDates(change.Timing!, null, []).In(window))
                yield return new EventDate(change.Date, SeenSpan.Of(change.Timing!, occurrence, window.Zone), change.Timing!, change);
        }
    }

    /// <summary>Whether a date of it touches the days from one day to another.</summary>
    /// <param name="from">The first day; null for no bound.</param>
    /// <param name="after">The day after the last; null for no bound.</param>
    /// <param name="zone">In whose days; a side without a bound is compared in the event's own.</param>
    public bool Touches(LocalDate? from, LocalDate? after, DateTimeZone zone)
    {
        if (IsTooDense)
            return false;
        if (from is { } first && after is { } end)
        {
            for (var day = first; day < end; day = day.PlusDays(TimeWindow.MaxDays))
            {
                if (In(new TimeWindow(day, LocalDate.Min(day.PlusDays(TimeWindow.MaxDays), end), zone)).Any())
                    return true;
            }
            return false;
        }
        var moved = Changes.Where(c => c.Timing is not null).ToList();
        var gone = Skips.Concat(moved.Select(c => c.Date)).ToHashSet();
        var others = new SeriesDates(Given, [.. gone.Order()], Extras);
        LocalDateTime End(EventTiming t) => t.Start.PlusNanoseconds(t.Length.ToInt64Nanoseconds());
        if (from is { } since)
        {
            var midnight = since.AtMidnight();
            return moved.Any(c => c.Timing!.Start >= midnight || End(c.Timing!) > midnight)
                || others.From(midnight.PlusNanoseconds(-Given.Timing.Length.ToInt64Nanoseconds())).Any(d => !gone.Contains(d) && (d >= midnight || d.PlusNanoseconds(Given.Timing.Length.ToInt64Nanoseconds()) > midnight));
        }
        return after is not { } until || moved.Any(c => c.Timing!.Start < until.AtMidnight()) || others.FirstStarts(1).Any(d => d < until.AtMidnight());
    }

    /// <summary>Whether a local start is one of the dates the series gives.</summary>
    public bool Makes(LocalDateTime date) => new SeriesDates(Given, Skips, Extras).Makes(date);

    /// <summary>The first date, where the series gives it; null when there is none.</summary>
    public LocalDateTime? First => new SeriesDates(Given, Skips, Extras).FirstStarts(1).Select(d => (LocalDateTime?)d).FirstOrDefault();

    /// <summary>The next date from a local time on; the last one when it is over.</summary>
    public (LocalDateTime? Date, bool IsOver) NextFrom(LocalDateTime from)
    {
        var dates = new SeriesDates(Given, Skips, Extras);
        LocalDateTime? next = dates.From(from).Where(d => !Skips.Contains(d)).Select(d => (LocalDateTime?)d).FirstOrDefault();
        return (next ?? dates.Last ?? dates.First, next is null);
    }

    /// <summary>What differs on a date, or null.</summary>
    public EventChange? Of(LocalDateTime date)
    {
        foreach (var change in Changes)
        {
            if (change.Date == date)
                return change;
        }
        return null;
    }
}
