using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>An edit of an event: what it shall be, and for which of its dates.</summary>
/// <param name="Scope">For which dates.</param>
/// <param name="Date">The date it is made on: the local start the series gives.</param>
/// <param name="Draft">
/// What it shall be. For this date its timing is that date's; from this date on it is the new start; for every date it
/// is the series' start. A rule that still has the series' COUNT means the dates that are left.
/// </param>
/// <param name="CalendarId">The home calendar it shall have.</param>
public sealed record SeriesEdit(EditScope Scope, LocalDateTime Date, EventDraft Draft, Guid CalendarId);

/// <summary>
/// Edits series: (state, edit) → plan, a pure function. Nothing a person changed by hand disappears without being named
/// in the plan.
/// </summary>
public static class SeriesEditor
{
    /// <summary>Computes what an edit does.</summary>
    /// <param name="before">The event as it is.</param>
    /// <param name="edit">The edit.</param>
    /// <param name="choices">What was decided about changes that no longer fit, by their dates.</param>
    /// <param name="now">The moment of the edit.</param>
    /// <param name="newId">Gives identities to new events.</param>
    /// <param name="schoolDays">The school's days, for series that follow them.</param>
    /// <exception cref="InvalidInputException">
    /// <c>no_such_date</c>; <c>date_calendar</c>, <c>date_kind</c>: one date cannot go to another calendar or kind of time; or a code of the draft.
    /// </exception>
    public static SeriesPlan Plan(
        Event before, SeriesEdit edit, IReadOnlyDictionary<LocalDateTime, MisfitChoice> choices, Instant now, Func<Guid> newId, SchoolDays? schoolDays = null)
    {
        var days = schoolDays ?? SchoolDays.None;
        if (before.Rule is null && before.Extras.IsEmpty)
            return OfEvery(before, edit, choices, now, newId, days);
        if (edit.Scope != EditScope.EveryDate && !before.Dates.Makes(edit.Date))
            throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
        return edit.Scope switch
        {
            EditScope.ThisDate => OfThis(before, edit, now),
            EditScope.FromThisDate when before.Rule is not null && before.RuleDates.First < edit.Date => OfRest(before, edit, choices, now, newId, days),
            // From the first date on is every date.
            _ => OfEvery(before, edit, choices, now, newId, days),
        };
    }

    /// <summary>What a date of an event is, as a draft: its own fields where a change gives them.</summary>
    public static EventDraft DraftOf(Event e, LocalDateTime date)
    {
        var change = e.All.Of(date);
        return new EventDraft(
            change?.Title ?? e.Title,
            change?.Place ?? e.Place,
            change?.Description ?? e.Description,
            change?.Timing ?? e.Timing.At(date),
            e.Rule,
            e.Follows,
            e.Facts);
    }

    private static SeriesPlan OfThis(Event before, SeriesEdit edit, Instant now)
    {
        if (edit.CalendarId != before.CalendarId)
            throw new InvalidInputException("date_calendar", "calendarId", "One date alone cannot go to another calendar. Choose every date, or from this date on.");
        var draft = edit.Draft;
        // RECURRENCE-ID and its date have the series' own form (RFC 5545, 3.8.4.4).
        if (draft.Timing.Kind != before.Timing.Kind || draft.Timing.Zone?.Id != before.Timing.Zone?.Id)
            throw new InvalidInputException("date_kind", "end", "One date alone cannot turn into whole days or back, or go to another time zone. Choose every date, or from this date on.");
        var old = before.All.Of(edit.Date);
        var (title, place, description) = Event.CheckedTexts(draft);
        var change = new EventChange
        {
            Date = edit.Date,
            Title = title == before.Title ? null : title,
            Place = place == before.Place ? null : place,
            Description = description == before.Description ? null : description,
            Timing = draft.Timing == before.Timing.At(edit.Date) ? null : draft.Timing,
            IsCalledOff = old?.IsCalledOff ?? false,
        };
        var after = before.WithChange(change, now);
        var (from, to) = ((old?.Timing ?? before.Timing.At(edit.Date)).Start, draft.Timing.Start);
        return new SeriesPlan
        {
            Before = before,
            After = after,
            Moved = from == to ? [] : [new MovedDate(from, to)],
            Changes = [.. before.Changes.Select(c => new PlannedChange(c, c.Date, null))],
        };
    }

