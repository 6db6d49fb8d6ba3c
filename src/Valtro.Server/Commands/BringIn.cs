using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.Clashes;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.Sources;
using Valtro.Core.Time;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Commands;

/// <summary>What is wanted of a file.</summary>
/// <param name="CalendarId">Where its events come to; null where groups say it.</param>
/// <param name="ByGroup">Where those of a group come to instead; null to leave them.</param>
/// <param name="From">The first day that is wanted; null for any.</param>
/// <param name="To">The last day that is wanted; null for any.</param>
/// <param name="Leaves">What is left, by its key.</param>
/// <param name="LetsGo">Whether what the same file had before and has no more goes.</param>
/// <param name="Columns">For a table what its columns say; null as it seems.</param>
internal sealed record BringingInput(
    Guid? CalendarId = null, IReadOnlyDictionary<string, Guid?>? ByGroup = null, LocalDate? From = null, LocalDate? To = null, IReadOnlyList<string>? Leaves = null, bool LetsGo = false, IReadOnlyList<TableColumn>? Columns = null);

/// <summary>Something that was read otherwise than it stands there, or could not be kept.</summary>
internal sealed record NoteDto(string Code, string Message);

/// <summary>What would become of an event of a file.</summary>
internal sealed record BringingRowDto(
    string Key, IntakeKind Kind, string Title, string Place, LocalDateTime Start, LocalDateTime End, bool AllDay, bool Repeats, int Dates, Guid? CalendarId, string Group,
    IReadOnlyList<NoteDto> Notes, IReadOnlyList<string> Own, string? Closure, int Clashes);

/// <summary>How many events become what.</summary>
internal sealed record BringingCountDto(IntakeKind Kind, int Count);

/// <summary>Events of a file that say they belong together.</summary>
internal sealed record BringingGroupDto(string Name, int Count, Guid? CalendarId);

/// <summary>Something of a file that is left.</summary>
internal sealed record LeftOutDto(string What, int Count);

/// <summary>What bringing in a file would do, or did.</summary>
internal sealed record BringingDto(
    string CalendarName, IReadOnlyList<BringingGroupDto> Groups, IReadOnlyList<BringingCountDto> Counts, IReadOnlyList<LeftOutDto> Left, IReadOnlyList<BringingRowDto> Rows, int More);

/// <summary>
/// Brings files in: shows all that would become of them, and does it as one command. What is shown is computed by what does it.
/// </summary>
internal sealed class BringIn(Connections db, Caller caller, Store.Events events, Contents contents, IOptions<JsonOptions> json)
{
    /// <summary>The most events brought in at once.</summary>
    public const int MostAtOnce = 10_000;

    private const int MostRows = 500;
    private const int MostDates = 400;
    private const int ClashDays = 400;

    /// <summary>What it would do.</summary>
    public async Task<BringingDto> LookAsync(string name, ReadCalendar read, BringingInput input)
    {
        await using var work = await BeginAsync(name, read, input, caller.Author(), holdsSchool: false);
        var (command, groups) = CommandOf(name, read, input, work.State, await InlineAsync());
        var rows = command.Try(work.State);
        var marks = await MarksAsync(rows, work.State);
        return Dto(read, rows, groups, work.State, marks);
    }

