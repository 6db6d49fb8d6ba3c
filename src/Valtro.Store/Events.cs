using System.Collections.Immutable;
using System.Text.Json;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
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

    private const string Columns =
        "id, uid, calendar_id, title, place, description, time_kind, start_local, length_seconds, zone, rule, follows::text as follows, by_school_days::text as by_school_days, facts::text as facts, also_in, timed_at, skips, extras, changes::text as changes, related_to, sequence, version, created_at, changed_at, deleted_at";

    public async Task<Event?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await FindAsync(connection, schoolId, id);
    }

    /// <summary>The events, of calendars not in the bin, that can touch a window.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_events</c>.</exception>
    public async Task<IReadOnlyList<Event>> InWindowAsync(Guid schoolId, TimeWindow window)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = (await connection.QueryAsync<Row>(
            $"""
            select {Columns} from event_in_window(@Start, @End) e
            where exists (select from calendar c where c.id = e.calendar_id and c.deleted_at is null)
            limit @limit
            """,
            new { window.Start, window.End, limit = MaxInWindow + 1 })).AsList();
        return rows.Count <= MaxInWindow
            ? [.. rows.Select(r => r.ToEvent())]
            : throw new InvalidInputException("too_many_events", "to", $"The window holds more than {MaxInWindow} events. Ask for a shorter one.");
    }

    /// <summary>The events of a school with these identities, those in the bin included.</summary>
    public async Task<IReadOnlyList<Event>> FindAllAsync(Guid schoolId, Guid[] ids)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from event where school_id = @schoolId and id = any(@ids) order by id", new { schoolId, ids });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>Keeps a new or a changed event.</summary>
    /// <param name="before">What the change was made from; null for a new one.</param>
    /// <param name="after">The new state.</param>
    /// <param name="action">What was done, for the history.</param>
    /// <param name="author">Who did it.</param>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    public Task SaveAsync(Event? before, Event after, string action, Author author) => SaveAsync([(before, after)], action, author);

    /// <summary>Keeps an event whose dates were computed by the school's years.</summary>
    /// <exception cref="StaleYearsException">The years are other ones by now.</exception>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    public Task SaveAsync(Event? before, Event after, string action, Author author, KnownYears years) => SaveAsync([(before, after)], action, author, years);

    /// <summary>Keeps several events that one edit makes and changes, all of them or none.</summary>
    /// <param name="edits">Each with what it was made from; null for a new one.</param>
    /// <param name="action">What was done, for the history.</param>
    /// <param name="author">Who did it.</param>
    /// <param name="years">The school's years their dates were computed by; null when they were not computed.</param>
    /// <exception cref="StaleYearsException">The years are other ones by now.</exception>
    /// <exception cref="StaleWriteException">The stored version of one is no longer that of its state before.</exception>
    public async Task SaveAsync(IReadOnlyList<(Event? Before, Event After)> edits, string action, Author author, KnownYears? years = null)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        if (years is not null && edits.Any(e => e.After.Follows is not null))
            await SchoolYears.HoldAsync(write, years.Revision);
        await SaveAsync(write, edits, action);
        await write.CommitAsync();
    }

    /// <summary>What was done to an event, the newest first.</summary>
    public async Task<IReadOnlyList<HistoryEntry>> HistoryAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<HistoryRow>(
            """
            select h.id, h.change_id, h.at, p.name as person, h.action, h.before::text as before, h.after::text as after
            from history h left join person p on p.id = h.person_id
            where h.school_id = @schoolId and h.entity = 'event' and h.entity_id = @id
            order by h.at desc, h.id desc limit @MaxHistory
            """,
            new { schoolId, id, MaxHistory });
        return [.. rows.Select(r => r.ToEntry())];
    }

    /// <summary>The events whose words are like those asked for, the best first; those in the bin are not.</summary>
    public async Task<IReadOnlyList<Event>> SearchAsync(Guid schoolId, string text, int limit)
    {
        var words = Words.Fold(text);
        await using var connection = await db.OpenAsync(schoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        // Two of three letters groups of a word have to be there.
        await connection.ExecuteAsync("set local pg_trgm.word_similarity_threshold = 0.5");
        var rows = await connection.QueryAsync<Row>(
            $"""
            select {Columns} from event_with_words(@words, '%' || @like || '%') e
            where exists (select from calendar c where c.id = e.calendar_id and c.deleted_at is null)
            order by (word_similarity(@words, lower(title)) + word_similarity(@words, words) + ts_rank(to_tsvector('simple', words), websearch_to_tsquery('simple', @words))) desc, bounds_from desc, id
            limit @limit
            """,
            new { words, like = words.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal), limit });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>Whether the words of an event, as somebody sees it, hold what was asked for: what they do not see finds nothing.</summary>
    public static bool IsFoundBy(Event seen, string text)
    {
        var words = Words.Of(seen);
        return Words.Fold(text).Split(' ').All(w => words.Contains(w, StringComparison.Ordinal));
    }

    /// <summary>The events whose files or picture are these contents, those in the bin included.</summary>
    public async Task<IReadOnlyList<Event>> WithContentAsync(Guid schoolId, Guid contentId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"""
            select {Columns} from event_with_facts(jsonb_build_object('files', jsonb_build_array(jsonb_build_object('contentId', @contentId))))
            union all
            select {Columns} from event_with_facts(jsonb_build_object('picture', jsonb_build_object('id', @contentId)))
            """,
            new { contentId });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>The events in the bin, the last thrown away first.</summary>
    public async Task<IReadOnlyList<Event>> BinAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from event where school_id = @schoolId and deleted_at is not null order by deleted_at desc limit @MaxBin", new { schoolId, MaxBin });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>
    /// Removes for good what has lain in the bin for its time. What showed it gets a new revision: its Last-Modified never
    /// goes back.
    /// </summary>
    /// <returns>How many events that were.</returns>
    public async Task<int> EmptyBinAsync(Instant now)
    {
        await using var connection = await db.OpenForAllAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        var gone = (await connection.QueryAsync<(Guid SchoolId, int Count)>(
            """
            with gone as (delete from event where deleted_at < @before returning school_id, array_append(also_in, calendar_id) as stood_in),
            touched as (
                update publication
                set revision = revision + 1,
                    changed_at = greatest(date_trunc('second', @now), date_trunc('second', changed_at) + interval '1 second')
                where id in (select p.publication_id from publication_calendar p join gone on p.calendar_id = any(gone.stood_in)))
            select school_id, count(*)::int from gone group by school_id
            """,
            new { now, before = now - Event.BinTime })).AsList();
        foreach (var (schoolId, _) in gone)
            await connection.ExecuteAsync($"select pg_notify('{Changes.Channel}', @payload)", new { payload = Changes.Write(new Author(schoolId, null, now)) });
        await transaction.CommitAsync();
        foreach (var (schoolId, _) in gone)
            db.Tell(schoolId);
        return gone.Sum(g => g.Count);
    }

    /// <summary>Adds many events at once, as the demo does.</summary>
    public async Task AddAllAsync(Guid schoolId, IEnumerable<Event> events)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        await InsertAsync(connection, schoolId, events);
        await transaction.CommitAsync();
    }

    /// <summary>An event as it lies in the history.</summary>
    internal static Event OfHistory(string text) => JsonSerializer.Deserialize<Row>(text, WriteTransaction.Json)!.ToEvent();

    internal static string ToHistory(Event e) => JsonSerializer.Serialize(new Row(e), WriteTransaction.Json);

    /// <summary>Keeps events within a write that does more.</summary>
    internal static async Task SaveAsync(WriteTransaction write, IReadOnlyList<(Event? Before, Event After)> edits, string action)
    {
        foreach (var (before, after) in edits)
        {
            if (before is null)
            {
                await InsertAsync(write.Connection, write.Author.SchoolId, [after], write.Author.PersonId);
                await write.RecordAsync("event", after.Id, action, null, new Row(after));
            }
            else
            {
                await UpdateAsync(write, before, after, action);
            }
        }
        await write.TouchPublicationsAsync([.. edits.SelectMany(e => (e.Before?.CalendarIds ?? []).Concat(e.After.CalendarIds)).Distinct()]);
    }

    internal static async Task<IReadOnlyList<Event>> ListForPublicationAsync(NpgsqlConnection connection, Guid[] calendarIds, Guid? fileId = null)
    {
        var rows = await connection.QueryAsync<Row>(
            $"""
            select {Columns} from event_standing_in(@calendarIds) e
            where (calendar_id = any(@calendarIds)
                or exists (select from calendar c where c.id = e.calendar_id and c.deleted_at is null))
              and (@fileId::uuid is null
              or facts @> jsonb_build_object('files', jsonb_build_array(jsonb_build_object('id', @fileId)))
              or facts @> jsonb_build_object('picture', jsonb_build_object('id', @fileId)))
            """,
            new { calendarIds, fileId });
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>The series that follow school days, those in the bin included.</summary>
    internal static async Task<IReadOnlyList<Event>> ListFollowingAsync(NpgsqlConnection connection, Guid schoolId)
    {
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from event where school_id = @schoolId and follows is not null order by id", new { schoolId });
        return [.. rows.Select(r => r.ToEvent())];
    }

    internal static async Task UpdateAsync(WriteTransaction write, Event before, Event after, string action)
    {
        var schoolId = write.Author.SchoolId;
        var parameters = Parameters(after, schoolId);
        parameters.Add("Expected", before.Version);
        var changed = await write.Connection.ExecuteAsync(
            """
            update event set calendar_id = @CalendarId, title = @Title, place = @Place, description = @Description,
                time_kind = @TimeKind, start_local = @StartLocal, length_seconds = @LengthSeconds, zone = @Zone,
                rule = @Rule, follows = @Follows::jsonb, by_school_days = @BySchoolDays::jsonb, facts = @Facts::jsonb, also_in = @AlsoIn, timed_at = @TimedAt, words = @Words, skips = @Skips, extras = @Extras, changes = @Changes::jsonb, related_to = @RelatedTo,
                bounds_from = @BoundsFrom, bounds_to = @BoundsTo,
                sequence = @Sequence, version = @Version, changed_at = @ChangedAt, deleted_at = @DeletedAt
            where id = @Id and school_id = @SchoolId and version = @Expected
            """,
            parameters);
        if (changed == 0)
            throw new StaleWriteException((await FindAsync(write.Connection, schoolId, after.Id))!);
        await Contents.TieAsync(write.Connection, schoolId, write.Author.PersonId, after);
        await write.RecordAsync("event", after.Id, action, new Row(before), new Row(after));
    }

    private static async Task InsertAsync(NpgsqlConnection connection, Guid schoolId, IEnumerable<Event> events, Guid? personId = null)
    {
        foreach (var e in events)
        {
            await connection.ExecuteAsync(
                """
                insert into event (id, school_id, calendar_id, uid, title, place, description, time_kind, start_local,
                    length_seconds, zone, rule, follows, by_school_days, facts, also_in, timed_at, words, skips, extras, changes, related_to, bounds_from, bounds_to, sequence, version, created_at, changed_at, deleted_at)
                values (@Id, @SchoolId, @CalendarId, @Uid, @Title, @Place, @Description, @TimeKind, @StartLocal,
                    @LengthSeconds, @Zone, @Rule, @Follows::jsonb, @BySchoolDays::jsonb, @Facts::jsonb, @AlsoIn, @TimedAt, @Words, @Skips, @Extras, @Changes::jsonb, @RelatedTo, @BoundsFrom, @BoundsTo, @Sequence, @Version, @CreatedAt, @ChangedAt, @DeletedAt)
                """,
                Parameters(e, schoolId));
            await Contents.TieAsync(connection, schoolId, personId, e);
        }
    }

    private static DynamicParameters Parameters(Event e, Guid schoolId)
    {
        var (from, to) = e.Bounds;
        var parameters = new DynamicParameters(new Row(e));
        parameters.AddDynamicParams(new { SchoolId = schoolId, BoundsFrom = from, BoundsTo = to, Words = Words.Of(e) });
        return parameters;
    }

    internal static async Task<Event?> FindAsync(NpgsqlConnection connection, Guid schoolId, Guid id)
    {
        var row = await connection.QuerySingleOrDefaultAsync<Row>(
            $"select {Columns} from event where school_id = @schoolId and id = @id", new { schoolId, id });
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

        private static Event? State(string? text) => text is null ? null : OfHistory(text);
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
            Follows = StoredPattern.Write(e.Follows);
            BySchoolDays = StoredDates.Write(e.BySchoolDays);
            Facts = StoredFacts.Write(e.Facts);
            AlsoIn = [.. e.Facts.AlsoIn];
            TimedAt = e.TimedAt;
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
        public string? Follows { get; init; }
        public string? BySchoolDays { get; init; }
        public string Facts { get; init; } = "{}";
        public Guid[] AlsoIn { get; init; } = [];
        public Instant TimedAt { get; init; }
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
                Description = RichText.Stored(Description),
                Timing = timing,
                Rule = Rule is null ? null : RecurrenceRule.Parse(Rule, zone),
                Follows = StoredPattern.Read(Follows),
                BySchoolDays = StoredDates.Read(BySchoolDays, timing),
                Facts = StoredFacts.Read(Facts, AlsoIn),
                TimedAt = TimedAt,
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
