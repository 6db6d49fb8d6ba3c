using NodaTime;
using Valtro.Core.Reach;
using Valtro.Server.Views;

namespace Valtro.Server.Events;

/// <summary>Something that was done to an event, with the event before and after as the one who asks gets them.</summary>
internal sealed record HistoryDto(Guid Id, Instant At, string? Person, string Action, EventDto? Before, EventDto? After);

internal static class ReadEvent
{
    public static void MapRead(this IEndpointRouteBuilder events)
    {
        events.MapGet("/{id:guid}", async (Guid id, EventViews views) => EventDto.Of(await views.NeedAsync(id, Detail.Headlines)));

        events.MapGet("/{id:guid}/history", async (Guid id, EventViews views) =>
            (await views.HistoryAsync(id)).Select(h => new HistoryDto(h.Id, h.At, h.Person, h.Action, h.Before is null ? null : EventDto.Of(h.Before), h.After is null ? null : EventDto.Of(h.After))).ToList());
    }
}
