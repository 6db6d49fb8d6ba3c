using NodaTime;

namespace Valtro.Core.Time;

/// <summary>
/// A run of whole days as somebody looks at them in one time zone: from the start of <see cref="From"/> up to, not
/// including, the start of <see cref="To"/>.
/// </summary>
public sealed record TimeWindow
{
    /// <summary>The longest window that can be asked for, in days.</summary>
    public const int MaxDays = 800;

    /// <summary>Makes a window.</summary>
    /// <exception cref="InvalidInputException"><c>window_empty</c> or <c>window_too_long</c>.</exception>
    public TimeWindow(LocalDate from, LocalDate to, DateTimeZone zone)
    {
        if (to <= from)
            throw new InvalidInputException("window_empty", "to", "The window has to end after it begins.");
        if (Period.DaysBetween(from, to) > MaxDays)
            throw new InvalidInputException("window_too_long", "to", $"A window covers {MaxDays} days at most.");
        From = from;
        To = to;
        Zone = zone;
        Start = Zones.ToInstant(from.AtMidnight(), zone);
        End = Zones.ToInstant(to.AtMidnight(), zone);
    }

    /// <summary>The first day.</summary>
    public LocalDate From { get; }

    /// <summary>The day after the last one.</summary>
    public LocalDate To { get; }

    /// <summary>The zone of the person who looks.</summary>
    public DateTimeZone Zone { get; }

    /// <summary>The first instant, inclusive.</summary>
    public Instant Start { get; }

    /// <summary>The instant after the last, exclusive.</summary>
    public Instant End { get; }
}
