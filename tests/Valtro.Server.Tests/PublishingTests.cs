using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Links that are replaced, hidden, for a while; what of the calendars goes out.</summary>
public sealed class PublishingTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static Dictionary<string, object?> Body(JsonNode calendar, string? key, object? choices = null, string audience = "everyone", int? version = null) => new()
    {
        ["key"] = key,
        ["title"] = "Boats",
        ["introduction"] = "",
        ["calendarIds"] = new[] { calendar.Text("id") },
        ["firstView"] = "list",
        ["language"] = "en",
        ["audience"] = audience,
        ["choices"] = choices,
        ["version"] = version,
    };

    private static object Event(JsonNode calendar, string title, string day, object? facts = null) =>
        new { calendarId = calendar.Text("id"), title, place = "Slip 1", description = "", timing = Timed(day + "T09:00:00", day + "T10:00:00"), facts = facts ?? new { } };

    private async Task<(HttpStatusCode Status, string Text)> GetAsync(string path)
    {
        var answer = await server.Visitor().GetAsync(path);
        return (answer.StatusCode, await answer.Content.ReadAsStringAsync());
    }

    private static string Iso(Instant at) => NodaTime.Text.InstantPattern.ExtendedIso.Format(at);

    private async Task<HttpStatusCode> StatusAsync(string path) => (await GetAsync(path)).Status;

    [Fact]
    public async Task A_link_that_leaked_is_replaced_at_once_and_its_name_never_leads_elsewhere()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Leaked"));
        var made = await marit.PostAsync("/api/publications", Body(calendar, "leaked-link"));
        var path = $"/api/publications/{made.Text("id")}";
        Assert.Equal(HttpStatusCode.OK, await StatusAsync("/p/leaked-link"));
        await marit.PostAsJsonAsync(path + "/key", new { version = 9 }).ProblemAsync(409, "stale_version");
        var replaced = await marit.PostAsync(path + "/key", new { version = 1 });
        Assert.Matches("^[a-z2-9]{22}$", replaced.Text("key"));
        foreach (var outlet in new[] { "", "/embed", "/feed.ics", "/events.json?from=2026-11-01&to=2026-12-01" })
        {
            Assert.Equal(HttpStatusCode.Gone, await StatusAsync("/p/leaked-link" + outlet));
            Assert.Equal(HttpStatusCode.OK, await StatusAsync($"/p/{replaced.Text("key")}{outlet}"));
        }
        await marit.PostAsJsonAsync("/api/publications", Body(calendar, "leaked-link")).ProblemAsync(409, "key_taken");
        await marit.PostAsJsonAsync(path + "/key", new { key = "No good", version = 2 }).ProblemAsync(422, "key_malformed");
        // Its own old name it may have again.
        await marit.PostAsync(path + "/key", new { key = "leaked-link", version = 2 });
        Assert.Equal(HttpStatusCode.OK, await StatusAsync("/p/leaked-link"));
        Assert.Equal(HttpStatusCode.Gone, await StatusAsync("/p/" + replaced.Text("key")));
    }

    [Fact]
    public async Task For_who_has_the_link_the_link_cannot_be_guessed_and_is_not_to_be_found()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("By link");
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "headlines", everyone = "nothing", version = 1 });
        await marit.PostAsync("/api/events", Event(calendar, "Keel", "2026-12-01"));
        var made = await marit.PostAsync("/api/publications", Body(calendar, "", audience: "linkHolders"));
        Assert.Equal(22, made.Text("key").Length);
        var answer = await server.Visitor().GetAsync($"/p/{made.Text("key")}/feed.ics");
        Assert.Equal("noindex", answer.Headers.GetValues("X-Robots-Tag").Single());
        Assert.Contains("SUMMARY:Keel", await answer.Content.ReadAsStringAsync());
        // For everyone it would be less.
        await marit.PutAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, audience: "everyone", version: 1));
        Assert.DoesNotContain("Keel", (await GetAsync($"/p/{made.Text("key")}/feed.ics")).Text);
        await marit.PostAsJsonAsync("/api/publications", Body(calendar, "", audience: "everyone")).ProblemAsync(422, "key_malformed");
        await marit.PostAsJsonAsync("/api/publications", Body(calendar, "by-link-team", audience: "team")).ProblemAsync(422, "audience_unknown");
    }

    [Fact]
    public async Task It_goes_out_for_its_time_and_before_it_nothing_is_told_of_it()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("For a while"));
        await marit.PostAsync("/api/publications", Body(calendar, "for-a-while", new { from = Iso(own.Clock.Now + Duration.FromHours(1)), until = Iso(own.Clock.Now + Duration.FromHours(2)) }));
        async Task<HttpStatusCode> NowAsync() => (await own.Visitor().GetAsync("/p/for-a-while/feed.ics")).StatusCode;
        Assert.Equal(HttpStatusCode.NotFound, await NowAsync());
        own.Clock.Now += Duration.FromHours(1);
        Assert.Equal(HttpStatusCode.OK, await NowAsync());
        own.Clock.Now += Duration.FromHours(1);
        Assert.Equal(HttpStatusCode.Gone, await NowAsync());
    }

    [Fact]
    public async Task What_is_chosen_goes_out_and_moves_on_with_the_day()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Chosen"));
        foreach (var (title, day, tags) in new[] { ("Bow", "2026-11-24", new[] { "oak" }), ("Stern", "2026-11-26", ["oak"]), ("Mast", "2026-11-24", []) })
            await marit.PostAsync("/api/events", Event(calendar, title, day, new { tags }));
        var choices = new
        {
            tags = new[] { "oak" },
            daysAhead = 1,
            titlePattern = "[{tag}] {title}",
            calendars = new[] { new { calendarId = calendar.Text("id"), most = "everything", tag = "CH" } },
        };
        var made = await marit.PostAsync("/api/publications", Body(calendar, "chosen-ones", choices));
        Assert.Equal(("[{tag}] {title}", 1, "CH"), (made["choices"]!.Text("titlePattern"), made["choices"]!.Number("daysAhead"), made["choices"]!["calendars"]![0]!.Text("tag")));
        async Task<(string[] Titles, string Tag, DateTimeOffset? Modified)> FeedAsync()
        {
            var answer = await own.Visitor().GetAsync("/p/chosen-ones/feed.ics");
            var titles = (await answer.Content.ReadAsStringAsync()).Split("\r\n").Where(l => l.StartsWith("SUMMARY:", StringComparison.Ordinal)).Select(l => l[8..]).Order();
            return ([.. titles], answer.Headers.ETag!.Tag, answer.Content.Headers.LastModified);
        }
        var monday = await FeedAsync();
        Assert.Equal(["[CH] Bow"], monday.Titles);
        own.Clock.Now += Duration.FromDays(2);
        var wednesday = await FeedAsync();
        Assert.Equal(["[CH] Bow", "[CH] Stern"], wednesday.Titles);
        Assert.NotEqual(monday.Tag, wednesday.Tag);
        Assert.True(wednesday.Modified > monday.Modified);

        var page = await own.Visitor().GetStringAsync("/p/chosen-ones");
        Assert.Contains("Stern", page);
        Assert.DoesNotContain("Mast", page);
        // What is not said in a change of title stays.
        var renamed = await marit.PutAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, null, version: 1));
        Assert.Equal("oak", renamed["choices"]!["tags"]![0]!.GetValue<string>());
        await marit.PutAsJsonAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, new { titlePattern = "{nothing}" }, version: 2)).ProblemAsync(422, "pattern_field");
        await marit.PutAsJsonAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, new { daysBack = -1 }, version: 2)).ProblemAsync(422, "days_range");
    }

    [Fact]
    public async Task A_copy_is_a_publication_of_its_own()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Copied"));
        var made = await marit.PostAsync("/api/publications", Body(calendar, "copied-from", new { text = "keel" }));
        var copy = await marit.PostAsync($"/api/publications/{made.Text("id")}/duplicate", new { });
        Assert.NotEqual(made.Text("id"), copy.Text("id"));
        Assert.Equal("keel", copy["choices"]!.Text("text"));
        await marit.PostAsync($"/api/publications/{made.Text("id")}/take-down", new { });
        Assert.Equal(HttpStatusCode.Gone, await StatusAsync("/p/copied-from"));
        Assert.Equal(HttpStatusCode.OK, await StatusAsync("/p/" + copy.Text("key")));
    }
}
