namespace Valtro.Server.Outlets;

/// <summary>The outlets of a publication. Their numbers lie in the reading log.</summary>
internal enum OutletKind : short
{
    Page = 0,
    Embed = 1,
    Feed = 2,

    /// <summary>What pages ask for by themselves when a visitor goes to other days.</summary>
    Days = 3,
    Event = 4,
    EventFile = 5,
    Snapshot = 6,
    Busy = 7,
    Atom = 8,
    JCal = 9,
    Json = 10,
    Csv = 11,
    Code = 12,
    File = 13,
    Wall = 14,
    Term = 15,
}
