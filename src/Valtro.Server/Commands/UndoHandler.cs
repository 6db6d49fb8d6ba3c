using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.SchoolYears;
using Valtro.Server.Publications;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Commands;

/// <summary>What was undone, or done again.</summary>
/// <param name="Action">What had been done.</param>
/// <param name="Titles">Of what.</param>
/// <param name="Step">The step.</param>
internal sealed record UndoneDto(string Action, IReadOnlyList<string> Titles, Guid Step);

/// <summary>
/// Takes steps back, and does them again. A state is put back only over the state the step left, so that nobody's later work is
/// lost; whoever does it has to be allowed to, now.
/// </summary>
internal sealed class UndoHandler(Connections db, Caller caller, ProofKeeper proofs, IOptions<JsonOptions> json)
{
    /// <summary>How long one's own steps can be undone, also after a reload.</summary>
    private static readonly Duration UndoTime = Duration.FromHours(1);

    /// <summary>Undoes the last step that stands, or does the last undone one again; or that of an identity.</summary>
    /// <exception cref="NotFoundException"><c>nothing_to_undo</c>, <c>nothing_to_redo</c>.</exception>
    /// <exception cref="StaleWriteException">Something has been changed since.</exception>
    public async Task<UndoneDto> HandleAsync(bool isRedo, Guid? stepId)
    {
        var author = caller.Author();
        var action = isRedo ? "redo" : "undo";
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing, holdsSchool: true, cancellation: caller.Aborted);
        var step = await work.TakeStepAsync(isRedo, stepId, author.Now - UndoTime) ?? throw (isRedo
            ? new NotFoundException("nothing_to_redo", "There is nothing that was undone to do again.")
            : new NotFoundException("nothing_to_undo", "There is nothing of the last hour to undo."));

        foreach (var part in step.Calendars)
            await CalendarAsync(work, part, action, author.Now);
        foreach (var part in step.Lists)
            await ListsAsync(work, part, action);
        foreach (var part in step.Years)
            await YearAsync(work, part, action);
        foreach (var part in step.Publications)
            await PublicationAsync(work, part, action, author.Now);
        // What a year did to its series is undone with the year.
        if (step.Years.Count == 0 && step.Events.Count + step.Proposals.Count > 0)
            await EventsAsync(work, step, action);

        var titles = step.Events.Select(p => (p.After ?? p.Before)!.Title)
            .Concat(step.Calendars.Select(p => (p.After ?? p.Before)!.Title))
            .Concat(step.Publications.Select(p => (p.After ?? p.Before)!.Title))
            .Concat(step.Proposals.Where(p => step.Events.Count == 0).Select(p => (p.After ?? p.Before)!.Offered.Title));
        var answer = new UndoneDto(step.Action, [.. titles], step.Id);
        if (author.Request is { } request)
            request.Answer = JsonSerializer.SerializeToUtf8Bytes(answer, json.Value.SerializerOptions);
        await work.CommitAsync(caller.Aborted);
        foreach (var part in step.Publications.Where(p => p.Before is { PublishedAt: not null }))
            await proofs.KeepSentAsync(author.SchoolId, part.Id);
        return answer;
    }

    private static async Task EventsAsync(CommandWork work, Step step, string action)
    {
        await work.LoadAsync(new CommandNeeds([.. step.Events.Select(p => p.Id)], [.. step.Proposals.Select(p => p.Id)]));
        var state = work.State;
        // One that was made lies in the bin afterwards, and is taken out again.
        static Event Gone(Event e, Instant now) => e with { DeletedAt = now };
        var commands = step.Events.Select(p => new PutState(p.Id, null, p.Before ?? Gone(p.After!, state.Now)) { Over = p.After ?? Gone(p.Before!, state.Now), As = action }).ToList();
        var outcome = new Together(commands).Apply(state);
        await work.SaveAsync(outcome, action);
        await work.KeepAsync([.. step.Origins.Select(p => p.Before).OfType<Core.Sources.Origin>()]);
        var versions = new Dictionary<int, int>();
        foreach (var (part, put) in step.Events.Join(outcome.Steps, p => p.Id, s => s.After.Id, (p, s) => (p, s)))
            versions[part.Before?.Version ?? part.After!.Version] = put.After.Version;
        foreach (var part in step.Proposals)
            await work.SaveAsync(new PutProposal(part.Id, part.After, part.Before) { Versions = versions }.Apply(state), action);
    }

    private static async Task CalendarAsync(CommandWork work, StepPart<Calendar> part, string action, Instant at)
    {
        var now = await work.CalendarAsync(part.Id) ?? throw NotFoundException.Calendar();
        if (!work.State.Access.Has(part.Id, CalendarRole.Keeper))
            throw work.State.Eyes.Sees(part.Id) ? NotAllowedException.Role(CalendarRole.Keeper) : NotFoundException.Calendar();
        // What is in the bin is there, whenever it went in.
        static Calendar Said(Calendar c) => c with { Version = 0, DeletedAt = c.DeletedAt is null ? null : default(Instant) };
        var over = part.After ?? part.Before! with { DeletedAt = at };
        if (Said(now) != Said(over))
            throw new StaleWriteException(now);
        await work.KeepAsync(now, (part.Before ?? now with { DeletedAt = at }).After(now), action);
    }

    private static async Task ListsAsync(CommandWork work, StepPart<SchoolLists> part, string action)
    {
        if (!work.State.Access.IsAdministrator)
            throw NotAllowedException.Administrator();
        var now = work.State.Lists;
        if (!now.SaysAs(part.After ?? SchoolLists.Empty))
            throw new StaleWriteException(now);
        await work.KeepAsync((part.Before ?? SchoolLists.Empty).After(now), action);
    }

    private async Task YearAsync(CommandWork work, StepPart<SchoolYear> part, string action)
    {
        if (!work.State.Access.IsAdministrator)
            throw NotAllowedException.Administrator();
        await work.LoadAsync(CommandNeeds.Nothing with { Following = true });
        var now = work.State.Days.Years.FirstOrDefault(y => y.Id == part.Id);
        if (now is null != part.After is null || (now is not null && !now.SaysAs(part.After!)))
            throw new StaleWriteException(now ?? part.After!);
        await CommandHandler.YearAsync(work, now, part.Before?.After(now), action, caller.Aborted);
    }

    private static async Task PublicationAsync(CommandWork work, StepPart<Publication> part, string action, Instant at)
    {
        var now = await work.PublicationAsync(part.Id);
        foreach (var calendar in new[] { part.Before, part.After, now }.OfType<Publication>().SelectMany(p => p.CalendarIds.Concat(p.Draft?.CalendarIds ?? [])).Distinct())
        {
            if (!work.State.Access.Has(calendar, CalendarRole.Keeper))
                throw work.State.Eyes.Sees(calendar) ? NotAllowedException.Role(CalendarRole.Keeper) : NotFoundException.Publication();
        }
        // One that was out has readers: it is taken down, and nothing leads elsewhere.
        var over = part.After ?? (part.Before!.PublishedAt is null ? null : part.Before with { TakenDownAt = at });
        if (now is null != over is null || (now is not null && !Store.Publications.SaySame(now, over!)))
            throw new StaleWriteException(now ?? over!);
        var put = part.Before ?? (now!.PublishedAt is null ? null : now with { TakenDownAt = at });
        await work.KeepAsync(now, now is null ? put : put?.After(now), action);
    }
}
