using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Events;

/// <summary>Finds for each date of an event the one it is after a change of its times.</summary>
internal sealed class DateMatch
{
    private readonly SeriesDates oldDates;
    private readonly SeriesDates newDates;
    private readonly SchoolDayDates? placing;
    private readonly LocalTime newTime;
    private readonly bool byWeek;
    private readonly LocalDateTime? only;
    private readonly ImmutableHashSet<LocalDateTime> extras;

    /// <summary>Two states of an event's times.</summary>
    /// <param name="old">Before.</param>
    /// <param name="series">After.</param>
    /// <param name="newDates">The dates after.</param>
    /// <param name="extras">Added dates that go along wherever the series goes; null for none.</param>
    /// <param name="days">The school's days, by which dates that lie on closures are placed; null where they are not known.</param>
    public DateMatch(Event old, Event series, SeriesDates newDates, IEnumerable<LocalDateTime>? extras = null, SchoolDays? days = null)
    {
        (oldDates, this.newDates, newTime) = (old.Dates, newDates, series.Timing.Start.TimeOfDay);
        byWeek = old.Rule is null or { Frequency: <= Frequency.Weekly };
        this.extras = [.. extras ?? []];
        placing = days is not null && series is { Follows: { } follows, Rule: { } rule } ? new SchoolDayDates(series.Timing, rule, follows, days, series.CalendarId) : null;
        // What has one date is that date, wherever it goes.
        only = series.IsOneTime && old.IsOneTime ? series.Timing.Start : null;
    }

    /// <summary>The date that an old one is in the new series; null when there is none.</summary>
    public LocalDateTime? Find(LocalDateTime date)
    {
        if (only is not null)
            return only;
        if (newDates.Makes(date))
            return date;
        var sameDay = date.Date.At(newTime);
        if (newDates.Makes(sameDay) || extras.Contains(date))
            return sameDay;
        // Off a closure it goes where the series has it then.
        if (placing?.Place(sameDay) is { } placed && newDates.Makes(placed))
            return placed;
        // The same place in the same week, or month: the second lesson of a week stays its second.
        var (first, after) = Stretch(date.Date);
        var position = oldDates.Between(first, after).TakeWhile(d => d < date).Count();
        foreach (var other in newDates.Between(first, after))
        {
            if (position-- == 0)
                return other;
        }
        return null;
    }

    private (LocalDate First, LocalDate After) Stretch(LocalDate day)
    {
        if (byWeek)
        {
            var monday = day.PlusDays(1 - (int)day.DayOfWeek);
            return (monday, monday.PlusDays(7));
        }
        var first = new LocalDate(day.Year, day.Month, 1);
        return (first, first.PlusMonths(1));
    }
}
