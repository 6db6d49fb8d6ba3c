using NodaTime;
using Valtro.Core.Recurrence;

namespace Valtro.Core.Time;

/// <summary>An occurrence as it lies on the clock and the days of whoever looks.</summary>
/// <param name="Start">The local start; midnight of the first day for all-day events.</param>
/// <param name="End">The local end, exclusive.</param>
/// <param name="FirstDay">The first day it touches.</param>
/// <param name="LastDay">The last day it touches; an end at midnight does not touch the day it opens.</param>
public readonly record struct SeenSpan(LocalDateTime Start, LocalDateTime End, LocalDate FirstDay, LocalDate LastDay)
{
    /// <summary>An occurrence as seen in a zone. All-day and floating ones are the same in every zone.</summary>
    public static SeenSpan Of(EventTiming timing, Occurrence occurrence, DateTimeZone viewZone)
    {
        var (start, end) = timing.Kind == TimeKind.Zoned
            ? (occurrence.Start.InZone(viewZone).LocalDateTime, occurrence.End.InZone(viewZone).LocalDateTime)
            : (occurrence.LocalStart, occurrence.LocalStart.PlusNanoseconds(timing.Length.ToInt64Nanoseconds()));
        var last = end.TimeOfDay == LocalTime.Midnight && end > start ? end.Date.PlusDays(-1) : end.Date;
        return new SeenSpan(start, end, start.Date, LocalDate.Max(start.Date, last));
    }
}
