using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>One change for many events at once; what is null stays as it is.</summary>
public sealed record BulkAction
{
    /// <summary>The farthest move, in days.</summary>
    public const int MaxDays = 400;

    /// <summary>Days later; negative for earlier.</summary>
    public int? MoveDays { get; init; }

    /// <summary>Another time of day to begin at, on the event's own clock; how long it is stays.</summary>
    public LocalTime? StartsAt { get; init; }

    /// <summary>A calendar they stand in besides.</summary>
    public Guid? AlsoIn { get; init; }

    /// <summary>A calendar into which they are copied; they themselves stay as they are, whatever else is said.</summary>
    public Guid? CopyTo { get; init; }

    /// <summary>Whether all of a series is copied, and not its chosen dates alone.</summary>
    public bool CopiesSeries { get; init; }

    /// <summary>Another home calendar.</summary>
    public Guid? CalendarId { get; init; }

    /// <summary>Another place; empty for none.</summary>
    public string? Place { get; init; }

    /// <summary>Whether the category is set.</summary>
    public bool SetsCategory { get; init; }

    /// <summary>The category it sets; null for none.</summary>
    public Guid? CategoryId { get; init; }

    /// <summary>Whether the most they allow each audience is set.</summary>
    public bool SetsReach { get; init; }

    /// <summary>The most they allow; null where their calendars decide alone.</summary>
    public ReachTable? Reach { get; init; }

    /// <summary>Tags they get.</summary>
    public ImmutableArray<string> AddTags { get; init; } = [];

    /// <summary>Whether they become drafts, or are published.</summary>
    public bool? IsDraft { get; init; }

    /// <summary>Whether the dates are called off, or on again.</summary>
    public bool? IsOff { get; init; }

    /// <summary>Whether the dates are deleted.</summary>
    public bool Deletes { get; init; }
}

/// <summary>
/// Changes a selection of dates. Time, place, calling off and deleting concern the chosen dates of a series; calendar,
/// category, tags, reach and drafts concern the event they are of. A pure function.
/// </summary>
public static class BulkEditor
{
    /// <summary>The event afterwards; the very same value when nothing changes. Its version grows by one, whatever is done.</summary>
    /// <param name="e">The event.</param>
    /// <param name="dates">The chosen ones of its dates.</param>
    /// <param name="action">What is done.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days.</param>
    /// <exception cref="InvalidInputException">A code of what one date or the event cannot be.</exception>
    public static Event Apply(Event e, IReadOnlyList<LocalDateTime> dates, BulkAction action, Instant now, SchoolDays days)
    {
        if (action.MoveDays is < -BulkAction.MaxDays or > BulkAction.MaxDays)
            throw new InvalidInputException("move_range", "moveDays", $"Events are moved by {BulkAction.MaxDays} days at most.");
        var after = OfWhole(e, action, now, days);
        var isSeries = e.Rule is not null || !e.Extras.IsEmpty;
        if (action.Deletes)
            return (isSeries ? WithoutDates(after, dates, now) : after.Delete(now)).After(e, now);
        if (!isSeries)
            after = OfOne(after, after.Timing.Start, action, now, days, EditScope.EveryDate);
        else
            after = dates.Aggregate(after, (one, date) => OfOne(one, date, action, now, days, EditScope.ThisDate));
        return after.After(e, now);
    }

    private static Event OfWhole(Event e, BulkAction action, Instant now, SchoolDays days)
    {
        var facts = e.Facts;
        if (action.SetsCategory)
            facts = facts with { CategoryId = action.CategoryId };
        if (action.SetsReach)
            facts = facts with { Reach = action.Reach };
        if (action.AlsoIn is { } also && also != (action.CalendarId ?? e.CalendarId) && !facts.AlsoIn.Contains(also))
            facts = facts with { AlsoIn = [.. facts.AlsoIn, also] };
        if (!action.AddTags.IsEmpty)
            facts = facts with { Tags = [.. facts.Tags, .. action.AddTags] };
        if (action.IsDraft is { } isDraft)
            facts = facts with { IsDraft = isDraft };
        return Edited(e, EditScope.EveryDate, e.Timing.Start, SeriesEditor.DraftOf(e, e.Timing.Start) with { Title = e.Title, Place = e.Place, Description = e.Description, Timing = e.Timing, Facts = facts }, action.CalendarId ?? e.CalendarId, now, days);
    }

    private static Event OfOne(Event e, LocalDateTime date, BulkAction action, Instant now, SchoolDays days, EditScope scope)
    {
        var draft = SeriesEditor.DraftOf(e, date);
        if (action.StartsAt is not null && draft.Timing.Kind == TimeKind.AllDay)
            throw new InvalidInputException("no_time_of_day", "startsAt", $"“{e.Title}” is on whole days and has no time of day.");
        var begins = action.MoveDays is { } by ? draft.Timing.Start.PlusDays(by) : draft.Timing.Start;
        var moved = draft with
        {
            Place = action.Place ?? draft.Place,
            Timing = draft.Timing.At(action.StartsAt is { } clock ? begins.Date.At(clock) : begins),
        };
        if (action.Place is not null || action.MoveDays is not null || action.StartsAt is not null)
            e = Edited(e, scope, date, moved, e.CalendarId, now, days);
        var start = scope == EditScope.EveryDate ? e.Timing.Start : date;
        return action.IsOff is { } isOff ? e.CallOff(start, isOff, now) : e;
    }

    private static Event Edited(Event e, EditScope scope, LocalDateTime date, EventDraft draft, Guid calendarId, Instant now, SchoolDays days)
    {
        var plan = SeriesEditor.Plan(e, new SeriesEdit(scope, date, draft, calendarId), new Dictionary<LocalDateTime, MisfitChoice>(), now, Guid.CreateVersion7, days);
        return plan.Undecided.Count == 0
            ? plan.After
            : throw new InvalidInputException("changes_undecided", "choices", $"Changed dates of “{e.Title}” would no longer fit. Change it by itself.");
    }

    private static Event WithoutDates(Event e, IReadOnlyList<LocalDateTime> dates, Instant now)
    {
        foreach (var date in dates)
        {
            try
            {
                e = e.Extras.Contains(date) ? e.RemoveExtra(date, now) : e.Skip(date, now);
            }
            catch (InvalidInputException error) when (error.Code == "last_date")
            {
                return e.Delete(now);
            }
        }
        return e;
    }
}
