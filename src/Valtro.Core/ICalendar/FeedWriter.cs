using System.Globalization;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.ICalendar;

/// <summary>What a feed says of itself.</summary>
/// <param name="Name">NAME (RFC 7986, 5.1).</param>
/// <param name="Description">DESCRIPTION (RFC 7986, 5.2); may be empty.</param>
/// <param name="PageUrl">URL (RFC 7986, 5.5): where people read the same.</param>
/// <param name="FeedUrl">SOURCE (RFC 7986, 5.8): where this file comes from.</param>
/// <param name="BusyTitle">What stands for the title of an event that shows its times only.</param>
/// <param name="FilesUrl">Where files are, for exactly the feed's audience: their identity follows.</param>
public sealed record FeedHead(string Name, string Description, string PageUrl, string FeedUrl, string BusyTitle, string FilesUrl = "")
{
    /// <summary>Where each date has its page: its key follows, or its event's identity; empty where dates have none.</summary>
    public string DatesUrl { get; init; } = "";

    /// <summary>How titles are written, and what is left out.</summary>
    public PublicationChoices Choices { get; init; } = PublicationChoices.None;

    /// <summary>The moment of a snapshot, which follows no changes; null for a live feed.</summary>
    public Instant? AsOf { get; init; }

    /// <summary>Whether it is a file to keep or to move house with: it leads nowhere, and says all that is known (<see cref="KeptFields"/>).</summary>
    public bool IsForKeeping { get; init; }
}

/// <summary>
/// Writes a projection as an iCalendar file (RFC 5545, RFC 7986). The bytes follow from the projection alone: no
/// clock, no random value, so the same data gives the same file anywhere.
/// </summary>
public static class FeedWriter
{
    /// <summary>How often readers are asked to come again.</summary>
    public static readonly Duration RefreshInterval = Duration.FromHours(1);

    /// <summary>The media type.</summary>
    public const string ContentType = "text/calendar; charset=utf-8";

    /// <summary>Writes the file.</summary>
    public static byte[] Write(FeedHead head, Projection projection)
    {
        var lines = new ContentLines(1024 * (4 + projection.Events.Count));
        Write(lines, head, projection);
        return lines.Finish();
    }

    /// <summary>Writes events as a file to keep, or to move house with: all that is known of them.</summary>
    /// <param name="name">What the calendar is called.</param>
    /// <param name="description">What it is for; may be empty.</param>
    /// <param name="zone">Its zone.</param>
    /// <param name="events">Its events; written in the order of their identities.</param>
    public static byte[] WriteKept(string name, string description, DateTimeZone zone, IEnumerable<EventView> events)
    {
        var lines = new ContentLines(capacity: 16 * 1024);
        Write(lines, new FeedHead(name, description, "", "", "") { IsForKeeping = true }, zone, [.. events.OrderBy(e => e.Uid, StringComparer.Ordinal)]);
        return lines.Finish();
    }

    internal static void Write(CalendarSink lines, FeedHead head, Projection projection) => Write(lines, head, projection.Zone, projection.Events);

    private static void Write(CalendarSink lines, FeedHead head, DateTimeZone zone, IReadOnlyList<EventView> events)
    {
        lines.Begin("VCALENDAR");
        lines.Raw("VERSION", "2.0");
        lines.Raw("PRODID", "-//Valtro//Valtro//EN");
        lines.Raw("CALSCALE", "GREGORIAN");
        lines.Text("NAME", head.Name);
        lines.Text("X-WR-CALNAME", head.Name);
        if (head.Description.Length > 0)
        {
            lines.Text("DESCRIPTION", head.Description);
            lines.Text("X-WR-CALDESC", head.Description);
        }
        lines.Raw("X-WR-TIMEZONE", zone.Id);
        if (!head.IsForKeeping)
            lines.Raw("URL", head.PageUrl);
        if (head.IsForKeeping)
        {
            // The same events give the same file, whenever it is written.
        }
        else if (head.AsOf is { } asOf)
        {
            // A snapshot says when it was taken and asks nobody to come again (RFC 7986, 5.4).
            lines.Raw("LAST-MODIFIED", ContentLines.Utc(asOf));
        }
        else
        {
            lines.Raw("SOURCE", "VALUE", "URI", head.FeedUrl);
            lines.Raw("REFRESH-INTERVAL", "VALUE", "DURATION", "PT1H");
            lines.Raw("X-PUBLISHED-TTL", "PT1H");
        }

        foreach (var group in events
            .Where(e => e.Timing.Kind == TimeKind.Zoned && !IsUtc(e.Timing.Zone!))
            .GroupBy(e => e.Timing.Zone!.Id)
            .OrderBy(g => g.Key, StringComparer.Ordinal))
        {
            TimeZoneWriter.Write(lines, group.First().Timing.Zone!, group.Min(EarliestOf));
        }
        foreach (var e in events)
            WriteEvent(lines, e, head);

        lines.End("VCALENDAR");
    }

