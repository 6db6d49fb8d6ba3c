using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Everyone publishes what its readers may read anyway; who keeps a calendar has a say in where it stands.</summary>
public sealed class PublicationRightsTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Bea = "bea.lindqvist@lanternfell.example";
    private const string Tomas = "tomas.reed@lanternfell.example";

    private readonly Server server = fixture.Server;

    private static Dictionary<string, object?> Body(string key, params JsonNode[] calendars) => new()
    {
        ["key"] = key,
        ["title"] = "Families",
        ["introduction"] = "",
        ["calendarIds"] = calendars.Select(c => c.Text("id")).ToArray(),
        ["firstView"] = "list",
        ["language"] = "en",
    };

    private static async Task<JsonNode> CalendarAsync(HttpClient keeper, string title, string everyone, string members = "everything")
    {
        var calendar = await keeper.NewCalendarAsync(title);
        return await keeper.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members, linkHolders = everyone, everyone, version = calendar["version"]!.GetValue<int>() });
    }

    private static Task<JsonNode> EventAsync(HttpClient editor, JsonNode calendar, string title) => editor.PostAsync(
        "/api/events", new { calendarId = calendar.Text("id"), title, place = "", description = "", timing = Timed("2026-12-01T18:00:00", "2026-12-01T19:00:00"), facts = new { } });

    [Fact]
    public async Task A_teacher_publishes_her_class_with_the_diary_of_others_and_tells_nobody_anything_new()
    {
        var (marit, bea, tomas) = (await server.SignedInAsync(), await server.SignedInAsync(Bea), await server.SignedInAsync(Tomas));
        var diary = await CalendarAsync(marit, "Diary for all", "headlines");
        var closed = await CalendarAsync(marit, "For members only", "nothing");
        var unseen = await CalendarAsync(marit, "For the team only", "nothing", "nothing");
        var own = await CalendarAsync(bea, "Her class", "everything");
        await EventAsync(marit, diary, "Open day");
        await EventAsync(marit, closed, "Staff supper");
        await EventAsync(bea, own, "Knots by night");

        var made = await bea.PostAsync("/api/publications", Body("her-families", own, diary, closed));
        Assert.True(made["mayChange"]!.GetValue<bool>());
        var feed = await server.Visitor().GetStringAsync("/p/her-families/feed.ics");
        Assert.Contains("Open day", feed);
        Assert.Contains("Knots by night", feed);
        Assert.DoesNotContain("Staff supper", feed);
        Assert.DoesNotContain("For members only", await server.Visitor().GetStringAsync("/p/her-families"));
        // What she does not see is not there, neither at first nor later.
        await bea.PostAsJsonAsync("/api/publications", Body("not-this-one", own, unseen)).ProblemAsync(404, "no_such_calendar");
        var more = Body("her-families", own, diary, unseen);
        more["version"] = 1;
        await bea.PutAsJsonAsync($"/api/publications/{made.Text("id")}", more).ProblemAsync(404, "no_such_calendar");
        // The proof names what is closed, and counts nothing of it for her; with other eyes she sees no more than its readers.
        var proof = await bea.GetJsonAsync($"/api/publications/{made.Text("id")}/proof");
        Assert.Equal(("For members only", 0), (proof["heldBack"]![0]!.Text("title"), proof["heldBack"]![0]!["events"]!.GetValue<int>()));
        await bea.GetAsync($"/api/publications/{made.Text("id")}/look/feed.ics?look=members").ProblemAsync(403, "not_allowed");
        Assert.Contains("Open day", await bea.GetStringAsync($"/api/publications/{made.Text("id")}/look/feed.ics?look=draft"));

        // It fills by itself when the calendar is opened.
        await marit.PutAsync($"/api/calendars/{closed.Text("id")}/reach", new { members = "everything", linkHolders = "headlines", everyone = "headlines", version = closed["version"]!.GetValue<int>() });
        Assert.Contains("Staff supper", await server.Visitor().GetStringAsync("/p/her-families/feed.ics"));

        Assert.Equal("Marit Quill", Assert.Single((await bea.GetJsonAsync($"/api/calendars/{diary.Text("id")}/keepers")).AsArray())!.GetValue<string>());
        await bea.GetAsync($"/api/calendars/{unseen.Text("id")}/keepers").ProblemAsync(404, "no_such_calendar");

        // It is hers: a third person neither sees nor changes it.
        Assert.DoesNotContain((await tomas.GetJsonAsync("/api/publications")).AsArray(), p => p!.Text("id") == made.Text("id"));
        await tomas.PostAsJsonAsync($"/api/publications/{made.Text("id")}/take-down", new { }).ProblemAsync(404, "no_such_publication");
    }

    [Fact]
    public async Task Keepers_know_where_their_calendars_stand_and_take_them_out()
    {
        var (bea, tomas) = (await server.SignedInAsync(Bea), await server.SignedInAsync(Tomas));
        var (own, his) = (await CalendarAsync(bea, "Hers", "everything"), await CalendarAsync(tomas, "His", "everything"));
        await EventAsync(tomas, his, "Tiller talk");
        var made = await bea.PostAsync("/api/publications", Body("both-ours", own, his));
        var known = (await tomas.GetJsonAsync("/api/publications")).AsArray().Single(p => p!.Text("id") == made.Text("id"))!;
        Assert.Equal((false, "Bea Lindqvist"), (known["mayChange"]!.GetValue<bool>(), known.Text("owner")));
        await tomas.PostAsJsonAsync($"/api/publications/{made.Text("id")}/take-down", new { }).ProblemAsync(403, "not_allowed");
        await tomas.PostAsJsonAsync($"/api/publications/{made.Text("id")}/take-out", new { calendarId = own.Text("id") }).ProblemAsync(403, "not_allowed");
        var left = await tomas.PostAsync($"/api/publications/{made.Text("id")}/take-out", new { calendarId = his.Text("id") });
        Assert.False(left["mayChange"]!.GetValue<bool>());
        Assert.DoesNotContain("Tiller talk", await server.Visitor().GetStringAsync("/p/both-ours/feed.ics"));
        Assert.DoesNotContain((await tomas.GetJsonAsync("/api/publications")).AsArray(), p => p!.Text("id") == made.Text("id"));

        // All there is of one taken out, it is down.
        var alone = await bea.PostAsync("/api/publications", Body("only-his", his));
        await tomas.PostAsync($"/api/publications/{alone.Text("id")}/take-out", new { calendarId = his.Text("id") });
        Assert.Equal(HttpStatusCode.Gone, (await server.Visitor().GetAsync("/p/only-his/feed.ics")).StatusCode);
    }

    [Fact]
    public async Task A_publication_is_handed_over()
    {
        var (bea, tomas) = (await server.SignedInAsync(Bea), await server.SignedInAsync(Tomas));
        var own = await CalendarAsync(bea, "Given on", "everything");
        var made = await bea.PostAsync("/api/publications", Body("given-on", own));
        var people = (await bea.GetJsonAsync("/api/people"))["people"]!.AsArray();
        await bea.PostAsJsonAsync($"/api/publications/{made.Text("id")}/hand-over", new { personId = Guid.NewGuid(), version = 1 }).ProblemAsync(404, "no_such_person");
        await bea.PostAsync($"/api/publications/{made.Text("id")}/hand-over", new { personId = people.Single(p => p!.Text("name") == "Tomas Reed")!.Text("id"), version = 1 });
        await tomas.PostAsync($"/api/publications/{made.Text("id")}/take-down", new { });
        Assert.Equal(HttpStatusCode.Gone, (await server.Visitor().GetAsync("/p/given-on/feed.ics")).StatusCode);
    }
}
