using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>What a person says of an event: everything that is theirs to choose.</summary>
/// <param name="Title">One line, needed.</param>
/// <param name="Place">One line, may be empty.</param>
/// <param name="Description">Plain text, may be empty.</param>
/// <param name="Timing">When it is, or first is.</param>
/// <param name="Rule">The rule of a series; null for a one-time event.</param>
public sealed record EventDraft(string? Title, string? Place, string? Description, EventTiming Timing, RecurrenceRule? Rule);

/// <summary>
/// An event: one-time or a series. Immutable; every change is a function from one state to the next, and the store
/// keeps the result.
/// </summary>
public sealed record Event
{
    /// <summary>The longest title.</summary>
    public const int MaxTitle = 200;

    /// <summary>The longest place.</summary>
    public const int MaxPlace = 200;

    /// <summary>The longest description.</summary>
    public const int MaxDescription = 10_000;

    /// <summary>The most skips a series holds.</summary>
    public const int MaxSkips = 1_000;

    /// <summary>How long a removed event stays in the bin and goes out as cancelled.</summary>
    public static readonly Duration BinTime = Duration.FromDays(30);

    /// <summary>Identity.</summary>
    public required Guid Id { get; init; }

    /// <summary>The identity readers of feeds know, stable for the event's life (RFC 5545, 3.8.4.7; RFC 7986, 5.3).</summary>
    public required string Uid { get; init; }

    /// <summary>The home calendar.</summary>
    public required Guid CalendarId { get; init; }

    /// <summary>What it is.</summary>
    public required string Title { get; init; }

    /// <summary>Where it is; may be empty.</summary>
    public required string Place { get; init; }

    /// <summary>More about it; may be empty.</summary>
    public required string Description { get; init; }

    /// <summary>When it is, or first is.</summary>
    public required EventTiming Timing { get; init; }

    /// <summary>The rule of a series; null for a one-time event.</summary>
    public RecurrenceRule? Rule { get; init; }

    /// <summary>Local starts left out, ascending.</summary>
    public ImmutableArray<LocalDateTime> Skips { get; init; } = [];

    /// <summary>Grows with a change of time, rule or being there (RFC 5545, 3.8.7.4).</summary>
    public required int Sequence { get; init; }

    /// <summary>Grows with every change.</summary>
    public required int Version { get; init; }

    /// <summary>When it was made.</summary>
    public required Instant CreatedAt { get; init; }

    /// <summary>When it was last changed.</summary>
    public required Instant ChangedAt { get; init; }

    /// <summary>When it was put in the bin, or null.</summary>
    public Instant? DeletedAt { get; init; }

    /// <summary>The dates it makes.</summary>
    public SeriesDates Dates => new(Timing, Rule, Skips);

    /// <summary>
    /// The instants it can touch, a little wider than it is, for finding it by a window; the end is null for an
    /// endless series.
    /// </summary>
    public (Instant From, Instant? To) Bounds
    {
        get
        {
            var dates = Dates;
            // Two days cover every pair of zones.
            var margin = Duration.FromDays(2);
            var from = (dates.First ?? Timing.Start).InUtc().ToInstant() - margin;
            return (from, dates.IsEndless ? null : (dates.Last ?? Timing.Start).InUtc().ToInstant() + Timing.Length + margin);
        }
    }

    /// <summary>A new event.</summary>
    /// <exception cref="InvalidInputException">A code that names what is wrong with the draft.</exception>
    public static Event Create(Guid id, Guid calendarId, EventDraft draft, Instant now)
    {
        var (timing, rule) = InStep(draft);
        return new Event
        {
            Id = id,
            Uid = id.ToString("D"),
            CalendarId = calendarId,
            Title = Texts.Title(draft.Title, "title", MaxTitle),
            Place = Texts.Line(draft.Place, "place", MaxPlace),
            Description = Texts.Optional(draft.Description, "description", MaxDescription),
            Timing = timing,
            Rule = rule,
            Sequence = 0,
            Version = 1,
            CreatedAt = now,
            ChangedAt = now,
        };
    }

    /// <summary>
    /// The start moved to the first date the rule gives. RFC 5545 leaves a start that its rule does not give
    /// undefined, so our series never hold one.
    /// </summary>
    /// <exception cref="InvalidInputException"><c>rule_never_happens</c>.</exception>
    public static (EventTiming Timing, RecurrenceRule? Rule) InStep(EventDraft draft)
    {
        if (draft.Rule is null)
            return (draft.Timing, null);
        var first = new SeriesDates(draft.Timing, draft.Rule, []).First
            ?? throw new InvalidInputException("rule_never_happens", "rule", "This repeat never gives a date: its end lies before its first day, or the days contradict each other.");
        return (draft.Timing.OnDate(first.Date), draft.Rule);
    }

    /// <summary>
    /// The event as a draft says it should be, for every date. Skips move along with a new time of day; moved to a
    /// new day of the week, they stay with the dates people know.
    /// </summary>
    /// <exception cref="InvalidInputException">A code that names what is wrong with the draft.</exception>
    public Event Change(EventDraft draft, Guid calendarId, Instant now)
    {
        var (timing, rule) = InStep(draft);
        var skips = rule is null ? [] : Refit(Skips, timing);
        var sameTime = timing == Timing && rule == Rule;
        return this with
        {
            CalendarId = calendarId,
            Title = Texts.Title(draft.Title, "title", MaxTitle),
            Place = Texts.Line(draft.Place, "place", MaxPlace),
            Description = Texts.Optional(draft.Description, "description", MaxDescription),
            Timing = timing,
            Rule = rule,
            Skips = skips,
            Sequence = sameTime ? Sequence : Sequence + 1,
            Version = Version + 1,
            ChangedAt = now,
        };
    }

    /// <summary>The series without one of its dates.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_date</c>, <c>too_many_skips</c>, <c>last_date</c>.</exception>
    public Event Skip(LocalDateTime localStart, Instant now)
    {
        if (Rule is null || !Dates.Makes(localStart))
            throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
        var at = Skips.BinarySearch(localStart);
        if (at >= 0)
            return this;
        if (Skips.Length >= MaxSkips)
            throw new InvalidInputException("too_many_skips", "date", $"A series holds {MaxSkips} left-out dates at most.");
        var skipped = this with { Skips = Skips.Insert(~at, localStart), Sequence = Sequence + 1, Version = Version + 1, ChangedAt = now };
        return skipped.Dates.FirstStarts(1).Any()
            ? skipped
            : throw new InvalidInputException("last_date", "date", "This is the series’ last date. Delete the event instead.");
    }

    /// <summary>The series with a left-out date put back.</summary>
    public Event Unskip(LocalDateTime localStart, Instant now)
    {
        var at = Skips.BinarySearch(localStart);
        return at < 0
            ? this
            : this with { Skips = Skips.RemoveAt(at), Sequence = Sequence + 1, Version = Version + 1, ChangedAt = now };
    }

    /// <summary>The event in the bin.</summary>
    public Event Delete(Instant now) =>
        DeletedAt is null ? this with { DeletedAt = now, Sequence = Sequence + 1, Version = Version + 1, ChangedAt = now } : this;

    /// <summary>The event taken out of the bin.</summary>
    public Event Restore(Instant now) =>
        DeletedAt is null ? this : this with { DeletedAt = null, Sequence = Sequence + 1, Version = Version + 1, ChangedAt = now };

    private static ImmutableArray<LocalDateTime> Refit(ImmutableArray<LocalDateTime> skips, EventTiming timing) =>
        [.. skips.Select(s => s.Date.At(timing.Start.TimeOfDay))];
}
