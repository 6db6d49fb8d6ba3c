using System.Collections.Immutable;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Publishing;

/// <summary>A calendar as visitors get it.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Title">Its name.</param>
/// <param name="Mark">Its mark.</param>
/// <param name="Detail">The most any of its events shows.</param>
/// <param name="Tag">A short name for it; may be empty.</param>
public sealed record PublishedCalendar(Guid Id, string Title, int Mark, Detail Detail, string Tag = "");

/// <summary>
/// An event as visitors get it: holds nothing that its detail does not allow, so that nothing downstream can show more.
/// </summary>
public sealed record PublishedEvent
{
    /// <summary>The stable identity for feeds; below <see cref="Detail.Headlines"/> one that tells nobody which event it is.</summary>
    public required string Uid { get; init; }

    /// <summary>The calendar it is shown by: of those it stands in, the first that shows most of it.</summary>
    public required PublishedCalendar Calendar { get; init; }

    /// <summary>All calendars that go out and show its name, in the publication's order.</summary>
    public required IReadOnlyList<PublishedCalendar> Calendars { get; init; }

    /// <summary>How much of it is shown.</summary>
    public required Detail Detail { get; init; }

    /// <summary>The title; null below <see cref="Detail.Headlines"/>.</summary>
    public required string? Title { get; init; }

    /// <summary>The place; null below <see cref="Detail.Headlines"/>.</summary>
    public required string? Place { get; init; }

    /// <summary>The description, as clean <see cref="RichText"/>; null below <see cref="Detail.Everything"/>.</summary>
    public required string? Description { get; init; }

    /// <summary>
    /// What it has beside: all of it with <see cref="Detail.Everything"/>, below that only whether it leaves the time free,
    /// and with <see cref="Detail.Headlines"/> its mark and its reminder. Never its reach or the calendars it stands in.
    /// </summary>
    public EventFacts Facts { get; init; } = EventFacts.None;

    /// <summary>The name of its category; null below <see cref="Detail.Everything"/>.</summary>
    public string? Category { get; init; }

    /// <summary>Where it is; null below <see cref="Detail.Headlines"/>, or when the school's list does not know.</summary>
    public Place? Where { get; init; }

    /// <summary>When it is, or first is.</summary>
    public required EventTiming Timing { get; init; }

    /// <summary>The rule of a series.</summary>
    public required RecurrenceRule? Rule { get; init; }

    /// <summary>Left-out local starts.</summary>
    public required ImmutableArray<LocalDateTime> Skips { get; init; }

    /// <summary>Added local starts.</summary>
    public ImmutableArray<LocalDateTime> Extras { get; init; } = [];

    /// <summary>What differs on single dates; holds no word its detail does not allow.</summary>
    public ImmutableArray<EventChange> Changes { get; init; } = [];

    /// <summary>The UID of the event it was split off from, or null.</summary>
    public string? RelatedTo { get; init; }

    /// <summary>Revision of its times (RFC 5545, 3.8.7.4).</summary>
    public required int Sequence { get; init; }

    /// <summary>When it was made.</summary>
    public required Instant CreatedAt { get; init; }

    /// <summary>When it was last changed.</summary>
    public required Instant ChangedAt { get; init; }

    /// <summary>When its times were last set.</summary>
    public Instant TimedAt { get; init; }

    /// <summary>Removed a short while ago: feeds tell their readers, pages do not show it.</summary>
    public required bool IsCancelled { get; init; }

    /// <summary>The dates it makes.</summary>
    public EventDates Dates => new(new PlainDates(Timing, Rule, [], []), Skips, Extras, Changes);
}

/// <summary>What became of a date lately.</summary>
public enum DateNews
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>It was added.</summary>
    New,

    /// <summary>It is at another time.</summary>
    Moved,

    /// <summary>It was called off.</summary>
    CalledOff,
}

/// <summary>One date of a published event, as seen in the outlet's zone.</summary>
/// <param name="Event">The event.</param>
/// <param name="LocalStart">Which of its dates, in the event's own time.</param>
/// <param name="Span">Where it lies.</param>
/// <param name="Change">What differs on it, or null.</param>
public sealed record PublishedOccurrence(PublishedEvent Event, LocalDateTime LocalStart, SeenSpan Span, EventChange? Change)
{
    /// <summary>The title on this date; null below <see cref="Detail.Headlines"/>.</summary>
    public string? Title => Change?.Title ?? Event.Title;

