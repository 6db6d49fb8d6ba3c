using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Limits;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>What an outlet needs to know before anything else.</summary>
/// <param name="Id">The publication.</param>
/// <param name="SchoolId">Its school.</param>
/// <param name="Revision">Grows with every change that can alter what goes out.</param>
/// <param name="NarrowedRevision">The last of its revisions by which less went out: what is older may not be shown any more.</param>
/// <param name="ChangedAt">When it last grew.</param>
/// <param name="IsGone">Whether its links were taken down, or this one was replaced.</param>
/// <param name="From">When it begins to go out; null for at once.</param>
/// <param name="Until">When it stops; null for never.</param>
/// <param name="IsClosed">Whether it is for members and this link is nobody's own.</param>
/// <param name="IsPersonal">Whether this link is a member's own.</param>
public sealed record PublicationState(
    Guid Id, Guid SchoolId, long Revision, long NarrowedRevision, Instant ChangedAt, bool IsGone, Instant? From, Instant? Until, bool IsClosed, bool IsPersonal);

/// <summary>A publication with all it is made from.</summary>
public sealed record PublicationContents(Publication Publication, IReadOnlyList<Calendar> Calendars, IReadOnlyList<Event> Events, SchoolLists Lists)
{
    /// <summary>The identities of events that went out in words and are gone for good.</summary>
    public IReadOnlySet<string> Gone { get; init; } = new HashSet<string>();
}

/// <summary>Publications.</summary>
public sealed class Publications(Connections db)
{
    private const string Columns =
        "id, owner_id, shared_with, key, title, introduction, audience, first_view, language, version, revision, changed_at, published_at, taken_down_at, choices::text as choices, look::text as look, draft::text as draft, "
        + "array(select calendar_id from publication_calendar pc where pc.publication_id = p.id order by position) as calendar_ids";

    // Looked up behind a select, an array says nothing of how long it is, so that PostgreSQL finds a plan for all as good as one
    // for this array, and keeps it: planning took three times what the look-up takes.
    private const string Ids = "array(select unnest(@publicationIds))";

    // By their identities alone, which say of which school they are: asked for that too, PostgreSQL looked through all of the school's.
    private const string Selected = $"select {Columns} from publication p where id = any({Ids});";

    // The calendars they show, and others (@alsoIn).
    private const string Shown = $"array(select calendar_id from publication_calendar where publication_id = any({Ids}) union select unnest(@alsoIn))";

