using System.Text.Json.Serialization;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Core.Time;

namespace Valtro.Server.Outlets;

/// <summary>A date of an event as visitors' scripts get it. Its description is clean HTML.</summary>
public sealed record OutletEvent(
    string Id,
    int Calendar,
    string Title,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Place,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Description,
    bool AllDay,
    LocalDateTime Start,
    LocalDateTime End,
    LocalDate FirstDay,
    LocalDate LastDay,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] bool CalledOff,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Subtitle,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] int Mark,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<OutletLink>? Links,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<OutletLink>? Files,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] OutletPicture? Picture)
{
    public static IReadOnlyList<OutletEvent> In(Projection projection, TimeWindow window, OutletTexts texts, string key)
    {
        var files = $"/p/{key}/files/";
        var calendars = projection.Calendars.Select((c, i) => (c.Id, i)).ToDictionary();
        return [.. projection.In(window).Select(o => new OutletEvent(
            $"{o.Event.Uid}-{o.LocalStart.Date:uuuuMMdd}",
            calendars[o.Event.Calendar.Id],
            o.Title ?? texts["busy"],
            string.IsNullOrEmpty(o.Place) ? null : o.Place,
            string.IsNullOrEmpty(o.Description) ? null : o.Description,
            o.Event.Timing.Kind == TimeKind.AllDay,
            o.Span.Start,
            o.Span.End,
            o.Span.FirstDay,
            o.Span.LastDay,
            o.IsCalledOff,
            o.Event.Facts.Subtitle.Length == 0 ? null : o.Event.Facts.Subtitle,
            o.Event.Facts.Mark ?? 0,
            o.Event.Facts.Links.IsEmpty ? null : [.. o.Event.Facts.Links.Select(l => new OutletLink(l.Label.Length > 0 ? l.Label : texts[$"link{l.Kind}"], l.Address))],
            o.Event.Facts.Files.IsEmpty ? null : [.. o.Event.Facts.Files.Select(f => new OutletLink(f.Name, $"{files}{f.Id:D}/{Uri.EscapeDataString(f.Name)}"))],
            o.Event.Facts.Picture is { } p ? new OutletPicture($"{files}{p.Id:D}/small", p.Alt) : null))];
    }
}

/// <summary>A link of an event, with what people read.</summary>
public sealed record OutletLink(string Label, string Address);

/// <summary>The banner of an event, and what is seen on it.</summary>
public sealed record OutletPicture(string Address, string Alt);

public sealed record OutletCalendar(string Title, int Mark);

/// <summary>A stretch of days for the visitors' script.</summary>
public sealed record OutletWindow(LocalDate From, LocalDate To, IReadOnlyList<OutletEvent> Events);

/// <summary>All a page or an embed starts with.</summary>
public sealed record OutletStart(
    string Events,
    string Title,
    string School,
    string Language,
    string Zone,
    LocalDate Today,
    OutletView FirstView,
    string Page,
    string Feed,
    string Webcal,
    IReadOnlyList<OutletCalendar> Calendars,
    OutletWindow Window);
