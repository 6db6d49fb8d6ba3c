namespace Valtro.Core.Reach;

/// <summary>Why an audience gets the detail it gets.</summary>
public enum ReachReason
{
    /// <summary>The calendar's reach gives it.</summary>
    CalendarReach,

    /// <summary>The calendar's reach keeps the audience out.</summary>
    CalendarClosed,

    /// <summary>The calendar lies in the bin.</summary>
    CalendarInBin,

    /// <summary>The event is a draft.</summary>
    EventIsDraft,
}

/// <summary>What one audience gets of one calendar, and why. Every path out of Valtro takes its detail from here.</summary>
/// <param name="Detail">The detail.</param>
/// <param name="Reason">The reason.</param>
public readonly record struct ReachDecision(Detail Detail, ReachReason Reason)
{
    /// <summary>Decides for an audience of a calendar.</summary>
    /// <param name="reach">The calendar's reach.</param>
    /// <param name="inBin">Whether the calendar lies in the bin.</param>
    /// <param name="audience">Who looks.</param>
    public static ReachDecision For(CalendarReach reach, bool inBin, Audience audience)
    {
        if (inBin && audience != Audience.Team)
            return new ReachDecision(Detail.Nothing, ReachReason.CalendarInBin);
        var detail = reach.For(audience);
        return new ReachDecision(detail, detail == Detail.Nothing ? ReachReason.CalendarClosed : ReachReason.CalendarReach);
    }
}
