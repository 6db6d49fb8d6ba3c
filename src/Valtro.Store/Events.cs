using System.Collections.Immutable;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>Events.</summary>
public sealed class Events(NpgsqlDataSource db)
{
    /// <summary>The most events one window gives.</summary>
    public const int MaxInWindow = 20_000;

    private const string Columns =
        "id, uid, calendar_id, title, place, description, time_kind, start_local, length_seconds, zone, rule, skips, extras, changes::text as changes, related_to, sequence, version, created_at, changed_at, deleted_at";

    public async Task<Event?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenConnectionAsync();
        return await FindAsync(connection, schoolId, id);
    }

    /// <summary>The events, of calendars not in the bin, that can touch a window.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_events</c>.</exception>
    public async Task<IReadOnlyList<Event>> InWindowAsync(Guid schoolId, TimeWindow window)
    {
        await using var connection = await db.OpenConnectionAsync();
        var rows = (await connection.QueryAsync<Row>(
            $"""
            select {Columns} from event e
            where school_id = @schoolId and deleted_at is null
              and tstzrange(bounds_from, bounds_to) && tstzrange(@Start, @End)
              and exists (select from calendar c where c.id = e.calendar_id and c.deleted_at is null)
            limit @limit
            """,
            new { schoolId, window.Start, window.End, limit = MaxInWindow + 1 })).AsList();
        return rows.Count <= MaxInWindow
            ? [.. rows.Select(r => r.ToEvent())]
            : throw new InvalidInputException("too_many_events", "to", $"The window holds more than {MaxInWindow} events. Ask for a shorter one.");
    }

    /// <summary>Keeps a new or a changed event.</summary>
    /// <param name="before">What the change was made from; null for a new one.</param>
    /// <param name="after">The new state.</param>
    /// <param name="action">What was done, for the history.</param>
    /// <param name="author">Who did it.</param>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    public Task SaveAsync(Event? before, Event after, string action, Author author) => SaveAsync([(before, after)], action, author);

    /// <summary>Keeps several events that one edit makes and changes, all of them or none.</summary>
    /// <exception cref="StaleWriteException">The stored version of one is no longer that of its state before.</exception>
    public async Task SaveAsync(IReadOnlyList<(Event? Before, Event After)> edits, string action, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        foreach (var (before, after) in edits)
        {
            if (before is null)
                await InsertAsync(write.Connection, author.SchoolId, [after]);
            else
                await UpdateAsync(write.Connection, before, after, author.SchoolId);
            await write.RecordAsync("event", after.Id, action, before is null ? null : new Row(before), new Row(after));
        }
        await write.TouchPublicationsAsync([.. edits.SelectMany(e => new[] { e.Before?.CalendarId ?? e.After.CalendarId, e.After.CalendarId }).Distinct()]);
        await write.CommitAsync();
    }

    /// <summary>Adds many events at once, as the demo does.</summary>
    public async Task AddAllAsync(Guid schoolId, IEnumerable<Event> events)
    {
        await using var connection = await db.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        await InsertAsync(connection, schoolId, events);
        await transaction.CommitAsync();
    }

    internal static async Task<IReadOnlyList<Event>> ListForPublicationAsync(NpgsqlConnection connection, Guid publicationId)
    {
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from event where calendar_id in (select calendar_id from publication_calendar where publication_id = @publicationId)",
            new { publicationId });
        return [.. rows.Select(r => r.ToEvent())];
    }

    private static async Task UpdateAsync(NpgsqlConnection connection, Event before, Event after, Guid schoolId)
    {
        var parameters = Parameters(after, schoolId);
        parameters.Add("Expected", before.Version);
        var changed = await connection.ExecuteAsync(
            """
            update event set calendar_id = @CalendarId, title = @Title, place = @Place, description = @Description,
                time_kind = @TimeKind, start_local = @StartLocal, length_seconds = @LengthSeconds, zone = @Zone,
                rule = @Rule, skips = @Skips, extras = @Extras, changes = @Changes::jsonb, related_to = @RelatedTo,
                bounds_from = @BoundsFrom, bounds_to = @BoundsTo,
                sequence = @Sequence, version = @Version, changed_at = @ChangedAt, deleted_at = @DeletedAt
            where id = @Id and school_id = @SchoolId and version = @Expected
            """,
            parameters);
        if (changed == 0)
            throw new StaleWriteException((await FindAsync(connection, schoolId, after.Id))!);
    }

    private static async Task InsertAsync(NpgsqlConnection connection, Guid schoolId, IEnumerable<Event> events)
    {
        foreach (var e in events)
        {
            await connection.ExecuteAsync(
                """
                insert into event (id, school_id, calendar_id, uid, title, place, description, time_kind, start_local,
                    length_seconds, zone, rule, skips, extras, changes, related_to, bounds_from, bounds_to, sequence, version, created_at, changed_at, deleted_at)
                values (@Id, @SchoolId, @CalendarId, @Uid, @Title, @Place, @Description, @TimeKind, @StartLocal,
                    @LengthSeconds, @Zone, @Rule, @Skips, @Extras, @Changes::jsonb, @RelatedTo, @BoundsFrom, @BoundsTo, @Sequence, @Version, @CreatedAt, @ChangedAt, @DeletedAt)
                """,
                Parameters(e, schoolId));
        }
    }

    private static DynamicParameters Parameters(Event e, Guid schoolId)
    {
        var (from, to) = e.Bounds;
        var parameters = new DynamicParameters(new Row(e));
        parameters.AddDynamicParams(new { SchoolId = schoolId, BoundsFrom = from, BoundsTo = to });
        return parameters;
    }

    private static async Task<Event?> FindAsync(NpgsqlConnection connection, Guid schoolId, Guid id)
    {
        var row = await connection.QuerySingleOrDefaultAsync<Row>(
            $"select {Columns} from event where school_id = @schoolId and id = @id", new { schoolId, id });
        return row?.ToEvent();
    }

    private sealed class Row
    {
        public Row()
        {
        }

        public Row(Event e)
        {
            Id = e.Id;
            Uid = e.Uid;
            CalendarId = e.CalendarId;
            Title = e.Title;
            Place = e.Place;
            Description = e.Description;
            TimeKind = (short)e.Timing.Kind;
            StartLocal = e.Timing.Start;
            LengthSeconds = (long)e.Timing.Length.TotalSeconds;
            Zone = e.Timing.Zone?.Id;
            Rule = e.Rule?.ToString();
            Skips = [.. e.Skips];
            Extras = [.. e.Extras];
            Changes = StoredChange.Write(e.Changes);
            RelatedTo = e.RelatedTo;
            Sequence = e.Sequence;
            Version = e.Version;
            CreatedAt = e.CreatedAt;
            ChangedAt = e.ChangedAt;
            DeletedAt = e.DeletedAt;
        }

        public Guid Id { get; init; }
        public string Uid { get; init; } = "";
        public Guid CalendarId { get; init; }
        public string Title { get; init; } = "";
        public string Place { get; init; } = "";
        public string Description { get; init; } = "";
        public short TimeKind { get; init; }
        public LocalDateTime StartLocal { get; init; }
        public long LengthSeconds { get; init; }
        public string? Zone { get; init; }
        public string? Rule { get; init; }
        public LocalDateTime[] Skips { get; init; } = [];
        public LocalDateTime[] Extras { get; init; } = [];
        public string Changes { get; init; } = "[]";
        public string? RelatedTo { get; init; }
        public int Sequence { get; init; }
        public int Version { get; init; }
        public Instant CreatedAt { get; init; }
        public Instant ChangedAt { get; init; }
        public Instant? DeletedAt { get; init; }

        public Event ToEvent()
        {
            var zone = Zone is null ? null : Zones.Get(Zone);
            var timing = EventTiming.Restore((TimeKind)TimeKind, StartLocal, Duration.FromSeconds(LengthSeconds), zone);
            return new Event
            {
                Id = Id,
                Uid = Uid,
                CalendarId = CalendarId,
                Title = Title,
                Place = Place,
                Description = Description,
                Timing = timing,
                Rule = Rule is null ? null : RecurrenceRule.Parse(Rule, zone),
                Skips = ImmutableArray.Create(Skips),
                Extras = ImmutableArray.Create(Extras),
                Changes = StoredChange.Read(Changes, timing),
                RelatedTo = RelatedTo,
                Sequence = Sequence,
                Version = Version,
                CreatedAt = CreatedAt,
                ChangedAt = ChangedAt,
                DeletedAt = DeletedAt,
            };
        }
    }
}
