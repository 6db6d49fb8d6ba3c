using Dapper;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What one costs all others has a bound: dates, downloads, outlets made for one alone.</summary>
public sealed class BudgetTests(Cluster cluster)
{
    private static object Body(JsonNode calendar, string title, object? rule = null) =>
        EventBody(calendar, title, Timed("2026-11-23T09:00:00", "2026-11-23T09:00:05"), rule);

    private static object Secondly => new { frequency = "secondly", interval = 1, days = Array.Empty<string>(), count = (int?)null, until = (string?)null };

    [Fact]
    public async Task A_series_too_dense_that_came_into_the_database_is_named_and_left_out_and_fails_nobody()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Knots"));
        await marit.PostAsync("/api/events", Body(calendar, "Bowline", Weekly("monday")));
        var bad = await marit.PostAsync("/api/events", Body(calendar, "Every second", Weekly("monday")));
        var id = bad.Text("id");
        await marit.PublishAsync("knots", calendar);
        await using (var db = new Npgsql.NpgsqlConnection(server.Database))
            await db.ExecuteAsync("update event set rule = 'FREQ=SECONDLY', bounds_to = null where id = @id::uuid", new { id });
        // As if the server had been started now.
        await using var again = new Server(server.Database);
        marit = await again.SignedInAsync();

        var board = await marit.GetJsonAsync("/api/board?from=2026-11-23&to=2026-11-30");
        Assert.Equal(["Bowline"], board["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == calendar.Text("id")).Select(o => o!.Text("title")));
        await marit.GetJsonAsync("/api/year?date=2026-11-23");
        var named = (await marit.GetJsonAsync("/api/checks"))["clashes"]!.AsArray().Single(c => c!.Text("kind") == "tooDense")!;
        Assert.Equal(("Every second", id), (named["event"]!.Text("title"), named["event"]!.Text("eventId")));
        foreach (var outlet in new[] { "", "/embed", "/feed.ics", "/feed.json", "/snapshot.ics", "/busy.ifb", "/atom.xml", "/dates.json", "/dates.csv", "/events.json?from=2026-11-23&to=2026-11-30" })
        {
            var answer = await again.Visitor().GetAsync("/p/knots" + outlet, TestContext.Current.CancellationToken);
            var text = await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
            Assert.Equal((outlet, HttpStatusCode.OK, false), (outlet, answer.StatusCode, text.Contains("Every second", StringComparison.Ordinal)));
            Assert.DoesNotContain("SECONDLY", text);
        }
        var publications = await marit.GetJsonAsync("/api/publications");
        var publication = publications.AsArray().Single(p => p!.Text("key") == "knots")!.Text("id");
        Assert.Contains("tooDense", (await marit.GetJsonAsync($"/api/publications/{publication}/proof")).ToJsonString());
        foreach (var path in new[] { "/api/search?q=second", $"/api/events/{id}", $"/api/events/{id}/history", "/api/bin", "/api/proposals" })
            await marit.GetJsonAsync(path);

        // A year is changed as before, and whoever keeps the series mends it.
        var kept = await marit.GetJsonAsync($"/api/events/{id}");
        await marit.PutAsync($"/api/events/{id}", EventBody(calendar, "Every second", Timed("2026-11-23T09:00:00", "2026-11-23T09:00:05"), Weekly("tuesday"), kept.Number("version")));
        board = await marit.GetJsonAsync("/api/board?from=2026-11-23&to=2026-11-30");
        Assert.Equal(2, board["occurrences"]!.AsArray().Count(o => o!.Text("calendarId") == calendar.Text("id")));
    }

    [Fact]
    public async Task A_series_too_dense_is_refused_typed_saved_offered_and_as_a_template()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var marit = await server.SignedInAsync();
        var bea = await server.SignedInAsync("bea.lindqvist@lanternfell.example");
        var calendar = await marit.NewCalendarAsync("Knots");
        var diary = (await bea.GetJsonAsync("/api/board?from=2026-11-23&to=2026-11-24"))["calendars"]!.AsArray().Single(c => c!.Text("title") == "School diary")!;
        await marit.PostAsJsonAsync("/api/events", Body(calendar, "Dense", Secondly)).ProblemAsync(422, "rule_too_dense");
        await marit.PostAsJsonAsync("/api/events/dates", new { calendarId = calendar.Text("id"), timing = Timed("2026-11-23T09:00:00", "2026-11-23T09:00:05"), rule = Secondly }).ProblemAsync(422, "rule_too_dense");
        await marit.PostAsJsonAsync("/api/events/many", new { events = new[] { Body(calendar, "Fine"), Body(calendar, "Dense", Secondly) } }).ProblemAsync(422, "rule_too_dense");
        await bea.PostAsJsonAsync("/api/proposals", new Dictionary<string, object?> { ["event"] = Body(diary, "Dense", Secondly), ["remark"] = "" }).ProblemAsync(422, "rule_too_dense");
        var e = await marit.PostAsync("/api/events", Body(calendar, "Sparse"));
        await marit.PutAsJsonAsync("/api/events/" + e.Text("id"), EventBody(calendar, "Dense", Timed("2026-11-23T09:00:00", "2026-11-23T09:00:05"), Secondly, 1)).ProblemAsync(422, "rule_too_dense");
    }

