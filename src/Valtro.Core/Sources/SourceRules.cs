using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>A rule as a file has it.</summary>
/// <param name="Rule">The rule; null when it cannot be read.</param>
/// <param name="Until">The instant it ends at, where it was given as one: compared as such.</param>
/// <param name="Problem">What was wrong: a code; null for nothing.</param>
internal sealed record SourceRule(RecurrenceRule? Rule, Instant? Until, string? Problem);

/// <summary>Reads rules as they are found: ends of the wrong kind, two ends, parts nobody knows.</summary>
internal static class SourceRules
{
    private static readonly HashSet<string> Parts =
        ["FREQ", "INTERVAL", "COUNT", "UNTIL", "WKST", "BYDAY", "BYSECOND", "BYMINUTE", "BYHOUR", "BYMONTHDAY", "BYYEARDAY", "BYWEEKNO", "BYMONTH", "BYSETPOS"];

    /// <summary>Reads a rule.</summary>
    /// <param name="text">As it stands there.</param>
    /// <param name="start">When the series first is.</param>
    /// <param name="isAllDay">Whether it has days only.</param>
    /// <param name="zone">Its zone; null for none.</param>
    public static SourceRule Read(string text, LocalDateTime start, bool isAllDay, DateTimeZone? zone)
    {
        string? problem = null;
        SourceMoment? until = null;
        var kept = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var part in text.Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            var (name, value) = part.Split('=', 2) is [var n, var v] ? (n.Trim().ToUpperInvariant(), v.Trim()) : (part.ToUpperInvariant(), "");
            if (value.Length == 0)
                continue;
            if (name == "UNTIL")
            {
                until = SourceValues.Moment(value, null, null);
                problem ??= until is null ? "until_unreadable" : null;
            }
            else if (!Parts.Contains(name))
            {
                problem ??= name is "RSCALE" && value.Equals("GREGORIAN", StringComparison.OrdinalIgnoreCase) ? null : "rule_part_unknown";
            }
            else if (name is not "INTERVAL" || value is not ("0" or "1"))
            {
                kept.TryAdd(name, value.ToUpperInvariant());
            }
        }
        var count = kept.Remove("COUNT", out var number) && int.TryParse(number, out var times) && times > 0 ? times : (int?)null;
        try
        {
            var rule = RecurrenceRule.Parse(string.Join(';', kept.Select(p => $"{p.Key}={p.Value}")), null);
            var (end, instant) = until is { } u ? EndOf(u, isAllDay, zone) : (null, null);
            if (end is not null && count is not null)
            {
                // Whichever comes first ends it.
                problem ??= "count_and_until";
                var timing = isAllDay ? EventTiming.AllDay(start.Date, start.Date) : EventTiming.Floating(start, start);
                var last = new SeriesDates(timing, rule.WithEnd(count, null), []).Last;
                var reaches = new SeriesDates(timing, rule.WithEnd(null, end), []).Last;
                if (last <= reaches)
                    return new SourceRule(rule.WithEnd(count, null), null, problem);
                count = null;
            }
            return new SourceRule(rule.WithEnd(end is null ? count : null, end), instant, problem);
        }
        catch (InvalidInputException)
        {
            return new SourceRule(null, null, "rule_unreadable");
        }
    }

    // An end of the wrong kind is the end of that local day.
    private static (RuleEnd? End, Instant? Instant) EndOf(SourceMoment until, bool isAllDay, DateTimeZone? zone)
    {
        if (isAllDay || until.IsDate)
            return (new RuleEnd(until.Local.Date), null);
        if (!until.IsUtc || zone is null)
            return (new RuleEnd(until.Local.Date, until.Local.TimeOfDay), null);
        var instant = until.Local.InUtc().ToInstant();
        // The whole local day: what of it comes after the instant is left out by itself.
        return (new RuleEnd(instant.InZone(zone).Date), instant);
    }
}
