using System.Text.Json;
using System.Text.Json.Serialization;
using Dapper;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Valtro.Core;
using Valtro.Core.Sources;

namespace Valtro.Store;

/// <summary>One event of a reading, for its log.</summary>
/// <param name="Kind">What became of it.</param>
/// <param name="Title">Its title.</param>
/// <param name="Date">Its first day.</param>
/// <param name="From">The day it was on before, where it moved; null otherwise.</param>
public sealed record ReadingEvent(IntakeKind Kind, string Title, LocalDate Date, LocalDate? From);

/// <summary>What a reading changed.</summary>
/// <param name="At">When.</param>
/// <param name="Problem">Why it did not work; null when it did.</param>
/// <param name="Added">How many events came.</param>
/// <param name="Changed">How many changed.</param>
/// <param name="Gone">How many went.</param>
/// <param name="Kept">How many are not there any more and stayed here.</param>
/// <param name="Told">Some of them.</param>
public sealed record SourceReading(Instant At, string? Problem, int Added, int Changed, int Gone, int Kept, IReadOnlyList<ReadingEvent> Told);

/// <summary>A file that lies ready to be brought in.</summary>
public sealed record LaidOut(Guid Id, string Name, byte[] Body);

/// <summary>A file that was brought in.</summary>
public sealed record Brought(Guid Id, Instant At, string? Person, string Name, long Size, int Added, int Changed, int Same, int Gone, int LeftOut, Guid[] CalendarIds);

/// <summary>Addresses that are followed, files that are brought in, and where events come from.</summary>
public sealed class Sources(Connections db)
{
    /// <summary>The most addresses a school follows.</summary>
    public const int MaxSources = 200;

    private const int MaxReadings = 60;

    /// <summary>How long a file lies ready.</summary>
    public static readonly Duration LaidOutTime = Duration.FromHours(24);

    private static readonly Duration Kept = Duration.FromDays(90);

