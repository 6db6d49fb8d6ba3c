using System.Text;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Core.Time;

namespace Valtro.Server.Publications;

/// <summary>What an independent reader makes of a feed, beside what it was made from.</summary>
/// <param name="Dates">How many dates both have.</param>
/// <param name="Days">Over how many days from today.</param>
/// <param name="Missing">Dates the reader does not find.</param>
/// <param name="Extra">Dates the reader finds that are none.</param>
internal sealed record ReadBack(int Dates, int Days, IReadOnlyList<string> Missing, IReadOnlyList<string> Extra);

/// <summary>Reads a feed back with a library that had no part in writing it.</summary>
internal static class FeedReader
{
    private const int Days = 180;
    private const int MaxTold = 20;

    public static ReadBack Compare(byte[] feed, Projection projection, LocalDate today)
    {
        var window = new TimeWindow(today, today.PlusDays(Days), projection.Zone);
        var ours = projection.In(window)
            .Where(d => !d.IsCalledOff)
            .Select(d => $"{d.Event.Uid} {(d.Event.Timing.Kind == TimeKind.Zoned ? d.InstantsIn(projection.Zone).From.ToString() : d.Timing.Start.ToString())}")
            .ToHashSet();
        var theirs = Read(feed, window, projection.Events.Where(e => e.Timing.Kind == TimeKind.Zoned).Select(e => e.Uid).ToHashSet()).ToHashSet();
        string Told(string line) => projection.Events.FirstOrDefault(e => e.Uid == line.Split(' ')[0])?.Title + line[line.IndexOf(' ')..];
        return new ReadBack(ours.Count(theirs.Contains), Days, [.. ours.Except(theirs).Order().Take(MaxTold).Select(Told)], [.. theirs.Except(ours).Order().Take(MaxTold).Select(Told)]);
    }

    private static IEnumerable<string> Read(byte[] feed, TimeWindow window, HashSet<string> zoned)
    {
        var calendar = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(feed))!;
        // What began before may last into it; the longest event lasts a year or so.
        var from = window.From.PlusDays(-EventTiming.MaxDays);
        var end = window.To.PlusDays(2).ToDateTimeUnspecified();
        foreach (var occurrence in calendar.GetOccurrences<CalendarEvent>(new CalDateTime(from.Year, from.Month, from.Day)).TakeWhile(o => o.Period.StartTime.Value < end))
        {
            if (occurrence.Source is not CalendarEvent e || e.Status == "CANCELLED")
                continue;
            var local = LocalDateTime.FromDateTime(occurrence.Period.StartTime.Value);
            var isZoned = zoned.Contains(e.Uid!);
            var start = isZoned ? Instant.FromDateTimeUtc(occurrence.Period.StartTime.AsUtc) : Zones.ToInstant(local, window.Zone);
            var length = occurrence.Period.EffectiveEndTime is { } until
                ? isZoned ? Instant.FromDateTimeUtc(until.AsUtc) - start : Zones.ToInstant(LocalDateTime.FromDateTime(until.Value), window.Zone) - start
                : NodaTime.Duration.Zero;
            if (start < window.End && (start + length > window.Start || start >= window.Start))
                yield return $"{e.Uid} {(isZoned ? start.ToString() : local.ToString())}";
        }
    }
}
