using NodaTime;

namespace Valtro.Core.Proposals;

/// <summary>What a calendar's keepers said to a proposal.</summary>
public enum Answer
{
    /// <summary>Nothing yet.</summary>
    Open,

    /// <summary>Yes.</summary>
    Approved,

    /// <summary>Not like this: with a remark, for the proposer to change.</summary>
    SentBack,

    /// <summary>No.</summary>
    Declined,
}

/// <summary>What the keepers of a calendar are asked.</summary>
public enum AskKind
{
    /// <summary>Whether an event shall stand in their calendar.</summary>
    Standing,

    /// <summary>Whether an event of their calendar shall be changed.</summary>
    Contents,

    /// <summary>Whether an event shall become their calendar's, and leave the one it was of.</summary>
    Moving,
}

/// <summary>What a proposal asks of one calendar, and what its keepers said.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Kind">What is asked.</param>
public sealed record Ask(Guid CalendarId, AskKind Kind)
{
    /// <summary>What was said.</summary>
    public Answer Answer { get; init; }

    /// <summary>What was said with it; may be empty, but not when it was sent back.</summary>
    public string Remark { get; init; } = "";

    /// <summary>Who said it; null while it is open, or when they are gone.</summary>
    public Guid? By { get; init; }

    /// <summary>When; null while it is open.</summary>
    public Instant? At { get; init; }

    /// <summary>
    /// The event's version of an approval: that which it made, or which other answers to the same proposal made since. It is
    /// taken back only over this version. Null without one.
    /// </summary>
    public int? EventVersion { get; init; }

    /// <summary>Whether it can still be answered.</summary>
    public bool IsUndecided => Answer is Answer.Open or Answer.SentBack;
}
