using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Valtro.Demo;
using Valtro.Store;

namespace Valtro.Server.Tests;

/// <summary>Schools are kept apart by the database, whatever a query forgets.</summary>
public sealed class ApartTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private Connections Db => server.Services.GetRequiredService<Connections>();

    private async Task<NpgsqlConnection> AsOwnerAsync()
    {
        _ = server.Services;
        var connection = new NpgsqlConnection(server.Database);
        await connection.OpenAsync();
        return connection;
    }

    private async Task<(Guid Demo, Guid Other)> SchoolsAsync()
    {
        var schools = server.Services.GetRequiredService<Schools>();
        var demo = (await schools.ListAsync()).Single(s => s.Name == DemoSchool.Name).Id;
        var other = new School(Guid.CreateVersion7(), "Another school", "Another", DemoSchool.Zone, "en");
        await schools.AddAsync(other, server.Clock.Now);
        return (demo, other.Id);
    }

    /// <summary>All tables with the column that says the school.</summary>
    private static async Task<IReadOnlyList<(string Table, string Column)>> TablesAsync(NpgsqlConnection connection) =>
        [.. (await connection.QueryAsync<(string, string)>(
            "select tablename, case tablename when 'school' then 'id' else 'school_id' end from pg_tables where schemaname = 'public' and tablename <> 'schemaversions' order by 1"))];

    [Fact]
    public async Task Every_table_says_its_school_and_is_kept_apart_by_it()
    {
        await using var owner = await AsOwnerAsync();
        var open = await owner.QueryAsync<string>(
            """
            select c.relname from pg_class c join pg_namespace n on n.oid = c.relnamespace
            where n.nspname = 'public' and c.relkind = 'r' and c.relname <> 'schemaversions'
              and (not c.relrowsecurity
                or pg_get_userbyid(c.relowner) = @Role
                or not exists (select from pg_policy p where p.polrelid = c.oid)
                or c.relname <> 'school' and not exists (select from pg_attribute a where a.attrelid = c.oid and a.attname = 'school_id'))
            """,
            new { Role = Server.AppRole });
        Assert.Empty(open);
        Assert.True((await TablesAsync(owner)).Count > 20);
    }

    [Fact]
    public async Task A_query_that_forgets_the_school_finds_its_own_rows_and_no_others()
    {
        var (demo, other) = await SchoolsAsync();
        await using var owner = await AsOwnerAsync();
        var tables = await TablesAsync(owner);
        foreach (var school in new[] { demo, other })
        {
            await using var connection = await Db.OpenAsync(school);
            Assert.Equal(Server.AppRole, await connection.ExecuteScalarAsync<string>("select current_user::text"));
            foreach (var (table, column) in tables)
            {
                var all = await owner.ExecuteScalarAsync<long>($"select count(*) from {table} where {column} = @school", new { school });
                Assert.Equal((table, all), (table, await connection.ExecuteScalarAsync<long>($"select count(*) from {table}")));
            }
            var expected = school == demo ? 1 : 0;
            Assert.Equal(expected, await connection.ExecuteScalarAsync<int>("select least(count(*), 1)::int from event_in_window('2000-01-01', '2100-01-01')"));
            Guid[] calendars = [.. await owner.QueryAsync<Guid>("select id from calendar")];
            Assert.Equal(expected, await connection.ExecuteScalarAsync<int>("select least(count(*), 1)::int from event_found('keel', '%keel%', @calendars)", new { calendars }));
            Assert.Equal(expected, await connection.ExecuteScalarAsync<int>("select least(count(*), 1)::int from event_standing_in(@calendars)", new { calendars }));
        }
    }

    [Fact]
    public async Task Nothing_is_written_into_another_school()
    {
        var (demo, other) = await SchoolsAsync();
        await using var connection = await Db.OpenAsync(other);
        Assert.Equal(0, await connection.ExecuteAsync("update event set title = 'x'"));
        Assert.Equal(0, await connection.ExecuteAsync("delete from session"));
        var refused = await Assert.ThrowsAsync<PostgresException>(() => connection.ExecuteAsync(
            "insert into person_group (id, school_id, name) values (@id, @demo, 'x')", new { id = Guid.NewGuid(), demo }));
        Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, refused.SqlState);
    }

    [Fact]
    public async Task As_the_servers_role_nothing_that_is_said_on_a_connection_shows_more()
    {
        var (demo, other) = await SchoolsAsync();
        await using var owner = await AsOwnerAsync();
        var tables = await TablesAsync(owner);
        Assert.Empty(await owner.QueryAsync<string>("select relname from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r' and relname <> 'schemaversions' and not relforcerowsecurity"));
        await using var connection = new NpgsqlConnection(server.AppDatabase);
        await connection.OpenAsync(TestContext.Current.CancellationToken);
        Assert.Equal((false, false, 0), await connection.QuerySingleAsync<(bool, bool, int)>(
            "select rolsuper, rolbypassrls, (select count(*)::int from pg_class where relowner = r.oid) from pg_roles r where rolname = session_user"));
        await connection.ExecuteAsync("select set_config('valtro.school', @other, false)", new { other = other.ToString() });
        foreach (var said in new[] { "reset role", "select set_config('valtro.all', 'on', false)", "select set_config('valtro.school', '', false)", "set session authorization default", "set row_security = on" })
        {
            await connection.ExecuteAsync(said);
            foreach (var (table, _) in tables.Where(t => t.Table != "school"))
                Assert.Equal((table, said, 0L), (table, said, await connection.ExecuteScalarAsync<long>($"select count(*) from {table}")));
        }
        foreach (var said in new[] { "set role valtro", "set session authorization valtro", "alter table event no force row level security", "alter table event disable row level security", "drop policy apart on event", "create table mine (id int)", "alter role valtro_app superuser", "create or replace function valtro_is_owner() returns boolean language sql as 'select true'", "select * from schemaversions" })
            await Assert.ThrowsAsync<PostgresException>(() => connection.ExecuteAsync(said));
        Assert.True(await owner.ExecuteScalarAsync<long>("select count(*) from event where school_id = @demo", new { demo }) > 0);
    }

    [Fact]
    public void A_role_that_owns_the_tables_is_refused_as_the_servers()
    {
        _ = server.Services;
        var refused = Assert.Throws<TooMightyException>(() => Database.Migrate(server.Database, server.Database));
        Assert.Contains("VALTRO_OWNER_DATABASE", refused.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_connection_that_says_no_school_sees_nothing_and_one_that_was_used_keeps_no_school()
    {
        var (demo, other) = await SchoolsAsync();
        await using (var listening = await Db.OpenToListenAsync(TestContext.Current.CancellationToken))
            Assert.Equal(0, await listening.ExecuteScalarAsync<int>("select count(*)::int from school"));
        for (var i = 0; i < 5; i++)
        {
            await using (var none = await Db.OpenForNoneAsync())
                Assert.Equal(0, await none.ExecuteScalarAsync<int>("select count(*)::int from school"));
            await using (var one = await Db.OpenAsync(demo))
                Assert.Equal(1, await one.ExecuteScalarAsync<int>("select count(*)::int from school"));
            await using var another = await Db.OpenAsync(other);
            Assert.Equal((0, Server.AppRole), (await another.ExecuteScalarAsync<int>("select count(*)::int from event"), await another.ExecuteScalarAsync<string>("select current_user::text")));
            await Assert.ThrowsAsync<PostgresException>(() => another.ExecuteAsync("alter table event disable row level security"));
        }
    }
}
