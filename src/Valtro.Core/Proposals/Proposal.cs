using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Proposals;

/// <summary>What an answer does.</summary>
/// <param name="After">The proposal with it.</param>
/// <param name="Edits">The events it makes and changes, each with its state before; none before for a new one.</param>
public sealed record Decision(Proposal After, IReadOnlyList<(Event? Before, Event After)> Edits);

/// <summary>
/// An event, or a change of one, offered to calendars whose keepers have to approve it: each for their own. Until then it is
/// no event: nothing of it goes out. Immutable.
/// </summary>
public sealed record Proposal
{
    /// <summary>The longest remark.</summary>
    public const int MaxRemark = 500;

    /// <summary>Identity.</summary>
    public required Guid Id { get; init; }

    /// <summary>Who offers it; null when they are gone.</summary>
    public required Guid? PersonId { get; init; }

    /// <summary>The event it is about; of a new one the identity it will have.</summary>
    public required Guid EventId { get; init; }

    /// <summary>Whether the event is there only once somebody approves it.</summary>
    public required bool IsNew { get; init; }

    /// <summary>The event that a change was made from; null when none is proposed.</summary>
    public required Event? Base { get; init; }

    /// <summary>The event as it shall be.</summary>
    public required Event Offered { get; init; }

    /// <summary>Events that come with it, as the second part of a series that is split.</summary>
    public ImmutableArray<Event> Added { get; init; } = [];

    /// <summary>What the proposer says to the keepers; may be empty.</summary>
    public required string Remark { get; init; }

    /// <summary>What is asked of each calendar.</summary>
    public required ImmutableArray<Ask> Asks { get; init; }

    /// <summary>When it was first offered.</summary>
    public required Instant CreatedAt { get; init; }

    /// <summary>When the proposer last changed it.</summary>
    public required Instant ChangedAt { get; init; }

    /// <summary>Grows when the proposer changes it: what is approved is what was read.</summary>
    public required int Version { get; init; }

    /// <summary>Whether nothing of it can be answered any more.</summary>
    public bool IsDecided => Asks.All(a => !a.IsUndecided);

    /// <summary>Whether an answer comes after that of the event's home: what its keepers have not agreed to does not go into other calendars.</summary>
    public bool WaitsForHome(Ask ask) => ask.Kind != AskKind.Contents && Asks.Any(a => a.Kind == AskKind.Contents && a.Answer != Answer.Approved);

    /// <summary>A new proposal.</summary>
    /// <exception cref="InvalidInputException"><c>text_too_long</c>.</exception>
    public static Proposal Offer(Guid id, Guid personId, Event offered, bool isNew, Event? changes, IEnumerable<Event> added, string? remark, IEnumerable<Ask> asks, Instant now) => new()
    {
        Id = id,
        PersonId = personId,
        EventId = offered.Id,
        IsNew = isNew,
        Base = changes,
        Offered = offered,
        Added = [.. added],
        Remark = Texts.Optional(remark, "remark", MaxRemark),
        Asks = [.. asks],
        CreatedAt = now,
        ChangedAt = now,
        Version = 1,
    };

    /// <summary>
    /// The proposal with what earlier ones of the same person ask that it takes the place of: the calendars they are offered
    /// to, what comes with them, and their word where this one has none.
    /// </summary>
    public Proposal Carrying(IReadOnlyList<Proposal> earlier) => this with
    {
        Asks = [.. Asks, .. earlier.SelectMany(p => p.Asks).Where(a => a.Kind != AskKind.Contents && a.IsUndecided && Asks.All(own => own.CalendarId != a.CalendarId)).Select(a => new Ask(a.CalendarId, a.Kind)).Distinct()],
        Added = [.. earlier.SelectMany(p => p.Added), .. Added],
        Remark = Remark.Length > 0 ? Remark : earlier.Select(p => p.Remark).LastOrDefault(r => r.Length > 0) ?? "",
    };

    /// <summary>The proposal as its proposer has changed it: whoever sent it back, or has not answered, is asked again.</summary>
    /// <param name="offered">The event as it shall be now.</param>
    /// <param name="remark">What the proposer says.</param>
    /// <param name="calendarIds">The calendars it is offered to now; those that declined are not asked again.</param>
    /// <param name="now">The moment.</param>
    /// <exception cref="InvalidInputException"><c>proposal_in_part</c>: somebody approved it, so it is an event; change that.</exception>
    public Proposal Revised(Event offered, string? remark, IEnumerable<Guid> calendarIds, Instant now)
    {
        if (!IsNew || Asks.Any(a => a.Answer == Answer.Approved))
            throw new InvalidInputException("proposal_in_part", "proposal", "A keeper has approved this already. Change the event itself; the change is proposed then.");
        return this with
        {
            Offered = offered,
            Remark = Texts.Optional(remark, "remark", MaxRemark),
            Asks = [.. Asks.Where(a => a.Answer == Answer.Declined), .. calendarIds.Where(c => !Asks.Any(a => a.CalendarId == c && a.Answer == Answer.Declined)).Distinct().Select(c => new Ask(c, AskKind.Standing))],
            ChangedAt = now,
            Version = Version + 1,
        };
    }

