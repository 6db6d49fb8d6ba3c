using Npgsql;

namespace Valtro.Store;

/// <summary>
/// The only way to the tables: connections that see what belongs to one school, or, said on purpose, to all. The database
/// holds to it by row-level security, whatever a query forgets.
/// </summary>
public sealed class Connections : IAsyncDisposable, IDisposable
{
    private readonly NpgsqlDataSource source;
    private readonly NpgsqlDataSource listening;

    /// <summary>Pools of connections under the server's own role.</summary>
    /// <param name="connectionString">As whoever owns the tables.</param>
    internal Connections(string connectionString)
    {
        // What a connection starts with stays: resetting it would give the owner's rights back.
        source = Database.Pool(new NpgsqlConnectionStringBuilder(connectionString) { NoResetOnClose = true });
        // One that listens goes back to no pool.
        listening = Database.Pool(new NpgsqlConnectionStringBuilder(connectionString) { Pooling = false });
    }

    /// <summary>
    /// Told of a school whenever something of it was changed through here, once the change is there: whoever made it finds
    /// it with their next request, before it has gone round through the database.
    /// </summary>
    public event Action<Guid>? Changed;

    /// <summary>A connection that sees one school.</summary>
    public Task<NpgsqlConnection> OpenAsync(Guid schoolId, CancellationToken cancellation = default) => OpenAsync(schoolId.ToString("D"), "off", cancellation);

    /// <summary>A connection that sees all schools: for what is found by a secret, and for the work of the whole installation.</summary>
    public Task<NpgsqlConnection> OpenForAllAsync(CancellationToken cancellation = default) => OpenAsync("", "on", cancellation);

    /// <summary>A connection for hearing of changes; it sees no school.</summary>
    public async Task<NpgsqlConnection> OpenToListenAsync(CancellationToken cancellation) => await listening.OpenConnectionAsync(cancellation);

    internal void Tell(Guid schoolId) => Changed?.Invoke(schoolId);

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

    private async Task<NpgsqlConnection> OpenAsync(string school, string all, CancellationToken cancellation)
    {
        var connection = await source.OpenConnectionAsync(cancellation);
        try
        {
            // A pooled connection was another school's before.
            await using var command = new NpgsqlCommand("select set_config('valtro.school', $1, false), set_config('valtro.all', $2, false)", connection);
            command.Parameters.Add(new NpgsqlParameter<string> { TypedValue = school });
            command.Parameters.Add(new NpgsqlParameter<string> { TypedValue = all });
            await command.ExecuteNonQueryAsync(cancellation);
            return connection;
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }
}
