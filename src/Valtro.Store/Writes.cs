using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core.Limits;
using Valtro.Core.Publishing;

namespace Valtro.Store;

/// <summary>What the log says of a request that changes something; written with what it changes, or not at all.</summary>
/// <param name="action">What was done, as the endpoint it came through.</param>
/// <param name="aboutId">What it was done to, where the address names it.</param>
/// <param name="address">From which network address.</param>
public sealed class LogEntry(string action, Guid? aboutId, string address)
{
    public string Action { get; } = action;

    public Guid? AboutId { get; } = aboutId;

    public string Address { get; } = address;

    /// <summary>Whether it is in the log already.</summary>
    public bool IsWritten { get; internal set; }

    /// <summary>The step that was made, by which it can be taken back; null for none.</summary>
    public Guid? StepId { get; internal set; }

    /// <summary>The change that was made, and which events it was about, where it changed a few of them and nothing else; null where anything may differ.</summary>
    public (Guid ChangeId, IReadOnlyList<Guid> EventIds)? OnlyEvents { get; internal set; }
}

/// <summary>A request that may come again, because its answer can be lost.</summary>
/// <param name="key">The name its sender gave it.</param>
/// <param name="hash">Of all that it asks.</param>
public sealed class Repeatable(string key, byte[] hash)
{
    public string Key { get; } = key;

    public byte[] Hash { get; } = hash;

    /// <summary>The answer as JSON, where it is known before the change is kept: it is kept with it.</summary>
    public byte[]? Answer { get; set; }

    /// <summary>Whether something was changed by it.</summary>
    public bool IsClaimed { get; internal set; }
}

/// <summary>The same request was done already, by a repetition that came at the same moment.</summary>
public sealed class RepeatedException() : Exception("It was done already.");

/// <summary>Who writes, in which school, and when.</summary>
public sealed record Author
{
    /// <param name="schoolId">The school.</param>
    /// <param name="personId">The person; null for the program itself.</param>
    /// <param name="now">The moment; kept in whole microseconds, as the database keeps it.</param>
    public Author(Guid schoolId, Guid? personId, Instant now)
    {
        (SchoolId, PersonId) = (schoolId, personId);
        Now = Instant.FromUnixTimeTicks(now.ToUnixTimeTicks() / 10 * 10);
    }

    public Guid SchoolId { get; }

    public Guid? PersonId { get; }

    public Instant Now { get; }

    /// <summary>What the log says of it; null for what is not logged.</summary>
    public LogEntry? Log { get; init; }

    /// <summary>The request it comes with; null where it cannot come again.</summary>
    public Repeatable? Request { get; init; }
}

/// <summary>A key or another name that is taken.</summary>
public sealed class TakenException() : Exception("It is taken.");

/// <summary>
/// One change: the new states, their history, the log, the step for taking it back, the new revisions of what it shows in and
/// the notice to others, all of it or nothing. What goes along is gathered and written in one go at the end.
/// </summary>
internal sealed class WriteTransaction : IAsyncDisposable
{
    /// <summary>What can be taken back.</summary>
    private static readonly HashSet<string> Undoable = ["event", "calendar", "lists", "school_year", "publication", "proposal"];

    private readonly Connections db;
    private readonly DbTransaction transaction;
    private readonly List<Recorded> recorded = [];
    private readonly Dictionary<Guid, OutEffect> touched = [];
    private readonly HashSet<Guid> restood = [];
    private readonly HashSet<Guid> concerned = [];
    private readonly SortedSet<Limited> grown = [];
    private bool concernsMembers;
    private bool isOfTeams;
    private (string Action, bool IsDone)? step;

    private WriteTransaction(Connections db, DbConnection connection, DbTransaction transaction, Author author)
    {
        this.db = db;
        Connection = connection;
        this.transaction = transaction;
        Author = author;
    }

    public DbConnection Connection { get; }

    public Author Author { get; }

    /// <summary>The identity of the change, by which it is taken back.</summary>
    public Guid ChangeId { get; } = Guid.CreateVersion7();

    // What is written of these says itself which publications it touches.
    private static readonly HashSet<string> Telling = ["event", "calendar", "lists", "school_year", "publication", "proposal", "origin"];