    public async Task<IReadOnlyList<Publication>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from publication p where school_id = @schoolId order by created_at, id", new { schoolId });
        return [.. rows.Select(r => r.ToPublication())];
    }

    public async Task<Publication?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await FindAsync(connection, schoolId, id);
    }

    /// <summary>The states of what links lead to; those nothing is at are left out.</summary>
    /// <param name="keys">The links.</param>
    /// <param name="schoolId">Of which school; null for whichever.</param>
    public async Task<IReadOnlyDictionary<string, PublicationState>> StatesAsync(string[] keys, Guid? schoolId = null)
    {
        await using var connection = await db.OpenForNoneAsync();
        var rows = await connection.QueryAsync<StateRow>("select * from publication_at(@keys, @members)", new { keys, members = (short)Audience.Members });
        return rows.Where(r => schoolId is null || r.SchoolId == schoolId).DistinctBy(r => r.Key).ToDictionary(
            r => r.Key, r => new PublicationState(r.Id, r.SchoolId, r.Revision, r.NarrowedRevision, r.ChangedAt, r.IsGone, r.ShownFrom, r.ShownUntil, r.IsClosed, r.IsPersonal), StringComparer.Ordinal);
    }

    /// <summary>The links of a school's publications that are out for everybody who has the link.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="only">Of which publications; null for all.</param>
    public async Task<string[]> KeysOutAsync(Guid schoolId, Guid[]? only)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. await connection.QueryAsync<string>(
            "select key from publication where school_id = @schoolId and published_at is not null and taken_down_at is null and audience <> @members and (@only::uuid[] is null or id = any(@only)) order by created_at, id",
            new { schoolId, only, members = (short)Audience.Members })];
    }

    private sealed class StateRow
    {
        public string Key { get; init; } = "";
        public Guid Id { get; init; }
        public Guid SchoolId { get; init; }
        public long Revision { get; init; }
        public long NarrowedRevision { get; init; }
        public Instant ChangedAt { get; init; }
        public bool IsGone { get; init; }
        public Instant? ShownFrom { get; init; }
        public Instant? ShownUntil { get; init; }
        public bool IsClosed { get; init; }
        public bool IsPersonal { get; init; }
    }

    /// <summary>A publication with its calendars and events as of one moment, and its school.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="id">The publication.</param>
    /// <param name="isDraft">Whether with the changes that are not out yet.</param>
    /// <exception cref="InvalidOperationException">It is gone.</exception>
    public async Task<(PublicationContents Contents, School School)> ContentsAsync(Guid schoolId, Guid id, bool isDraft = false)
    {
        var (contents, school) = await ContentsAsync(schoolId, [id], isDraft);
        return (Of(contents, id), school);
    }

    /// <summary>Publications of a school with their calendars and events, all as of one moment, and the school. Those that are gone are left out.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="ids">The publications.</param>
    /// <param name="isDraft">Whether with the changes that are not out yet.</param>
    public async Task<(IReadOnlyDictionary<Guid, PublicationContents> Contents, School School)> ContentsAsync(Guid schoolId, Guid[] ids, bool isDraft = false)
    {
        await using var connection = await db.OpenAsync(schoolId);
        // One snapshot: the parts never come from two revisions.
        await using var transaction = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
        return await ContentsAsync(connection, db.KnownEvents, schoolId, ids, isDraft);
    }

    /// <summary>One publication, within a transaction that sees one school.</summary>
    /// <exception cref="InvalidOperationException">It is gone.</exception>
    public static async Task<(PublicationContents Contents, School School)> ContentsAsync(DbConnection connection, Guid schoolId, Guid id)
    {
        using var known = new KnownEvents();
        var (contents, school) = await ContentsAsync(connection, known, schoolId, [id], isDraft: false);
        return (Of(contents, id), school);
    }

    private static PublicationContents Of(IReadOnlyDictionary<Guid, PublicationContents> contents, Guid id) =>
        contents.GetValueOrDefault(id) ?? throw new InvalidOperationException("The publication is gone.");

    private static async Task<(IReadOnlyDictionary<Guid, PublicationContents> Contents, School School)> ContentsAsync(
        DbConnection connection, KnownEvents known, Guid schoolId, Guid[] publicationIds, bool isDraft)
    {
        Guid[] alsoIn = isDraft ? [.. (await ReadAsync(connection, publicationIds)).SelectMany(p => p.WithDraft.CalendarIds)] : [];
        using var result = await connection.QueryMultipleAsync(
            $"""
            {Selected}
            {Calendars.SelectedFor(Shown)}
            {Events.SelectedFor(Shown)}
            select publication_id, uid from gone_event where publication_id = any({Ids});
            {Lists.Selected}
            {Schools.Selected}
            """,
            new { publicationIds, alsoIn, SchoolId = schoolId });
        var publications = (await result.ReadAsync<Row>()).Select(r => r.ToPublication()).Select(p => isDraft ? p.WithDraft : p).ToList();
        var (calendars, standing) = (await Calendars.ReadForAsync(result), await Events.ReadForAsync(result));
        var gone = (await result.ReadAsync<(Guid PublicationId, string Uid)>()).ToLookup(g => g.PublicationId, g => g.Uid);
        var (lists, school) = (await Lists.ReadAsync(result), await Schools.ReadAsync(result));
        var states = await known.ReadAsync(connection, [.. standing.Select(s => s.State)]);
        var events = standing.Select(s => (Event: states[s.Id], s.IsHomeThere)).ToList();
        var contents = new Dictionary<Guid, PublicationContents>();
        foreach (var publication in publications)
        {
            var ids = publication.CalendarIds.ToHashSet();
            // It is of one of them, or stands in one while its own is there.
            var shown = events.Where(e => ids.Contains(e.Event.CalendarId) || (e.IsHomeThere && e.Event.CalendarIds.Any(ids.Contains)));
            contents[publication.Id] = new PublicationContents(publication, [.. calendars.Where(c => ids.Contains(c.Id))], [.. shown.Select(e => e.Event)], lists)
            {
                Gone = gone[publication.Id].ToHashSet(),
            };
        }
        return (contents, school);
    }

    private static async Task<List<Publication>> ReadAsync(DbConnection connection, Guid[] publicationIds) =>
        [.. (await connection.QueryAsync<Row>(Selected, new { publicationIds })).Select(r => r.ToPublication())];

    /// <summary>Keeps a new or a changed publication; its revision grows.</summary>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    /// <exception cref="TakenException">Another publication has the key.</exception>
    public async Task<Publication> SaveAsync(Publication? before, Publication after, string action, Author author, CancellationToken cancellation = default)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author, cancellation: cancellation);
        var saved = await SaveAsync(write, before, after, action);
        await write.CommitAsync(cancellation);
        return saved;
    }

    /// <summary>Keeps a publication within a write that does more.</summary>
    internal static async Task<Publication> SaveAsync(WriteTransaction write, Publication? before, Publication after, string action)
    {
        var author = write.Author;
        await write.HoldSchoolAsync();
        var row = new Row(after);
        var parameters = new DynamicParameters(row);
        parameters.AddDynamicParams(new { author.SchoolId, author.Now, Expected = before?.Version, IsQuiet = before is not null && IsQuiet(before, after) });
        var sql = before is null
            ? """
              insert into publication (id, school_id, owner_id, shared_with, key, title, introduction, audience, first_view, language,
                  choices, look, draft, version, revision, changed_at, created_at, published_at, taken_down_at)
              values (@Id, @SchoolId, @OwnerId, @SharedWith, @Key, @Title, @Introduction, @Audience, @FirstView, @Language,
                  @Choices::jsonb, @Look::jsonb, @Draft::jsonb, @Version, @Revision, date_trunc('second', @ChangedAt), @Now, @PublishedAt, @TakenDownAt)
              """
            : """
              update publication set owner_id = @OwnerId, shared_with = @SharedWith, key = @Key, title = @Title, introduction = @Introduction, audience = @Audience,
                  first_view = @FirstView, language = @Language, choices = @Choices::jsonb, look = @Look::jsonb, draft = @Draft::jsonb,
                  version = @Version, published_at = @PublishedAt, taken_down_at = @TakenDownAt,
                  revision = revision + case when @IsQuiet then 0 else 1 end,
                  narrowed_revision = case when @IsQuiet then narrowed_revision else revision + 1 end,
                  changed_at = case when @IsQuiet then changed_at
                      else greatest(date_trunc('second', @Now), date_trunc('second', changed_at) + interval '1 second') end
              where id = @Id and school_id = @SchoolId and version = @Expected
              """;
        if (before is null)
            write.Grows(Limited.Publications);
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
        // A link that never was out leads nowhere and may be anybody's.
        if (before is { PublishedAt: not null } && before.Key != after.Key)
        {
            // A link that leaked is not taken back into use.
            write.IsNoStep();
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
        await Contents.TieAsync(write.Connection, author.SchoolId, author.PersonId, after);
        // What gives its readers nothing now, whoever saves it has seen.
        await write.Connection.ExecuteAsync("update publication set trouble = @names where id = @Id", new { after.Id, names = NamesOf((await TroublesAsync(write.Connection, after.Id))[after.Id]) });
        write.Record("publication", after.Id, action, before is null ? null : new Row(before), row);
        write.Restands(after.Id);
        write.Concerns([.. after.CalendarIds, .. before?.CalendarIds ?? [], .. after.Draft?.CalendarIds ?? []]);
        if (after.Audience == Audience.Members || before?.Audience == Audience.Members)
            write.ConcernsMembers();
        return (await FindAsync(write.Connection, author.SchoolId, after.Id))!;
    }

    /// <summary>The publications that were out and show calendars of events whose time in the bin is over.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="before">What was thrown away before is removed next.</param>
    public async Task<IReadOnlyList<Guid>> LosingAsync(Guid schoolId, Instant before)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. await connection.QueryAsync<Guid>(
            """
            select distinct p.id from publication p join publication_calendar pc on pc.publication_id = p.id, lateral event_standing_in(array[pc.calendar_id]) e
            where p.school_id = @schoolId and p.published_at is not null and e.deleted_at < @before
            """,
            new { schoolId, before })];
    }

    /// <summary>Notes what a publication's links say for ever.</summary>
    public async Task KeepGoneAsync(Guid schoolId, Guid id, IEnumerable<string> uids)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync("insert into gone_event (publication_id, school_id, uid) select @id, @schoolId, u from unnest(@uids) u on conflict do nothing", new { id, schoolId, uids = uids.ToArray() });
    }

    /// <summary>When calendars were last opened, closed or binned.</summary>
    public async Task<IReadOnlyDictionary<Guid, Instant>> LastOpenedAsync(Guid schoolId, Guid[] calendarIds)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid Id, Instant At)>(
            "select entity_id, max(at) from history where school_id = @schoolId and entity = 'calendar' and entity_id = any(@calendarIds) and action in ('reach', 'bin', 'restore') group by entity_id",
            new { schoolId, calendarIds })).ToDictionary(r => r.Id, r => r.At);
    }

    /// <summary>The links of what search engines may list, of all schools, with when it last became different.</summary>
    public async Task<IReadOnlyList<(string Key, Instant ChangedAt)>> ListedAsync(Instant now)
    {
        await using var none = await db.OpenForNoneAsync();
        return [.. await none.QueryAsync<(string, Instant)>("select key, changed_at from listed_publications(@everyone, @now)", new { everyone = (short)Audience.Everyone, now })];
    }

    /// <summary>The calendars of what is out that give its readers nothing, by publication.</summary>
    public async Task<ILookup<Guid, PublicationTrouble>> TroublesAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await TroublesAsync(connection);
    }

    /// <summary>
    /// Writes once to who has a publication what it no longer sends out. What was so when they last changed it they have seen.
    /// </summary>
    /// <param name="write">(school, who, the publication, what is wrong) → the mail.</param>
    /// <param name="now">The moment.</param>
    /// <returns>How many mails.</returns>
    public Task<int> TellTroublesAsync(Func<Guid, Addressee, Publication, IReadOnlyList<PublicationTrouble>, (string Subject, string Body)> write, Instant now) =>
        db.InEachSchoolAsync(async (schoolId, connection) =>
        {
            var mails = 0;
            await using var transaction = await connection.BeginTransactionAsync();
            // One server does it; another finds it done.
            if (!await connection.ExecuteScalarAsync<bool>("select pg_try_advisory_xact_lock(hashtext('troubles ' || @school))", new { school = schoolId.ToString() }))
                return 0;
            var troubles = await TroublesAsync(connection);
            var known = await connection.QueryAsync<(Guid Id, string? Trouble)>("select id, trouble from publication where published_at is not null and taken_down_at is null");
            foreach (var (id, told) in known)
            {
                var names = NamesOf(troubles[id]);
                if (names == told)
                    continue;
                await connection.ExecuteAsync("update publication set trouble = @names where id = @id", new { names, id });
                if (told is null || PublicationTrouble.News(troubles[id], told.Split('\n')) is not { Count: > 0 } news)
                    continue;
                var publication = (await FindAsync(connection, schoolId, id))!;
                var owner = await connection.QuerySingleOrDefaultAsync<Addressee>("select id, name, email from person where id = @OwnerId and left_at is null", new { publication.OwnerId });
                if (owner is null)
                    continue;
                var (subject, body) = write(schoolId, owner, publication, news);
                await Mails.AddAsync(connection, schoolId, owner.Email, subject, body, now);
                mails++;
            }
            await transaction.CommitAsync();
            return mails;
        });

    private static string NamesOf(IEnumerable<PublicationTrouble> troubles) => string.Join('\n', troubles.Select(t => t.Name));

    private static async Task<ILookup<Guid, PublicationTrouble>> TroublesAsync(DbConnection connection, Guid? only = null)
    {
        var rows = await connection.QueryAsync<(Guid Publication, Guid Calendar, string Title, short Kind)>(
            """
            select * from (
                select p.id, c.id, c.title, (case when c.deleted_at is not null then @binned
                    when (case p.audience when @members then c.reach_members when @holders then c.reach_link_holders else c.reach_everyone end) = @nothing then @closed
                    -- Most have events of their own, which an index tells; others' are looked for where there are none.
                    when exists (select from event e where e.calendar_id = c.id and e.deleted_at is null) then null
                    when not exists (select from event_standing_in(array[c.id]) e where e.deleted_at is null) then @emptied end)::smallint as kind
                from publication p join publication_calendar pc on pc.publication_id = p.id join calendar c on c.id = pc.calendar_id
                where p.published_at is not null and p.taken_down_at is null and (@only::uuid is null or p.id = @only)
                order by p.id, pc.position) found
            where kind is not null
            """,
            new
            {
                binned = (short)TroubleKind.Binned,
                closed = (short)TroubleKind.Closed,
                emptied = (short)TroubleKind.Emptied,
                members = (short)Audience.Members,
                holders = (short)Audience.LinkHolders,
                nothing = (short)Detail.Nothing,
                only,
            });
        return rows.ToLookup(r => r.Publication, r => new PublicationTrouble(r.Calendar, r.Title, (TroubleKind)r.Kind));
    }

    /// <summary>Gives up a publication that never was out.</summary>
    internal static async Task RemoveAsync(WriteTransaction write, Publication before, string action)
    {
        await write.Connection.ExecuteAsync("delete from publication where id = @Id and school_id = @SchoolId and published_at is null", new { before.Id, write.Author.SchoolId });
        write.Record("publication", before.Id, action, new Row(before), null);
        write.Concerns(before.CalendarIds);
    }

    /// <summary>A publication as it lies in the history.</summary>
    internal static Publication OfHistory(string text) => JsonSerializer.Deserialize<Row>(text, StoredJson.Options)!.ToPublication();

    /// <summary>The publications that calendars stand in.</summary>
    internal static async Task<IReadOnlyList<Publication>> ShowingAsync(DbConnection connection, Guid schoolId, Guid[] calendarIds, CancellationToken cancellation = default)
    {
        var rows = await connection.QueryAsync<Row>(new CommandDefinition(
            $"select {Columns} from publication p where school_id = @schoolId and id in (select publication_id from publication_calendar where school_id = @schoolId and calendar_id = any(@calendarIds))",
            new { schoolId, calendarIds },
            cancellationToken: cancellation));
        return [.. rows.Select(r => r.ToPublication())];
    }

    /// <summary>The publications that send out something else with other lists: names of categories, what these allow, where places are.</summary>
    internal static async Task<IReadOnlyList<Guid>> AlteredAsync(DbConnection connection, Author author, SchoolLists before, SchoolLists after)
    {
        Guid[] categories = [.. before.Categories.Concat(after.Categories).Where(c => before.Category(c.Id) != after.Category(c.Id)).Select(c => c.Id).Distinct()];
        var places = before.Places.Concat(after.Places).Where(p => before.Place(p.Name) != after.Place(p.Name)).Select(p => Place.NameKey(p.Name)).ToHashSet();
        if (categories.Length == 0 && places.Count == 0)
            return [];
        var rows = await connection.QueryAsync<EventColumns>(
            $"select {EventColumns.Selected} from event where school_id = @SchoolId and deleted_at is null and ((facts->>'categoryId')::uuid = any(@categories) or changes @? '$[*].facts.categoryId' or (@hasPlaces and place <> ''))",
            new { author.SchoolId, categories, hasPlaces = places.Count > 0 });
        var events = rows.Select(r => r.ToEvent()).Where(e => e.CategoryIds.Any(categories.Contains) || places.Contains(Place.NameKey(e.Place))).ToList();
        if (events.Count == 0)
            return [];
        var zone = Zones.Get(await connection.ExecuteScalarAsync<string>("select zone from school where id = @SchoolId", new { author.SchoolId }) ?? "");
        Guid[] standing = [.. events.SelectMany(e => e.CalendarIds).Distinct()];
        var calendars = (await Calendars.ListForPublicationAsync(connection, author.SchoolId, standing)).ToDictionary(c => c.Id);
        return [.. (await ShowingAsync(connection, author.SchoolId, standing)).Where(p => Outgoing.IsAltered(p, zone, calendars, before, after, events, author.Now)).Select(p => p.Id)];
    }

    /// <summary>A member's own link to a publication, made when it is first asked for.</summary>
    /// <param name="id">The publication.</param>
    /// <param name="key">The name of a link that nobody guesses, for when there is none yet.</param>
    /// <param name="author">The member.</param>
    /// <param name="isNew">Whether an older one ends.</param>
    public async Task<string> MemberLinkAsync(Guid id, string key, Author author, bool isNew = false)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var link = await write.Connection.ExecuteScalarAsync<string>(
            """
            insert into member_link (key, school_id, publication_id, person_id, made_at) values (@key, @schoolId, @id, @personId, @now)
            on conflict (publication_id, person_id) do update set key = case when @isNew then excluded.key else member_link.key end
            returning key
            """,
            new { key, schoolId = author.SchoolId, id, personId = author.PersonId, now = author.Now, isNew });
        // Every server forgets the link that ended; no screen shows it.
        write.Restands(id);
        write.Concerns([author.PersonId ?? Guid.Empty]);
        await write.CommitAsync();
        return link!;
    }

    /// <summary>Keeps what went out when it was published.</summary>
    public async Task KeepSentAsync(Guid schoolId, Guid id, IReadOnlyList<SentEvent> sent)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync(
            "update publication set sent = @sent::jsonb where id = @id and school_id = @schoolId",
            new { schoolId, id, sent = JsonSerializer.Serialize(sent, StoredJson.Options) });
    }

    /// <summary>What went out when it was last published; null when that was before such things were kept.</summary>
    public async Task<IReadOnlyList<SentEvent>?> SentAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var text = await connection.ExecuteScalarAsync<string?>("select sent::text from publication where id = @id and school_id = @schoolId", new { schoolId, id });
        return text is null ? null : JsonSerializer.Deserialize<SentEvent[]>(text, StoredJson.Options);
    }

    // What is only being changed alters nothing that goes out.
    private static bool IsQuiet(Publication before, Publication after) =>
        before.Key == after.Key && before.TakenDownAt == after.TakenDownAt && before.PublishedAt == after.PublishedAt && Same(before.Settings, after.Settings);

    /// <summary>Whether two states say the same: what is out, what is being changed, its link and whether it is up.</summary>
    public static bool SaySame(Publication a, Publication b) =>
        (a.Key, a.TakenDownAt is null, a.PublishedAt is null, a.Draft is null) == (b.Key, b.TakenDownAt is null, b.PublishedAt is null, b.Draft is null)
        && Same(a.Settings, b.Settings) && (a.Draft is null || Same(a.Draft, b.Draft!));

    private static bool Same(PublicationSettings a, PublicationSettings b) =>
        ReferenceEquals(a, b) || JsonSerializer.Serialize(a, StoredJson.Options) == JsonSerializer.Serialize(b, StoredJson.Options);

    internal static async Task<Publication?> FindAsync(DbConnection connection, Guid schoolId, Guid id)
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
            OwnerId = p.OwnerId;
            SharedWith = [.. p.SharedWith];
            Key = p.Key;
            Title = p.Title;
            Introduction = p.Settings.Introduction;
            Audience = (short)p.Audience;
            FirstView = (short)p.Settings.FirstView;
            Language = p.Language;
            Version = p.Version;
            Revision = p.Revision;
            ChangedAt = p.ChangedAt;
            PublishedAt = p.PublishedAt;
            TakenDownAt = p.TakenDownAt;
            Choices = JsonSerializer.Serialize(p.Choices, StoredJson.Options);
            Look = JsonSerializer.Serialize(p.Look, StoredJson.Options);
            Draft = p.Draft is null ? null : JsonSerializer.Serialize(p.Draft, StoredJson.Options);
            CalendarIds = [.. p.CalendarIds];
        }

        public Guid Id { get; init; }
        public Guid? OwnerId { get; init; }
        public Guid[] SharedWith { get; init; } = [];
        public string Key { get; init; } = "";
        public string Title { get; init; } = "";
        public string Introduction { get; init; } = "";
        public short Audience { get; init; }
        public short FirstView { get; init; }
        public string Language { get; init; } = "";
        public int Version { get; init; }
        public long Revision { get; init; }
        public Instant ChangedAt { get; init; }
        public Instant? PublishedAt { get; init; }
        public Instant? TakenDownAt { get; init; }
        public string Choices { get; init; } = "{}";
        public string Look { get; init; } = "{}";
        public string? Draft { get; init; }
        public Guid[] CalendarIds { get; init; } = [];

        public Publication ToPublication() => new()
        {
            Id = Id,
            OwnerId = OwnerId,
            SharedWith = SharedWith,
            Key = Key,
            Settings = new PublicationSettings
            {
                Title = Title,
                Introduction = Introduction,
                CalendarIds = CalendarIds,
                Audience = (Audience)Audience,
                FirstView = (OutletView)FirstView,
                Language = Language,
                Choices = JsonSerializer.Deserialize<PublicationChoices>(Choices, StoredJson.Options)!,
                Look = JsonSerializer.Deserialize<PublicationLook>(Look, StoredJson.Options)!,
            },
            Draft = Draft is null ? null : JsonSerializer.Deserialize<PublicationSettings>(Draft, StoredJson.Options),
            Version = Version,
            Revision = Revision,
            ChangedAt = ChangedAt,
            PublishedAt = PublishedAt,
            TakenDownAt = TakenDownAt,
        };
    }
}
