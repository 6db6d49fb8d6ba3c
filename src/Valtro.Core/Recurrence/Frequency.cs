namespace Valtro.Core.Recurrence;

/// <summary>The unit a rule counts in (RFC 5545, 3.3.10, FREQ), from the shortest up.</summary>
public enum Frequency
{
    /// <summary>Every n seconds.</summary>
    Secondly,

    /// <summary>Every n minutes.</summary>
    Minutely,

    /// <summary>Every n hours.</summary>
    Hourly,

    /// <summary>Every n days.</summary>
    Daily,

    /// <summary>Every n weeks.</summary>
    Weekly,

    /// <summary>Every n months.</summary>
    Monthly,

    /// <summary>Every n years.</summary>
    Yearly,
}
