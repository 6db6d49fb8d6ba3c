using System.Security.Claims;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Server.Api;
using Valtro.Server.Checks;
using Valtro.Server.Events;
using Valtro.Server.Files;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Proposals;

/// <summary>Events and changes are offered, and answered calendar by calendar.</summary>
internal static class ProposalEndpoints
{
    public static void MapProposals(this IEndpointRouteBuilder api)
    {
        var group = api.MapGroup("/proposals");

        group.MapGet("", async (Caller caller, Store.Proposals store, ProposalView view, IClock clock) =>
            await view.OfAsync(await VisibleAsync(caller, store, clock)));

        group.MapPost("", (OfferInput input, ClaimsPrincipal user, Caller caller, Store.Proposals store, ProposalView view, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var draft = await EventEndpoints.DraftAsync(input.Event, null, author.SchoolId, calendars);
                var wanted = Event.Create(Guid.CreateVersion7(), input.Event.CalendarId, draft, author.Now, years.Days);
                var offering = Offering.OfNew(wanted, await caller.AccessAsync(), user.PersonId(), input.Remark, author.Now, years.Days);
                return await OfferAsync(offering, [], author, years, caller, store, view);
            }));

        group.MapPost("/change/{eventId:guid}", (Guid eventId, OfferChangeInput input, ClaimsPrincipal user, Caller caller, Store.Proposals store, Store.Events events, ProposalView view, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var (before, start, replaced) = await StartAsync(eventId, input.Edit.Version, author, years, caller, store, events);
                var plan = await EventEndpoints.PlanAsync(start, input.Edit, author, calendars, years.Days);
                if (plan.Undecided.Count > 0)
                    throw EventEndpoints.Undecided();
                var offering = Offering.OfChange(before, plan.After, [.. plan.Added], await caller.AccessAsync(), user.PersonId(), input.Remark, author.Now, years.Days);
                return await OfferAsync(offering, replaced, author, years, caller, store, view);
            }));

        group.MapPost("/step/{eventId:guid}", (Guid eventId, OfferStepInput input, ClaimsPrincipal user, Caller caller, Store.Proposals store, Store.Events events, ProposalView view, SchoolYears schoolYears, IClock clock) =>
            EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var (before, start, replaced) = await StartAsync(eventId, input.Version, author, years, caller, store, events);
                var after = Stepped(start, input, author.Now);
                var offering = Offering.OfChange(before, after, [], await caller.AccessAsync(), user.PersonId(), input.Remark, author.Now, years.Days);
                return await OfferAsync(offering, replaced, author, years, caller, store, view);
            }));

        // What was sent back, or is not answered yet, is changed as a whole.
        group.MapPut("/{id:guid}", (Guid id, OfferInput input, ClaimsPrincipal user, Caller caller, Store.Proposals store, ProposalView view, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                await OwnAsync(id, caller, store);
                var draft = await EventEndpoints.DraftAsync(input.Event, null, author.SchoolId, calendars);
                var revised = await store.ReviseAsync(
                    id,
                    input.Version ?? 0,
                    before =>
                    {
                        var offered = Event.Create(before.EventId, input.Event.CalendarId, draft, author.Now, years.Days);
                        return before.Revised(offered, input.Remark, offered.CalendarIds, author.Now);
                    },
                    author,
                    years,
                    async after =>
                    {
                        foreach (var calendarId in after.Asks.Select(a => a.CalendarId))
                            await caller.NeedOfferAsync(calendarId);
                    });
                return (await view.OfAsync([revised]))[0];
            }));

        group.MapDelete("/{id:guid}", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Proposals store, IClock clock) =>
        {
            await OwnAsync(id, caller, store);
            if (!await store.WithdrawAsync(id, user.Author(clock)))
                throw NotFoundException.Proposal();
            return TypedResults.NoContent();
        });

        group.MapPost("/{id:guid}/answer", (Guid id, AnswerInput input, ClaimsPrincipal user, Caller caller, Store.Proposals store, ProposalView view, SchoolYears schoolYears, IClock clock) =>
            AnswerAsync(id, input.CalendarIds ?? [], input.Answer switch { Answer.Approved => "approve", Answer.SentBack => "send back", _ => "decline" }, user, caller, store, view, schoolYears, clock, (proposal, current, _, author, years) =>
            {
                if (proposal.Version != input.Version)
                    throw new InvalidInputException("proposal_changed", "proposal", "It was changed by its proposer meanwhile. Read it again before you answer.");
                return proposal.Decide(input.CalendarIds ?? [], input.Answer, input.Remark, current, author.PersonId, author.Now, years.Days);
            }));

        group.MapPost("/{id:guid}/reopen", (Guid id, ReopenInput input, ClaimsPrincipal user, Caller caller, Store.Proposals store, ProposalView view, SchoolYears schoolYears, IClock clock) =>
            AnswerAsync(id, input.CalendarIds ?? [], "reopen", user, caller, store, view, schoolYears, clock, (proposal, current, added, author, years) =>
                proposal.Reopen(input.CalendarIds ?? [], current, added, author.Now, years.Days)));

        // Computes only: what it would clash with, other proposals among it.
        group.MapGet("/{id:guid}/clashes", async (Guid id, Caller caller, Store.Proposals store, Store.Events events, ClashCheck check, SchoolYears schoolYears, IClock clock) =>
        {
            var proposal = await SeenAsync(id, caller, store);
            var days = (await schoolYears.GetAsync(caller.SchoolId)).Days;
            var current = proposal.IsNew ? null : await events.FindAsync(caller.SchoolId, proposal.EventId);
            var others = (await VisibleAsync(caller, store, clock)).Where(p => p.Id != id && p.IsNew && p.Asks.All(a => a.IsUndecided)).Select(p => p.Offered);
            return await check.OfAsync(proposal.AsProposed(current, clock.GetCurrentInstant(), days) ?? proposal.Offered, [.. others]);
        });

        group.MapGet("/{id:guid}/files/{fileId:guid}/{name?}", async (Guid id, Guid fileId, string? name, HttpContext http, Caller caller, Store.Proposals store, Contents contents) =>
        {
            var file = (await SeenAsync(id, caller, store)).Offered.Facts.Files.FirstOrDefault(f => f.Id == fileId) ?? throw FileEndpoints.Missing();
            var content = await contents.FindAsync(caller.SchoolId, file.ContentId) ?? throw FileEndpoints.Missing();
            return await FileEndpoints.SendAsync(http, contents, caller.SchoolId, content, 0, file.Name);
        });
    }

    /// <summary>The proposals that concern somebody: their own, and those to the calendars whose events they keep.</summary>
    internal static async Task<IReadOnlyList<Proposal>> VisibleAsync(Caller caller, Store.Proposals store, IClock clock)
    {
        var may = await caller.AccessAsync();
        Guid[] calendars = [.. (await caller.CalendarsAsync()).Keys.Where(c => may.Has(c, CalendarRole.Editor))];
        return await store.ListAsync(caller.SchoolId, caller.PersonId, calendars, clock.GetCurrentInstant());
    }

    private static async Task<Proposal> SeenAsync(Guid id, Caller caller, Store.Proposals store) =>
        await store.FindAsync(caller.SchoolId, id) is { } proposal && (await caller.AccessAsync()).Sees(proposal, caller.PersonId) ? proposal : throw NotFoundException.Proposal();

    private static async Task OwnAsync(Guid id, Caller caller, Store.Proposals store)
    {
        if ((await SeenAsync(id, caller, store)).PersonId != caller.PersonId)
            throw new NotAllowedException("Only who made a proposal may change it.");
    }

    /// <summary>The event, and the state a further change starts from: what the same person has proposed already is in it.</summary>
    private static async Task<(Event Before, Event Start, IReadOnlyList<Proposal> Replaced)> StartAsync(
        Guid eventId, int? version, Author author, KnownYears years, Caller caller, Store.Proposals store, Store.Events events)
    {
        var before = await events.FindAsync(author.SchoolId, eventId) ?? throw NotFoundException.Event();
        if (await caller.DetailOfAsync(before) < Detail.Everything)
            throw NotFoundException.Event();
        await caller.NeedOfferAsync(before.CalendarId);
        if (before.DeletedAt is not null)
            throw new InvalidInputException("event_in_bin", "proposal", "The event lies in the bin. Take it out first.");
        if (version is not null && version != before.Version)
            throw new StaleWriteException(before);
        var start = before;
        var replaced = new List<Proposal>();
        foreach (var pending in await store.ChangesOfAsync(author.SchoolId, caller.PersonId, eventId))
        {
            if (pending.AsProposed(start, author.Now, years.Days) is not { } merged)
                continue;
            start = merged;
            replaced.Add(pending);
        }
        return (before, start, replaced);
    }

    private static Event Stepped(Event start, OfferStepInput input, Instant now)
    {
        if (input.Step == ProposedStep.Delete)
            return start.Delete(now);
        var date = input.Date ?? throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
        return input.Step switch
        {
            ProposedStep.LeaveOut => start.Skip(date, now),
            ProposedStep.PutBack => start.Unskip(date, now),
            ProposedStep.CallOff => start.CallOff(date, true, now),
            ProposedStep.CallOn => start.CallOff(date, false, now),
            ProposedStep.AddDate => start.AddDate(date, now),
            ProposedStep.RemoveDate => start.RemoveExtra(date, now),
            _ => start.WithoutChange(date, now),
        };
    }

    private static async Task<OfferedDto> OfferAsync(
        Offering offered, IReadOnlyList<Proposal> replaced, Author author, KnownYears years, Caller caller, Store.Proposals store, ProposalView view)
    {
        var offering = offered with { Proposal = offered.Proposal?.Carrying(replaced) };
        foreach (var calendarId in offering.Asked)
            await caller.NeedOfferAsync(calendarId);
        foreach (var (before, after) in offering.Edits)
            await caller.NeedChangeAsync(before ?? offering.Edits[0].Before, after);
        await store.OfferAsync(offering.Proposal, offering.Edits, [.. replaced.Select(p => p.Id)], author, years);
        return new OfferedDto(
            offering.Edits.Count == 0 ? null : EventDto.Of(offering.Edits[0].After),
            offering.Proposal is null ? null : (await view.OfAsync([offering.Proposal]))[0]);
    }

    private static Task<ProposalDto> AnswerAsync(
        Guid id,
        IReadOnlyList<Guid> calendarIds,
        string action,
        ClaimsPrincipal user,
        Caller caller,
        Store.Proposals store,
        ProposalView view,
        SchoolYears schoolYears,
        IClock clock,
        Func<Proposal, Event?, IReadOnlyList<Event>, Author, KnownYears, Decision> decide) =>
        EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
        {
            var author = user.Author(clock);
            await SeenAsync(id, caller, store);
            foreach (var calendarId in calendarIds)
                await caller.NeedAsync(calendarId, CalendarRole.Keeper);
            var after = await store.AnswerAsync(id, (proposal, current, added) => decide(proposal, current, added, author, years), action, author, years)
                ?? throw NotFoundException.Proposal();
            return (await view.OfAsync([after]))[0];
        });
}
