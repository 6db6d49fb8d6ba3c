using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Sources;
using Valtro.Core.Views;

namespace Valtro.Core.Commands;

/// <summary>What became of an event.</summary>
/// <param name="Before">Its state before; null for one that is new.</param>
/// <param name="After">Its state after.</param>
public sealed record EventStep(Event? Before, Event After);

/// <summary>All a command is applied to, as of one moment: what is there, and who asks.</summary>
public sealed record CommandState
{
    /// <summary>The moment.</summary>
    public required Instant Now { get; init; }

    /// <summary>Who asks; null for the program itself, which may do all.</summary>
    public required Guid? PersonId { get; init; }

    /// <summary>What they may do.</summary>
    public required Access Access { get; init; }

    /// <summary>What they see.</summary>
    public required Eyes Eyes { get; init; }

    /// <summary>The school's calendars that are not in the bin.</summary>
    public required IReadOnlyDictionary<Guid, Calendar> Calendars { get; init; }

    /// <summary>The school's calendars in the bin.</summary>
    public IReadOnlySet<Guid> Binned { get; init; } = new HashSet<Guid>();

    /// <summary>The school's categories, places and limits.</summary>
    public required SchoolLists Lists { get; init; }

    /// <summary>The school's days.</summary>
    public required SchoolDays Days { get; init; }

    /// <summary>The events the command is about, those in the bin included.</summary>
    public IReadOnlyDictionary<Guid, Event> Events { get; init; } = new Dictionary<Guid, Event>();

    /// <summary>The proposals the command is about, and those of the same person for its events.</summary>
    public IReadOnlyList<Proposal> Proposals { get; init; } = [];

    /// <summary>Where the events come from, as far as the command is about that.</summary>
    public IReadOnlyList<Origin> Origins { get; init; } = [];

    /// <summary>Identities that readers of feeds know events by, among those that were asked about: they are taken.</summary>
    public IReadOnlySet<string> TakenUids { get; init; } = new HashSet<string>();

    /// <summary>Gives identities to what is new; in time's order.</summary>
    public Func<Guid> NewId { get; init; } = Guid.CreateVersion7;

    /// <summary>A calendar that new events can have as their home.</summary>
    /// <exception cref="NotFoundException">There is none, or they may not know of it.</exception>
    /// <exception cref="InvalidInputException"><c>calendar_in_bin</c>.</exception>
    public Calendar Home(Guid calendarId)
    {
        if (Binned.Contains(calendarId) && Access.Has(calendarId, CalendarRole.Reader))
            throw new InvalidInputException("calendar_in_bin", "calendarId", "This calendar lies in the bin. Take it out first, or choose another one.");
        return Calendars.TryGetValue(calendarId, out var calendar) && (PersonId is null || Access.Sees(calendar)) ? calendar : throw NotFoundException.Calendar();
    }

    /// <summary>An event that is to be changed.</summary>
    /// <param name="id">Which.</param>
    /// <param name="version">The version it was seen in; null when that plays no part.</param>
    /// <exception cref="NotFoundException">There is none, or they may not know of it.</exception>
    /// <exception cref="NotAllowedException">They may not change it.</exception>
    /// <exception cref="StaleWriteException">It is another version by now.</exception>
    public Event ToChange(Guid id, int? version)
    {
        var e = Events.TryGetValue(id, out var found) ? found : throw NotFoundException.Event();
        // First of all: what is there now is told to whoever sends an old version.
        NeedChange(e, e);
        return Current(e, version);
    }

    /// <summary>An event that a change of is proposed or tried.</summary>
    /// <exception cref="NotFoundException">There is none, or they do not get all of it.</exception>
    /// <exception cref="NotAllowedException">They may not offer events to its calendar.</exception>
    /// <exception cref="StaleWriteException">It is another version by now.</exception>
    public Event ToOffer(Guid id, int? version)
    {
        if (!Events.TryGetValue(id, out var e) || Eyes.View(e) is not { Detail: >= Detail.Everything })
            throw NotFoundException.Event();
        NeedOffer(e.CalendarId);
        return Current(e, version);
    }

