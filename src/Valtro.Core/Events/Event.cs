using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>What a person says of an event: everything that is theirs to choose.</summary>
/// <param name="Title">One line, needed.</param>
/// <param name="Place">One line, may be empty.</param>
/// <param name="Description">Rich text (<see cref="RichText"/>), may be empty.</param>
/// <param name="Timing">When it is, or first is.</param>
/// <param name="Rule">The rule of a series; null for a one-time event.</param>
/// <param name="Follows">How the series follows school days; null when it does not.</param>
/// <param name="Facts">What it has beside; null for nothing, or for what a saved event has.</param>
public sealed record EventDraft(
    string? Title, string? Place, string? Description, EventTiming Timing, RecurrenceRule? Rule, SchoolDayRule? Follows = null, EventFacts? Facts = null);

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

    /// <summary>The longest description, in characters people read.</summary>
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

    /// <summary>More about it, as clean <see cref="RichText"/>; may be empty.</summary>
    public required string Description { get; init; }

    /// <summary>When it is, or first is.</summary>
    public required EventTiming Timing { get; init; }

    /// <summary>The rule of a series; null for a one-time event.</summary>
    public RecurrenceRule? Rule { get; init; }

    /// <summary>How the series follows school days; null when it does not.</summary>
    public SchoolDayRule? Follows { get; init; }

    /// <summary>
    /// The dates a series that follows school days has by the school's years as they were known; null for other events.
    /// Computed anew when the years change.
    /// </summary>
    public PlainDates? BySchoolDays { get; init; }

    /// <summary>What it has beside; a date can have some of it otherwise (<see cref="EventChange.Facts"/>).</summary>
    public EventFacts Facts { get; init; } = EventFacts.None;

    /// <summary>Local starts left out, ascending.</summary>
    public ImmutableArray<LocalDateTime> Skips { get; init; } = [];

    /// <summary>Local starts added beside the rule's, ascending.</summary>
    public ImmutableArray<LocalDateTime> Extras { get; init; } = [];

    /// <summary>What differs on single dates, ascending by date.</summary>
    public ImmutableArray<EventChange> Changes { get; init; } = [];

    /// <summary>Where its dates got other names than they would have now: see <see cref="DateNames"/>.</summary>
    public ImmutableArray<NamedDates> Names { get; init; } = [];

    /// <summary>The UID of the event this one was split off from (RFC 5545, 3.8.4.5, RELATED-TO), or null.</summary>
    public string? RelatedTo { get; init; }

    /// <summary>Grows with a change of time, rule or being there (RFC 5545, 3.8.7.4).</summary>
    public required int Sequence { get; init; }

    /// <summary>Grows with every change.</summary>
    public required int Version { get; init; }

    /// <summary>When it was made.</summary>
    public required Instant CreatedAt { get; init; }

    /// <summary>When it was last changed.</summary>
    public required Instant ChangedAt { get; init; }

    /// <summary>When its times were last set as a whole: made, or moved.</summary>
    public Instant TimedAt { get; init; }

    /// <summary>What its readers are told of changes, for each detail on its own: see <see cref="EventStamps"/>.</summary>
    public EventStamps Stamps { get; init; } = EventStamps.None;

    /// <summary>When it was put in the bin, or null.</summary>
    public Instant? DeletedAt { get; init; }

    /// <summary>Whether it has one date and no more.</summary>
    public bool IsOneTime => Rule is null && Extras.IsEmpty;

    /// <summary>The dates its rule and extras make, less its skips, where the series gives them.</summary>
    public SeriesDates Dates => new(Given, Skips, ByHand);

    /// <summary>The dates with what differs on them.</summary>
    public EventDates All => new(Given, Skips, ByHand, Changes);

    /// <summary>The dates in the terms of RFC 5545 alone, skips and extras included.</summary>
    public PlainDates Plain => Given.With(Skips, ByHand);

    /// <summary>The dates its rule gives, by the school's days where it follows them; nothing of what was done by hand.</summary>
    internal SeriesDates RuleDates => new(Given, []);

    private PlainDates Given => BySchoolDays ?? new PlainDates(Timing, Rule, [], []);

    /// <summary>
    /// Dates set by hand. What was changed on a date holds it, whatever becomes of the school year; a date that is given
    /// anyway is not added once more, or that something differs on it would be told to who is not told what.
    /// </summary>
    private ImmutableArray<LocalDateTime> ByHand
    {
        get
        {
            if (BySchoolDays is null || Changes.IsEmpty)
                return Extras;
            var given = new SeriesDates(Given, []);
            return [.. Extras.Union(Changes.Select(c => c.Date).Where(d => !given.Makes(d))).Order()];
        }
    }

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
            var from = dates.First ?? Timing.Start;
            LocalDateTime? to = dates.IsEndless ? null : (dates.Last ?? Timing.Start).PlusSeconds((long)Timing.Length.TotalSeconds);
            foreach (var moved in Changes.Select(c => c.Timing).OfType<EventTiming>())
            {
                from = LocalDateTime.Min(from, moved.Start);
                to = to is { } end ? LocalDateTime.Max(end, moved.Start.PlusSeconds((long)moved.Length.TotalSeconds)) : null;
            }
            return (from.InUtc().ToInstant() - margin, to?.InUtc().ToInstant() + margin);
        }
    }

    /// <summary>A new event.</summary>
    /// <param name="id">Its identity.</param>
    /// <param name="calendarId">Its home calendar.</param>
    /// <param name="draft">What it shall be.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days, for a series that follows them.</param>
    /// <exception cref="InvalidInputException">A code that names what is wrong with the draft.</exception>
    public static Event Create(Guid id, Guid calendarId, EventDraft draft, Instant now, SchoolDays? days = null)
    {
        var (timing, rule) = InStep(draft);
        var (title, place, description) = CheckedTexts(draft);
        return new Event
        {
            Id = id,
            Uid = id.ToString("D"),
            CalendarId = calendarId,
            Title = title,
            Place = place,
            Description = description,
            Timing = timing,
            Rule = rule,
            Follows = rule is null ? null : draft.Follows,
            Facts = (draft.Facts ?? EventFacts.None).Checked(calendarId),
            TimedAt = now,
            Sequence = 0,
            Version = 1,
            CreatedAt = now,
            ChangedAt = now,
            Stamps = EventStamps.New(now),
        }.OnSchoolDays(days ?? SchoolDays.None);
    }

    /// <summary>The event with its dates by the school's days; the same value when they are as before.</summary>
    /// <exception cref="InvalidInputException"><c>no_school_days</c>: there is no such date in the years the school keeps.</exception>
    public Event OnSchoolDays(SchoolDays days)
    {
        var found = FoundIn(days);
        if (found is not null && new SeriesDates(found, []).First is null)
            throw new InvalidInputException("no_school_days", "follows", "The school year has no such date. Look at its terms and its cycle, or choose other days.");
        return found == BySchoolDays ? this : this with { BySchoolDays = found };
    }

    /// <summary>
    /// The event after a change of the school's years; the same value when its dates are as before. A series may come to
    /// have no date.
    /// </summary>
    public Event Recomputed(SchoolDays days, Instant now)
    {
        PlainDates? found;
        try
        {
            found = FoundIn(days);
        }
        catch (InvalidInputException)
        {
            // A series nobody is shown keeps no year from being changed.
            return this;
        }
        return found == BySchoolDays
            ? this
            : (this with { BySchoolDays = found }).After(this, now);
    }

    private PlainDates? FoundIn(SchoolDays days) =>
        Follows is null || Rule is null ? null : new SchoolDayDates(Timing, Rule, Follows, days, CalendarId).Plain();

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
        return (draft.Timing.At(first), draft.Rule);
    }

    /// <summary>The texts of a draft, cleaned and checked.</summary>
    /// <exception cref="InvalidInputException"><c>title_missing</c>, <c>text_too_long</c>.</exception>
    internal static (string Title, string Place, string Description) CheckedTexts(EventDraft draft) => (
        Texts.Title(draft.Title, "title", MaxTitle),
        Texts.Line(draft.Place, "place", MaxPlace),
        RichText.Clean(draft.Description, "description", MaxDescription));

    /// <summary>The series without one of its dates.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_date</c>, <c>too_many_skips</c>, <c>last_date</c>.</exception>
    public Event Skip(LocalDateTime localStart, Instant now)
    {
        CheckDate(localStart);
        var at = Skips.BinarySearch(localStart);
        if (at >= 0)
            return this;
        if (Skips.Length >= MaxSkips)
            throw new InvalidInputException("too_many_skips", "date", $"A series holds {MaxSkips} left-out dates at most.");
        var skipped = (this with { Skips = Skips.Insert(~at, localStart), Changes = Changes.RemoveAll(c => c.Date == localStart) }).After(this, now);
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
            : (this with { Skips = Skips.RemoveAt(at) }).After(this, now);
    }

    /// <summary>What a date of it has beside.</summary>
    /// <param name="change">What differs on it, or null.</param>
    public EventFacts FactsOn(EventChange? change) => change?.Facts.On(Facts) ?? Facts;

    /// <summary>All its files, those of single dates too; each once.</summary>
    public IEnumerable<EventFile> Files => Facts.Files.Concat(Changes.SelectMany(c => c.Facts.Files)).DistinctBy(f => f.Id);

    /// <summary>Its categories, those of single dates too.</summary>
    public IEnumerable<Guid> CategoryIds => Changes.Select(c => c.Facts.CategoryId).Prepend(Facts.CategoryId).OfType<Guid>().Distinct();

    /// <summary>The calendars it stands in, its home first.</summary>
    public IEnumerable<Guid> CalendarIds => Facts.AlsoIn.Prepend(CalendarId);

    /// <summary>The event as if it were made now: what was proposed is there from when it is approved.</summary>
    internal Event AsNew(Instant now) =>
        this with { Sequence = 0, Version = 1, CreatedAt = now, ChangedAt = now, TimedAt = now, DeletedAt = null, Stamps = EventStamps.New(now) };

    /// <summary>The event in the bin.</summary>
    public Event Delete(Instant now) =>
        DeletedAt is null ? (this with { DeletedAt = now }).After(this, now) : this;

    /// <summary>The event taken out of the bin.</summary>
    public Event Restore(Instant now) =>
        DeletedAt is null ? this : (this with { DeletedAt = null }).After(this, now);

    /// <summary>The series with one of its dates called off, or on again.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_date</c>.</exception>
    public Event CallOff(LocalDateTime localStart, bool isOff, Instant now)
    {
        if (Rule is not null || localStart != Timing.Start)
            CheckDate(localStart);
        return WithChange((All.Of(localStart) ?? new EventChange { Date = localStart }) with { IsCalledOff = isOff }, now);
    }

    /// <summary>The series with a date as on every other: nothing differs there any more.</summary>
    public Event WithoutChange(LocalDateTime localStart, Instant now) => WithChange(new EventChange { Date = localStart }, now);

    /// <summary>The series with an added date.</summary>
    /// <exception cref="InvalidInputException"><c>not_a_series</c>, <c>date_is_there</c>, <c>too_many_skips</c>.</exception>
    public Event AddDate(LocalDateTime localStart, Instant now)
    {
        if (Rule is null)
            throw new InvalidInputException("not_a_series", "date", "A one-time event has one date. Let it repeat, or make another event.");
        if (Skips.BinarySearch(localStart) >= 0)
            return Unskip(localStart, now);
        if (Dates.Makes(localStart))
            throw new InvalidInputException("date_is_there", "date", "The series has this date already.");
        if (Extras.Length >= MaxSkips)
            throw new InvalidInputException("too_many_skips", "date", $"A series holds {MaxSkips} added dates at most.");
        return (this with { Extras = [.. Extras.Append(localStart).Order()] }).After(this, now);
    }

    /// <summary>The series without an added date.</summary>
    public Event RemoveExtra(LocalDateTime localStart, Instant now) =>
        Extras.Contains(localStart)
            ? (this with { Extras = Extras.Remove(localStart), Changes = Changes.RemoveAll(c => c.Date == localStart) }).After(this, now)
            : this;

    /// <summary>The series with what differs on one date replaced; an empty change is none.</summary>
    internal Event WithChange(EventChange change, Instant now)
    {
        var old = All.Of(change.Date);
        change = change with { At = old?.At };
        if (old == change || (old is null && change.IsEmpty))
            return this;
        var others = Changes.Where(c => c.Date != change.Date);
        var isTimed = old?.Timing != change.Timing || (old?.IsCalledOff ?? false) != change.IsCalledOff;
        change = change with { At = isTimed ? now : old?.At };
        return (this with { Changes = [.. (change.IsEmpty ? others : others.Append(change)).OrderBy(c => c.Date)] }).After(this, now);
    }

    /// <summary>
    /// This state as the one that follows another: the one place where versions, sequences and stamps come from. Several
    /// steps of one change count once, from the state they began with.
    /// </summary>
    /// <param name="before">The state it follows.</param>
    /// <param name="now">The moment.</param>
    /// <returns>The very same value as before when they say the same.</returns>
    public Event After(Event before, Instant now)
    {
        if (SaysAs(before) && BySchoolDays == before.BySchoolDays)
            return before;
        return this with
        {
            Version = before.Version + 1,
            ChangedAt = now,
            Sequence = EventStamps.SameTimes(before, this) ? before.Sequence : before.Sequence + 1,
            Stamps = before.Stamps.After(before, this, now),
            // A state that was put back brings its names along.
            Names = Names.SequenceEqual(before.Names) ? DateNames.After(before, this) : Names,
        };
    }

    /// <summary>
    /// Whether two states say the same: all that people decide of an event. When that was decided plays no part, nor
    /// which version it is, nor what the school's years made of it since.
    /// </summary>
    public bool SaysAs(Event other) =>
        (Id, CalendarId, Title, Place, Description, RelatedTo) == (other.Id, other.CalendarId, other.Title, other.Place, other.Description, other.RelatedTo)
        && Timing == other.Timing && Rule == other.Rule && Follows == other.Follows && Facts == other.Facts
        && Skips.SequenceEqual(other.Skips) && Extras.SequenceEqual(other.Extras)
        && Changes.Select(c => c with { At = null }).SequenceEqual(other.Changes.Select(c => c with { At = null }))
        && DeletedAt is null == other.DeletedAt is null;

    private void CheckDate(LocalDateTime localStart)
    {
        if (Rule is null || !Dates.Makes(localStart))
            throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
    }
}