    [Fact]
    public async Task Those_who_read_a_file_slowly_keep_nobody_waiting()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("Charts");
        var file = await (await marit.PostAsync("/api/files?name=chart.txt", new StringContent(new string('x', 4_000_000)))).JsonAsync();
        var e = await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Chart", place = "", description = "", timing = AllDay("2046-03-03", "2046-03-03"), facts = new { files = new[] { file } } });
        var slow = new List<HttpResponseMessage>();
        // More than there are connections in the pool (20); nothing of the bodies is read.
        for (var i = 0; i < 25; i++)
            slow.Add(await marit.GetAsync($"/api/events/{e.Text("id")}/files/{file.Text("id")}", HttpCompletionOption.ResponseHeadersRead, TestContext.Current.CancellationToken));
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(10));
        var answer = await marit.GetAsync("/api/board?from=2026-11-23&to=2026-11-30", patience.Token);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        foreach (var one in slow)
        {
            Assert.Equal(4_000_000, (await one.Content.ReadAsByteArrayAsync(TestContext.Current.CancellationToken)).Length);
            one.Dispose();
        }
    }

    [Fact]
    public async Task An_address_has_a_budget_for_what_is_not_ready_and_what_is_ready_has_none()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["RENDERS_A_MINUTE"] = "60" } };
        var marit = await server.SignedInAsync();
        await marit.PublishAsync("knots", await marit.OpenAsync(await marit.NewCalendarAsync("Knots")));
        HttpClient From(string address)
        {
            var client = server.Visitor();
            client.DefaultRequestHeaders.Add(FromAddress.From, address);
            return client;
        }
        var (greedy, other) = (From("2001:db8:5:5::1"), From("10.3.0.1"));
        async Task<int[]> AskAsync(Func<int, string> path, HttpClient client) =>
            await Task.WhenAll(Enumerable.Range(0, 150).Select(async i => (int)(await client.GetAsync(path(i), TestContext.Current.CancellationToken)).StatusCode));
        static string Day(int i) => new LocalDate(2030, 1, 1).PlusDays(i).ToString("uuuu-MM-dd", null);

        // Windows nobody keeps, and links nothing is at; from another address of the same household too.
        var windows = await AskAsync(i => $"/p/knots/events.json?from={Day(i)}&to={Day(i + 30)}", greedy);
        Assert.InRange(windows.Count(s => s == 200), 55, 100);
        Assert.Equal(150, windows.Count(s => s is 200 or 429));
        var links = await AskAsync(i => $"/p/nothing-{i}", From("2001:db8:5:5::2"));
        Assert.True(links.Count(s => s == 429) > 50);
        var refused = await greedy.GetAsync("/p/nothing-at-all-here", TestContext.Current.CancellationToken);
        Assert.True(refused.StatusCode != HttpStatusCode.TooManyRequests || refused.Headers.RetryAfter is not null);

        // Who else asks is served, and what is ready is given to everybody.
        Assert.Equal(HttpStatusCode.OK, (await other.GetAsync("/p/knots/feed.ics", TestContext.Current.CancellationToken)).StatusCode);
        Assert.All(await AskAsync(_ => "/p/knots/feed.ics", greedy), s => Assert.Equal(200, s));

        // A link nothing is at is looked for once, until something changes.
        Assert.Equal(404, (int)(await other.GetAsync("/p/later", TestContext.Current.CancellationToken)).StatusCode);
        Assert.All(await AskAsync(_ => "/p/later", other), s => Assert.Equal(404, s));
        await marit.PublishAsync("later", await marit.OpenAsync(await marit.NewCalendarAsync("Later")));
        Assert.Equal(200, (int)(await other.GetAsync("/p/later", TestContext.Current.CancellationToken)).StatusCode);
    }
}
