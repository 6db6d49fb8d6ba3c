using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What a reader chose: read without scripts, found wherever it lies, and followed as a feed of its own.</summary>
public sealed class ReaderChoiceTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private async Task<JsonNode> StartAsync(string path)
    {
        var html = await server.Visitor().GetStringAsync(path);
        return JsonNode.Parse(html.Split("id=\"outlet-data\">")[1].Split("</script>")[0])!;
    }

    private async Task<(JsonNode Boats, JsonNode Knots)> PublishedAsync(string key)
    {
        var marit = await server.SignedInAsync();
        var boats = await marit.OpenAsync(await marit.NewCalendarAsync($"Boats of {key}"));
        var knots = await marit.OpenAsync(await marit.NewCalendarAsync($"Knots of {key}"));
        Task<JsonNode> Event(JsonNode calendar, string title, string day, object? rule = null) => marit.PostAsync(
            "/api/events", new { calendarId = calendar.Text("id"), title, place = "Slip 1", description = "", timing = Timed($"{day}T18:00:00", $"{day}T19:00:00"), rule, facts = new { } });
        await Event(boats, "Keel walk", "2026-11-26", Weekly("thursday"));
        await Event(knots, "Évening of knots", "2026-12-02");
        await Event(knots, "Far regatta", "2031-06-14");
        await Event(knots, "Old regatta", "2025-06-14");
        await marit.PublishAsync(key, boats, knots);
        return (boats, knots);
    }

    [Fact]
    public async Task Is_a_feed_of_its_own_with_one_address()
    {
        await PublishedAsync("chosen");
        var start = await StartAsync("/p/chosen");
        var names = start["calendars"]!.AsArray().Select(c => c!.Text("name")).ToArray();
        var all = await server.Visitor().GetStringAsync("/p/chosen/feed.ics");
        Assert.Contains("Keel walk", all);
        var chosen = await server.Visitor().GetStringAsync($"/p/chosen/feed.ics?off={names[0]}&q=REGATTA");
        Assert.DoesNotContain("Keel walk", chosen);
        Assert.DoesNotContain("vening of knots", chosen);
        Assert.Contains("Far regatta", chosen);
        // It says its own address, so that a program comes back to the same; another order, or nonsense beside it, is the same choice.
        var folded = chosen.Replace("\r\n ", "");
        Assert.Contains($"/p/chosen/feed.ics?off={names[0]}&q=regatta", folded);
        Assert.Equal(chosen, await server.Visitor().GetStringAsync($"/p/chosen/feed.ics?q=regatta&off={names[0]},{names[0]},zz,..&x=1"));
        // With everything off there is a calendar without events, and no error.
        var none = await server.Visitor().GetStringAsync($"/p/chosen/feed.ics?off={string.Join(',', names)}");
        Assert.DoesNotContain("BEGIN:VEVENT", none);
        Assert.Equal(all, await server.Visitor().GetStringAsync("/p/chosen/feed.ics?off=nonsense&category="));
    }

    [Fact]
    public async Task Is_read_without_scripts()
    {
        await PublishedAsync("plainly");
        async Task<string> List(string query)
        {
            var html = WebUtility.HtmlDecode(await server.Visitor().GetStringAsync("/p/plainly" + query));
            return html[html.IndexOf("<main", StringComparison.Ordinal)..html.IndexOf("outlet-data", StringComparison.Ordinal)];
        }
        var found = await List("?q=evening");
        Assert.Contains("Évening of knots", found);
        Assert.DoesNotContain("Keel walk", found);
        Assert.Contains("value=\"evening\"", found);
        var then = await List("?date=2031-06-01");
        Assert.Contains("Far regatta", then);
        Assert.DoesNotContain("2026-12", then);
        Assert.Contains("Évening of knots", await List("?date=nonsense&off=x&q="));
        Assert.Contains("?q=keel&date=", await List("?q=keel"));
    }

    [Fact]
    public async Task Finds_all_that_goes_out_and_a_window_without_events_says_when_the_next_is()
    {
        await PublishedAsync("far-off");
        var found = await server.Visitor().GetJsonAsync("/p/far-off/found.json?q=regatta");
        Assert.Equal("Far regatta", Assert.Single(found["coming"]!.AsArray())!.Text("title"));
        Assert.Equal("Old regatta", Assert.Single(found["past"]!.AsArray())!.Text("title"));
        // Of a series some dates are enough, and they hide nothing that lies behind them.
        var both = (await server.Visitor().GetJsonAsync("/p/far-off/found.json?q=slip"))["coming"]!.AsArray();
        Assert.Equal(["Far regatta", "Keel walk", "Évening of knots"], both.Select(e => e!.Text("title")).Distinct().Order(StringComparer.Ordinal));
        Assert.Equal("Far regatta", both[^1]!.Text("title"));
        Assert.Equal(5, (await server.Visitor().GetJsonAsync("/p/far-off/found.json?q=keel"))["coming"]!.AsArray().Count);
        var marit = await server.SignedInAsync();
        var alone = await marit.OpenAsync(await marit.NewCalendarAsync("Alone"));
        await marit.PostAsync("/api/events", new { calendarId = alone.Text("id"), title = "Only one", place = "", description = "", timing = Timed("2029-02-03T10:00:00", "2029-02-03T11:00:00"), facts = new { } });
        await marit.PublishAsync("alone", alone);
        var empty = await server.Visitor().GetJsonAsync("/p/alone/events.json?from=2027-01-01&to=2027-03-01");
        Assert.Equal(("2029-02-03", null), (empty.Text("next"), empty["last"]?.GetValue<string>()));
        Assert.Equal("2029-02-03", (await server.Visitor().GetJsonAsync("/p/alone/events.json?from=2031-01-01&to=2031-03-01")).Text("last"));
        // Lists go on until they have something, however far that is.
        Assert.Equal("Only one", Assert.Single((await StartAsync("/p/alone"))["beyond"]!.AsArray())!.Text("title"));
        Assert.Contains("Only one", await server.Visitor().GetStringAsync("/p/alone/embed?view=cards"));
    }
}
