using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

public class TimeZoneWriterTests
{
    [Theory]
    [InlineData("America/Halifax")]
    [InlineData("Europe/Paris")]
    [InlineData("Australia/Lord_Howe")]
    [InlineData("America/St_Johns")]
    [InlineData("Africa/Casablanca")]
    [InlineData("Asia/Jerusalem")]
    [InlineData("Asia/Tokyo")]
    [InlineData("America/Sao_Paulo")]
    [InlineData("Pacific/Auckland")]
    [InlineData("Europe/Dublin")]
    public void The_zone_described_in_the_feed_is_the_zone(string id)
    {
        var zone = Zones.Get(id);
        var start = new LocalDate(2004, 2, 3);
        var observances = Read(Ics.Of(Event(EventTiming.Zoned(start.At(new LocalTime(9, 0)), start.At(new LocalTime(10, 0)), zone))));
        Assert.NotEmpty(observances);

        // A minute before and at every change, and in the middle between changes.
        var instant = start.At(new LocalTime(9, 0)).InZoneLeniently(zone).ToInstant();
        var until = Instant.FromUtc(2043, 1, 1, 0, 0);
        while (instant < until)
        {
            var interval = zone.GetZoneInterval(instant);
            Assert.Equal((interval.WallOffset, interval.Name), OffsetAt(observances, instant));
            if (!interval.HasEnd)
                break;
            Assert.Equal(interval.WallOffset, OffsetAt(observances, interval.End - Duration.FromMinutes(1)).Offset);
            Assert.Equal(zone.GetUtcOffset(interval.End), OffsetAt(observances, interval.End).Offset);
            instant = interval.End;
        }
    }

    [Fact]
    public void A_yearly_change_is_one_rule_and_not_a_list() =>
        Assert.Contains(
            "RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=2SU",
            Ics.Of(Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"))).Lines);

    private sealed record Observance(List<Instant> Starts, Offset To, string Name);

    /// <summary>The offset and name at an instant, by the observance with the latest start (RFC 5545, 3.6.5).</summary>
    private static (Offset Offset, string Name) OffsetAt(List<Observance> observances, Instant instant)
    {
        var best = observances
            .Select(o => (Observance: o, Start: o.Starts.Where(s => s <= instant).DefaultIfEmpty(Instant.MinValue).Max()))
            .MaxBy(o => o.Start);
        return (best.Observance.To, best.Observance.Name);
    }

    private static List<Observance> Read(Ics feed)
    {
        var found = new List<Observance>();
        Dictionary<string, string>? current = null;
        foreach (var line in feed.Lines.SkipWhile(l => l != "BEGIN:VTIMEZONE").TakeWhile(l => l != "END:VTIMEZONE"))
        {
            if (line is "BEGIN:STANDARD" or "BEGIN:DAYLIGHT")
                current = [];
            else if (line is "END:STANDARD" or "END:DAYLIGHT")
                found.Add(Build(current!));
            else if (current is not null)
                current.Add(line[..line.IndexOf(':')], line[(line.IndexOf(':') + 1)..]);
        }
        return found;
    }

    private static Observance Build(Dictionary<string, string> lines)
    {
        var from = OffsetOf(lines["TZOFFSETFROM"]);
        var first = Local(lines["DTSTART"]);
        var starts = new List<LocalDateTime> { first };
        if (lines.TryGetValue("RDATE", out var others))
            starts.AddRange(others.Split(',').Select(Local));
        if (lines.TryGetValue("RRULE", out var rule))
            starts.AddRange(Yearly(rule, first, from));
        return new Observance([.. starts.Select(s => s.WithOffset(from).ToInstant())], OffsetOf(lines["TZOFFSETTO"]), lines["TZNAME"]);
    }

    /// <summary>The yearly rules a zone can have, read day by day.</summary>
    private static IEnumerable<LocalDateTime> Yearly(string text, LocalDateTime first, Offset from)
    {
        var parts = text.Split(';').Select(p => p.Split('=')).ToDictionary(p => p[0], p => p[1]);
        Assert.Equal("YEARLY", parts["FREQ"]);
        var month = int.Parse(parts["BYMONTH"]);
        var by = parts["BYDAY"];
        var weekday = Array.IndexOf(["MO", "TU", "WE", "TH", "FR", "SA", "SU"], by[^2..]) + 1;
        var days = parts.TryGetValue("BYMONTHDAY", out var list) ? list.Split(',').Select(int.Parse).ToArray() : null;
        var last = parts.TryGetValue("UNTIL", out var until) ? Local(until.TrimEnd('Z')).WithOffset(Offset.Zero).ToInstant() : Instant.MaxValue;
        for (var year = first.Year + 1; year < 2045; year++)
        {
            var inMonth = Enumerable.Range(1, CalendarSystem.Iso.GetDaysInMonth(year, month))
                .Select(d => new LocalDate(year, month, d)).Where(d => (int)d.DayOfWeek == weekday).ToArray();
            var day = days is not null ? inMonth.Single(d => days.Contains(d.Day)) : by[0] == '-' ? inMonth[^1] : inMonth[by[0] - '1'];
            var start = day.At(first.TimeOfDay);
            if (start.WithOffset(from).ToInstant() > last)
                yield break;
            yield return start;
        }
    }

    private static LocalDateTime Local(string text) =>
        NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmmss").Parse(text).Value;

    private static Offset OffsetOf(string text)
    {
        var sign = text[0] == '-' ? -1 : 1;
        return Offset.FromSeconds(sign * (int.Parse(text[1..3]) * 3600 + int.Parse(text[3..5]) * 60 + (text.Length > 5 ? int.Parse(text[5..7]) : 0)));
    }
}
