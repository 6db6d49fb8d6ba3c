using Valtro.Core.Events;

namespace Valtro.Core.Sources;

/// <summary>Where an event comes from, and what it was when that was last read.</summary>
public sealed record Origin
{
    /// <summary>The event.</summary>
    public required Guid EventId { get; init; }

    /// <summary>The source that is followed; null for a file that was brought in.</summary>
    public Guid? SourceId { get; init; }

    /// <summary>What it is known by there (<see cref="SourceEvent.Key"/>).</summary>
    public required string Key { get; init; }

    /// <summary>The name of the file or the address it came in.</summary>
    public required string Name { get; init; }

    /// <summary>What it was there, as it would stand here; where it was put is its calendar.</summary>
    public required Event Read { get; init; }

    /// <summary>Whether it is there no more: it went with it, or was kept here for what had been added.</summary>
    public bool IsKept { get; init; }

    /// <summary>The parts that are here other than there, because somebody changed them here; see <see cref="Intake"/>.</summary>
    public IReadOnlyList<string> Own { get; init; } = [];

    /// <summary>Whether two say the same.</summary>
    public bool SaysAs(Origin other) =>
        (EventId, SourceId, Key, Name, IsKept) == (other.EventId, other.SourceId, other.Key, other.Name, other.IsKept)
        && Read.CalendarId == other.Read.CalendarId && (Read with { Id = other.Read.Id }).SaysAs(other.Read) && Own.SequenceEqual(other.Own);

    /// <summary>Whether what an event says was added to or changed here since it was read.</summary>
    public bool HasOwn(Event e) => !(Read with { Id = e.Id, CalendarId = e.CalendarId, RelatedTo = e.RelatedTo, DeletedAt = e.DeletedAt }).SaysAs(e);
}