    /// <summary>Writes an event alone, without the calendar around it: the bytes by which two states of it are told apart.</summary>
    public static byte[] WriteAlone(FeedHead head, EventView e)
    {
        var lines = new ContentLines(capacity: 1024);
        WriteEvent(lines, e, head);
        return lines.Finish();
    }

    /// <summary>Writes one date as an event of its own: for who wants this date and not the series.</summary>
    public static byte[] WriteOne(FeedHead head, Projection projection, PublishedOccurrence date) => Write(head with { DatesUrl = "" }, projection with
    {
        Events =
        [
            date.Event with
            {
                Uid = date.Key,
                Title = date.Title,
                Place = date.Place,
                Description = date.Description,
                Timing = date.Timing,
                Rule = null,
                Skips = [],
                Extras = [],
                Changes = date.IsCalledOff ? [new EventChange { Date = date.Timing.Start, IsCalledOff = true }] : [],
                RelatedTo = null,
                Facts = date.Facts,
                Category = date.Category,
            },
        ],
    });

    private static LocalDateTime EarliestOf(EventView e)
    {
        var earliest = e.Extras.IsEmpty ? e.Timing.Start : LocalDateTime.Min(e.Timing.Start, e.Extras[0]);
        foreach (var change in e.Changes)
            earliest = change.Timing is { } moved ? LocalDateTime.Min(earliest, moved.Start) : earliest;
        return earliest;
    }

    private static void WriteEvent(CalendarSink lines, EventView e, FeedHead head)
    {
        // What differs on the one date of a one-time event is the event itself.
        var only = !IsSeries(e) && e.Changes.Length > 0 && e.Changes[0].Date == e.Timing.Start ? e.Changes[0] : null;
        Begin(lines, e);
        Span(lines, only?.Timing ?? e.Timing);
        if (IsSeries(e))
        {
            if (e.Rule is not null)
                lines.Raw("RRULE", e.Rule.ToICalendar(e.Timing));
            if (!e.Extras.IsEmpty)
                Moment(lines, "RDATE", e.Timing, e.Extras.AsSpan());
            if (!e.Skips.IsEmpty)
            {
                var all = new SeriesDates(e.Timing, e.Rule, [], e.Extras);
                var skips = e.Skips.Where(all.Makes).ToArray();
                if (skips.Length > 0)
                    Moment(lines, "EXDATE", e.Timing, skips);
            }
        }
        if (e.RelatedTo is not null)
            lines.Text("RELATED-TO", e.RelatedTo);
        End(lines, e, only, head);
        if (only is not null)
            return;

        foreach (var change in e.Changes)
        {
            // What is changed on one date is a component of its own (RFC 5545, 3.8.4.4).
            Begin(lines, e);
            Moment(lines, "RECURRENCE-ID", e.Timing, [change.Date]);
            Span(lines, change.Timing ?? e.Timing.At(change.Date));
            End(lines, e, change, head);
        }
    }

    private static void Begin(CalendarSink lines, EventView e)
    {
        lines.Begin("VEVENT");
        lines.Text("UID", e.Uid);
        // Without METHOD, DTSTAMP is the event's last revision (RFC 5545, 3.8.7.2): the bytes rest while it does.
        lines.Raw("DTSTAMP", ContentLines.Utc(e.ChangedAt));
        lines.Raw("CREATED", ContentLines.Utc(e.CreatedAt));
        lines.Raw("LAST-MODIFIED", ContentLines.Utc(e.ChangedAt));
        lines.Raw("SEQUENCE", e.Sequence.ToString());
    }

    private static void Span(CalendarSink lines, EventTiming timing)
    {
        Moment(lines, "DTSTART", timing, [timing.Start]);
        // An event without length has no DTEND (RFC 5545, 3.6.1).
        if (timing.Length > Duration.Zero)
            Moment(lines, "DTEND", timing, [timing.End]);
    }

