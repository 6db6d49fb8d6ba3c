using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Server.Events;

/// <summary>When an event is, in its own zone. For all-day events both ends are days, the last one included.</summary>
internal sealed record TimingDto(TimeKind Kind, LocalDateTime Start, LocalDateTime End, string? Zone)
{
    public static TimingDto Of(EventTiming t) => new(
        t.Kind, t.Start, t.Kind == TimeKind.AllDay ? t.End.PlusDays(-1) : t.End, t.Zone?.Id);

    /// <param name="calendarZone">The zone of a new event that names none.</param>
    public EventTiming ToTiming(DateTimeZone calendarZone) => Kind switch
    {
        TimeKind.AllDay => EventTiming.AllDay(Start.Date, End.Date),
        TimeKind.Floating => EventTiming.Floating(Start, End),
        _ => EventTiming.Zoned(Start, End, Zone is null ? calendarZone : Zones.Get(Zone)),
    };
}

internal sealed record RuleDto(Frequency Frequency, int Interval, IReadOnlyList<IsoDayOfWeek> Days, int? Count, LocalDate? Until)
{
    public static RuleDto? Of(RecurrenceRule? r) =>
        r is null ? null : new RuleDto(r.Frequency, r.Interval, [.. r.Days.InOrder()], r.Count, r.Until?.Date);

    public RecurrenceRule ToRule()
    {
        foreach (var day in Days)
        {
            if (day is < IsoDayOfWeek.Monday or > IsoDayOfWeek.Sunday)
                throw new InvalidInputException("rule_malformed", "rule.days", "A weekday is one of monday to sunday.");
        }
        return new RecurrenceRule(Frequency, Interval, WeekdaySet.Of([.. Days]), Count, Until is { } until ? new RuleEnd(until) : null);
    }
}

internal sealed record EventDto(
    Guid Id,
    Guid CalendarId,
    string Title,
    string Place,
    string Description,
    TimingDto Timing,
    RuleDto? Rule,
    IReadOnlyList<LocalDateTime> Skips,
    int Version,
    Instant CreatedAt,
    Instant ChangedAt,
    bool InBin)
{
    public static EventDto Of(Event e) => new(
        e.Id, e.CalendarId, e.Title, e.Place, e.Description, TimingDto.Of(e.Timing), RuleDto.Of(e.Rule), e.Skips, e.Version, e.CreatedAt, e.ChangedAt, e.DeletedAt is not null);
}
