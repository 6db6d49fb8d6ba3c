using Dapper;
using Npgsql;

namespace Valtro.Store;

/// <summary>
/// The only way to the tables: connections that see what belongs to one school. The database holds to it by row-level security,
/// whatever a query forgets, and whatever is said on the connection: its role owns nothing. What looks across schools calls one of
/// the owner's functions (0016_own_role.sql).
/// </summary>
public sealed class Connections : IAsyncDisposable, IDisposable
{
    private readonly NpgsqlDataSource source;
    private readonly NpgsqlDataSource listening;

    /// <summary>Pools of connections.</summary>
    /// <param name="connectionString">As the server's own role.</param>
    internal Connections(string connectionString)
    {
        // Each use says its school first, so that nothing has to be reset.
        source = Database.Pool(new NpgsqlConnectionStringBuilder(connectionString) { NoResetOnClose = true }, "valtro");
        // One that listens goes back to no pool.
        listening = Database.Pool(Database.Alone(connectionString), "valtro listening");
    }

    /// <summary>
    /// Told whenever publications were changed through here, once the change is there: whoever made it finds it with their next
    /// request, before it has gone round through the database.
    /// </summary>
    public event Action<PublicationsNotice>? Changed;

    /// <summary>A connection that sees one school.</summary>
    public Task<NpgsqlConnection> OpenAsync(Guid schoolId, CancellationToken cancellation = default) => OpenAsync(schoolId.ToString("D"), cancellation);

    /// <summary>A connection that sees no school: for the owner's functions.</summary>
    public Task<NpgsqlConnection> OpenForNoneAsync(CancellationToken cancellation = default) => OpenAsync("", cancellation);

    /// <summary>A connection for hearing of changes; it sees no school.</summary>
    public async Task<NpgsqlConnection> OpenToListenAsync(CancellationToken cancellation) => await listening.OpenConnectionAsync(cancellation);

    /// <summary>
    /// Does something in every school, one after the other. Where it fails in one, it is done in the others all the same, and
    /// told at the end.
    /// </summary>
    /// <returns>The sum of what was done.</returns>
    /// <exception cref="AggregateException">What failed, school by school.</exception>
    public async Task<int> InEachSchoolAsync(Func<Guid, NpgsqlConnection, Task<int>> work)
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
            catch (NpgsqlException error)
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

    internal void Tell(PublicationsNotice notice) => Changed?.Invoke(notice);

    public async ValueTask DisposeAsync()
    {
        await source.DisposeAsync();
        await listening.DisposeAsync();
    }

    public void Dispose()
    {
        source.Dispose();
        listening.Dispose();
    }

    private async Task<NpgsqlConnection> OpenAsync(string school, CancellationToken cancellation)
    {
        var connection = await ConnectAsync(cancellation);
        try
        {
            // A pooled connection was another school's before.
            await using var command = new NpgsqlCommand("select set_config('valtro.school', $1, false)", connection);
            command.Parameters.Add(new NpgsqlParameter<string> { TypedValue = school });
            await command.ExecuteNonQueryAsync(cancellation);
            return connection;
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    // Whatever the reason why it lets nobody in: it is away, and no question was wrong.
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
    }
}
