using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.Sources;
using Valtro.Store;

namespace Valtro.Server.Commands;

/// <summary>An event of a source as it would be sorted.</summary>
/// <param name="Title">Its title there.</param>
/// <param name="As">Its title as it would stand here.</param>
/// <param name="Date">Its first day.</param>
/// <param name="CalendarId">Where it would stand.</param>
/// <param name="Rule">The number of the rule that says so; null where none does.</param>
internal sealed record SortedDto(string Title, string As, LocalDate Date, Guid CalendarId, int? Rule);

/// <summary>Takes in what addresses give: the way from a reading to events, one transaction each.</summary>
internal sealed class SourceIntake(Connections db, Roles roles, IClock clock)
{
    private const int MostTold = 40;

    /// <summary>Keeps an address and its lane.</summary>
    public async Task FollowAsync(Author author, Calendar lane, Source source)
    {
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing, holdsSchool: true);
        await work.MakeAsync(lane);
        await work.AddAsync(source);
        await work.CommitAsync();
    }

    /// <summary>Takes in what a source gave.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="sourceId">The source.</param>
    /// <param name="fetched">What came of asking it.</param>
    /// <param name="read">What that says.</param>
    /// <param name="isEmptyRight">Whether somebody said that it is right that there is nothing.</param>
    /// <param name="cancellation">Ends it.</param>
    /// <returns>What it changed; null when the source is not followed any more.</returns>
    public async Task<SourceReading?> TakeAsync(Guid schoolId, Guid sourceId, Fetched fetched, ReadCalendar read, bool isEmptyRight, CancellationToken cancellation)
    {
        var author = new Author(schoolId, null, clock.GetCurrentInstant());
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing, cancellation: cancellation);
        if (await work.SourceAsync(sourceId) is not { } source || !work.State.Calendars.TryGetValue(source.CalendarId, out var lane))
            return null;
        if (read.Events.Count > Source.MostRead)
            return await FailAsync(work, source.After(new Fetched(FetchOutcome.Failed, "source_too_large"), null, author.Now, Random.Shared.NextDouble()), source, author.Now);
        var rules = await RulesAsync(work, source);
        var sorted = Sorted(source, lane, rules, read, work.State.Lists);
        await work.LoadAsync(new CommandNeeds([], [], Origins: new OriginNeeds(sourceId, [.. sorted.Select(s => s.Event.Key)], "", [])), cancellation);
        Source After(Fetched as_) => source.After(as_, read.Refresh, author.Now, Random.Shared.NextDouble());
        // Nothing at all where there was something is more often a fault than the truth.
        if (sorted.Count == 0 && !isEmptyRight && work.State.Origins.Any(o => !o.IsKept))
            return await FailAsync(work, After(new Fetched(FetchOutcome.Failed, "source_empty")), source, author.Now);
        var today = author.Now.InZone(lane.Zone).Date;
        var places = sorted.ToDictionary(s => s.Event.Key, s => s.CalendarId, StringComparer.Ordinal);
        var wish = new IntakeWish
        {
            SourceId = sourceId,
            Name = lane.Title,
            Zone = lane.Zone,
            From = today.PlusDays(-source.PastDays),
            After = today.PlusDays(source.AheadDays + 1),
            LetsGo = true,
            CalendarOf = e => places.GetValueOrDefault(e.Key, source.CalendarId),
        };
        var command = new TakeIn([.. sorted.Select(s => s.Event)], wish);
        var outcome = command.Apply(work.State);
        var rows = outcome.Taken!;
        if (rows.Count(r => r.CalendarId is not null) > Source.MostEvents)
            return await FailAsync(work, After(new Fetched(FetchOutcome.Failed, "source_too_large")), source, author.Now);
        await work.SaveAsync(outcome, command.Name, cancellation);
        var reading = ReadingOf(rows, author.Now);
        var isChanged = reading.Added + reading.Changed + reading.Gone + reading.Kept > 0;
        await work.KeepAsync(After(fetched), fetched.Outcome == FetchOutcome.Fresh ? fetched.Body : null, isChanged || source.Problem is not null ? reading : null);
        await work.CommitAsync(cancellation);
        return reading;
    }

    /// <summary>How rules would sort what a source gave last; nothing is kept.</summary>
    public async Task<IReadOnlyList<SortedDto>> TryAsync(Author author, Source source, IReadOnlyList<SortingRule> rules, ReadCalendar read, int most)
    {
        await using var work = await CommandWork.BeginAsync(db, author, CommandNeeds.Nothing);
        var lane = work.State.Calendars[source.CalendarId];
        var today = author.Now.InZone(lane.Zone).Date;
        return
        [
            .. Sorted(source, lane, rules, read, work.State.Lists)
                .Where(s => s.Event.Touches(today.PlusDays(-source.PastDays), today.PlusDays(source.AheadDays + 1), lane.Zone))
                .OrderBy(s => s.Event.State.Timing.Start).ThenBy(s => s.Event.Key, StringComparer.Ordinal).Take(most)
                .Select(s => new SortedDto(s.Title, s.Event.State.Title, s.Event.State.Timing.Start.Date, s.CalendarId, s.Rule)),
        ];
    }

    /// <summary>Ends that a source is followed.</summary>
    public async Task StopAsync(Author author, Source source, bool keeps)
    {
        await using var work = await CommandWork.BeginAsync(db, author, new CommandNeeds([], [], Origins: new OriginNeeds(source.Id, [], "", [])), holdsSchool: true);
        // A lane without its source would be nobody's to change: what is given up is not taken back, but followed anew.
        work.IsNoStep();
        if (await work.SourceAsync(source.Id) is null)
            throw Missing();
        var command = new StopFollowing(source.Id, keeps);
        await work.SaveAsync(command.Apply(work.State), command.Name);
        if (await work.CalendarAsync(source.CalendarId) is { } lane)
            await work.KeepAsync(lane, (lane with { IsFollowed = false, DeletedAt = keeps ? lane.DeletedAt : author.Now }).After(lane), command.Name);
        await work.RemoveAsync(source);
        await work.CommitAsync();
    }

    public static NotFoundException Missing() => new("no_such_source", "This address is not followed any more.");

    private static IReadOnlyList<(SourceEvent Event, string Title, Guid CalendarId, int? Rule)> Sorted(Source source, Calendar lane, IReadOnlyList<SortingRule> rules, ReadCalendar read, SchoolLists lists)
    {
        var how = new Dictionary<ReadEvent, (string Title, int? Rule)>(ReferenceEqualityComparer.Instance);
        var events = read.Events.Select(e =>
        {
            var rule = Sorting.RuleOf(rules, e);
            var sorted = Sorting.Sorted(rule, e);
            how[sorted] = (e.Title, rule is null ? null : rules.ToList().IndexOf(rule));
            return sorted;
        }).ToList();
        return [.. SourceEvent.Of(events, lane.Zone, lists).Select(e => how[e.Read] is var (title, rule) && rule is { } i ? (e, title, rules[i].CalendarId, rule) : (e, how[e.Read].Title, source.CalendarId, null))];
    }

    // Rules lead where their follower keeps events, today too; what they may no more goes to the source's own lane.
    private async Task<IReadOnlyList<SortingRule>> RulesAsync(CommandWork work, Source source)
    {
        if (source.Sorting.IsEmpty)
            return [];
        var may = source.PersonId is { } person ? await roles.AccessAsync(work.SchoolId, person) : null;
        return [.. source.Sorting.Where(r => may?.MayEdit(r.CalendarId) == true && work.State.Calendars.ContainsKey(r.CalendarId))];
    }

    private static async Task<SourceReading> FailAsync(CommandWork work, Source after, Source before, Instant now)
    {
        var reading = new SourceReading(now, after.Problem, 0, 0, 0, 0, []);
        await work.KeepAsync(after, null, after.Problem == before.Problem ? null : reading);
        await work.CommitAsync();
        return reading;
    }

    private static SourceReading ReadingOf(IReadOnlyList<IntakeRow> rows, Instant now)
    {
        int Of(IntakeKind kind) => rows.Count(r => r.Kind == kind);
        var told = rows.Where(r => r.Kind is IntakeKind.New or IntakeKind.Changed or IntakeKind.Gone or IntakeKind.Kept).Take(MostTold).Select(r =>
        {
            var (e, before) = (r.After ?? r.Before!, r.Before);
            var isMoved = r.Kind == IntakeKind.Changed && before!.Timing.Start.Date != e.Timing.Start.Date;
            return new ReadingEvent(r.Kind, e.Title, e.Timing.Start.Date, isMoved ? before!.Timing.Start.Date : null);
        });
        return new SourceReading(now, null, Of(IntakeKind.New), Of(IntakeKind.Changed), Of(IntakeKind.Gone), Of(IntakeKind.Kept), [.. told]);
    }
}
