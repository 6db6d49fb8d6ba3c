using Valtro.Core.People;

namespace Valtro.Core.Publishing;

/// <summary>
/// Who may do what with publications. What goes out is decided by reach alone: a publication of what its audience may read tells
/// nobody anything new, so every member may make one, of the calendars they see.
/// </summary>
public static class PublicationRights
{
    /// <summary>Whether somebody changes a publication: whoever made it, whom they share it with, whoever keeps all its calendars, and administrators.</summary>
    /// <param name="may">What they may do.</param>
    /// <param name="personId">Who they are.</param>
    /// <param name="publication">The publication.</param>
    public static bool MayChange(this Access may, Guid personId, Publication publication) =>
        may.IsAdministrator || publication.OwnerId == personId || publication.SharedWith.Contains(personId) || (publication.CalendarIds.Count > 0 && All(publication).All(c => may.Has(c, CalendarRole.Keeper)));

    /// <summary>Whether they are told that a publication is there, and where: also keepers of some of its calendars.</summary>
    public static bool MayKnow(this Access may, Guid personId, Publication publication) =>
        may.MayChange(personId, publication) || (publication.PublishedAt is not null && publication.CalendarIds.Any(c => may.Has(c, CalendarRole.Keeper)));

    private static IEnumerable<Guid> All(Publication publication) => publication.CalendarIds.Concat(publication.Draft?.CalendarIds ?? []);
}
