using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Core.Views;
using Valtro.Server.Checks;
using Valtro.Server.Commands;
using Valtro.Server.Events;
using Valtro.Server.Files;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Proposals;

/// <summary>Events and changes are offered, and answered calendar by calendar.</summary>
internal static class ProposalEndpoints
{
    public static void MapProposals(this IEndpointRouteBuilder api)
    {
        var group = api.MapGroup("/proposals");

        group.MapGet("", async (EventViews views, ProposalTelling telling) => await telling.OfAsync(await views.ProposalsAsync()));

        // Computes only: whom an event that is typed would be offered to, before it is.
        group.MapGet("/asked", async (Guid calendarId, Guid[] alsoIn, Guid? eventId, EventViews views, Caller caller, ProposalTelling telling) =>
        {
            await caller.NeedSightAsync(calendarId);
            var before = eventId is { } id ? (await views.NeedAsync(id, Core.Reach.Detail.Everything)).StandsIn : [];
            var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
            var asked = Offering.ToAsk(alsoIn.Prepend(calendarId), before, may).Where(c => calendars.TryGetValue(c, out var calendar) && may.Sees(calendar)).ToList();
            return await telling.AskedAsync(asked);
        });

        group.MapPost("", (OfferInput input, CommandHandler commands, ProposalTelling telling) =>
            OfferAsync(commands, telling, CommandNeeds.Nothing, state => new OfferEvent(state.NewId(), input.Event.CalendarId, input.Event.ToDraft(state), input.Remark)));

        group.MapPost("/change/{eventId:guid}", (Guid eventId, OfferChangeInput input, CommandHandler commands, ProposalTelling telling) =>
            OfferAsync(commands, telling, new CommandNeeds([eventId], [], eventId), state => new OfferChange(input.Edit.ToCommand(eventId, state), input.Remark)));

        group.MapPost("/step/{eventId:guid}", (Guid eventId, OfferStepInput input, CommandHandler commands, ProposalTelling telling) =>
            OfferAsync(commands, telling, new CommandNeeds([eventId], [], eventId), _ => new OfferStep(new StepEvent(eventId, input.Version, input.Step, input.Date), input.Remark)));

        group.MapPost("/copy/{eventId:guid}", (Guid eventId, CopyInput input, CommandHandler commands, ProposalTelling telling) =>
            OfferAsync(commands, telling, CommandNeeds.Of(eventId), _ => new CopyEvent(eventId, input.Date, input.IsSeries, input.Shift ?? new BoardShift(), input.Remark)));

        // What was sent back, or is not answered yet, is changed as a whole.
        group.MapPut("/{id:guid}", (Guid id, OfferInput input, CommandHandler commands, ProposalTelling telling) =>
            OneAsync(commands, telling, id, state => new ReviseProposal(id, input.Version ?? 0, input.Event.CalendarId, () => input.Event.ToDraft(state), input.Remark)));

        group.MapDelete("/{id:guid}", async (Guid id, CommandHandler commands) =>
        {
            await commands.HandleAsync(new CommandNeeds([], [id]), _ => new WithdrawProposal(id), _ => (object?)null);
            return TypedResults.NoContent();
        });

        group.MapPost("/{id:guid}/answer", (Guid id, AnswerInput input, CommandHandler commands, ProposalTelling telling) =>
            OneAsync(commands, telling, id, _ => new AnswerProposal(id, input.Version, input.CalendarIds ?? [], input.Answer, input.Remark)));

        group.MapPost("/{id:guid}/reopen", (Guid id, ReopenInput input, CommandHandler commands, ProposalTelling telling) =>
            OneAsync(commands, telling, id, _ => new ReopenProposal(id, input.CalendarIds ?? [])));

        // Computes only: what it would clash with, other proposals among it.
        group.MapGet("/{id:guid}/clashes", async (Guid id, EventViews views, ClashCheck check) =>
        {
            var proposal = await views.ProposalAsync(id);
            var others = (await views.ProposalsAsync()).Where(p => p.Proposal.Id != id && p.Proposal.IsOffer).Select(p => p.Offered);
            return await check.OfAsync(proposal.Now ?? proposal.Offered, [.. others]);
        });

        group.MapGet("/{id:guid}/files/{fileId:guid}/{name?}", async (Guid id, Guid fileId, string? name, HttpContext http, Caller caller, EventViews views, Contents contents) =>
        {
            var file = (await views.ProposalAsync(id)).Offered.Files.FirstOrDefault(f => f.Id == fileId) ?? throw FileEndpoints.Missing();
            var content = await contents.FindAsync(caller.SchoolId, file.ContentId) ?? throw FileEndpoints.Missing();
            return await FileEndpoints.SendAsync(http, contents, caller.SchoolId, content, 0, file.Name);
        });
    }

    private static async Task<OfferedDto> OfferAsync(CommandHandler commands, ProposalTelling telling, CommandNeeds needs, Func<CommandState, Command> build)
    {
        var names = await telling.NamesAsync();
        return await commands.HandleAsync(needs, build, done => new OfferedDto(
            done.Outcome.Steps.Count == 0 ? null : done.Views[0] is { } e ? EventDto.Of(e) : null,
            done.Outcome.Proposal is { } proposal ? telling.Of(Viewed(done, proposal), done.State, names) : null));
    }

    private static async Task<ProposalDto> OneAsync(CommandHandler commands, ProposalTelling telling, Guid id, Func<CommandState, Command> build)
    {
        var names = await telling.NamesAsync();
        return await commands.HandleAsync(new CommandNeeds([], [id]), build, done => telling.Of(Viewed(done, done.Outcome.Proposal!), done.State, names));
    }

    private static ProposalView Viewed(Done done, Proposal proposal)
    {
        var current = done.Outcome.Steps.FirstOrDefault(s => s.After.Id == proposal.EventId)?.After ?? done.State.Events.GetValueOrDefault(proposal.EventId);
        return ProposalView.Of(proposal, current, done.State.Access, done.State.Eyes, done.State.PersonId!.Value, done.State.Days);
    }
}
