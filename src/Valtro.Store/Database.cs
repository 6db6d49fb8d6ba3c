using System.Data;
using Dapper;
using DbUp;
using DbUp.Engine.Output;
using Npgsql;
using NpgsqlTypes;
using Valtro.Core.Limits;

namespace Valtro.Store;

/// <summary>The database was changed by a newer program than this one.</summary>
/// <param name="script">The newest of its changes.</param>
public sealed class NewerDatabaseException(string script) : Exception(
    $"This database was changed by a newer version of Valtro ({script}). This server is too old for it: nothing was read and nothing was written. Start the newer version, or restore a backup from before the upgrade.");

/// <summary>The server would sign in to the database as somebody who may do more than it should.</summary>
/// <param name="role">Their name.</param>
public sealed class TooMightyException(string role) : Exception(
    $"The server would work as “{role}”, who owns the tables or is above row-level security. Name another role in VALTRO_DATABASE (valtro_app, for example: it is made when it is not there), and this one in VALTRO_OWNER_DATABASE.");

/// <summary>The way to the database: connections that speak NodaTime, and the migrations.</summary>
public static class Database
{
    // Any number of our own: instances that start together take turns.
    private const long MigrationLock = 0x56414c54524f;

    static Database()
    {
        DefaultTypeMap.MatchNamesWithUnderscores = true;
        Handle<NodaTime.Instant>(NpgsqlDbType.TimestampTz);
        Handle<NodaTime.LocalDate>(NpgsqlDbType.Date);
        Handle<NodaTime.LocalDateTime>(NpgsqlDbType.Timestamp);
        // What passes through a connection of our own is taken for a list of parameters by Dapper, unless it is known here.
        Handle<Guid[]>(NpgsqlDbType.Array | NpgsqlDbType.Uuid);
        Handle<string?[]>(NpgsqlDbType.Array | NpgsqlDbType.Text);
        Handle<byte[][]>(NpgsqlDbType.Array | NpgsqlDbType.Bytea);
        Handle<short[]>(NpgsqlDbType.Array | NpgsqlDbType.Smallint);
        Handle<int[]>(NpgsqlDbType.Array | NpgsqlDbType.Integer);
        Handle<long[]>(NpgsqlDbType.Array | NpgsqlDbType.Bigint);
        Handle<bool[]>(NpgsqlDbType.Array | NpgsqlDbType.Boolean);
        Handle<NodaTime.Instant[]>(NpgsqlDbType.Array | NpgsqlDbType.TimestampTz);
        Handle<NodaTime.LocalDate[]>(NpgsqlDbType.Array | NpgsqlDbType.Date);
        Handle<NodaTime.LocalDateTime[]>(NpgsqlDbType.Array | NpgsqlDbType.Timestamp);
    }

    /// <summary>The way to the tables.</summary>
    /// <param name="connectionString">As the server's own role: it owns no table, so row-level security holds for it.</param>
    /// <param name="listening">The same past a proxy of connections, for hearing of changes; null where there is none between.</param>
    /// <param name="limits">What each school may take that has no limits of its own.</param>
    public static Connections Connect(string connectionString, string? listening = null, SchoolLimits? limits = null) =>
        new(connectionString, listening ?? connectionString) { Limits = limits ?? SchoolLimits.Usual };

    /// <summary>
    /// The most connections a server keeps, unless its setting says otherwise: three servers, each with one more that listens and
    /// one that brings the schema up to date, fit the hundred PostgreSQL takes by itself.
    /// </summary>
    public const int PoolSize = 30;

    // A connection that goes back to no pool. Of several hosts one is chosen by a pool alone; what is closed there is reset.
    internal static NpgsqlConnectionStringBuilder Alone(string connectionString)
    {
        var settings = new NpgsqlConnectionStringBuilder(connectionString);
        if (settings.Host?.Contains(',', StringComparison.Ordinal) == true)
            settings.MaxPoolSize = 2;
        else
            settings.Pooling = false;
        return settings;
    }

    internal static NpgsqlDataSource Pool(NpgsqlConnectionStringBuilder settings, string name)
    {
        if (!settings.ShouldSerialize("Maximum Pool Size"))
            settings.MaxPoolSize = PoolSize;
        var builder = new NpgsqlDataSourceBuilder(settings.ConnectionString) { Name = name };
        builder.UseNodaTime();
        return builder.Build();
    }

    /// <summary>One connection, of no pool, that speaks NodaTime: for the command line.</summary>
    public static async Task<NpgsqlConnection> OpenAsync(string connectionString) =>
        await Pool(Alone(connectionString), "valtro command line").OpenConnectionAsync();

