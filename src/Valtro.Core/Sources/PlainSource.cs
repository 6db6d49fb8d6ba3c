using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>Reads our own plain JSON (docs/formats.md): every date an event of its own.</summary>
internal static class PlainSource
{
    /// <summary>The form's name.</summary>
    public const string Format = "valtro-dates-1";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { MaxDepth = 16 };

    private sealed record Document(string? Format, string? Title, string? Zone, Date[]? Dates);

    private sealed record Date(string? Id, string? Title, bool AllDay, string? Start, string? End, string? Place, string[]? Calendars, string? Category, string? Description, bool CalledOff);

    /// <summary>What a document says; null when it is none of this form.</summary>
    /// <param name="bytes">The document.</param>
    /// <param name="zone">The zone of times where the document names none.</param>
    /// <param name="most">How many dates at most.</param>
    /// <exception cref="InvalidInputException"><c>too_many_components</c>.</exception>
    public static ReadCalendar? Read(ReadOnlySpan<byte> bytes, DateTimeZone zone, int most)
    {
        Document? document;
        try
        {
            document = JsonSerializer.Deserialize<Document>(bytes, Json);
        }
        catch (JsonException)
        {
            return null;
        }
        if (document is not { Format: Format, Dates: { } dates })
            return null;
        if (dates.Length > most)
            throw new InvalidInputException("too_many_components", "", $"A file holds {most} events at most.");
        var home = document.Zone is { } named && SourceZones.Named(named) is { } known ? known : zone;
        var events = dates.Where(d => d is not null).Select(d => One(d, home)).ToList();
        var read = events.OfType<ReadEvent>().ToList();
        return new ReadCalendar(document.Title ?? "", read, read.Count == dates.Length ? [] : [new LeftOut("date that cannot be read", dates.Length - read.Count)]);
    }

    private static ReadEvent? One(Date date, DateTimeZone zone)
    {
        if (Timing(date, zone) is not { } timing)
            return null;
        return new ReadEvent
        {
            Uid = string.IsNullOrEmpty(date.Id) ? $"{date.Title}\n{date.Start}\n{date.Place}" : date.Id,
            Title = (date.Title ?? "").ReplaceLineEndings(" "),
            Place = (date.Place ?? "").ReplaceLineEndings(" "),
            Description = date.Description ?? "",
            Timing = timing,
            IsCalledOff = date.CalledOff,
            Categories = string.IsNullOrEmpty(date.Category) ? [] : [date.Category],
            Others = [.. (date.Calendars ?? []).Where(c => !string.IsNullOrEmpty(c)).Take(1).Select(c => KeyValuePair.Create(TableEvents.CalendarProperty, c))],
        };
    }

    private static EventTiming? Timing(Date date, DateTimeZone zone)
    {
        try
        {
            if (date.AllDay)
            {
                return LocalDatePattern.Iso.Parse(date.Start ?? "") is { Success: true, Value: var first } && LocalDatePattern.Iso.Parse(date.End ?? "") is { Success: true, Value: var after } && after > first
                    ? EventTiming.AllDay(first, after.PlusDays(-1))
                    : null;
            }
            if (OffsetDateTimePattern.ExtendedIso.Parse(date.Start ?? "") is not { Success: true, Value: var start } || OffsetDateTimePattern.ExtendedIso.Parse(date.End ?? "") is not { Success: true, Value: var end } || end.ToInstant() < start.ToInstant())
                return null;
            return EventTiming.Restore(TimeKind.Zoned, start.InZone(zone).LocalDateTime, end.ToInstant() - start.ToInstant(), zone);
        }
        catch (InvalidInputException)
        {
            return null;
        }
    }
}
