using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>What differs on one date of a series; what is null there is as on every date.</summary>
public sealed record EventChange
{
    /// <summary>The date it belongs to: the local start the series gives (RFC 5545, 3.8.4.4, RECURRENCE-ID).</summary>
    public required LocalDateTime Date { get; init; }

    /// <summary>Another title.</summary>
    public string? Title { get; init; }

    /// <summary>Another place.</summary>
    public string? Place { get; init; }

    /// <summary>Another description, as clean <see cref="RichText"/>.</summary>
    public string? Description { get; init; }

    /// <summary>What it has beside otherwise than the series.</summary>
    public DateFacts Facts { get; init; } = DateFacts.None;

    /// <summary>Another time, of the series' own kind and zone.</summary>
    public EventTiming? Timing { get; init; }

    /// <summary>Whether this date is called off: it stays visible, struck through.</summary>
    public bool IsCalledOff { get; init; }

    /// <summary>When its time was last set, or it was called off or on; null when neither was.</summary>
    public Instant? At { get; init; }

    /// <summary>Whether it says nothing.</summary>
    public bool IsEmpty => Title is null && Place is null && Description is null && Timing is null && !IsCalledOff && Facts.IsNone;
}
