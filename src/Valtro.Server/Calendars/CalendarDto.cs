using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;

namespace Valtro.Server.Calendars;

internal sealed record ReachDto(Detail Members, Detail LinkHolders, Detail Everyone)
{
    public static ReachDto? Of(ReachTable? t) => t is null ? null : new(t.Members, t.LinkHolders, t.Everyone);

    public ReachTable ToTable() => new(Members, LinkHolders, Everyone);
}

/// <summary>A calendar, with what the one who asks is to it; null for nothing. Offering comes beside: it takes no role on it.</summary>
internal sealed record CalendarDto(
    Guid Id, string Title, string Description, string Group, string Zone, int Mark, ReachDto Reach, int Version, bool InBin, CalendarRole? Role = null, bool MayOffer = false, bool IsOutOfSearch = false, bool IsFollowed = false)
{
    public static CalendarDto Of(Calendar c, CalendarRole? role = null, bool mayOffer = false) => new(
        c.Id, c.Title, c.Description, c.Group, c.Zone.Id, c.Mark, ReachDto.Of(c.Reach)!, c.Version, c.DeletedAt is not null, role, mayOffer, c.IsOutOfSearch, c.IsFollowed);
}
