using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Valtro.Server.Live;
using Valtro.Store;

namespace Valtro.Server.Tests;

/// <summary>Open screens hear of what others change, on every server, also after the connection was cut.</summary>
public sealed class LiveTests(Cluster cluster)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private static async Task<StreamReader> OpenAsync(HttpClient client, int since = 0)
    {
        var answer = await client.GetAsync($"/api/changes?since={since}", HttpCompletionOption.ResponseHeadersRead);
        Assert.Equal("text/event-stream", answer.Content.Headers.ContentType?.MediaType);
        var reader = new StreamReader(await answer.Content.ReadAsStreamAsync());
        Assert.Equal(("ready", ""), await NextAsync(reader));
        return reader;
    }

    /// <summary>Waits until servers hear of changes: whoever listens before is told of anything when they do.</summary>
    private static async Task HearAsync(params Server[] servers)
    {
        foreach (var feed in servers.Select(s => s.Services.GetRequiredService<ChangeFeed>()))
        {
            while (!feed.IsHearing)
                await Task.Delay(10);
        }
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

    private const string Own = """{"isOwn":true,"events":null}""";
    private const string Others = """{"isOwn":false,"events":null}""";

    /// <summary>The next change of events, and which of them are told.</summary>
    private static async Task<(bool IsOwn, JsonNode Change)> NextChangeAsync(StreamReader reader)
    {
        var (name, data) = await NextAsync(reader);
        Assert.Equal("changed", name);
        var told = JsonNode.Parse(data)!;
        return ((bool)told["isOwn"]!, Assert.Single(told["events"]!.AsArray())!);
    }

    // What was done before somebody began to listen may be told of after that.
    private static async Task<JsonNode> ChangeOfAsync(StreamReader reader, JsonNode made)
    {
        while (true)
        {
            var changes = JsonNode.Parse((await NextAsync(reader)).Data)!["events"]?.AsArray() ?? [];
            if (changes.FirstOrDefault(c => c!["ids"]!.AsArray().Any(i => i!.GetValue<string>() == made.Text("id"))) is { } told)
                return told;
        }
    }

    [Fact]
    public async Task A_change_through_one_server_is_told_on_another_and_to_its_author_as_their_own()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var one = new Server(database);
        await using var two = new Server(database);
        var marit = await one.SignedInAsync();
        var owen = await two.SignedInAsync("owen.tarbell@lanternfell.example");
        await HearAsync(one, two);
        using var seenByMarit = await OpenAsync(marit);
        using var seenByOwen = await OpenAsync(owen);
        await marit.NewCalendarAsync("Told");
        Assert.Equal(("changed", Own), await NextAsync(seenByMarit));
        Assert.Equal(("changed", Others), await NextAsync(seenByOwen));
    }

    [Fact]
    public async Task What_changed_after_a_screen_began_to_ask_and_before_it_listens_is_told()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var (marit, owen) = (await server.SignedInAsync(), await server.SignedInAsync("owen.tarbell@lanternfell.example"));
        // Of so long ago a server knows nothing any more, so anything may be different.
        await HearAsync(server);
        using (var early = await OpenAsync(owen, 40_000))
            Assert.Equal(("changed", Others), await NextAsync(early));
        using var witness = await OpenAsync(marit);
        var calendar = await marit.NewCalendarAsync("Told late");
        Assert.Equal(("changed", Own), await NextAsync(witness));
        var (feed, school) = (server.Services.GetRequiredService<ChangeFeed>(), (await server.Services.GetRequiredService<Schools>().ListAsync())[0].Id);
        Task<JsonNode> MakeAsync(string title) => marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title, timing = Asking.AllDay("2044-03-03", "2044-03-03") });
        // A change is heard of in parts, and one after the other: of what was done before this one all has been heard when it is.
        using var heard = feed.Listen(school, TimeSpan.Zero);
        await MakeAsync("Before");
        Guid? before = null;
        while (before is null)
            before = (await heard.Reader.ReadAsync(TestContext.Current.CancellationToken)).EventsId;
        var began = Environment.TickCount64;
        await ChangeOfAsync(witness, await MakeAsync("Meanwhile"));
        // Of before it began a screen is told nothing.
        using var late = feed.Listen(school, TimeSpan.FromMilliseconds(Environment.TickCount64 - began - 1));
        var told = new List<Guid?>();
        while (late.Reader.TryRead(out var notice))
            told.Add(notice.EventsId);
        Assert.NotNull(Assert.Single(told.Except([before]).Distinct()));
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
        await HearAsync(server);
        using var own = await OpenAsync(marit);
        // What was done so far has been told of before anybody else listens: alone, before what comes then, or together with it.
        string before;
        do
        {
            await marit.PostAsync("/api/events", Body(closed, "Before"));
            before = (await NextAsync(own)).Data;
        }
        while (before == Own);
        Assert.True((bool)JsonNode.Parse(before)!["isOwn"]!);
        using var seen = await OpenAsync(samir);
        await marit.PostAsync("/api/events", Body(closed, "Hidden"));
        Assert.True((await NextChangeAsync(own)).IsOwn);
        await marit.PostAsync("/api/events", Body(open, "Not yet", isDraft: true));
        Assert.True((await NextChangeAsync(own)).IsOwn);
        // The first thing that is heard is the first that may be seen.
        var told = NextChangeAsync(seen);
        Assert.False(told.IsCompleted);
        var made = await marit.PostAsync("/api/events", Body(open, "Seen"));
        var (isOwn, change) = await told;
        Assert.False(isOwn);
        Assert.Equal([made.Text("id")], change["ids"]!.AsArray().Select(i => i!.GetValue<string>()));
        // Nor is it told later, once there is a part in it.
        await marit.PutAsync($"/api/calendars/{closed.Text("id")}/roles", new { personId = (await samir.GetJsonAsync("/api/session"))["person"]!.Text("id"), role = "reader" });
        Assert.Equal(("changed", Others), await NextAsync(seen));
        var inside = await marit.PostAsync("/api/events", Body(closed, "Seen from now on"));
        Assert.Equal(inside.Text("id"), (await NextChangeAsync(seen)).Change["ids"]![0]!.GetValue<string>());
    }

    [Fact]
    public async Task A_screen_asks_for_what_changed_alone_and_gets_what_the_whole_board_would_show()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var (marit, samir) = (await server.SignedInAsync(), await server.SignedInAsync("samir.dole@lanternfell.example"));
        const string window = "from=2044-02-29&to=2044-03-14";
        var calendar = await marit.NewCalendarAsync("Hull");
        object Body(string title, string from, object? rule = null) => new { calendarId = calendar.Text("id"), title, timing = Asking.AllDay(from, from), rule };
        var others = await marit.PostAsync("/api/events", Body("Stays", "2044-03-02"));
        await HearAsync(server);
        using var seen = await OpenAsync(samir);

        async Task<JsonArray> ShownAsync() => (await samir.GetJsonAsync($"/api/board?{window}"))["occurrences"]!.AsArray();
        IEnumerable<JsonNode?> Own(JsonArray occurrences) => occurrences.Where(o => o!.Text("calendarId") == calendar.Text("id"));
        // What the interface does with a change: the events it names go, what is answered comes.
        async Task SameAsync(JsonArray before, JsonNode change)
        {
            var ids = change["ids"]!.AsArray().Select(i => i!.GetValue<string>()).ToHashSet();
            var answer = (await samir.GetJsonAsync($"/api/board/changed?{window}&change={change.Text("change")}")).AsArray();
            Assert.All(answer, o => Assert.Contains(o!.Text("eventId"), ids));
            var kept = before.Where(o => !ids.Contains(o!.Text("eventId"))).Concat(answer).Select(o => o!.ToJsonString()).Order();
            Assert.Equal((await ShownAsync()).Select(o => o!.ToJsonString()).Order(), kept);
        }

        var shown = await ShownAsync();
        var made = await marit.PostAsync("/api/events", Body("Caulking", "2044-03-03", new { frequency = "daily", interval = 1, days = Array.Empty<string>(), count = 5 }));
        var told = await ChangeOfAsync(seen, made);
        Assert.True(string.CompareOrdinal(told.Text("first"), "2044-03-03") < 0 && string.CompareOrdinal(told.Text("last"), "2044-03-07") > 0, told.ToJsonString());
        await SameAsync(shown, told);

        shown = await ShownAsync();
        Assert.Equal(6, Own(shown).Count());
        await marit.DeleteAsync($"/api/events/{made.Text("id")}?version=1");
        (_, told) = await NextChangeAsync(seen);
        await SameAsync(shown, told);
        Assert.Single(Own(await ShownAsync()));

        // By times only it is named by the identity it has there, and by no other.
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "timesOnly", linkHolders = "nothing", everyone = "nothing", version = 1 });
        Assert.Equal(("changed", Others), await NextAsync(seen));
        shown = await ShownAsync();
        var known = Assert.Single(Own(shown))!.Text("eventId");
        Assert.NotEqual(others.Text("id"), known);
        await marit.PutAsync($"/api/events/{others.Text("id")}", Asking.EventBody(calendar, "Stays", Asking.AllDay("2044-03-05", "2044-03-05"), version: 1));
        (_, told) = await NextChangeAsync(seen);
        Assert.Equal([known], told["ids"]!.AsArray().Select(i => i!.GetValue<string>()));
        Assert.DoesNotContain(others.Text("id"), told.ToJsonString());
        await SameAsync(shown, told);

        // A change nobody knows, or of something else, is answered with nothing.
        Assert.Empty((await samir.GetJsonAsync($"/api/board/changed?{window}&change={Guid.NewGuid()}")).AsArray());
        await samir.GetAsync($"/api/board/changed?{window}{string.Concat(Enumerable.Repeat($"&change={Guid.NewGuid()}", 21))}").ProblemAsync(422, "too_many_changes");
    }

    [Fact]
    public async Task After_the_connection_was_cut_everybody_looks_again_and_hears_of_what_comes()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var client = await server.SignedInAsync();
        await HearAsync(server);
        using var seen = await OpenAsync(client);
        await using (var db = NpgsqlDataSource.Create(server.Database))
        await using (var cut = db.CreateCommand("select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen valtro_changes%' and datname = current_database()"))
            Assert.Equal(true, await cut.ExecuteScalarAsync());
        Assert.Equal(("changed", Others), await NextAsync(seen));
        await client.NewCalendarAsync("Told again");
        Assert.Equal(("changed", Own), await NextAsync(seen));
    }

    [Fact]
    public async Task While_the_database_takes_nobody_it_is_said_so_and_afterwards_all_goes_on()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var client = await server.SignedInAsync();
        await using var db = NpgsqlDataSource.Create(server.Database);
        var name = new NpgsqlConnectionStringBuilder(server.Database).Database;
        async Task LimitAsync(int to)
        {
            await using var limit = db.CreateCommand($"alter database {name} connection limit {to}; select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()");
            await limit.ExecuteNonQueryAsync();
        }

        await LimitAsync(0);
        // A connection that was cut may be found out by the one who is given it.
        HttpResponseMessage answer;
        do
            answer = await client.GetAsync("/api/board?from=2044-03-01&to=2044-03-08");
        while (answer.StatusCode == HttpStatusCode.OK);
        await Task.FromResult(answer).ProblemAsync(503, "database_away");
        Assert.Equal(TimeSpan.FromSeconds(5), answer.Headers.RetryAfter?.Delta);
        await LimitAsync(-1);
        for (var i = 0; i < 50 && !answer.IsSuccessStatusCode; i++)
            answer = await client.GetAsync("/api/board?from=2044-03-01&to=2044-03-08");
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
    }

    [Theory]
    [InlineData(1, 6)]
    [InlineData(600, 2)]
    public async Task A_proxy_that_cuts_what_is_silent_keeps_no_change_from_a_screen(int stillSeconds, int cutSeconds)
    {
        var port = Cluster.FreePort();
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["STILL_SECONDS"] = $"{stillSeconds}", ["urls"] = $"http://127.0.0.1:{port}" } };
        server.UseKestrel();
        server.StartServer();
        await using var proxy = new Wire("127.0.0.1", port, TimeSpan.FromSeconds(cutSeconds));
        using var client = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = new Uri($"http://127.0.0.1:{proxy.Port}") };
        var signedIn = await client.PostAsJsonAsync("/api/session", new { email = Server.Marit, password = Valtro.Demo.DemoSchool.Password });
        client.DefaultRequestHeaders.Add("Cookie", signedIn.Headers.GetValues("Set-Cookie").First().Split(';')[0]);
        await HearAsync(server);
        var stream = await OpenAsync(client);
        if (stillSeconds > cutSeconds)
        {
            await Assert.ThrowsAnyAsync<IOException>(() => NextAsync(stream));
            stream = await OpenAsync(client);
        }
        else
        {
            using var patience = new CancellationTokenSource(Patience);
            for (var stills = 0; stills <= cutSeconds + 1;)
                stills += await stream.ReadLineAsync(patience.Token) == "event: still" ? 1 : 0;
        }
        await client.NewCalendarAsync("Through");
        Assert.Equal(("changed", Own), await NextAsync(stream));
    }

    [Fact]
    public async Task Nobody_without_a_session_hears_anything()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        await server.Visitor().GetAsync("/api/changes").ProblemAsync(401, "signed_out");
    }
}
