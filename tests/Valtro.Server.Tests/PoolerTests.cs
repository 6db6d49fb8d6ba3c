using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Valtro.Server.Outlets;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>A database that hands its connections out by the transaction, has none left, or no room.</summary>
public sealed class PoolerTests(Cluster cluster)
{
    private static async Task<IEnumerable<string>> TitlesAsync(HttpClient client) =>
        (await client.GetJsonAsync("/api/board?from=2026-11-23&to=2026-11-24"))["calendars"]!.AsArray().Select(c => c!.Text("title"));

    [Fact]
    public async Task Behind_a_pooler_of_transactions_each_school_finds_its_own_and_changes_are_heard_of()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var pooler = await cluster.StartPoolerAsync(size: 3);
        await using var server = new Server(database) { Settings = { ["DATABASE"] = Server.AppOf(pooler.Lead(database)), ["LISTEN_DATABASE"] = Server.AppOf(database) } };
        var schools = new[] { await server.SignedInAsync(), await server.OfAnotherSchoolAsync() };
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/health/ready")).IsSuccessStatusCode);
        var own = new List<string>[] { [.. await TitlesAsync(schools[0])], [] };
        // More at once than there are connections, of both.
        for (var round = 0; round < 3; round++)
        {
            var named = Enumerable.Range(0, 24).Select(i => (School: i % 2, Title: $"Calendar {round}.{i}")).ToList();
            await Task.WhenAll(named.Select(n => schools[n.School].NewCalendarAsync(n.Title)).Concat<Task>(schools.Select(TitlesAsync)));
            foreach (var (school, title) in named)
                own[school].Add(title);
            var found = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => TitlesAsync(schools[i % 2])));
            for (var i = 0; i < found.Length; i++)
                Assert.Equal(own[i % 2].Order(), found[i].Order());
        }
        var calendar = await schools[1].OpenAsync(await schools[1].NewCalendarAsync("Told"));
        await schools[1].PublishAsync("pooled", calendar);
        Assert.DoesNotContain("Night sail", await server.Visitor().GetStringAsync("/p/pooled/feed.ics"), StringComparison.Ordinal);
        await using (var elsewhere = new Server(database))
        {
            var other = await elsewhere.SignedInAsync(await EmailOfSecondAsync(database));
            await other.PostAsync("/api/events", EventBody(calendar, "Night sail", AllDay("2026-12-01", "2026-12-01")));
        }
        await Eventually.TrueAsync(async () => (await server.Visitor().GetStringAsync("/p/pooled/feed.ics")).Contains("Night sail", StringComparison.Ordinal));
    }

    private static async Task<string> EmailOfSecondAsync(string database)
    {
        await using var connection = new NpgsqlConnection(database);
        return (await connection.ExecuteScalarAsync<string>("select email from person where name = 'Ida Vey'"))!;
    }

    [Fact]
    public async Task A_pooler_that_keeps_what_is_told_to_itself_is_not_believed()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var pooler = await cluster.StartPoolerAsync(size: 3);
        await using var server = new Server(database) { Settings = { ["DATABASE"] = Server.AppOf(pooler.Lead(database)) } };
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Unheard"));
        await client.PublishAsync("unheard", calendar);
        await Eventually.TrueAsync(() => Task.FromResult(server.Log.Text.Contains("VALTRO_LISTEN_DATABASE", StringComparison.Ordinal)));
        await server.Visitor().GetAsync("/health/ready").ProblemAsync(503, "changes_unheard");
        // Correct all the same: what is shown was looked up a moment ago at most.
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/unheard/feed.ics")).StatusCode);
        // Whoever came before that moment may have what was found then, however long it took them since; whoever comes now may not.
        var (shelf, standing) = (server.Services.GetRequiredService<Shelf>(), server.Services.GetRequiredService<Standings>().Find("unheard")!);
        var kept = standing.Kept[OutletAsk.Read("feed.ics")!];
        await Eventually.TrueAsync(() => Task.FromResult(shelf.Judge(kept, out _) == Verdict.Ask));
        Assert.Equal(Verdict.Right, shelf.Judge(kept, out _, came: standing.AskedAt));
        Assert.Equal(Verdict.Ask, shelf.Judge(kept, out _, came: standing.AskedAt + 1));
        await using (var elsewhere = new Server(database))
            await (await elsewhere.SignedInAsync()).PostAsync("/api/events", EventBody(calendar, "Night sail", AllDay("2026-12-01", "2026-12-01")));
        await Eventually.TrueAsync(async () => (await server.Visitor().GetStringAsync("/p/unheard/feed.ics")).Contains("Night sail", StringComparison.Ordinal));
    }

    [Fact]
    public async Task When_all_connections_are_taken_it_says_so_and_readers_see_nothing_of_it()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database) { Settings = { ["DATABASE"] = Server.AppOf(database) + ";Maximum Pool Size=2;Timeout=1" } };
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Crowd"));
        await client.PublishAsync("crowd", calendar);
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/crowd/feed.ics")).StatusCode);
        await using var locked = new NpgsqlConnection(database);
        await locked.OpenAsync(TestContext.Current.CancellationToken);
        await using var held = await locked.BeginTransactionAsync(TestContext.Current.CancellationToken);
        await locked.ExecuteAsync("lock table school_lists in access exclusive mode");
        var waiting = Enumerable.Range(0, 2).Select(_ => client.GetAsync("/api/lists")).ToList();
        await Eventually.TrueAsync(async () => await locked.ExecuteScalarAsync<int>("select count(*)::int from pg_locks where not granted") == 2);
        var refused = await client.GetAsync("/api/school-years");
        Assert.NotNull(refused.Headers.RetryAfter);
        await Task.FromResult(refused).ProblemAsync(503, "database_busy");
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/crowd/feed.ics")).StatusCode);
        await held.RollbackAsync(TestContext.Current.CancellationToken);
        Assert.All(await Task.WhenAll(waiting), answer => Assert.Equal(HttpStatusCode.OK, answer.StatusCode));
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/api/school-years")).StatusCode);
    }

    [Fact]
    public async Task A_full_disk_of_the_database_refuses_what_is_written_in_words_and_reading_goes_on()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Narrow"));
        await client.PublishAsync("narrow", calendar);
        await using var owner = new NpgsqlConnection(database);
        await owner.ExecuteAsync(
            """
            create function full_disk() returns trigger language plpgsql as $$ begin raise exception 'could not extend file "base/1/2"' using errcode = 'disk_full'; end $$;
            create trigger full_disk before insert on history execute function full_disk();
            """);
        var body = EventBody(calendar, "Night sail", AllDay("2026-12-01", "2026-12-01"));
        var refused = await client.PostAsJsonAsync("/api/events", body).ProblemAsync(507, "no_room");
        Assert.DoesNotContain("base/1", refused.ToJsonString(), StringComparison.Ordinal);
        Assert.Contains("could not extend file", server.Log.Text, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/api/board?from=2026-11-23&to=2026-12-07")).StatusCode);
        Assert.DoesNotContain("Night sail", await server.Visitor().GetStringAsync("/p/narrow/feed.ics"), StringComparison.Ordinal);
        await owner.ExecuteAsync("drop trigger full_disk on history");
        await client.PostAsync("/api/events", body);
        Assert.Contains("Night sail", await server.Visitor().GetStringAsync("/p/narrow/feed.ics"), StringComparison.Ordinal);
    }
}
