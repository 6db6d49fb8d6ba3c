using Valtro.Demo;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>The way out: what a viewer may not see changes no byte of any answer they get, on any path, headers too.</summary>
public sealed class OneWayOutTests(Cluster cluster)
{
    private const string Samir = "samir.dole@lanternfell.example";
    private const string Tomas = "tomas.reed@lanternfell.example";

    private static readonly string[] Forms =
        ["", "/embed", "/feed.ics", "/feed.json", "/atom.xml", "/dates.json", "/dates.csv", "/busy.ifb", "/events.json?from=2044-03-01&to=2044-04-01", "/snapshot.ics"];

    private static object Reach(string members, string everyone = "nothing", int version = 1) => new { members, linkHolders = everyone, everyone, version };

    private static object Body(JsonNode calendar, string title, object? facts = null, string place = "Crow’s nest", int? version = null, string day = "2044-03-03", object? rule = null) => new
    {
        calendarId = calendar.Text("id"),
        title,
        place,
        description = "Nobody knows " + title,
        timing = Timed($"{day}T09:00:00", $"{day}T10:00:00"),
        rule,
        facts,
        version,
    };

    /// <summary>Everything somebody gets, with the headers by which it could be told apart.</summary>
    private static async Task<Dictionary<string, string>> AllAsync(HttpClient client, IEnumerable<string> paths)
    {
        var all = new Dictionary<string, string>();
        foreach (var path in paths)
        {
            var answer = await client.GetAsync(path);
            all[path] = $"{(int)answer.StatusCode} {answer.Headers.ETag} {answer.Content.Headers.LastModified} {answer.Content.Headers.ContentLength} {await answer.Content.ReadAsStringAsync()}";
        }
        return all;
    }

    [Fact]
    public async Task Hidden_changes_of_every_kind_are_told_to_nobody_who_may_not_see_them()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var (marit, samir, tomas, visitor) = (await own.SignedInAsync(), await own.SignedInAsync(Samir), await own.SignedInAsync(Tomas), own.Visitor());
        async Task<JsonNode> NewAsync(string title, string members, string everyone)
        {
            var made = await marit.NewCalendarAsync(title);
            return await marit.PutAsync($"/api/calendars/{made.Text("id")}/reach", Reach(members, everyone));
        }
        var closed = await NewAsync("Closed", "nothing", "nothing");
        var times = await NewAsync("Times", "timesOnly", "timesOnly");
        var heads = await NewAsync("Heads", "headlines", "headlines");
        var open = await NewAsync("Open", "everything", "everything");
        var secret = await marit.PostAsync("/api/events", Body(closed, "Mutiny"));
        var busy = await marit.PostAsync("/api/events", Body(times, "Mutiny"));
        var head = await marit.PostAsync("/api/events", Body(heads, "Known head", new { alsoIn = new[] { closed.Text("id") }, tags = new[] { "hush" } }, rule: Weekly("thursday")));
        var both = await marit.PostAsync("/api/events", Body(open, "Known to all", new { alsoIn = new[] { closed.Text("id"), times.Text("id") } }, place: "Slip 1"));
        var narrowed = await marit.PostAsync("/api/events", Body(open, "Mutiny", new { reach = new { members = "timesOnly", linkHolders = "timesOnly", everyone = "nothing" } }, day: "2044-03-04"));
        // For Tomas to propose a change of, before it is closed to him.
        var later = await marit.PostAsync("/api/events", Body(open, "Mutiny at sea", day: "2044-03-07"));
        var edit = new Dictionary<string, object?> { ["edit"] = Body(open, "Mutiny at sea", version: 1, day: "2044-03-07", place: "Tomas’s place"), ["remark"] = "Please" };
        await tomas.PostAsync($"/api/proposals/change/{later.Text("id")}", edit);
        await marit.PutAsync("/api/events/" + later.Text("id"), Body(open, "Mutiny at sea", new { isDraft = true }, version: 1, day: "2044-03-07"));
        foreach (var (key, calendar) in new[] { ("out-times", times), ("out-heads", heads), ("out-open", open) })
            await marit.PublishAsync(key, calendar);
        var all = await marit.PublishAsync("out-all", closed, times, heads, open);

