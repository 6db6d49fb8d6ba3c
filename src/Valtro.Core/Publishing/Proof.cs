using System.Security.Cryptography;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.Publishing;

/// <summary>What may be wrong with what goes out, though nothing forbids it.</summary>
public enum ProofDoubt
{
    /// <summary>Nothing is on in the next weeks.</summary>
    EmptyWindow,

    /// <summary>All of a calendar is held back.</summary>
    ClosedCalendar,

    /// <summary>It stops going out within the next days, or has stopped.</summary>
    EndsSoon,

    /// <summary>A link that outsiders could not open when it was last tried.</summary>
    ClosedLink,

    /// <summary>A date in the small hours, as a wrong time zone makes them.</summary>
    SmallHours,

    /// <summary>A title that many readers cut.</summary>
    LongTitle,

    /// <summary>A place that many readers cut.</summary>
    LongPlace,

    /// <summary>A description that some readers cut.</summary>
    LongText,

    /// <summary>Text that cannot be read well on its ground.</summary>
    WeakContrast,

    /// <summary>Part of the style sheet does not go out.</summary>
    RemovedStyle,
}

/// <summary>A doubt, and about what.</summary>
/// <param name="Doubt">What.</param>
/// <param name="About">The title of the event or calendar, or the thing itself; empty when it is the publication.</param>
/// <param name="EventId">The event's identity; null when it is not an event, or one that is not told.</param>
public sealed record ProofWarning(ProofDoubt Doubt, string About, Guid? EventId = null);

/// <summary>An event as it went out, in short.</summary>
/// <param name="Uid">Its identity.</param>
/// <param name="Title">Its title; null where its times only went out.</param>
/// <param name="Digest">Of all that went out of it.</param>
public sealed record SentEvent(string Uid, string? Title, string Digest);

/// <summary>What became of an event between two states of what goes out.</summary>
public enum SentStep
{
    /// <summary>It goes out, and did not.</summary>
    Added,

    /// <summary>It went out, and no longer does.</summary>
    Removed,

    /// <summary>It goes out otherwise.</summary>
    Changed,
}

/// <summary>A difference of what goes out.</summary>
/// <param name="Step">What became of the event.</param>
/// <param name="Title">Its title, now or before; null where its times only go out.</param>
public sealed record SentDifference(SentStep Step, string? Title);

/// <summary>Looks at what goes out as a careful keeper would.</summary>
public static class Proof
{
    /// <summary>How far ahead an empty window is one.</summary>
    public const int WindowDays = 42;

    private const int MaxTitle = 80;
    private const int MaxPlace = 100;
    private const int MaxText = 3_000;
    private const int MaxEach = 20;
    private static readonly Duration Soon = Duration.FromDays(7);

    /// <summary>What may be wrong, the publication's first, then its events', each kind bounded.</summary>
    /// <param name="projection">What goes out.</param>
    /// <param name="now">The moment.</param>
    /// <param name="closedLinks">Addresses that outsiders could not open.</param>
    public static IReadOnlyList<ProofWarning> Warnings(Projection projection, Instant now, IReadOnlySet<string> closedLinks)
    {
        var found = new List<ProofWarning>();
        var today = now.InZone(projection.Zone).Date;
        var coming = projection.In(new TimeWindow(today, today.PlusDays(WindowDays), projection.Zone));
        if (coming.Count == 0)
            found.Add(new ProofWarning(ProofDoubt.EmptyWindow, ""));
        if (projection.Publication.Choices.Until is { } until && until < now + Soon)
            found.Add(new ProofWarning(ProofDoubt.EndsSoon, ""));
        var sent = projection.Calendars.Select(c => c.Id).ToHashSet();
        found.AddRange(projection.Held.Where(h => !sent.Contains(h.CalendarId)).Select(h => new ProofWarning(ProofDoubt.ClosedCalendar, h.Title)));
        var theme = projection.Publication.Look.Theme;
        found.AddRange(theme.Day.Weak.Select(w => new ProofWarning(ProofDoubt.WeakContrast, w.Field)));
        found.AddRange(StyleCleaner.Clean(theme).Removed.Select(r => new ProofWarning(ProofDoubt.RemovedStyle, r)).Take(MaxEach));

        void Each(ProofDoubt doubt, Func<EventView, bool> isDoubtful) => found.AddRange(projection.Events
            .Where(e => e.Detail >= Detail.Headlines && isDoubtful(e))
            .OrderBy(e => e.Title, StringComparer.Ordinal)
            .Take(MaxEach)
            .Select(e => new ProofWarning(doubt, e.Title!, Guid.TryParse(e.Uid, out var id) ? id : null)));
        Each(ProofDoubt.ClosedLink, e => e.Links.Any(l => closedLinks.Contains(l.Address)));
        var small = coming.Where(d => d.Event.Timing.Kind == TimeKind.Zoned && d.Span.Start.TimeOfDay >= new LocalTime(0, 30) && d.Span.Start.TimeOfDay < new LocalTime(5, 30)).Select(d => d.Event.Uid).ToHashSet();
        Each(ProofDoubt.SmallHours, e => small.Contains(e.Uid));
        Each(ProofDoubt.LongTitle, e => projection.Publication.Choices.TitleOf(e.Title!, e, e.Place, e.Category).Length > MaxTitle);
        Each(ProofDoubt.LongPlace, e => e.Place!.Length > MaxPlace);
        Each(ProofDoubt.LongText, e => e.Description is { Length: > MaxText } text && RichText.Plain(text).Length > MaxText);
        return found;
    }

    /// <summary>What goes out, in short.</summary>
    public static IReadOnlyList<SentEvent> Sent(FeedHead head, Projection projection) =>
        [.. projection.Events.Select(e => new SentEvent(e.Uid, e.Title, Convert.ToHexStringLower(SHA256.HashData(FeedWriter.WriteAlone(head, e)).AsSpan(0, 8))))];

    /// <summary>What is different between two states, by title.</summary>
    public static IReadOnlyList<SentDifference> Differences(IReadOnlyList<SentEvent> before, IReadOnlyList<SentEvent> after)
    {
        var (old, current) = (before.ToDictionary(e => e.Uid), after.ToDictionary(e => e.Uid));
        return
        [
            .. after.Where(e => !old.ContainsKey(e.Uid)).Select(e => new SentDifference(SentStep.Added, e.Title))
                .Concat(after.Where(e => old.TryGetValue(e.Uid, out var was) && was.Digest != e.Digest).Select(e => new SentDifference(SentStep.Changed, e.Title)))
                .Concat(before.Where(e => !current.ContainsKey(e.Uid)).Select(e => new SentDifference(SentStep.Removed, e.Title)))
                .OrderBy(d => d.Step).ThenBy(d => d.Title, StringComparer.Ordinal),
        ];
    }
}
