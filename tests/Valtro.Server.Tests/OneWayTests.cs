using Dapper;
using Npgsql;
using Valtro.Store;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>The way in: each change is one step with all that goes along, taken back and done again, and done once.</summary>
public sealed class OneWayTests(Cluster cluster, ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private static object Body(JsonNode calendar, string title, int? version = null, object? rule = null) =>
        EventBody(calendar, title, Timed("2044-03-01T09:00:00", "2044-03-01T10:00:00"), rule, version);

    private static async Task<JsonNode> SendAsync(HttpClient client, HttpMethod method, string path, object? body = null)
    {
        using var request = new HttpRequestMessage(method, path) { Content = body is null ? null : JsonContent.Create(body) };
        var answer = await client.SendAsync(request);
        Assert.True(answer.IsSuccessStatusCode, $"{method} {path}: {(int)answer.StatusCode} {await answer.Content.ReadAsStringAsync()}");
        return answer.StatusCode == HttpStatusCode.NoContent ? new JsonObject() : (await answer.JsonAsync());
    }

    /// <summary>All that is kept of what can be undone, without what counts and dates it.</summary>
    private static async Task<string> StateAsync(HttpClient client, params string[] events)
    {
        static JsonNode? Said(JsonNode? node)
        {
            if (node is JsonArray list)
                return new JsonArray([.. list.Select(Said)]);
            if (node is not JsonObject o)
                return node?.DeepClone();
            return new JsonObject(o.Where(p => p.Key is not ("version" or "changedAt" or "deletedAt" or "until" or "revision")).Select(p => KeyValuePair.Create(p.Key, Said(p.Value))));
        }
        var parts = new List<string>();
        foreach (var path in new[] { "/api/board?from=2044-02-28&to=2044-04-01", "/api/lists", "/api/school-years", "/api/publications", "/api/proposals", "/api/bin" })
            parts.Add(Said(await client.GetJsonAsync(path))!.ToJsonString());
        foreach (var e in events)
        {
            var answer = await client.GetAsync("/api/events/" + e);
            parts.Add(answer.IsSuccessStatusCode ? Said(await answer.JsonAsync())!.ToJsonString() : answer.StatusCode.ToString());
        }
        return string.Join('\n', parts);
    }

    [Fact]
    public async Task Every_command_is_undone_and_redone_after_a_reload()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var bea = await own.SignedInAsync("bea.lindqvist@lanternfell.example");
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Steps"));
        var other = await marit.NewCalendarAsync("Others");
        var e = await marit.PostAsync("/api/events", Body(calendar, "Series", rule: new { frequency = "weekly", interval = 1, days = Array.Empty<string>(), count = 6, until = (string?)null }));
        var id = e.Text("id");
        var path = "/api/events/" + id;
        var diary = (await marit.GetJsonAsync("/api/board?from=2044-02-28&to=2044-03-01"))["calendars"]!.AsArray().Single(c => c!.Text("title") == "School diary")!;
        var proposal = (await bea.PostAsync("/api/proposals", new Dictionary<string, object?> { ["event"] = Body(diary, "Offered"), ["remark"] = "" }))["proposal"]!;
        var publication = await marit.PublishAsync("one-way-steps", calendar);

        async Task<int> VersionAsync() => (await marit.GetJsonAsync(path)).Number("version");
        async Task<JsonNode> CalendarAsync() => (await marit.GetJsonAsync("/api/board?from=2044-02-28&to=2044-03-01"))["calendars"]!.AsArray().Single(c => c!.Text("id") == calendar.Text("id"))!;
        async Task<JsonNode> PublicationAsync() => (await marit.GetJsonAsync("/api/publications")).AsArray().Single(p => p!.Text("id") == publication.Text("id"))!;
        object Date(string date, int version) => new { date, version };
        var lists = (await marit.GetJsonAsync("/api/lists")).AsObject();
        lists["noticeDays"] = 9;
        object Year(int? version) => new
        {
            first = "2043-08-01",
            last = "2044-07-31",
            terms = new[] { new { name = "Spring", first = "2044-01-05", last = "2044-06-20" } },
            closures = Array.Empty<object>(),
            week = new[] { "monday", "tuesday" },
            cycleLength = 0,
            cycleRestarts = false,
            pins = Array.Empty<object>(),
            weekLetters = Array.Empty<string>(),
            lettersRestart = false,
            version,
        };
        object Edit(int version, string scope, string date, string title) => new
        {
            calendarId = calendar.Text("id"),
            title,
            place = "Slip 1",
            description = "Bring a rope",
            timing = Timed($"{date}T09:00:00", $"{date}T10:00:00"),
            rule = e["rule"],
            version,
            scope,
            date = date + "T09:00:00",
        };
        async Task<object> DraftAsync(string title) => new { title, introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "list", language = "en", version = (await PublicationAsync()).Number("version"), isOut = false };

        var commands = new (string Name, Func<Task> Do)[]
        {
            ("create", async () => await marit.PostAsync("/api/events", Body(calendar, "Another"))),
            ("create many", async () => await marit.PostAsync("/api/events/many", new { events = new[] { Body(calendar, "One"), Body(calendar, "Two") } })),
            ("edit every date", async () => await marit.PutAsync(path, Edit(await VersionAsync(), "everyDate", "2044-03-01", "Renamed"))),
            ("edit this date", async () => await marit.PutAsync(path, Edit(await VersionAsync(), "thisDate", "2044-03-08", "One date"))),
            ("edit from this date", async () => await marit.PutAsync(path, Edit(await VersionAsync(), "fromThisDate", "2044-03-15", "The rest"))),
            ("call off", async () => await marit.PostAsync(path + "/call-off", Date("2044-03-08T09:00:00", await VersionAsync()))),
            ("leave out", async () => await marit.PostAsync(path + "/leave-out", Date("2044-03-08T09:00:00", await VersionAsync()))),
            ("add date", async () => await marit.PostAsync(path + "/add-date", Date("2044-03-03T09:00:00", await VersionAsync()))),
            ("bulk", async () => await marit.PostAsync("/api/events/bulk", new { dates = new[] { new { eventId = id, date = "2044-03-08T09:00:00" } }, place = "Old quay", addTags = new[] { "oak" } })),
            ("move", async () => await marit.PostAsync("/api/events/bulk", new { dates = new[] { new { eventId = id, date = "2044-03-01T09:00:00" } }, calendarId = other.Text("id") })),
            ("bin", async () => await SendAsync(marit, HttpMethod.Delete, $"{path}?version={await VersionAsync()}")),
            ("rename calendar", async () => await marit.PutAsync($"/api/calendars/{calendar.Text("id")}", CalendarBody("Renamed", (await CalendarAsync()).Number("version")))),
            ("close calendar", async () => await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "headlines", linkHolders = "nothing", everyone = "nothing", version = (await CalendarAsync()).Number("version") })),
            ("bin calendar", async () => await SendAsync(marit, HttpMethod.Delete, $"/api/calendars/{calendar.Text("id")}?version={(await CalendarAsync()).Number("version")}")),
            ("add calendar", async () => await marit.NewCalendarAsync("Third")),
            ("lists", async () => await marit.PutAsync("/api/lists", lists.DeepClone())),
            ("add year", async () => await marit.PostAsync("/api/school-years", Year(null))),
            ("draft", async () => await marit.PutAsync($"/api/publications/{publication.Text("id")}", await DraftAsync("Being changed"))),
            ("take down", async () => await marit.PostAsync($"/api/publications/{publication.Text("id")}/take-down", new { })),
            ("add publication", async () => await marit.PostAsync("/api/publications", new { key = "", title = "Not out", introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "list", language = "en", isOut = false })),
            ("approve", async () => await marit.PostAsync($"/api/proposals/{proposal.Text("id")}/answer", new { calendarIds = new[] { diary.Text("id") }, answer = "approved", remark = "", version = 1 })),
            ("decline", async () => await marit.PostAsync($"/api/proposals/{proposal.Text("id")}/answer", new { calendarIds = new[] { diary.Text("id") }, answer = "declined", remark = "No", version = 1 })),
        };
        foreach (var (name, act) in commands)
        {
            own.Clock.Now += Duration.FromMinutes(1);
            var before = await StateAsync(marit, id);
            await act();
            var after = await StateAsync(marit, id);
            Assert.True(before != after, name);
            // Servers' clocks differ: the order is the database's.
            own.Clock.Now -= Duration.FromSeconds(90);
            await marit.PostAsync("/api/me/undo", new { });
            Assert.True(before == await StateAsync(marit, id) || name is "add publication" or "create" or "create many" or "edit from this date" or "approve" or "add calendar", $"{name}: undone to something else");
            await marit.PostAsync("/api/me/redo", new { });
            Assert.True(after == await StateAsync(marit, id), $"{name}: done again to something else");
            await marit.PostAsync("/api/me/undo", new { });
            own.Clock.Now += Duration.FromSeconds(90);
        }
        await marit.PostAsync("/api/events", Body(other, "Last"));
        // What is done after an undo takes the place of what was undone.
        await marit.PostAsJsonAsync("/api/me/redo", new { }).ProblemAsync(404, "nothing_to_redo");
    }

    [Fact]
    public async Task A_step_is_named_in_the_answer_and_taken_back_by_its_name_over_later_ones()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var (marit, owen) = (await own.SignedInAsync(), await own.SignedInAsync("owen.tarbell@lanternfell.example"));
        var calendar = await marit.NewCalendarAsync("Named steps");
        var first = await marit.PostAsJsonAsync("/api/events", Body(calendar, "First"));
        var step = Assert.Single(first.Headers.GetValues("Valtro-Step"));
        var id = (await first.JsonAsync()).Text("id");
        await marit.PostAsync("/api/events", Body(calendar, "Second"));
        // It is nobody else's.
        await owen.PostAsJsonAsync("/api/me/undo", new { step }).ProblemAsync(404, "nothing_to_undo");
        Assert.Equal("First", (await marit.PostAsync("/api/me/undo", new { step }))["titles"]![0]!.GetValue<string>());
        Assert.True((await marit.GetJsonAsync("/api/events/" + id))["inBin"]!.GetValue<bool>());
        await marit.PostAsJsonAsync("/api/me/undo", new { step }).ProblemAsync(404, "nothing_to_undo");
        Assert.False((await marit.PostAsJsonAsync("/api/events/dates", new { calendarId = calendar.Text("id"), timing = AllDay("2044-03-03", "2044-03-03") })).Headers.Contains("Valtro-Step"));
    }

    [Fact]
    public async Task A_change_of_a_few_events_alone_says_which_and_they_are_what_is_asked_for_by_it()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var made = await marit.PostAsJsonAsync("/api/calendars", new { title = "Told apart", description = "", group = "Groups", zone = "America/Halifax", mark = 3 });
        Assert.False(made.Headers.Contains("Valtro-Changed"));
        var calendar = await made.JsonAsync();
        async Task<string[]> ChangedAsync(Task<HttpResponseMessage> request)
        {
            var answer = await request;
            answer.EnsureSuccessStatusCode();
            return answer.Headers.TryGetValues("Valtro-Changed", out var values) ? Assert.Single(values).Split(' ') : [];
        }
        async Task<string[]> TitlesAsync(string change) =>
            [.. (await marit.GetJsonAsync($"/api/board/changed?from=2044-03-01&to=2044-03-08&change={change}")).AsArray().Select(o => o!.Text("title"))];
        var first = await ChangedAsync(marit.PostAsJsonAsync("/api/events", Body(calendar, "First")));
        Assert.Equal(2, first.Length);
        Assert.Equal(["First"], await TitlesAsync(first[0]));
        await marit.PostAsync("/api/events", Body(calendar, "Second"));
        var gone = await ChangedAsync(marit.DeleteAsync($"/api/events/{first[1]}?version=1"));
        Assert.Equal(first[1], gone[1]);
        Assert.Empty(await TitlesAsync(gone[0]));
        var back = await ChangedAsync(marit.PostAsJsonAsync("/api/me/undo", new { }));
        Assert.Equal(first[1], back[1]);
        Assert.Equal(["First"], await TitlesAsync(back[0]));
        // As many as are told to others, and not one more.
        async Task<string[]> ManyAsync(int count) =>
            await ChangedAsync(marit.PostAsJsonAsync("/api/events/many", new { events = Enumerable.Range(0, count).Select(i => Body(calendar, $"Many {i}")) }));
        Assert.Equal(21, (await ManyAsync(20)).Distinct().Count());
        Assert.Empty(await ManyAsync(21));
    }

    [Fact]
    public async Task The_same_request_is_done_once_and_answered_alike()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Once");
        async Task<HttpResponseMessage> SendAsync(string key, object body, string path = "/api/events", HttpClient? by = null)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body) };
            request.Headers.Add("Idempotency-Key", key);
            return await (by ?? client).SendAsync(request);
        }
        async Task<int> CountAsync() => (await client.GetJsonAsync("/api/board?from=2044-02-28&to=2044-03-08"))["occurrences"]!.AsArray().Count(o => o!.Text("calendarId") == calendar.Text("id"));

        var first = await (await SendAsync("one", Body(calendar, "Keel"))).Content.ReadAsStringAsync();
        var again = await SendAsync("one", Body(calendar, "Keel"));
        Assert.Equal((HttpStatusCode.OK, first), (again.StatusCode, await again.Content.ReadAsStringAsync()));
        Assert.Equal(("application/json", "true"), (again.Content.Headers.ContentType!.MediaType, Assert.Single(again.Headers.GetValues("Idempotency-Replayed"))));
        Assert.Equal(1, await CountAsync());
        await SendAsync("one", Body(calendar, "Mast")).ProblemAsync(422, "idempotency_key_reused");
        await SendAsync("one", new { }, "/api/me/undo").ProblemAsync(422, "idempotency_key_reused");
        await SendAsync(new string('x', 201), Body(calendar, "Mast")).ProblemAsync(422, "idempotency_key");
        // What was refused was not done, and is tried again.
        await SendAsync("two", Body(calendar, "")).ProblemAsync(422, "title_missing");
        await SendAsync("two", Body(calendar, "")).ProblemAsync(422, "title_missing");
        // A key is one person's.
        var owen = await own.SignedInAsync("owen.tarbell@lanternfell.example");
        Assert.Equal(HttpStatusCode.OK, (await SendAsync("one", Body(calendar, "Owen’s"), by: owen)).StatusCode);
        Assert.Equal(2, await CountAsync());
        // Other writes too, and those that answer nothing.
        var made = await (await SendAsync("three", CalendarBody("Once more"), "/api/calendars")).JsonAsync();
        Assert.Equal(made.Text("id"), (await (await SendAsync("three", CalendarBody("Once more"), "/api/calendars")).JsonAsync()).Text("id"));

        // All at once.
        var all = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => SendAsync("at once", Body(calendar, "Spar"))));
        Assert.All(all, a => Assert.Equal(HttpStatusCode.OK, a.StatusCode));
        Assert.Single((await Task.WhenAll(all.Select(a => a.Content.ReadAsStringAsync()))).Distinct());
        Assert.Equal(3, await CountAsync());

        // A day later it is another request.
        own.Clock.Now += Duration.FromHours(25);
        Assert.NotEqual(first, await (await SendAsync("one", Body(calendar, "Keel"))).Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task What_is_changed_is_in_the_log_or_not_changed()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Logged or not");
        var e = await client.PostAsync("/api/events", Body(calendar, "Keel"));
        await using var db = new NpgsqlConnection(own.Database);
        async Task<(long Events, long History, long Steps, long Log)> CountAsync() => await db.QuerySingleAsync<(long, long, long, long)>(
            "select (select count(*) from event), (select count(*) from history), (select count(*) from step), (select count(*) from audit)");
        var before = await CountAsync();
        // The log cannot take it: then nothing of it is there.
        await db.ExecuteAsync("alter table audit add constraint full_ check (action not like 'post events%' and action not like 'put %') not valid");
        await client.PostAsJsonAsync("/api/events", Body(calendar, "Mast")).ProblemAsync(500, "failed");
        await client.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}", CalendarBody("Renamed", 1)).ProblemAsync(500, "failed");
        await client.PostAsJsonAsync($"/api/events/{e.Text("id")}/call-off", new { date = "2044-03-01T09:00:00", version = 1 }).ProblemAsync(500, "failed");
        await client.PutAsJsonAsync("/api/me/name", new { name = "Nobody" }).ProblemAsync(500, "failed");
        Assert.Equal(before, await CountAsync());
        await db.ExecuteAsync("alter table audit drop constraint full_");
        await client.PostAsync("/api/events", Body(calendar, "Mast"));
        Assert.Equal((before.Events + 1, before.History + 1, before.Steps + 1, before.Log + 1), await CountAsync());
    }

    [Fact]
    public async Task Of_many_who_change_one_state_one_does_and_the_others_are_told_what_there_is()
    {
        var client = await fixture.Server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Raced");
        var e = await client.PostAsync("/api/events", Body(calendar, "Keel"));
        var path = "/api/events/" + e.Text("id");
        var answers = await Task.WhenAll(Enumerable.Range(0, 10).Select(i => client.PutAsJsonAsync(path, Body(calendar, "Keel " + i, 1))));
        Assert.Single(answers, a => a.StatusCode == HttpStatusCode.OK);
        var stale = answers.First(a => a.StatusCode == HttpStatusCode.Conflict);
        var current = JsonNode.Parse(await stale.Content.ReadAsStringAsync())!["current"]!;
        Assert.Equal((await client.GetJsonAsync(path)).ToJsonString(), current.ToJsonString());
        // Who was told can go on from there.
        Assert.Equal("Once more", (await client.PutAsync(path, Body(calendar, "Once more", current.Number("version"))))["event"]!.Text("title"));
    }

    [Fact]
    public async Task A_year_s_change_reaches_the_readers_of_calendars_a_series_only_stands_in()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        object Year(int? version, params object[] closures) => new
        {
            first = "2031-08-01",
            last = "2032-07-31",
            terms = new[] { new { name = "Autumn", first = "2031-09-02", last = "2031-12-19" } },
            closures,
            week = new[] { "monday", "tuesday", "wednesday", "thursday", "friday" },
            cycleLength = 0,
            cycleRestarts = false,
            pins = Array.Empty<object>(),
            weekLetters = Array.Empty<string>(),
            lettersRestart = false,
            version,
        };
        var year = (await client.PostAsync("/api/school-years", Year(null)))["year"]!;
        var (home, also) = (await client.OpenAsync(await client.NewCalendarAsync("Home")), await client.OpenAsync(await client.NewCalendarAsync("Also")));
        await client.PostAsync("/api/events", new
        {
            calendarId = home.Text("id"),
            title = "Watch",
            place = "",
            description = "",
            timing = Timed("2031-09-02T09:00:00", "2031-09-02T10:00:00"),
            rule = new { frequency = "weekly", interval = 1, days = new[] { "tuesday" }, count = (int?)null, until = (string?)null },
            follows = new { days = "inTerm", closures = "leaveOut" },
            facts = new { alsoIn = new[] { also.Text("id") } },
        });
        await client.PublishAsync("also-watch", also);
        async Task<(string Feed, DateTimeOffset? At)> FeedAsync()
        {
            var answer = await own.Visitor().GetAsync("/p/also-watch/feed.ics");
            return (await answer.Content.ReadAsStringAsync(), answer.Content.Headers.LastModified);
        }
        var before = await FeedAsync();
        own.Clock.Now += Duration.FromMinutes(5);
        await client.PutAsync($"/api/school-years/{year.Text("id")}", Year(1, new { name = "Harvest", first = "2031-09-16", last = "2031-09-16", calendarIds = Array.Empty<string>() }));
        var after = await FeedAsync();
        Assert.NotEqual(before.Feed, after.Feed);
        Assert.True(after.At > before.At);
        await client.PostAsync("/api/me/undo", new { });
        Assert.Equal(before.Feed.Split("BEGIN:VEVENT")[1].Split('\n').Where(l => l.StartsWith("EXDATE", StringComparison.Ordinal)), (await FeedAsync()).Feed.Split("BEGIN:VEVENT")[1].Split('\n').Where(l => l.StartsWith("EXDATE", StringComparison.Ordinal)));
    }

    [Fact]
    public async Task A_database_of_a_newer_program_is_refused_with_nothing_done()
    {
        var database = await cluster.CreateEmptyDatabaseAsync();
        Database.Migrate(database, Server.AppOf(database));
        Database.Migrate(database, Server.AppOf(database));
        await using var db = new NpgsqlConnection(database);
        await db.ExecuteAsync("insert into schemaversions (scriptname, applied) values ('Valtro.Store.Migrations.9999_later.sql', now())");
        var error = Assert.Throws<NewerDatabaseException>(() => Database.Migrate(database, Server.AppOf(database)));
        Assert.Contains("9999_later", error.Message, StringComparison.Ordinal);
        Assert.Contains("newer version", error.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_was_stored_before_forms_had_numbers_is_read_as_it_was()
    {
        await using var own = new Server(await cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Old forms");
        var e = await client.PostAsync("/api/events", new
        {
            calendarId = calendar.Text("id"),
            title = "Old",
            place = "Slip 1",
            description = "Bring a rope",
            timing = Timed("2044-03-01T09:00:00", "2044-03-01T10:00:00"),
            rule = Weekly("tuesday"),
            facts = new { tags = new[] { "oak" }, isFree = true },
        });
        await client.PostAsync($"/api/events/{e.Text("id")}/call-off", new { date = "2044-03-08T09:00:00", version = 1 });
        var before = (await client.GetJsonAsync($"/api/events/{e.Text("id")}/history")).ToJsonString();
        await using var db = new NpgsqlConnection(own.Database);
        // Parts were texts within the text, and nothing said which form it was.
        foreach (var side in new[] { "before", "after" })
        {
            await db.ExecuteAsync($"""
                update history set {side} = ({side} - 'form' - 'seenAt' - 'seenNo') || jsonb_build_object('facts', ({side}->'facts')::text, 'changes', ({side}->'changes')::text)
                where entity = 'event' and {side} is not null
                """);
        }
        Assert.Equal(before, (await client.GetJsonAsync($"/api/events/{e.Text("id")}/history")).ToJsonString());
    }

    [Fact]
    public async Task What_is_sent_is_done_though_its_sender_is_gone()
    {
        var marit = await fixture.Server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("Left in a hurry");
        var e = await marit.PostAsync("/api/events", Body(calendar, "Before"));
        var gone = await fixture.Server.SignedInAsync();
        gone.DefaultRequestHeaders.Add(FromAddress.Gone, "1");

        await Record.ExceptionAsync(() => gone.PutAsJsonAsync("/api/events/" + e.Text("id"), Body(calendar, "After", e.Number("version"))));

        Assert.Equal("After", (await marit.GetJsonAsync("/api/events/" + e.Text("id"))).Text("title"));
    }
}
