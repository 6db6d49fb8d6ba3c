using System.Collections.Frozen;
using System.Text.Json;
using NodaTime;

namespace Valtro.Server.Outlets;

/// <summary>
/// What visitors read, in one language. The same files go into the visitors' script, so that the list in the page and
/// the views made from it speak alike.
/// </summary>
public sealed class OutletTexts
{
    private static readonly FrozenDictionary<string, OutletTexts> All =
        Core.Publishing.Publication.Languages.ToFrozenDictionary(l => l, l => new OutletTexts(l));

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

    public string Time(LocalTime time) => texts["timePattern"]
        .Replace("{{hour}}", time.Hour.ToString())
        .Replace("{{minute}}", time.Minute.ToString("00"));
}