    private static void End(CalendarSink lines, EventView e, EventChange? change, FeedHead head)
    {
        bool Has(FeedField field) => !head.Choices.LeftOut.Contains(field);
        var (title, facts, category) = (change?.Title ?? e.Title, e.FactsOn(change), e.CategoryOn(change));
        lines.Text("SUMMARY", title is null ? head.BusyTitle : head.Choices.TitleOf(title, e, change?.Place ?? e.Place, category));
        if (Has(FeedField.Place) && (change?.Place ?? e.Place) is { Length: > 0 } place)
            lines.Text("LOCATION", place);
        if (Has(FeedField.Place) && e.Where is { Latitude: { } north, Longitude: { } east } && (change?.Place is null || e.Where.IsNamed(change.Place)))
            lines.Raw("GEO", string.Create(CultureInfo.InvariantCulture, $"{north:0.######};{east:0.######}"));
        if (Body(facts, change?.Description ?? e.Description, Has(FeedField.Description), Has(FeedField.Links)) is { Length: > 0 } description)
            lines.Text("DESCRIPTION", description);
        // Readers that know it show the marks too; without marks it would say the same again.
        if (Has(FeedField.Description) && (change?.Description ?? e.Description) is { } rich && RichText.HasMarks(rich))
            lines.Text("X-ALT-DESC", "FMTTYPE", "text/html", rich);
        if (Has(FeedField.Pictures) && !head.IsForKeeping && e.Facts.Picture is { } picture)
            lines.Image($"{head.FilesUrl}{picture.Id:D}/large");
        foreach (var file in Has(FeedField.Files) && !head.IsForKeeping ? facts.Files : [])
            lines.Attachment($"{head.FilesUrl}{file.Id:D}/{Uri.EscapeDataString(file.Name)}", file.Name, file.MediaType, file.Size);
        string[] kinds = [.. head.IsForKeeping ? [] : e.Calendars.Select(c => c.Title), .. category is null ? [] : new[] { category }, .. facts.Tags];
        if (Has(FeedField.Categories) && e.Detail >= Detail.Headlines && kinds.Length > 0)
            lines.Texts("CATEGORIES", kinds);
        // One address is the event's own (RFC 5545, 3.8.4.6); the rest stand in its text.
        var links = Has(FeedField.Links) ? facts.Links : [];
        if (links.FirstOrDefault(l => l.Kind != LinkKind.Video) is { } first)
            lines.Raw("URL", first.Address);
        else if (head.DatesUrl.Length > 0 && Has(FeedField.Links) && e.Detail >= Detail.Headlines)
            lines.Raw("URL", head.DatesUrl + (change is null && IsSeries(e) ? e.Uid : PublishedOccurrence.KeyOf(DateNames.Of(e.Uid, e.Names, change?.Date ?? e.Timing.Start))));
        foreach (var link in links.Where(l => l.Kind == LinkKind.Video))
            lines.Conference(link.Address, link.Label);
        if (head.IsForKeeping)
            lines.Text(KeptFields.Name, KeptFields.Of(e, change).ToString());
        if (change is { IsCalledOff: true })
            lines.Raw("STATUS", "CANCELLED");
        if (e.Timing.Kind == TimeKind.AllDay || e.Facts.IsFree)
            lines.Raw("TRANSP", "TRANSPARENT");
        if (Has(FeedField.Reminders) && e.Facts.Reminder is { } minutes && change is not { IsCalledOff: true })
        {
            lines.Begin("VALARM");
            lines.Raw("ACTION", "DISPLAY");
            lines.Text("DESCRIPTION", change?.Title ?? e.Title ?? head.BusyTitle);
            lines.Raw("TRIGGER", minutes == 0 ? "PT0S" : $"-PT{minutes}M");
            lines.End("VALARM");
        }
        lines.End("VEVENT");
    }

    /// <summary>The line under the title, the description and the links, as a reader who shows text alone gets them.</summary>
    private static string Body(EventFacts facts, string? rich, bool withText, bool withLinks)
    {
        if (facts.Subtitle.Length == 0 && facts.Links.IsEmpty)
            return withText && rich is { Length: > 0 } only ? RichText.Plain(only) : "";
        var parts = new List<string>();
        if (withText && facts.Subtitle.Length > 0)
            parts.Add(facts.Subtitle);
        if (withText && rich is { Length: > 0 } description)
            parts.Add(RichText.Plain(description));
        if (withLinks && facts.Links.Length > 0)
            parts.Add(string.Join('\n', facts.Links.Select(l => l.Label.Length > 0 ? $"{l.Label}: {l.Address}" : l.Address)));
        return string.Join("\n\n", parts);
    }

    private static void Moment(CalendarSink lines, string name, EventTiming timing, ReadOnlySpan<LocalDateTime> times)
    {
        var values = new string[times.Length];
        for (var i = 0; i < times.Length; i++)
        {
            values[i] = timing.Kind switch
            {
                TimeKind.AllDay => ContentLines.Date(times[i].Date),
                TimeKind.Zoned when IsUtc(timing.Zone!) => ContentLines.Local(times[i]) + "Z",
                _ => ContentLines.Local(times[i]),
            };
        }
        if (timing.Kind == TimeKind.AllDay)
            lines.Values(name, ("VALUE", "DATE"), values);
        else if (timing.Kind == TimeKind.Zoned && !IsUtc(timing.Zone!))
            lines.Values(name, ("TZID", timing.Zone!.Id), values);
        else
            lines.Values(name, null, values);
    }

    private static bool IsSeries(EventView e) => e.Rule is not null || !e.Extras.IsEmpty;

    private static bool IsUtc(DateTimeZone zone) => zone.Id is "UTC" or "Etc/UTC";
}
