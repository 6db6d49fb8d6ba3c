using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;

namespace Valtro.Core.People;

/// <summary>What somebody is in a school.</summary>
public enum SchoolRole
{
    /// <summary>Belongs to it.</summary>
    Member,

    /// <summary>Keeps its people, its lists and years, and every calendar.</summary>
    Administrator,
}

/// <summary>What somebody is to a calendar, from the least up.</summary>
public enum CalendarRole
{
    /// <summary>Reads all of it.</summary>
    Reader,

    /// <summary>Offers events to it.</summary>
    Proposer,

    /// <summary>Keeps its events.</summary>
    Editor,

    /// <summary>Keeps its settings, shares it and decides on proposals.</summary>
    Keeper,
}

/// <summary>
/// What a person may do in their school: the one place that says so. What they see follows from
/// <see cref="ReachDecision"/> with <see cref="AudienceOf"/>.
/// </summary>
/// <param name="School">What they are in the school.</param>
/// <param name="Roles">What they are to calendars, by themselves or through groups; the highest counts.</param>
public sealed record Access(SchoolRole School, IReadOnlyDictionary<Guid, CalendarRole> Roles)
{
    /// <summary>Somebody without any role.</summary>
    public static Access Nobody { get; } = new(SchoolRole.Member, new Dictionary<Guid, CalendarRole>());

    /// <summary>As whom all calendars are looked at, whatever the roles; null to look with one's own eyes.</summary>
    public Audience? LooksAs { get; init; }

    /// <summary>Calendars whose events come from elsewhere: nobody changes those by hand, whatever their role.</summary>
    public IReadOnlySet<Guid> Followed { get; init; } = new HashSet<Guid>();

    /// <summary>Whether they administer the school.</summary>
    public bool IsAdministrator => School == SchoolRole.Administrator;

    /// <summary>What they are to a calendar; null for nothing.</summary>
    public CalendarRole? RoleOn(Guid calendarId) =>
        IsAdministrator ? CalendarRole.Keeper : Roles.TryGetValue(calendarId, out var role) ? role : null;

    /// <summary>Whether they have at least a role on a calendar.</summary>
    public bool Has(Guid calendarId, CalendarRole role) => RoleOn(calendarId) >= role;

    /// <summary>Whether they keep the events of a calendar, and it has events that people keep.</summary>
    public bool MayEdit(Guid calendarId) => Has(calendarId, CalendarRole.Editor) && !Followed.Contains(calendarId);

    /// <summary>As whom they look at a calendar.</summary>
    public Audience AudienceOf(Calendar calendar) => LooksAs ?? (RoleOn(calendar.Id) is null ? Audience.Members : Audience.Team);

    /// <summary>Whether they see that there is a calendar.</summary>
    public bool Sees(Calendar calendar) => ReachDecision.For(calendar, AudienceOf(calendar)).Detail > Detail.Nothing;

    /// <summary>Whether they may make an event, or change one into another.</summary>
    /// <param name="before">What it was; null for a new one.</param>
    /// <param name="after">What it shall be.</param>
    /// <remarks>
    /// It takes an editor of the home calendar, before and after, and of every calendar it newly stands in. From a calendar
    /// of others an event is taken out by whoever keeps it at home.
    /// </remarks>
    public bool MayChange(Event? before, Event after) =>
        (before is null || MayEdit(before.CalendarId))
        && MayEdit(after.CalendarId)
        && after.Facts.AlsoIn.All(c => MayEdit(c) || (before is not null && before.CalendarIds.Contains(c)));

    /// <summary>Whether they may offer events to a calendar: its proposers, and who keeps events of another calendar and sees it.</summary>
    public bool MayOffer(Calendar calendar) =>
        !Followed.Contains(calendar.Id) && (Has(calendar.Id, CalendarRole.Proposer) || (LooksAs is null && Sees(calendar) && Roles.Values.Any(r => r >= CalendarRole.Editor)));

    /// <summary>Whether they may answer for a calendar what is proposed to it.</summary>
    public bool MayDecide(Guid calendarId) => Has(calendarId, CalendarRole.Keeper);

    /// <summary>Whether they see a proposal: its proposer, and who keeps the events of a calendar that is asked.</summary>
    /// <param name="proposal">The proposal.</param>
    /// <param name="personId">Who they are.</param>
    public bool Sees(Proposal proposal, Guid personId) =>
        proposal.PersonId == personId || proposal.Asks.Any(a => Has(a.CalendarId, CalendarRole.Editor));
}