    /// <summary>Does it.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_to_bring</c>.</exception>
    public async Task<BringingDto> DoAsync(string name, long size, ReadCalendar read, BringingInput input)
    {
        var author = caller.Author();
        var inline = await InlineAsync();
        foreach (var file in read.Events.SelectMany(e => e.Inline))
            inline.Keep(file);
        // Before the step begins: what no event comes to have goes again by itself.
        await inline.StoreAsync(contents, author);
        await using var work = await BeginAsync(name, read, input, author, holdsSchool: true);
        var (command, groups) = CommandOf(name, read, input, work.State, inline);
        var outcome = command.Apply(work.State);
        var rows = outcome.Taken!;
        if (outcome.Steps.Count > MostAtOnce)
            throw new InvalidInputException("too_many_to_bring", "from", $"{outcome.Steps.Count} events would come at once; {MostAtOnce} may. Choose fewer days.");
        await work.SaveAsync(outcome, command.Name);
        int Of(params IntakeKind[] kinds) => rows.Count(r => kinds.Contains(r.Kind));
        await work.KeepAsync(new Brought(
            Guid.CreateVersion7(), author.Now, null, name, size, Of(IntakeKind.New), Of(IntakeKind.Changed), Of(IntakeKind.Same), rows.Count(r => r.Kind == IntakeKind.Gone && r.After is not null), Of(IntakeKind.Left, IntakeKind.Outside, IntakeKind.Unfit),
            [.. rows.Select(r => r.CalendarId).OfType<Guid>().Distinct()]));
        var answer = Dto(read, rows, groups, work.State, []);
        if (author.Request is { } request)
            request.Answer = JsonSerializer.SerializeToUtf8Bytes(answer, json.Value.SerializerOptions);
        await work.CommitAsync();
        return answer;
    }

    private async Task<InlineFiles> InlineAsync() => new(caller.SchoolId, (await caller.ListsAsync()).MaxFileMegabytes * 1_000_000L);

    /// <summary>What a file's event says it belongs to: the calendar its column names, else its first category.</summary>
    public static string GroupOf(ReadEvent e) => e.Others.FirstOrDefault(o => o.Key == TableEvents.CalendarProperty).Value ?? e.Categories.FirstOrDefault() ?? "";

    // Of two who bring in the same at once the second finds what the first brought.
    private async Task<CommandWork> BeginAsync(string name, ReadCalendar read, BringingInput input, Author author, bool holdsSchool)
    {
        Guid[] calendars = [.. (input.ByGroup ?? new Dictionary<string, Guid?>()).Values.Append(input.CalendarId).OfType<Guid>().Distinct()];
        var keys = SourceEvent.Of(read.Events, (await caller.SchoolAsync()).Zone).Select(e => e.Key).ToList();
        return await CommandWork.BeginAsync(db, author, new CommandNeeds([], [], Origins: new OriginNeeds(null, keys, name, calendars)), holdsSchool, caller.Aborted);
    }

    private static (TakeIn Command, ILookup<string, SourceEvent> Groups) CommandOf(string name, ReadCalendar read, BringingInput input, CommandState state, InlineFiles inline)
    {
        var byGroup = input.ByGroup ?? new Dictionary<string, Guid?>();
        Guid? Of(ReadEvent e) => byGroup.TryGetValue(GroupOf(e), out var own) ? own : input.CalendarId;
        var all = SourceEvent.Of(read.Events, Zones.Get("UTC"), state.Lists, inline.Keep);
        // What is given in UTC is told on the clock of the calendar it comes to.
        var byKey = new Dictionary<string, SourceEvent>(StringComparer.Ordinal);
        foreach (var zone in all.GroupBy(e => Of(e.Read) is { } id && state.Calendars.TryGetValue(id, out var c) ? c.Zone : state.Calendars.Values.Select(c => c.Zone).FirstOrDefault(DateTimeZone.Utc)))
        {
            foreach (var e in SourceEvent.Of(read.Events.Where(zone.Select(z => z.Read).ToHashSet<ReadEvent>(ReferenceEqualityComparer.Instance).Contains), zone.Key, state.Lists, inline.Keep))
                byKey.TryAdd(e.Key, e);
        }
        List<SourceEvent> told = [.. all.Select(e => byKey.GetValueOrDefault(e.Key, e))];
        return (new TakeIn(told, new IntakeWish
        {
            CalendarOf = e => Of(e.Read),
            From = input.From,
            After = input.To?.PlusDays(1),
            Zone = state.Calendars.Values.Select(c => c.Zone).FirstOrDefault(DateTimeZone.Utc),
            Leaves = (input.Leaves ?? []).ToHashSet(StringComparer.Ordinal),
            LetsGo = input.LetsGo,
            BringsBack = true,
            Name = name,
        }), told.ToLookup(e => GroupOf(e.Read)));
    }

