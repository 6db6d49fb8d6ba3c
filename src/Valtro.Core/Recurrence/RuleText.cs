using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>Reads and prints the text of a rule (RFC 5545, 3.3.10).</summary>
internal static class RuleText
{
    // More than any sensible rule has; a list of all days of the year is the longest.
    private const int MaxLength = 4_000;

    private static readonly string[] Names = ["SECONDLY", "MINUTELY", "HOURLY", "DAILY", "WEEKLY", "MONTHLY", "YEARLY"];

    public static RecurrenceRule Parse(string text, DateTimeZone? zone)
    {
        if (text.Length > MaxLength)
            throw Malformed(text[..40] + "…", $"{MaxLength} characters at most");
        Frequency? frequency = null;
        int interval = 1;
        int? count = null;
        RuleEnd? until = null;
        var days = WeekdaySet.Empty;
        var numbered = ImmutableArray.CreateBuilder<NumberedDay>();
        var weekStart = IsoDayOfWeek.Monday;
        var by = ByParts.None;
        var seen = new HashSet<string>(StringComparer.Ordinal);

        foreach (var part in text.Split(';'))
        {
            var at = part.IndexOf('=');
            if (at <= 0 || at == part.Length - 1)
                throw Malformed(part, "NAME=VALUE");
            var name = part[..at].Trim().ToUpperInvariant();
            var value = part[(at + 1)..].Trim();
            if (!seen.Add(name))
                throw Malformed(part, $"{name} only once");
            switch (name)
            {
                case "FREQ":
                    var index = Array.IndexOf(Names, value.ToUpperInvariant());
                    frequency = index < 0 ? throw Malformed(part, "one of " + string.Join(", ", Names)) : (Frequency)index;
                    break;
                case "INTERVAL":
                    interval = Number(part, value);
                    break;
                case "COUNT":
                    count = Number(part, value);
                    break;
                case "UNTIL":
                    until = End(part, value, zone);
                    break;
                case "WKST":
                    weekStart = Weekday(part, value);
                    break;
                case "BYDAY":
                    foreach (var code in value.Split(','))
                        AddDay(part, code.Trim(), ref days, numbered);
                    break;
                case "BYSECOND":
                    by = by with { Seconds = Numbers(part, value) };
                    break;
                case "BYMINUTE":
                    by = by with { Minutes = Numbers(part, value) };
                    break;
                case "BYHOUR":
                    by = by with { Hours = Numbers(part, value) };
                    break;
                case "BYMONTHDAY":
                    by = by with { MonthDays = Numbers(part, value) };
                    break;
                case "BYYEARDAY":
                    by = by with { YearDays = Numbers(part, value) };
                    break;
                case "BYWEEKNO":
                    by = by with { Weeks = Numbers(part, value) };
                    break;
                case "BYMONTH":
                    by = by with { Months = Numbers(part, value) };
                    break;
                case "BYSETPOS":
                    by = by with { Positions = Numbers(part, value) };
                    break;
                default:
                    throw Malformed(part, "a part of a recurrence rule (FREQ, INTERVAL, COUNT, UNTIL, WKST or BY…)");
            }
        }
        if (frequency is null)
            throw Malformed(text, "a part FREQ");
        by = by with { NumberedDays = numbered.ToImmutable() };
        return new RecurrenceRule(frequency.Value, interval, days, count, until, weekStart, by);
    }

