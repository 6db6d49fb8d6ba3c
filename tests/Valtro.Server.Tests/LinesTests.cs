using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>A pasted list: read line by line, added as one.</summary>
public sealed class LinesTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static Task<HttpResponseMessage> AskAsync(HttpClient client, JsonNode calendar, params string[] lines) =>
        client.PostAsJsonAsync("/api/lines", new { calendarId = calendar.Text("id"), day = "2045-03-07", lines, language = "en" });

    [Fact]
    public async Task Each_line_is_read_by_itself_and_one_that_cannot_be_is_told_and_kept()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Pasted");
        var read = (await (await AskAsync(client, calendar, "Keel talk\t12 mar\t9-10\t@Loft 2", "Choir every tue until 2045-03-01", new string('x', 501), "")).JsonAsync()).AsArray();
        Assert.Equal(("Keel talk", "Loft 2", "2045-03-12T09:00:00"), (read[0]!["line"]!.Text("title"), read[0]!["line"]!.Text("place"), read[0]!["line"]!["timing"]!.Text("start")));
        // What was pasted comes back as it was, so that it can be mended.
        Assert.Equal("Keel talk\t12 mar\t9-10\t@Loft 2", read[0]!.Text("text"));
        Assert.All(new[] { read[1], read[2] }, r => Assert.True(r!["line"] is null && r.Text("problem").Length > 0));
        Assert.Equal("", read[3]!["line"]!.Text("title"));
        await AskAsync(client, calendar).ProblemAsync(422, "too_many_lines");
        await AskAsync(client, calendar, [.. Enumerable.Range(0, 1_001).Select(i => "Line " + i)]).ProblemAsync(422, "too_many_lines");
    }

    [Fact]
    public async Task What_may_mean_something_else_is_told_and_what_the_person_said_holds_for_the_next_line()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Doubted");
        async Task<JsonNode> LineAsync(string text, string day = "2045-03-07") => await client.PostAsync("/api/line", new { calendarId = calendar.Text("id"), day, text, language = "en" });
        static string Start(JsonNode line) => line["timing"]!.Text("start");
        var doubted = await LineAsync("Gym 6-7");
        var doubt = Assert.Single(doubted["doubts"]!.AsArray())!;
        Assert.Equal(("2045-03-07T18:00:00", "halfOfDay", "06:00-07:00", "18:00-19:00", "6-7"), (Start(doubted), doubt.Text("kind"), (string?)doubt["rivals"]![0], doubt.Text("asRead"), doubt.Text("key")));
        await client.PutAsJsonAsync("/api/me/settings", new { meanings = new Dictionary<string, string> { ["6-7"] = "06:00-07:00", ["chapters 3"] = "" } });
        var sure = await LineAsync("Gym 6-7");
        Assert.Equal("2045-03-07T06:00:00", Start(sure));
        Assert.Empty(sure["doubts"]!.AsArray());
        await (client.PutAsJsonAsync("/api/me/settings", new { meanings = new Dictionary<string, string> { [new string('x', 101)] = "" } })).ProblemAsync(422, "too_many_meanings");
        await client.PutAsJsonAsync("/api/me/settings", new { });
        Assert.Equal("2045-03-07T18:00:00", Start(await LineAsync("Gym 6-7")));
        // Several times in one line, and a day that its month does not have.
        var several = await LineAsync("Rope test Thu 9 Mar 4-8pm & Fri 10 Mar 9-12");
        Assert.Equal(("2045-03-09T16:00:00", "2045-03-10T09:00:00"), (Start(several), several["more"]![0]!.Text("start")));
        await client.PostAsJsonAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2045-03-07", text = "Party 31 Apr", language = "en" }).ProblemAsync(422, "no_such_day");
    }

    [Fact]
    public async Task Many_events_are_added_together_or_not_at_all_and_taken_back_as_one()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Added together");
        object Body(string title, string day) => new { calendarId = calendar.Text("id"), title, place = "", description = "", timing = AllDay(day, day), rule = (object?)null };
        async Task<int> CountAsync() => (await client.GetJsonAsync("/api/board?from=2045-03-06&to=2045-03-20"))["occurrences"]!.AsArray().Count(o => o!.Text("calendarId") == calendar.Text("id"));
        var problem = await client.PostAsJsonAsync("/api/events/many", new { events = new[] { Body("One", "2045-03-07"), Body("", "2045-03-08") } }).ProblemAsync(422, "title_missing");
        Assert.Equal("title", problem.Text("field"));
        Assert.Equal(0, await CountAsync());
        var made = (await client.PostAsync("/api/events/many", new { events = new[] { Body("One", "2045-03-07"), Body("Two", "2045-03-08") } })).AsArray();
        Assert.Equal(2, await CountAsync());
        await client.PostAsync("/api/events/undo", new
        {
            events = made.Select(e =>
            {
                var state = e!.DeepClone();
                state["inBin"] = true;
                return new { state, version = 1 };
            }),
        });
        Assert.Equal(0, await CountAsync());
        await client.PostAsJsonAsync("/api/events/many", new { events = Array.Empty<object>() }).ProblemAsync(422, "selection_size");
    }
}
