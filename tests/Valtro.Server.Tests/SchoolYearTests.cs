using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>School years, and what they do to the series that follow them. A school of its own a test where one is changed: years concern everything.</summary>
public sealed class SchoolYearTests(Cluster cluster, ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private static readonly object OnTuesdays = new { frequency = "weekly", interval = 1, days = new[] { "tuesday" }, count = (int?)null, until = (string?)null };

    private static object Span(string name, string first, string last, params string[] calendarIds) => new { name, first, last, calendarIds };

    private static JsonObject Body(object change, int? version = null)
    {
        var body = System.Text.Json.JsonSerializer.SerializeToNode(new
        {
            first = "2031-08-01",
            last = "2032-07-31",
            terms = new[] { Span("Autumn", "2031-09-02", "2031-12-19") },
            closures = new[] { Span("Harvest", "2031-09-16", "2031-09-16") },
            week = new[] { "monday", "tuesday", "wednesday", "thursday", "friday" },
            cycleLength = 6,
            cycleRestarts = false,
            pins = Array.Empty<object>(),
            weekLetters = new[] { "A", "B" },
            lettersRestart = false,
            version,
        })!.AsObject();
        foreach (var (name, value) in System.Text.Json.JsonSerializer.SerializeToNode(change)!.AsObject())
            body[name] = value?.DeepClone();
        return body;
    }

    private static object Series(JsonNode calendar, object follows, object? rule = null, int? version = null) => new
    {
        calendarId = calendar.Text("id"),
        title = "Watch",
        place = "",
        description = "",
        timing = Timed("2031-09-02T09:00:00", "2031-09-02T10:00:00"),
        rule = rule ?? OnTuesdays,
        follows,
        version,
    };

    private static async Task<string[]> DatesAsync(HttpClient client, string from, string to)
    {
        var board = await client.GetJsonAsync($"/api/board?from={from}&to={to}");
        return [.. board["occurrences"]!.AsArray().Where(o => o!.Text("title") == "Watch").Select(o => o!.Text("firstDay")[5..])];
    }

    private async Task<(Server Server, HttpClient Client, JsonNode Calendar, JsonNode Year)> SchoolAsync()
    {
        var server = new Server(await cluster.CreateDatabaseAsync());
        var client = await server.SignedInAsync();
        var year = (await client.PostAsync("/api/school-years", Body(new { })))["year"]!;
        return (server, client, await client.NewCalendarAsync("Watches"), year);
    }

    [Fact]
    public async Task A_closure_takes_a_date_from_the_series_that_leave_closures_out_on_board_and_in_the_feed_and_undo_gives_it_back()
    {
        var (server, client, calendar, year) = await SchoolAsync();
        await using var _ = server;
        await client.OpenAsync(calendar);
        await client.PublishAsync("watches", calendar);
        var follows = new { days = "inTerm", closures = "leaveOut" };
        await client.PostAsync("/api/events", Series(calendar, follows));
        Assert.Equal(["09-02", "09-09", "09-23", "09-30"], await DatesAsync(client, "2031-09-01", "2031-10-01"));
        async Task<string> FeedAsync() => await server.Visitor().GetStringAsync("/p/watches/feed.ics");
        var before = await FeedAsync();
        Assert.Contains("20310916T090000", before, StringComparison.Ordinal);
        Assert.DoesNotContain("20310923T090000", before, StringComparison.Ordinal);

        var path = $"/api/school-years/{year.Text("id")}";
        var storm = Body(new { closures = new[] { Span("Harvest", "2031-09-16", "2031-09-16"), Span("Storm", "2031-09-22", "2031-09-24") } }, version: 1);
        var plan = await client.PostAsync($"/api/school-years/plan?id={year.Text("id")}", storm);
        var affected = Assert.Single(plan["series"]!.AsArray())!;
        Assert.Equal(("Watch", "2031-09-23T09:00:00"), (affected.Text("title"), Assert.Single(affected["gone"]!.AsArray())!.GetValue<string>()));
        Assert.Empty(affected["come"]!.AsArray());
        // A plan saves nothing.
        Assert.Equal(before, await FeedAsync());

        var saved = await client.PutAsync(path, storm);
        Assert.Equal((1, 2), (saved.Number("series"), saved["year"]!.Number("version")));
        Assert.Equal(["09-02", "09-09", "09-30"], await DatesAsync(client, "2031-09-01", "2031-10-01"));
        Assert.Contains("20310923T090000", await FeedAsync(), StringComparison.Ordinal);

        await client.PutAsync(path, Body(new { }, version: 2));
        Assert.Equal(["09-02", "09-09", "09-23", "09-30"], await DatesAsync(client, "2031-09-01", "2031-10-01"));
    }

    [Fact]
    public async Task The_board_tells_what_each_day_is()
    {
        var (server, client, calendar, year) = await SchoolAsync();
        await using var _ = server;
        await client.PutAsync(
            $"/api/school-years/{year.Text("id")}",
            Body(new { closures = new[] { Span("Harvest", "2031-09-16", "2031-09-16"), Span("Overhaul", "2031-09-17", "2031-09-17", calendar.Text("id")) }, pins = new[] { new { date = "2031-09-18", cycleDay = 1 } } }, version: 1));
        var board = await client.GetJsonAsync("/api/board?from=2031-09-15&to=2031-09-20");
        Assert.Equal(
            ["Autumn 3 A 4 ", "Autumn 3 A  Harvest", "Autumn 3 A 5 ", "Autumn 3 A 1 ", "Autumn 3 A 2 "],
            board["days"]!.AsArray().Select(d => $"{d!["term"]} {d["teachingWeek"]} {d["weekLetter"]} {d["cycleDay"]} {d["closure"]}"));
        var part = Assert.Single(board["days"]![2]!["partClosures"]!.AsArray())!;
        Assert.Equal(("Overhaul", calendar.Text("id")), (part.Text("name"), part["calendarIds"]![0]!.GetValue<string>()));
        Assert.True(board["days"]![3]!["isPinned"]!.GetValue<bool>());
    }

    [Fact]
    public async Task What_was_set_for_school_days_comes_back_as_it_was_said_and_survives_an_undo()
    {
        var (server, client, calendar, _) = await SchoolAsync();
        await using var __ = server;
        var follows = new { days = "onSchoolDays", closures = "leaveOut", cycleDays = new[] { 3 }, weeks = new[] { 2 } };
        var made = await client.PostAsync("/api/events", Series(calendar, follows, new { frequency = "daily", interval = 1, days = Array.Empty<string>(), count = 3, until = (string?)null }));
        Assert.Equal(("onSchoolDays", 3, 2), (made["follows"]!.Text("days"), made["follows"]!["cycleDays"]![0]!.GetValue<int>(), made["follows"]!["weeks"]![0]!.GetValue<int>()));
        var path = $"/api/events/{made.Text("id")}";
        var dates = await DatesAsync(client, "2031-09-01", "2031-11-08");
        Assert.Equal(3, dates.Length);
        // Where its first date is left out it is told to begin later: that is where it is found.
        var late = await client.PostAsync("/api/events", new { calendarId = (await client.NewCalendarAsync("Later")).Text("id"), title = "Later", place = "", description = "", timing = Timed("2031-09-16T09:00:00", "2031-09-16T10:00:00"), rule = OnTuesdays, follows = new { days = "inTerm", closures = "leaveOut" } });
        Assert.Equal(("2031-09-16T09:00:00", "2031-09-23T09:00:00"), (late["timing"]!.Text("start"), late.Text("first")));
        var once = await client.PutAsync(path, new { calendarId = calendar.Text("id"), title = "Watch", place = "", description = "", timing = made["timing"], rule = (object?)null, version = 1 });
        Assert.Null(once["event"]!["follows"]);
        Assert.Single(await DatesAsync(client, "2031-09-01", "2031-11-08"));
        await client.PostAsync(path + "/undo", new { state = made, version = 2 });
        Assert.Equal(dates, await DatesAsync(client, "2031-09-01", "2031-11-08"));
    }

    [Fact]
    public async Task A_year_is_given_up_and_its_series_go_by_their_rule_alone_or_have_no_dates()
    {
        var (server, client, calendar, year) = await SchoolAsync();
        await using var _ = server;
        await client.PostAsync("/api/events", Series(calendar, new { days = "anyDay", closures = "leaveOut" }));
        var needs = await client.PostAsync("/api/events", Series(calendar, new { days = "inTerm", closures = "keep" }));
        Assert.Equal(HttpStatusCode.NoContent, (await client.DeleteAsync($"/api/school-years/{year.Text("id")}?version=1")).StatusCode);
        Assert.Equal(["09-02", "09-09", "09-16", "09-23", "09-30"], await DatesAsync(client, "2031-09-01", "2031-10-01"));
        // It is kept, and has its dates again when there is a year.
        Assert.False((await client.GetJsonAsync($"/api/events/{needs.Text("id")}"))["inBin"]!.GetValue<bool>());
        await client.PostAsync("/api/school-years", Body(new { }));
        Assert.Equal(9, (await DatesAsync(client, "2031-09-01", "2031-10-01")).Length);
    }

    [Fact]
    public async Task Two_who_change_a_year_lose_nothing_and_saving_series_meanwhile_goes_by_the_new_year()
    {
        var (server, client, calendar, year) = await SchoolAsync();
        await using var _ = server;
        var path = $"/api/school-years/{year.Text("id")}";
        await client.PutAsync(path, Body(new { cycleLength = 5 }, version: 1));
        var problem = await client.PutAsJsonAsync(path, Body(new { cycleLength = 4 }, version: 1)).ProblemAsync(409, "stale_version");
        Assert.Equal(5, problem["current"]!.Number("cycleLength"));
        await client.DeleteAsync(path + "?version=1").ProblemAsync(409, "stale_version");

        // Years and series change at the same moment: whatever comes first, all dates end up by the last year.
        var closures = Enumerable.Range(0, 6).Select(i => Span("Storm", $"2031-10-{7 + i:00}", $"2031-10-{7 + i:00}")).ToArray();
        await Task.WhenAll(
            client.PutAsJsonAsync(path, Body(new { closures }, version: 2)),
            Task.WhenAll(Enumerable.Range(0, 6).Select(_ => client.PostAsync("/api/events", Series(calendar, new { days = "anyDay", closures = "leaveOut" })))));
        Assert.DoesNotContain("10-07", await DatesAsync(client, "2031-10-01", "2031-11-01"));
        Assert.Equal(6, (await DatesAsync(client, "2031-10-14", "2031-10-15")).Length);
    }

    [Theory]
    [InlineData("school_year_dates", "last", """{"last":"2031-07-01"}""")]
    [InlineData("term_dates", "terms.0.last", """{"terms":[{"name":"A","first":"2031-09-02","last":"2033-01-01"}]}""")]
    [InlineData("terms_overlap", "terms.1.first", """{"terms":[{"name":"A","first":"2031-09-02","last":"2031-10-01"},{"name":"B","first":"2031-10-01","last":"2031-11-01"}]}""")]
    [InlineData("closure_dates", "closures.0.last", """{"closures":[{"name":"S","first":"2031-09-02","last":"2031-09-01","calendarIds":[]}]}""")]
    [InlineData("title_missing", "closures.0.name", """{"closures":[{"name":" ","first":"2031-09-02","last":"2031-09-02","calendarIds":[]}]}""")]
    [InlineData("school_week", "week", """{"week":[]}""")]
    [InlineData("cycle_length", "cycleLength", """{"cycleLength":11}""")]
    [InlineData("cycle_pin", "pins.0", """{"pins":[{"date":"2031-09-02","cycleDay":7}]}""")]
    [InlineData("week_letters", "weekLetters", """{"weekLetters":["A"]}""")]
    [InlineData("school_years_overlap", "first", """{"first":"2027-07-31","last":"2028-07-30","terms":[],"closures":[]}""")]
    public async Task What_cannot_be_a_year_is_named_at_its_part_and_nothing_is_kept(string code, string field, string change)
    {
        var client = await fixture.Server.SignedInAsync();
        var body = Body(JsonNode.Parse(change)!);
        var years = (await client.GetJsonAsync("/api/school-years")).ToJsonString();
        var problem = await client.PostAsJsonAsync("/api/school-years", body).ProblemAsync(422, code);
        Assert.Equal(field, problem.Text("field"));
        Assert.Equal(years, (await client.GetJsonAsync("/api/school-years")).ToJsonString());
        await client.PostAsJsonAsync("/api/school-years/plan", body).ProblemAsync(422, code);
    }

    [Fact]
    public async Task A_series_without_a_school_day_is_refused_and_a_pattern_is_checked()
    {
        var (server, client, calendar, _) = await SchoolAsync();
        await using var __ = server;
        await client.PostAsJsonAsync("/api/events", Series(calendar, new { days = "onSchoolDays", closures = "leaveOut", cycleDays = new[] { 9 } })).ProblemAsync(422, "no_school_days");
        await client.PostAsJsonAsync("/api/events", Series(calendar, new { days = "anyDay", closures = "keep", cycleDays = new[] { 99 } })).ProblemAsync(422, "cycle_day_unknown");
        await client.PostAsJsonAsync("/api/events", Series(calendar, new { days = "sometimes", closures = "keep" })).ProblemAsync(400, "body_malformed");
        Assert.Empty(await DatesAsync(client, "2031-09-01", "2031-11-01"));
    }
}
