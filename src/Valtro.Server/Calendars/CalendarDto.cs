using Valtro.Core.Events;
using Valtro.Core.Reach;

namespace Valtro.Server.Calendars;

internal sealed record ReachDto(Detail Members, Detail LinkHolders, Detail Everyone);

internal sealed record CalendarDto(
    Guid Id, string Title, string Description, string Group, string Zone, int Mark, ReachDto Reach, int Version, bool InBin)
{
    public static CalendarDto Of(Calendar c) => new(
        c.Id, c.Title, c.Description, c.Group, c.Zone.Id, c.Mark, new ReachDto(c.Reach.Members, c.Reach.LinkHolders, c.Reach.Everyone), c.Version, c.DeletedAt is not null);
}