    /// <summary>
    /// An event another one is made like: no more of it than they get. It stands in other calendars besides only where they
    /// keep events, and one from elsewhere is named as what the copy was made from.
    /// </summary>
    /// <exception cref="NotFoundException">There is none, or they do not get all of it.</exception>
    internal Event ToCopy(Guid id)
    {
        if (!Events.TryGetValue(id, out var e) || Eyes.View(e) is not { Detail: >= Detail.Everything } view)
            throw NotFoundException.Event();
        var kept = view.Changes.Select(c => c.Date).ToHashSet();
        LocalDateTime[] hidden = [.. e.Changes.Select(c => c.Date).Where(d => !kept.Contains(d))];
        return e with
        {
            Facts = view.Facts with
            {
                AlsoIn = [.. view.StandsIn.Where(c => c != e.CalendarId && Access.MayEdit(c))],
                Limits = [.. view.Facts.Limits.Where(l => Access.MayEdit(l.CalendarId))],
            },
            Changes = view.Changes,
            Skips = [.. e.Skips.Concat(hidden).Distinct().Order()],
            Extras = e.Extras.RemoveAll(hidden.Contains),
            DeletedAt = null,
        };
    }

    /// <summary>What events are made with.</summary>
    internal EditMeans Means => new(new Dictionary<LocalDateTime, MisfitChoice>(), Now, NewId, Days);

    /// <exception cref="NotAllowedException">They may not make this change.</exception>
    /// <exception cref="NotFoundException">They do not see the event at all.</exception>
    public void NeedChange(Event? before, Event after)
    {
        if (PersonId is null || Access.MayChange(before, after))
            return;
        if (before is not null && Eyes.View(before) is not { Detail: >= Detail.Headlines })
            throw NotFoundException.Event();
        throw Access.Followed.Contains((before ?? after).CalendarId) || Access.Followed.Contains(after.CalendarId) ? NotAllowedException.Followed() : NotAllowedException.Role(CalendarRole.Editor);
    }

    /// <exception cref="NotAllowedException">They may not offer events to the calendar.</exception>
    /// <exception cref="NotFoundException">They do not see it at all.</exception>
    public void NeedOffer(Guid calendarId)
    {
        if (!Calendars.TryGetValue(calendarId, out var calendar) || !Access.Sees(calendar))
            throw NotFoundException.Calendar();
        if (!Access.MayOffer(calendar))
            throw NotAllowedException.Role(CalendarRole.Proposer);
    }

    /// <summary>
    /// What somebody said of an event, with what they could not see of where it stands: nobody takes an event out of a
    /// calendar they are not told of.
    /// </summary>
    public EventDraft Carried(Event before, EventDraft draft)
    {
        if (draft.Facts is not { } facts || PersonId is null)
            return draft;
        bool IsHidden(Guid id) => !Eyes.Sees(id);
        return draft with
        {
            Facts = facts with
            {
                AlsoIn = [.. facts.AlsoIn, .. before.Facts.AlsoIn.Where(IsHidden)],
                Limits = [.. facts.Limits, .. before.Facts.Limits.Where(l => IsHidden(l.CalendarId))],
            },
        };
    }

    /// <summary>An event stands in calendars that are there; where it stood before it may stay.</summary>
    /// <exception cref="NotFoundException"><c>no_such_calendar</c>: its home.</exception>
    /// <exception cref="InvalidInputException"><c>no_such_calendar</c>: one it shall also stand in.</exception>
    internal void CheckPlaces(Event? before, Event after)
    {
        if (!Calendars.ContainsKey(after.CalendarId) && before?.CalendarId != after.CalendarId)
            throw NotFoundException.Calendar();
        if (after.Facts.AlsoIn.Any(c => !Calendars.ContainsKey(c) && before?.CalendarIds.Contains(c) != true))
            throw new InvalidInputException("no_such_calendar", "facts.alsoIn", "One of the calendars is not there any more. Choose again where it stands.");
    }

    // What moves house keeps the identity its readers know, as long as nothing else here has it.
    internal bool IsUidFree(string key) => key.Length is > 0 and <= 255 && !key.Contains('~') && !TakenUids.Contains(key);

