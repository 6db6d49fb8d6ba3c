using NodaTime;

namespace Valtro.Core.Events;

/// <summary>Which dates of a series an edit is for.</summary>
public enum EditScope
{
    /// <summary>This date only.</summary>
    ThisDate,

    /// <summary>This date and all after it.</summary>
    FromThisDate,

    /// <summary>Every date.</summary>
    EveryDate,
}

/// <summary>What becomes of a change whose date the edited series no longer has.</summary>
public enum MisfitChoice
{
    /// <summary>It becomes an event of its own.</summary>
    KeepAsEvent,

    /// <summary>It goes to the nearest date there is.</summary>
    ToNearestDate,

    /// <summary>It is given up.</summary>
    Drop,
}

/// <summary>What an edit means for one change.</summary>
/// <param name="Change">The change as it was.</param>
/// <param name="To">The date it belongs to afterwards; null when it fits none.</param>
/// <param name="Nearest">For one that fits none, the nearest date it could go to.</param>
public sealed record PlannedChange(EventChange Change, LocalDateTime? To, LocalDateTime? Nearest)
{
    /// <summary>Whether it stays on its date.</summary>
    public bool IsKept => To == Change.Date;

    /// <summary>Whether it fits no date.</summary>
    public bool IsMisfit => To is null;
}

/// <summary>A date that an edit moves.</summary>
/// <param name="From">Where it was.</param>
/// <param name="To">Where it is then.</param>
public readonly record struct MovedDate(LocalDateTime From, LocalDateTime To);

/// <summary>What an edit of a series would do, computed without saving anything.</summary>
public sealed record SeriesPlan
{
    /// <summary>How far ahead dates are compared, in days, and how many of them at most.</summary>
    public const int DaysAhead = 800;

    /// <summary>The most dates compared.</summary>
    public const int MaxDates = 500;

    /// <summary>The series as it was.</summary>
    public required Event Before { get; init; }

    /// <summary>The series afterwards; the very same value when nothing changes.</summary>
    public required Event After { get; init; }

    /// <summary>The second part of a series that was split; else null.</summary>
    public Event? Second { get; init; }

    /// <summary>One-time events that misfits become.</summary>
    public IReadOnlyList<Event> Kept { get; init; } = [];

    /// <summary>Dates that come.</summary>
    public IReadOnlyList<LocalDateTime> Come { get; init; } = [];

    /// <summary>Dates that go.</summary>
    public IReadOnlyList<LocalDateTime> Gone { get; init; } = [];

    /// <summary>Dates that move.</summary>
    public IReadOnlyList<MovedDate> Moved { get; init; } = [];

    /// <summary>What becomes of each change.</summary>
    public IReadOnlyList<PlannedChange> Changes { get; init; } = [];

    /// <summary>Skips whose dates there are no longer.</summary>
    public IReadOnlyList<LocalDateTime> LostSkips { get; init; } = [];

    /// <summary>Dates that move to a day on which the series leaves one out.</summary>
    public IEnumerable<MovedDate> OntoLeftOut
    {
        get
        {
            var days = (Second ?? After).Skips.Select(d => d.Date).ToHashSet();
            return Moved.Where(m => days.Contains(m.To.Date));
        }
    }

    /// <summary>Changes that fit no date and about which nothing has been decided.</summary>
    public IReadOnlyList<EventChange> Undecided { get; init; } = [];

    /// <summary>Whether it changes nothing.</summary>
    public bool IsEmpty => ReferenceEquals(Before, After) && Second is null;

    /// <summary>All events that are new with it.</summary>
    public IEnumerable<Event> Added => Second is null ? Kept : Kept.Prepend(Second);
}
