namespace Valtro.Core.Publishing;

/// <summary>Why a publication sends out less than whoever made it wanted.</summary>
public enum TroubleKind
{
    /// <summary>A calendar is in the bin.</summary>
    Binned,

    /// <summary>A calendar gives its readers nothing.</summary>
    Closed,

    /// <summary>A calendar has no events.</summary>
    Emptied,
}

/// <summary>A calendar of a publication that gives nothing.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Calendar">Its title; for who changes the publication.</param>
/// <param name="Kind">Why.</param>
public sealed record PublicationTrouble(Guid CalendarId, string Calendar, TroubleKind Kind)
{
    /// <summary>What was not there before: of what stays, nobody is told twice.</summary>
    /// <param name="now">What is wrong now.</param>
    /// <param name="told">What its owner knows.</param>
    public static IReadOnlyList<PublicationTrouble> News(IEnumerable<PublicationTrouble> now, IEnumerable<string> told) => [.. now.Where(t => !told.Contains(t.Name))];

    /// <summary>What it is remembered by.</summary>
    public string Name => $"{CalendarId:N} {Kind}";
}
