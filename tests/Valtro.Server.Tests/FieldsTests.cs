using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What the interface asks while something is typed, dragged or chosen: computed here and nowhere else.</summary>
public sealed class FieldsTests(Cluster cluster) : IAsyncLifetime
{
    private Server server = null!;
    private HttpClient marit = null!;
    private JsonNode calendar = null!;

    public async ValueTask InitializeAsync()
    {
        server = new Server(await cluster.CreateDatabaseAsync());
        marit = await server.SignedInAsync();
        calendar = await marit.NewCalendarAsync("Loft");
    }

    public ValueTask DisposeAsync() => server.DisposeAsync();

    private async Task<JsonNode> SeriesAsync() =>
        await marit.PostAsync("/api/events", EventBody(calendar, "Knots", Timed("2044-09-06T09:00:00", "2044-09-06T10:00:00"), Weekly("tuesday")));

    private static JsonNode With(JsonNode fields, string name, string value)
    {
        var made = fields.DeepClone();
        made[name] = value;
        return made;
    }

    [Fact]
    public async Task Fields_are_of_one_date_first_and_take_what_was_typed_along_to_others()
    {
        var id = (await SeriesAsync()).Text("id");
        Task<JsonNode> AskAsync(object body) => marit.PostAsync($"/api/events/{id}/fields", body);
        const string date = "2044-09-13T09:00:00";
        var one = await AskAsync(new { date });
        Assert.Equal(("thisDate", date), (one.Text("scope"), one["blank"]!["timing"]!.Text("start")));
        Assert.Equal(one["blank"]!.ToJsonString(), one["typed"]!.ToJsonString());
        var every = await AskAsync(new { date, scope = "everyDate", was = "thisDate", over = one["blank"], typed = With(one["typed"]!, "place", "Quay") });
        Assert.Equal(("Slip 1", "Quay", "2044-09-06T09:00:00"), (every["blank"]!.Text("place"), every["typed"]!.Text("place"), every["typed"]!["timing"]!.Text("start")));
        // Moved on the board for all, the rule goes along; what goes to another calendar is every date.
        var moved = await AskAsync(new { date, scope = "everyDate", shift = new { days = 1 } });
        Assert.Equal(["wednesday"], moved["typed"]!["rule"]!["days"]!.AsArray().Select(d => d!.GetValue<string>()));
        Assert.Equal("everyDate", (await AskAsync(new { date, shift = new { calendarId = calendar.Text("id") } })).Text("scope"));
        await marit.PostAsJsonAsync($"/api/events/{id}/fields", new { date, shift = new { days = 99_999 } }).ProblemAsync(422, "shift_too_far");
    }

    [Fact]
    public async Task What_somebody_else_saved_is_taken_in_and_what_both_changed_is_named()
    {
        var made = await SeriesAsync();
        var path = $"/api/events/{made.Text("id")}";
        var begun = await marit.PostAsync(path + "/fields", new { scope = "everyDate" });
        await marit.PutAsync(path, EventBody(calendar, "Bends", Timed("2044-09-06T09:00:00", "2044-09-06T10:00:00"), Weekly("tuesday"), made.Number("version")));
        var typed = With(With(begun["typed"]!, "title", ""), "place", "Quay");
        var now = await marit.PostAsync(path + "/fields", new { scope = "everyDate", over = begun["blank"], typed });
        Assert.Equal(["title"], now["conflicts"]!.AsArray().Select(c => c!.GetValue<string>()));
        // Nothing that is typed has to be right yet.
        Assert.Equal(("", "Quay", "Bends"), (now["typed"]!.Text("title"), now["typed"]!.Text("place"), now["blank"]!.Text("title")));
        Assert.True(now["event"]!.Number("version") > made.Number("version"));
    }