    /// <summary>Answers for some of the calendars.</summary>
    /// <param name="calendarIds">The calendars; those that are not asked are passed over.</param>
    /// <param name="answer">What is said.</param>
    /// <param name="remark">With which words.</param>
    /// <param name="current">The event as it is now; null when there is none.</param>
    /// <param name="by">Who answers.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days, for series that follow them.</param>
    /// <exception cref="InvalidInputException">
    /// <c>proposal_decided</c>: it was answered already; <c>remark_missing</c>: what is sent back needs a word;
    /// <c>proposal_overtaken</c>: the event was changed in the same place meanwhile; <c>proposal_home_first</c>; <c>event_in_bin</c>.
    /// </exception>
    public Decision Decide(IReadOnlyCollection<Guid> calendarIds, Answer answer, string? remark, Event? current, Guid? by, Instant now, SchoolDays days)
    {
        var words = Texts.Optional(remark, "remark", MaxRemark);
        if (answer == Answer.SentBack && words.Length == 0)
            throw new InvalidInputException("remark_missing", "remark", "Say in a few words what should be different.");
        var asked = Asks.Where(a => calendarIds.Contains(a.CalendarId)).ToList();
        if (asked.Count == 0 || asked.Any(a => !a.IsUndecided) || answer == Answer.Open)
            throw new InvalidInputException("proposal_decided", "proposal", "This was decided meanwhile. Look again before you answer.");

        var (proposal, before, state, added) = (this, current, current, new List<Event>());
        // A change of contents first: a placement is of the event as it is then. The home that was meant comes before others.
        foreach (var ask in asked.OrderByDescending(a => a.Kind == AskKind.Contents).ThenByDescending(a => a.CalendarId == Offered.CalendarId))
        {
            if (answer == Answer.Approved)
            {
                if (proposal.WaitsForHome(ask))
                    throw new InvalidInputException("proposal_home_first", "proposal", "The keepers of the calendar it is of decide first.");
                state = ask.Kind switch
                {
                    AskKind.Contents => proposal.Changed(state, ask, now, days),
                    AskKind.Moving => Moved(state, ask.CalendarId, days),
                    _ => proposal.Placed(state, ask, now, days),
                };
                if (ask.Kind == AskKind.Contents)
                    added.AddRange(Added.Select(e => e.AsNew(now).OnSchoolDays(days)));
            }
            var answered = ask with { Answer = answer, Remark = words, By = by, At = now };
            proposal = proposal with { Asks = proposal.Asks.Replace(ask, answered) };
        }
        // One write is one step of the version, however many calendars it is for.
        if (before is not null)
            state = state?.After(before, now);
        if (state is null || ReferenceEquals(state, before))
            return new Decision(proposal, []);
        proposal = proposal.WithVersion(before?.Version, state.Version, a => asked.Any(x => x.CalendarId == a.CalendarId && x.Kind == a.Kind));
        return new Decision(proposal, [(before, state), .. added.Select(e => ((Event?)null, e))]);
    }

    /// <summary>Takes answers back, and with them what they did.</summary>
    /// <param name="calendarIds">The calendars they were given for.</param>
    /// <param name="current">The event as it is now; null when there is none.</param>
    /// <param name="added">The events that came with the approval, as they are now.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days.</param>
    /// <exception cref="InvalidInputException">
    /// <c>proposal_open</c>: nothing was answered; <c>proposal_overtaken</c>: the event was changed since.
    /// </exception>
    public Decision Reopen(IReadOnlyCollection<Guid> calendarIds, Event? current, IReadOnlyList<Event> added, Instant now, SchoolDays days)
    {
        var asks = Asks.Where(a => calendarIds.Contains(a.CalendarId) && a.Answer != Answer.Open).ToList();
        if (asks.Count == 0)
            throw new InvalidInputException("proposal_open", "proposal", "There is no answer to take back.");
        var after = this with { Asks = [.. Asks.Select(a => asks.Contains(a) ? new Ask(a.CalendarId, a.Kind) : a)] };
        var done = asks.Where(a => a.EventVersion is not null).ToList();
        if (done.Count == 0)
            return new Decision(after, []);
        if (current is null || done.Any(a => a.EventVersion != current.Version))
            throw Overtaken();
        var state = current;
        // The home last: what stands nowhere else any more goes into the bin.
        foreach (var ask in done.OrderBy(a => a.Kind == AskKind.Contents).ThenBy(a => a.CalendarId == current.CalendarId))
        {
            state = ask.Kind switch
            {
                AskKind.Contents => EventMerge.Of(Offered, Base!, state, now, days, out _),
                AskKind.Moving => Moved(state, Offered.CalendarId, days),
                _ => TakenOut(state, ask.CalendarId, now, days),
            };
        }
        state = state.After(current, now);
        var gone = done.Any(a => a.Kind == AskKind.Contents) ? added.Where(e => e.DeletedAt is null).Select(e => ((Event?)e, e.Delete(now))) : [];
        return new Decision(after.WithVersion(current.Version, state.Version, _ => false), [(current, state), .. gone]);
    }

