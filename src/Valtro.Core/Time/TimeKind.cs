namespace Valtro.Core.Time;

/// <summary>How an event is tied to time.</summary>
public enum TimeKind
{
    /// <summary>A local date-time in an IANA time zone (RFC 5545, 3.3.5, form 3).</summary>
    Zoned,

    /// <summary>A local date-time that is the same on the clock everywhere (RFC 5545, 3.3.5, form 1).</summary>
    Floating,

    /// <summary>Whole days (RFC 5545, 3.3.4). Never shifts with a zone.</summary>
    AllDay,
}
