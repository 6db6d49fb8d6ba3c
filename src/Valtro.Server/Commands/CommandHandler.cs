using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.SchoolYears;
using Valtro.Core.Views;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Commands;

/// <summary>What a command did, as who gave it gets it.</summary>
/// <param name="State">What it was applied to.</param>
/// <param name="Outcome">What it did.</param>
internal sealed record Done(CommandState State, CommandOutcome Outcome)
{
    /// <summary>The events it changed and made, as they are now; null for one they get nothing of.</summary>
    public IReadOnlyList<EventView?> Views => [.. Outcome.Steps.Select(s => State.Eyes.View(s.After))];

    /// <summary>An event as it is now, changed or not.</summary>
    /// <exception cref="NotFoundException">They get nothing of it.</exception>
    public EventView View(Guid id) =>
        (Outcome.Steps.FirstOrDefault(s => s.After.Id == id)?.After ?? State.Events.GetValueOrDefault(id)) is { } e && State.Eyes.View(e) is { } view ? view : throw NotFoundException.Event();
}

/// <summary>
/// The one way in: whatever changes an event is a <see cref="Command"/>, and goes through here. Loads and holds what it is
/// about, applies it (which authorises and looks at the version), and saves what it does with its history, its entry in the
/// log, its step for taking it back, the revisions of what it shows in, the notice to others and the answer to a request that
/// may come again: in one transaction on one connection.
/// </summary>
internal sealed class CommandHandler(Connections db, Caller caller, IOptions<JsonOptions> json)
{
    /// <summary>Does it.</summary>
    /// <param name="needs">What it is applied to.</param>
    /// <param name="build">Makes the command from what is there.</param>
    /// <param name="answer">Makes the answer from what was done.</param>
    public async Task<T> HandleAsync<T>(CommandNeeds needs, Func<CommandState, Command> build, Func<Done, T> answer)
    {
        var author = caller.Author();
        await using var work = await CommandWork.BeginAsync(db, author, needs, cancellation: caller.Aborted);
        var command = build(work.State);
        var outcome = command.Apply(work.State);
        if (IsNothing(outcome))
            return answer(new Done(work.State, outcome));
        await work.SaveAsync(outcome, command.Name, caller.Aborted);
        return await KeepAsync(work, author, answer(new Done(work.State, outcome)));
    }

    /// <summary>Only computes what an edit would do.</summary>
    public async Task<SeriesPlan> TryAsync(Guid id, Func<CommandState, EditEvent> build)
    {
        await using var work = await CommandWork.BeginAsync(db, caller.Author(), CommandNeeds.Of(id), cancellation: caller.Aborted);
        return build(work.State).Try(work.State);
    }

    /// <summary>Keeps a school year, new, changed or given up, with the series that follow it.</summary>
    /// <param name="before">The year as it was; null for a new one.</param>
    /// <param name="after">The year as it shall be; null to give it up.</param>
    /// <param name="answer">Makes the answer from how many series got other dates.</param>
    public async Task<T> HandleYearAsync<T>(SchoolYear? before, SchoolYear? after, Func<int, T> answer)
    {
        await caller.NeedAdministratorAsync();
        var author = caller.Author();
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing with { Following = true }, holdsSchool: true, cancellation: caller.Aborted);
        var series = await YearAsync(work, before, after, before is null ? "create" : after is null ? "remove" : "change", caller.Aborted);
        return await KeepAsync(work, author, answer(series));
    }

    /// <summary>Only computes what keeping a year would do: the days then, and the series that would get other dates.</summary>
    public async Task<(SchoolDays Days, IReadOnlyList<YearEffect> Series)> TryYearAsync(SchoolYear year)
    {
        await caller.NeedAdministratorAsync();
        await using var work = await CommandWork.BeginAsync(db, caller.Author(), CommandNeeds.Nothing with { Following = true }, cancellation: caller.Aborted);
        work.Plan(null, year);
        var steps = new FollowYears().Apply(work.State).Steps;
        return (work.State.Days, [.. steps.Where(s => s.After.DeletedAt is null).Select(s => YearEffect.Of(s.Before!, s.After, work.State.Days))]);
    }

    /// <summary>Puts events there as the program itself does, for the demo.</summary>
    public static async Task FillAsync(Connections db, Author author, IReadOnlyList<Event> events)
    {
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing);
        var command = new FillEvents(events);
        await work.SaveAsync(command.Apply(work.State), command.Name);
        await work.CommitAsync();
    }

    /// <summary>Keeps a school year as the program itself does, for the demo.</summary>
    public static async Task KeepYearAsync(Connections db, Author author, SchoolYear year)
    {
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing with { Following = true }, holdsSchool: true);
        await YearAsync(work, null, year, "create", CancellationToken.None);
        await work.CommitAsync();
    }

    /// <summary>Gives a command in somebody's name, as the demo does.</summary>
    public static async Task GiveAsync(Connections db, Author author, CommandNeeds needs, Command command)
    {
        await using var work = await CommandWork.BeginAsync(db, author, needs);
        await work.SaveAsync(command.Apply(work.State), command.Name);
        await work.CommitAsync();
    }

    /// <summary>Keeps a year and saves the series that follow it.</summary>
    /// <returns>How many that are not in the bin.</returns>
    internal static async Task<int> YearAsync(CommandWork work, SchoolYear? before, SchoolYear? after, string action, CancellationToken cancellation)
    {
        await work.KeepYearAsync(before, after, action);
        var command = new FollowYears();
        var outcome = command.Apply(work.State);
        await work.SaveAsync(outcome, command.Name, cancellation);
        return outcome.Steps.Count(s => s.After.DeletedAt is null);
    }

    private static bool IsNothing(CommandOutcome outcome) => outcome.Steps.Count == 0 && outcome.Proposal is null && outcome.Gone.Count == 0;

    private async Task<T> KeepAsync<T>(CommandWork work, Author author, T answer)
    {
        // The answer is kept with what it answers: whoever has to ask again gets it once more.
        if (author.Request is { } request && answer is not null)
            request.Answer = JsonSerializer.SerializeToUtf8Bytes(answer, json.Value.SerializerOptions);
        await work.CommitAsync(caller.Aborted);
        return answer;
    }
}
