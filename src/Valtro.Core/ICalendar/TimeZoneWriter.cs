using NodaTime;
using NodaTime.TimeZones;

namespace Valtro.Core.ICalendar;

/// <summary>
/// Writes a VTIMEZONE (RFC 5545, 3.6.5) from NodaTime's data. Changes that follow one yearly rule over a run of years
/// become one observance with an RRULE, which is open-ended when the run reaches the end of the look-ahead; changes
/// that follow none become dates.
/// </summary>
internal static class TimeZoneWriter
{
    // Long enough for a weekday rule to show all seven of its days of the month.
    private const int YearsAhead = 40;

    /// <summary>Writes the component, valid from a local time on.</summary>
    public static void Write(CalendarSink lines, DateTimeZone zone, LocalDateTime from)
    {
        lines.Begin("VTIMEZONE");
        lines.Raw("TZID", zone.Id);
        var lastYear = from.Year + YearsAhead;
        // A day earlier, so that the first event is covered whatever the offset.
        var first = zone.GetZoneInterval(from.InUtc().ToInstant() - Duration.FromDays(1));
        // It begins the run of its own yearly rule, if it has one.
        var changes = new List<Change> { First(zone, first) };
        for (var interval = first; interval.HasEnd;)
        {
            var next = zone.GetZoneInterval(interval.End);
            var local = interval.End.WithOffset(interval.WallOffset).LocalDateTime;
            if (local.Year > lastYear)
                break;
            changes.Add(new Change(interval.End, local, interval.WallOffset, next.WallOffset, next.Name, next.Savings != Offset.Zero));
            interval = next;
        }
        foreach (var group in changes.GroupBy(c => c.Kind))
            WriteRuns(lines, [.. group], lastYear);
        lines.End("VTIMEZONE");
    }

    private static Change First(DateTimeZone zone, ZoneInterval interval)
    {
        if (!interval.HasStart)
            return new Change(Instant.MinValue, new LocalDateTime(1601, 1, 1, 0, 0), interval.WallOffset, interval.WallOffset, interval.Name, false);
        var before = zone.GetZoneInterval(interval.Start - Duration.Epsilon);
        return new Change(
            interval.Start,
            interval.Start.WithOffset(before.WallOffset).LocalDateTime,
            before.WallOffset,
            interval.WallOffset,
            interval.Name,
            interval.Savings != Offset.Zero);
    }

    private static void WriteRuns(CalendarSink lines, List<Change> changes, int lastYear)
    {
        for (var start = 0; start < changes.Count;)
        {
            var days = DayRule.Of(changes[start].Local.Date);
            var end = start + 1;
            while (end < changes.Count && changes[end].Local.Year == changes[end - 1].Local.Year + 1)
            {
                var joined = days.Join(changes[end].Local.Date);
                if (joined is null)
                    break;
                days = joined.Value;
                end++;
            }
            var run = changes[start..end];
            if (run.Count >= 3)
            {
                var rule = $"FREQ=YEARLY;BYMONTH={run[0].Local.Month};{days.Parts(run[0].Local.Date)}";
                if (run[^1].Local.Year < lastYear)
                    rule += ";UNTIL=" + ContentLines.Utc(run[^1].At);
                WriteObservance(lines, run[0], rule, []);
            }
            else
            {
                WriteObservance(lines, run[0], null, run[1..]);
            }
            start = end;
        }
    }

    private static void WriteObservance(CalendarSink lines, Change change, string? rule, List<Change> others)
    {
        var kind = change.IsDaylight ? "DAYLIGHT" : "STANDARD";
        lines.Begin(kind);
        lines.Raw("DTSTART", ContentLines.Local(change.Local));
        if (rule is not null)
            lines.Raw("RRULE", rule);
        if (others.Count > 0)
            lines.Values("RDATE", null, [.. others.Select(o => ContentLines.Local(o.Local))]);
        lines.Raw("TZOFFSETFROM", ContentLines.Offset(change.From));
        lines.Raw("TZOFFSETTO", ContentLines.Offset(change.To));
        lines.Text("TZNAME", change.Name);
        lines.End(kind);
    }

    private sealed record Change(Instant At, LocalDateTime Local, Offset From, Offset To, string Name, bool IsDaylight)
    {
        /// <summary>What has to be the same for changes of several years to be one rule.</summary>
        public (Offset, Offset, string, bool, int, IsoDayOfWeek, LocalTime) Kind =>
            (From, To, Name, IsDaylight, Local.Month, Local.DayOfWeek, Local.TimeOfDay);
    }

    /// <summary>Where in its month a weekday fell over a run of years.</summary>
    private readonly record struct DayRule(int Earliest, int Latest, bool AlwaysLast)
    {
        public static DayRule Of(LocalDate date) => new(date.Day, date.Day, IsLast(date));

        /// <summary>The run with one date more, or null when no one rule gives both.</summary>
        public DayRule? Join(LocalDate date)
        {
            var joined = new DayRule(Math.Min(Earliest, date.Day), Math.Max(Latest, date.Day), AlwaysLast && IsLast(date));
            return joined.AlwaysLast || joined.Latest - joined.Earliest < 7 ? joined : null;
        }

        public string Parts(LocalDate sample)
        {
            var day = Recurrence.WeekdaySet.CodeOf(sample.DayOfWeek);
            if (AlwaysLast)
                return $"BYDAY=-1{day}";
            // A whole week of the month has a number; any other seven days are named.
            var week = (Earliest - 1) / 7;
            return (Latest - 1) / 7 == week
                ? $"BYDAY={week + 1}{day}"
                : $"BYDAY={day};BYMONTHDAY={string.Join(',', Enumerable.Range(Earliest, Latest - Earliest + 1))}";
        }

        private static bool IsLast(LocalDate date) => date.PlusDays(7).Month != date.Month;
    }
}
