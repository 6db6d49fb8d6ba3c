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
/// A recurrence rule (RFC 5545, 3.3.10), whole, in local time. Values only; the dates it makes come from
/// <see cref="RecurrenceSet"/> and <see cref="SeriesDates"/>.
/// </summary>
public sealed record RecurrenceRule
{
    /// <summary>The largest INTERVAL taken.</summary>
    public const int MaxInterval = 1_000_000;

    /// <summary>The largest COUNT taken.</summary>
    public const int MaxCount = 1_000_000;

    internal static readonly LocalDatePattern DateForm = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");
    internal static readonly LocalDateTimePattern DateTimeForm = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmmss");

    /// <summary>Makes a rule.</summary>
    /// <param name="frequency">FREQ.</param>
    /// <param name="interval">INTERVAL.</param>
    /// <param name="days">BYDAY without numbers.</param>
    /// <param name="count">COUNT.</param>
    /// <param name="until">UNTIL in local time.</param>
    /// <param name="weekStart">WKST.</param>
    /// <param name="by">The other BY parts.</param>
    /// <exception cref="InvalidInputException">
    /// <c>rule_interval</c>, <c>rule_count</c>, <c>rule_two_ends</c>; <c>rule_out_of_range</c> for a value its part cannot
    /// have; <c>rule_contradiction</c> for parts that the standard does not allow together.
    /// </exception>
    public RecurrenceRule(
        Frequency frequency,
        int interval = 1,
        WeekdaySet days = default,
        int? count = null,
        RuleEnd? until = null,
        IsoDayOfWeek weekStart = IsoDayOfWeek.Monday,
        ByParts? by = null)
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
        By = by ?? ByParts.None;
        RuleChecks.Check(this);
    }

    /// <summary>FREQ.</summary>
    public Frequency Frequency { get; }

    /// <summary>INTERVAL, at least 1.</summary>
    public int Interval { get; }

    /// <summary>BYDAY without numbers; empty when there is none.</summary>
    public WeekdaySet Days { get; }

    /// <summary>The other BY parts.</summary>
    public ByParts By { get; }

    /// <summary>COUNT, or null.</summary>
    public int? Count { get; }

    /// <summary>UNTIL in local time, or null.</summary>
    public RuleEnd? Until { get; }

    /// <summary>WKST: where a week begins; matters for weekly rules with an interval above 1 and for BYWEEKNO.</summary>
    public IsoDayOfWeek WeekStart { get; }

    /// <summary>Whether the rule never ends.</summary>
    public bool IsEndless => Count is null && Until is null;

    /// <summary>Reads the text of an RRULE property.</summary>
    /// <param name="text">The value, without the property's name.</param>
    /// <param name="zone">The series' zone, to turn an UNTIL in UTC into local time; null for floating and all-day.</param>
    /// <exception cref="InvalidInputException">
    /// <c>rule_malformed</c>, naming the part and what was expected; or a code of the constructor.
    /// </exception>
    public static RecurrenceRule Parse(string text, DateTimeZone? zone) => RuleText.Parse(text, zone);

    /// <summary>The same rule with another end.</summary>
    public RecurrenceRule WithEnd(int? count, RuleEnd? until) => new(Frequency, Interval, Days, count, until, WeekStart, By);

    /// <summary>
    /// The rule as RRULE text, shortest form, with UNTIL in local time. That is the form kept in the database: the
    /// instant of a local end depends on zone data, the local end does not.
    /// </summary>
    public override string ToString() => RuleText.Print(this, Until switch
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
            return RuleText.Print(this, null);
        // A whole day reaches to its end: the rule may give several times a day.
        var last = end.Date.At(end.Time ?? (GivesOneTimeADay ? timing.Start.TimeOfDay : new LocalTime(23, 59, 59)));
        return RuleText.Print(this, timing.Kind switch
        {
            TimeKind.AllDay => DateForm.Format(end.Date),
            TimeKind.Floating => DateTimeForm.Format(last),
            _ => DateTimeForm.Format(Zones.ToInstant(last, timing.Zone!).InUtc().LocalDateTime) + "Z",
        });
    }

    /// <summary>Whether each of its dates has one time, that of the start.</summary>
    public bool GivesOneTimeADay =>
        Frequency >= Frequency.Daily && By.Hours.IsEmpty && By.Minutes.IsEmpty && By.Seconds.IsEmpty;

    /// <summary>Rules are the same when their shortest texts are.</summary>
    public bool Equals(RecurrenceRule? other) => other is not null && ToString() == other.ToString();

    /// <inheritdoc/>
    public override int GetHashCode() => ToString().GetHashCode(StringComparison.Ordinal);
}
