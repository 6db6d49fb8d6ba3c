using System.Globalization;
using System.Text;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Time;

namespace Valtro.Core.Recurrence;

/// <summary>
/// The last moment a rule may reach, inclusive, in the series' own local time. A bare date reaches through that day,
/// whatever the time of the series (RFC 5545, 3.3.10, UNTIL).
/// </summary>
/// <param name="Date">The last date.</param>
/// <param name="Time">The last time on it, or null for the whole day.</param>
public readonly record struct RuleEnd(LocalDate Date, LocalTime? Time = null);

/// <summary>
/// A recurrence rule (RFC 5545, 3.3.10): daily and weekly so far, in local time. Values only; the dates it makes come
/// from <see cref="SeriesDates"/>.
/// </summary>
public sealed record RecurrenceRule
{
    /// <summary>The largest INTERVAL taken.</summary>
    public const int MaxInterval = 1000;

    /// <summary>The largest COUNT taken.</summary>
    public const int MaxCount = 10_000;

    private static readonly LocalDatePattern DateForm = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");
    private static readonly LocalDateTimePattern DateTimeForm = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmmss");

    /// <summary>Makes a rule.</summary>
    /// <exception cref="InvalidInputException"><c>rule_interval</c>, <c>rule_count</c>, <c>rule_two_ends</c>.</exception>
    public RecurrenceRule(
        Frequency frequency,
        int interval = 1,
        WeekdaySet days = default,
        int? count = null,
        RuleEnd? until = null,
        IsoDayOfWeek weekStart = IsoDayOfWeek.Monday)
    {
        if (interval is < 1 or > MaxInterval)
            throw new InvalidInputException("rule_interval", "rule.interval", $"The interval has to be a whole number from 1 to {MaxInterval}.");
        if (count is < 1 or > MaxCount)
            throw new InvalidInputException("rule_count", "rule.count", $"The number of times has to be a whole number from 1 to {MaxCount}.");
        if (count is not null && until is not null)
            throw new InvalidInputException("rule_two_ends", "rule", "A rule ends after a number of times or on a date, not both (RFC 5545, 3.3.10).");
        Frequency = frequency;
        Interval = interval;
        Days = days;
        Count = count;
        Until = until;
        WeekStart = weekStart;
    }

    /// <summary>FREQ.</summary>
    public Frequency Frequency { get; }

    /// <summary>INTERVAL, at least 1.</summary>
    public int Interval { get; }

    /// <summary>
    /// BYDAY. Weekly: the days of the week, empty for the weekday of the start. Daily: the only days that count, empty
    /// for all.
    /// </summary>
    public WeekdaySet Days { get; }

    /// <summary>COUNT, or null.</summary>
    public int? Count { get; }

    /// <summary>UNTIL in local time, or null.</summary>
    public RuleEnd? Until { get; }

    /// <summary>WKST: where a week begins; matters for weekly rules with an interval above 1.</summary>
    public IsoDayOfWeek WeekStart { get; }

    /// <summary>Whether the rule never ends.</summary>
    public bool IsEndless => Count is null && Until is null;

