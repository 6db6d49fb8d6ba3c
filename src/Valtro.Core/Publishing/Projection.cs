using NodaTime;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.Publishing;

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
public sealed record PublishedOccurrence(EventView Event, LocalDateTime LocalStart, SeenSpan Span, EventChange? Change)
{
    /// <summary>The title on this date; null below <see cref="Detail.Headlines"/>.</summary>
    public string? Title => Change?.Title ?? Event.Title;

    /// <summary>The place on this date.</summary>
    public string? Place => Change?.Place ?? Event.Place;

    /// <summary>The description on this date.</summary>
    public string? Description => Change?.Description ?? Event.Description;

    /// <summary>What this date has beside.</summary>
    public EventFacts Facts { get; } = Event.FactsOn(Change);

    /// <summary>The name of its category; null for none, and below <see cref="Detail.Everything"/>.</summary>
    public string? Category => Event.CategoryOn(Change);

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

    /// <summary>A name for this date within its publication: it stays, wherever the date goes (<see cref="DateNames"/>).</summary>
    public string Key => KeyOf(DateNames.Of(Event.Uid, Event.Names, LocalStart));

    /// <summary>A name as it stands in addresses.</summary>
    public static string KeyOf(DateName name) => $"{name.Uid}-{name.Start:uuuuMMdd'T'HHmm}";

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
/// <param name="ChangedAt">When what goes out last became different.</param>
/// <param name="ValidUntil">When what goes out is another by itself, as with the day, and has to be made anew; null if never.</param>
public sealed record Projection(
    Publication Publication,
    DateTimeZone Zone,
    IReadOnlyList<ViewedCalendar> Calendars,
    IReadOnlyList<EventView> Events,
    IReadOnlyList<HeldBack> Held,
    Instant ChangedAt,
    Instant? ValidUntil)
{
    /// <summary>Whether search engines are asked to leave it out: it is for link holders, or one of its calendars is kept from them.</summary>
    public bool IsOutOfSearch { get; init; }

    /// <summary>The shown occurrences that touch a window, by day and time, all-day ones first.</summary>
    public IReadOnlyList<PublishedOccurrence> In(TimeWindow window)
    {
        var found = new List<PublishedOccurrence>();
        foreach (var e in Events)
        {
            foreach (var date in e.Dates.In(window))
                found.Add(new PublishedOccurrence(e, date.Date, date.Span, date.Change));
        }
        found.Sort(PublishedOccurrence.Order);
        return found;
    }

    // Piece by piece: a year of classes fills a list long before the last of these.
    private static readonly int[] Pieces = [0, 60, 400, 1_100, 1_800, 2_500, 3_200, 3_900];

    /// <summary>What is on from a day on, however far that is within ten years.</summary>
    /// <param name="from">The day.</param>
    /// <param name="count">How many dates at most.</param>
    public IReadOnlyList<PublishedOccurrence> Coming(LocalDate from, int count)
    {
        var found = new List<PublishedOccurrence>();
        for (var i = 1; i < Pieces.Length && found.Count < count; i++)
        {
            var begin = from.PlusDays(Pieces[i - 1]);
            // What reaches over the edge was found with the piece it began in.
            found.AddRange(In(new TimeWindow(begin, from.PlusDays(Pieces[i]), Zone)).Where(o => i == 1 || o.Span.FirstDay >= begin));
        }
        return found.Count > count ? found.GetRange(0, count) : found;
    }

    /// <summary>The last dates that are over before a day, the latest first, within ten years.</summary>
    /// <param name="before">The day.</param>
    /// <param name="count">How many dates at most.</param>
    public IReadOnlyList<PublishedOccurrence> Past(LocalDate before, int count)
    {
        var found = new List<PublishedOccurrence>();
        for (var i = 1; i < Pieces.Length && found.Count < count; i++)
        {
            var end = before.PlusDays(-Pieces[i - 1]);
            found.AddRange(In(new TimeWindow(before.PlusDays(-Pieces[i]), end, Zone)).Where(o => o.Span.LastDay < end && o.Span.LastDay >= before.PlusDays(-Pieces[i])).Reverse());
        }
        return found.Count > count ? found.GetRange(0, count) : found;
    }

    /// <summary>Some dates of each event, in order: a series that is on every day hides nothing that is on once, years from now.</summary>
    /// <param name="today">The day that parts what is to come from what is over.</param>
    /// <param name="isPast">Whether what is over is wanted, the latest first.</param>
    /// <param name="each">How many dates of one event at most.</param>
    public IReadOnlyList<PublishedOccurrence> OfEach(LocalDate today, bool isPast, int each)
    {
        var found = new List<PublishedOccurrence>();
        foreach (var e in Events)
        {
            var alone = this with { Events = [e] };
            found.AddRange(isPast ? alone.Past(today, each) : alone.Coming(today, each));
        }
        found.Sort(PublishedOccurrence.Order);
        if (isPast)
            found.Reverse();
        return found;
    }

    /// <summary>What a reader wants of it.</summary>
    public Projection Narrowed(ReaderChoice choice) => choice.IsNone ? this : this with
    {
        Events = [.. Events.Select(e => choice.Of(Publication, e)).OfType<EventView>()],
        Calendars = [.. Calendars.Where(c => !choice.Off.Contains(ReaderChoice.NameOf(Publication, c.Id)))],
    };

    /// <summary>The date with a key (<see cref="PublishedOccurrence.Key"/>) that can be told of by itself; null when there is none, or only that its time is taken.</summary>
    public PublishedOccurrence? Find(string key)
    {
        if (NameOf(key) is not { } name)
            return null;
        foreach (var e in Events.Where(e => e.Detail >= Detail.Headlines && IsNamed(e, name.Uid)))
        {
            foreach (var start in DateNames.Named(e.Uid, e.Names, name))
            {
                // A date that was moved lies elsewhere than its start says.
                var day = (e.Changes.FirstOrDefault(c => c.Date == start)?.Timing?.Start ?? start).Date;
                var found = e.Dates.In(new TimeWindow(day.PlusDays(-1), day.PlusDays(2), Zone)).FirstOrDefault(d => d.Date == start);
                if (found.Date == start)
                    return new PublishedOccurrence(e, found.Date, found.Span, found.Change);
            }
        }
        return null;
    }

    /// <summary>The next date of an event that can be told of by itself, else its last; null when there is none.</summary>
    /// <param name="uid">The event's identity, also that of what became several.</param>
    /// <param name="today">The day.</param>
    public PublishedOccurrence? NextOf(string uid, LocalDate today)
    {
        var own = this with { Events = [.. Events.Where(e => e.Detail >= Detail.Headlines && IsNamed(e, uid))] };
        return own.Events.Count == 0 ? null : own.Coming(today, 1).Concat(own.Past(today, 1)).FirstOrDefault();
    }

    /// <summary>
    /// Whether a date that is not found by its key was one of an event that goes out, or that would if it were not in the bin:
    /// then it is no longer planned. An event whose times never changed never had another date. Of what is kept from these readers it tells nothing.
    /// </summary>
    public bool IsNoLonger(string key) => NameOf(key) is { } name && (Binned.Contains(name.Uid) || Events.Any(e => e is { Detail: >= Detail.Headlines, Sequence: > 0 } && IsNamed(e, name.Uid)));

    /// <summary>The identities of events in the bin that would go out in words if they were not, and of those that did and are gone for good. Never goes out.</summary>
    public IReadOnlySet<string> Binned { get; init; } = new HashSet<string>();

    private static bool IsNamed(EventView e, string uid) => e.Uid == uid || e.Names.Any(n => n.Uid == uid);

    private static DateName? NameOf(string key)
    {
        var cut = key.LastIndexOf('-');
        return cut > 0 && KeyForm.Parse(key[(cut + 1)..]) is { Success: true, Value: var start } && start.Year is >= 1900 and <= 2198 ? new DateName(key[..cut], start) : null;
    }

    private static readonly LocalDateTimePattern KeyForm = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmm");

    /// <summary>Projects calendars and their events into a publication.</summary>
    /// <param name="publication">The publication.</param>
    /// <param name="zone">The school's zone.</param>
    /// <param name="calendars">Its calendars; others are ignored, missing ones are not named.</param>
    /// <param name="events">The events that stand in them; those in the bin go out to nobody.</param>
    /// <param name="now">The moment.</param>
    /// <param name="lists">The school's categories and places.</param>
    /// <param name="audienceOf">
    /// As whom each calendar is looked at; null for the publication's audience. What is made with other eyes is for the
    /// keeper who looks through them, and never goes out.
    /// </param>
    /// <param name="gone">The identities of events that went out in words and are gone for good.</param>
    public static Projection Of(
        Publication publication, DateTimeZone zone, IEnumerable<Calendar> calendars, IEnumerable<Event> events, Instant now, SchoolLists? lists = null, Func<Calendar, Audience>? audienceOf = null,
        IEnumerable<string>? gone = null)
    {
        var byId = calendars.ToDictionary(c => c.Id);
        var eyes = Eyes.Of(publication, byId, lists ?? SchoolLists.Empty, audienceOf);
        var all = events.ToList();
        var there = all.Where(e => e.DeletedAt is null).ToList();
        var standing = there.SelectMany(e => e.CalendarIds, (e, id) => (e, id)).ToLookup(p => p.id, p => p.e);
        // An event that stands in several of the calendars is looked at, and goes out, once.
        var views = there.DistinctBy(e => e.Id).ToDictionary(e => e.Id, eyes.View);
        var outgoing = new List<ViewedCalendar>();
        var held = new List<HeldBack>();
        foreach (var id in publication.CalendarIds)
        {
            if (eyes.Decide(id) is not { } decision)
                continue;
            var title = byId[id].Title;
            if (eyes.View(id) is not { } viewed)
            {
                held.Add(new HeldBack(id, title, decision.Reason, standing[id].Count()));
                continue;
            }
            outgoing.Add(viewed);
            held.AddRange(standing[id]
                .Select(e => views[e.Id] is { Dates.IsTooDense: true } ? new ReachDecision(Detail.Nothing, ReachReason.TooDense) : eyes.Decide(e, id)!.Value)
                .Where(d => d.Detail == Detail.Nothing)
                .CountBy(d => d.Reason)
                .OrderBy(w => w.Key)
                .Select(why => new HeldBack(id, title, why.Key, why.Value)));
        }

        var gate = new OutGate(publication, zone, now);
        var shown = views.Values.Select(gate.Let).OfType<EventView>().ToList();
        var binned = all.Where(e => e.DeletedAt is not null)
            .Select(e => gate.Let(eyes.View(e with { DeletedAt = null })))
            .Where(e => e is { Detail: >= Detail.Headlines })
            .SelectMany(e => e!.Names.Select(n => n.Uid).OfType<string>().Append(e.Uid))
            .Concat(gone ?? [])
            .ToHashSet();
        shown.Sort((a, b) => string.CompareOrdinal(a.Uid, b.Uid));
        return new Projection(publication, zone, outgoing, shown, held, Instant.Max(publication.ChangedAt, gate.Since), gate.Until)
        {
            IsOutOfSearch = publication.Audience != Audience.Everyone || outgoing.Any(c => byId[c.Id].IsOutOfSearch),
            Binned = binned,
        };
    }
}
