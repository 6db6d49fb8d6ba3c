using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Server.Audit;
using Valtro.Server.Views;

namespace Valtro.Server.Events;

/// <summary>What the fields of an event's sheet are asked for.</summary>
/// <param name="Date">The date the sheet was opened on; null for the first.</param>
/// <param name="Scope">Which dates are meant; null for what one begins with.</param>
/// <param name="Shift">How far it was moved on the board, all in all, still to be saved.</param>
/// <param name="Moved">How much of that is in what was typed.</param>
/// <param name="Typed">What was typed; null for nothing.</param>
/// <param name="Over">What the fields held before it was typed and moved.</param>
/// <param name="Was">Which dates that was meant for; null for those meant now.</param>
/// <param name="ProposalId">The proposal that is gone on with instead of the event as it is.</param>
internal sealed record FieldsInput(
    LocalDateTime? Date, EditScope? Scope = null, BoardShift? Shift = null, BoardShift? Moved = null, EventInput? Typed = null, EventInput? Over = null, EditScope? Was = null, Guid? ProposalId = null);

/// <summary>What stands in the fields.</summary>
/// <param name="Event">The event they are of.</param>
/// <param name="Scope">Which dates are meant.</param>
/// <param name="Blank">What they hold before anything is typed.</param>
/// <param name="Typed">That with what was typed and moved.</param>
/// <param name="Conflicts">The names of what was typed and saved by somebody else, differently.</param>
internal sealed record FieldsDto(EventDto Event, EditScope Scope, EventInput Blank, EventInput Typed, IReadOnlyList<string> Conflicts);

internal static class EventFieldsEndpoint
{
    public static void MapFields(this IEndpointRouteBuilder events) =>
        events.MapPost("/{id:guid}/fields", async (Guid id, FieldsInput input, EventViews views) =>
        {
            var now = await views.NeedAsync(id, Detail.Everything);
            var view = input.ProposalId is { } proposal ? await views.OfferedAsync(proposal, id) : now;
            var (shift, moved) = (input.Shift?.Checked() ?? BoardShift.None, input.Moved?.Checked() ?? BoardShift.None);
            // One date alone cannot go to another calendar.
            var goes = shift.CalendarId is { } to && to != moved.CalendarId;
            var scope = goes || view.Said!.Rule is null ? EditScope.EveryDate : input.Scope ?? EditScope.ThisDate;
            var date = input.Date ?? view.Said!.Timing.Start;
            var blank = EventFields.Of(view, date, scope);
            var given = input is { Typed: { } mine, Over: { } over } ? new TypedFields(mine.ToFields(), over.ToFields(), input.Was, moved) : null;
            var typed = EventFields.Filled(blank, date, scope, shift, given, out var conflicts);
            return new FieldsDto(EventDto.Of(view) with { Version = now.Version }, scope, EventInput.Of(blank, now.Version), EventInput.Of(typed, now.Version), conflicts);
        }).IsNotLogged();
}
