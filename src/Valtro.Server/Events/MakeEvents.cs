using Valtro.Core.Commands;
using Valtro.Server.Commands;

namespace Valtro.Server.Events;

internal sealed record ManyInput(IReadOnlyList<EventInput>? Events);

internal static class MakeEvents
{
    public static void MapMake(this IEndpointRouteBuilder events)
    {
        events.MapPost("", (EventInput input, CommandHandler commands) =>
            commands.HandleAsync(CommandNeeds.Nothing, state => Made(input, state), done => EventDto.Of(done.Views[0]!)));

        // Several new ones, as from a pasted list: all of them or none.
        events.MapPost("/many", (ManyInput input, CommandHandler commands) =>
            input.Events is null or { Count: 0 or > LinesRequest.MaxLines }
                ? throw new InvalidInputException("selection_size", "events", $"Between 1 and {LinesRequest.MaxLines} events are added at once.")
                : commands.HandleAsync(
                    CommandNeeds.Nothing,
                    state => new Together([.. input.Events.Select(one => Made(one, state))]),
                    done => done.Views.Select(e => EventDto.Of(e!)).ToList()));
    }

    private static MakeEvent Made(EventInput input, CommandState state) => new(state.NewId(), input.CalendarId, input.ToDraft(state));
}
