using System.Data.Common;
using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>Something that was done to an event.</summary>
/// <param name="Id">Identity.</param>
/// <param name="ChangeId">What was done together with it.</param>
/// <param name="At">When.</param>
/// <param name="Person">By whom; null for the program, or somebody who is gone.</param>
/// <param name="Action">What was done.</param>
/// <param name="Before">The event before; null when it was made.</param>
/// <param name="After">The event after.</param>
public sealed record HistoryEntry(Guid Id, Guid ChangeId, Instant At, string? Person, string Action, Event? Before, Event? After);

/// <summary>Events.</summary>
public sealed class Events(Connections db)
{
    /// <summary>The most events one window gives.</summary>
    public const int MaxInWindow = 20_000;

    private const int MaxHistory = 200;
    private const int MaxBin = 500;

    public async Task<Event?> FindAsync(Guid schoolId, Guid id, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        return await FindAsync(connection, schoolId, id);
    }

    /// <summary>The event that readers of feeds know by an identity, or null.</summary>
    public async Task<Event?> ByUidAsync(Guid schoolId, string uid)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QuerySingleOrDefaultAsync<EventColumns>($"select {EventColumns.Selected} from event where school_id = @schoolId and uid = @uid", new { schoolId, uid }))?.ToEvent();
    }

    /// <summary>The events that can touch a window and stand in one of some calendars; how many others there are plays no part.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_events</c>.</exception>
    public async Task<IReadOnlyList<Event>> InWindowAsync(Guid schoolId, TimeWindow window, Guid[] calendarIds, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = (await connection.QueryAsync<EventColumns>(new CommandDefinition(
            $"""
            select {EventColumns.Selected} from event_in_window(@Start, @End) e
            where (calendar_id = any(@calendarIds) or also_in && @calendarIds)
              and exists (select from calendar c where c.id = e.calendar_id and c.deleted_at is null)
            limit @limit
            """,
            new { window.Start, window.End, calendarIds, limit = MaxInWindow + 1 },
            cancellationToken: cancellation))).AsList();
        return rows.Count <= MaxInWindow
            ? [.. rows.Select(r => r.ToEvent())]
            : throw new InvalidInputException("too_many_events", "to", $"The window holds more than {MaxInWindow} events. Ask for a shorter one.");
    }

    /// <summary>The events of a school with these identities, those in the bin included.</summary>
    public async Task<IReadOnlyList<Event>> FindAllAsync(Guid schoolId, Guid[] ids, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = await connection.QueryAsync<EventColumns>(
            $"select {EventColumns.Selected} from event where school_id = @schoolId and id = any(@ids) order by id", new { schoolId, ids });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>All events of some calendars that are not in the bin.</summary>
    public async Task<IReadOnlyList<Event>> OfCalendarsAsync(Guid schoolId, Guid[] calendarIds, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = await connection.QueryAsync<EventColumns>(new CommandDefinition(
            $"select {EventColumns.Selected} from event where school_id = @schoolId and calendar_id = any(@calendarIds) and deleted_at is null order by id",
            new { schoolId, calendarIds },
            cancellationToken: cancellation));
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>What a change did to events, in its order.</summary>
    public async Task<IReadOnlyList<StepPart<Event>>> OfChangeAsync(Guid schoolId, Guid changeId, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = await connection.QueryAsync<(Guid Id, string? Before, string? After)>(
            """
            select entity_id, before::text, after::text from history
            where school_id = @schoolId and change_id = @changeId and entity = 'event' order by place
            """,
            new { schoolId, changeId });
        return [.. rows.Select(r => new StepPart<Event>(r.Id, r.Before is null ? null : StoredEvent.Read(r.Before), r.After is null ? null : StoredEvent.Read(r.After)))];
    }

    /// <summary>The events some changes were about, as they are now, those in the bin included.</summary>
    public async Task<IReadOnlyList<Event>> OfChangesAsync(Guid schoolId, Guid[] changeIds, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = await connection.QueryAsync<EventColumns>(
            $"""
            select {EventColumns.Selected} from event where school_id = @schoolId
              and id in (select entity_id from history where school_id = @schoolId and change_id = any(@changeIds) and entity = 'event') order by id
            """,
            new { schoolId, changeIds });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>What was done to an event, the newest first.</summary>
    public async Task<IReadOnlyList<HistoryEntry>> HistoryAsync(Guid schoolId, Guid id, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = await connection.QueryAsync<HistoryRow>(
            """
            select h.id, h.change_id, h.at, p.name as person, h.action, h.before::text as before, h.after::text as after
            from history h left join person p on p.id = h.person_id
            where h.school_id = @schoolId and h.entity = 'event' and h.entity_id = @id
            order by h.place desc limit @MaxHistory
            """,
            new { schoolId, id, MaxHistory });
        return [.. rows.Select(r => r.ToEntry())];
    }

    /// <summary>
    /// The events whose words are like those asked for, in calendars somebody sees, the best first; those in the bin are not.
    /// Read on until enough of them are theirs to see: how many others there are plays no part.
    /// </summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="folded">The words, folded.</param>
    /// <param name="calendarIds">The calendars.</param>
    /// <param name="byHeadlines">Whether by title and place alone, for what no more is read of.</param>
    public async IAsyncEnumerable<(Event Event, float Likeness)> SearchAsync(Guid schoolId, string folded, Guid[] calendarIds, bool byHeadlines)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        // Two of three letters groups of a word have to be there.
        await connection.ExecuteAsync("set local pg_trgm.word_similarity_threshold = 0.5");
        var likeness = byHeadlines ? "f.by_headlines" : "f.by_all";
        var found = connection.QueryUnbufferedAsync<FoundColumns>(
            $"""
            select {likeness} as likeness, {EventColumns.Selected} from event_found(@folded, '%' || @like || '%', @calendarIds) f join event on event.id = f.event_id and school_id = @schoolId
            order by {likeness} desc, bounds_from desc, id
            """,
            new { schoolId, calendarIds, folded, like = folded.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal) },
            transaction);
        await foreach (var row in found)
            yield return (row.ToEvent(), row.Likeness);
    }

    /// <summary>The events whose files or picture are these contents, those in the bin included.</summary>
    public async Task<IReadOnlyList<Event>> WithContentAsync(Guid schoolId, Guid contentId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<EventColumns>(
            $"select {EventColumns.Selected} from event where school_id = @schoolId and id in (select event_id from event_content where content_id = @contentId)",
            new { schoolId, contentId });
        // An event stays tied to what it had, for its history.
        return [.. rows.Select(r => r.ToEvent()).Where(e => e.Facts.Picture?.Id == contentId || e.Files.Any(f => f.ContentId == contentId))];
    }

    /// <summary>The events of some calendars in the bin, the last thrown away first.</summary>
    public async Task<IReadOnlyList<Event>> BinAsync(Guid schoolId, Guid[] calendarIds, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        var rows = await connection.QueryAsync<EventColumns>(new CommandDefinition(
            $"select {EventColumns.Selected} from event where school_id = @schoolId and deleted_at is not null and calendar_id = any(@calendarIds) order by deleted_at desc, id limit @MaxBin",
            new { schoolId, calendarIds, MaxBin },
            cancellationToken: cancellation));
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>Removes for good what has lain in a school's bin for its time. Nobody but the team knew of it any more.</summary>
    /// <returns>How many events that were.</returns>
    internal async Task<int> EmptyBinAsync(Guid schoolId, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteAsync("delete from event where school_id = @schoolId and deleted_at < @before", new { schoolId, before = now - Event.BinTime });
    }

    // With what is in the bin: a reader who comes by an old link is told that it is no longer planned.
    /// <summary>Which events stand in some calendars, for publications.</summary>
    /// <param name="ids">Which calendars, in the database's words.</param>
    internal static string SelectedFor(string ids) =>
        $"""
        select id, version, changed_at, exists (select from calendar c where c.id = e.calendar_id and c.deleted_at is null) as is_home_there
        from event_standing_in({ids}) e;
        """;

    internal static async Task<IReadOnlyList<StandingEvent>> ReadForAsync(SqlMapper.GridReader result) => [.. await result.ReadAsync<StandingEvent>()];

    /// <summary>Which event stands in some calendars.</summary>
    internal sealed class StandingEvent
    {
        public Guid Id { get; init; }
        public int Version { get; init; }
        public Instant ChangedAt { get; init; }

        /// <summary>Whether the calendar it is of is there, and not in the bin.</summary>
        public bool IsHomeThere { get; init; }

        public EventState State => new(Id, Version, ChangedAt);
    }

    internal static async Task<Event?> FindAsync(DbConnection connection, Guid schoolId, Guid id)
    {
        var row = await connection.QuerySingleOrDefaultAsync<EventColumns>(
            $"select {EventColumns.Selected} from event where school_id = @schoolId and id = @id", new { schoolId, id });
        return row?.ToEvent();
    }

    private sealed class HistoryRow
    {
        public Guid Id { get; init; }
        public Guid ChangeId { get; init; }
        public Instant At { get; init; }
        public string? Person { get; init; }
        public string Action { get; init; } = "";
        public string? Before { get; init; }
        public string? After { get; init; }

        public HistoryEntry ToEntry() => new(Id, ChangeId, At, Person, Action, State(Before), State(After));

        private static Event? State(string? text) => text is null ? null : StoredEvent.Read(text);
    }

    private sealed class FoundColumns : EventColumns
    {
        public float Likeness { get; init; }
    }
}
