using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Valtro.Core.Events;
using Calendar = Valtro.Core.Events.Calendar;

namespace Valtro.Core.Sources;

/// <summary>By what an event of a source is known to belong somewhere.</summary>
public enum SortBy
{
    /// <summary>One of its categories.</summary>
    Category,

    /// <summary>What stands before its title, parted by a colon or a dash: <c>RIG2: Essay</c>.</summary>
    Beginning,

    /// <summary>What stands after its title, parted by a dash: <c>Essay – RIG2</c>.</summary>
    Ending,

    /// <summary>What stands in brackets in its title: <c>Essay [Rigging 2]</c>.</summary>
    Brackets,

    /// <summary>Its place.</summary>
    Place,

    /// <summary>A property of its program's own, by name.</summary>
    Property,

    /// <summary>Words anywhere in its title or text.</summary>
    Text,
}

/// <summary>A rule that says in which of our calendars events of a source stand.</summary>
/// <param name="By">By what they are known.</param>
/// <param name="Value">What that is; letters' size and spaces play no part.</param>
/// <param name="CalendarId">Where they stand.</param>
/// <param name="DropsCode">Whether the title stands there without the code: at its beginning, end, or in brackets.</param>
/// <param name="Property">For <see cref="SortBy.Property"/> its name.</param>
public sealed record SortingRule(SortBy By, string Value, Guid CalendarId, bool DropsCode = false, string Property = "");

/// <summary>Events of a source that seem to belong together.</summary>
/// <param name="By">By what.</param>
/// <param name="Value">What they have in common.</param>
/// <param name="Property">For <see cref="SortBy.Property"/> its name.</param>
/// <param name="Count">How many they are.</param>
/// <param name="CalendarId">The calendar whose name is like it; null when none is.</param>
public sealed record SortingGroup(SortBy By, string Value, string Property, int Count, Guid? CalendarId);

/// <summary>Sorts events of a source into calendars.</summary>
public static partial class Sorting
{
    /// <summary>The most rules of a source.</summary>
    public const int MaxRules = 100;

    /// <summary>The longest value of a rule.</summary>
    public const int MaxValue = 200;

    private const int MaxGroups = 40;

    /// <summary>Checks rules.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_rules</c>, <c>rule_empty</c>, <c>text_too_long</c>.</exception>
    public static ImmutableArray<SortingRule> Checked(IReadOnlyList<SortingRule> rules)
    {
        if (rules.Count > MaxRules)
            throw new InvalidInputException("too_many_rules", "rules", $"A source is sorted by {MaxRules} rules at most.");
        return
        [
            .. rules.Select((r, i) =>
            {
                var checkedRule = r with { Value = Texts.Line(r.Value, $"rules.{i}.value", MaxValue), Property = Texts.Line(r.Property, $"rules.{i}.property", MaxValue).ToUpperInvariant() };
                // A rule that says nothing would catch everything.
                return checkedRule.Value.Length == 0 || (r.By == SortBy.Property && checkedRule.Property.Length == 0)
                    ? throw new InvalidInputException("rule_empty", $"rules.{i}.value", "A rule needs a word to go by.")
                    : checkedRule;
            }),
        ];
    }

    /// <summary>The first rule that catches an event; null when none does.</summary>
    public static SortingRule? RuleOf(IReadOnlyList<SortingRule> rules, ReadEvent e) => rules.FirstOrDefault(r => Catches(r, e));

    /// <summary>An event as a rule puts it there: its titles without the code where the rule says so.</summary>
    public static ReadEvent Sorted(SortingRule? rule, ReadEvent e) => rule is not { DropsCode: true }
        ? e
        : e with { Title = WithoutCode(rule, e.Title), Changes = [.. e.Changes.Select(c => c with { Title = WithoutCode(rule, c.Title) })] };

    /// <summary>What seems to belong together, the largest first: told by the first of its marks that tells all of it.</summary>
    /// <param name="events">The events of the source.</param>
    /// <param name="calendars">The calendars it could be sorted into.</param>
    public static IReadOnlyList<SortingGroup> Groups(IReadOnlyList<ReadEvent> events, IReadOnlyList<Calendar> calendars)
    {
        var groups = new Dictionary<(SortBy By, string Property, string Key), (string Value, List<int> Events)>();
        for (var i = 0; i < events.Count; i++)
        {
            foreach (var (by, property, value) in MarksOf(events[i]))
            {
                if (value.Length is 0 or > MaxValue)
                    continue;
                var key = (by, property, Key(value));
                if (!groups.TryGetValue(key, out var group))
                    groups[key] = group = (value, []);
                if (group.Events.Count == 0 || group.Events[^1] != i)
                    group.Events.Add(i);
            }
        }
        // What all of them have tells nothing, and what one alone has is no group.
        var telling = groups.Where(g => g.Value.Events.Count >= 2 && (g.Value.Events.Count < events.Count || events.Count < 4 || groups.Count(o => o.Key.By == g.Key.By && o.Key.Property == g.Key.Property) > 1)).ToList();
        // Of a program's own properties those count that part the events into some groups, not into each its own.
        telling = [.. telling.Where(g => g.Key.By != SortBy.Property || groups.Count(o => o.Key.By == SortBy.Property && o.Key.Property == g.Key.Property) <= Math.Max(2, events.Count / 2))];
        var seen = new HashSet<string>(StringComparer.Ordinal);
        return
        [
            .. telling
                .OrderBy(g => g.Key.By == SortBy.Property).ThenBy(g => g.Key.By)
                .Where(g => seen.Add(string.Join(',', g.Value.Events)))
                .Select(g => new SortingGroup(g.Key.By, g.Value.Value, g.Key.Property, g.Value.Events.Count, CalendarLike(g.Value.Value, calendars)))
                .OrderByDescending(g => g.Count).ThenBy(g => g.Value, StringComparer.Ordinal)
                .Take(MaxGroups),
        ];
    }

