using System.Data.Common;
using Dapper;
using Npgsql;
using Valtro.Store;

namespace Valtro.Server.Tests;

public sealed class PlansTests(Cluster cluster)
{
    private const int Often = 30;
    private const string Question = "select count(*) from person where name = @name";

    private static Task<int> PlansAsync(DbConnection connection) =>
        connection.ExecuteScalarAsync<int>("select count(*) from pg_prepared_statements where statement like '%from person where name%'");

    [Fact]
    public async Task What_is_asked_often_is_planned_once_where_a_connection_surely_leads_to_one_place()
    {
        await using var db = Database.Connect(Server.AppOf(await cluster.CreateDatabaseAsync()));
        await using var connection = await db.OpenAsync(Guid.NewGuid());
        for (var i = 0; i < Often; i++)
            await connection.ExecuteScalarAsync<int>(Question, new { name = "Marit Quill" });
        Assert.Equal(0, await PlansAsync(connection));
        db.NoteHeard();
        for (var i = 0; i < Often; i++)
            await connection.ExecuteScalarAsync<int>(Question, new { name = "Marit Quill" });
        Assert.Equal(1, await PlansAsync(connection));
    }

    [Fact]
    public async Task Behind_a_pooler_nothing_is_planned_ahead()
    {
        var database = Server.AppOf(await cluster.CreateDatabaseAsync());
        await using var db = Database.Connect(database, database + ";Application Name=past the pooler");
        db.NoteHeard();
        await using var connection = await db.OpenAsync(Guid.NewGuid());
        for (var i = 0; i < Often; i++)
            await connection.ExecuteScalarAsync<int>(Question, new { name = "Marit Quill" });
        Assert.Equal(0, await PlansAsync(connection));
    }

    [Fact]
    public async Task A_plan_is_of_no_school_and_what_is_refused_leaves_it_as_it_was()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var db = Database.Connect(Server.AppOf(database));
        db.NoteHeard();
        Guid school;
        await using (var owner = new NpgsqlConnection(database))
            school = await owner.ExecuteScalarAsync<Guid>("select school_id from person where name = 'Marit Quill'");
        for (var i = 0; i < Often; i++)
        {
            await using (var own = await db.OpenAsync(school))
                Assert.Equal(1, await own.ExecuteScalarAsync<int>(Question, new { name = "Marit Quill" }));
            await using (var others = await db.OpenAsync(Guid.NewGuid()))
                Assert.Equal(0, await others.ExecuteScalarAsync<int>(Question, new { name = "Marit Quill" }));
            await using var refused = await db.OpenAsync(school);
            await Assert.ThrowsAsync<PostgresException>(() => refused.ExecuteScalarAsync<int>(Question, new { name = "\0" }));
        }
    }
}
