using System.Text.Json;
using Dapper;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Npgsql;

namespace Valtro.Store;

/// <summary>Who writes, in which school, and when.</summary>
/// <param name="SchoolId">The school.</param>
/// <param name="PersonId">The person; null for the program itself.</param>
/// <param name="Now">The moment.</param>
public sealed record Author(Guid SchoolId, Guid? PersonId, Instant Now);

/// <summary>What was to be changed has been changed by somebody else meanwhile.</summary>
/// <param name="current">What is stored now, as the domain's own value.</param>
public sealed class StaleWriteException(object current) : Exception("It was changed meanwhile.")
{
    /// <summary>What is stored now.</summary>
    public object Current { get; } = current;
}

/// <summary>A key or another name that is taken.</summary>
public sealed class TakenException() : Exception("It is taken.");

/// <summary>One change: the new state, its history entry and the new revision of what it shows in, or none of them.</summary>
internal sealed class WriteTransaction : IAsyncDisposable
{
    /// <summary>How states are written into the history.</summary>
    internal static readonly JsonSerializerOptions Json = new JsonSerializerOptions(JsonSerializerDefaults.Web)
        .ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    private readonly Connections db;
    private readonly NpgsqlTransaction transaction;
    private readonly Guid changeId = Guid.CreateVersion7();

    private WriteTransaction(Connections db, NpgsqlConnection connection, NpgsqlTransaction transaction, Author author)
    {
        this.db = db;
        Connection = connection;
        this.transaction = transaction;
        Author = author;
    }

    public NpgsqlConnection Connection { get; }

    public Author Author { get; }

    /// <param name="db">The way to the tables.</param>
    /// <param name="author">Who writes.</param>
    /// <param name="forAll">Whether it has to see other schools: an address belongs to one person of one school.</param>
    public static async Task<WriteTransaction> BeginAsync(Connections db, Author author, bool forAll = false)
    {
        var connection = forAll ? await db.OpenForAllAsync() : await db.OpenAsync(author.SchoolId);
        return new WriteTransaction(db, connection, await connection.BeginTransactionAsync(), author);
    }

    /// <summary>Writes the history entry of the change.</summary>
    public Task RecordAsync(string entity, Guid entityId, string action, object? before, object? after) =>
        Connection.ExecuteAsync(
            """
            insert into history (id, school_id, person_id, at, entity, entity_id, action, before, after, change_id)
            values (@Id, @SchoolId, @PersonId, @Now, @entity, @entityId, @action, @before::jsonb, @after::jsonb, @changeId)
            """,
            new
            {
                Id = Guid.CreateVersion7(),
                Author.SchoolId,
                Author.PersonId,
                Author.Now,
                entity,
                entityId,
                action,
                changeId,
                before = before is null ? null : JsonSerializer.Serialize(before, Json),
                after = after is null ? null : JsonSerializer.Serialize(after, Json),
            });

    /// <summary>
    /// Gives every publication that shows one of the calendars a new revision. Two revisions never share a second,
    /// because Last-Modified knows no smaller step (RFC 9110, 8.8.2).
    /// </summary>
    public Task TouchPublicationsAsync(params Guid[] calendarIds) =>
        Connection.ExecuteAsync(
            """
            update publication
            set revision = revision + 1,
                changed_at = greatest(date_trunc('second', @Now), date_trunc('second', changed_at) + interval '1 second')
            where school_id = @SchoolId
              and id in (select publication_id from publication_calendar where calendar_id = any(@calendarIds))
            """,
            new { Author.SchoolId, Author.Now, calendarIds });

    /// <summary>Keeps it all, and lets open screens and other servers know.</summary>
    public async Task CommitAsync()
    {
        await Connection.ExecuteAsync($"select pg_notify('{Changes.Channel}', @payload)", new { payload = Changes.Write(Author) });
        await transaction.CommitAsync();
        db.Tell(Author.SchoolId);
    }

    public async ValueTask DisposeAsync()
    {
        await transaction.DisposeAsync();
        await Connection.DisposeAsync();
    }
}
