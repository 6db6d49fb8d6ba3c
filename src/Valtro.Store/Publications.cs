using System.Text.Json;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;

namespace Valtro.Store;

/// <summary>What an outlet needs to know before anything else.</summary>
/// <param name="Id">The publication.</param>
/// <param name="SchoolId">Its school.</param>
/// <param name="Revision">Grows with every change that can alter what goes out.</param>
/// <param name="ChangedAt">When it last grew.</param>
/// <param name="IsGone">Whether its links were taken down, or this one was replaced.</param>
/// <param name="From">When it begins to go out; null for at once.</param>
/// <param name="Until">When it stops; null for never.</param>
public sealed record PublicationState(Guid Id, Guid SchoolId, long Revision, Instant ChangedAt, bool IsGone, Instant? From, Instant? Until);

/// <summary>A publication with all it is made from.</summary>
public sealed record PublicationContents(Publication Publication, IReadOnlyList<Calendar> Calendars, IReadOnlyList<Event> Events, SchoolLists Lists);

/// <summary>Publications.</summary>
public sealed class Publications(Connections db)
{
    private const string Columns =
        "id, key, title, introduction, audience, detail, first_view, language, version, revision, changed_at, taken_down_at, choices::text as choices, "
        + "array(select calendar_id from publication_calendar pc where pc.publication_id = p.id order by position) as calendar_ids";

