using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

public sealed class EventTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static async Task<string[]> TitlesAsync(HttpClient client, JsonNode calendar, string from, string to)
    {
        var board = await client.GetJsonAsync($"/api/board?from={from}&to={to}");
        return [.. board["occurrences"]!.AsArray()
            .Where(o => o!.Text("calendarId") == calendar.Text("id"))
            .Select(o => $"{o!.Text("firstDay")} {o!.Text("title")}")];
    }

    [Fact]
    public async Task A_one_time_and_a_weekly_event_stand_on_the_board()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Rope club");
        await client.PostAsync("/api/events", EventBody(calendar, "Splice night", Timed("2040-11-23T18:00:00", "2040-11-23T20:00:00")));
        await client.PostAsync("/api/events", EventBody(calendar, "Knots", Timed("2040-11-20T09:00:00", "2040-11-20T10:00:00"), Weekly("tuesday", "friday")));
        await client.PostAsync("/api/events", EventBody(calendar, "Camp", AllDay("2040-11-30", "2040-12-02")));
        Assert.Equal(
            ["2040-11-20 Knots", "2040-11-23 Knots", "2040-11-23 Splice night", "2040-11-27 Knots", "2040-11-30 Camp", "2040-11-30 Knots"],
            await TitlesAsync(client, calendar, "2040-11-19", "2040-12-01"));
    }

    [Fact]
    public async Task What_was_stored_comes_back_as_it_was_said()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Echo");
        var sent = await client.PostAsync("/api/events", EventBody(calendar, "Régate ⛵", AllDay("2041-05-01", "2041-05-03"), Weekly("wednesday")));
        var read = await client.GetJsonAsync($"/api/events/{sent.Text("id")}");
        Assert.Equal(sent.ToJsonString(), read.ToJsonString());
        Assert.Equal("2041-05-03T00:00:00", read["timing"]!.Text("end"));
        Assert.Equal(["wednesday"], read["rule"]!["days"]!.AsArray().Select(d => d!.GetValue<string>()));
    }

    [Fact]
    public async Task Two_people_who_change_the_same_event_lose_nothing()
    {
        var marit = await server.SignedInAsync();
        var owen = await server.SignedInAsync("owen.tarbell@lanternfell.example");
        var calendar = await marit.NewCalendarAsync("Both");
        var e = await marit.PostAsync("/api/events", EventBody(calendar, "Race", AllDay("2041-06-01", "2041-06-01")));
        var path = $"/api/events/{e.Text("id")}";
        await marit.PutAsync(path, EventBody(calendar, "Long race", AllDay("2041-06-01", "2041-06-01"), version: 1));
        var problem = await owen.PutAsJsonAsync(path, EventBody(calendar, "Short race", AllDay("2041-06-01", "2041-06-01"), version: 1)).ProblemAsync(409, "stale_version");
        Assert.Equal(("Long race", 2), (problem["current"]!.Text("title"), problem["current"]!.Number("version")));
        await owen.DeleteAsync(path + "?version=1").ProblemAsync(409, "stale_version");
        Assert.Equal("Long race", (await owen.GetJsonAsync(path)).Text("title"));
    }

    [Fact]
    public async Task Writes_that_race_are_decided_by_the_database()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Racing");
        var e = await client.PostAsync("/api/events", EventBody(calendar, "Start", AllDay("2041-07-01", "2041-07-01")));
        var answers = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => client.PutAsJsonAsync(
            $"/api/events/{e.Text("id")}", EventBody(calendar, "Boat " + i, AllDay("2041-07-01", "2041-07-01"), version: 1))));
        var winner = Assert.Single(answers, a => a.StatusCode == HttpStatusCode.OK);
        Assert.All(answers.Except([winner]), a => Assert.Equal(HttpStatusCode.Conflict, a.StatusCode));
        var kept = await client.GetJsonAsync($"/api/events/{e.Text("id")}");
        Assert.Equal((await winner.JsonAsync())["event"]!.Text("title"), kept.Text("title"));
        Assert.Equal(2, kept.Number("version"));
    }

    [Fact]
    public async Task A_deleted_event_comes_back_whole()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Bin");
        var e = await client.PostAsync("/api/events", EventBody(calendar, "Launch", AllDay("2041-08-01", "2041-08-01")));
        await client.DeleteAsync($"/api/events/{e.Text("id")}?version=1");
        Assert.Empty(await TitlesAsync(client, calendar, "2041-08-01", "2041-08-02"));
        var back = await (await client.PostAsync($"/api/events/{e.Text("id")}/restore", null)).JsonAsync();
        Assert.False(back["inBin"]!.GetValue<bool>());
        Assert.Equal(["2041-08-01 Launch"], await TitlesAsync(client, calendar, "2041-08-01", "2041-08-02"));
    }

    [Fact]
    public async Task A_date_of_a_series_is_left_out_and_put_back()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Skips");
        var e = await client.PostAsync("/api/events", EventBody(calendar, "Knots", Timed("2041-09-03T09:00:00", "2041-09-03T10:00:00"), Weekly("tuesday")));
        var path = $"/api/events/{e.Text("id")}";
        var skipped = await client.PostAsync(path + "/leave-out", new { date = "2041-09-10T09:00:00", version = 1 });
        Assert.Equal(["2041-09-03 Knots", "2041-09-17 Knots"], await TitlesAsync(client, calendar, "2041-09-02", "2041-09-20"));
        await client.PostAsJsonAsync(path + "/leave-out", new { date = "2041-09-11T09:00:00", version = 2 }).ProblemAsync(422, "no_such_date");
        await client.PostAsync(path + "/put-back", new { date = "2041-09-10T09:00:00", version = skipped.Number("version") });
        Assert.Equal(3, (await TitlesAsync(client, calendar, "2041-09-02", "2041-09-20")).Length);
    }

    private static async Task<(HttpClient Client, JsonNode Calendar, JsonNode Event, string Path)> LessonsAsync(Server server, string year)
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Lessons " + year);
        var first = new LocalDate(int.Parse(year), 9, 1).With(DateAdjusters.NextOrSame(IsoDayOfWeek.Tuesday));
        var e = await client.PostAsync("/api/events", EventBody(
            calendar,
            "Ropes",
            Timed($"{first:uuuu-MM-dd}T09:30:00", $"{first:uuuu-MM-dd}T11:00:00"),
            new { frequency = "weekly", interval = 1, days = new[] { "tuesday", "thursday" }, count = 8, until = (string?)null }));
        return (client, calendar, e, $"/api/events/{e.Text("id")}");
    }

    private static JsonObject Edit(JsonNode e, string scope, string date, object? change = null)
    {
        var body = new JsonObject { ["scope"] = scope, ["date"] = date };
        foreach (var name in new[] { "calendarId", "title", "place", "description", "timing", "rule", "version" })
            body[name] = e[name]?.DeepClone();
        foreach (var (name, value) in System.Text.Json.JsonSerializer.SerializeToNode(change ?? new { })!.AsObject())
            body[name] = value?.DeepClone();
        return body;
    }

    [Fact]
    public async Task One_date_is_changed_called_off_and_made_as_the_others_again()
    {
        var (client, calendar, e, path) = await LessonsAsync(server, "2043");
        var moved = await client.PutAsync(path, Edit(e, "thisDate", "2043-09-03T09:30:00", new
        {
            title = "Ropes outside",
            timing = Timed("2043-09-04T14:00:00", "2043-09-04T15:00:00"),
        }));
        Assert.Equal(["2043-09-01 Ropes", "2043-09-04 Ropes outside", "2043-09-08 Ropes"], await TitlesAsync(client, calendar, "2043-08-31", "2043-09-10"));
        var off = await client.PostAsync(path + "/call-off", new { date = "2043-09-08T09:30:00", version = moved["event"]!.Number("version") });
        var board = await client.GetJsonAsync("/api/board?from=2043-09-08&to=2043-09-09");
        var shown = board["occurrences"]!.AsArray().Single(o => o!.Text("eventId") == e.Text("id"))!;
        Assert.True(shown["isCalledOff"]!.GetValue<bool>() && shown["isChanged"]!.GetValue<bool>());
        var back = await client.PostAsync(path + "/as-others", new { date = "2043-09-03T09:30:00", version = off.Number("version") });
        Assert.Equal("2043-09-08T09:30:00", Assert.Single(back["changes"]!.AsArray())!.Text("date"));
        var added = await client.PostAsync(path + "/add-date", new { date = "2043-09-05T09:30:00", version = back.Number("version") });
        Assert.Contains("2043-09-05 Ropes", await TitlesAsync(client, calendar, "2043-08-31", "2043-09-10"));
        await client.PostAsync(path + "/remove-date", new { date = "2043-09-05T09:30:00", version = added.Number("version") });
        Assert.DoesNotContain("2043-09-05 Ropes", await TitlesAsync(client, calendar, "2043-08-31", "2043-09-10"));
    }

    [Fact]
    public async Task A_series_is_split_by_an_edit_and_undo_restores_the_exact_state()
    {
        var (client, calendar, e, path) = await LessonsAsync(server, "2044");
        var skipped = await client.PostAsync(path + "/leave-out", new { date = "2044-09-20T09:30:00", version = 1 });
        var changed = (await client.PutAsync(path, Edit(skipped, "thisDate", "2044-09-08T09:30:00", new { place = "Quay", timing = Timed("2044-09-08T09:30:00", "2044-09-08T11:00:00") })))["event"]!;
        var before = await TitlesAsync(client, calendar, "2044-09-01", "2044-10-10");

        var body = Edit(changed, "fromThisDate", "2044-09-15T09:30:00", new { title = "Knots", timing = Timed("2044-09-15T13:00:00", "2044-09-15T14:00:00") });
        var plan = await client.PostAsync(path + "/plan", body);
        Assert.True(plan["splits"]!.GetValue<bool>());
        Assert.Equal(before, await TitlesAsync(client, calendar, "2044-09-01", "2044-10-10"));
        var done = await client.PutAsync(path, body);
        var second = Assert.Single(done["added"]!.AsArray())!;
        Assert.Equal(
            ["2044-09-06 Ropes", "2044-09-08 Ropes", "2044-09-13 Ropes", "2044-09-15 Knots", "2044-09-22 Knots", "2044-09-27 Knots", "2044-09-29 Knots"],
            await TitlesAsync(client, calendar, "2044-09-01", "2044-10-10"));

        var undone = await client.PostAsync(path + "/undo", new { state = changed, version = done["event"]!.Number("version"), added = new[] { second.Text("id") } });
        Assert.Equal(before, await TitlesAsync(client, calendar, "2044-09-01", "2044-10-10"));
        foreach (var name in new[] { "title", "place", "description", "timing", "rule", "skips", "extras", "changes" })
            Assert.Equal(changed[name]!.ToJsonString(), undone[name]!.ToJsonString());
    }

    [Fact]
    public async Task A_change_that_fits_no_more_has_to_be_decided_before_anything_is_saved()
    {
        var (client, calendar, e, path) = await LessonsAsync(server, "2048");
        var changed = (await client.PutAsync(path, Edit(e, "thisDate", "2048-09-03T09:30:00", new { title = "Exam", timing = Timed("2048-09-03T09:30:00", "2048-09-03T11:00:00") })))["event"]!;
        var tuesdays = new { rule = new { frequency = "weekly", interval = 1, days = new[] { "tuesday" }, count = 4, until = (string?)null } };
        var plan = await client.PostAsync(path + "/plan", Edit(changed, "everyDate", "2048-09-01T09:30:00", tuesdays));
        Assert.Equal("Exam", Assert.Single(plan["misfits"]!.AsArray())!["change"]!.Text("title"));
        await client.PutAsJsonAsync(path, Edit(changed, "everyDate", "2048-09-01T09:30:00", tuesdays)).ProblemAsync(422, "changes_undecided");

        var body = Edit(changed, "everyDate", "2048-09-01T09:30:00", tuesdays);
        body["choices"] = new JsonArray(new JsonObject { ["date"] = "2048-09-03T09:30:00", ["choice"] = "keepAsEvent" });
        await client.PutAsync(path, body);
        Assert.Equal(
            ["2048-09-01 Ropes", "2048-09-03 Exam", "2048-09-08 Ropes", "2048-09-15 Ropes", "2048-09-22 Ropes"],
            await TitlesAsync(client, calendar, "2048-08-31", "2048-10-10"));
    }

    [Fact]
    public async Task A_monthly_rule_is_kept_part_by_part()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Monthly");
        var e = await client.PostAsync("/api/events", EventBody(calendar, "Council", AllDay("2049-01-01", "2049-01-01"), new
        {
            frequency = "monthly",
            interval = 1,
            days = Array.Empty<string>(),
            numberedDays = new[] { new { number = -1, day = "friday" } },
            count = 3,
            until = (string?)null,
        }));
        Assert.Equal(["2049-01-29 Council", "2049-02-26 Council", "2049-03-26 Council"], await TitlesAsync(client, calendar, "2049-01-25", "2049-04-01"));
        Assert.Equal(-1, e["rule"]!["numberedDays"]![0]!.Number("number"));
    }

    [Fact]
    public async Task The_sheet_is_told_the_dates_while_they_are_being_chosen()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Dates");
        var dates = await client.PostAsync("/api/events/dates", new
        {
            calendarId = calendar.Text("id"),
            timing = Timed("2041-09-04T09:00:00", "2041-09-04T10:00:00"),
            rule = new { frequency = "weekly", interval = 2, days = new[] { "thursday" }, count = 3, until = (string?)null },
            skips = new[] { "2041-09-19T09:00:00" },
        });
        Assert.Equal(("2041-09-05T09:00:00", true, 2, "2041-10-03"), (dates.Text("start"), dates["moved"]!.GetValue<bool>(), dates.Number("total"), dates.Text("last")));
        Assert.Equal([false, true, false], dates["dates"]!.AsArray().Select(d => d!["skipped"]!.GetValue<bool>()));
    }

    [Fact]
    public async Task A_typed_line_is_read_in_the_calendar_s_zone()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Lines");
        var read = await client.PostAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2026-11-24", text = "Choir 9:30-11 @Chapel every tue 8 times", language = "en" });
        Assert.Equal(("Choir", "Chapel", "America/Halifax"), (read.Text("title"), read.Text("place"), read["timing"]!.Text("zone")));
        Assert.Equal(8, read["dates"]!.Number("total"));
        Assert.Equal(["title", "time", "place", "repeat", "end"], read["parts"]!.AsArray().Select(p => p!.Text("kind")));
    }

    public static TheoryData<string, string, string> BadBodies => new()
    {
        { "title_missing", "title", """{"title":" "}""" },
        { "text_too_long", "title", $$"""{"title":"{{new string('x', 201)}}"}""" },
        { "text_too_long", "description", $$"""{"description":"{{new string('x', 10_001)}}"}""" },
        { "end_before_start", "end", """{"timing":{"kind":"zoned","start":"2041-01-02T10:00:00","end":"2041-01-02T09:00:00","zone":null}}""" },
        { "zone_unknown", "zone", """{"timing":{"kind":"zoned","start":"2041-01-02T10:00:00","end":"2041-01-02T11:00:00","zone":"Mars/Base"}}""" },
        { "date_out_of_range", "start", """{"timing":{"kind":"zoned","start":"1641-01-02T10:00:00","end":"1641-01-02T11:00:00","zone":null}}""" },
        { "rule_interval", "rule.interval", """{"rule":{"frequency":"weekly","interval":0,"days":[],"count":null,"until":null}}""" },
        { "rule_two_ends", "rule", """{"rule":{"frequency":"weekly","interval":1,"days":[],"count":2,"until":"2041-02-01"}}""" },
        { "rule_never_happens", "rule", """{"rule":{"frequency":"daily","interval":7,"days":["sunday"],"count":null,"until":null}}""" },
    };

    [Theory]
    [MemberData(nameof(BadBodies))]
    public async Task Bad_input_is_named_by_code_and_field_and_changes_nothing(string code, string field, string change)
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Strict");
        var good = System.Text.Json.JsonSerializer.SerializeToNode(EventBody(calendar, "Fine", Timed("2041-01-02T10:00:00", "2041-01-02T11:00:00")))!;
        var e = await client.PostAsync("/api/events", good);
        foreach (var (name, value) in JsonNode.Parse(change)!.AsObject())
            good[name] = value?.DeepClone();

        var problem = await client.PostAsJsonAsync("/api/events", good).ProblemAsync(422, code);
        Assert.Equal(field, problem.Text("field"));
        good["version"] = 1;
        await client.PutAsJsonAsync($"/api/events/{e.Text("id")}", good).ProblemAsync(422, code);
        Assert.Equal(e.ToJsonString(), (await client.GetJsonAsync($"/api/events/{e.Text("id")}")).ToJsonString());
    }

    [Theory]
    [InlineData("{", 400, "body_malformed")]
    [InlineData("[]", 400, "body_malformed")]
    [InlineData("""{"calendarId":"x"}""", 400, "body_malformed")]
    public async Task A_body_that_cannot_be_read_is_a_clear_answer(string body, int status, string code)
    {
        var client = await server.SignedInAsync();
        await client.PostAsync("/api/events", new StringContent(body, System.Text.Encoding.UTF8, "application/json")).ProblemAsync(status, code);
    }

    [Fact]
    public async Task A_character_that_no_text_has_is_left_out_of_what_is_typed_and_refused_elsewhere()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Text");
        var body = System.Text.Json.JsonSerializer.SerializeToNode(EventBody(calendar, "Rope \0walk", AllDay("2041-01-02", "2041-01-02")))!;
        body["place"] = "Loft \0 2";
        body["description"] = "Bring \0a knife";
        var e = await client.PostAsync("/api/events", body);
        Assert.All(new[] { "title", "place", "description" }, field => Assert.DoesNotContain('\0', e.Text(field)));
        await server.Visitor().PostAsJsonAsync("/api/session", new { email = "marit\0@lanternfell.example", password = "x" }).ProblemAsync(422, "not_storable");
    }

    [Theory]
    [InlineData("/api/board?from=2026-01-01&to=2027-06-01", 422, "window_too_long")]
    [InlineData("/api/board?from=2026-01-01&to=2026-01-01", 422, "window_empty")]
    [InlineData("/api/board?from=yesterday&to=2026-01-01", 400, "body_malformed")]
    [InlineData("/api/events/01980000-0000-7000-8000-000000000001", 404, "no_such_event")]
    [InlineData("/api/nothing", 404, "no_such_address")]
    public async Task A_bad_question_is_a_clear_answer(string path, int status, string code) =>
        await (await server.SignedInAsync()).GetAsync(path).ProblemAsync(status, code);

    [Fact]
    public async Task The_year_knows_its_terms_closures_and_weeks()
    {
        var year = await (await server.SignedInAsync()).GetJsonAsync("/api/year?date=2026-11-23");
        Assert.Equal(["Autumn term", "Winter term", "Spring term"], year["terms"]!.AsArray().Select(t => t!.Text("name")));
        Assert.True(year["weeks"]!.AsArray().Sum(w => w!.Number("occurrences")) > 500);
        var days = (await (await server.SignedInAsync()).GetJsonAsync("/api/board?from=2026-11-23&to=2026-12-07"))["days"]!.AsArray();
        Assert.Equal(14, days.Count);
        Assert.Contains(days, d => d!["cycleDay"]?.GetValue<int>() == 6);
    }

    [Fact]
    public async Task History_keeps_who_changed_what()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Kept");
        var e = await client.PostAsync("/api/events", EventBody(calendar, "First", AllDay("2041-10-01", "2041-10-01")));
        await client.PutAsync($"/api/events/{e.Text("id")}", EventBody(calendar, "Second", AllDay("2041-10-01", "2041-10-01"), version: 1));
        await using var connection = new Npgsql.NpgsqlConnection(server.Database);
        var rows = await Dapper.SqlMapper.QueryAsync<(string Action, string? Before, string After, string Person)>(
            connection,
            "select action, before->>'title', after->>'title', p.name from history h join person p on p.id = h.person_id where entity_id = @id order by h.at, h.id",
            new { id = Guid.Parse(e.Text("id")) });
        Assert.Equal([("create", null, "First", "Marit Quill"), ("change", "First", "Second", "Marit Quill")], rows);
    }
}