    [Fact]
    public async Task Nobody_fills_fields_with_what_they_do_not_read()
    {
        var made = await SeriesAsync();
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "headlines", linkHolders = "nothing", everyone = "nothing", version = 1 });
        var samir = await server.SignedInAsync("samir.dole@lanternfell.example");
        await samir.PostAsJsonAsync($"/api/events/{made.Text("id")}/fields", new { }).ProblemAsync(404, "no_such_event");
        await marit.PostAsJsonAsync($"/api/events/{made.Text("id")}/fields", new { proposalId = Guid.NewGuid() }).ProblemAsync(404, "no_such_proposal");
    }

    [Fact]
    public async Task Who_would_be_asked_is_told_by_name_before_anything_is_offered()
    {
        var tomas = await server.SignedInAsync("tomas.reed@lanternfell.example");
        var id = calendar.Text("id");
        Assert.Empty((await marit.GetJsonAsync($"/api/proposals/asked?calendarId={id}")).AsArray());
        var asked = Assert.Single((await tomas.GetJsonAsync($"/api/proposals/asked?calendarId={id}")).AsArray())!;
        Assert.Equal(id, asked.Text("calendarId"));
        Assert.Equal(["Marit Quill"], asked["keepers"]!.AsArray().Select(k => k!.GetValue<string>()));
        // Of a calendar they do not see nothing is told, not even who keeps it.
        await marit.PutAsync($"/api/calendars/{id}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 1 });
        await tomas.GetAsync($"/api/proposals/asked?calendarId={id}").ProblemAsync(404, "no_such_calendar");
        var open = await marit.NewCalendarAsync("Deck");
        asked = Assert.Single((await tomas.GetJsonAsync($"/api/proposals/asked?calendarId={open.Text("id")}&alsoIn={id}")).AsArray())!;
        Assert.Equal(open.Text("id"), asked.Text("calendarId"));
    }

    [Fact]
    public async Task Reach_is_said_while_it_is_chosen()
    {
        var id = calendar.Text("id");
        var opened = await marit.PostAsync("/api/reach/opened", new { reach = new { members = "everything", linkHolders = "nothing", everyone = "nothing" }, audience = "everyone", detail = "timesOnly" });
        Assert.Equal(("timesOnly", "everyone"), (opened["reach"]!.Text("linkHolders"), opened.Text("widest")));
        await marit.PutAsync($"/api/calendars/{id}/reach", new { members = "everything", linkHolders = "headlines", everyone = "headlines", version = 1 });
        var limited = await marit.PostAsync("/api/reach/event", new { calendarId = id, audience = "members", detail = "timesOnly" });
        Assert.Equal(("headlines", "timesOnly", "timesOnly"), (limited["given"]!.Text("everyone"), limited["own"]!.Text("everyone"), limited["shown"]!.Text("members")));
        Assert.Equal("nothing", (await marit.PostAsync("/api/reach/event", new { calendarId = id, isDraft = true }))["shown"]!.Text("members"));
    }

    [Fact]
    public async Task Two_in_one_place_are_told_and_a_free_one_or_a_test_in_its_lesson_is_not()
    {
        object Body(string title, string start, string end, bool isFree = false) =>
            new { calendarId = calendar.Text("id"), title, place = "Slip 9", timing = Timed($"2044-09-06T{start}:00", $"2044-09-06T{end}:00"), facts = new { isFree } };
        var first = await marit.PostAsync("/api/events", Body("Hull", "09:00", "11:00"));
        var second = await marit.PostAsync("/api/events", Body("Keel", "10:30", "11:30"));
        await marit.PostAsync("/api/events", Body("Looking on", "09:00", "12:00", isFree: true));
        await marit.PostAsync("/api/events", Body("After", "11:30", "12:00"));
        var pair = Assert.Single((await marit.GetJsonAsync("/api/board/shared-places?from=2044-09-05&to=2044-09-12")).AsArray())!;
        Assert.Equal(("2044-09-06", "2044-09-06"), (pair.Text("firstDay"), pair.Text("lastDay")));
        Assert.Equal([first.Text("id"), second.Text("id")], pair["dates"]!.AsArray().Select(d => d!.Text("eventId")));
    }

    [Fact]
    public async Task A_title_is_shown_as_feeds_would_write_it() =>
        Assert.Equal("[K2] Row", (await marit.GetJsonAsync("/api/publications/title?pattern=%5B%7Btag%7D%5D%20%7Btitle%7D%20()&title=Row&tag=K2")).Text("title"));
}
