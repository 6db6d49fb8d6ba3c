using Valtro.Core.Events;

namespace Valtro.Core.Reach;

/// <summary>Why an audience gets the detail it gets.</summary>
public enum ReachReason
{
    /// <summary>It is the team, which gets everything.</summary>
    Team,

    /// <summary>The calendar's reach gives it.</summary>
    CalendarReach,

    /// <summary>The calendar's reach keeps the audience out.</summary>
    CalendarClosed,

    /// <summary>The calendar lies in the bin.</summary>
    CalendarInBin,

    /// <summary>The event is a draft.</summary>
    EventIsDraft,

    /// <summary>The event lies in the bin.</summary>
    EventInBin,

    /// <summary>The event itself allows less than its calendar.</summary>
    EventNarrows,

    /// <summary>The event's category allows less than its calendar.</summary>
    CategoryNarrows,

    /// <summary>In this calendar the event shows less than the calendar would.</summary>
    PlacementNarrows,

    /// <summary>The event does not stand in this calendar.</summary>
    NotInCalendar,

    /// <summary>The event is a series of more dates than anybody is shown, see <see cref="Recurrence.RuleBudget"/>.</summary>
    TooDense,
}

/// <summary>What one audience gets, and why. Every path out of Valtro takes its detail from here.</summary>
/// <param name="Detail">The detail.</param>
/// <param name="Reason">The reason: of several that narrow, the one that narrows most, and of those the event's own first.</param>
public readonly record struct ReachDecision(Detail Detail, ReachReason Reason)
{
    /// <summary>Decides for an audience of a calendar.</summary>
    /// <param name="calendar">The calendar.</param>
    /// <param name="audience">Who looks.</param>
    public static ReachDecision For(Calendar calendar, Audience audience)
    {
        if (audience == Audience.Team)
            return new ReachDecision(Detail.Everything, ReachReason.Team);
        if (calendar.DeletedAt is not null)
            return new ReachDecision(Detail.Nothing, ReachReason.CalendarInBin);
        var detail = calendar.Reach.For(audience);
        return new ReachDecision(detail, detail == Detail.Nothing ? ReachReason.CalendarClosed : ReachReason.CalendarReach);
    }

    /// <summary>Decides for an audience of an event, by one of the calendars it stands in.</summary>
    /// <param name="e">The event.</param>
    /// <param name="calendar">The calendar.</param>
    /// <param name="audience">Who looks: the team is that of this calendar.</param>
    /// <param name="lists">The school's categories, which may narrow.</param>
    public static ReachDecision For(Event e, Calendar calendar, Audience audience, SchoolLists lists)
    {
        if (!e.CalendarIds.Contains(calendar.Id))
            return new ReachDecision(Detail.Nothing, ReachReason.NotInCalendar);
        var decision = For(calendar, audience);
        if (decision.Reason is ReachReason.Team or ReachReason.CalendarInBin or ReachReason.CalendarClosed)
            return decision;
        if (e.DeletedAt is not null)
            return new ReachDecision(Detail.Nothing, ReachReason.EventInBin);
        if (e.Facts.IsDraft)
            return new ReachDecision(Detail.Nothing, ReachReason.EventIsDraft);
        return decision
            .AtMost(e.Facts.Reach?.For(audience), ReachReason.EventNarrows)
            .AtMost(lists.Category(e.Facts.CategoryId)?.Reach?.For(audience), ReachReason.CategoryNarrows)
            .AtMost(e.Facts.MostIn(calendar.Id), ReachReason.PlacementNarrows);
    }

    /// <summary>Decides for somebody of an event by all the calendars it stands in: the one that gives most.</summary>
    /// <param name="e">The event.</param>
    /// <param name="calendars">The calendars it may stand in; others are passed over.</param>
    /// <param name="audienceOf">What the one who looks is to a calendar.</param>
    /// <param name="lists">The school's categories.</param>
    public static ReachDecision Best(Event e, IEnumerable<Calendar> calendars, Func<Calendar, Audience> audienceOf, SchoolLists lists)
    {
        var best = new ReachDecision(Detail.Nothing, ReachReason.NotInCalendar);
        foreach (var calendar in calendars)
        {
            var decision = For(e, calendar, audienceOf(calendar), lists);
            if (decision.Detail > best.Detail || best.Reason == ReachReason.NotInCalendar)
                best = decision;
        }
        return best;
    }

    private ReachDecision AtMost(Detail? most, ReachReason reason) => most < Detail ? new ReachDecision(most.Value, reason) : this;
}