    /// <summary>The place on this date.</summary>
    public string? Place => Change?.Place ?? Event.Place;

    /// <summary>The description on this date.</summary>
    public string? Description => Change?.Description ?? Event.Description;

    /// <summary>Whether this date is called off.</summary>
    public bool IsCalledOff => Change is { IsCalledOff: true };

    /// <summary>When it is, on its own clock.</summary>
    public EventTiming Timing => Change?.Timing ?? Event.Timing.At(LocalStart);

    /// <summary>When it begins and ends; of an event without a zone as in the one given, of an all-day one at its midnights.</summary>
    public (Instant From, Instant To) InstantsIn(DateTimeZone zone)
    {
        var timing = Timing;
        if (timing.Kind == TimeKind.AllDay)
            return (Zones.ToInstant(timing.Start, zone), Zones.ToInstant(timing.End, zone));
        var from = Zones.ToInstant(timing.Start, timing.Zone ?? zone);
        return (from, from + timing.Length);
    }

    /// <summary>A name for this date within its publication: it stays while the event does, whatever changes on it.</summary>
    public string Key => $"{Event.Uid}-{LocalStart:uuuuMMdd'T'HHmm}";

    /// <summary>What became of it lately, for readers who saw it before.</summary>
    /// <param name="since">What is older is no news.</param>
    public DateNews NewsSince(Instant since)
    {
        if (Change is { IsCalledOff: true })
            return Change.At >= since ? DateNews.CalledOff : DateNews.None;
        if (Event.CreatedAt >= since)
            return DateNews.New;
        return (Change?.Timing is not null && Change.At >= since) || (Event.TimedAt > Event.CreatedAt && Event.TimedAt >= since) ? DateNews.Moved : DateNews.None;
    }

    /// <summary>By day, all-day first, then by time, then by identity, so that the order never depends on chance.</summary>
    public static int Order(PublishedOccurrence a, PublishedOccurrence b)
    {
        var order = a.Span.FirstDay.CompareTo(b.Span.FirstDay);
        if (order == 0)
            order = (b.Event.Timing.Kind == TimeKind.AllDay).CompareTo(a.Event.Timing.Kind == TimeKind.AllDay);
        if (order == 0)
            order = a.Span.Start.CompareTo(b.Span.Start);
        return order != 0 ? order : string.CompareOrdinal(a.Event.Uid, b.Event.Uid);
    }
}

/// <summary>A calendar of a publication that its audience does not get.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Title">Its name; for its keepers only.</param>
/// <param name="Reason">Why.</param>
/// <param name="Events">How many events that keeps back.</param>
public sealed record HeldBack(Guid CalendarId, string Title, ReachReason Reason, int Events);