    public async Task<IReadOnlyList<Publication>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from publication p where school_id = @schoolId order by created_at, id limit 1000", new { schoolId });
        return [.. rows.Select(r => r.ToPublication())];
    }

    public async Task<Publication?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await FindAsync(connection, schoolId, id);
    }

    /// <summary>The state of the publication with a key, or null.</summary>
    public async Task<PublicationState?> StateAsync(string key)
    {
        await using var connection = await db.OpenForAllAsync();
        return await connection.QuerySingleOrDefaultAsync<PublicationState>(
            """
            select id, school_id, revision, changed_at, taken_down_at is not null as is_gone,
                (choices->>'from')::timestamptz as "from", (choices->>'until')::timestamptz as until
            from publication where key = @key
            union all
            select p.id, p.school_id, p.revision, p.changed_at, true, null, null
            from publication_old_key o join publication p on p.id = o.publication_id
            where o.key = @key and not exists (select from publication where key = @key)
            """,
            new { key });
    }

    /// <summary>A publication with its calendars and events as of one moment.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="id">The publication.</param>
    /// <param name="fileId">Only events with this file or picture; null for all.</param>
    public async Task<PublicationContents> ContentsAsync(Guid schoolId, Guid id, Guid? fileId = null)
    {
        await using var connection = await db.OpenAsync(schoolId);
        // One snapshot: the parts never come from two revisions.
        await using var transaction = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
        var publication = await FindAsync(connection, schoolId, id) ?? throw new InvalidOperationException("The publication is gone.");
        var calendars = await Calendars.ListForPublicationAsync(connection, id);
        var events = await Events.ListForPublicationAsync(connection, id, fileId);
        return new PublicationContents(publication, calendars, events, await Lists.GetAsync(connection, schoolId));
    }

    /// <summary>Keeps a new or a changed publication; its revision grows.</summary>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    /// <exception cref="TakenException">Another publication has the key.</exception>
    public async Task<Publication> SaveAsync(Publication? before, Publication after, string action, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var row = new Row(after);
        var parameters = new DynamicParameters(row);
        parameters.AddDynamicParams(new { author.SchoolId, author.Now, Expected = before?.Version });
        var sql = before is null
            ? """
              insert into publication (id, school_id, key, title, introduction, audience, detail, first_view, language,
                  choices, version, revision, changed_at, created_at, taken_down_at)
              values (@Id, @SchoolId, @Key, @Title, @Introduction, @Audience, @Detail, @FirstView, @Language,
                  @Choices::jsonb, @Version, @Revision, date_trunc('second', @ChangedAt), @Now, @TakenDownAt)
              """
            : """
              update publication set key = @Key, title = @Title, introduction = @Introduction, audience = @Audience,
                  detail = @Detail, first_view = @FirstView, language = @Language, choices = @Choices::jsonb, version = @Version,
                  taken_down_at = @TakenDownAt, revision = revision + 1,
                  changed_at = greatest(date_trunc('second', @Now), date_trunc('second', changed_at) + interval '1 second')
              where id = @Id and school_id = @SchoolId and version = @Expected
              """;
        if (await write.Connection.ExecuteScalarAsync<bool>("select publication_key_retired(@Key, @Id)", new { after.Key, after.Id }))
            throw new TakenException();
        try
        {
            if (await write.Connection.ExecuteAsync(sql, parameters) == 0)
                throw new StaleWriteException((await FindAsync(write.Connection, author.SchoolId, after.Id))!);
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
        if (before is not null && before.Key != after.Key)
        {
            await write.Connection.ExecuteAsync(
                "insert into publication_old_key (key, school_id, publication_id, replaced_at) values (@Key, @SchoolId, @Id, @Now) on conflict do nothing",
                new { before.Key, author.SchoolId, before.Id, author.Now });
        }
        await write.Connection.ExecuteAsync(
            """
            delete from publication_calendar where publication_id = @Id and school_id = @SchoolId;
            insert into publication_calendar (publication_id, calendar_id, school_id, position)
            select @Id, c.id, @SchoolId, wanted.position
            from unnest(@CalendarIds) with ordinality as wanted (id, position)
            join calendar c on c.id = wanted.id and c.school_id = @SchoolId
            """,
            parameters);
        await write.RecordAsync("publication", after.Id, action, before is null ? null : new Row(before), row);
        var saved = (await FindAsync(write.Connection, author.SchoolId, after.Id))!;
        await write.CommitAsync();
        return saved;
    }

    private static async Task<Publication?> FindAsync(NpgsqlConnection connection, Guid schoolId, Guid id)
    {
        var row = await connection.QuerySingleOrDefaultAsync<Row>(
            $"select {Columns} from publication p where school_id = @schoolId and id = @id", new { schoolId, id });
        return row?.ToPublication();
    }

    private sealed class Row
    {
        public Row()
        {
        }

        public Row(Publication p)
        {
            Id = p.Id;
            Key = p.Key;
            Title = p.Title;
            Introduction = p.Introduction;
            Audience = (short)p.Audience;
            Detail = (short)p.Detail;
            FirstView = (short)p.FirstView;
            Language = p.Language;
            Version = p.Version;
            Revision = p.Revision;
            ChangedAt = p.ChangedAt;
            TakenDownAt = p.TakenDownAt;
            Choices = JsonSerializer.Serialize(p.Choices, WriteTransaction.Json);
            CalendarIds = [.. p.CalendarIds];
        }

        public Guid Id { get; init; }
        public string Key { get; init; } = "";
        public string Title { get; init; } = "";
        public string Introduction { get; init; } = "";
        public short Audience { get; init; }
        public short Detail { get; init; }
        public short FirstView { get; init; }
        public string Language { get; init; } = "";
        public int Version { get; init; }
        public long Revision { get; init; }
        public Instant ChangedAt { get; init; }
        public Instant? TakenDownAt { get; init; }
        public string Choices { get; init; } = "{}";
        public Guid[] CalendarIds { get; init; } = [];

        public Publication ToPublication() => new()
        {
            Id = Id,
            Key = Key,
            Title = Title,
            Introduction = Introduction,
            CalendarIds = CalendarIds,
            Audience = (Audience)Audience,
            Detail = (Detail)Detail,
            FirstView = (OutletView)FirstView,
            Language = Language,
            Version = Version,
            Revision = Revision,
            ChangedAt = ChangedAt,
            TakenDownAt = TakenDownAt,
            Choices = JsonSerializer.Deserialize<PublicationChoices>(Choices, WriteTransaction.Json)!,
        };
    }
}
