using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.ICalendar;

/// <summary>What a feed says of itself.</summary>
/// <param name="Name">NAME (RFC 7986, 5.1).</param>
/// <param name="Description">DESCRIPTION (RFC 7986, 5.2); may be empty.</param>
/// <param name="PageUrl">URL (RFC 7986, 5.5): where people read the same.</param>
/// <param name="FeedUrl">SOURCE (RFC 7986, 5.8): where this file comes from.</param>
/// <param name="BusyTitle">What stands for the title of an event that shows its times only.</param>
public sealed record FeedHead(string Name, string Description, string PageUrl, string FeedUrl, string BusyTitle);

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
        var lines = new ContentLines();
        lines.Raw("BEGIN", "VCALENDAR");
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
        lines.Raw("X-WR-TIMEZONE", projection.Zone.Id);
        lines.Raw("URL", head.PageUrl);
        lines.Raw("SOURCE", "VALUE", "URI", head.FeedUrl);
        lines.Raw("REFRESH-INTERVAL", "VALUE", "DURATION", "PT1H");
        lines.Raw("X-PUBLISHED-TTL", "PT1H");

        foreach (var group in projection.Events
            .Where(e => e.Timing.Kind == TimeKind.Zoned && !IsUtc(e.Timing.Zone!))
            .GroupBy(e => e.Timing.Zone!.Id)
            .OrderBy(g => g.Key, StringComparer.Ordinal))
        {
            TimeZoneWriter.Write(lines, group.First().Timing.Zone!, group.Min(e => e.Timing.Start));
        }
        foreach (var e in projection.Events)
            WriteEvent(lines, e, head);

        lines.Raw("END", "VCALENDAR");
        return lines.ToArray();
    }

    private static void WriteEvent(ContentLines lines, PublishedEvent e, FeedHead head)
    {
        lines.Raw("BEGIN", "VEVENT");
        lines.Text("UID", e.Uid);
        // Without METHOD, DTSTAMP is the event's last revision (RFC 5545, 3.8.7.2): the bytes rest while it does.
        lines.Raw("DTSTAMP", ContentLines.Utc(e.ChangedAt));
        lines.Raw("CREATED", ContentLines.Utc(e.CreatedAt));
        lines.Raw("LAST-MODIFIED", ContentLines.Utc(e.ChangedAt));
        lines.Raw("SEQUENCE", e.Sequence.ToString());
        Moment(lines, "DTSTART", e.Timing, [e.Timing.Start]);
        // An event without length has no DTEND (RFC 5545, 3.6.1).
        if (e.Timing.Length > Duration.Zero)
            Moment(lines, "DTEND", e.Timing, [e.Timing.End]);
        if (e.Rule is not null)
        {
            lines.Raw("RRULE", e.Rule.ToICalendar(e.Timing));
            var all = new SeriesDates(e.Timing, e.Rule, []);
            var skips = e.Skips.Where(all.Makes).ToArray();
            if (skips.Length > 0)
                Moment(lines, "EXDATE", e.Timing, skips);
        }
        lines.Text("SUMMARY", e.Title ?? head.BusyTitle);
        if (!string.IsNullOrEmpty(e.Place))
            lines.Text("LOCATION", e.Place);
        if (!string.IsNullOrEmpty(e.Description))
            lines.Text("DESCRIPTION", e.Description);
        if (e.Detail >= Detail.Headlines)
            lines.Text("CATEGORIES", e.Calendar.Title);
        if (e.IsCancelled)
            lines.Raw("STATUS", "CANCELLED");
        if (e.Timing.Kind == TimeKind.AllDay)
            lines.Raw("TRANSP", "TRANSPARENT");
        lines.Raw("END", "VEVENT");
    }

    private static void Moment(ContentLines lines, string name, EventTiming timing, ReadOnlySpan<LocalDateTime> times)
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
        var value = string.Join(',', values);
        if (timing.Kind == TimeKind.AllDay)
            lines.Raw(name, "VALUE", "DATE", value);
        else if (timing.Kind == TimeKind.Zoned && !IsUtc(timing.Zone!))
            lines.Raw(name, "TZID", timing.Zone!.Id, value);
        else
            lines.Raw(name, value);
    }

    private static bool IsUtc(DateTimeZone zone) => zone.Id is "UTC" or "Etc/UTC";
}
