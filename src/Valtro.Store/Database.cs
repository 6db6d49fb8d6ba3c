using System.Data;
using Dapper;
using DbUp;
using DbUp.Engine.Output;
using Npgsql;
using NpgsqlTypes;

namespace Valtro.Store;

/// <summary>The database was changed by a newer program than this one.</summary>
/// <param name="script">The newest of its changes.</param>
public sealed class NewerDatabaseException(string script) : Exception(
    $"This database was changed by a newer version of Valtro ({script}). This server is too old for it: nothing was read and nothing was written. Start the newer version, or restore a backup from before the upgrade.");

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
        Handle<NodaTime.Instant[]>(NpgsqlDbType.Array | NpgsqlDbType.TimestampTz);
        Handle<NodaTime.LocalDateTime[]>(NpgsqlDbType.Array | NpgsqlDbType.Timestamp);
    }

    /// <summary>Who the server is in the database: it owns no table, so row-level security holds for it.</summary>
    public const string Role = "valtro_app";

    /// <summary>The way to the tables.</summary>
    /// <param name="connectionString">As whoever owns them.</param>
    public static Connections Connect(string connectionString) => new(connectionString);

    internal static NpgsqlDataSource Pool(NpgsqlConnectionStringBuilder settings)
    {
        var builder = new NpgsqlDataSourceBuilder(settings.ConnectionString);
        builder.UseNodaTime();
        builder.UsePhysicalConnectionInitializer(connection => connection.Execute($"set role {Role}"), connection => connection.ExecuteAsync($"set role {Role}"));
        return builder.Build();
    }

    /// <summary>Brings the schema up to date; several instances may call it at once.</summary>
    /// <exception cref="NewerDatabaseException">It is newer than this program.</exception>
    public static void Migrate(string connectionString)
    {
        // The lock belongs to the connection, so it must not go back to a pool.
        using var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(connectionString) { Pooling = false }.ConnectionString);
        connection.Open();
        connection.Execute("select pg_advisory_lock(@MigrationLock)", new { MigrationLock });
        NeedNoNewer(connection);
        var result = DeployChanges.To.PostgresqlDatabase(connectionString)
            .WithScriptsEmbeddedInAssembly(typeof(Database).Assembly)
            .WithTransactionPerScript()
            .WithVariablesDisabled()
            .LogTo(new NoOpUpgradeLog())
            .Build()
            .PerformUpgrade();
        if (!result.Successful)
            throw new InvalidOperationException($"The migration {result.ErrorScript?.Name} failed.", result.Error);
        Grant(connection);
    }

    // What a newer program has changed an older one would read and write wrongly.
    private static void NeedNoNewer(NpgsqlConnection connection)
    {
        if (!connection.ExecuteScalar<bool>("select to_regclass('schemaversions') is not null"))
            return;
        var own = typeof(Database).Assembly.GetManifestResourceNames().Where(n => n.EndsWith(".sql", StringComparison.Ordinal)).ToHashSet();
        var newer = connection.Query<string>("select scriptname from schemaversions order by schemaversionsid").Where(n => !own.Contains(n)).ToList();
        if (newer.Count > 0)
            throw new NewerDatabaseException(newer[^1]);
    }

    // Each time: a backup holds no rights, and tables come with later migrations.
    private static void Grant(NpgsqlConnection connection) => connection.Execute(
        $"""
        do $$
        begin
            create role {Role} nologin;
        exception when duplicate_object or unique_violation then null;
        end
        $$;
        do $$
        begin
            if not pg_has_role('{Role}', 'member') then
                grant {Role} to current_user;
            end if;
        end
        $$;
        grant usage on schema public to {Role};
        grant select, insert, update, delete on all tables in schema public to {Role};
        revoke all on table schemaversions from {Role};
        grant usage, select on all sequences in schema public to {Role};
        """);

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