    // What would clash, and what would lie on a closure.
    private async Task<Dictionary<Guid, (string? Closure, int Clashes)>> MarksAsync(IReadOnlyList<IntakeRow> rows, CommandState state)
    {
        var coming = rows.Where(r => r.Kind is IntakeKind.New or IntakeKind.Changed && r.After is not null).Take(MostRows).Select(r => r.After!).ToList();
        var marks = new Dictionary<Guid, (string? Closure, int Clashes)>();
        if (coming.Count == 0)
            return marks;
        var (today, zone) = (await caller.TodayAsync(), (await caller.SchoolAsync()).Zone);
        var first = coming.Min(e => e.Timing.Start.Date);
        var from = first < today ? today : first;
        var window = new TimeWindow(from, from.PlusDays(ClashDays), zone);
        var ids = coming.Select(e => e.Id).ToHashSet();
        var seen = state.Calendars.Keys.Where(state.Eyes.Sees).ToArray();
        var there = state.Eyes.View((await events.InWindowAsync(caller.SchoolId, window, seen, caller.Aborted)).Where(e => !ids.Contains(e.Id)));
        foreach (var clash in ClashFinder.Find(there.Concat(coming.Select(state.Eyes.Own)), window, state.Lists, state.Days, ids))
        {
            foreach (var id in new[] { clash.Event.Id, clash.Other?.Id ?? Guid.Empty }.Where(ids.Contains))
            {
                var mark = marks.GetValueOrDefault(id);
                marks[id] = clash.Kind == ClashKind.OnClosure ? (clash.About, mark.Clashes) : clash.Kind is ClashKind.TestInLesson ? mark : (mark.Closure, mark.Clashes + 1);
            }
        }
        return marks;
    }

    private static BringingDto Dto(ReadCalendar read, IReadOnlyList<IntakeRow> rows, ILookup<string, SourceEvent> groups, CommandState state, Dictionary<Guid, (string? Closure, int Clashes)> marks)
    {
        // What is decided about first.
        var order = new[] { IntakeKind.Unfit, IntakeKind.Changed, IntakeKind.Gone, IntakeKind.New, IntakeKind.Left, IntakeKind.Same, IntakeKind.ThrownAway, IntakeKind.Kept, IntakeKind.Outside };
        var shown = rows.OrderBy(r => Array.IndexOf(order, r.Kind)).ThenBy(r => StateOf(r).Timing.Start).ThenBy(r => r.Key, StringComparer.Ordinal).Take(MostRows);
        var own = state.Calendars.Values.Where(c => state.PersonId is null || state.Access.MayEdit(c.Id)).ToList();
        return new BringingDto(
            read.Name,
            [.. groups.OrderBy(g => g.Key.Length == 0).ThenBy(g => g.Key, StringComparer.Ordinal).Select(g => new BringingGroupDto(g.Key, g.Count(), Sorting.CalendarLike(g.Key, own)))],
            [.. rows.GroupBy(r => r.Kind).OrderBy(g => Array.IndexOf(order, g.Key)).Select(g => new BringingCountDto(g.Key, g.Count()))],
            [.. read.Left.Take(50).Select(l => new LeftOutDto(l.What, l.Count))],
            [.. shown.Select(r => RowOf(r, marks))],
            Math.Max(0, rows.Count - MostRows));
    }

    private static BringingRowDto RowOf(IntakeRow row, Dictionary<Guid, (string? Closure, int Clashes)> marks)
    {
        var e = StateOf(row);
        var mark = row.After is { } after ? marks.GetValueOrDefault(after.Id) : default;
        return new BringingRowDto(
            row.Key, row.Kind, e.Title, e.Place, e.Timing.Start, e.Timing.End, e.Timing.Kind == TimeKind.AllDay, !e.IsOneTime, e.IsOneTime ? 1 : e.Dates.FirstStarts(MostDates).Count(), row.CalendarId,
            row.Read is null ? "" : GroupOf(row.Read.Read), [.. row.Notes.Select(n => new NoteDto(n.Code, n.Message))], row.Own, mark.Closure, mark.Clashes);
    }

    private static Event StateOf(IntakeRow row) => row.After ?? row.Read?.State ?? row.Before!;
}
