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

    private OutletTexts(string language)
    {
        using var stream = typeof(OutletTexts).Assembly.GetManifestResourceStream($"texts/{language}.json")!;
        using var json = JsonDocument.Parse(stream);
        string[] List(string name) => [.. json.RootElement.GetProperty(name).EnumerateArray().Select(e => e.GetString()!)];
        weekdays = List("weekdays");
        months = List("months");
        foreach (var property in json.RootElement.EnumerateObject().Where(p => p.Value.ValueKind == JsonValueKind.String))
            texts[property.Name] = property.Value.GetString()!;
        Language = language;
    }

    public string Language { get; }

    public string this[string name] => texts[name];

    public static OutletTexts For(string? language) => All.GetValueOrDefault(language ?? "en", All["en"]);

    /// <summary>The language a reader's browser asks for first, of those there are.</summary>
    public static OutletTexts ForReader(HttpRequest request) =>
        For(request.GetTypedHeaders().AcceptLanguage
            .OrderByDescending(l => l.Quality ?? 1)
            .Select(l => l.Value.Value?.Split('-')[0].ToLowerInvariant())
            .FirstOrDefault(All.ContainsKey!));

    public string With(string name, string value) => texts[name].Replace("{{value}}", value);

    public string Day(LocalDate date) => texts["dayPattern"]
        .Replace("{{weekday}}", weekdays[(int)date.DayOfWeek - 1])
        .Replace("{{day}}", date.Day.ToString())
        .Replace("{{month}}", months[date.Month - 1])
        .Replace("{{year}}", date.Year.ToString());

    /// <summary>A day of a list: the year is said only when it is not this one.</summary>
    public string Heading(LocalDate date, LocalDate today) => date.Year == today.Year ? Day(date).Replace($" {date.Year}", "") : Day(date);

    /// <summary>A time of day.</summary>
    public string Time(LocalTime time, HourForm hours = HourForm.Language)
    {
        var isTwelve = hours == HourForm.Twelve;
        var hour = isTwelve ? (time.Hour + 11) % 12 + 1 : time.Hour;
        var pattern = isTwelve ? "{{hour}}:{{minute}} {{half}}" : hours == HourForm.TwentyFour ? "{{hour}}:{{minute}}" : texts["timePattern"];
        return pattern.Replace("{{hour}}", hour.ToString()).Replace("{{minute}}", time.Minute.ToString("00")).Replace("{{half}}", time.Hour < 12 ? "am" : "pm");
    }

    /// <summary>When a date is, in words.</summary>
    public string Span(OutletEvent e, HourForm hours)
    {
        string Clock(LocalDateTime at) => Time(at.TimeOfDay, hours);
        if (e.AllDay)
            return e.FirstDay == e.LastDay ? $"{Day(e.FirstDay)}, {texts["allDay"]}" : $"{Day(e.FirstDay)} – {Day(e.LastDay)}";
        return e.FirstDay == e.LastDay
            ? $"{Day(e.FirstDay)}, {(e.Start == e.End ? Clock(e.Start) : $"{Clock(e.Start)}–{Clock(e.End)}")}"
            : $"{Day(e.FirstDay)}, {Clock(e.Start)} – {Day(e.End.Date)}, {Clock(e.End)}";
    }

    /// <summary>A zone by its city.</summary>
    public static string ZoneCity(string zone) => zone[(zone.LastIndexOf('/') + 1)..].Replace('_', ' ');
}
