using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Server.Commands;

namespace Valtro.Server.Events;

/// <summary>Puts an event back to the state it had before an edit, and the events that came with it into the bin.</summary>
internal sealed record UndoInput(EventDto State, int Version, IReadOnlyList<Guid>? Added);

internal sealed record UndoManyInput(IReadOnlyList<BulkChangedDto>? Events);

internal static class PutBack
{
    public static void MapPutBack(this IEndpointRouteBuilder events)
    {
        // A state of the history, or one that the sender has kept.
        events.MapPost("/{id:guid}/undo", (Guid id, UndoInput input, CommandHandler commands) =>
            commands.HandleAsync(
                CommandNeeds.Of([id, .. (input.Added ?? []).Take(SeriesPlan.MaxDates)]),
                state =>
                {
                    var before = state.ToChange(id, input.Version);
                    var added = (input.Added ?? []).Where(a => state.Events.TryGetValue(a, out var e) && e.RelatedTo == before.Uid);
                    return new Together([Put(input.State, before, input.Version, state), .. added.Distinct().Select(a => new StepEvent(a, null, DateStep.Delete, null))]);
                },
                done => EventDto.Of(done.View(id))));

        events.MapPost("/undo", (UndoManyInput input, CommandHandler commands) =>
            input.Events is null or { Count: 0 or > LinesRequest.MaxLines }
                ? throw new InvalidInputException("selection_size", "events", $"Between 1 and {LinesRequest.MaxLines} events are put back at once.")
                : commands.HandleAsync(
                    CommandNeeds.Of([.. input.Events.Select(e => e.State.Id)]),
                    state => new Together([.. input.Events.DistinctBy(e => e.State.Id).Select(e => Put(e.State, state.ToChange(e.State.Id, e.Version), e.Version, state))]),
                    done => new BulkDto([.. done.Outcome.Steps.Select(s => new BulkChangedDto(EventDto.Of(done.State.Eyes.View(s.Before!)!), s.After.Version))], [])));
    }

    private static PutState Put(EventDto said, Event now, int version, CommandState state) => new(now.Id, version, said.ToState(now, state.Now));
}
