using System.Collections.Immutable;
using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Views;

namespace Valtro.Core.Publishing;

/// <summary>Which events by whether they repeat.</summary>
public enum EventKinds
{
    /// <summary>All.</summary>
    All,

    /// <summary>Those that do not repeat.</summary>
    OneTime,

    /// <summary>Those that repeat.</summary>
    Series,
}

/// <summary>What a feed can leave out of its events.</summary>
public enum FeedField
{
    /// <summary>Where they are.</summary>
    Place,

    /// <summary>The line under the title and the description.</summary>
    Description,

    /// <summary>Links.</summary>
    Links,

    /// <summary>Files, as links that work for exactly the feed's audience.</summary>
    Files,

    /// <summary>Pictures.</summary>
    Pictures,

    /// <summary>Calendars, category and tags, as CATEGORIES (RFC 5545, 3.8.1.2).</summary>
    Categories,

    /// <summary>Reminders (RFC 5545, 3.6.6).</summary>
    Reminders,
}

/// <summary>How one calendar stands in a publication.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Most">The most its events show here; reach may give less.</param>
/// <param name="Tag">A short name for it; may be empty.</param>
/// <param name="Mark">A mark for here alone; null for its own.</param>
public sealed record CalendarChoice(Guid CalendarId, Detail Most = Detail.Everything, string Tag = "", int? Mark = null);

/// <summary>
/// What goes out beside which calendars: less of some, some events only, for some days, for a while. It only ever takes
/// away from what reach gives. Immutable.
/// </summary>
public sealed partial record PublicationChoices
{
    /// <summary>The longest short name of a calendar.</summary>
    public const int MaxTag = 12;

    /// <summary>The most days back or ahead.</summary>
    public const int MaxDays = 3660;

    /// <summary>The longest title pattern.</summary>
    public const int MaxPattern = 100;

    private const int MaxParts = 50;

    /// <summary>The fields a title pattern knows.</summary>
    public static readonly IReadOnlyList<string> PatternFields = ["title", "calendar", "tag", "place", "category"];

    /// <summary>Everything, as it is.</summary>
    public static PublicationChoices None { get; } = new();

    /// <summary>The calendars that stand in it otherwise than as they are.</summary>
    public ImmutableArray<CalendarChoice> Calendars { get; init; } = [];

    /// <summary>Only events of these categories; all when empty.</summary>
    public ImmutableArray<Guid> CategoryIds { get; init; } = [];

    /// <summary>Only events with one of these tags; all when empty.</summary>
    public ImmutableArray<string> Tags { get; init; } = [];

    /// <summary>Only events with this in their title, place or details; all when empty.</summary>
    public string Text { get; init; } = "";

    /// <summary>Only events of a kind.</summary>
    public EventKinds Kinds { get; init; }

    /// <summary>Whether dates that are called off are left out, instead of shown as such.</summary>
    public bool HidesCalledOff { get; init; }

    /// <summary>How many days back; null for all. A series with a date within goes out whole.</summary>
    public int? DaysBack { get; init; }

    /// <summary>How many days ahead, today not counted; null for all.</summary>
    public int? DaysAhead { get; init; }

    /// <summary>When it begins to go out; null for at once.</summary>
    public Instant? From { get; init; }

    /// <summary>When it stops going out; null for never.</summary>
    public Instant? Until { get; init; }

    /// <summary>What feeds write as an event's title: text with fields in braces.</summary>
    public string TitlePattern { get; init; } = "{title}";

    /// <summary>What feeds leave out of events.</summary>
    public ImmutableArray<FeedField> LeftOut { get; init; } = [];

    /// <summary>Whether what goes out depends on the day.</summary>
    public bool IsByDay => DaysBack is not null || DaysAhead is not null;

    /// <summary>How a calendar stands in it.</summary>
    public CalendarChoice Of(Guid calendarId) => Calendars.FirstOrDefault(c => c.CalendarId == calendarId) ?? new CalendarChoice(calendarId);

    /// <summary>Whether it goes out at a moment.</summary>
    public bool IsOut(Instant now) => !(From > now) && !(Until <= now);

