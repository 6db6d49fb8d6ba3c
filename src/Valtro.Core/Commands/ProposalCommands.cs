using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;

namespace Valtro.Core.Commands;

/// <summary>A command about what waits for keepers.</summary>
public abstract record ProposalCommand : Command
{
    private protected ProposalCommand()
    {
    }

    /// <summary>The proposal a command is about.</summary>
    /// <exception cref="NotFoundException">There is none, or none they may know of.</exception>
    private protected static Proposal Found(Guid id, CommandState state) =>
        state.Proposals.FirstOrDefault(p => p.Id == id) is { } proposal && state.PersonId is { } person && state.Access.Sees(proposal, person) ? proposal : throw NotFoundException.Proposal();

    /// <exception cref="NotAllowedException">It is somebody else's.</exception>
    private protected static Proposal Own(Guid id, CommandState state)
    {
        var proposal = Found(id, state);
        return proposal.PersonId == state.PersonId ? proposal : throw new NotAllowedException("Only who made a proposal may change it.");
    }

    private protected static CommandOutcome Offered(Offering offering, IReadOnlyList<Proposal> replaced, CommandState state)
    {
        var proposal = offering.Proposal?.Carrying(replaced);
        foreach (var ask in proposal is null ? [] : proposal.Asks.Select(a => a.CalendarId).Distinct())
            state.NeedOffer(ask);
        foreach (var (before, after) in offering.Edits)
            state.NeedChange(before ?? offering.Edits[0].Before, after);
        return new CommandOutcome { Steps = [.. offering.Edits.Select(e => new EventStep(e.Before, e.After))], Proposal = proposal, Gone = replaced };
    }

    /// <summary>The event, and the state a further change starts from: what the same person has proposed already is in it.</summary>
    private protected static (Event Before, Event Start, IReadOnlyList<Proposal> Replaced) Start(Guid id, int? version, CommandState state)
    {
        var before = state.ToOffer(id, null);
        if (before.DeletedAt is not null)
            throw new InvalidInputException("event_in_bin", "proposal", "The event lies in the bin. Take it out first.");
        _ = state.ToOffer(id, version);
        var start = before;
        var replaced = new List<Proposal>();
        foreach (var pending in state.Proposals.Where(p => p.EventId == id && p.PersonId == state.PersonId && p.Base is not null && p.Asks.All(a => a.IsUndecided)))
        {
            if (pending.AsProposed(start, state.Now, state.Days) is not { } merged)
                continue;
            start = merged;
            replaced.Add(pending);
        }
        return (before, start, replaced);
    }

    private protected static CommandOutcome Settled(Proposal before, Decision decision, CommandState state)
    {
        // What came with an approval that was taken back lies in the bin and is taken out again.
        EventStep Step((Event? Before, Event After) e) =>
            e.Before is null && state.Events.TryGetValue(e.After.Id, out var was) ? new EventStep(was, e.After.After(was, state.Now)) : new EventStep(e.Before, e.After);
        return new CommandOutcome { Steps = [.. decision.Edits.Select(Step)], ProposalBefore = before, Proposal = decision.After };
    }

    private protected static void NeedKeeper(IReadOnlyCollection<Guid> calendarIds, CommandState state)
    {
        foreach (var id in calendarIds)
        {
            if (state.Access.MayDecide(id) && state.Calendars.ContainsKey(id))
                continue;
            throw state.Eyes.Sees(id) ? NotAllowedException.Role(CalendarRole.Keeper) : NotFoundException.Calendar();
        }
    }
}

/// <summary>Offers a new event to the calendars it shall stand in.</summary>
/// <param name="Id">The identity it will have.</param>
/// <param name="CalendarId">The home that is meant.</param>
/// <param name="Draft">What it shall be.</param>
/// <param name="Remark">What is said to the keepers.</param>
public sealed record OfferEvent(Guid Id, Guid CalendarId, EventDraft Draft, string? Remark) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "create";

    private protected override CommandOutcome Do(CommandState state)
    {
        _ = state.Home(CalendarId);
        var wanted = Event.Create(Id, CalendarId, Draft, state.Now, state.Days);
        state.CheckPlaces(null, wanted);
        return Offered(Offering.OfNew(wanted, state.Access, state.PersonId!.Value, Remark, state.Now, state.Days), [], state);
    }
}

