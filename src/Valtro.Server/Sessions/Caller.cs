using System.Security.Claims;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Sessions;

/// <summary>Somebody may not do something.</summary>
/// <param name="message">What, for a person.</param>
internal sealed class NotAllowedException(string message) : Exception(message)
{
    public static NotAllowedException Role(CalendarRole role) => new(role switch
    {
        CalendarRole.Keeper => "Only keepers of the calendar may do this. Ask one of them.",
        CalendarRole.Editor => "Only editors of the calendar may do this. Ask one of its keepers.",
        _ => "Only who has a part in the calendar may offer events to it. Ask one of its keepers.",
    });
}

/// <summary>
/// Who asks, for what is made once a request. Said by a step of its own: the framework's way to the request costs every
/// answer, also those for which nobody has to be known.
/// </summary>
internal sealed class CurrentPerson
{
    public ClaimsPrincipal User { get; set; } = new();
}

/// <summary>
/// Who asks, what they may do, and what they see. Every endpoint that reads or writes what belongs to a school takes both
/// from here.
/// </summary>
internal sealed class Caller(CurrentPerson current, Roles roles, Store.Calendars calendars, Store.Lists lists)
{
    private Task<Access>? access;
    private Task<IReadOnlyDictionary<Guid, Calendar>>? known;
    private Task<SchoolLists>? kept;

    public Guid SchoolId => current.User.SchoolId();

    public Guid PersonId => current.User.PersonId();

    /// <summary>What they may do.</summary>
    public Task<Access> AccessAsync() => access ??= LoadAsync();

    /// <summary>The school's calendars that are not in the bin.</summary>
    public Task<IReadOnlyDictionary<Guid, Calendar>> CalendarsAsync() => known ??= ListAsync();

    /// <exception cref="NotAllowedException">They do not administer the school.</exception>
    public async Task NeedAdministratorAsync()
    {
        if (!(await AccessAsync()).IsAdministrator)
            throw new NotAllowedException("Only the school’s administrators may do this. Ask one of them.");
    }

    /// <exception cref="NotAllowedException">They have not this role on the calendar.</exception>
    /// <exception cref="NotFoundException">They do not see it at all.</exception>
    public async Task NeedAsync(Guid calendarId, CalendarRole role)
    {
        var may = await AccessAsync();
        if (may.Has(calendarId, role))
        {
            // An administrator keeps the calendars of this school, and no others.
            if (!(await CalendarsAsync()).ContainsKey(calendarId) && await calendars.FindAsync(SchoolId, calendarId) is null)
                throw NotFoundException.Calendar();
            return;
        }
        if ((await CalendarsAsync()).TryGetValue(calendarId, out var calendar) && may.Sees(calendar))
            throw NotAllowedException.Role(role);
        throw NotFoundException.Calendar();
    }

    /// <exception cref="NotAllowedException">They keep no calendar's events.</exception>
    public async Task NeedEditorAsync()
    {
        var may = await AccessAsync();
        if (!may.IsAdministrator && !may.Roles.Values.Any(r => r >= CalendarRole.Editor))
            throw new NotAllowedException("Only people who keep the events of a calendar may do this.");
    }

    /// <exception cref="NotAllowedException">They may not offer events to the calendar.</exception>
    /// <exception cref="NotFoundException">They do not see it at all.</exception>
    public async Task NeedOfferAsync(Guid calendarId)
    {
        var may = await AccessAsync();
        if (!(await CalendarsAsync()).TryGetValue(calendarId, out var calendar) || !may.Sees(calendar))
            throw NotFoundException.Calendar();
        if (!may.MayOffer(calendar))
            throw NotAllowedException.Role(CalendarRole.Proposer);
    }

    /// <exception cref="NotFoundException">They do not see the calendar.</exception>
    public async Task NeedSightAsync(Guid calendarId)
    {
        if (!(await CalendarsAsync()).TryGetValue(calendarId, out var calendar) || !(await AccessAsync()).Sees(calendar))
            throw NotFoundException.Calendar();
    }

    /// <summary>Whether they are of the team of a calendar the event stands in.</summary>
    public async Task<bool> IsTeamOfAsync(Event e)
    {
        var may = await AccessAsync();
        return e.CalendarIds.Any(c => may.RoleOn(c) is not null);
    }

    /// <exception cref="NotAllowedException">They may not make this change.</exception>
    /// <exception cref="NotFoundException">They do not see the event at all.</exception>
    public async Task NeedChangeAsync(Event? before, Event after)
    {
        var may = await AccessAsync();
        if (may.MayChange(before, after))
            return;
        if (before is not null && await DetailOfAsync(before) < Detail.Headlines)
            throw NotFoundException.Event();
        throw NotAllowedException.Role(CalendarRole.Editor);
    }

    /// <summary>How much of an event they get.</summary>
    public async Task<Detail> DetailOfAsync(Event e) => (await AccessAsync()).DetailOf(e, await CalendarsAsync(), await ListsAsync());

    /// <summary>What they get of events.</summary>
    public async Task<IReadOnlyList<(Event Event, Detail Detail)>> SeenAsync(IEnumerable<Event> events)
    {
        var (may, byId) = (await AccessAsync(), await CalendarsAsync());
        return [.. may.Seen(events, byId, await ListsAsync(), PersonId)];
    }

    /// <summary>
    /// What somebody else sees of the calendars one keeps: an audience by its name, or a person by their identity.
    /// </summary>
    /// <exception cref="NotFoundException">There is nobody of this name.</exception>
    public async Task<(Access Access, IReadOnlyDictionary<Guid, Calendar> Calendars)> LookAsync(string look)
    {
        var may = await AccessAsync();
        var own = (await CalendarsAsync()).Where(c => may.Has(c.Key, CalendarRole.Keeper)).ToDictionary();
        return (await EyesAsync(look), own);
    }

    /// <summary>The access of an audience by its name, or of a person by their identity.</summary>
    /// <exception cref="NotFoundException">There is nobody of this name.</exception>
    public async Task<Access> EyesAsync(string look)
    {
        Access? other = look switch
        {
            "members" => Access.Nobody,
            "linkHolders" => Access.Nobody with { LooksAs = Audience.LinkHolders },
            "everyone" => Access.Nobody with { LooksAs = Audience.Everyone },
            _ => Guid.TryParse(look, out var id) ? await roles.AccessAsync(SchoolId, id) : null,
        };
        return other ?? throw new NotFoundException("no_such_person", "There is nobody of this name in the school any more.");
    }

    // Asked for once a request, however many events are looked at.
    private Task<SchoolLists> ListsAsync() => kept ??= lists.GetAsync(SchoolId);

    private async Task<Access> LoadAsync() =>
        await roles.AccessAsync(SchoolId, PersonId) ?? throw new NotAllowedException("You are no longer of this school.");

    private async Task<IReadOnlyDictionary<Guid, Calendar>> ListAsync() => (await calendars.ListAsync(SchoolId)).ToDictionary(c => c.Id);
}
