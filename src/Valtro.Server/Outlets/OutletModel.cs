using System.Text.Json.Serialization;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Core.Time;
using Valtro.Core.Views;

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
    /// <summary>The other calendars it stands in.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<int>? Also { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Category { get; init; }

    /// <summary>Whether only that its time is taken is told, so that there is no page of it.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Busy { get; init; }

    /// <summary>What became of it lately.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public DateNews News { get; init; }

    /// <summary>When it begins and ends on every clock; only where times are told in the reader's zone.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<Instant>? At { get; init; }

    public static IReadOnlyList<OutletEvent> In(Projection projection, TimeWindow window, OutletTexts texts, string key, Instant now) =>
        [.. projection.In(window).Select(o => Of(o, projection, texts, key, now))];

    public static OutletEvent Of(PublishedOccurrence o, Projection projection, OutletTexts texts, string key, Instant now)
    {
        var files = $"/p/{key}/files/";
        var look = projection.Publication.Look;
        int Index(ViewedCalendar calendar) => projection.Calendars.Index().First(c => c.Item.Id == calendar.Id).Index;
        return new OutletEvent(
            o.Key,
            Index(o.Event.Calendar),
            o.Title ?? texts["busy"],
            string.IsNullOrEmpty(o.Place) ? null : o.Place,
            string.IsNullOrEmpty(o.Description) ? null : o.Description,
            o.Event.Timing.Kind == TimeKind.AllDay,
            o.Span.Start,
            o.Span.End,
            o.Span.FirstDay,
            o.Span.LastDay,
            o.IsCalledOff,
            o.Facts.Subtitle.Length == 0 ? null : o.Facts.Subtitle,
            o.Event.Facts.Mark ?? 0,
            o.Facts.Links.IsEmpty ? null : [.. o.Facts.Links.Select(l => new OutletLink(l.Label.Length > 0 ? l.Label : texts[$"link{l.Kind}"], l.Address))],
            o.Facts.Files.IsEmpty ? null : [.. o.Facts.Files.Select(f => new OutletLink(f.Name, $"{files}{f.Id:D}/{Uri.EscapeDataString(f.Name)}"))],
            o.Event.Facts.Picture is { } p ? new OutletPicture($"{files}{p.Id:D}/small", p.Alt) : null)
        {
            Also = o.Event.Calendars.Count > 1 ? [.. o.Event.Calendars.Where(c => c.Id != o.Event.Calendar.Id).Select(Index)] : null,
            Category = o.Category,
            Busy = o.Title is null,
            News = look.NewsDays > 0 ? o.NewsSince(now - Duration.FromDays(look.NewsDays)) : DateNews.None,
            At = look.IsReadersZone && o.Event.Timing.Kind == TimeKind.Zoned && o.InstantsIn(projection.Zone) is var (from, to) ? [from, to] : null,
        };
    }
}

/// <summary>A link of an event, with what people read.</summary>
public sealed record OutletLink(string Label, string Address);

/// <summary>The banner of an event, and what is seen on it.</summary>
public sealed record OutletPicture(string Address, string Alt);

/// <summary>A calendar, with its name in addresses.</summary>
public sealed record OutletCalendar(string Title, int Mark, string Name);

/// <summary>A stretch of days for the visitors' script.</summary>
public sealed record OutletWindow(LocalDate From, LocalDate To, IReadOnlyList<OutletEvent> Events)
{
    /// <summary>Where nothing is on: the day something is on next.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public LocalDate? Next { get; init; }

    /// <summary>Where nothing is on: the day something was on last.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public LocalDate? Last { get; init; }
}

/// <summary>What is found: what is to come, then what is over, the latest first.</summary>
public sealed record OutletFound(IReadOnlyList<OutletEvent> Coming, IReadOnlyList<OutletEvent> Past);

/// <summary>How the script draws it.</summary>
public sealed record OutletLook(
    IReadOnlyList<OutletView> Views, bool Title, bool Navigation, bool Key, bool Zone, bool Subscribe, bool Print, int WeekStart, bool WholeMonth, bool ReadersZone, HourForm Hours, int Count,
    bool LatestFirst, bool ByDay, bool EachDay, bool Descriptions, string Empty)
{
    public static OutletLook Of(PublicationLook l, OutletShape shape) => new(
        l.Views, l.ShowsTitle, l.ShowsNavigation, l.ShowsKey, l.ShowsZone, l.ShowsSubscribe, l.ShowsPrint || shape.IsPage, (int)l.WeekStart, l.IsWholeMonth, l.IsReadersZone, l.Hours, shape.Count > 0 ? shape.Count : l.Count,
        l.IsLatestFirst, l.GroupsByDay, l.IsOnEachDay, l.ShowsDescriptions, l.EmptyText);
}

/// <summary>All a page or an embed starts with. What is beyond its window is the next that is on, as far as lists go on.</summary>
public sealed record OutletStart(
    string Events,
    string Title,
    string School,
    string Language,
    string LanguageQuery,
    string Zone,
    LocalDate Today,
    OutletView FirstView,
    string Page,
    string Feed,
    string Webcal,
    IReadOnlyList<OutletCalendar> Calendars,
    IReadOnlyList<string> Categories,
    OutletLook Look,
    OutletWindow Window,
    IReadOnlyList<OutletEvent> Beyond,
    string? Search,
    string? ByMail);
