using Valtro.Core.People;

namespace Valtro.Core;

/// <summary>What was asked for does not exist, or not for this person: the two are never told apart.</summary>
/// <param name="code">A stable code.</param>
/// <param name="message">A sentence for a person.</param>
public sealed class NotFoundException(string code, string message) : Exception(message)
{
    /// <summary>A stable code.</summary>
    public string Code { get; } = code;

    /// <summary>No such calendar.</summary>
    public static NotFoundException Calendar() => new("no_such_calendar", "There is no such calendar. It may have been removed for good.");

    /// <summary>No such event.</summary>
    public static NotFoundException Event() => new("no_such_event", "There is no such event. It may have been removed for good.");

    /// <summary>No such proposal.</summary>
    public static NotFoundException Proposal() => new("no_such_proposal", "There is no such proposal. It may have been withdrawn.");

    /// <summary>No such request to open a calendar.</summary>
    public static NotFoundException Request() => new("no_such_request", "There is no such request. What it was about may be gone.");

    /// <summary>No such publication.</summary>
    public static NotFoundException Publication() => new("no_such_publication", "There is no such publication.");

    /// <summary>No such school year.</summary>
    public static NotFoundException SchoolYear() => new("no_such_school_year", "There is no such school year. It may have been removed.");
}

/// <summary>Somebody may not do something they know of.</summary>
/// <param name="message">What, for a person.</param>
public sealed class NotAllowedException(string message) : Exception(message)
{
    /// <summary>It takes a role on the calendar.</summary>
    public static NotAllowedException Role(CalendarRole role) => new(role switch
    {
        CalendarRole.Keeper => "Only keepers of the calendar may do this. Ask one of them.",
        CalendarRole.Editor => "Only editors of the calendar may do this. Ask one of its keepers.",
        _ => "Only who has a part in the calendar may offer events to it. Ask one of its keepers.",
    });

    /// <summary>Its events come from elsewhere.</summary>
    public static NotAllowedException Followed() => new("The events of this calendar come from elsewhere and change there. Copy one to a calendar of your own to change it.");

    /// <summary>It takes an administrator of the school.</summary>
    public static NotAllowedException Administrator() => new("Only the school’s administrators may do this. Ask one of them.");
}

/// <summary>What was to be changed has been changed by somebody else meanwhile.</summary>
/// <param name="current">What there is now, as the one who asks gets it: of an event its view.</param>
public sealed class StaleWriteException(object current) : Exception("It was changed meanwhile.")
{
    /// <summary>What there is now.</summary>
    public object Current { get; } = current;
}
