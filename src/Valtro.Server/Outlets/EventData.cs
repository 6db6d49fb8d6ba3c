using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Time;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>A date for search engines and previews (schema.org Event, as JSON-LD).</summary>
internal static class EventData
{
    /// <summary>Escapes angle brackets: nothing in it can end the element it stands in.</summary>
    public static readonly JsonSerializerOptions Json = JsonSerializerOptions.Default;

    private static readonly OffsetDateTimePattern Moment = OffsetDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:sso<m>");

    public static object Of(PublishedOccurrence date, Projection projection, School school, string address, string key)
    {
        var isAllDay = date.Event.Timing.Kind == TimeKind.AllDay;
        var (from, to) = date.InstantsIn(projection.Zone);
        // A date is named by the start it had when it came to be, whatever moved it: alone, or with its series.
        var name = DateNames.Of(date.Event.Uid, date.Event.Names, date.LocalStart).Start;
        LocalDateTime? before = name == date.Timing.Start ? null : name;
        string At(Instant instant) => Moment.Format(instant.InZone(projection.Zone).ToOffsetDateTime());
        var url = $"{address}/p/{key}/e/{date.Key}";
        return Said(new()
        {
            ["@context"] = "https://schema.org",
            ["@type"] = "Event",
            ["name"] = date.Title,
            ["url"] = url,
            ["startDate"] = isAllDay ? LocalDatePattern.Iso.Format(date.Span.FirstDay) : At(from),
            ["endDate"] = isAllDay ? LocalDatePattern.Iso.Format(date.Span.LastDay) : At(to),
            ["previousStartDate"] = before is { } was ? isAllDay ? LocalDatePattern.Iso.Format(was.Date) : At(Zones.ToInstant(was, date.Timing.Zone ?? projection.Zone)) : null,
            ["eventStatus"] = "https://schema.org/" + (date.IsCalledOff ? "EventCancelled" : before is not null ? "EventRescheduled" : "EventScheduled"),
            ["description"] = date.Description is { Length: > 0 } text ? RichText.Plain(text) : null,
            ["image"] = date.Event.Facts.Picture is { } picture ? $"{address}/p/{key}/files/{picture.Id:D}/large" : null,
            ["location"] = Place(date, school),
            ["organizer"] = new Dictionary<string, object?> { ["@type"] = "Organization", ["name"] = school.Name, ["url"] = $"{address}/p/{key}" },
        });
    }

    // Search engines want to know where; what says nothing of it is at the school.
    private static Dictionary<string, object?> Place(PublishedOccurrence date, School school)
    {
        var name = date.Place is { Length: > 0 } own ? own : school.Name;
        var where = date.Event.Where is { } w && w.IsNamed(name) ? w : null;
        return Said(new()
        {
            ["@type"] = "Place",
            ["name"] = name,
            ["address"] = where is { Address.Length: > 0 } known ? known.Address : null,
            ["geo"] = where is { Latitude: { } north, Longitude: { } east }
                ? new Dictionary<string, object?> { ["@type"] = "GeoCoordinates", ["latitude"] = north, ["longitude"] = east }
                : null,
        });
    }

    // What is not known is not said.
    private static Dictionary<string, object?> Said(Dictionary<string, object?> all) => all.Where(p => p.Value is not null).ToDictionary();
}
