using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>What an edit is made with, beside the event and the edit.</summary>
/// <param name="Choices">What was decided about changes that no longer fit, by their dates.</param>
/// <param name="Now">The moment.</param>
/// <param name="NewId">Gives identities to new events.</param>
/// <param name="Days">The school's days.</param>
internal sealed record EditMeans(IReadOnlyDictionary<LocalDateTime, MisfitChoice> Choices, Instant Now, Func<Guid> NewId, SchoolDays Days);

/// <summary>What was done to a series by hand.</summary>
/// <param name="Skips">Local starts left out.</param>
/// <param name="Extras">Local starts added.</param>
/// <param name="Changes">What differs on single dates.</param>
/// <param name="From">From which local time on.</param>
internal sealed record HandMade(ImmutableArray<LocalDateTime> Skips, ImmutableArray<LocalDateTime> Extras, ImmutableArray<EventChange> Changes, LocalDateTime From)
{
    public static HandMade Of(Event e) => new(e.Skips, e.Extras, e.Changes, LocalDateTime.MinIsoValue);

    public static HandMade Of(Event e, LocalDateTime from) => new([.. e.Skips.Where(d => d >= from)], [.. e.Extras.Where(d => d >= from)], [.. e.Changes.Where(c => c.Date >= from)], from);
}

/// <summary>Finds for each date of the old series the one it is in the new one.</summary>
internal sealed class SeriesFit
{
    private readonly Event old;
    private readonly SeriesDates oldDates;
    private readonly SeriesDates newDates;
    private readonly DateMatch match;
    private readonly LocalDateTime from;

    private SeriesFit(Event old, Event series, ImmutableArray<LocalDateTime> extras, SchoolDays days, LocalDateTime from)
    {
        this.old = old;
        this.from = from;
        var newTime = series.Timing.Start.TimeOfDay;
        oldDates = old.Dates;
        Series = series with { Extras = [.. extras.Select(e => e.Date.At(newTime)).Distinct().Order()], Changes = [] };
        newDates = Series.Dates;
        match = new DateMatch(old, Series, newDates, extras, days);
    }

    public Event Series { get; private set; }

    private IReadOnlyList<PlannedChange> Changes { get; set; } = [];

    private IReadOnlyList<LocalDateTime> LostSkips { get; set; } = [];

    private IReadOnlyList<EventChange> Undecided { get; set; } = [];

    private IReadOnlyList<Event> Kept { get; set; } = [];

    /// <summary>Fits what was done by hand into another series.</summary>
    /// <param name="old">The series it was done to.</param>
    /// <param name="series">The series it goes into.</param>
    /// <param name="part">What was done by hand: all of it, or that from a date on.</param>
    /// <param name="means">What the edit is made with.</param>
    public static SeriesFit Of(Event old, Event series, HandMade part, EditMeans means)
    {
        var fit = new SeriesFit(old, series, part.Extras, means.Days, part.From);
        fit.PlaceSkips(part.Skips);
        fit.PlaceChanges(part.Changes, means);
        return fit;
    }

    /// <summary>The plan with the dates compared.</summary>
    public SeriesPlan Plan(Event before, Event after, Event? second)
    {
        // What is edited lies from here on; a horizon bounds an endless series.
        var (oldFirst, newFirst) = (oldDates.First ?? before.Timing.Start, newDates.First ?? Series.Timing.Start);
        var begins = LocalDateTime.Min(LocalDateTime.Max(from, oldFirst), newFirst);
        var ends = begins.PlusDays(SeriesPlan.DaysAhead);
        var (gone, moved) = (new List<LocalDateTime>(), new List<MovedDate>());
        var targets = new HashSet<LocalDateTime>();
        var compared = 0;
        var last = ends;
        foreach (var date in oldDates.From(LocalDateTime.Max(from, oldFirst)))
        {
            if (date >= ends)
                break;
            if (++compared > SeriesPlan.MaxDates)
            {
                last = date;
                break;
            }
            if (before.Skips.BinarySearch(date) >= 0)
            {
                targets.Add(Find(date) ?? date);
                continue;
            }
            if (Find(date) is not { } to || !targets.Add(to))
                gone.Add(date);
            else if (to != date)
                moved.Add(new MovedDate(date, to));
        }
        var come = newDates.From(newFirst)
            .TakeWhile(d => d < last)
            .Take(SeriesPlan.MaxDates)
            .Where(d => Series.Skips.BinarySearch(d) < 0 && !targets.Contains(d))
            .ToList();
        return new SeriesPlan
        {
            Before = before,
            After = after,
            Second = second,
            Kept = Kept,
            Come = come,
            Gone = gone,
            Moved = moved,
            Changes = Changes,
            LostSkips = LostSkips,
            Undecided = Undecided,
        };
    }