    /// <summary>Reads the text of an RRULE property.</summary>
    /// <param name="text">The value, without the property's name.</param>
    /// <param name="zone">The series' zone, to turn an UNTIL in UTC into local time; null for floating and all-day.</param>
    /// <exception cref="InvalidInputException">
    /// <c>rule_malformed</c> or <c>rule_part_unsupported</c>, naming the part; or a code of the constructor.
    /// </exception>
    public static RecurrenceRule Parse(string text, DateTimeZone? zone)
    {
        Frequency? frequency = null;
        int interval = 1;
        int? count = null;
        RuleEnd? until = null;
        var days = WeekdaySet.Empty;
        var weekStart = IsoDayOfWeek.Monday;
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
                    frequency = value.ToUpperInvariant() switch
                    {
                        "DAILY" => Recurrence.Frequency.Daily,
                        "WEEKLY" => Recurrence.Frequency.Weekly,
                        _ => throw Unsupported(part),
                    };
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
                        days = days.With(Weekday(part, code));
                    break;
                default:
                    throw Unsupported(part);
            }
        }
        if (frequency is null)
            throw Malformed(text, "a part FREQ");
        return new RecurrenceRule(frequency.Value, interval, days, count, until, weekStart);
    }

    /// <summary>The same rule with another end.</summary>
    public RecurrenceRule WithEnd(int? count, RuleEnd? until) => new(Frequency, Interval, Days, count, until, WeekStart);

    /// <summary>
    /// The rule as RRULE text, shortest form, with UNTIL in local time. That is the form kept in the database: the
    /// instant of a local end depends on zone data, the local end does not.
    /// </summary>
    public override string ToString() => Print(Until switch
    {
        null => null,
        { Time: null } end => DateForm.Format(end.Date),
        { Time: { } time } end => DateTimeForm.Format(end.Date.At(time)),
    });

    /// <summary>
    /// The rule as it goes into an iCalendar file: UNTIL as a date for all-day series, local for floating ones and in
    /// UTC for zoned ones (RFC 5545, 3.3.10).
    /// </summary>
    /// <param name="timing">The timing of the series' start.</param>
    public string ToICalendar(EventTiming timing)
    {
        if (Until is not { } end)
            return Print(null);
        var last = end.Date.At(end.Time ?? timing.Start.TimeOfDay);
        return Print(timing.Kind switch
        {
            TimeKind.AllDay => DateForm.Format(end.Date),
            TimeKind.Floating => DateTimeForm.Format(last),
            _ => DateTimeForm.Format(Zones.ToInstant(last, timing.Zone!).InUtc().LocalDateTime) + "Z",
        });
    }

    private string Print(string? until)
    {
        var text = new StringBuilder("FREQ=").Append(Frequency == Frequency.Daily ? "DAILY" : "WEEKLY");
        if (Interval > 1)
            text.Append(";INTERVAL=").Append(Interval);
        if (!Days.IsEmpty)
            text.Append(";BYDAY=").Append(Days);
        if (Count is { } count)
            text.Append(";COUNT=").Append(count);
        if (until is not null)
            text.Append(";UNTIL=").Append(until);
        // WKST changes nothing unless weeks are skipped and the days are named.
        if (WeekStart != IsoDayOfWeek.Monday && Frequency == Frequency.Weekly && Interval > 1 && !Days.IsEmpty)
            text.Append(";WKST=").Append(WeekdaySet.CodeOf(WeekStart));
        return text.ToString();
    }

    private static int Number(string part, string value) =>
        int.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number
            : throw Malformed(part, "a whole number");

    private static IsoDayOfWeek Weekday(string part, string code) =>
        WeekdaySet.TryParse(code.Trim(), out var day) ? day : throw Malformed(part, "weekdays as MO, TU, WE, TH, FR, SA, SU");

    private static RuleEnd End(string part, string value, DateTimeZone? zone)
    {
        if (DateForm.Parse(value) is { Success: true } date)
            return new RuleEnd(date.Value);
        var utc = value.EndsWith('Z');
        if (DateTimeForm.Parse(utc ? value[..^1] : value) is not { Success: true } dateTime)
            throw Malformed(part, "a date as 20261212 or a time as 20261212T093000Z");
        var local = utc && zone is not null ? dateTime.Value.InUtc().WithZone(zone).LocalDateTime : dateTime.Value;
        return new RuleEnd(local.Date, local.TimeOfDay);
    }

    private static InvalidInputException Malformed(string part, string expected) =>
        new("rule_malformed", "rule", $"The part “{part}” of the rule cannot be read: expected {expected}.");

    private static InvalidInputException Unsupported(string part) =>
        new("rule_part_unsupported", "rule", $"The part “{part}” of the rule is not supported yet: daily and weekly rules are.");
}
