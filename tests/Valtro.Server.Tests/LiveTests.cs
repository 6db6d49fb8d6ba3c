using Npgsql;

namespace Valtro.Server.Tests;

/// <summary>Open screens hear of what others change, on every server, also after the connection was cut.</summary>
public sealed class LiveTests(Cluster cluster)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private static async Task<StreamReader> OpenAsync(HttpClient client)
    {
        var answer = await client.GetAsync("/api/changes", HttpCompletionOption.ResponseHeadersRead);
        Assert.Equal("text/event-stream", answer.Content.Headers.ContentType?.MediaType);
        var reader = new StreamReader(await answer.Content.ReadAsStreamAsync());
        Assert.Equal(("ready", ""), await NextAsync(reader));
        return reader;
    }

    /// <summary>The next event that says something.</summary>
    private static async Task<(string Name, string Data)> NextAsync(StreamReader reader)
    {
        using var patience = new CancellationTokenSource(Patience);
        var (name, data) = ("", "");
        while (await reader.ReadLineAsync(patience.Token) is { } line)
        {
            if (line.StartsWith("event: ", StringComparison.Ordinal))
                name = line[7..];
            else if (line.StartsWith("data: ", StringComparison.Ordinal))
                data = line[6..];
            else if (line.Length == 0 && name.Length > 0 && name != "still")
                return (name, data);
        }
        throw new EndOfStreamException();
    }

    [Fact]
    public async Task A_change_through_one_server_is_told_on_another_and_to_its_author_as_their_own()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var one = new Server(database);
        await using var two = new Server(database);
        var marit = await one.SignedInAsync();
        var owen = await two.SignedInAsync("owen.tarbell@lanternfell.example");
        using var seenByMarit = await OpenAsync(marit);
        using var seenByOwen = await OpenAsync(owen);
        await marit.NewCalendarAsync("Told");
        Assert.Equal(("changed", "own"), await NextAsync(seenByMarit));
        Assert.Equal(("changed", "other"), await NextAsync(seenByOwen));
    }

    [Fact]
    public async Task What_somebody_may_not_see_is_not_told_to_have_changed()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var (marit, samir) = (await server.SignedInAsync(), await server.SignedInAsync("samir.dole@lanternfell.example"));
        var closed = await marit.NewCalendarAsync("Cabin");
        closed = await marit.PutAsync($"/api/calendars/{closed.Text("id")}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 1 });
        var open = await marit.NewCalendarAsync("Deck");
        object Body(JsonNode calendar, string title, bool isDraft = false) =>
            new { calendarId = calendar.Text("id"), title, timing = Asking.AllDay("2044-03-03", "2044-03-03"), facts = new { isDraft } };
        using var seen = await OpenAsync(samir);
        using var own = await OpenAsync(marit);
        await marit.PostAsync("/api/events", Body(closed, "Hidden"));
        Assert.Equal(("changed", "own"), await NextAsync(own));
        await marit.PostAsync("/api/events", Body(open, "Not yet", isDraft: true));
        Assert.Equal(("changed", "own"), await NextAsync(own));
        // The first thing that is heard is the first that may be seen.
        var told = NextAsync(seen);
        Assert.False(told.IsCompleted);
        await marit.PostAsync("/api/events", Body(open, "Seen"));
        Assert.Equal(("changed", "other"), await told);
        // Nor is it told later, once there is a part in it.
        await marit.PutAsync($"/api/calendars/{closed.Text("id")}/roles", new { personId = (await samir.GetJsonAsync("/api/session"))["person"]!.Text("id"), role = "reader" });
        Assert.Equal(("changed", "other"), await NextAsync(seen));
        await marit.PostAsync("/api/events", Body(closed, "Seen from now on"));
        Assert.Equal(("changed", "other"), await NextAsync(seen));
    }

    [Fact]
    public async Task After_the_connection_was_cut_everybody_looks_again_and_hears_of_what_comes()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var client = await server.SignedInAsync();
        using var seen = await OpenAsync(client);
        await using (var db = NpgsqlDataSource.Create(server.Database))
        await using (var cut = db.CreateCommand("select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen valtro_changes%' and datname = current_database()"))
            Assert.Equal(true, await cut.ExecuteScalarAsync());
        Assert.Equal(("changed", "other"), await NextAsync(seen));
        await client.NewCalendarAsync("Told again");
        Assert.Equal(("changed", "own"), await NextAsync(seen));
    }

    [Fact]
    public async Task Nobody_without_a_session_hears_anything()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        await server.Visitor().GetAsync("/api/changes").ProblemAsync(401, "signed_out");
    }
}
