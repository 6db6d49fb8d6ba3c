using NodaTime;
using Valtro.Server.Commands;
using Valtro.Server.Views;

namespace Valtro.Server.Undo;

/// <summary>An event in the bin.</summary>
internal sealed record BinnedDto(Guid Id, Guid CalendarId, string Title, LocalDateTime Start, bool IsSeries, Instant DeletedAt, Instant Until);

/// <summary>Which step; without one the last.</summary>
internal sealed record UndoStepInput(Guid? Step);

internal static class UndoEndpoints
{
    public static void MapUndo(this IEndpointRouteBuilder api)
    {
        // The last own step of the last hour, whoever forgot it: a reload, another screen.
        api.MapPost("/me/undo", (UndoStepInput? input, UndoHandler undo) => undo.HandleAsync(isRedo: false, input?.Step));

        api.MapPost("/me/redo", (UndoStepInput? input, UndoHandler undo) => undo.HandleAsync(isRedo: true, input?.Step));

        api.MapGet("/bin", async (EventViews views) =>
            (await views.BinAsync())
                .Select(e => new BinnedDto(e.Id, e.StandsIn[0], e.Title!, e.Said!.Timing.Start, e.Said.Rule is not null, e.DeletedAt!.Value, e.DeletedAt.Value + Core.Events.Event.BinTime))
                .ToList());
    }
}