/// <summary>What a publication sends out at a moment.</summary>
/// <param name="Publication">The publication.</param>
/// <param name="Zone">The zone its outlets speak in.</param>
/// <param name="Calendars">The calendars that go out, in order.</param>
/// <param name="Events">The events that go out, ordered by identity so that the same data gives the same bytes.</param>
/// <param name="Held">What stays in, and why. Never goes out.</param>
/// <param name="ChangedAt">When what goes out last became different: a change, or a removed event that stopped going out.</param>
/// <param name="ValidUntil">When a removed event stops going out and the projection has to be made anew; null if never.</param>
public sealed record Projection(
    Publication Publication,
    DateTimeZone Zone,
    IReadOnlyList<PublishedCalendar> Calendars,
    IReadOnlyList<PublishedEvent> Events,
    IReadOnlyList<HeldBack> Held,
    Instant ChangedAt,
    Instant? ValidUntil)
{
    /// <summary>Whether search engines are asked to leave it out: it is for link holders, or one of its calendars is kept from them.</summary>
    public bool IsOutOfSearch { get; init; }

    /// <summary>The events pages show: all but those just removed.</summary>
    public IEnumerable<PublishedEvent> Shown => Events.Where(e => !e.IsCancelled);

    /// <summary>The shown occurrences that touch a window, by day and time, all-day ones first.</summary>
    public IReadOnlyList<PublishedOccurrence> In(TimeWindow window)
    {
        var found = new List<PublishedOccurrence>();
        foreach (var e in Shown)
        {
            foreach (var date in e.Dates.In(window))
                found.Add(new PublishedOccurrence(e, date.Date, date.Span, date.Change));
        }
        found.Sort(PublishedOccurrence.Order);
        return found;
    }

    /// <summary>The date with a key (<see cref="PublishedOccurrence.Key"/>) that can be told of by itself; null when there is none, or only that its time is taken.</summary>
    public PublishedOccurrence? Find(string key)
    {
        var cut = key.LastIndexOf('-');
        if (cut < 0 || KeyForm.Parse(key[(cut + 1)..]) is not { Success: true, Value: var start })
            return null;
        if (start.Year is < 1900 or > 2198 || Shown.FirstOrDefault(e => e.Detail >= Detail.Headlines && e.Uid == key[..cut]) is not { } e)
            return null;
        // A date that was moved lies elsewhere than its key says.
        var day = (e.Changes.FirstOrDefault(c => c.Date == start)?.Timing?.Start ?? start).Date;
        return e.Dates.In(new TimeWindow(day.PlusDays(-1), day.PlusDays(2), Zone))
            .Where(d => d.Date == start)
            .Select(d => new PublishedOccurrence(e, d.Date, d.Span, d.Change))
            .FirstOrDefault();
    }

    private static readonly LocalDateTimePattern KeyForm = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmm");

    /// <summary>Projects calendars and their events into a publication.</summary>
    /// <param name="publication">The publication.</param>
    /// <param name="zone">The school's zone.</param>
    /// <param name="calendars">Its calendars; others are ignored, missing ones are not named.</param>
    /// <param name="events">The events that stand in them, those in the bin included.</param>
    /// <param name="now">The moment.</param>
    /// <param name="lists">The school's categories and places.</param>
    /// <param name="audienceOf">
    /// As whom each calendar is looked at; null for the publication's audience. What is made with other eyes is for the
    /// keeper who looks through them, and never goes out.
    /// </param>
    public static Projection Of(
        Publication publication, DateTimeZone zone, IEnumerable<Calendar> calendars, IEnumerable<Event> events, Instant now, SchoolLists? lists = null, Func<Calendar, Audience>? audienceOf = null)
    {
        var kept = lists ?? SchoolLists.Empty;
        audienceOf ??= _ => publication.Audience;
        var byId = calendars.ToDictionary(c => c.Id);
        var standing = events.SelectMany(e => e.CalendarIds, (e, id) => (e, id)).ToLookup(p => p.id, p => p.e);
        var outgoing = new List<(Calendar Calendar, PublishedCalendar Shown)>();
        var held = new List<HeldBack>();
        foreach (var id in publication.CalendarIds)
        {
            if (!byId.TryGetValue(id, out var calendar))
                continue;
            var decision = ReachDecision.For(calendar, audienceOf(calendar));
            var choice = publication.Choices.Of(id);
            var detail = Lower(decision.Detail, choice.Most);
            if (detail == Detail.Nothing)
            {
                held.Add(new HeldBack(id, calendar.Title, decision.Reason, standing[id].Count(e => e.DeletedAt is null)));
                continue;
            }
            outgoing.Add((calendar, new PublishedCalendar(id, calendar.Title, choice.Mark ?? calendar.Mark, detail, choice.Tag)));
            foreach (var why in standing[id]
                .Where(e => e.DeletedAt is null)
                .Select(e => ReachDecision.For(e, calendar, audienceOf(calendar), kept))
                .Where(d => d.Detail == Detail.Nothing)
                .CountBy(d => d.Reason)
                .OrderBy(w => w.Key))
            {
                held.Add(new HeldBack(id, calendar.Title, why.Key, why.Value));
            }
        }

        var shown = new List<PublishedEvent>();
        Instant? validUntil = null;
        var changedAt = publication.ChangedAt;
        (LocalDate? From, LocalDate? After)? days = null;
        if (publication.Choices.IsByDay)
        {
            // What goes out is another with every day.
            var today = now.InZone(zone).Date;
            days = (publication.Choices.DaysBack is { } back ? today.PlusDays(-back) : null, publication.Choices.DaysAhead is { } ahead ? today.PlusDays(ahead + 1) : null);
            changedAt = Instant.Max(changedAt, Zones.ToInstant(today.AtMidnight(), zone));
            validUntil = Zones.ToInstant(today.PlusDays(1).AtMidnight(), zone);
        }
        // An event that stands in several of the calendars goes out once.
        foreach (var e in outgoing.SelectMany(c => standing[c.Calendar.Id]).DistinctBy(e => e.Id))
        {
            // What was removed goes out as cancelled to those who could see it.
            var was = e with { DeletedAt = null };
            var by = outgoing
                .Where(c => e.CalendarIds.Contains(c.Calendar.Id))
                .Select(c => c.Shown with { Detail = Lower(c.Shown.Detail, ReachDecision.For(was, c.Calendar, audienceOf(c.Calendar), kept).Detail) })
                .Where(c => c.Detail > Detail.Nothing)
                .ToList();
            if (by.Count == 0)
                continue;
            if (e.DeletedAt is { } deleted)
            {
                var gone = deleted + Event.BinTime;
                if (gone <= now)
                {
                    changedAt = Instant.Max(changedAt, gone);
                    continue;
                }
                validUntil = validUntil is { } v ? Instant.Min(v, gone) : gone;
            }
            var plain = e.Plain;
            // A series can lose its last date when the school year changes.
            if (!plain.IsNothing && Chosen(publication.Choices, Show(e, plain, by, publication.Id, kept), days, zone) is { } sent)
                shown.Add(sent);
        }
        shown.Sort((a, b) => string.CompareOrdinal(a.Uid, b.Uid));
        return new Projection(publication, zone, [.. outgoing.Select(c => c.Shown)], shown, held, changedAt, validUntil)
        {
            IsOutOfSearch = publication.Audience != Audience.Everyone || outgoing.Any(c => c.Calendar.IsOutOfSearch),
        };
    }

    // What of an event the publication's choices let through; null for nothing.
    private static PublishedEvent? Chosen(PublicationChoices choices, PublishedEvent e, (LocalDate? From, LocalDate? After)? days, DateTimeZone zone)
    {
        if (!choices.Chooses(e))
            return null;
        if (choices.HidesCalledOff && e.Changes.Any(c => c.IsCalledOff))
        {
            var off = e.Changes.Where(c => c.IsCalledOff).Select(c => c.Date).ToHashSet();
            e = e with { Skips = [.. e.Skips.Concat(off).Distinct().Order()], Changes = e.Changes.RemoveAll(c => off.Contains(c.Date)), Extras = e.Extras.RemoveAll(off.Contains) };
            // A date that was all there is leaves nothing.
            if (e.Rule is null && e.Extras.IsEmpty && off.Contains(e.Timing.Start))
                return null;
        }
        return days is not { } bounds || e.Dates.Touches(bounds.From, bounds.After, zone) ? e : null;
    }

    private static Detail Lower(Detail a, Detail b) => a < b ? a : b;

    // What follows school days goes out as plain dates: whoever reads it needs to know of no school year.
    private static PublishedEvent Show(Event e, PlainDates plain, IReadOnlyList<PublishedCalendar> calendars, Guid publicationId, SchoolLists lists)
    {
        var calendar = calendars.MaxBy(c => c.Detail)!;
        var headlines = calendar.Detail >= Detail.Headlines;
        var everything = calendar.Detail >= Detail.Everything;
        // In every publication an event shown as times only is another one.
        var shown = e.At(calendar.Detail, publicationId);
        return new PublishedEvent
        {
            Uid = shown.Uid,
            Calendar = calendar,
            Calendars = headlines ? [.. calendars.Where(c => c.Detail >= Detail.Headlines)] : [calendar],
            Detail = calendar.Detail,
            Title = headlines ? shown.Title : null,
            Place = headlines ? shown.Place : null,
            Description = everything ? shown.Description : null,
            Facts = shown.Facts with { AlsoIn = [], Limits = [], Reach = null },
            Category = everything ? lists.Category(e.Facts.CategoryId)?.Name : null,
            Where = headlines ? lists.Place(e.Place) : null,
            Timing = plain.Timing,
            Rule = plain.Rule,
            Skips = plain.LeftOut,
            Extras = plain.Added,
            Changes = shown.Changes,
            RelatedTo = shown.RelatedTo,
            Sequence = e.Sequence,
            CreatedAt = e.CreatedAt,
            ChangedAt = e.ChangedAt,
            TimedAt = e.TimedAt,
            IsCancelled = e.DeletedAt is not null,
        };
    }
}