    private PublicationsNotice? OfPublications
    {
        get
        {
            var narrowed = touched.Where(t => t.Value == OutEffect.Narrows).Select(t => t.Key).Concat(restood).ToHashSet();
            var altered = touched.Keys.Where(id => !narrowed.Contains(id)).ToHashSet();
            // Of persons and the like it is not known whose link ends with it.
            var isOfMembers = (recorded.Count == 0 && touched.Count + restood.Count == 0) || recorded.Exists(r => !Telling.Contains(r.Entity));
            return narrowed.Count + altered.Count == 0 && !isOfMembers ? null : new PublicationsNotice(Author.SchoolId, altered, narrowed) { IsOfMembers = isOfMembers };
        }
    }

    private bool OnlyEvents => recorded.Count is > 0 and <= Changes.MaxEvents && recorded.TrueForAll(r => r.Entity == "event");

    /// <param name="db">The way to the tables.</param>
    /// <param name="author">Who writes.</param>
    /// <param name="cancellation">Gives up.</param>
    public static async Task<WriteTransaction> BeginAsync(Connections db, Author author, CancellationToken cancellation = default)
    {
        var connection = await db.OpenAsync(author.SchoolId, cancellation);
        return new WriteTransaction(db, connection, await connection.BeginTransactionAsync(cancellation), author);
    }

    /// <summary>
    /// Waits until nobody changes events by what is changed here: calendars, lists, years and publications decide what becomes
    /// of an event, and stay as they are while one is written.
    /// </summary>
    public Task HoldSchoolAsync() => Connection.ExecuteAsync("select from school where id = @SchoolId for no key update", new { Author.SchoolId });

    /// <summary>Takes an entry into the history.</summary>
    /// <param name="entity">What kind of thing.</param>
    /// <param name="entityId">Which.</param>
    /// <param name="action">What was done.</param>
    /// <param name="before">The state before, as it is stored; null when it was made.</param>
    /// <param name="after">The state after.</param>
    public void Record(string entity, Guid entityId, string action, string? before, string? after)
    {
        recorded.Add(new Recorded(Guid.CreateVersion7(), entity, entityId, action, before, after));
        if (Undoable.Contains(entity) && (before is not null || after is not null))
            step ??= (action, true);
    }

    /// <summary>Takes an entry into the history, of states without a form of their own.</summary>
    public void Record(string entity, Guid entityId, string action, object? before, object? after) =>
        Record(entity, entityId, action, Written(before), Written(after));

    /// <summary>Says that the change takes back or does again: it is no step of its own.</summary>
    public void IsNoStep() => step = ("", false);

    /// <summary>Publications that send out something else from now on.</summary>
    /// <param name="publicationIds">Which.</param>
    /// <param name="effect">What it does to them; where that is not told, they may send out less.</param>
    public void Touch(IEnumerable<Guid> publicationIds, OutEffect effect = OutEffect.Narrows)
    {
        if (effect == OutEffect.None)
            return;
        foreach (var id in publicationIds)
            touched[id] = touched.TryGetValue(id, out var known) && known > effect ? known : effect;
    }

    /// <summary>All that is out says something else from now on, and nothing less.</summary>
    public async Task TouchAllAsync() =>
        Touch(await Connection.QueryAsync<Guid>("select id from publication where school_id = @SchoolId and published_at is not null", new { Author.SchoolId }), OutEffect.Alters);

    /// <summary>A publication whose own state was written: whether and where it is out.</summary>
    public void Restands(Guid publicationId) => restood.Add(publicationId);

    /// <summary>Says that the school takes more of something: it is held against its limits when the write is kept.</summary>
    public void Grows(Limited what) => grown.Add(what);

    /// <summary>Says that only the teams of calendars, or some persons, are concerned; who is not hears nothing of it.</summary>
    /// <param name="ids">The calendars and persons.</param>
    public void Concerns(IEnumerable<Guid> ids)
    {
        isOfTeams = true;
        concerned.UnionWith(ids);
    }

    /// <summary>Says that every member may see something of it.</summary>
    public void ConcernsMembers() => concernsMembers = true;

