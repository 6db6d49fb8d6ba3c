using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Clashes over the real store: found, accepted, told of what is being typed.</summary>
public sealed class CheckTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static object Body(JsonNode calendar, string title, string place, string from, string to, object? rule = null) =>
        new { calendarId = calendar.Text("id"), title, place, description = "", timing = Timed(from, to), rule, version = (int?)null };

    private static async Task<JsonNode?> FoundAsync(HttpClient client, string title) =>
        (await client.GetJsonAsync("/api/checks"))["clashes"]!.AsArray().FirstOrDefault(c => c!["event"]!.Text("title") == title || c["other"]?.Text("title") == title);

    [Fact]
    public async Task A_place_taken_each_week_is_one_matter_that_is_accepted_with_a_reason_and_taken_back()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Clashes");
        await client.PostAsync("/api/events", Body(calendar, "Ropes of one", "Tar house", "2027-01-05T09:00:00", "2027-01-05T10:00:00", Weekly("tuesday")));
        await client.PostAsync("/api/events", Body(calendar, "Ropes of two", "TAR house", "2027-01-05T09:30:00", "2027-01-05T10:30:00", new { frequency = "weekly", interval = 1, days = new[] { "tuesday" }, count = 3, until = (string?)null }));
        var clash = (await FoundAsync(client, "Ropes of one"))!;
        Assert.Equal(("placeTaken", "TAR house", 3), (clash.Text("kind"), clash.Text("about"), clash["dates"]!.AsArray().Count));
        await client.PostAsJsonAsync("/api/checks/accept", new { key = clash.Text("key"), reason = " " }).ProblemAsync(422, "reason_missing");
        await client.PostAsJsonAsync("/api/checks/accept", new { key = "", reason = "x" }).ProblemAsync(422, "no_such_clash");
        await client.PostAsJsonAsync("/api/checks/accept", new { key = clash.Text("key"), reason = "They share it" });
        var accepted = (await FoundAsync(client, "Ropes of one"))!;
        Assert.Equal(("They share it", "Marit Quill"), (accepted.Text("accepted"), accepted.Text("acceptedBy")));
        await client.PostAsJsonAsync("/api/checks/take-back", new { key = clash.Text("key"), reason = "" });
        Assert.Null((await FoundAsync(client, "Ropes of one"))!["accepted"]);
    }

    [Fact]
    public async Task Everything_of_a_kind_about_a_series_is_accepted_at_once_also_what_comes_later()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("At once");
        await client.PostAsync("/api/events", Body(calendar, "Net mending", "Net shed", "2027-01-06T09:00:00", "2027-01-06T10:00:00", Weekly("wednesday")));
        await client.PostAsync("/api/events", Body(calendar, "Visitors", "Net shed", "2027-01-06T09:30:00", "2027-01-06T10:30:00"));
        var clash = (await FoundAsync(client, "Visitors"))!;
        var series = Assert.Single(clash["series"]!.AsArray())!;
        Assert.Equal("Net mending", series.Text("title"));
        await client.PostAsJsonAsync("/api/checks/accept", new { key = series.Text("key"), reason = "Nets are mended beside anything" });
        await client.PostAsync("/api/events", Body(calendar, "Later visitors", "Net shed", "2027-01-13T09:30:00", "2027-01-13T10:30:00"));
        foreach (var title in new[] { "Visitors", "Later visitors" })
        {
            var accepted = (await FoundAsync(client, title))!;
            Assert.Equal(("Nets are mended beside anything", series.Text("key")), (accepted.Text("accepted"), accepted.Text("acceptedKey")));
        }
        await client.PostAsJsonAsync("/api/checks/take-back", new { key = series.Text("key"), reason = "" });
        Assert.Null((await FoundAsync(client, "Later visitors"))!["accepted"]);
    }

    [Fact]
    public async Task What_is_being_typed_is_told_its_clashes_and_a_saved_event_never_clashes_with_itself()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Typed");
        var kept = await client.PostAsync("/api/events", Body(calendar, "Pitch boiling", "Pitch shed", "2027-02-02T09:00:00", "2027-02-02T10:00:00"));
        async Task<JsonArray> TypedAsync(object body, string? id = null) =>
            (await client.PostAsync("/api/checks/event", new Dictionary<string, object?> { ["event"] = body, ["id"] = id }))["clashes"]!.AsArray();
        var typed = await TypedAsync(Body(calendar, "", "pitch shed", "2027-02-02T09:30:00", "2027-02-02T11:00:00"));
        Assert.Equal("Pitch boiling", Assert.Single(typed)!["event"]!.Text("title"));
        Assert.Empty(await TypedAsync(Body(calendar, "", "pitch shed", "2027-02-02T10:00:00", "2027-02-02T11:00:00")));
        Assert.Empty(await TypedAsync(Body(calendar, "Pitch boiling", "Pitch shed", "2027-02-02T09:15:00", "2027-02-02T10:15:00"), kept.Text("id")));
        await client.PostAsJsonAsync("/api/checks/event", new { @event = Body(calendar, "", "", "2027-02-02T10:00:00", "2027-02-02T09:00:00") }).ProblemAsync(422, "end_before_start");
        // Nothing was saved by asking.
        Assert.Equal(1, (await client.GetJsonAsync($"/api/events/{kept.Text("id")}")).Number("version"));
    }
}
