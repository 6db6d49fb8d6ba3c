using Microsoft.Extensions.DependencyInjection;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>The link of a date, whatever becomes of the date; and what a person meets where there is nothing.</summary>
public sealed class DateLinkTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static Dictionary<string, object?> Body(JsonNode calendar, string title, string start, string end, string? day, string? scope = null, string? date = null, int? version = null) => new()
    {
        ["calendarId"] = calendar.Text("id"),
        ["title"] = title,
        ["place"] = "Slip 1",
        ["description"] = "",
        ["timing"] = Timed(start, end),
        ["rule"] = day is null ? null : Weekly(day),
        ["facts"] = new { },
        ["scope"] = scope,
        ["date"] = date,
        ["version"] = version,
    };

    private async Task<(HttpClient Marit, JsonNode Calendar)> PublishedAsync(string title, string key)
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync(title));
        await marit.PublishAsync(key, calendar);
        return (marit, calendar);
    }

    private async Task<(HttpStatusCode Status, string Text, string Type)> AskAsync(string path, string accept = "text/html")
    {
        var request = new HttpRequestMessage(HttpMethod.Get, path);
        request.Headers.Accept.ParseAdd(accept);
        var answer = await server.Visitor().SendAsync(request);
        return (answer.StatusCode, WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync()), answer.Content.Headers.ContentType?.MediaType ?? "");
    }

    [Fact]
    public async Task A_link_follows_its_date_through_every_change()
    {
        var (marit, calendar) = await PublishedAsync("Followed dates", "followed");
        var e = await marit.PostAsync("/api/events", Body(calendar, "Keel walk", "2026-11-26T18:00:00", "2026-11-26T20:00:00", "thursday"));
        var id = e.Text("id");
        var (early, late) = ($"/p/followed/e/{id}-20261203T1800", $"/p/followed/e/{id}-20270107T1800");
        Assert.Contains("Thursday 3 December 2026, 18:00–20:00", (await AskAsync(early)).Text);

        // The whole series an hour later.
        e = await marit.PutAsync($"/api/events/{id}", Body(calendar, "Keel walk", "2026-11-26T19:00:00", "2026-11-26T21:00:00", "thursday", "everyDate", "2026-11-26T18:00:00", 1));
        Assert.Contains("Thursday 3 December 2026, 19:00–21:00", (await AskAsync(early)).Text);
        // From a date on another day, in an event of its own.
        await marit.PutAsync($"/api/events/{id}", Body(calendar, "Keel walk by night", "2027-01-08T21:00:00", "2027-01-08T22:00:00", "friday", "fromThisDate", "2027-01-07T19:00:00", 2));
        Assert.Contains("Friday 8 January 2027, 21:00–22:00", (await AskAsync(late)).Text);
        Assert.Contains("Thursday 3 December 2026, 19:00–21:00", (await AskAsync(early)).Text);
        var atom = (await AskAsync("/p/followed/atom.xml")).Text;
        Assert.Contains($"/e/{id}-20270107T1800</id>", atom);
        Assert.Contains($"\"id\":\"{id}-20261203T1800\"", (await AskAsync("/p/followed/dates.json", "application/json")).Text);

        // Called off, it says so; taken out, it says what is on instead.
        await marit.PostAsync($"/api/events/{id}/call-off", new { date = "2026-12-03T19:00:00", version = 3 });
        Assert.Contains("called off", (await AskAsync(early)).Text);
        await marit.PostAsync($"/api/events/{id}/leave-out", new { date = "2026-12-03T19:00:00", version = 4 });
        var gone = await AskAsync(early);
        Assert.Equal((HttpStatusCode.Gone, "text/html"), (gone.Status, gone.Type));
        Assert.Contains("This is no longer planned", gone.Text);
        Assert.Contains("Thursday 10 December 2026, 19:00–21:00", gone.Text);
        Assert.Equal(HttpStatusCode.Gone, (await AskAsync(early + ".ics")).Status);
        // Undone, it is there again.
        await marit.PostAsync("/api/me/undo", new { });
        Assert.Contains("called off", (await AskAsync(early)).Text);
    }

    [Fact]
    public async Task A_one_time_event_keeps_its_link_in_another_calendar_and_is_gone_with_the_bin()
    {
        var (marit, calendar) = await PublishedAsync("Here at first", "one-time");
        var other = await marit.OpenAsync(await marit.NewCalendarAsync("There afterwards"));
        var hidden = await marit.NewCalendarAsync("Never shown");
        await marit.PostAsync("/api/publications", new { key = "both-of-them", title = "Both", introduction = "", calendarIds = new[] { calendar.Text("id"), other.Text("id"), hidden.Text("id") }, firstView = "list", language = "fr" });
        var e = await marit.PostAsync("/api/events", Body(calendar, "Lamp race", "2026-12-01T18:00:00", "2026-12-01T20:00:00", null));
        var link = $"/p/both-of-them/e/{e.Text("id")}-20261201T1800";
        await marit.PutAsync($"/api/events/{e.Text("id")}", Body(other, "Lamp race", "2027-02-14T10:00:00", "2027-02-14T11:00:00", null, "everyDate", "2026-12-01T18:00:00", 1));
        Assert.Contains("14 février 2027", (await AskAsync(link)).Text);
        // Where its new calendar does not go out it tells no more than of a date that never was.
        Assert.Equal(HttpStatusCode.NotFound, (await AskAsync(link.Replace("both-of-them", "one-time"))).Status);
        await marit.DeleteAsync($"/api/events/{e.Text("id")}?version=2");
        var gone = await AskAsync(link);
        Assert.Equal(HttpStatusCode.Gone, gone.Status);
        Assert.Contains("Ce n’est plus prévu", gone.Text);

        // What was never shown is not told to have been there.
        var secret = await marit.PostAsync("/api/events", Body(hidden, "Hush", "2026-12-01T18:00:00", "2026-12-01T20:00:00", null));
        await marit.DeleteAsync($"/api/events/{secret.Text("id")}?version=1");
        Assert.Equal(HttpStatusCode.NotFound, (await AskAsync($"/p/both-of-them/e/{secret.Text("id")}-20261201T1800")).Status);

        // Long after the bin was emptied, too.
        server.Clock.Now += Duration.FromDays(31);
        await server.Services.GetServices<Jobs.IJob>().OfType<Commands.BinKeeper>().Single().RunAsync(CancellationToken.None);
        Assert.Equal(HttpStatusCode.Gone, (await AskAsync(link)).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await AskAsync($"/p/both-of-them/e/{secret.Text("id")}-20261201T1800")).Status);
        server.Clock.Now -= Duration.FromDays(31);
    }

    [Fact]
    public async Task Search_engines_are_told_where_a_date_is_and_when_it_was_to_be()
    {
        var (marit, calendar) = await PublishedAsync("Told to engines", "told-to-engines");
        var body = Body(calendar, "Sail talk", "2026-11-26T18:00:00", "2026-11-26T20:00:00", "thursday");
        body["place"] = "";
        var e = await marit.PostAsync("/api/events", body);
        body = Body(calendar, "Sail talk", "2026-12-04T09:00:00", "2026-12-04T10:00:00", "thursday", "thisDate", "2026-12-03T18:00:00", 1);
        body["place"] = "";
        await marit.PutAsync($"/api/events/{e.Text("id")}", body);
        var html = (await AskAsync($"/p/told-to-engines/e/{e.Text("id")}-20261203T1800")).Text;
        var data = JsonNode.Parse(html.Split("application/ld+json\">")[1].Split("</script>")[0])!;
        Assert.Equal(("2026-12-04T09:00:00-04:00", "2026-12-03T18:00:00-04:00", "https://schema.org/EventRescheduled"), (data.Text("startDate"), data.Text("previousStartDate"), data.Text("eventStatus")));
        Assert.StartsWith("Lanternfell", data["location"]!.Text("name"));
    }

    [Fact]
    public async Task A_series_that_is_moved_tells_when_its_dates_were_to_be()
    {
        var (marit, calendar) = await PublishedAsync("Moved as a whole", "moved-as-a-whole");
        var e = await marit.PostAsync("/api/events", Body(calendar, "Oar talk", "2026-11-26T18:00:00", "2026-11-26T20:00:00", "thursday"));
        await marit.PutAsync($"/api/events/{e.Text("id")}", Body(calendar, "Oar talk", "2026-11-26T19:30:00", "2026-11-26T21:30:00", "thursday", "everyDate", "2026-11-26T18:00:00", 1));
        var html = (await AskAsync($"/p/moved-as-a-whole/e/{e.Text("id")}-20261203T1800")).Text;
        var data = JsonNode.Parse(html.Split("application/ld+json\">")[1].Split("</script>")[0])!;
        Assert.Equal(("2026-12-03T19:30:00-04:00", "2026-12-03T18:00:00-04:00"), (data.Text("startDate"), data.Text("previousStartDate")));
    }

    [Fact]
    public async Task Where_there_is_nothing_a_person_reads_words_and_a_program_gets_what_it_asked_for()
    {
        await PublishedAsync("Words for people", "said-in-words");
        foreach (var path in new[] { "/p", "/p/", "/p/said-in-words/nothing/here", "/p/nobody-has-this", "/p/said-in-words/e/nonsense", "/p/said-in-words/files/00000000-0000-0000-0000-000000000001", $"/p/{new string('x', 300)}" })
        {
            var answer = await AskAsync(path);
            Assert.Equal((path, HttpStatusCode.NotFound, "text/html"), (path, answer.Status, answer.Type));
            Assert.Contains("<h1>", answer.Text);
        }
        var json = await AskAsync("/p/said-in-words/events.json?from=never&to=2027-01-01", "application/json");
        Assert.Equal("application/problem+json", json.Type);
        // Capitals mean the same.
        var shout = await AskAsync("/p/Said-In-WORDS");
        Assert.Equal(HttpStatusCode.OK, shout.Status);
        Assert.Equal((await AskAsync("/p/said-in-words")).Text, shout.Text);
    }
}