    private static SeriesPlan OfEvery(
        Event before, SeriesEdit edit, IReadOnlyDictionary<LocalDateTime, MisfitChoice> choices, Instant now, Func<Guid> newId, SchoolDays days)
    {
        var (timing, rule) = Event.InStep(edit.Draft);
        var (title, place, description) = Event.CheckedTexts(edit.Draft);
        var follows = rule is null ? null : edit.Draft.Follows;
        var facts = edit.Draft.Facts?.Checked(edit.CalendarId) ?? before.Facts.Checked(edit.CalendarId);
        var isTimed = timing != before.Timing || rule != before.Rule || follows != before.Follows;
        if (!isTimed && title == before.Title && place == before.Place && description == before.Description && facts == before.Facts && edit.CalendarId == before.CalendarId)
            return new SeriesPlan { Before = before, After = before, Changes = [.. before.Changes.Select(c => new PlannedChange(c, c.Date, null))] };

        var after = before with
        {
            CalendarId = edit.CalendarId,
            Title = title,
            Place = place,
            Description = description,
            Timing = timing,
            Rule = rule,
            Follows = follows,
            Facts = facts,
            TimedAt = isTimed ? now : before.TimedAt,
        };
        after = after.OnSchoolDays(days);
        // Another calendar may have closures of its own.
        if (!isTimed && after.BySchoolDays == before.BySchoolDays)
            return new SeriesPlan { Before = before, After = after.After(before, now), Changes = [.. before.Changes.Select(c => new PlannedChange(c, c.Date, null))] };

        var fit = Fit.Of(before, after, before.Skips, before.Extras, before.Changes, choices, now, newId, days);
        return fit.Plan(before, fit.Series.After(before, now), null);
    }

    private static SeriesPlan OfRest(
        Event before, SeriesEdit edit, IReadOnlyDictionary<LocalDateTime, MisfitChoice> choices, Instant now, Func<Guid> newId, SchoolDays days)
    {
        var rule = before.Rule!;
        // A date moved off a closure begins where the rule has it.
        var origin = before.Follows is null ? edit.Date : new SchoolDayDates(before.Timing, rule, before.Follows, days, before.CalendarId).Origin(edit.Date) ?? edit.Date;
        var ended = rule.Count is null ? UntilBefore(before, origin) : null;
        var counted = rule.Count is null ? 0 : before.RuleDates.FirstStarts(RecurrenceRule.MaxCount).TakeWhile(d => d < edit.Date).Count();
        bool IsBefore(LocalDateTime date) => date < edit.Date;

        var first = before with
        {
            Rule = rule.WithEnd(rule.Count is null ? null : Math.Max(1, counted), ended),
            Skips = [.. before.Skips.Where(IsBefore)],
            Extras = [.. before.Extras.Where(IsBefore)],
            Changes = [.. before.Changes.Where(c => IsBefore(c.Date))],
        };
        first = first.OnSchoolDays(days).After(before, now);
        var draft = edit.Draft;
        if (origin != edit.Date && draft.Timing.Start.Date == edit.Date.Date)
            draft = draft with { Timing = draft.Timing.At(origin.Date.At(draft.Timing.Start.TimeOfDay)) };
        if (draft.Rule is { Count: not null } given && given.Count == rule.Count)
            draft = draft with { Rule = given.WithEnd(Math.Max(1, given.Count.Value - counted), null) };
        draft = draft with { Facts = draft.Facts ?? before.Facts };
        var second = Event.Create(newId(), edit.CalendarId, draft, now, days) with { RelatedTo = before.Uid };
        var fit = Fit.Of(
            before,
            second,
            [.. before.Skips.Where(d => !IsBefore(d))],
            [.. before.Extras.Where(d => !IsBefore(d))],
            [.. before.Changes.Where(c => !IsBefore(c.Date))],
            choices,
            now,
            newId,
            days,
            edit.Date);
        var plan = fit.Plan(before, first, fit.Series);
        return plan with { Changes = [.. first.Changes.Select(c => new PlannedChange(c, c.Date, null)), .. plan.Changes] };
    }

