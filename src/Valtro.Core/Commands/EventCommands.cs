using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Core.Commands;

/// <summary>A command about events that their editors give.</summary>
public abstract record EventCommand : Command
{
    private protected EventCommand()
    {
    }

    private protected sealed override CommandOutcome Do(CommandState state)
    {
        var outcome = Change(state);
        foreach (var step in outcome.Steps)
            state.NeedChange(step.Before ?? Origin(state), step.After);
        return outcome;
    }

    /// <summary>The event that new ones come from; null where they come from none.</summary>
    private protected virtual Event? Origin(CommandState state) => null;

    private protected abstract CommandOutcome Change(CommandState state);

    private protected static CommandOutcome One(Event? before, Event after) => new() { Steps = [new EventStep(before, after)] };
}

/// <summary>Makes an event.</summary>
/// <param name="Id">Its identity.</param>
/// <param name="CalendarId">Its home calendar.</param>
/// <param name="Draft">What it shall be.</param>
public sealed record MakeEvent(Guid Id, Guid CalendarId, EventDraft Draft) : EventCommand
{
    /// <inheritdoc/>
    public override string Name => "create";

    private protected override CommandOutcome Change(CommandState state)
    {
        _ = state.Home(CalendarId);
        return One(null, Event.Create(Id, CalendarId, Draft, state.Now, state.Days));
    }
}

/// <summary>Edits an event: some of its dates or all, its texts, what it has beside, its calendar.</summary>
/// <param name="Id">Which.</param>
/// <param name="Version">The version the edit was made from.</param>
/// <param name="Edit">The edit, with its scope.</param>
/// <param name="Choices">What was decided about changes that no longer fit.</param>
public sealed record EditEvent(Guid Id, int? Version, SeriesEdit Edit, IReadOnlyDictionary<LocalDateTime, MisfitChoice> Choices) : EventCommand
{
    /// <inheritdoc/>
    public override string Name => "change";

    /// <summary>What the edit would do, for those who may make it or propose it; nothing is decided by it.</summary>
    public SeriesPlan Try(CommandState state) => Plan(state.ToOffer(Id, Version), state);

    internal SeriesPlan Plan(Event before, CommandState state)
    {
        var plan = SeriesEditor.Plan(before, Edit with { Draft = state.Carried(before, Edit.Draft) }, Choices, state.Now, state.NewId, state.Days);
        if (Edit.Scope == EditScope.ThisDate && !before.IsOneTime && plan.After.All.Of(Edit.Date)?.Facts.CategoryId is { } id
            && before.All.Of(Edit.Date)?.Facts.CategoryId != id && state.Lists.Category(id) is { Reach: not null } category)
        {
            // Who sees what is decided of whole events: what one date alone kept back would be told by its absence.
            throw new InvalidInputException("date_category", "facts.categoryId", $"“{category.Name}” shows less to some readers, and one date alone cannot. Choose every date, or another category.");
        }
        return plan;
    }

    internal static void NeedDecided(SeriesPlan plan)
    {
        if (plan.Undecided.Count > 0)
            throw new InvalidInputException("changes_undecided", "choices", "Some changed dates no longer fit. Decide for each what becomes of it.");
    }

    private protected override Event? Origin(CommandState state) => state.Events[Id];

    private protected override CommandOutcome Change(CommandState state)
    {
        var plan = Plan(state.ToChange(Id, Version), state);
        NeedDecided(plan);
        return new CommandOutcome { Steps = [new EventStep(plan.Before, plan.After), .. plan.Added.Select(e => new EventStep(null, e))], Plan = plan };
    }
}

/// <summary>What is done to an event, or to one of its dates.</summary>
public enum DateStep
{
    /// <summary>The whole event goes into the bin.</summary>
    Delete,

    /// <summary>A date is left out of its series.</summary>
    LeaveOut,

    /// <summary>A date that was left out is put back.</summary>
    PutBack,

