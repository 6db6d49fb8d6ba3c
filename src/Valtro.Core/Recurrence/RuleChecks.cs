using System.Collections.Immutable;

namespace Valtro.Core.Recurrence;

/// <summary>What RFC 5545, 3.3.10 does not allow in a rule, each with its reason.</summary>
internal static class RuleChecks
{
    public static void Check(RecurrenceRule rule)
    {
        var by = rule.By;
        Range(by.Seconds, "BYSECOND", 0, 60, signed: false);
        Range(by.Minutes, "BYMINUTE", 0, 59, signed: false);
        Range(by.Hours, "BYHOUR", 0, 23, signed: false);
        Range(by.MonthDays, "BYMONTHDAY", 1, 31, signed: true);
        Range(by.YearDays, "BYYEARDAY", 1, 366, signed: true);
        Range(by.Weeks, "BYWEEKNO", 1, 53, signed: true);
        Range(by.Months, "BYMONTH", 1, 12, signed: false);
        Range(by.Positions, "BYSETPOS", 1, 366, signed: true);
        foreach (var day in by.NumberedDays)
        {
            if (Math.Abs(day.Number) is < 1 or > 53)
                throw OutOfRange("BYDAY", day.ToString(), "numbers from 1 to 53 or −53 to −1");
        }

        if (!by.Weeks.IsEmpty && rule.Frequency != Frequency.Yearly)
            throw Contradiction("BYWEEKNO", "can stand only with FREQ=YEARLY");
        if (!by.YearDays.IsEmpty && rule.Frequency is (Frequency.Daily or Frequency.Weekly or Frequency.Monthly))
            throw Contradiction("BYYEARDAY", "cannot stand with FREQ=DAILY, WEEKLY or MONTHLY");
        if (!by.MonthDays.IsEmpty && rule.Frequency == Frequency.Weekly)
            throw Contradiction("BYMONTHDAY", "cannot stand with FREQ=WEEKLY");
        if (!by.NumberedDays.IsEmpty && rule.Frequency is not (Frequency.Monthly or Frequency.Yearly))
            throw Contradiction("BYDAY with numbers", "can stand only with FREQ=MONTHLY or YEARLY");
        if (!by.NumberedDays.IsEmpty && !by.Weeks.IsEmpty)
            throw Contradiction("BYDAY with numbers", "cannot stand together with BYWEEKNO");
        if (!by.Positions.IsEmpty && rule.Days.IsEmpty && by with { Positions = [] } is { IsEmpty: true })
            throw Contradiction("BYSETPOS", "can stand only together with another BY part");
    }

    private static void Range(ImmutableArray<int> values, string part, int least, int most, bool signed)
    {
        foreach (var value in values)
        {
            var size = signed ? Math.Abs(value) : value;
            if (size < least || size > most)
            {
                throw OutOfRange(
                    part,
                    value.ToString(),
                    signed ? $"numbers from {least} to {most} or −{most} to −{least}" : $"numbers from {least} to {most}");
            }
        }
    }

    private static InvalidInputException OutOfRange(string part, string value, string expected) =>
        new("rule_out_of_range", "rule", $"{part} cannot be {value}: it takes {expected} (RFC 5545, 3.3.10).");

    private static InvalidInputException Contradiction(string part, string when) =>
        new("rule_contradiction", "rule", $"{part} {when} (RFC 5545, 3.3.10).");
}