    private Event Current(Event e, int? version) =>
        version is null || (Eyes.View(e) is { } view ? view.Version : e.Version) == version ? e : throw new StaleWriteException(Eyes.View(e)!);
}

/// <summary>What has to be there before a command is applied.</summary>
/// <param name="Events">Events by their identities.</param>
/// <param name="Proposals">Proposals by their identities, with the events they are about.</param>
/// <param name="ChangesOf">An event of which the same person's proposed changes are wanted; null for none.</param>
/// <param name="Following">Whether all series that follow school days are wanted.</param>
/// <param name="Origins">Of what origins is wanted, with the events that come from there; null for none.</param>
public sealed record CommandNeeds(IReadOnlyCollection<Guid> Events, IReadOnlyCollection<Guid> Proposals, Guid? ChangesOf = null, bool Following = false, OriginNeeds? Origins = null)
{
    /// <summary>Nothing but who asks.</summary>
    public static CommandNeeds Nothing { get; } = new([], []);

    /// <summary>Some events.</summary>
    public static CommandNeeds Of(params IReadOnlyCollection<Guid> events) => new(events, []);
}

/// <summary>What a command does.</summary>
public sealed record CommandOutcome
{
    /// <summary>What becomes of events, each once; nothing of those that stay as they are.</summary>
    public required IReadOnlyList<EventStep> Steps { get; init; }

    /// <summary>A proposal that is kept; null for none.</summary>
    public Proposal? Proposal { get; init; }

    /// <summary>The proposal before; null for a new one.</summary>
    public Proposal? ProposalBefore { get; init; }

    /// <summary>Proposals that go.</summary>
    public IReadOnlyList<Proposal> Gone { get; init; } = [];

    /// <summary>What an edit does, date by date; null where none was asked for.</summary>
    public SeriesPlan? Plan { get; init; }

    /// <summary>What of a selection was left as it is, and why.</summary>
    public IReadOnlyList<LeftAsItIs> Left { get; init; } = [];

    /// <summary>What was made of what was read of a file or an address; null for other commands.</summary>
    public IReadOnlyList<IntakeRow>? Taken { get; init; }

    /// <summary>Nothing.</summary>
    public static CommandOutcome Nothing { get; } = new() { Steps = [] };
}

/// <summary>An event of a selection that was left as it is.</summary>
/// <param name="EventId">Which.</param>
/// <param name="Code">Stable code of the reason.</param>
/// <param name="Message">The reason in words.</param>
public sealed record LeftAsItIs(Guid EventId, string Code, string Message);

/// <summary>
/// One thing that changes something. The set is closed: what is typed, many changed at once, taken back, approved or brought
/// in becomes one of these. Applying one is a pure function, (state, command) → what becomes of it; authorised within.
/// </summary>
public abstract record Command
{
    private protected Command()
    {
    }

    /// <summary>What it is called in the history.</summary>
    public abstract string Name { get; }

    /// <summary>What it does.</summary>
    /// <exception cref="NotFoundException">It is about something that is not there for who asks.</exception>
    /// <exception cref="NotAllowedException">They may not do it.</exception>
    /// <exception cref="StaleWriteException">It was made from another state than there is now.</exception>
    /// <exception cref="InvalidInputException">It cannot be done.</exception>
    public CommandOutcome Apply(CommandState state)
    {
        var outcome = Do(state);
        var steps = outcome.Steps.Where(s => !ReferenceEquals(s.Before, s.After)).ToList();
        foreach (var step in steps)
        {
            state.CheckPlaces(step.Before, step.After);
            CheckRule(step.Before, step.After);
        }
        if (outcome.Proposal is { } proposal && !ReferenceEquals(proposal, outcome.ProposalBefore))
        {
            foreach (var offered in proposal.Added.Prepend(proposal.Offered))
                CheckRule(proposal.Base, offered);
        }
        return outcome with { Steps = steps };
    }

    private protected abstract CommandOutcome Do(CommandState state);

    // A series that is there already may stay, and be thrown away.
    private static void CheckRule(Event? before, Event after)
    {
        if (after.Rule is { } rule && after.DeletedAt is null && (before?.Rule != rule || before.Timing.Start != after.Timing.Start))
            RuleBudget.Check(after.Timing, rule);
    }
}
