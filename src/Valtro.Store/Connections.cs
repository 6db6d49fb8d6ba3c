using System.Data.Common;
using Dapper;
using Npgsql;
using Valtro.Core.Limits;

namespace Valtro.Store;

/// <summary>All connections to the database are taken, and stayed so for as long as one may wait.</summary>
public sealed class PoolEmptyException(Exception inner) : NpgsqlException("All connections to the database are taken.", inner);

/// <summary>
/// The only way to the tables: connections that see what belongs to one school. The database holds to it by row-level security,
/// whatever a query forgets, and whatever is said on the connection: its role owns nothing. What looks across schools calls one of
/// the owner's functions (0016_own_role.sql).
/// </summary>
public sealed class Connections : IAsyncDisposable, IDisposable
{
    private readonly NpgsqlDataSource source;
    private readonly NpgsqlDataSource listening;
    private readonly bool isHeardHere;
    private readonly OftenAsked often = new();

    /// <summary>Pools of connections.</summary>
    /// <param name="connectionString">As the server's own role.</param>
    /// <param name="listening">The same for hearing of changes, past whatever hands connections out by the transaction.</param>
    internal Connections(string connectionString, string listening)
    {
        // Nothing is left on a connection (SchoolConnection), so nothing has to be reset.
        source = Database.Pool(new NpgsqlConnectionStringBuilder(connectionString) { NoResetOnClose = true }, "valtro");
        isHeardHere = connectionString == listening;
        // One that listens goes back to no pool.
        this.listening = Database.Pool(Database.Alone(listening), "valtro listening");
    }

    /// <summary>
    /// Told whenever publications were changed through here, once the change is there: whoever made it finds it with their next
    /// request, before it has gone round through the database.
    /// </summary>
    public event Action<PublicationsNotice>? Changed;

    /// <summary>What was read of events for publications a moment ago.</summary>
    internal KnownEvents KnownEvents { get; } = new();

    /// <summary>What each school may take that has no limits of its own.</summary>
    public SchoolLimits Limits { get; init; } = SchoolLimits.Usual;

    /// <summary>A connection that sees one school.</summary>
    public async Task<DbConnection> OpenAsync(Guid schoolId, CancellationToken cancellation = default) => new SchoolConnection(await ConnectAsync(cancellation), schoolId, often);

    /// <summary>A connection that sees no school: for the owner's functions.</summary>
    public async Task<DbConnection> OpenForNoneAsync(CancellationToken cancellation = default) => new SchoolConnection(await ConnectAsync(cancellation), null, often);

    /// <summary>A connection for hearing of changes; it sees no school.</summary>
    public async Task<NpgsqlConnection> OpenToListenAsync(CancellationToken cancellation) => await listening.OpenConnectionAsync(cancellation);

    /// <summary>Asks the database anything: it fails when that is away.</summary>
    public async Task AskAsync(CancellationToken cancellation)
    {
        await using var connection = await OpenForNoneAsync(cancellation);
        await connection.ExecuteAsync(new CommandDefinition("select 1", cancellationToken: cancellation));
    }

    /// <summary>Tells something to all who hear of changes, as every change is told.</summary>
    public async Task TellAsync(string payload, CancellationToken cancellation)
    {
        await using var connection = await OpenForNoneAsync(cancellation);
        await connection.ExecuteAsync(new CommandDefinition($"select pg_notify('{Changes.Channel}', @payload)", new { payload }, cancellationToken: cancellation));
    }

    /// <summary>
    /// Does something in every school, one after the other. Where it fails in one, it is done in the others all the same, and
    /// told at the end.
    /// </summary>
    /// <returns>The sum of what was done.</returns>
    /// <exception cref="AggregateException">What failed, school by school.</exception>
    public async Task<int> InEachSchoolAsync(Func<Guid, DbConnection, Task<int>> work)
    {
        List<Guid> schools;
        await using (var none = await OpenForNoneAsync())
            schools = (await none.QueryAsync<Guid>("select id from school_all()")).AsList();
        var (sum, failed) = (0, new List<Exception>());
        foreach (var school in schools)
        {
            try
            {
                await using var connection = await OpenAsync(school);
                sum += await work(school, connection);
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                failed.Add(error);
            }
        }
        return failed.Count == 0 ? sum : throw new AggregateException($"In {failed.Count} of {schools.Count} schools it failed.", failed);
    }

    /// <summary>The school of a secret that was sent by mail; null when it belongs to none.</summary>
    internal async Task<Guid?> SchoolOfSecretAsync(byte[] tokenHash)
    {
        await using var connection = await OpenForNoneAsync();
        return await connection.ExecuteScalarAsync<Guid?>("select school_of_secret(@tokenHash)", new { tokenHash });
    }

    /// <summary>
    /// What was told came back on a connection for hearing of changes. Where the others go the same way, nobody between hands them
    /// out by the transaction.
    /// </summary>
    public void NoteHeard()
    {
        if (isHeardHere)
            often.KeepPlans();
    }

    internal void Tell(PublicationsNotice notice) => Changed?.Invoke(notice);

    public async ValueTask DisposeAsync()
    {
        KnownEvents.Dispose();
        await source.DisposeAsync();
        await listening.DisposeAsync();
    }

    public void Dispose()
    {
        KnownEvents.Dispose();
        source.Dispose();
        listening.Dispose();
    }

    // Whatever the reason why it lets nobody in: it is away, and no question was wrong. Of an empty pool Npgsql says so in words alone.
    private async Task<NpgsqlConnection> ConnectAsync(CancellationToken cancellation)
    {
        try
        {
            return await source.OpenConnectionAsync(cancellation);
        }
        catch (PostgresException error)
        {
            throw new NpgsqlException(error.MessageText, error);
        }
        catch (NpgsqlException error) when (error.InnerException is TimeoutException && error.Message.Contains("pool", StringComparison.Ordinal))
        {
            throw new PoolEmptyException(error);
        }
    }
}
