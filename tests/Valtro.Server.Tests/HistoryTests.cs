using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What was done is told, undone also by who has forgotten it, and taken out of the bin.</summary>
public sealed class HistoryTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static object Body(JsonNode calendar, string title, int? version = null) =>
        EventBody(calendar, title, AllDay("2044-03-03", "2044-03-03"), version: version);

    [Fact]
    public async Task An_event_tells_who_did_what_with_the_state_before_that_can_be_put_back()
    {
        var (marit, owen) = (await server.SignedInAsync(), await server.SignedInAsync("owen.tarbell@lanternfell.example"));
        var calendar = await marit.NewCalendarAsync("Told of");
        var made = await marit.PostAsync("/api/events", Body(calendar, "Keel"));
        var path = $"/api/events/{made.Text("id")}";
        await owen.PutAsync(path, Body(calendar, "Keel talk", 1));
        var history = (await marit.GetJsonAsync(path + "/history")).AsArray();
        Assert.Equal(["change Owen Tarbell", "create Marit Quill"], history.Select(h => h!.Text("action") + " " + h!.Text("person")));
        Assert.Equal(("Keel", "Keel talk"), (history[0]!["before"]!.Text("title"), history[0]!["after"]!.Text("title")));
        Assert.Null(history[1]!["before"]);
        await marit.PostAsync(path + "/undo", new { state = history[0]!["before"], version = 2 });
        Assert.Equal("Keel", (await marit.GetJsonAsync(path)).Text("title"));
        Assert.Equal(3, (await marit.GetJsonAsync(path + "/history")).AsArray().Count);
    }

    [Fact]
    public async Task Own_steps_of_the_last_hour_are_undone_one_after_the_other_and_others_never()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, owen) = (await own.SignedInAsync(), await own.SignedInAsync("owen.tarbell@lanternfell.example"));
        await marit.PostAsJsonAsync("/api/me/undo", new { }).ProblemAsync(404, "nothing_to_undo");
        var calendar = await marit.NewCalendarAsync("Steps");
        var made = await marit.PostAsync("/api/events", Body(calendar, "One"));
        var path = $"/api/events/{made.Text("id")}";
        await marit.PutAsync(path, Body(calendar, "Two", 1));
        await marit.PutAsync(path, Body(calendar, "Three", 2));
        await owen.PostAsJsonAsync("/api/me/undo", new { }).ProblemAsync(404, "nothing_to_undo");

        await marit.PostAsync("/api/me/undo", new { });
        Assert.Equal("Two", (await marit.GetJsonAsync(path)).Text("title"));
        // What somebody else did since is not thrown away.
        var now = await marit.GetJsonAsync(path);
        await owen.PutAsync(path, Body(calendar, "Owen’s", now.Number("version")));
        await marit.PostAsJsonAsync("/api/me/undo", new { }).ProblemAsync(409, "stale_version");
        await owen.PostAsync("/api/me/undo", new { });
        own.Clock.Now += Duration.FromMinutes(61);
        await marit.PostAsJsonAsync("/api/me/undo", new { }).ProblemAsync(404, "nothing_to_undo");
    }

    [Fact]
    public async Task Steps_on_calendars_and_lists_are_undone_in_their_turn()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var calendar = await client.NewCalendarAsync("In turn");
        await client.OpenAsync(calendar);
        var lists = (await client.GetJsonAsync("/api/lists")).AsObject();
        lists["noticeDays"] = 9;
        await client.PutAsync("/api/lists", lists);
        await client.PostAsync("/api/events", Body(calendar, "Keel"));
        async Task<JsonNode> UndoAsync() => await client.PostAsync("/api/me/undo", new { });
        async Task<JsonNode?> CalendarAsync() =>
            (await client.GetJsonAsync("/api/board?from=2044-03-01&to=2044-03-08"))["calendars"]!.AsArray().FirstOrDefault(c => c!.Text("id") == calendar.Text("id"));

        Assert.Equal("create", (await UndoAsync()).Text("action"));
        Assert.Equal(9, (await client.GetJsonAsync("/api/lists")).Number("noticeDays"));
        await UndoAsync();
        Assert.Equal(3, (await client.GetJsonAsync("/api/lists")).Number("noticeDays"));
        Assert.Equal("everything", (await CalendarAsync())!["reach"]!.Text("everyone"));
        await UndoAsync();
        Assert.Equal("nothing", (await CalendarAsync())!["reach"]!.Text("everyone"));
        Assert.Equal("In turn", (await UndoAsync())["titles"]![0]!.GetValue<string>());
        Assert.Null(await CalendarAsync());
        await client.PostAsJsonAsync("/api/me/undo", new { }).ProblemAsync(404, "nothing_to_undo");
    }

    [Fact]
    public async Task A_change_of_many_is_one_step()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Many");
        var (one, two) = (await client.PostAsync("/api/events", Body(calendar, "One")), await client.PostAsync("/api/events", Body(calendar, "Two")));
        object Chosen(JsonNode e) => new { eventId = e.Text("id"), date = "2044-03-03T00:00:00" };
        var changed = await client.PostAsync("/api/events/bulk", new { dates = new[] { Chosen(one), Chosen(two) }, moveDays = 2, place = "Quay" });
        Assert.Equal(2, changed["events"]!.AsArray().Count);
        Assert.Equal("2044-03-05T00:00:00", (await client.GetJsonAsync($"/api/events/{two.Text("id")}"))["timing"]!.Text("start"));
        await client.PostAsync("/api/me/undo", new { });
        foreach (var e in new[] { one, two })
            Assert.Equal(("2044-03-03T00:00:00", "Slip 1"), ((await client.GetJsonAsync($"/api/events/{e.Text("id")}"))["timing"]!.Text("start"), (await client.GetJsonAsync($"/api/events/{e.Text("id")}")).Text("place")));
        // Undone twice the events are not there any more: they were made in two steps before.
        await client.PostAsync("/api/me/undo", new { });
        Assert.True((await client.GetJsonAsync($"/api/events/{two.Text("id")}"))["inBin"]!.GetValue<bool>());

        await client.PostAsJsonAsync("/api/events/bulk", new { dates = Array.Empty<object>(), moveDays = 2 }).ProblemAsync(422, "selection_size");
        await client.PostAsJsonAsync("/api/events/bulk", new { dates = new[] { new { eventId = Guid.NewGuid(), date = "2044-03-03T00:00:00" } }, moveDays = 2 }).ProblemAsync(404, "no_such_event");
        // One that cannot be found keeps none of the others from being changed, and is named.
        var gone = Guid.NewGuid();
        var partly = await client.PostAsync("/api/events/bulk", new { dates = new object[] { Chosen(one), new { eventId = gone, date = "2044-03-03T00:00:00" } }, place = "Loft" });
        Assert.Equal((1, gone.ToString(), "no_such_event"), (partly["events"]!.AsArray().Count, partly["left"]![0]!.Text("eventId"), partly["left"]![0]!.Text("code")));
        await client.PostAsync("/api/me/undo", new { });
        var undone = await client.PostAsync("/api/events/bulk", new { dates = new[] { Chosen(one) }, deletes = true });
        await client.PostAsync("/api/events/undo", undone);
        Assert.False((await client.GetJsonAsync($"/api/events/{one.Text("id")}"))["inBin"]!.GetValue<bool>());
        await client.PostAsJsonAsync("/api/events/undo", undone).ProblemAsync(409, "stale_version");
    }

    [Fact]
    public async Task The_bin_keeps_for_thirty_days()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var client = await own.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Thrown");
        var made = await client.PostAsync("/api/events", Body(calendar, "Old rope"));
        await client.DeleteAsync($"/api/events/{made.Text("id")}?version=1");
        var binned = Assert.Single((await client.GetJsonAsync("/api/bin")).AsArray())!;
        Assert.Equal(("Old rope", made.Text("id")), (binned.Text("title"), binned.Text("id")));
        await client.OpenAsync(calendar);
        await client.PublishAsync("bin-feed", calendar);
        async Task<DateTimeOffset?> ChangedAsync() => (await own.Visitor().GetAsync("/p/bin-feed/feed.ics")).Content.Headers.LastModified;
        var changed = await ChangedAsync();
        var db = (Store.Connections)own.Services.GetService(typeof(Store.Connections))!;
        var school = Guid.Parse((await client.GetJsonAsync("/api/session"))["school"]!.Text("id"));
        Assert.Equal(0, await Store.CommandWork.EmptyBinAsync(db, school, own.Clock.Now + Duration.FromDays(29)));
        Assert.Equal(1, await Store.CommandWork.EmptyBinAsync(db, school, own.Clock.Now + Duration.FromDays(31)));
        Assert.Empty((await client.GetJsonAsync("/api/bin")).AsArray());
        // Its readers were told nothing of it, in the bin or out of it.
        Assert.Equal(changed, await ChangedAsync());
    }
}
