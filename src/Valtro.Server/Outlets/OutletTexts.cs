using System.Collections.Frozen;
using System.Text.Json;
using NodaTime;
using Valtro.Core.Publishing;

namespace Valtro.Server.Outlets;

/// <summary>
/// What visitors read, in one language. The same files go into the visitors' script, so that the list in the page and
/// the views made from it speak alike.
/// </summary>
public sealed class OutletTexts
{
    private static readonly FrozenDictionary<string, OutletTexts> All =
        Publication.Languages.ToFrozenDictionary(l => l, l => new OutletTexts(l));

    private readonly Dictionary<string, string> texts = [];
    private readonly string[] weekdays;
    private readonly string[] months;
    private readonly string[] shortMonths;

    private OutletTexts(string language)
    {
        using var json = Read($"texts/{language}.json");
        string[] List(string name) => [.. json.RootElement.GetProperty(name).EnumerateArray().Select(e => e.GetString()!)];
        weekdays = List("weekdays");
        months = List("months");
        shortMonths = List("monthsShort");
        foreach (var property in json.RootElement.EnumerateObject().Where(p => p.Value.ValueKind == JsonValueKind.String))
            texts[property.Name] = property.Value.GetString()!;
        // What only the server says is not sent to every visitor.
        using var own = Read($"texts/own/{language}.json");
        foreach (var property in own.RootElement.EnumerateObject())
            texts[property.Name] = property.Value.GetString()!;
        Language = language;
    }

    private static JsonDocument Read(string name)
    {
        using var stream = typeof(OutletTexts).Assembly.GetManifestResourceStream(name)!;
        return JsonDocument.Parse(stream);
    }

    public string Language { get; }

    /// <summary>The way it is written: ltr or rtl.</summary>
    public string Direction => texts["direction"];

    /// <summary>Every language there is, with its own name for itself.</summary>
    public static IEnumerable<(string Language, string Name, string Direction)> Choices => Publication.Languages.Select(l => (l, All[l]["language"], All[l].Direction));

    public string this[string name] => texts[name];

    public static OutletTexts For(string? language) => All.GetValueOrDefault(language ?? "en", All["en"]);

    /// <summary>The language a reader's browser asks for first, of those there are.</summary>
    public static OutletTexts ForReader(HttpRequest request) =>
        For(request.GetTypedHeaders().AcceptLanguage
            .OrderByDescending(l => l.Quality ?? 1)
            .Select(l => l.Value.Value?.Split('-')[0].ToLowerInvariant())
            .FirstOrDefault(All.ContainsKey!));

    public string With(string name, string value) => texts[name].Replace("{{value}}", value);

    public string Day(LocalDate date) => Filled("dayPattern", date, months);

    /// <summary>A day of a list: the year is said only when it is not this one.</summary>
    public string Heading(LocalDate date, LocalDate today) => date.Year == today.Year ? Filled("headingPattern", date, months) : Day(date);

    /// <summary>A day without its weekday and year, in short.</summary>
    public string DayOfMonth(LocalDate date) => Filled("dayOfMonth", date, shortMonths);

    /// <summary>The name of a day of the week.</summary>
    public string Weekday(LocalDate date) => weekdays[(int)date.DayOfWeek - 1];

    /// <summary>A time of day.</summary>
    public string Time(LocalTime time, HourForm hours = HourForm.Language)
    {
        var isTwelve = hours == HourForm.Twelve;
        var hour = isTwelve ? (time.Hour + 11) % 12 + 1 : time.Hour;
        var pattern = isTwelve ? "{{hour}}:{{minute}} {{half}}" : hours == HourForm.TwentyFour ? "{{hour}}:{{minute}}" : texts["timePattern"];
        return pattern.Replace("{{hour}}", hour.ToString()).Replace("{{minute}}", time.Minute.ToString("00")).Replace("{{half}}", texts[time.Hour < 12 ? "am" : "pm"]);
    }

    private string Filled(string pattern, LocalDate date, string[] names) => texts[pattern]
        .Replace("{{weekday}}", weekdays[(int)date.DayOfWeek - 1])
        .Replace("{{day}}", date.Day.ToString())
        .Replace("{{month}}", names[date.Month - 1])
        .Replace("{{year}}", date.Year.ToString());

    /// <summary>When a date is, in words.</summary>
    public string Span(OutletEvent e, HourForm hours) => Span(e.Start, e.End, e.FirstDay, e.LastDay, e.AllDay, hours);

    /// <summary>A span in words.</summary>
    public string Span(LocalDateTime start, LocalDateTime end, LocalDate first, LocalDate last, bool isAllDay, HourForm hours)
    {
        string Clock(LocalDateTime at) => Time(at.TimeOfDay, hours);
        if (isAllDay)
            return first == last ? $"{Day(first)}, {texts["allDay"]}" : $"{Day(first)} – {Day(last)}";
        return first == last
            ? $"{Day(first)}, {(start == end ? Clock(start) : $"{Clock(start)}–{Clock(end)}")}"
            : $"{Day(first)}, {Clock(start)} – {Day(end.Date)}, {Clock(end)}";
    }

    /// <summary>A zone by its city.</summary>
    public static string ZoneCity(string zone) => zone[(zone.LastIndexOf('/') + 1)..].Replace('_', ' ');
}
