using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

public sealed class CalendarTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    [Fact]
    public async Task A_calendar_is_made_renamed_put_in_the_bin_and_taken_out()
    {
        var client = await server.SignedInAsync();
        var made = await client.NewCalendarAsync("Choir");
        Assert.Equal(("everything", "nothing"), (made["reach"]!.Text("members"), made["reach"]!.Text("everyone")));
        var path = $"/api/calendars/{made.Text("id")}";
        var renamed = await client.PutAsync(path, CalendarBody("Harbour singers", 1));
        Assert.Equal(("Harbour singers", 2), (renamed.Text("title"), renamed.Number("version")));

        await client.PostAsync("/api/events", EventBody(renamed, "Song", AllDay("2042-01-06", "2042-01-06")));
        await client.DeleteAsync(path + "?version=2");
        async Task<bool> IsOnBoardAsync() =>
            (await client.GetJsonAsync("/api/board?from=2042-01-06&to=2042-01-07"))["occurrences"]!.AsArray().Any(o => o!.Text("title") == "Song");
        Assert.False(await IsOnBoardAsync());
        await client.PostAsJsonAsync("/api/events", EventBody(renamed, "Song", AllDay("2042-01-06", "2042-01-06"))).ProblemAsync(422, "calendar_in_bin");

        // Who keeps it finds it in the bin, and nobody else.
        async Task<JsonNode?> InBinAsync(HttpClient of) =>
            (await of.GetJsonAsync("/api/bin/calendars")).AsArray().SingleOrDefault(c => c!.Text("id") == made.Text("id"));
        var binned = await InBinAsync(client);
        Assert.Equal(("Harbour singers", 1), (binned!.Text("title"), binned!.Number("events")));
        Assert.Null(await InBinAsync(await server.SignedInAsync("samir.dole@lanternfell.example")));

        await client.PostAsync(path + "/restore", null);
        Assert.True(await IsOnBoardAsync());
        Assert.Null(await InBinAsync(client));
    }

    [Theory]
    [InlineData("", "America/Halifax", 1, "title_missing")]
    [InlineData("Choir", "Nowhere/Land", 1, "zone_unknown")]
    [InlineData("Choir", "America/Halifax", 0, "mark_unknown")]
    public async Task A_calendar_that_cannot_be_is_refused(string title, string zone, int mark, string code) =>
        await (await server.SignedInAsync()).PostAsJsonAsync("/api/calendars", CalendarBody(title, null, zone, mark)).ProblemAsync(422, code);

    [Fact]
    public async Task A_stale_change_is_shown_what_is_stored()
    {
        var client = await server.SignedInAsync();
        var made = await client.NewCalendarAsync("Tides");
        var path = $"/api/calendars/{made.Text("id")}";
        await client.PutAsync(path, CalendarBody("Tides and moons", 1));
        var problem = await client.PutAsJsonAsync(path, CalendarBody("Moons", 1)).ProblemAsync(409, "stale_version");
        Assert.Equal("Tides and moons", problem["current"]!.Text("title"));
    }

    [Fact]
    public async Task Before_opening_one_learns_what_would_become_readable()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Opening");
        await client.PostAsync("/api/events", EventBody(calendar, "Late", AllDay("2042-03-06", "2042-03-06")));
        await client.PostAsync("/api/events", EventBody(calendar, "Early", Timed("2042-02-05T09:00:00", "2042-02-05T10:00:00")));
        var contents = await client.GetJsonAsync($"/api/calendars/{calendar.Text("id")}/contents");
        Assert.Equal((2, "2042-02-05"), (contents.Number("events"), contents.Text("first")));
    }

    [Fact]
    public async Task Nobody_opens_more_to_everyone_than_to_members()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Ladder");
        await client.PutAsJsonAsync(
            $"/api/calendars/{calendar.Text("id")}/reach",
            new { members = "headlines", linkHolders = "headlines", everyone = "everything", version = 1 }).ProblemAsync(422, "reach_widens");
    }

    [Fact]
    public async Task Another_school_s_things_are_not_there()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Private matters");
        var e = await client.PostAsync("/api/events", EventBody(calendar, "Secret", AllDay("2042-05-01", "2042-05-01")));
        var publication = await client.PublishAsync("private-matters", calendar);

        var stranger = await server.OfAnotherSchoolAsync();
        var board = await stranger.GetJsonAsync("/api/board?from=2042-05-01&to=2042-05-02");
        Assert.Empty(board["occurrences"]!.AsArray());
        Assert.Empty(board["calendars"]!.AsArray());
        Assert.Empty((await stranger.GetJsonAsync("/api/publications")).AsArray());
        var (c, ev, p) = (calendar.Text("id"), e.Text("id"), publication.Text("id"));
        await stranger.GetAsync($"/api/events/{ev}").ProblemAsync(404, "no_such_event");
        await stranger.DeleteAsync($"/api/events/{ev}?version=1").ProblemAsync(404, "no_such_event");
        await stranger.PostAsync($"/api/events/{ev}/restore", null).ProblemAsync(404, "no_such_event");
        await stranger.PutAsJsonAsync($"/api/events/{ev}", EventBody(calendar, "Taken", AllDay("2042-05-01", "2042-05-01"), version: 1)).ProblemAsync(404, "no_such_event");
        await stranger.PostAsJsonAsync("/api/events", EventBody(calendar, "Planted", AllDay("2042-05-01", "2042-05-01"))).ProblemAsync(404, "no_such_calendar");
        await stranger.PutAsJsonAsync($"/api/calendars/{c}", CalendarBody("Taken", 1)).ProblemAsync(404, "no_such_calendar");
        await stranger.GetAsync($"/api/calendars/{c}/contents").ProblemAsync(404, "no_such_calendar");
        await stranger.PostAsJsonAsync("/api/line", new { calendarId = c, day = "2042-05-01", text = "x" }).ProblemAsync(404, "no_such_calendar");
        await stranger.GetAsync($"/api/publications/{p}/proof").ProblemAsync(404, "no_such_publication");
        await stranger.PostAsync($"/api/publications/{p}/take-down", null).ProblemAsync(404, "no_such_publication");
        await stranger.PostAsJsonAsync("/api/publications", new { key = "stolen", title = "x", introduction = "", calendarIds = new[] { c }, firstView = "list", language = "en" }).ProblemAsync(404, "no_such_calendar");
    }
}
