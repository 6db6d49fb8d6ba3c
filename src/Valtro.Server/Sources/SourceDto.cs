using NodaTime;
using Valtro.Core.Sources;
using Valtro.Store;

namespace Valtro.Server.Sources;

/// <summary>A rule of sorting.</summary>
internal sealed record SortingRuleDto(SortBy By, string? Value, Guid CalendarId, bool DropsCode = false, string? Property = null)
{
    public static SortingRuleDto Of(SortingRule r) => new(r.By, r.Value, r.CalendarId, r.DropsCode, r.Property);

    public SortingRule ToRule() => new(By, Value ?? "", CalendarId, DropsCode, Property ?? "");
}

/// <summary>Events that seem to belong together.</summary>
internal sealed record SortingGroupDto(SortBy By, string Value, string Property, int Count, Guid? CalendarId)
{
    public static SortingGroupDto Of(SortingGroup g) => new(g.By, g.Value, g.Property, g.Count, g.CalendarId);
}

/// <summary>What a reading changed.</summary>
internal sealed record SourceReadingDto(Instant At, string? Problem, int Added, int Changed, int Gone, int Kept, IReadOnlyList<ReadingEvent> Told)
{
    public static SourceReadingDto Of(SourceReading r) => new(r.At, r.Problem, r.Added, r.Changed, r.Gone, r.Kept, r.Told);
}

/// <summary>An address that is followed. The address itself can be a secret: its lane's keepers alone are told it, and how it is sorted.</summary>
internal sealed record SourceDto(
    Guid Id, Guid CalendarId, bool MayKeep, string? Address, string Host, string? MovedTo, int? EveryMinutes, int? WishMinutes, int PastDays, int AheadDays, IReadOnlyList<SortingRuleDto>? Sorting, int Version,
    Instant? ReadAt, Instant? BodyAt, Instant? NextAt, Instant? FailingSince, string? Problem, SourceReadingDto? LastChange)
{
    public static SourceDto Of(Source s, bool mayKeep, SourceReading? last) => new(
        s.Id, s.CalendarId, mayKeep, mayKeep ? s.Address : null, new Uri(s.Address).Host, mayKeep ? s.MovedTo : null, s.EveryMinutes, s.WishMinutes, s.PastDays, s.AheadDays,
        mayKeep ? [.. s.Sorting.Select(SortingRuleDto.Of)] : null, s.Version, s.ReadAt, s.BodyAt, s.NextAt, s.FailingSince, s.Problem, last is null ? null : SourceReadingDto.Of(last));
}

/// <summary>An address to look at before it is followed.</summary>
internal sealed record AddressInput(string? Address);

/// <summary>What an address gives.</summary>
/// <param name="Address">The address as it would be followed.</param>
/// <param name="Name">The name it gives itself; may be empty.</param>
/// <param name="Events">How many events.</param>
/// <param name="First">The first day of one from today on; null when none comes.</param>
/// <param name="Samples">The titles of some of those that come next.</param>
/// <param name="Left">What of it cannot be read.</param>
internal sealed record AddressDto(string Address, string Name, int Events, LocalDate? First, IReadOnlyList<SampleDto> Samples, int Left);

/// <summary>An event of an address.</summary>
internal sealed record SampleDto(string Title, LocalDate Date);

/// <summary>An address to follow, with the lane it gets.</summary>
internal sealed record FollowInput(string? Address, string? Title, string? Group, string? Zone, int Mark, int? EveryMinutes = null, int PastDays = 30, int AheadDays = 400);

/// <summary>What is changed of an address that is followed.</summary>
internal sealed record SourceInput(int? EveryMinutes, int PastDays, int AheadDays, int Version);

/// <summary>Whether it is right that an address gives nothing any more.</summary>
internal sealed record ReadNowInput(bool IsEmptyRight = false);

/// <summary>Whether what an address gave stays.</summary>
internal sealed record StopInput(bool Keeps);

/// <summary>How events of a source are sorted.</summary>
internal sealed record SortingInput(IReadOnlyList<SortingRuleDto>? Rules, int Version);

/// <summary>What could be sorted, and how some rules would.</summary>
/// <param name="Groups">What seems to belong together.</param>
/// <param name="Events">Events as they would be sorted, the first of them.</param>
/// <param name="Total">How many there are.</param>
/// <param name="Caught">How many each rule catches.</param>
/// <param name="Rest">How many stay in the source's own lane.</param>
internal sealed record SortingTrialDto(IReadOnlyList<SortingGroupDto> Groups, IReadOnlyList<Commands.SortedDto> Events, int Total, IReadOnlyList<int> Caught, int Rest);

/// <summary>Where an event comes from.</summary>
/// <param name="Name">The name of the file or the lane.</param>
/// <param name="SourceId">The address that is followed; null for a file, or one that is followed no more.</param>
/// <param name="ReadAt">When that was last read.</param>
/// <param name="Problem">What is the matter with it; null while nothing is.</param>
/// <param name="IsKept">Whether it is there no more and was kept here.</param>
/// <param name="Own">The parts that are other here than there.</param>
/// <param name="CopiedFrom">The event from elsewhere it was made like, which it does not follow; null for one that comes from there itself.</param>
internal sealed record OriginDto(string Name, Guid? SourceId, Instant? ReadAt, string? Problem, bool IsKept, IReadOnlyList<string> Own, CopiedFromDto? CopiedFrom = null);

/// <summary>An event from elsewhere that another one was made like.</summary>
/// <param name="EventId">The event.</param>
/// <param name="Title">What it is.</param>
/// <param name="Date">Its first day.</param>
/// <param name="Start">Its first date, as the board names it.</param>
internal sealed record CopiedFromDto(Guid EventId, string Title, LocalDate Date, LocalDateTime Start);