    public static string Print(RecurrenceRule rule, string? until)
    {
        var text = new StringBuilder("FREQ=").Append(Names[(int)rule.Frequency]);
        var by = rule.By;
        if (rule.Interval > 1)
            text.Append(";INTERVAL=").Append(rule.Interval);
        // A part that lets everything through limits nothing.
        List(text, "BYMONTH", by.Months, rule.Frequency < Frequency.Yearly && by.Months.Length == 12);
        List(text, "BYWEEKNO", by.Weeks, false);
        List(text, "BYYEARDAY", by.YearDays, false);
        List(text, "BYMONTHDAY", by.MonthDays, false);
        if (!by.NumberedDays.IsEmpty || !(rule.Days.IsEmpty || (rule.Days.Count == 7 && rule.Frequency <= Frequency.Daily)))
        {
            text.Append(";BYDAY=").Append(rule.Days);
            if (!rule.Days.IsEmpty && !by.NumberedDays.IsEmpty)
                text.Append(',');
            text.AppendJoin(',', by.NumberedDays);
        }
        List(text, "BYHOUR", by.Hours, rule.Frequency <= Frequency.Hourly && by.Hours.Length == 24);
        List(text, "BYMINUTE", by.Minutes, rule.Frequency <= Frequency.Minutely && by.Minutes.Length == 60);
        List(text, "BYSECOND", by.Seconds, rule.Frequency == Frequency.Secondly && by.Seconds.Count(s => s < 60) == 60);
        List(text, "BYSETPOS", by.Positions, false);
        if (rule.Count is { } count)
            text.Append(";COUNT=").Append(count);
        if (until is not null)
            text.Append(";UNTIL=").Append(until);
        if (rule.WeekStart != IsoDayOfWeek.Monday && WeekStartMatters(rule))
            text.Append(";WKST=").Append(WeekdaySet.CodeOf(rule.WeekStart));
        return text.ToString();
    }

    /// <summary>WKST changes nothing unless weeks are skipped or numbered, or a place in the week is asked for.</summary>
    private static bool WeekStartMatters(RecurrenceRule rule) =>
        !rule.By.Weeks.IsEmpty
        || (rule.Frequency == Frequency.Weekly && !rule.Days.IsEmpty && (rule.Interval > 1 || !rule.By.Positions.IsEmpty));

    private static void List(StringBuilder text, string name, ImmutableArray<int> values, bool isAll)
    {
        if (!values.IsEmpty && !isAll)
            text.Append(';').Append(name).Append('=').AppendJoin(',', values);
    }

    private static void AddDay(string part, string code, ref WeekdaySet days, ImmutableArray<NumberedDay>.Builder numbered)
    {
        var day = code.Length >= 2 ? Weekday(part, code[^2..]) : throw Malformed(part, "weekdays as MO, 2TU, -1FR");
        if (code.Length == 2)
            days = days.With(day);
        else
            numbered.Add(new NumberedDay(Signed(part, code[..^2], "weekdays as MO, 2TU, -1FR"), day));
    }

    private static ImmutableArray<int> Numbers(string part, string value) =>
        [.. value.Split(',').Select(v => Signed(part, v.Trim(), "whole numbers, separated by commas"))];

    private static int Signed(string part, string value, string expected) =>
        int.TryParse(value, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number) ? number : throw Malformed(part, expected);

    private static int Number(string part, string value) =>
        int.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : throw Malformed(part, "a whole number");

    private static IsoDayOfWeek Weekday(string part, string code) =>
        WeekdaySet.TryParse(code.Trim(), out var day) ? day : throw Malformed(part, "weekdays as MO, TU, WE, TH, FR, SA, SU");

    private static RuleEnd End(string part, string value, DateTimeZone? zone)
    {
        if (RecurrenceRule.DateForm.Parse(value) is { Success: true } date)
            return new RuleEnd(date.Value);
        var utc = value.EndsWith('Z');
        if (RecurrenceRule.DateTimeForm.Parse(utc ? value[..^1] : value) is not { Success: true } dateTime)
            throw Malformed(part, "a date as 20261212 or a time as 20261212T093000Z");
        var local = utc && zone is not null ? LastLocal(dateTime.Value.InUtc().ToInstant(), zone) : dateTime.Value;
        return new RuleEnd(local.Date, local.TimeOfDay);
    }

    /// <summary>The latest local time that is not after an instant: in a repeated hour, its end.</summary>
    private static LocalDateTime LastLocal(Instant instant, DateTimeZone zone)
    {
        var interval = zone.GetZoneInterval(instant);
        var local = instant.InZone(zone).LocalDateTime;
        if (!interval.HasStart)
            return local;
        // Local times before this one happened twice, and the first time is meant (RFC 5545, 3.3.5).
        var repeatedUntil = interval.Start.WithOffset(zone.GetUtcOffset(interval.Start - Duration.Epsilon)).LocalDateTime;
        return local < repeatedUntil ? repeatedUntil.PlusSeconds(-1) : local;
    }

    private static InvalidInputException Malformed(string part, string expected) =>
        new("rule_malformed", "rule", $"The part “{part}” of the rule cannot be read: expected {expected}.");
}
