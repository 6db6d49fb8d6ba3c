using NodaTime;
using Valtro.Core.People;
using Valtro.Server.Commands;
using Valtro.Server.Sessions;
using Valtro.Server.Views;

namespace Valtro.Server.Undo;

/// <summary>An event in the bin.</summary>
internal sealed record BinnedDto(Guid Id, Guid CalendarId, string Title, LocalDateTime Start, bool IsSeries, Instant DeletedAt, Instant Until);

/// <summary>A calendar in the bin, with what stands in it.</summary>
internal sealed record BinnedCalendarDto(Guid Id, string Title, int Mark, int Events, Instant DeletedAt);

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

        // Those one may take out again.
        api.MapGet("/bin/calendars", async (Caller caller, Store.Calendars store) =>
        {
            var may = await caller.AccessAsync();
            var binned = (await store.BinAsync(caller.SchoolId)).Where(c => may.Has(c.Id, CalendarRole.Keeper)).ToList();
            var events = await store.EventsInAsync(caller.SchoolId, [.. binned.Select(c => c.Id)]);
            return binned.Select(c => new BinnedCalendarDto(c.Id, c.Title, c.Mark, events.GetValueOrDefault(c.Id), c.DeletedAt!.Value)).ToList();
        });
    }
}