    private LocalDateTime? Find(LocalDateTime date) => match.Find(date);

    private LocalDateTime? Nearest(LocalDateTime date, HashSet<LocalDateTime> taken)
    {
        LocalDateTime? nearest = null;
        foreach (var other in newDates.Between(date.Date.PlusDays(-62), date.Date.PlusDays(63)))
        {
            if (!taken.Contains(other) && (nearest is null || Distance(other, date) < Distance(nearest.Value, date)))
                nearest = other;
        }
        return nearest;
    }

    private static long Distance(LocalDateTime a, LocalDateTime b) =>
        Math.Abs(Period.Between(a, b, PeriodUnits.Seconds).Seconds);

    private void PlaceSkips(ImmutableArray<LocalDateTime> skips)
    {
        var placed = new SortedSet<LocalDateTime>();
        var lost = new List<LocalDateTime>();
        foreach (var skip in skips)
        {
            if (Find(skip) is { } to)
                placed.Add(to);
            else
                lost.Add(skip);
        }
        Series = Series with { Skips = [.. placed] };
        LostSkips = lost;
    }

    private void PlaceChanges(ImmutableArray<EventChange> changes, EditMeans means)
    {
        var placed = new SortedDictionary<LocalDateTime, EventChange>();
        var planned = new List<PlannedChange>();
        var misfits = new List<EventChange>();
        var taken = new HashSet<LocalDateTime>(Series.Skips);
        foreach (var change in changes)
        {
            if (Find(change.Date) is { } to && taken.Add(to))
            {
                placed.Add(to, change with { Date = to, Timing = Rekind(change.Timing) });
                planned.Add(new PlannedChange(change, to, null));
            }
            else
            {
                misfits.Add(change);
            }
        }
        var kept = new List<Event>();
        var undecided = new List<EventChange>();
        foreach (var change in misfits)
        {
            var nearest = Nearest(change.Date, taken);
            planned.Add(new PlannedChange(change, null, nearest));
            switch (means.Choices.TryGetValue(change.Date, out var choice) ? choice : (MisfitChoice?)null)
            {
                case MisfitChoice.KeepAsEvent:
                    kept.Add(Event.Create(means.NewId(), Series.CalendarId, SeriesEditor.DraftOf(old, change.Date) with { Rule = null, Follows = null }, means.Now) with
                    {
                        RelatedTo = old.Uid,
                        Names = KeptName(change.Date),
                    });
                    break;
                case MisfitChoice.ToNearestDate when nearest is { } to && taken.Add(to):
                    placed.Add(to, change with { Date = to, Timing = Rekind(change.Timing) });
                    break;
                case MisfitChoice.Drop:
                    break;
                default:
                    undecided.Add(change);
                    break;
            }
        }
        Series = Series with { Changes = [.. placed.Values.Where(c => !c.IsEmpty)] };
        Changes = planned;
        Kept = kept;
        Undecided = undecided;
    }

    // It is a one-time event then, wherever it is moved to later.
    private ImmutableArray<NamedDates> KeptName(LocalDateTime date)
    {
        var (name, start) = (DateNames.Of(old.Uid, old.Names, date), SeriesEditor.DraftOf(old, date).Timing.Start);
        return [new NamedDates(start, start, Period.Between(name.Start, start, PeriodUnits.Seconds).Seconds, name.Uid)];
    }

    /// <summary>A change's own time only holds in a series of its kind; it keeps its clock in a new zone.</summary>
    private EventTiming? Rekind(EventTiming? timing) =>
        timing is null || timing.Kind != Series.Timing.Kind ? null : EventTiming.Restore(timing.Kind, timing.Start, timing.Length, Series.Timing.Zone);
}