/// <summary>
/// Makes another event like one, or like one of its dates; where keepers have to be asked, it is offered to them.
/// </summary>
/// <param name="Id">The event.</param>
/// <param name="Date">The date it is taken by: the local start the series gives; null for the first.</param>
/// <param name="IsSeries">Whether all of a series is copied, and not this date alone.</param>
/// <param name="Shift">How far away it lies, and where it goes.</param>
/// <param name="Remark">What is said to the keepers.</param>
public sealed record CopyEvent(Guid Id, LocalDateTime? Date, bool IsSeries, BoardShift Shift, string? Remark) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "copy";

    private protected override CommandOutcome Do(CommandState state)
    {
        var e = state.ToCopy(Id);
        var shift = Shift.Checked() with { CalendarId = state.Home(Shift.CalendarId ?? e.CalendarId).Id };
        state.NeedOffer(shift.CalendarId!.Value);
        var date = Date ?? e.All.First ?? e.Timing.Start;
        if (!e.All.Makes(date))
            throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
        var copies = IsSeries && !e.IsOneTime ? EventCopier.OfSeries(e, date, shift, state.Means) : [EventCopier.OfDate(e, date, shift, state.Means)];
        // Where it was made from stays told: what comes from elsewhere is looked up there.
        var copy = state.Access.Followed.Contains(e.CalendarId) ? copies[0] with { RelatedTo = e.Uid } : copies[0];
        var offering = Offering.OfNew(copy, state.Access, state.PersonId!.Value, Remark, state.Now, state.Days);
        // What comes beside a series nobody has approved yet has nothing to stand beside.
        return Offered(offering.Edits.Count == 0 ? offering : offering with { Edits = [.. offering.Edits, .. copies.Skip(1).Select(c => ((Event?)null, c))] }, [], state);
    }
}

/// <summary>Offers a change of an event.</summary>
/// <param name="Edit">The edit.</param>
/// <param name="Remark">What is said to the keepers.</param>
public sealed record OfferChange(EditEvent Edit, string? Remark) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "change";

    private protected override CommandOutcome Do(CommandState state)
    {
        var (before, start, replaced) = Start(Edit.Id, Edit.Version, state);
        var plan = Edit.Plan(start, state);
        EditEvent.NeedDecided(plan);
        state.CheckPlaces(before, plan.After);
        return Offered(Offering.OfChange(before, plan.After, [.. plan.Added], state.Access, state.PersonId!.Value, Remark, state.Now, state.Days), replaced, state);
    }
}

/// <summary>Offers that something is done to an event, or to one of its dates.</summary>
/// <param name="Step">What.</param>
/// <param name="Remark">What is said to the keepers.</param>
public sealed record OfferStep(StepEvent Step, string? Remark) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "change";

    private protected override CommandOutcome Do(CommandState state)
    {
        var (before, start, replaced) = Start(Step.Id, Step.Version, state);
        var after = Step.Stepped(start, state.Now);
        return Offered(Offering.OfChange(before, after, [], state.Access, state.PersonId!.Value, Remark, state.Now, state.Days), replaced, state);
    }
}