    /// <summary>The event as it would be if what still waits were approved now; null when it was overtaken, or the event is gone.</summary>
    /// <param name="current">The event as it is; null when there is none.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days.</param>
    public Event? AsProposed(Event? current, Instant now, SchoolDays days)
    {
        if (IsNew && Asks.All(a => a.Answer != Answer.Approved))
            return Offered.OnSchoolDays(days);
        if (current is not { DeletedAt: null } || Base is null || Asks.All(a => a.Kind != AskKind.Contents || !a.IsUndecided))
            return current is { DeletedAt: null } ? current : null;
        var merged = EventMerge.Of(Base, Offered, current, now, days, out var conflicts);
        return conflicts.Count == 0 ? merged : null;
    }

    /// <summary>Whether two states say the same: what is offered, to whom, and what was answered.</summary>
    public bool SaysAs(Proposal other) =>
        (Id, Version, Remark) == (other.Id, other.Version, other.Remark) && Offered.SaysAs(other.Offered)
        && Asks.OrderBy(a => (a.CalendarId, a.Kind)).Select(a => (a.CalendarId, a.Kind, a.Answer, a.Remark))
            .SequenceEqual(other.Asks.OrderBy(a => (a.CalendarId, a.Kind)).Select(a => (a.CalendarId, a.Kind, a.Answer, a.Remark)));

    // What nobody but this proposal has changed since an answer can be taken back, whichever came first.
    private Proposal WithVersion(int? was, int version, Func<Ask, bool> isNew) => this with
    {
        Asks = [.. Asks.Select(a => isNew(a) || (a.EventVersion is not null && a.EventVersion == was) ? a with { EventVersion = version } : a)],
    };

    private Event Changed(Event? current, Ask ask, Instant now, SchoolDays days)
    {
        if (current is null || current.CalendarId != ask.CalendarId)
            throw Overtaken();
        if (current.DeletedAt is not null)
            throw InBin();
        var merged = EventMerge.Of(Base!, Offered, current, now, days, out var conflicts);
        return conflicts.Count == 0 ? merged : throw Overtaken();
    }

    private Event Placed(Event? current, Ask ask, Instant now, SchoolDays days)
    {
        var isThere = !IsNew || Asks.Any(a => a.Answer == Answer.Approved);
        if (!isThere)
        {
            var first = Offered.AsNew(now) with { CalendarId = ask.CalendarId };
            first = (first with { Facts = (Offered.Facts with { AlsoIn = [], Limits = [] }).Checked(ask.CalendarId) }).OnSchoolDays(days);
            // Once approved, then taken back: the event lies in the bin under its identity.
            return current is null ? first : (first with { CreatedAt = current.CreatedAt }).After(current, now);
        }
        if (current is null)
            throw Overtaken();
        if (current.DeletedAt is not null)
            throw InBin();
        return current.CalendarIds.Contains(ask.CalendarId)
            ? current
            : current with { Facts = (current.Facts with { AlsoIn = current.Facts.AlsoIn.Add(ask.CalendarId) }).Checked(current.CalendarId) };
    }

    private static Event Moved(Event? current, Guid home, SchoolDays days)
    {
        if (current is null)
            throw Overtaken();
        return current.DeletedAt is null ? (current with { CalendarId = home, Facts = current.Facts.Checked(home) }).OnSchoolDays(days) : throw InBin();
    }

    private static Event TakenOut(Event e, Guid calendarId, Instant now, SchoolDays days)
    {
        if (e.CalendarId != calendarId)
            return e with { Facts = (e.Facts with { AlsoIn = e.Facts.AlsoIn.Remove(calendarId) }).Checked(e.CalendarId) };
        if (e.Facts.AlsoIn.IsEmpty)
            return e.Delete(now);
        var home = e.Facts.AlsoIn[0];
        return (e with { CalendarId = home, Facts = e.Facts.Checked(home) }).OnSchoolDays(days);
    }

    private static InvalidInputException Overtaken() =>
        new("proposal_overtaken", "proposal", "The event was changed in the same place meanwhile. Send the proposal back, so that it can be made anew.");

    private static InvalidInputException InBin() => new("event_in_bin", "proposal", "The event lies in the bin. Take it out first.");
}
