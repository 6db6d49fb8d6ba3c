using NodaTime;

namespace Valtro.Core.Time;

/// <summary>
/// When an event, or the first occurrence of a series, is. Kept as local time with its zone; instants are derived.
/// </summary>
public sealed record EventTiming
{
    /// <summary>The longest an event may last, in days.</summary>
    public const int MaxDays = 400;

    private static readonly LocalDate Earliest = new(1900, 1, 1);
    private static readonly LocalDate Latest = new(2200, 1, 1);

    private EventTiming(TimeKind kind, LocalDateTime start, Duration length, DateTimeZone? zone)
    {
        Kind = kind;
        Start = start;
        Length = length;
        Zone = zone;
    }

    /// <summary>How it is tied to time.</summary>
    public TimeKind Kind { get; }

    /// <summary>The local start; midnight for all-day events.</summary>
    public LocalDateTime Start { get; }

    /// <summary>
    /// How long it lasts: elapsed time for timed events (RFC 5545, 3.8.5.3: the same exact duration for every
    /// occurrence), whole days of 24 hours for all-day ones.
    /// </summary>
    public Duration Length { get; }

    /// <summary>The zone; null unless <see cref="TimeKind.Zoned"/>.</summary>
    public DateTimeZone? Zone { get; }

    /// <summary>The number of days an all-day event lasts.</summary>
    public int Days => (int)Length.TotalDays;

    /// <summary>The local end of the first occurrence: exclusive; for all-day events the midnight after the last day.</summary>
    public LocalDateTime End => Kind == TimeKind.Zoned
        ? Zones.ToInstant(Start, Zone!).Plus(Length).InZone(Zone!).LocalDateTime
        : Start.PlusNanoseconds(Length.ToInt64Nanoseconds());

    /// <summary>A timed event in a zone.</summary>
    /// <exception cref="InvalidInputException"><c>end_before_start</c>, <c>too_long</c>, <c>date_out_of_range</c>.</exception>
    public static EventTiming Zoned(LocalDateTime start, LocalDateTime end, DateTimeZone zone)
    {
        CheckRange(start.Date, end.Date);
        if (end < start)
            throw EndBeforeStart();
        var length = Zones.ToInstant(end, zone) - Zones.ToInstant(start, zone);
        // Two local times on either side of a repeated hour can turn round; the event then has no length.
        return Make(TimeKind.Zoned, start, Duration.Max(length, Duration.Zero), zone);
    }

    /// <summary>A timed event that is the same on every clock.</summary>
    /// <exception cref="InvalidInputException"><c>end_before_start</c>, <c>too_long</c>, <c>date_out_of_range</c>.</exception>
    public static EventTiming Floating(LocalDateTime start, LocalDateTime end)
    {
        CheckRange(start.Date, end.Date);
        if (end < start)
            throw EndBeforeStart();
        return Make(TimeKind.Floating, start, Period.Between(start, end, PeriodUnits.Nanoseconds).ToDuration(), null);
    }

    /// <summary>An event of whole days.</summary>
    /// <param name="first">The first day.</param>
    /// <param name="last">The last day, inclusive, as people say it.</param>
    /// <exception cref="InvalidInputException"><c>end_before_start</c>, <c>too_long</c>, <c>date_out_of_range</c>.</exception>
    public static EventTiming AllDay(LocalDate first, LocalDate last)
    {
        CheckRange(first, last);
        if (last < first)
            throw EndBeforeStart();
        return Make(TimeKind.AllDay, first.AtMidnight(), Duration.FromDays(Period.DaysBetween(first, last) + 1), null);
    }

    /// <summary>A timing from stored values, which were checked when they were first given.</summary>
    public static EventTiming Restore(TimeKind kind, LocalDateTime start, Duration length, DateTimeZone? zone) =>
        new(kind, start, length, zone);

    /// <summary>The same length and kind, starting at another local time.</summary>
    public EventTiming At(LocalDateTime start) => new(Kind, start, Length, Zone);

    private static EventTiming Make(TimeKind kind, LocalDateTime start, Duration length, DateTimeZone? zone) =>
        length > Duration.FromDays(MaxDays)
            ? throw new InvalidInputException("too_long", "end", $"An event lasts {MaxDays} days at most. Make a series or several events.")
            : new EventTiming(kind, start, length, zone);

    private static void CheckRange(LocalDate start, LocalDate end)
    {
        if (start < Earliest || start >= Latest)
            throw new InvalidInputException("date_out_of_range", "start", "The date has to lie between the years 1900 and 2199.");
        if (end < Earliest || end >= Latest)
            throw new InvalidInputException("date_out_of_range", "end", "The date has to lie between the years 1900 and 2199.");
    }

    private static InvalidInputException EndBeforeStart() =>
        new("end_before_start", "end", "The end is before the start. Set it to the same time or later.");
}