    /// <summary>The choices, checked and in order.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>text_too_long</c>, <c>too_many_parts</c>, <c>choice_nothing</c>, <c>days_range</c>, <c>schedule_order</c>, <c>field_unknown</c>,
    /// <c>mark_unknown</c>, <c>pattern_field</c>, <c>pattern_title</c>.
    /// </exception>
    public PublicationChoices Checked()
    {
        if (Calendars.Length > Publication.MaxCalendars || CategoryIds.Length > MaxParts || Tags.Length > MaxParts)
            throw new InvalidInputException("too_many_parts", "choices", $"{MaxParts} categories and tags can be chosen at most.");
        if (Calendars.Any(c => c.Most is not (Detail.TimesOnly or Detail.Headlines or Detail.Everything)))
            throw new InvalidInputException("choice_nothing", "choices.calendars", "A calendar that shall show nothing is left out of the publication.");
        if (DaysBack is < 0 or > MaxDays || DaysAhead is < 0 or > MaxDays)
            throw new InvalidInputException("days_range", "choices.days", $"Days back and ahead are between 0 and {MaxDays}.");
        if (From is { } from && Until is { } until && until <= from)
            throw new InvalidInputException("schedule_order", "choices.until", "It has to end after it begins.");
        if (!LeftOut.All(Enum.IsDefined))
            throw new InvalidInputException("field_unknown", "choices.leftOut", "There is no such field.");
        if (Calendars.Any(c => c.Mark is < 1 or > Calendar.Marks))
            throw new InvalidInputException("mark_unknown", "choices.calendars", $"Marks are numbered 1 to {Calendar.Marks}.");
        var pattern = Texts.Line(TitlePattern, "choices.titlePattern", MaxPattern);
        if (Field().Matches(pattern).FirstOrDefault(m => !PatternFields.Contains(m.Groups[1].Value)) is { } unknown)
            throw new InvalidInputException("pattern_field", "choices.titlePattern", $"There is no field {unknown.Value}. There are: {string.Join(", ", PatternFields.Select(f => $"{{{f}}}"))}.");
        if (!pattern.Contains("{title}", StringComparison.Ordinal))
            throw new InvalidInputException("pattern_title", "choices.titlePattern", "The title itself has to be in it: {title}.");
        return this with
        {
            Calendars =
            [
                .. Calendars.DistinctBy(c => c.CalendarId)
                    .Select(c => c with { Tag = Texts.Line(c.Tag, "choices.calendars", MaxTag) })
                    .Where(c => c.Most != Detail.Everything || c.Tag.Length > 0 || c.Mark is not null),
            ],
            CategoryIds = [.. CategoryIds.Distinct()],
            Tags = [.. Tags.Select(t => Texts.Line(t, "choices.tags", EventFacts.MaxTag)).Where(t => t.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)],
            Text = Texts.Line(Text, "choices.text", 100),
            TitlePattern = pattern,
            LeftOut = [.. LeftOut.Distinct().Order()],
        };
    }

    /// <summary>
    /// Whether dates of an event that goes out can be chosen, by what goes out of it: what an audience does not get can choose
    /// nothing, so that being there says no more than the event itself does.
    /// </summary>
    /// <param name="e">The event, with no more in it than its detail allows.</param>
    public bool ChoosesSome(EventView e) =>
        (Kinds == EventKinds.All || e.IsSeries == (Kinds == EventKinds.Series))
        && (Text.Length == 0 || new[] { e.Title, e.Place, e.Description }.Any(t => t?.Contains(Text, StringComparison.OrdinalIgnoreCase) == true));

    /// <summary>Whether dates of it are chosen by what they have beside.</summary>
    /// <param name="e">The event, with no more in it than its detail allows.</param>
    /// <param name="change">What differs on one of its dates; null for the others.</param>
    public bool Chooses(EventView e, EventChange? change)
    {
        var facts = e.FactsOn(change);
        return (CategoryIds.IsEmpty || (facts.CategoryId is { } category && CategoryIds.Contains(category)))
            && (Tags.IsEmpty || facts.Tags.Any(t => Tags.Contains(t, StringComparer.OrdinalIgnoreCase)));
    }

    /// <summary>A title by the pattern. What a field has nothing for leaves no empty brackets and no separator behind.</summary>
    public string TitleOf(string title, EventView e, string? place, string? category) =>
        TitlePattern == "{title}" ? title : Filled(TitlePattern, title, e.Calendar.Title, e.Calendar.Tag, place ?? "", category ?? "");

    /// <summary>What a pattern makes of a title; a field there is not stays as it was typed.</summary>
    /// <param name="pattern">The pattern.</param>
    /// <param name="title">The title.</param>
    /// <param name="calendar">The calendar's name.</param>
    /// <param name="tag">Its short name.</param>
    /// <param name="place">The place.</param>
    /// <param name="category">The category's name.</param>
    public static string Filled(string pattern, string title, string calendar, string tag, string place, string category)
    {
        var filled = Field().Replace(pattern, m => m.Groups[1].Value switch
        {
            "title" => title,
            "calendar" => calendar,
            "tag" => tag,
            "place" => place,
            "category" => category,
            _ => m.Value,
        });
        filled = Loose().Replace(Empty().Replace(filled, ""), " ").Trim(' ', '-', '–', '·', ':', ',', '/', '|');
        return filled.Length == 0 ? title : filled;
    }

    [GeneratedRegex(@"\{([a-zA-Z]*)\}")]
    private static partial Regex Field();

    [GeneratedRegex(@"\[\s*\]|\(\s*\)")]
    private static partial Regex Empty();

    [GeneratedRegex(@"\s{2,}")]
    private static partial Regex Loose();
}
