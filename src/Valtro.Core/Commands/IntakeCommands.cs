using Valtro.Core.People;
using Valtro.Core.Sources;

namespace Valtro.Core.Commands;

/// <summary>Which origins a command has to know.</summary>
/// <param name="SourceId">Those of a source that is followed; null for those of files.</param>
/// <param name="Keys">For files, what is known by these keys; those of <paramref name="Name"/> too.</param>
/// <param name="Name">The name of the file.</param>
/// <param name="CalendarIds">For files, of events of these calendars alone.</param>
public sealed record OriginNeeds(Guid? SourceId, IReadOnlyCollection<string> Keys, string Name, IReadOnlyCollection<Guid> CalendarIds);

/// <summary>
/// Takes in what was read of a file or an address: what is new comes, what is here follows, what is gone goes, and what was
/// added here stays (<see cref="Intake"/>). All of it or nothing, and one step to take back.
/// </summary>
/// <param name="Read">What was read.</param>
/// <param name="Wish">What is wanted of it.</param>
public sealed record TakeIn(IReadOnlyList<SourceEvent> Read, IntakeWish Wish) : EventCommand
{
    /// <inheritdoc/>
    public override string Name => Wish.SourceId is null ? "bring in" : "follow";

    /// <summary>What it would do; nothing is decided by it.</summary>
    public IReadOnlyList<IntakeRow> Try(CommandState state)
    {
        // The same calendar comes again and again.
        foreach (var calendar in Read.Select(Wish.CalendarOf).OfType<Guid>().Distinct())
        {
            _ = state.Home(calendar);
            if (state.PersonId is not null && !state.Access.MayEdit(calendar))
                throw state.Access.Followed.Contains(calendar) ? NotAllowedException.Followed() : NotAllowedException.Role(CalendarRole.Editor);
        }
        return Intake.Plan(Read, state.Origins, state.Events, Wish, state.Now, state.Days, state.NewId, e => state.IsUidFree(e.Key) ? e.Key : null);
    }

    private protected override CommandOutcome Change(CommandState state)
    {
        var rows = Try(state);
        return new CommandOutcome
        {
            Steps = [.. rows.Where(r => r.After is not null).Select(r => new EventStep(r.Before, r.After!))],
            Taken = rows,
        };
    }
}

/// <summary>
/// Ends that a source is followed: what it gave stays as the school's own, or goes with it, less what something was added to.
/// </summary>
/// <param name="SourceId">Which.</param>
/// <param name="Keeps">Whether it stays.</param>
public sealed record StopFollowing(Guid SourceId, bool Keeps) : Command
{
    /// <inheritdoc/>
    public override string Name => "stop following";

    private protected override CommandOutcome Do(CommandState state) => Keeps
        ? CommandOutcome.Nothing
        : new CommandOutcome
        {
            Steps =
            [
                .. state.Origins.Where(o => state.Events.TryGetValue(o.EventId, out var e) && e.DeletedAt is null && !o.HasOwn(e))
                    .Select(o => new EventStep(state.Events[o.EventId], state.Events[o.EventId].Delete(state.Now))),
            ],
        };
}