    private const string Columns =
        "id, calendar_id, person_id, address, moved_to, every_minutes, past_days, ahead_days, sorting::text as sorting, version, etag as tag, last_modified as modified, wish_minutes, body_at, read_at, next_at, failures, failing_since, problem";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) } };

    static Sources() => Json.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    /// <summary>The addresses a school follows.</summary>
    public async Task<IReadOnlyList<Source>> ListAsync(Guid schoolId, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        return [.. (await connection.QueryAsync<Row>($"select {Columns} from source where school_id = @schoolId order by id", new { schoolId })).Select(r => r.ToSource())];
    }

    public async Task<Source?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QuerySingleOrDefaultAsync<Row>($"select {Columns} from source where school_id = @schoolId and id = @id", new { schoolId, id }))?.ToSource();
    }

    /// <summary>What it gave when it was last other than before.</summary>
    public async Task<byte[]?> BodyAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleOrDefaultAsync<byte[]?>("select body from source where school_id = @schoolId and id = @id", new { schoolId, id });
    }

    /// <summary>The last readings that changed something or did not work, the newest first.</summary>
    public async Task<IReadOnlyList<SourceReading>> ReadingsAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return
        [
            .. (await connection.QueryAsync<(Instant At, string? Problem, int Added, int Changed, int Gone, int Kept, string Told)>(
                "select at, problem, added, changed, gone, kept, told::text from source_reading where school_id = @schoolId and source_id = @id order by at desc, id desc limit @MaxReadings",
                new { schoolId, id, MaxReadings }))
                .Select(r => new SourceReading(r.At, r.Problem, r.Added, r.Changed, r.Gone, r.Kept, JsonSerializer.Deserialize<ReadingEvent[]>(r.Told, Json)!)),
        ];
    }

    /// <summary>The last reading of each source that changed something.</summary>
    public async Task<IReadOnlyDictionary<Guid, SourceReading>> LastReadingsAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid SourceId, Instant At, int Added, int Changed, int Gone, int Kept)>(
            "select distinct on (source_id) source_id, at, added, changed, gone, kept from source_reading where school_id = @schoolId and problem is null order by source_id, at desc, id desc",
            new { schoolId })).ToDictionary(r => r.SourceId, r => new SourceReading(r.At, null, r.Added, r.Changed, r.Gone, r.Kept, []));
    }

    /// <summary>Takes the next source that is due, of whatever school: nobody else reads it, or another of its host, until a moment.</summary>
    public async Task<(Guid SchoolId, Guid Id)?> TakeAsync(Instant now, Instant until)
    {
        await using var none = await db.OpenForNoneAsync();
        return (await none.QueryAsync<(Guid, Guid)>("select school_id, id from source_take(@now, @until)", new { now, until })).Select(r => ((Guid, Guid)?)r).FirstOrDefault();
    }

    /// <summary>Takes one that somebody wants read now; false when it is being read.</summary>
    public async Task<bool> TakeAsync(Guid schoolId, Guid id, Instant now, Instant until)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteAsync(
            "update source set leased_until = @until where school_id = @schoolId and id = @id and (leased_until is null or leased_until <= @now)", new { schoolId, id, now, until }) > 0;
    }

    /// <summary>Keeps what a person chose of a source that is followed.</summary>
    /// <exception cref="StaleWriteException">It is another version by now.</exception>
    public async Task SaveAsync(Source before, Source after, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var kept = await write.Connection.ExecuteAsync(
            "update source set every_minutes = @EveryMinutes, past_days = @PastDays, ahead_days = @AheadDays, sorting = @sorting::jsonb, version = @Version, next_at = @NextAt where school_id = @SchoolId and id = @Id and version = @expected",
            new { author.SchoolId, after.Id, after.EveryMinutes, after.PastDays, after.AheadDays, sorting = Sorting(after), after.Version, after.NextAt, expected = before.Version });
        if (kept == 0)
            throw new StaleWriteException(before);
        write.Concerns([after.CalendarId]);
        await write.CommitAsync();
    }

    /// <summary>Keeps what came of asking it when nothing else changes.</summary>
    public async Task KeepStateAsync(Guid schoolId, Source after, Instant now, bool isToLog)
    {
        await using var write = await WriteTransaction.BeginAsync(db, new Author(schoolId, null, now));
        await KeepStateAsync(write, after, null);
        if (isToLog)
            await LogAsync(write, after.Id, new SourceReading(now, after.Problem, 0, 0, 0, 0, []));
        write.Concerns([after.CalendarId]);
        await write.CommitAsync();
    }

    /// <summary>Forgets old readings, and files nobody brought in.</summary>
    public Task ForgetAsync(Instant now) => db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync(
        """
        delete from source_reading where at < @before;
        delete from bringing where at < @laid;
        delete from origin o where (source_id is null or is_kept) and not exists (select from event e where e.id = o.event_id)
        """,
        new { before = now - Kept, laid = now - LaidOutTime }));

    /// <summary>Lays a file ready.</summary>
    public async Task LayOutAsync(LaidOut file, Author author)
    {
        await using var connection = await db.OpenAsync(author.SchoolId);
        await connection.ExecuteAsync(
            """
            delete from bringing where school_id = @SchoolId and person_id = @PersonId and id in (
                select id from bringing where school_id = @SchoolId and person_id = @PersonId order by at desc offset 4);
            insert into bringing (id, school_id, person_id, name, body, at) values (@Id, @SchoolId, @PersonId, @Name, @Body, @Now)
            """,
            new { file.Id, author.SchoolId, author.PersonId, file.Name, file.Body, author.Now });
    }

    /// <summary>A file that somebody laid ready.</summary>
    public async Task<LaidOut?> FindLaidOutAsync(Guid schoolId, Guid personId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleOrDefaultAsync<LaidOut>("select id, name, body from bringing where school_id = @schoolId and person_id = @personId and id = @id", new { schoolId, personId, id });
    }

    /// <summary>What the columns of a table of this shape said when somebody last brought one in; null when they never did.</summary>
    public async Task<IReadOnlyList<TableColumn>?> ShapeAsync(Guid schoolId, Guid personId, string shape)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var meanings = await connection.QuerySingleOrDefaultAsync<string[]?>("select meanings from table_shape where school_id = @schoolId and person_id = @personId and shape = @shape", new { schoolId, personId, shape });
        return meanings is null ? null : [.. meanings.Select(m => Enum.TryParse<TableColumn>(m, out var column) ? column : TableColumn.Nothing)];
    }

    /// <summary>Remembers what the columns of a table said.</summary>
    public async Task KeepShapeAsync(string shape, IReadOnlyList<TableColumn> meanings, Author author)
    {
        await using var connection = await db.OpenAsync(author.SchoolId);
        await connection.ExecuteAsync(
            """
            insert into table_shape (person_id, school_id, shape, meanings, at) values (@PersonId, @SchoolId, @shape, @meanings, @Now)
            on conflict (person_id, shape) do update set meanings = excluded.meanings, at = excluded.at
            """,
            new { author.PersonId, author.SchoolId, shape, meanings = meanings.Select(m => m.ToString()).ToArray(), author.Now });
    }

    /// <summary>Takes a file away that lay ready.</summary>
    public async Task ClearAsync(Guid schoolId, Guid personId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync("delete from bringing where school_id = @schoolId and person_id = @personId and id = @id", new { schoolId, personId, id });
    }

    /// <summary>What was brought in lately to some calendars.</summary>
    public async Task<IReadOnlyList<Brought>> BroughtAsync(Guid schoolId, Guid[] calendarIds)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return
        [
            .. (await connection.QueryAsync<BroughtRow>(
                """
                select b.id, b.at, p.name as person, b.name, b.size, b.added, b.changed, b.same, b.gone, b.left_out, b.calendar_ids
                from brought b left join person p on p.id = b.person_id
                where b.school_id = @schoolId and b.calendar_ids && @calendarIds order by b.at desc, b.id desc limit 50
                """,
                new { schoolId, calendarIds })).Select(b => new Brought(b.Id, b.At, b.Person, b.Name, b.Size, b.Added, b.Changed, b.Same, b.Gone, b.LeftOut, b.CalendarIds)),
        ];
    }

    /// <summary>Where an event comes from; null when it was made here.</summary>
    public async Task<(Origin Origin, Source? Source)?> OriginAsync(Guid schoolId, Guid eventId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var row = await connection.QuerySingleOrDefaultAsync<OriginRow>($"select {OriginRow.Columns} from origin where school_id = @schoolId and event_id = @eventId", new { schoolId, eventId });
        if (row is null)
            return null;
        var source = row.SourceId is null ? null : await connection.QuerySingleOrDefaultAsync<Row>($"select {Columns} from source where id = @SourceId and school_id = @schoolId", new { row.SourceId, schoolId });
        return (row.ToOrigin(), source?.ToSource());
    }

    internal static async Task<Source?> HoldAsync(WriteTransaction write, Guid id) =>
        (await write.Connection.QuerySingleOrDefaultAsync<Row>($"select {Columns} from source where school_id = @SchoolId and id = @id for update", new { write.Author.SchoolId, id }))?.ToSource();

    internal static async Task AddAsync(WriteTransaction write, Source source)
    {
        var count = await write.Connection.ExecuteScalarAsync<int>("select count(*)::int from source where school_id = @SchoolId", new { write.Author.SchoolId });
        if (count >= MaxSources)
            throw new InvalidInputException("too_many_sources", "address", $"A school follows {MaxSources} addresses at most.");
        await write.Connection.ExecuteAsync(
            """
            insert into source (id, school_id, calendar_id, person_id, address, host, every_minutes, past_days, ahead_days, sorting, version, failures, next_at)
            values (@Id, @SchoolId, @CalendarId, @PersonId, @Address, @host, @EveryMinutes, @PastDays, @AheadDays, @sorting::jsonb, @Version, 0, @NextAt)
            """,
            new { source.Id, write.Author.SchoolId, source.CalendarId, source.PersonId, source.Address, host = HostOf(source), source.EveryMinutes, source.PastDays, source.AheadDays, sorting = Sorting(source), source.Version, source.NextAt });
    }

    internal static Task RemoveAsync(WriteTransaction write, Guid id) =>
        write.Connection.ExecuteAsync("delete from source where school_id = @SchoolId and id = @id", new { write.Author.SchoolId, id });

    /// <summary>Keeps what came of asking a source; whoever held it lets it go.</summary>
    /// <param name="write">The write it belongs to.</param>
    /// <param name="source">Its state.</param>
    /// <param name="body">What it gave; null for what it gave before.</param>
    internal static Task KeepStateAsync(WriteTransaction write, Source source, byte[]? body) => write.Connection.ExecuteAsync(
        """
        update source set host = @host, moved_to = @MovedTo, etag = @Tag, last_modified = @Modified, wish_minutes = @WishMinutes, body = coalesce(@body, body), body_at = @BodyAt, read_at = @ReadAt,
            next_at = @NextAt, failures = @Failures, failing_since = @FailingSince, problem = @Problem, leased_until = null
        where school_id = @SchoolId and id = @Id
        """,
        new { write.Author.SchoolId, source.Id, host = HostOf(source), source.MovedTo, source.Tag, source.Modified, source.WishMinutes, body, source.BodyAt, source.ReadAt, source.NextAt, source.Failures, source.FailingSince, source.Problem });

    internal static Task LogAsync(WriteTransaction write, Guid id, SourceReading reading) => write.Connection.ExecuteAsync(
        "insert into source_reading (id, school_id, source_id, at, problem, added, changed, gone, kept, told) values (@readingId, @SchoolId, @id, @At, @Problem, @Added, @Changed, @Gone, @Kept, @told::jsonb)",
        new { readingId = Guid.CreateVersion7(), write.Author.SchoolId, id, reading.At, reading.Problem, reading.Added, reading.Changed, reading.Gone, reading.Kept, told = JsonSerializer.Serialize(reading.Told, Json) });

    internal static Task KeepBroughtAsync(WriteTransaction write, Brought b) => write.Connection.ExecuteAsync(
        """
        insert into brought (id, school_id, person_id, at, name, size, added, changed, same, gone, left_out, calendar_ids)
        values (@Id, @SchoolId, @PersonId, @At, @Name, @Size, @Added, @Changed, @Same, @Gone, @LeftOut, @CalendarIds)
        """,
        new { b.Id, write.Author.SchoolId, write.Author.PersonId, b.At, b.Name, b.Size, b.Added, b.Changed, b.Same, b.Gone, b.LeftOut, b.CalendarIds });

    internal static Task KeepAsync(WriteTransaction write, IReadOnlyList<Origin> origins) => origins.Count == 0 ? Task.CompletedTask : write.Connection.ExecuteAsync(
        """
        insert into origin (event_id, school_id, source_id, key, name, read, is_kept, own)
        select event_id, @SchoolId, source_id, key, name, read, is_kept, own from jsonb_to_recordset(@rows::jsonb)
            as r (event_id uuid, source_id uuid, key text, name text, read jsonb, is_kept boolean, own text[])
        on conflict (event_id) do update set source_id = excluded.source_id, key = excluded.key, name = excluded.name, read = excluded.read, is_kept = excluded.is_kept, own = excluded.own
        """,
        new { write.Author.SchoolId, rows = OriginRow.RowsOf(origins) });

    private static string HostOf(Source source) => new Uri(source.AskedAt).Host.ToLowerInvariant();

    private static string Sorting(Source source) => JsonSerializer.Serialize(source.Sorting, Json);

    private sealed class BroughtRow
    {
        public Guid Id { get; init; }
        public Instant At { get; init; }
        public string? Person { get; init; }
        public string Name { get; init; } = "";
        public long Size { get; init; }
        public int Added { get; init; }
        public int Changed { get; init; }
        public int Same { get; init; }
        public int Gone { get; init; }
        public int LeftOut { get; init; }
        public Guid[] CalendarIds { get; init; } = [];
    }

    private sealed class Row
    {
        public Guid Id { get; init; }
        public Guid CalendarId { get; init; }
        public Guid? PersonId { get; init; }
        public string Address { get; init; } = "";
        public string? MovedTo { get; init; }
        public int? EveryMinutes { get; init; }
        public int PastDays { get; init; }
        public int AheadDays { get; init; }
        public string Sorting { get; init; } = "[]";
        public int Version { get; init; }
        public string? Tag { get; init; }
        public string? Modified { get; init; }
        public int? WishMinutes { get; init; }
        public Instant? BodyAt { get; init; }
        public Instant? ReadAt { get; init; }
        public Instant? NextAt { get; init; }
        public int Failures { get; init; }
        public Instant? FailingSince { get; init; }
        public string? Problem { get; init; }

        public Source ToSource() => new()
        {
            Id = Id,
            CalendarId = CalendarId,
            PersonId = PersonId,
            Address = Address,
            MovedTo = MovedTo,
            EveryMinutes = EveryMinutes,
            PastDays = PastDays,
            AheadDays = AheadDays,
            Sorting = [.. JsonSerializer.Deserialize<SortingRule[]>(Sorting, Json)!],
            Version = Version,
            Tag = Tag,
            Modified = Modified,
            WishMinutes = WishMinutes,
            BodyAt = BodyAt,
            ReadAt = ReadAt,
            NextAt = NextAt,
            Failures = Failures,
            FailingSince = FailingSince,
            Problem = Problem,
        };
    }
}

