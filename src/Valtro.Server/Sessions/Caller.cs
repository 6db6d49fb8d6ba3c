using System.Security.Claims;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Views;
using Valtro.Store;

namespace Valtro.Server.Sessions;

/// <summary>
/// Who asks, for what is made once a request. Said by a step of its own: the framework's way to the request costs every
/// answer, also those for which nobody has to be known.
/// </summary>
internal sealed class CurrentPerson
{
    public ClaimsPrincipal User { get; set; } = new();

    /// <summary>What the log says of the request; null where nothing is logged.</summary>
    public LogEntry? Log { get; set; }

    /// <summary>The request as one that may come again; null where it cannot.</summary>
    public Repeatable? Request { get; set; }

    /// <summary>Nobody waits for the answer any more; never of a request that changes something.</summary>
    public CancellationToken Aborted { get; set; }
}

/// <summary>
/// Who asks, what they may do, and with what eyes they look. Every endpoint that reads or writes what belongs to a school takes
/// it from here; what they need of the school is read once a request.
/// </summary>
internal sealed class Caller(CurrentPerson current, SchoolStates states, Roles roles, IClock clock)
{
    private Task<SchoolState>? state;

    public Guid SchoolId => current.User.SchoolId();

    public Guid PersonId => current.User.PersonId();

    /// <summary>Nobody waits for the answer any more.</summary>
    public CancellationToken Aborted => current.Aborted;

    /// <summary>Who writes, with what the log says of it.</summary>
    public Author Author() => new(SchoolId, PersonId, clock.GetCurrentInstant()) { Log = current.Log, Request = current.Request };

    /// <summary>The school as they find it.</summary>
    public Task<SchoolState> StateAsync() => state ??= states.GetAsync(SchoolId, PersonId, Aborted);

    /// <summary>What they may do.</summary>
    public async Task<Access> AccessAsync() => (await StateAsync()).Access ?? throw new NotAllowedException("You are no longer of this school.");

    /// <summary>The school's calendars that are not in the bin.</summary>
    public async Task<IReadOnlyDictionary<Guid, Calendar>> CalendarsAsync() => (await StateAsync()).Calendars;

    /// <summary>The school's categories, places and limits.</summary>
    public async Task<SchoolLists> ListsAsync() => (await StateAsync()).Lists;

    /// <summary>The school's days.</summary>
    public async Task<SchoolDays> DaysAsync() => (await StateAsync()).Days;

    /// <summary>The school.</summary>
    public async Task<School> SchoolAsync() => (await StateAsync()).School;

    /// <summary>The day at the school.</summary>
    public async Task<LocalDate> TodayAsync() => clock.GetCurrentInstant().InZone((await SchoolAsync()).Zone).Date;

    /// <summary>With what eyes they look.</summary>
    public async Task<Eyes> EyesAsync() => Eyes.Of(await AccessAsync(), await CalendarsAsync(), await ListsAsync(), PersonId);

    /// <exception cref="NotAllowedException">They do not administer the school.</exception>
    public async Task NeedAdministratorAsync()
    {
        if (!(await AccessAsync()).IsAdministrator)
            throw NotAllowedException.Administrator();
    }

    /// <exception cref="NotAllowedException">They have not this role on the calendar.</exception>
    /// <exception cref="NotFoundException">They do not see it at all.</exception>
    public async Task NeedAsync(Guid calendarId, CalendarRole role)
    {
        var (may, known) = (await AccessAsync(), await StateAsync());
        // An administrator keeps the calendars of this school, and no others.
        var isThere = known.Calendars.TryGetValue(calendarId, out var calendar) || known.Binned.Contains(calendarId);
        if (isThere && may.Has(calendarId, role))
            return;
        throw calendar is not null && may.Sees(calendar) ? NotAllowedException.Role(role) : NotFoundException.Calendar();
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
        var calendar = await NeedSightAsync(calendarId);
        if (!(await AccessAsync()).MayOffer(calendar))
            throw NotAllowedException.Role(CalendarRole.Proposer);
    }

    /// <exception cref="NotAllowedException">They may neither keep nor offer an event anywhere.</exception>
    public async Task NeedOfferSomewhereAsync()
    {
        var may = await AccessAsync();
        if (!may.IsAdministrator && !(await CalendarsAsync()).Values.Any(may.MayOffer))
            throw new NotAllowedException("Only people who keep or offer the events of a calendar may do this.");
    }

    /// <exception cref="NotFoundException">They do not see the calendar.</exception>
    public async Task<Calendar> NeedSightAsync(Guid calendarId) =>
        (await CalendarsAsync()).TryGetValue(calendarId, out var calendar) && (await AccessAsync()).Sees(calendar) ? calendar : throw NotFoundException.Calendar();

    /// <summary>
    /// The eyes of somebody else for the calendars one keeps, and what they may do there: an audience by its name, or a person
    /// by their identity.
    /// </summary>
    /// <exception cref="NotFoundException">There is nobody of this name.</exception>
    public async Task<(Eyes Eyes, Access Access, IReadOnlyDictionary<Guid, Calendar> Calendars)> LookAsync(string look)
    {
        var may = await AccessAsync();
        var own = (await CalendarsAsync()).Where(c => may.Has(c.Key, CalendarRole.Keeper)).ToDictionary();
        var other = await AccessAsAsync(look);
        return (Eyes.Of(other, own, await ListsAsync(), PersonId), other, own);
    }

    /// <summary>The access of an audience by its name, or of a person by their identity.</summary>
    /// <exception cref="NotFoundException">There is nobody of this name.</exception>
    public async Task<Access> AccessAsAsync(string look)
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
}
