using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Core.Time;

namespace Valtro.Core.ICalendar;

/// <summary>Writes when a publication's calendars are taken, and nothing else (VFREEBUSY, RFC 5545, 3.6.4).</summary>
public static class BusyWriter
{
    /// <summary>How many days ahead are told.</summary>
    public const int DaysAhead = 180;

    /// <summary>Writes the file: the times that are taken, those that touch made one.</summary>
    /// <param name="head">What the file says of itself.</param>
    /// <param name="projection">What goes out.</param>
    /// <param name="from">The first day that is told.</param>
    public static byte[] Write(FeedHead head, Projection projection, LocalDate from)
    {
        var window = new TimeWindow(from, from.PlusDays(DaysAhead), projection.Zone);
        var (start, end) = (Zones.ToInstant(window.From.AtMidnight(), projection.Zone), Zones.ToInstant(window.To.AtMidnight(), projection.Zone));
        var lines = new ContentLines();
        lines.Begin("VCALENDAR");
        lines.Raw("VERSION", "2.0");
        lines.Raw("PRODID", "-//Valtro//Valtro//EN");
        lines.Raw("METHOD", "PUBLISH");
        lines.Begin("VFREEBUSY");
        lines.Text("UID", $"busy-{projection.Publication.Id:D}");
        lines.Raw("DTSTAMP", ContentLines.Utc(Instant.Max(projection.ChangedAt, start)));
        lines.Raw("DTSTART", ContentLines.Utc(start));
        lines.Raw("DTEND", ContentLines.Utc(end));
        lines.Raw("URL", head.PageUrl);
        foreach (var (busyFrom, busyTo) in Taken(projection, window))
            lines.Raw("FREEBUSY", "FBTYPE", "BUSY", $"{ContentLines.Utc(Instant.Max(busyFrom, start))}/{ContentLines.Utc(Instant.Min(busyTo, end))}");
        lines.End("VFREEBUSY");
        lines.End("VCALENDAR");
        return lines.Finish();
    }

    /// <summary>The times that are taken in a window, in order, those that touch made one. What is called off or leaves the time free takes none.</summary>
    public static IReadOnlyList<(Instant From, Instant To)> Taken(Projection projection, TimeWindow window)
    {
        var found = new List<(Instant From, Instant To)>();
        foreach (var date in projection.In(window)
            .Where(d => !d.IsCalledOff && !d.Event.Facts.IsFree && d.Event.Timing.Kind != TimeKind.AllDay)
            .Select(d => d.InstantsIn(projection.Zone))
            .Where(d => d.To > d.From)
            .OrderBy(d => d.From))
        {
            if (found.Count > 0 && date.From <= found[^1].To)
                found[^1] = (found[^1].From, Instant.Max(found[^1].To, date.To));
            else
                found.Add(date);
        }
        return found;
    }
}
