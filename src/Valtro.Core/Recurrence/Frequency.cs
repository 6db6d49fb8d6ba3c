namespace Valtro.Core.Recurrence;

/// <summary>The unit a rule counts in (RFC 5545, 3.3.10, FREQ).</summary>
public enum Frequency
{
    /// <summary>Every n days.</summary>
    Daily,

    /// <summary>Every n weeks.</summary>
    Weekly,
}
