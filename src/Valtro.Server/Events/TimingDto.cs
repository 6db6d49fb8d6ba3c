using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Server.Events;

/// <summary>When an event is, in its own zone. For all-day events both ends are days, the last one included.</summary>
internal sealed record TimingDto(TimeKind Kind, LocalDateTime Start, LocalDateTime End, string? Zone)
{
    public static TimingDto Of(EventTiming t) => Of(TypedTiming.Of(t));

    public static TimingDto Of(TypedTiming t) => new(t.Kind, t.Start, t.End, t.Zone);

    public TypedTiming ToTyped() => new(Kind, Start, End, Zone);

    /// <param name="calendarZone">The zone of a new event that names none.</param>
    public EventTiming ToTiming(DateTimeZone calendarZone) => Kind switch
    {
        TimeKind.AllDay => EventTiming.AllDay(Start.Date, End.Date),
        TimeKind.Floating => EventTiming.Floating(Start, End),
        _ => EventTiming.Zoned(Start, End, Zone is null ? calendarZone : Zones.Get(Zone)),
    };
}

internal sealed record NumberedDayDto(int Number, IsoDayOfWeek Day);

/// <summary>
/// A rule, part by part (RFC 5545, 3.3.10); parts that are not there are empty. Its text is told, and not read back.
/// </summary>
internal sealed record RuleDto(
    Frequency Frequency,
    int Interval,
    IReadOnlyList<IsoDayOfWeek> Days,
    int? Count,
    LocalDate? Until,
    IReadOnlyList<NumberedDayDto>? NumberedDays = null,
    IReadOnlyList<int>? MonthDays = null,
    IReadOnlyList<int>? Months = null,
    IReadOnlyList<int>? Positions = null,
    IReadOnlyList<int>? YearDays = null,
    IReadOnlyList<int>? Weeks = null,
    IReadOnlyList<int>? Hours = null,
    IReadOnlyList<int>? Minutes = null,
    IReadOnlyList<int>? Seconds = null,
    IsoDayOfWeek? WeekStart = null,
    string? Text = null)
{
    public static RuleDto? Of(RecurrenceRule? r) =>
        r is null
            ? null
            : new RuleDto(
                r.Frequency,
                r.Interval,
                [.. r.Days.InOrder()],
                r.Count,
                r.Until?.Date,
                [.. r.By.NumberedDays.Select(d => new NumberedDayDto(d.Number, d.Day))],
                r.By.MonthDays,
                r.By.Months,
                r.By.Positions,
                r.By.YearDays,
                r.By.Weeks,
                r.By.Hours,
                r.By.Minutes,
                r.By.Seconds,
                r.WeekStart,
                r.ToString());

    public RecurrenceRule ToRule()
    {
        foreach (var day in Days.Concat((NumberedDays ?? []).Select(d => d.Day)).Append(WeekStart ?? IsoDayOfWeek.Monday))
        {
            if (day is < IsoDayOfWeek.Monday or > IsoDayOfWeek.Sunday)
                throw new InvalidInputException("rule_malformed", "rule.days", "A weekday is one of monday to sunday.");
        }
        var by = new ByParts
        {
            NumberedDays = [.. (NumberedDays ?? []).Select(d => new NumberedDay(d.Number, d.Day))],
            MonthDays = [.. MonthDays ?? []],
            Months = [.. Months ?? []],
            Positions = [.. Positions ?? []],
            YearDays = [.. YearDays ?? []],
            Weeks = [.. Weeks ?? []],
            Hours = [.. Hours ?? []],
            Minutes = [.. Minutes ?? []],
            Seconds = [.. Seconds ?? []],
        };
        RuleEnd? until = Until is { } last ? new RuleEnd(last) : null;
        return new RecurrenceRule(Frequency, Interval, WeekdaySet.Of([.. Days]), Count, until, WeekStart ?? IsoDayOfWeek.Monday, by);
    }
}

/// <summary>How a series follows school days; null where it does not.</summary>
internal sealed record FollowsDto(SchoolDayChoice Days, ClosureChoice Closures, IReadOnlyList<int>? CycleDays = null, IReadOnlyList<int>? Weeks = null)
{
    public static FollowsDto? Of(SchoolDayRule? r) => r is null ? null : new FollowsDto(r.Days, r.Closures, r.CycleDays, r.Weeks);

    public SchoolDayRule? ToRule() => SchoolDayRule.Of(Days, Closures, CycleDays ?? [], Weeks ?? []);
}
