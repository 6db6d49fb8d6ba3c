using NodaTime;
using Valtro.Core.Commands;
using Valtro.Server.Commands;

namespace Valtro.Server.Events;

internal sealed record SkipInput(LocalDateTime Date, int Version);

internal static class StepEvents
{
    private static readonly (string Verb, DateStep Step)[] Verbs =
    [
        ("call-off", DateStep.CallOff), ("call-on", DateStep.CallOn), ("as-others", DateStep.AsOthers), ("add-date", DateStep.AddDate),
        ("remove-date", DateStep.RemoveDate), ("leave-out", DateStep.LeaveOut), ("put-back", DateStep.PutBack),
    ];

    public static void MapSteps(this IEndpointRouteBuilder events)
    {
        foreach (var (verb, step) in Verbs)
        {
            events.MapPost($"/{{id:guid}}/{verb}", (Guid id, SkipInput input, CommandHandler commands) =>
                OneAsync(id, commands, new StepEvent(id, input.Version, step, input.Date)));
        }

        events.MapDelete("/{id:guid}", (Guid id, int version, CommandHandler commands) =>
            OneAsync(id, commands, new StepEvent(id, version, DateStep.Delete, null)));

        events.MapPost("/{id:guid}/restore", (Guid id, CommandHandler commands) => OneAsync(id, commands, new RestoreEvent(id)));
    }

    private static Task<EventDto> OneAsync(Guid id, CommandHandler commands, EventCommand command) =>
        commands.HandleAsync(CommandNeeds.Of(id), _ => command, done => EventDto.Of(done.View(id)));
}
