using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>When something last became different, and how often it has.</summary>
/// <param name="At">When.</param>
/// <param name="Number">How often, its making included.</param>
public readonly record struct EventStamp(Instant At, int Number)
{
    internal EventStamp Next(Instant now) => new(now, Number + 1);
}

/// <summary>
/// What readers are told of changes of an event: for each detail when what it shows last became different. Who gets
/// headlines hears nothing of a description that was edited. Kept with each change, by <see cref="Event.After"/>.
/// </summary>
/// <param name="Times">Of its times.</param>
/// <param name="Headlines">Of its times, title and place.</param>
/// <param name="Everything">Of all that readers can get; not of its reach, its drafts and the calendars it stands in.</param>
public sealed record EventStamps(EventStamp Times, EventStamp Headlines, EventStamp Everything)
{
    /// <summary>Of an event that was never kept.</summary>
    public static EventStamps None { get; } = New(default);

    /// <summary>Of an event that was just made.</summary>
    public static EventStamps New(Instant now) => new(new(now, 1), new(now, 1), new(now, 1));

    internal EventStamps After(Event before, Event after, Instant now)
    {
        var times = !SameTimes(before, after) || before.Facts.IsFree != after.Facts.IsFree || before.TimedAt != after.TimedAt;
        var headlines = times || !SameHeadlines(before, after);
        var everything = headlines || !SameTexts(before, after);
        return new EventStamps(times ? Times.Next(now) : Times, headlines ? Headlines.Next(now) : Headlines, everything ? Everything.Next(now) : Everything);
    }

    /// <summary>Whether two states have the same dates at the same times.</summary>
    internal static bool SameTimes(Event a, Event b) =>
        a.Plain == b.Plain && TimesByHand(a).SequenceEqual(TimesByHand(b));

    private static IEnumerable<(LocalDateTime, EventTiming?, bool)> TimesByHand(Event e) =>
        e.Changes.Where(c => c.Timing is not null || c.IsCalledOff).Select(c => (c.Date, c.Timing, c.IsCalledOff));

    private static bool SameHeadlines(Event a, Event b) =>
        (a.Title, a.Place, a.RelatedTo, a.Facts.Mark, a.Facts.Reminder) == (b.Title, b.Place, b.RelatedTo, b.Facts.Mark, b.Facts.Reminder)
        // How a series was said, though it may have the same dates.
        && (a.Timing, a.Rule, a.Follows) == (b.Timing, b.Rule, b.Follows) && a.Skips.SequenceEqual(b.Skips) && a.Extras.SequenceEqual(b.Extras)
        && Names(a).SequenceEqual(Names(b));

    private static IEnumerable<(LocalDateTime, string?, string?)> Names(Event e) =>
        e.Changes.Where(c => c.Title is not null || c.Place is not null).Select(c => (c.Date, c.Title, c.Place));

    private static bool SameTexts(Event a, Event b) =>
        a.Description == b.Description && Told(a.Facts) == Told(b.Facts)
        && Texts(a).SequenceEqual(Texts(b));

    private static IEnumerable<(LocalDateTime, string?, DateFacts)> Texts(Event e) =>
        e.Changes.Where(c => c.Description is not null || !c.Facts.IsNone).Select(c => (c.Date, c.Description, c.Facts));

    // Who may see it and where it stands is the team's.
    private static EventFacts Told(EventFacts f) => f with { IsDraft = false, Reach = null, AlsoIn = [], Limits = [] };
}
