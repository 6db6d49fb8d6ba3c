using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Server.Audit;
using Valtro.Server.Commands;

namespace Valtro.Server.Events;

internal sealed record MovedDto(LocalDateTime From, LocalDateTime To);

/// <summary>What becomes of a change: the date it goes to, or none and the nearest there is.</summary>
internal sealed record PlannedChangeDto(ChangeDto Change, LocalDateTime? To, LocalDateTime? Nearest);

/// <summary>What an edit would do.</summary>
internal sealed record PlanDto(
    bool Splits,
    IReadOnlyList<LocalDateTime> Come,
    IReadOnlyList<LocalDateTime> Gone,
    IReadOnlyList<MovedDto> Moved,
    IReadOnlyList<PlannedChangeDto> Refitted,
    IReadOnlyList<PlannedChangeDto> Misfits,
    int KeptChanges,
    IReadOnlyList<LocalDateTime> LostSkips,
    IReadOnlyList<MovedDto> OntoLeftOut);

/// <summary>What an edit did: the event, and the events that are new with it.</summary>
internal sealed record EditedDto(EventDto Event, IReadOnlyList<EventDto> Added);

internal static class EditEvents
{
    public static void MapEdit(this IEndpointRouteBuilder events)
    {
        events.MapPut("/{id:guid}", (Guid id, EditInput input, CommandHandler commands) =>
            commands.HandleAsync(
                CommandNeeds.Of(id),
                state => input.ToCommand(id, state),
                done => new EditedDto(EventDto.Of(done.View(id)), [.. done.Outcome.Plan!.Added.Select(e => EventDto.Of(done.View(e.Id)))])));

        // Computes only: what the edit would do, before it is done or proposed.
        events.MapPost("/{id:guid}/plan", async (Guid id, EditInput input, CommandHandler commands) =>
        {
            var plan = await commands.TryAsync(id, state => input.ToCommand(id, state));
            static PlannedChangeDto Planned(PlannedChange c) => new(ChangeDto.Of(c.Change), c.To, c.Nearest);
            return new PlanDto(
                plan.Second is not null,
                plan.Come,
                plan.Gone,
                [.. plan.Moved.Select(m => new MovedDto(m.From, m.To))],
                [.. plan.Changes.Where(c => !c.IsKept && !c.IsMisfit).Select(Planned)],
                [.. plan.Changes.Where(c => c.IsMisfit).Select(Planned)],
                plan.Changes.Count(c => c.IsKept),
                plan.LostSkips,
                [.. plan.OntoLeftOut.Select(m => new MovedDto(m.From, m.To))]);
        }).IsNotLogged();
    }
}