    private static bool Catches(SortingRule rule, ReadEvent e)
    {
        var key = Key(rule.Value);
        return rule.By == SortBy.Text
            ? Key(e.Title).Contains(key, StringComparison.Ordinal) || Key(e.Description).Contains(key, StringComparison.Ordinal)
            : MarksOf(e).Any(m => m.By == rule.By && Key(m.Value) == key && (rule.By != SortBy.Property || m.Property == rule.Property));
    }

    private static IEnumerable<(SortBy By, string Property, string Value)> MarksOf(ReadEvent e)
    {
        foreach (var category in e.Categories)
            yield return (SortBy.Category, "", category.Trim());
        foreach (Match m in Bracketed().Matches(e.Title))
            yield return (SortBy.Brackets, "", m.Groups[1].Value.Trim());
        if (Began().Match(e.Title) is { Success: true } began)
            yield return (SortBy.Beginning, "", began.Groups[1].Value.Trim());
        if (Ended().Match(e.Title) is { Success: true } ended)
            yield return (SortBy.Ending, "", ended.Groups[1].Value.Trim());
        if (e.Place.Length > 0)
            yield return (SortBy.Place, "", e.Place.Trim());
        foreach (var (name, value) in e.Others)
            yield return (SortBy.Property, name, value.Trim());
    }

    private static string WithoutCode(SortingRule rule, string title)
    {
        var key = Key(rule.Value);
        var bare = rule.By switch
        {
            SortBy.Brackets => Bracketed().Replace(title, m => Key(m.Groups[1].Value) == key ? " " : m.Value),
            SortBy.Beginning when Began().Match(title) is { Success: true } m && Key(m.Groups[1].Value) == key => title[m.Length..],
            SortBy.Ending when Ended().Match(title) is { Success: true } m && Key(m.Groups[1].Value) == key => title[..m.Index],
            // What is said by a category often stands in the title too.
            SortBy.Category or SortBy.Property => Bracketed().Replace(title, m => Key(m.Groups[1].Value) == key ? " " : m.Value),
            _ => title,
        };
        bare = Spaces().Replace(bare, " ").Trim();
        return bare.Length > 0 ? bare : title;
    }

    /// <summary>The calendar a code or a name stands for: the same words, or the beginnings of its words and its number; null where none or several could be meant.</summary>
    public static Guid? CalendarLike(string value, IReadOnlyList<Calendar> calendars)
    {
        var key = Bare(value);
        if (key.Length == 0)
            return null;
        if (calendars.FirstOrDefault(c => Bare(c.Title) == key) is { } same)
            return same.Id;
        // RIG2 is Rigging 2, NAV 2A is Navigation 2A: words begin so, numbers are the same; or the first letters of its words.
        var parts = Parts().Matches(key).Select(m => m.Value).ToList();
        if (!parts.Exists(p => char.IsLetter(p[0]) && p.Length >= 2))
            return null;
        var alike = calendars.Where(c =>
        {
            var title = Parts().Matches(Bare(c.Title)).Select(m => m.Value).ToList();
            var initials = string.Concat(c.Title.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(w => char.IsDigit(w[0]) ? w.ToLowerInvariant() : char.ToLowerInvariant(w[0]).ToString()));
            return initials == key
                || (title.Count == parts.Count && title.Zip(parts).All(p => char.IsDigit(p.Second[0]) ? p.First == p.Second : p.First.StartsWith(p.Second, StringComparison.Ordinal)));
        }).ToList();
        // Of two that it could be neither is said.
        return alike.Count == 1 ? alike[0].Id : null;
    }

    private static string Key(string text) => Place.NameKey(text);

    private static string Bare(string text) => new([.. text.Normalize(NormalizationForm.FormD).Where(c => char.IsLetterOrDigit(c) && CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark).Select(char.ToLowerInvariant)]);

    [GeneratedRegex(@"[\[(]([^\[\]()]{1,60})[\])]")]
    private static partial Regex Bracketed();

    [GeneratedRegex(@"^\s*([\p{L}\p{N}][\p{L}\p{N} ./_-]{0,30}?)\s*(?::|\s[–—-])\s+(?=\S)")]
    private static partial Regex Began();

    [GeneratedRegex(@"\s+[–—-]\s+([\p{L}\p{N}][\p{L}\p{N} ./_]{0,30})\s*$")]
    private static partial Regex Ended();

    [GeneratedRegex(@"\d+|\D+")]
    private static partial Regex Parts();

    [GeneratedRegex(@"\s{2,}")]
    private static partial Regex Spaces();
}