    /// <summary>A date is called off: it stays visible, struck through.</summary>
    CallOff,

    /// <summary>A date is on again.</summary>
    CallOn,

    /// <summary>A date is added to its series.</summary>
    AddDate,

    /// <summary>An added date is taken away.</summary>
    RemoveDate,

    /// <summary>Nothing differs on a date any more.</summary>
    AsOthers,
}

/// <summary>Does something to an event, or to one of its dates.</summary>
/// <param name="Id">Which.</param>
/// <param name="Version">The version it was seen in.</param>
/// <param name="Step">What.</param>
/// <param name="Date">Which date; null for the whole event.</param>
public sealed record StepEvent(Guid Id, int? Version, DateStep Step, LocalDateTime? Date) : EventCommand
{
    /// <inheritdoc/>
    public override string Name => Step switch
    {
        DateStep.Delete => "bin",
        DateStep.LeaveOut => "leave out",
        DateStep.PutBack => "put back",
        DateStep.CallOff => "call off",
        DateStep.CallOn => "call on",
        DateStep.AddDate => "add date",
        DateStep.RemoveDate => "remove date",
        _ => "as others",
    };

    internal Event Stepped(Event e, Instant now)
    {
        if (Step == DateStep.Delete)
            return e.Delete(now);
        var date = Date ?? throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
        return Step switch
        {
            DateStep.LeaveOut => e.Skip(date, now),
            DateStep.PutBack => e.Unskip(date, now),
            DateStep.CallOff => e.CallOff(date, true, now),
            DateStep.CallOn => e.CallOff(date, false, now),
            DateStep.AddDate => e.AddDate(date, now),
            DateStep.RemoveDate => e.RemoveExtra(date, now),
            _ => e.WithoutChange(date, now),
        };
    }

    private protected override CommandOutcome Change(CommandState state)
    {
        var before = state.ToChange(Id, Version);
        return One(before, Stepped(before, state.Now));
    }
}

/// <summary>Takes an event out of the bin.</summary>
/// <param name="Id">Which.</param>
public sealed record RestoreEvent(Guid Id) : EventCommand
{
    /// <inheritdoc/>
    public override string Name => "restore";

    private protected override CommandOutcome Change(CommandState state)
    {
        var before = state.ToChange(Id, null);
        return One(before, before.Restore(state.Now));
    }
}

/// <summary>Does one thing to some dates of an event, as a part of a selection.</summary>
/// <param name="Id">Which event.</param>
/// <param name="Dates">Which of its dates.</param>
/// <param name="Action">What.</param>
public sealed record ChangeDates(Guid Id, IReadOnlyList<LocalDateTime> Dates, BulkAction Action) : EventCommand
{
    /// <inheritdoc/>
    public override string Name => "change many";

    private protected override CommandOutcome Change(CommandState state)
    {
        if (Action.CopyTo is { } to)
            return new CommandOutcome { Steps = [.. Copies(state, to).Select(c => new EventStep(null, c))] };
        var before = state.ToChange(Id, null);
        return One(before, BulkEditor.Apply(before, Dates, Action, state.Now, state.Days));
    }

    private IEnumerable<Event> Copies(CommandState state, Guid to)
    {
        var e = state.ToCopy(Id);
        var (means, shift) = (state.Means, new BoardShift(CalendarId: state.Home(to).Id));
        if (e.IsOneTime)
            return [EventCopier.OfDate(e, e.Timing.Start, shift, means)];
        return Action.CopiesSeries ? EventCopier.OfSeries(e, Dates[0], shift, means) : Dates.Select(d => EventCopier.OfDate(e, d, shift, means));
    }
}

/// <summary>Puts an event into a state it had: to undo, to redo, or from its history. Identity and version stay the event's own.</summary>
/// <param name="Id">Which.</param>
/// <param name="Version">The version it was seen in; null when that plays no part.</param>
/// <param name="State">The state.</param>
public sealed record PutState(Guid Id, int? Version, Event State) : EventCommand
{
    /// <summary>The state that a step left, over which alone it may be taken back: nobody's later work is lost. Null for any.</summary>
    public Event? Over { get; init; }