    /// <summary>Brings the schema up to date and lets the server's role work with it; several instances may call it at once.</summary>
    /// <param name="connectionString">As the owner of the tables.</param>
    /// <param name="server">As the server's own role; it is made when it is not there and the owner may make roles.</param>
    /// <param name="backups">The folder where a backup is written before anything is changed that is there; null for none.</param>
    /// <exception cref="BackupFailedException">Nothing was changed.</exception>
    /// <exception cref="NewerDatabaseException">It is newer than this program.</exception>
    /// <exception cref="TooMightyException">The server's role may do more than it should.</exception>
    public static void Migrate(string connectionString, string server, string? backups = null)
    {
        // The lock belongs to the connection, so it must not go back to a pool.
        using var connection = new NpgsqlConnection(Alone(connectionString).ConnectionString);
        connection.Open();
        connection.Execute("select pg_advisory_lock(@MigrationLock)", new { MigrationLock });
        try
        {
            Migrate(connection, connectionString, server, backups);
        }
        finally
        {
            // Where the connection goes back to a pool all the same, the next one who starts would wait for ever.
            NpgsqlConnection.ClearPool(connection);
        }
    }

    private static void Migrate(NpgsqlConnection connection, string connectionString, string server, string? backups)
    {
        NeedNoNewer(connection);
        var (missing, _) = Compare(connection);
        if (backups is not null && missing.Count > 0 && Own.Except(missing).LastOrDefault() is { } newest)
            PostgresPrograms.BackUpBeforeUpgrade(connectionString, backups, newest);
        var result = DeployChanges.To.PostgresqlDatabase(connectionString)
            .WithScriptsEmbeddedInAssembly(typeof(Database).Assembly)
            .WithTransactionPerScript()
            .WithVariablesDisabled()
            .LogTo(new NoOpUpgradeLog())
            .Build()
            .PerformUpgrade();
        if (!result.Successful)
            throw new InvalidOperationException($"The migration {result.ErrorScript?.Name} failed.", result.Error);
        Grant(connection, new NpgsqlConnectionStringBuilder(server));
    }

    /// <summary>The changes of the schema that a database has not, and those that it has from a newer program; in order.</summary>
    /// <param name="connection">As the owner of the tables.</param>
    public static (IReadOnlyList<string> Missing, IReadOnlyList<string> Newer) Compare(NpgsqlConnection connection)
    {
        string[] own = [.. Own];
        var made = connection.ExecuteScalar<bool>("select to_regclass('schemaversions') is not null")
            ? connection.Query<string>("select scriptname from schemaversions order by schemaversionsid").ToList()
            : [];
        return ([.. own.Except(made)], [.. made.Except(own)]);
    }

    /// <summary>The newest change of the schema, where this program knows nothing of it; asked as the server.</summary>
    public static async Task<string?> NewerAsync(Connections db)
    {
        await using var connection = await db.OpenForNoneAsync();
        return await connection.ExecuteScalarAsync<string?>("select schema_newest()") is { } newest && !Own.Contains(newest) ? newest : null;
    }

    private static IEnumerable<string> Own => typeof(Database).Assembly.GetManifestResourceNames().Where(n => n.EndsWith(".sql", StringComparison.Ordinal)).Order(StringComparer.Ordinal);

    // What a newer program has changed an older one would read and write wrongly.
    private static void NeedNoNewer(NpgsqlConnection connection)
    {
        if (Compare(connection).Newer is { Count: > 0 } newer)
            throw new NewerDatabaseException(newer[^1]);
    }

    // Each time: a backup holds no rights, and tables come with later migrations.
    private static void Grant(NpgsqlConnection owner, NpgsqlConnectionStringBuilder server)
    {
        var name = server.Username ?? "";
        var known = owner.QuerySingleOrDefault<(bool MaySignIn, bool IsMighty)?>(
            """
            select r.rolcanlogin, r.rolsuper or r.rolbypassrls or r.rolname = current_user or pg_has_role(r.rolname, current_user, 'member')
            from pg_roles r where r.rolname = @name
            """,
            new { name });
        if (known is { IsMighty: true })
            throw new TooMightyException(name);
        // What names a role or a password takes no parameter.
        var (role, password) = owner.QuerySingle<(string, string)>("select quote_ident(@name), coalesce(quote_literal(@Password), 'null')", new { name, Password = server.Password ?? "" });
        if (known is not { MaySignIn: true })
            Try(owner, $"{(known is null ? "create" : "alter")} role {role} login {(string.IsNullOrEmpty(server.Password) ? "" : $"password {password}")}");
        owner.Execute(
            $"""
            grant usage on schema public to {role};
            grant select, insert, update, delete on all tables in schema public to {role};
            revoke all on table schemaversions from {role};
            grant usage, select on all sequences in schema public to {role};
            """);
    }

    // Roles are the cluster's: a server of another database may have made it just now.
    private static void Try(NpgsqlConnection owner, string sql)
    {
        try
        {
            owner.Execute(sql);
        }
        catch (PostgresException e) when (e.SqlState is PostgresErrorCodes.DuplicateObject or PostgresErrorCodes.UniqueViolation)
        {
        }
    }

    private static void Handle<T>(NpgsqlDbType type)
    {
        SqlMapper.AddTypeHandler(new NodaHandler<T>(type));
    }

    private sealed class NodaHandler<T>(NpgsqlDbType type) : SqlMapper.TypeHandler<T>
    {
        public override void SetValue(IDbDataParameter parameter, T? value)
        {
            ((NpgsqlParameter)parameter).NpgsqlDbType = type;
            parameter.Value = value is null or DBNull ? DBNull.Value : value;
        }

        public override T? Parse(object value) => (T)value;
    }
}
