using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>One date of an event. Small: NodaTime's values are made when they are asked for.</summary>
public readonly record struct Occurrence
{
    private readonly long local;
    private readonly long start;
    private readonly long end;

    internal Occurrence(long local, long start, long end)
    {
        this.local = local;
        this.start = start;
        this.end = end;
    }

    /// <summary>
    /// The start in the event's own local time; what RECURRENCE-ID and EXDATE name (RFC 5545, 3.8.4.4). Midnight for
    /// all-day events.
    /// </summary>
    public LocalDateTime LocalStart => Civil.ToLocal(local);

    /// <summary>The first instant, as seen from the window's zone when the event has none of its own.</summary>
    public Instant Start => Instant.FromUnixTimeSeconds(start);

    /// <summary>The end instant, exclusive.</summary>
    public Instant End => Instant.FromUnixTimeSeconds(end);

    internal long StartSecond => start;
}