/// <summary>Where an event comes from, as it lies in its table.</summary>
internal sealed class OriginRow
{
    public const string Columns = "event_id, source_id, key, name, read::text as read, is_kept, own";

    public Guid EventId { get; init; }
    public Guid? SourceId { get; init; }
    public string Key { get; init; } = "";
    public string Name { get; init; } = "";
    public string Read { get; init; } = "{}";
    public bool IsKept { get; init; }
    public string[] Own { get; init; } = [];

    /// <summary>It as it lies in the history.</summary>
    public static string Write(Origin o) => JsonSerializer.Serialize(
        new OriginRow { EventId = o.EventId, SourceId = o.SourceId, Key = o.Key, Name = o.Name, Read = StoredEvent.Write(o.Read), IsKept = o.IsKept, Own = [.. o.Own] }, StoredJson.Options);

    /// <summary>As it lies in the history.</summary>
    public static Origin OfHistory(string text) => JsonSerializer.Deserialize<OriginRow>(text, StoredJson.Options)!.ToOrigin();

    public Origin ToOrigin() => new() { EventId = EventId, SourceId = SourceId, Key = Key, Name = Name, Read = StoredEvent.Read(Read), IsKept = IsKept, Own = Own };

    public static string RowsOf(IEnumerable<Origin> origins) => StoredJson.Rows(origins.Select(o => new Dictionary<string, object?>
    {
        ["event_id"] = o.EventId,
        ["source_id"] = o.SourceId,
        ["key"] = o.Key,
        ["name"] = o.Name,
        ["read"] = StoredJson.Part(StoredEvent.Write(o.Read)),
        ["is_kept"] = o.IsKept,
        ["own"] = o.Own,
    }));
}