    /// <summary>What it is called in the history.</summary>
    public string As { get; init; } = "undo";

    /// <inheritdoc/>
    public override string Name => As;

    private protected override CommandOutcome Change(CommandState state)
    {
        var now = state.ToChange(Id, Version);
        if (Over is not null && !now.SaysAs(Over))
            throw new StaleWriteException(state.Eyes.View(now)!);
        var put = State with
        {
            Id = now.Id,
            Uid = now.Uid,
            RelatedTo = now.RelatedTo,
            Facts = (state.Carried(now, new EventDraft(null, null, null, State.Timing, null, Facts: State.Facts)).Facts ?? State.Facts).Checked(State.CalendarId),
            DeletedAt = State.DeletedAt is null ? null : now.DeletedAt ?? state.Now,
            Sequence = now.Sequence,
            Version = now.Version,
            CreatedAt = now.CreatedAt,
            ChangedAt = now.ChangedAt,
            Stamps = now.Stamps,
            BySchoolDays = now.BySchoolDays,
        };
        return One(now, put.OnSchoolDays(state.Days).After(now, state.Now));
    }
}

/// <summary>Several as one: all of them or none, and one step to take back.</summary>
/// <param name="Parts">The commands, each about events of its own.</param>
public sealed record Together(IReadOnlyList<EventCommand> Parts) : Command
{
    /// <inheritdoc/>
    public override string Name => Parts.Count == 0 ? "change many" : Parts[0].Name;

    private protected override CommandOutcome Do(CommandState state) =>
        new() { Steps = [.. Parts.SelectMany(p => p.Apply(state).Steps)] };
}

/// <summary>
/// Changes what may be changed of a selection, as one step to take back; what may not, or cannot be so, is left as it is and
/// named. When nothing can be changed, the first refusal stands.
/// </summary>
/// <param name="Parts">The commands, each about an event of its own.</param>
public sealed record ChangeMany(IReadOnlyList<ChangeDates> Parts) : Command
{
    /// <inheritdoc/>
    public override string Name => "change many";

    private protected override CommandOutcome Do(CommandState state)
    {
        var (steps, left) = (new List<EventStep>(), new List<LeftAsItIs>());
        Exception? refusal = null;
        foreach (var part in Parts)
        {
            try
            {
                steps.AddRange(part.Apply(state).Steps);
            }
            catch (Exception error) when (error is NotAllowedException or NotFoundException or InvalidInputException)
            {
                refusal ??= error;
                left.Add(new LeftAsItIs(part.Id, error switch { NotFoundException gone => gone.Code, InvalidInputException wrong => wrong.Code, _ => "forbidden" }, error.Message));
            }
        }
        if (left.Count == Parts.Count && refusal is not null)
            System.Runtime.ExceptionServices.ExceptionDispatchInfo.Throw(refusal);
        return new() { Steps = steps, Left = left };
    }
}

/// <summary>Computes the series that follow school days anew, for a year that changes. The program does it.</summary>
public sealed record FollowYears : Command
{
    /// <inheritdoc/>
    public override string Name => "school year";

    private protected override CommandOutcome Do(CommandState state) =>
        new() { Steps = [.. state.Events.Values.Select(e => new EventStep(e, e.Recomputed(state.Days, state.Now)))] };
}

/// <summary>Puts events there as they are: the demo's, and what comes from a backup. The program does it.</summary>
/// <param name="Events">The events.</param>
public sealed record FillEvents(IReadOnlyList<Event> Events) : Command
{
    /// <inheritdoc/>
    public override string Name => "create";

    private protected override CommandOutcome Do(CommandState state) => new() { Steps = [.. Events.Select(e => new EventStep(null, e))] };
}