/// <summary>Changes a proposal of a new event as a whole: one that was sent back, or is not answered yet.</summary>
/// <param name="Id">Which.</param>
/// <param name="Version">The version it was seen in.</param>
/// <param name="CalendarId">The home that is meant now.</param>
/// <param name="Draft">What it shall be now; asked for once it is sure that they may change it.</param>
/// <param name="Remark">What is said to the keepers.</param>
public sealed record ReviseProposal(Guid Id, int Version, Guid CalendarId, Func<EventDraft> Draft, string? Remark) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "revise";

    private protected override CommandOutcome Do(CommandState state)
    {
        var before = Own(Id, state);
        if (before.Version != Version)
            throw new StaleWriteException(before.Id);
        _ = state.Home(CalendarId);
        var offered = Event.Create(before.EventId, CalendarId, Draft(), state.Now, state.Days);
        state.CheckPlaces(null, offered);
        var after = before.Revised(offered, Remark, offered.CalendarIds, state.Now);
        foreach (var ask in after.Asks)
            state.NeedOffer(ask.CalendarId);
        return new CommandOutcome { Steps = [], ProposalBefore = before, Proposal = after };
    }
}

/// <summary>Takes a proposal back. What was approved of it stays.</summary>
/// <param name="Id">Which.</param>
public sealed record WithdrawProposal(Guid Id) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "withdraw";

    private protected override CommandOutcome Do(CommandState state) => new() { Steps = [], Gone = [Own(Id, state)] };
}

/// <summary>Answers a proposal for some of the calendars.</summary>
/// <param name="Id">Which.</param>
/// <param name="Version">The version that was read.</param>
/// <param name="CalendarIds">For which calendars.</param>
/// <param name="Answer">What is said.</param>
/// <param name="Remark">With which words.</param>
public sealed record AnswerProposal(Guid Id, int Version, IReadOnlyCollection<Guid> CalendarIds, Answer Answer, string? Remark) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => Answer switch { Answer.Approved => "approve", Answer.SentBack => "send back", _ => "decline" };

    private protected override CommandOutcome Do(CommandState state)
    {
        var before = Found(Id, state);
        NeedKeeper(CalendarIds, state);
        if (before.Version != Version)
            throw new InvalidInputException("proposal_changed", "proposal", "It was changed by its proposer meanwhile. Read it again before you answer.");
        return Settled(before, before.Decide(CalendarIds, Answer, Remark, state.Events.GetValueOrDefault(before.EventId), state.PersonId, state.Now, state.Days), state);
    }
}

/// <summary>Takes answers to a proposal back, and with them what they did.</summary>
/// <param name="Id">Which.</param>
/// <param name="CalendarIds">The calendars they were given for.</param>
public sealed record ReopenProposal(Guid Id, IReadOnlyCollection<Guid> CalendarIds) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "reopen";

    private protected override CommandOutcome Do(CommandState state)
    {
        var before = Found(Id, state);
        NeedKeeper(CalendarIds, state);
        var added = before.Added.Select(e => state.Events.GetValueOrDefault(e.Id)).OfType<Event>().ToList();
        return Settled(before, before.Reopen(CalendarIds, state.Events.GetValueOrDefault(before.EventId), added, state.Now, state.Days), state);
    }
}

/// <summary>Puts a proposal into a state it had, as a step on it is undone or redone: of the step's own author, over what it left alone.</summary>
/// <param name="Id">Which.</param>
/// <param name="Over">The state the step left; null when it took the proposal away.</param>
/// <param name="State">The state; null where there was none.</param>
public sealed record PutProposal(Guid Id, Proposal? Over, Proposal? State) : ProposalCommand
{
    /// <inheritdoc/>
    public override string Name => "undo";

    /// <summary>What becomes of the versions of events in answers: they are taken back only over what they made.</summary>
    public IReadOnlyDictionary<int, int> Versions { get; init; } = new Dictionary<int, int>();

    private protected override CommandOutcome Do(CommandState state)
    {
        var now = state.Proposals.FirstOrDefault(p => p.Id == Id);
        if (now is null != Over is null || (now is not null && !now.SaysAs(Over!)))
            throw new StaleWriteException(Id);
        if (State is null)
            return new CommandOutcome { Steps = [], Gone = now is null ? [] : [now] };
        var put = State with { Asks = [.. State.Asks.Select(a => a.EventVersion is { } v && Versions.TryGetValue(v, out var to) ? a with { EventVersion = to } : a)] };
        return new CommandOutcome { Steps = [], ProposalBefore = now, Proposal = put };
    }
}