    /// <summary>Keeps it all, and lets open screens and other servers know.</summary>
    /// <exception cref="RepeatedException">The same request was done meanwhile.</exception>
    /// <exception cref="Valtro.Core.InvalidInputException"><c>limit_…</c>: it would be more than the school may have.</exception>
    public async Task CommitAsync(CancellationToken cancellation = default)
    {
        foreach (var what in grown)
            await Limits.NeedAsync(db, this, what);
        var outgoing = OfPublications;
        var parameters = new DynamicParameters(new
        {
            Author.SchoolId,
            Author.PersonId,
            Author.Now,
            ChangeId,
            ids = recorded.Select(r => r.Id).ToArray(),
            entities = recorded.Select(r => r.Entity).ToArray(),
            entityIds = recorded.Select(r => r.EntityId).ToArray(),
            actions = recorded.Select(r => r.Action).ToArray(),
            befores = recorded.Select(r => r.Before).ToArray(),
            afters = recorded.Select(r => r.After).ToArray(),
            touched = touched.Keys.ToArray(),
            narrowed = touched.Where(t => t.Value == OutEffect.Narrows).Select(t => t.Key).ToArray(),
            payloads = (string[])[.. Changes.Write(Author, !isOfTeams || concernsMembers, concerned, OnlyEvents ? ChangeId : null), .. outgoing?.Write() ?? []],
        });
        var sql = new List<string>();
        // Who comes with the same request waits here for the first one, and finds it done.
        if (Author.Request is { } request && Author.PersonId is not null)
        {
            parameters.AddDynamicParams(new { request.Key, request.Hash, request.Answer });
            sql.Add(
                """
                insert into repeated (school_id, person_id, key, request_hash, at, status, content_type, answer)
                values (@SchoolId, @PersonId, @Key, @Hash, @Now, case when @Answer::bytea is null then null else 200 end, case when @Answer::bytea is null then null else 'application/json; charset=utf-8' end, @Answer)
                """);
        }
        if (recorded.Count > 0)
        {
            sql.Add(
                """
                insert into history (id, school_id, person_id, at, entity, entity_id, action, before, after, change_id)
                select r.id, @SchoolId, @PersonId, @Now, r.entity, r.entity_id, r.action, r.before::jsonb, r.after::jsonb, @ChangeId
                from unnest(@ids, @entities, @entityIds, @actions, @befores, @afters) with ordinality as r (id, entity, entity_id, action, before, after, n) order by r.n
                """);
        }
        if (step is { IsDone: true } done && Author.PersonId is not null)
        {
            parameters.AddDynamicParams(new { stepAction = done.Action });
            sql.Add("insert into step (id, school_id, person_id, at, action) values (@ChangeId, @SchoolId, @PersonId, @Now, @stepAction)");
        }
        if (Author.Log is { IsWritten: false } entry)
        {
            parameters.AddDynamicParams(new { logId = Guid.CreateVersion7(), logAction = entry.Action, logAbout = entry.AboutId, logAddress = entry.Address });
            sql.Add("insert into audit (id, school_id, person_id, at, action, about_id, address) values (@logId, @SchoolId, @PersonId, @Now, @logAction, @logAbout, @logAddress)");
        }
        // Two revisions never share a second, because Last-Modified knows no smaller step (RFC 9110, 8.8.2). In order of their
        // identities, so that two who write at once wait for each other and not in a circle.
        if (touched.Count > 0)
        {
            sql.Add(
                """
                update publication p
                set revision = revision + 1,
                    narrowed_revision = case when p.id = any(@narrowed) then revision + 1 else narrowed_revision end,
                    changed_at = greatest(date_trunc('second', @Now), date_trunc('second', changed_at) + interval '1 second')
                from (select id from publication where school_id = @SchoolId and id = any(@touched) order by id for update) held
                where p.id = held.id
                """);
        }
        sql.Add($"select pg_notify('{Changes.Channel}', payload) from unnest(@payloads) as payload");
        try
        {
            await Connection.ExecuteAsync(new CommandDefinition(string.Join(";\n", sql), parameters, cancellationToken: cancellation));
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation && e.TableName == "repeated")
        {
            throw new RepeatedException();
        }
        await transaction.CommitAsync(cancellation);
        if (Author.Log is { } log)
        {
            log.OnlyEvents = OnlyEvents && !log.IsWritten ? (ChangeId, [.. recorded.Select(r => r.EntityId).Distinct()]) : null;
            log.IsWritten = true;
            if (step is { IsDone: true } && Author.PersonId is not null)
                log.StepId = ChangeId;
        }
        if (Author.Request is { } claimed)
            claimed.IsClaimed = true;
        if (outgoing is not null)
            db.Tell(outgoing);
    }

    public async ValueTask DisposeAsync()
    {
        await transaction.DisposeAsync();
        await Connection.DisposeAsync();
    }

    private static string? Written(object? state) => state is null ? null : JsonSerializer.Serialize(state, StoredJson.Options);

    private sealed record Recorded(Guid Id, string Entity, Guid EntityId, string Action, string? Before, string? After);
}