        string[] signedIn =
        [
            "/api/board?from=2044-02-28&to=2044-04-01", "/api/year?date=2044-03-03", "/api/search?q=mutiny", "/api/search?q=known", "/api/search?q=hush", "/api/search?q=crow", "/api/checks", "/api/templates",
            "/api/proposals", "/api/bin", "/api/lists", "/api/school-years", "/api/publications", "/api/publications/for-members",
            .. new[] { secret, busy, head, both, narrowed, later }.SelectMany(e => new[] { "/api/events/" + e.Text("id"), $"/api/events/{e.Text("id")}/history" }),
        ];
        string[] outside = [.. new[] { "out-times", "out-heads", "out-open", "out-all" }.SelectMany(k => Forms.Select(f => $"/p/{k}{f}"))];
        async Task<string> TypedAsync(HttpClient client, string title, string place) =>
            await (await client.PostAsJsonAsync("/api/checks/event", new Dictionary<string, object?> { ["event"] = Body(open, title, place: place), ["id"] = null })).Content.ReadAsStringAsync();

        async Task<Dictionary<string, string>> SeenAsync()
        {
            var seen = new Dictionary<string, string>();
            foreach (var (name, client) in new[] { ("samir", samir), ("tomas", tomas) })
            {
                foreach (var (path, said) in await AllAsync(client, signedIn))
                    seen[$"{name} {path}"] = said;
                seen[$"{name} typed"] = await TypedAsync(client, "Mutiny", "Crow’s nest");
            }
            foreach (var (path, said) in await AllAsync(visitor, outside))
                seen["visitor " + path] = said;
            return seen;
        }
        async Task<int> VersionAsync(JsonNode e) => (await marit.GetJsonAsync("/api/events/" + e.Text("id"))).Number("version");

        var before = await SeenAsync();
        // What nobody may know is nowhere.
        Assert.All(before.Where(s => !s.Key.EndsWith("typed", StringComparison.Ordinal)), s => Assert.DoesNotContain("Mutiny", s.Value.Replace("Mutiny at sea\",\"place\":\"Tomas’s place", "", StringComparison.Ordinal), StringComparison.Ordinal));
        Assert.All(before, s => Assert.DoesNotContain(closed.Text("id"), s.Value, StringComparison.Ordinal));
        Assert.All(before.Where(s => s.Key.StartsWith("visitor", StringComparison.Ordinal)), s => Assert.StartsWith("200", s.Value, StringComparison.Ordinal));

