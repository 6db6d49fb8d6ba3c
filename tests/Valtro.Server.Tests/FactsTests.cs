using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What events have beside, the school's lists, and how a person keeps the board.</summary>
public sealed class FactsTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static object Body(JsonNode calendar, object? facts, int? version = null, string day = "2043-03-03") => new
    {
        calendarId = calendar.Text("id"),
        title = "Knots",
        place = "Loft 2",
        description = "",
        timing = Timed($"{day}T09:00:00", $"{day}T10:00:00"),
        rule = (object?)null,
        facts,
        version,
    };

    [Fact]
    public async Task Facts_come_back_as_they_were_said_stand_on_the_board_and_survive_change_and_undo()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Facts");
        var other = await client.NewCalendarAsync("Facts elsewhere");
        var category = (await client.GetJsonAsync("/api/lists"))["categories"]![1]!.Text("id");
        var facts = new
        {
            subtitle = "All knots",
            categoryId = category,
            tags = new[] { "rope" },
            mark = 3,
            isFree = true,
            reminder = 60,
            isDraft = true,
            links = new[] { new { kind = "register", label = "Sign up", address = "https://a.example/r" } },
            alsoIn = new[] { other.Text("id") },
            size = 12,
        };
        var made = await client.PostAsync("/api/events", Body(calendar, facts));
        var path = $"/api/events/{made.Text("id")}";
        Assert.Equal(made.ToJsonString(), (await client.GetJsonAsync(path)).ToJsonString());
        foreach (var (name, said) in System.Text.Json.JsonSerializer.SerializeToNode(facts)!.AsObject())
            Assert.Equal(said!.ToJsonString(), made["facts"]![name]!.ToJsonString());
        var seen = Assert.Single((await client.GetJsonAsync("/api/board?from=2043-03-02&to=2043-03-09"))["occurrences"]!.AsArray(), o => o!.Text("eventId") == made.Text("id"))!;
        Assert.Equal(("All knots", category, 3, true, other.Text("id")), (seen.Text("subtitle"), seen.Text("categoryId"), seen.Number("mark"), seen["isDraft"]!.GetValue<bool>(), seen["alsoIn"]![0]!.GetValue<string>()));

        var plain = (await client.PutAsync(path, Body(calendar, new { }, 1)))["event"]!;
        Assert.Equal("", plain["facts"]!.Text("subtitle"));
        await client.PostAsync(path + "/undo", new { state = made, version = 2 });
        Assert.Equal(made["facts"]!.ToJsonString(), (await client.GetJsonAsync(path))["facts"]!.ToJsonString());
    }

    [Fact]
    public async Task An_event_placed_in_a_published_calendar_goes_out_with_it_and_leaves_with_it()
    {
        var client = await server.SignedInAsync();
        var home = await client.NewCalendarAsync("Home");
        var open = await client.NewCalendarAsync("Open");
        await client.OpenAsync(open);
        await client.PublishAsync("placements", open);
        async Task<string> FeedAsync() => await server.Visitor().GetStringAsync("/p/placements/feed.ics");
        Assert.DoesNotContain("SUMMARY:Knots", await FeedAsync(), StringComparison.Ordinal);
        var made = await client.PostAsync("/api/events", Body(home, new { alsoIn = new[] { open.Text("id") } }));
        var feed = await FeedAsync();
        Assert.Contains("SUMMARY:Knots", feed, StringComparison.Ordinal);
        Assert.Contains("CATEGORIES:Open\r\n", feed, StringComparison.Ordinal);
        await client.PutAsync($"/api/events/{made.Text("id")}", Body(home, new { }, 1));
        Assert.DoesNotContain("SUMMARY:Knots", await FeedAsync(), StringComparison.Ordinal);
        // With its home in the bin it is nowhere.
        await client.PutAsync($"/api/events/{made.Text("id")}", Body(home, new { alsoIn = new[] { open.Text("id") } }, 2));
        await client.DeleteAsync($"/api/calendars/{home.Text("id")}?version=1");
        Assert.DoesNotContain("SUMMARY:Knots", await FeedAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task It_stands_in_calendars_of_its_own_school_only()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Mine");
        var problem = await client.PostAsJsonAsync("/api/events", Body(calendar, new { alsoIn = new[] { Guid.NewGuid() } })).ProblemAsync(422, "no_such_calendar");
        Assert.Equal("facts.alsoIn", problem.Text("field"));
        await client.PostAsJsonAsync("/api/events", Body(calendar, new { links = new[] { new { kind = "more", label = "", address = "javascript:1" } } })).ProblemAsync(422, "link_malformed");
    }

    [Fact]
    public async Task A_line_names_categories_and_calendars_of_the_school()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Lines");
        var line = await client.PostAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2043-03-03", text = "Knots !test #rope +Rigging 2 fri 9-10", language = "en" });
        var lists = await client.GetJsonAsync("/api/lists");
        Assert.Equal(("Knots", "2043-03-06T09:00:00"), (line.Text("title"), line["timing"]!.Text("start")));
        Assert.Equal(lists["categories"]!.AsArray().Single(c => c!.Text("name") == "Test")!.Text("id"), line["facts"]!.Text("categoryId"));
        Assert.Single(line["facts"]!["alsoIn"]!.AsArray());
        Assert.Equal("rope", line["facts"]!["tags"]![0]!.GetValue<string>());
    }

    [Fact]
    public async Task Lists_are_kept_whole_and_two_who_change_them_lose_nothing()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var lists = await client.GetJsonAsync("/api/lists");
        var changed = lists.DeepClone();
        changed["places"]!.AsArray().Add(JsonNode.Parse("""{"id":null,"name":"Crow’s nest","capacity":2,"address":null,"latitude":null,"longitude":null}"""));
        changed["noticeDays"] = 0;
        var kept = await client.PutAsync("/api/lists", changed);
        Assert.Equal((lists.Number("version") + 1, 0), (kept.Number("version"), kept.Number("noticeDays")));
        Assert.Equal(kept.ToJsonString(), (await client.GetJsonAsync("/api/lists")).ToJsonString());
        var problem = await client.PutAsJsonAsync("/api/lists", lists).ProblemAsync(409, "stale_version");
        Assert.Equal("Crow’s nest", problem["current"]!["places"]!.AsArray()[^1]!.Text("name"));
        kept["places"]![0]!["name"] = "loft 2";
        await client.PutAsJsonAsync("/api/lists", kept).ProblemAsync(422, "name_twice");
    }

    [Fact]
    public async Task Each_person_keeps_the_board_as_they_like_it()
    {
        var (marit, owen) = (await server.SignedInAsync(), await server.SignedInAsync("owen.tarbell@lanternfell.example"));
        var id = Guid.NewGuid();
        Assert.Equal(HttpStatusCode.NoContent, (await marit.PatchAsJsonAsync("/api/me/board", new { form = "hours", days = 5, groups = new[] { new { name = "Mine", calendarIds = new[] { id } } }, folded = new[] { id } })).StatusCode);
        var kept = await marit.GetJsonAsync("/api/me/board");
        Assert.Equal(("hours", "Mine"), (kept.Text("form"), kept["groups"]![0]!.Text("name")));
        Assert.Null((await owen.GetJsonAsync("/api/me/board"))["form"]);
        // What another screen of hers chose stays.
        await marit.PatchAsJsonAsync("/api/me/board", new { hidden = new[] { id } });
        await marit.PatchAsJsonAsync("/api/me/board", new { form = "list", folded = Array.Empty<Guid>() });
        kept = await marit.GetJsonAsync("/api/me/board");
        Assert.Equal(("list", 5, 0, 1, "Mine"), (kept.Text("form"), kept.Number("days"), kept["folded"]!.AsArray().Count, kept["hidden"]!.AsArray().Count, kept["groups"]![0]!.Text("name")));
        await marit.PatchAsJsonAsync("/api/me/board", new { hidden = Enumerable.Range(0, 1001).Select(_ => id) }).ProblemAsync(422, "too_many_parts");
    }
}
