using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using Valtro.Core;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Cli;

/// <summary>One line of <c>valtro expand</c>: what it asks, and the starts that answer it.</summary>
internal static class Expansion
{
    private const int MostStarts = 100_000;

    private static readonly LocalDateTimePattern LocalForm = LocalDateTimePattern.ExtendedIso;
    private static readonly OffsetDateTimePattern OffsetForm = OffsetDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:sso<+HH:mm>");
    private static readonly LocalDateTimePattern SecondForm = LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:ss");

    public static List<string> Of(JsonObject request)
    {
        var startText = Text(request, "start") ?? throw Missing("start", "a local time as 2026-09-01T09:00:00, or a date");
        var zoneId = Text(request, "zone");
        var zone = zoneId is null ? null : Zones.Get(zoneId);
        var isAllDay = LocalDatePattern.Iso.Parse(startText).Success;
        if (isAllDay && zone is not null)
            throw new InvalidInputException("zone_with_date", "zone", "A date has no time zone: leave it out or give the start a time.");
        var start = Local(startText, "start", zone, isAllDay);
        var rules = Texts(request, "rule").Select(text => RecurrenceRule.Parse(text, zone)).ToList();
        var added = Texts(request, "rdates").Select(text => Added(text, zone, isAllDay)).ToList();
        var leftOut = Texts(request, "exdates").Select(text => Local(text, "exdates", zone, isAllDay)).ToList();
        var set = new RecurrenceSet(start, isAllDay, rules, added, leftOut);

        var limit = request["limit"] is { } given ? Number(given) : (int?)null;
        // Without a zone the clock itself is the measure, and UTC leaves it as it is.
        var from = Edge(request, "from", zone) ?? Instant.FromUtc(1800, 1, 1, 0, 0);
        var to = Edge(request, "to", zone) ?? Instant.FromUtc(3001, 1, 1, 0, 0);
        if (to <= from)
            throw new InvalidInputException("window_empty", "to", "The window has to end after it begins.");
        var starts = new List<string>();
        foreach (var occurrence in new Occurrences(set, zone ?? DateTimeZone.Utc, Duration.Zero, true, from, to))
        {
            if (starts.Count == limit)
                break;
            if (starts.Count == MostStarts)
                throw new InvalidInputException("too_many_dates", "to", $"More than {MostStarts} dates lie in this window. Ask for a shorter one, or give a limit.");
            starts.Add(zone is not null
                ? OffsetForm.Format(occurrence.Start.InZone(zone).ToOffsetDateTime())
                : isAllDay ? LocalDatePattern.Iso.Format(occurrence.LocalStart.Date) : SecondForm.Format(occurrence.LocalStart));
        }
        return starts;
    }

    private static Instant? Edge(JsonObject request, string name, DateTimeZone? zone)
    {
        if (Text(request, name) is not { } text)
            return null;
        if (InstantPattern.ExtendedIso.Parse(text) is { Success: true } instant)
            return instant.Value;
        if (OffsetDateTimePattern.ExtendedIso.Parse(text) is { Success: true } offset)
            return offset.Value.ToInstant();
        if (LocalDatePattern.Iso.Parse(text) is { Success: true } date)
            return Zones.ToInstant(date.Value.AtMidnight(), zone ?? DateTimeZone.Utc);
        if (LocalForm.Parse(text) is { Success: true } local)
            return Zones.ToInstant(local.Value, zone ?? DateTimeZone.Utc);
        throw Missing(name, "an instant as 2026-09-01T12:00:00Z, a date, or a local time");
    }

    /// <summary>A local time of the set; one in UTC is taken to the set's own clock.</summary>
    private static LocalDateTime Local(string text, string field, DateTimeZone? zone, bool isAllDay)
    {
        if (LocalDatePattern.Iso.Parse(text) is { Success: true } date)
            return isAllDay ? date.Value.AtMidnight() : throw Missing(field, "a time, because the start has one");
        if (InstantPattern.ExtendedIso.Parse(text) is { Success: true } instant && zone is not null)
            return instant.Value.InZone(zone).LocalDateTime;
        if (LocalForm.Parse(text) is { Success: true } local)
            return isAllDay ? local.Value.Date.AtMidnight() : local.Value;
        throw Missing(field, "a local time as 2026-09-01T09:00:00, or a date");
    }

    /// <summary>An added date, or a period: a start and an end or a duration behind a slash.</summary>
    private static AddedDate Added(string text, DateTimeZone? zone, bool isAllDay) =>
        new(Local(text.Split('/')[0], "rdates", zone, isAllDay));

    private static string? Text(JsonObject request, string name) => request[name] switch
    {
        null => null,
        JsonValue value when value.TryGetValue<string>(out var text) => text.Trim(),
        _ => throw Missing(name, "a text"),
    };

    private static List<string> Texts(JsonObject request, string name) => request[name] switch
    {
        null => [],
        JsonArray list => list.Select(item => item is JsonValue value && value.TryGetValue<string>(out var text) ? text.Trim() : throw Missing(name, "a list of texts")).ToList(),
        _ => [Text(request, name)!],
    };

    private static int Number(JsonNode node) =>
        node is JsonValue value && value.TryGetValue<int>(out var number) && number >= 0 ? number : throw Missing("limit", "a whole number, 0 or more");

    private static InvalidInputException Missing(string field, string expected) =>
        new("field_malformed", field, $"“{field}” has to be {expected}.");
}