        var hidden = new (string Name, Func<Task> Do)[]
        {
            ("a hidden title", async () => await marit.PutAsync("/api/events/" + secret.Text("id"), Body(closed, "Mutiny two", version: await VersionAsync(secret)))),
            ("a hidden event more", async () => await marit.PostAsync("/api/events", Body(closed, "Mutiny three", day: "2044-03-05"))),
            ("the title of a busy time", async () => await marit.PutAsync("/api/events/" + busy.Text("id"), Body(times, "Mutiny four", version: await VersionAsync(busy)))),
            ("the place of a busy time", async () => await marit.PutAsync("/api/events/" + busy.Text("id"), Body(times, "Mutiny four", place: "Brig", version: await VersionAsync(busy)))),
            ("tags under a headline", async () => await marit.PutAsync("/api/events/" + head.Text("id"), Body(heads, "Known head", new { alsoIn = new[] { closed.Text("id") }, tags = new[] { "hush", "mutiny" } }, version: await VersionAsync(head), rule: Weekly("thursday")))),
            ("a text on one date under a headline", async () => await marit.PutAsync("/api/events/" + head.Text("id"), new
            {
                calendarId = heads.Text("id"), title = "Known head", place = "Crow’s nest", description = "Mutiny on this date", timing = Timed("2044-03-10T09:00:00", "2044-03-10T10:00:00"), rule = Weekly("thursday"),
                version = await VersionAsync(head), scope = "thisDate", date = "2044-03-10T09:00:00",
            })),
            ("a placement in a closed calendar", async () => await marit.PutAsync("/api/events/" + both.Text("id"), Body(open, "Known to all", new { alsoIn = new[] { times.Text("id") } }, place: "Slip 1", version: await VersionAsync(both)))),
            ("a narrowed event's title", async () => await marit.PutAsync("/api/events/" + narrowed.Text("id"), Body(open, "Mutiny six", new { reach = new { members = "timesOnly", linkHolders = "timesOnly", everyone = "nothing" } }, version: await VersionAsync(narrowed), day: "2044-03-04"))),
            ("a draft's title", async () => await marit.PutAsync("/api/events/" + later.Text("id"), Body(open, "Mutiny seven", new { isDraft = true }, version: await VersionAsync(later), day: "2044-03-07"))),
            ("a draft more", async () => await marit.PostAsync("/api/events", Body(open, "Mutiny eight", new { isDraft = true }))),
            ("a template of a closed calendar", async () => await marit.PostAsync("/api/templates", new Dictionary<string, object?> { ["name"] = "Mutiny", ["event"] = Body(closed, "Mutiny") })),
            ("a closed calendar's name", async () => await marit.PutAsync($"/api/calendars/{closed.Text("id")}", CalendarBody("Mutineers", 2))),
            ("hidden into the bin", async () => Assert.True((await marit.DeleteAsync($"/api/events/{secret.Text("id")}?version={await VersionAsync(secret)}")).IsSuccessStatusCode)),
            ("hidden out of the bin", async () => await marit.PostAsync($"/api/events/{secret.Text("id")}/restore", new { })),
            ("forty hidden events", async () => await marit.PostAsync("/api/events/many", new { events = Enumerable.Range(0, 40).Select(i => Body(closed, "Known mutiny " + i, day: "2044-03-06")) })),
            ("a hidden step undone", async () => await marit.PostAsync("/api/me/undo", new { })),
            ("a proposal to a closed calendar", async () => await marit.PostAsync("/api/events/bulk", new { dates = new[] { new { eventId = secret.Text("id"), date = "2044-03-03T09:00:00" } }, place = "Galley" })),
        };
        foreach (var (name, act) in hidden)
        {
            own.Clock.Now += Duration.FromSeconds(7);
            await act();
            var after = await SeenAsync();
            foreach (var (path, said) in before)
            {
                var at = said.Zip(after[path]).TakeWhile(c => c.First == c.Second).Count();
                Assert.True(said == after[path], $"{name}: {path} tells of it at {at}:\n{said[Math.Max(0, at - 200)..Math.Min(said.Length, at + 100)]}\n{after[path][Math.Max(0, at - 200)..Math.Min(after[path].Length, at + 100)]}");
            }
        }
        // And it is not made right by telling nothing at all.
        own.Clock.Now += Duration.FromSeconds(7);
        await marit.PutAsync("/api/events/" + head.Text("id"), Body(heads, "Seen by all", new { tags = new[] { "hush" } }, version: await VersionAsync(head), rule: Weekly("thursday")));
        var told = await SeenAsync();
        Assert.Contains("Seen by all", told["samir /api/search?q=seen"] = await (await samir.GetAsync("/api/search?q=seen")).Content.ReadAsStringAsync(), StringComparison.Ordinal);
        foreach (var path in new[] { "visitor /p/out-heads/feed.ics", "visitor /p/out-all", "samir /api/board?from=2044-02-28&to=2044-04-01" })
            Assert.NotEqual(before[path], told[path]);
        Assert.Equal(before["visitor /p/out-open/feed.ics"], told["visitor /p/out-open/feed.ics"]);
    }

    [Fact]
    public async Task A_proposer_who_may_not_read_the_event_any_more_is_told_their_own_words_alone()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var (marit, tomas) = (await own.SignedInAsync(), await own.SignedInAsync(Tomas));
        var calendar = await marit.PutAsync($"/api/calendars/{(await marit.NewCalendarAsync("Narrowed later")).Text("id")}/reach", Reach("everything"));
        var e = await marit.PostAsync("/api/events", Body(calendar, "Hush talk"));
        await tomas.PostAsync($"/api/proposals/change/{e.Text("id")}", new Dictionary<string, object?> { ["edit"] = Body(calendar, "Hush talk", version: 1, place: "Old quay"), ["remark"] = "" });
        async Task<JsonNode> MineAsync() => (await tomas.GetJsonAsync("/api/proposals")).AsArray().Single(p => p!.Text("eventId") == e.Text("id"))!;
        Assert.Equal(("Hush talk", "Old quay"), ((await MineAsync())["offered"]!.Text("title"), (await MineAsync())["offered"]!.Text("place")));

        await marit.PutAsync("/api/events/" + e.Text("id"), Body(calendar, "Hush talk", new { reach = new { members = "nothing", linkHolders = "nothing", everyone = "nothing" } }, version: 1));
        var mine = await MineAsync();
        Assert.Equal(("", "Old quay"), (mine["offered"]!.Text("title"), mine["offered"]!.Text("place")));
        Assert.Null(mine["before"]);
        Assert.DoesNotContain("Nobody knows", mine.ToJsonString(), StringComparison.Ordinal);
        // Who is asked reads it as ever.
        Assert.Contains((await marit.GetJsonAsync("/api/proposals")).AsArray(), p => p!["offered"]!.Text("title") == "Hush talk");
    }

    [Fact]
    public async Task The_history_of_an_event_that_came_out_of_a_closed_calendar_begins_where_it_came_out()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var (marit, tomas) = (await own.SignedInAsync(), await own.SignedInAsync(Tomas));
        var closed = await marit.PutAsync($"/api/calendars/{(await marit.NewCalendarAsync("Cabin")).Text("id")}/reach", Reach("nothing"));
        var rigging = (await marit.GetJsonAsync("/api/board?from=2044-02-28&to=2044-03-08"))["calendars"]!.AsArray().Single(c => c!.Text("title") == "Rigging 2")!;
        var e = await marit.PostAsync("/api/events", Body(closed, "Hush talk"));
        var path = "/api/events/" + e.Text("id");
        await marit.PutAsync(path, Body(closed, "Hush talk again", version: 1));
        await marit.PutAsync(path, Body(rigging, "Rope talk", version: 2));
        var history = await tomas.GetJsonAsync(path + "/history");
        var only = Assert.Single(history.AsArray())!;
        Assert.Null(only["before"]);
        Assert.Equal("Rope talk", only["after"]!.Text("title"));
        Assert.DoesNotContain("Hush", history.ToJsonString(), StringComparison.Ordinal);
        Assert.Equal(3, (await marit.GetJsonAsync(path + "/history")).AsArray().Count);
    }

    [Fact]
    public async Task A_search_finds_what_may_be_seen_however_much_else_fits()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var (marit, samir) = (await own.SignedInAsync(), await own.SignedInAsync(Samir));
        var closed = await marit.PutAsync($"/api/calendars/{(await marit.NewCalendarAsync("Cabin")).Text("id")}/reach", Reach("nothing"));
        var (open, heads) = (await marit.NewCalendarAsync("Deck"), await marit.PutAsync($"/api/calendars/{(await marit.NewCalendarAsync("Bridge")).Text("id")}/reach", Reach("headlines")));
        for (var i = 0; i < 3; i++)
            await marit.PostAsync("/api/events/many", new { events = Enumerable.Range(0, 150).Select(n => Body(closed, "Zephyr", day: "2044-03-05")) });
        await marit.PostAsync("/api/events", Body(open, "Zephyr talk about zephyrs"));
        await marit.PostAsync("/api/events", Body(heads, "A zephyr"));
        // Narrowed in an open calendar, hidden in its text alone.
        await marit.PostAsync("/api/events/many", new { events = Enumerable.Range(0, 120).Select(n => Body(open, "Zephyr", new { isDraft = true })) });
        Assert.Equal(["A zephyr", "Zephyr talk about zephyrs"], (await samir.GetJsonAsync("/api/search?q=zephyr")).AsArray().Select(h => h!.Text("title")).Order());
        Assert.Equal(20, (await marit.GetJsonAsync("/api/search?q=zephyr")).AsArray().Count);
    }

    [Fact]
    public async Task Whether_an_address_is_somebody_s_at_another_school_is_told_to_its_mail_alone()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var schools = (Store.Schools)own.Services.GetService(typeof(Store.Schools))!;
        var other = new Store.School(Guid.CreateVersion7(), "Another school", "Another", DemoSchool.Zone, "en");
        await schools.AddAsync(other, own.Clock.Now);
        await ((Store.People)own.Services.GetService(typeof(Store.People))!).AddAsync(new Store.Person(Guid.CreateVersion7(), other.Id, "Somebody", "somebody@another.example", "x"), own.Clock.Now);
        var marit = await own.SignedInAsync();
        async Task<string> AskAsync(string email)
        {
            var answer = await marit.PostAsJsonAsync("/api/me/email", new { email, password = DemoSchool.Password });
            return $"{(int)answer.StatusCode} {await answer.Content.ReadAsStringAsync()}";
        }
        Assert.Equal(await AskAsync("nobody@another.example"), await AskAsync("somebody@another.example"));
        await using var connection = new Npgsql.NpgsqlConnection(own.Database);
        var mail = (await Dapper.SqlMapper.QueryAsync<string>(connection, "select body from mail where recipient = 'somebody@another.example'")).Single();
        Assert.DoesNotContain("#", mail, StringComparison.Ordinal);
        Assert.Contains("belongs to an account already", mail, StringComparison.Ordinal);
    }
}