    /// <summary>The end that keeps a rule's dates before one, and no others.</summary>
    private static RuleEnd? UntilBefore(Event before, LocalDateTime date)
    {
        var moment = date.PlusSeconds(-1);
        if (before.Follows is not null)
            return before.Rule!.GivesOneTimeADay ? new RuleEnd(date.Date.PlusDays(-1)) : new RuleEnd(moment.Date, moment.TimeOfDay);
        var rule = before.Rule!.WithEnd(null, new RuleEnd(moment.Date, moment.TimeOfDay));
        return new SeriesDates(before.Timing, rule, []).Last is { } last
            ? new RuleEnd(last.Date, rule.GivesOneTimeADay ? null : last.TimeOfDay)
            : null;
    }

    /// <summary>Finds for each date of the old series the one it is in the new one.</summary>
    private sealed class Fit
    {
        private readonly Event old;
        private readonly SeriesDates oldDates;
        private readonly SeriesDates newDates;
        private readonly SchoolDayDates? placing;
        private readonly LocalTime newTime;
        private readonly bool byWeek;
        private readonly ImmutableHashSet<LocalDateTime> oldExtras;
        private readonly LocalDateTime from;

        private Fit(Event old, Event series, ImmutableArray<LocalDateTime> extras, SchoolDays days, LocalDateTime from)
        {
            this.old = old;
            this.from = from;
            oldExtras = [.. extras];
            newTime = series.Timing.Start.TimeOfDay;
            byWeek = old.Rule is null or { Frequency: <= Frequency.Weekly };
            oldDates = old.Dates;
            Series = series with { Extras = [.. extras.Select(e => e.Date.At(newTime)).Distinct().Order()], Changes = [] };
            newDates = Series.Dates;
            placing = Series is { Follows: { } follows, Rule: { } rule } ? new SchoolDayDates(Series.Timing, rule, follows, days, Series.CalendarId) : null;
        }

        public Event Series { get; private set; }

        private IReadOnlyList<PlannedChange> Changes { get; set; } = [];

        private IReadOnlyList<LocalDateTime> LostSkips { get; set; } = [];

        private IReadOnlyList<EventChange> Undecided { get; set; } = [];

        private IReadOnlyList<Event> Kept { get; set; } = [];

        public static Fit Of(
            Event old,
            Event series,
            ImmutableArray<LocalDateTime> skips,
            ImmutableArray<LocalDateTime> extras,
            ImmutableArray<EventChange> changes,
            IReadOnlyDictionary<LocalDateTime, MisfitChoice> choices,
            Instant now,
            Func<Guid> newId,
            SchoolDays days,
            LocalDateTime? from = null)
        {
            var fit = new Fit(old, series, extras, days, from ?? LocalDateTime.MinIsoValue);
            fit.PlaceSkips(skips);
            fit.PlaceChanges(changes, choices, now, newId);
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

        /// <summary>The date that an old one is in the new series; null when there is none.</summary>
        private LocalDateTime? Find(LocalDateTime date)
        {
            if (newDates.Makes(date))
                return date;
            var sameDay = date.Date.At(newTime);
            if (newDates.Makes(sameDay) || oldExtras.Contains(date))
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

        private void PlaceChanges(
            ImmutableArray<EventChange> changes, IReadOnlyDictionary<LocalDateTime, MisfitChoice> choices, Instant now, Func<Guid> newId)
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
                switch (choices.TryGetValue(change.Date, out var choice) ? choice : (MisfitChoice?)null)
                {
                    case MisfitChoice.KeepAsEvent:
                        kept.Add(Event.Create(newId(), Series.CalendarId, SeriesEditor.DraftOf(old, change.Date) with { Rule = null, Follows = null }, now) with { RelatedTo = old.Uid });
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

        /// <summary>A change's own time only holds in a series of its kind; it keeps its clock in a new zone.</summary>
        private EventTiming? Rekind(EventTiming? timing) =>
            timing is null || timing.Kind != Series.Timing.Kind ? null : EventTiming.Restore(timing.Kind, timing.Start, timing.Length, Series.Timing.Zone);
    }
}
