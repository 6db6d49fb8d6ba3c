using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Files that are brought in: shown before, done as one step, known again, and nothing half done.</summary>
public sealed class BringingTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Tomas = "tomas.reed@lanternfell.example";

    private readonly Server server = fixture.Server;

    private static string Ics(params (string Uid, string Title, string Start)[] events) =>
        "BEGIN:VCALENDAR\r\n" + string.Concat(events.Select(e => $"BEGIN:VEVENT\r\nUID:{e.Uid}\r\nSUMMARY:{e.Title}\r\nDTSTART;TZID=America/Halifax:{e.Start}\r\nDURATION:PT1H\r\nEND:VEVENT\r\n")) + "END:VCALENDAR\r\n";

    private static async Task<JsonNode> LayAsync(HttpClient client, string text, string name = "autumn.ics") =>
        await (await client.PostAsync($"/api/bringing?name={name}", new StringContent(text))).JsonAsync();

    private static string Counts(JsonNode what) => string.Join(' ', what["counts"]!.AsArray().Select(c => $"{c!.Text("kind")} {c!.Number("count")}").Order());

    private static async Task<List<string>> TitlesAsync(HttpClient client, JsonNode calendar) =>
        [.. (await client.GetJsonAsync("/api/board?from=2026-12-01&to=2027-01-20"))["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == calendar.Text("id")).Select(o => $"{o!.Text("title")} {o!.Text("start")[5..10]}").Order()];

    [Fact]
    public async Task A_file_is_shown_first_brought_in_as_one_step_and_known_again()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("Brought");
        var choices = new { calendarId = calendar.Text("id") };
        var file = await LayAsync(marit, Ics(("a", "Open day", "20261203T100000"), ("b", "Regatta", "20261204T100000"), ("c", "Old", "20200103T100000")));
        Assert.Equal(("calendar", "left 3"), (file.Text("form"), Counts(file["what"]!)));
        var path = $"/api/bringing/{file.Text("id")}";
        var shown = await marit.PostAsync(path + "/look", new { choices.calendarId, from = "2026-08-01", to = "2027-07-31" });
        Assert.Equal("new 2 outside 1", Counts(shown["what"]!));
        Assert.Empty(await TitlesAsync(marit, calendar));
        var done = await marit.PostAsync(path, new { choices.calendarId, from = "2026-08-01", to = "2027-07-31" });
        Assert.Equal("new 2 outside 1", Counts(done));
        Assert.Equal(["Open day 12-03", "Regatta 12-04"], await TitlesAsync(marit, calendar));

        // Once more: nothing. Changed: what changed, and what was changed here stays.
        Assert.Equal("outside 1 same 2", Counts((await marit.PostAsync(path + "/look", new { choices.calendarId, from = "2026-08-01", to = "2027-07-31" }))["what"]!));
        var next = await LayAsync(marit, Ics(("a", "Open days", "20261203T100000"), ("d", "New one", "20261209T100000")));
        var rows = (await marit.PostAsync($"/api/bringing/{next.Text("id")}/look", choices))["what"]!;
        Assert.Equal("changed 1 gone 1 new 1", Counts(rows));
        await marit.PostAsync($"/api/bringing/{next.Text("id")}", choices);
        Assert.Equal(["New one 12-09", "Open days 12-03", "Regatta 12-04"], await TitlesAsync(marit, calendar));

        // One step back, and one more; then the file brings all of it once more.
        await marit.PostAsync("/api/me/undo", new { step = (string?)null });
        Assert.Equal(["Open day 12-03", "Regatta 12-04"], await TitlesAsync(marit, calendar));
        await marit.PostAsync("/api/me/undo", new { step = (string?)null });
        Assert.Empty(await TitlesAsync(marit, calendar));
        Assert.Equal("new 2", Counts(await marit.PostAsync($"/api/bringing/{next.Text("id")}", choices)));
        Assert.Equal(["New one 12-09", "Open days 12-03"], await TitlesAsync(marit, calendar));
        var record = (await marit.GetJsonAsync("/api/bringing")).AsArray().First(b => b!["calendarIds"]!.AsArray().Any(c => c!.GetValue<string>() == calendar.Text("id")))!;
        Assert.Equal(("autumn.ics", "Marit Quill", 2), (record.Text("name"), record.Text("person"), record.Number("added")));
    }

    [Fact]
    public async Task A_table_comes_by_its_columns_to_calendars_by_theirs_and_is_known_by_its_shape()
    {
        var marit = await server.SignedInAsync();
        var (a, b) = (await marit.NewCalendarAsync("Rigging 8"), await marit.NewCalendarAsync("Navigation 8"));
        const string Text = "Was,Wann,Class\nKnots,2026-12-03,Rigging 8\nStars,2026-12-04,NAV 8\nLate,soon,Rigging 8";
        var file = await LayAsync(marit, Text, "plan.csv");
        Assert.Equal(("table", "Was", "title"), (file.Text("form"), file["columns"]![0]!.Text("header"), file["columns"]![0]!.Text("meaning")));
        Assert.Equal(["NAV 8", "Rigging 8"], file["what"]!["groups"]!.AsArray().Select(g => g!.Text("name")));
        Assert.Equal([b.Text("id"), a.Text("id")], file["what"]!["groups"]!.AsArray().Select(g => g!.Text("calendarId")));
        var columns = new[] { "title", "date", "calendar" };
        var byGroup = new Dictionary<string, string?> { ["NAV 8"] = b.Text("id"), ["Rigging 8"] = a.Text("id") };
        await marit.PostAsync($"/api/bringing/{file.Text("id")}", new { byGroup, columns });
        Assert.Equal(["Knots 12-03"], await TitlesAsync(marit, a));
        Assert.Equal(["Stars 12-04"], await TitlesAsync(marit, b));
        // A column said otherwise is said so again for the next table of this shape.
        await marit.PostAsync($"/api/bringing/{file.Text("id")}", new { calendarId = a.Text("id"), columns = new[] { "description", "date", "title" } });
        var next = await LayAsync(marit, "WAS,wann,class\nBowline,2027-01-03,Rigging 8", "next.csv");
        Assert.Equal(["description", "date", "title"], next["columns"]!.AsArray().Select(c => c!.Text("meaning")));
    }

    [Fact]
    public async Task Two_who_bring_in_the_same_at_once_bring_it_once()
    {
        var (marit, tomas) = (await server.SignedInAsync(), await server.SignedInAsync(Tomas));
        var calendar = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-02"))["calendars"]!.AsArray().Single(c => c!.Text("title") == "Rigging 2")!;
        var text = Ics([.. Enumerable.Range(0, 40).Select(i => ($"t{i}", $"Twice {i}", "20270105T100000"))]);
        var files = await Task.WhenAll(LayAsync(marit, text), LayAsync(tomas, text));
        await Task.WhenAll(
            marit.PostAsync($"/api/bringing/{files[0].Text("id")}", new { calendarId = calendar.Text("id") }),
            tomas.PostAsync($"/api/bringing/{files[1].Text("id")}", new { calendarId = calendar.Text("id") }));
        Assert.Equal(40, (await TitlesAsync(marit, calendar)).Count(t => t.StartsWith("Twice", StringComparison.Ordinal)));
    }

    [Fact]
    public async Task Nobody_brings_into_calendars_of_others_or_looks_at_files_of_others()
    {
        var (marit, tomas) = (await server.SignedInAsync(), await server.SignedInAsync(Tomas));
        var hidden = await marit.NewCalendarAsync("Hers alone");
        var file = await LayAsync(tomas, Ics(("h", "Spy", "20261203T100000")));
        foreach (var verb in new[] { "/look", "" })
            Assert.Contains((int)(await tomas.PostAsJsonAsync($"/api/bringing/{file.Text("id")}{verb}", new { calendarId = hidden.Text("id") })).StatusCode, new[] { 403, 404 });
        Assert.Empty(await TitlesAsync(marit, hidden));
        await marit.PostAsJsonAsync($"/api/bringing/{file.Text("id")}/look", new { }).ProblemAsync(404, "no_such_bringing");
        // What the same file brought to calendars of others is nothing to somebody who does not keep them.
        var hers = await LayAsync(marit, Ics(("h", "Spy", "20261203T100000")));
        await marit.PostAsync($"/api/bringing/{hers.Text("id")}", new { calendarId = hidden.Text("id") });
        var own = await tomas.NewCalendarAsync("His");
        Assert.Equal("new 1", Counts((await tomas.PostAsync($"/api/bringing/{file.Text("id")}/look", new { calendarId = own.Text("id") }))["what"]!));
        Assert.DoesNotContain((await tomas.GetJsonAsync("/api/bringing")).AsArray(), b => b!["calendarIds"]!.AsArray().Any(c => c!.GetValue<string>() == hidden.Text("id")));
    }

    [Theory]
    [InlineData("<!doctype html><title>Calendar</title>", "web_page")]
    [InlineData("Nothing but words", "not_a_calendar")]
    [InlineData("", "file_empty")]
    public async Task What_cannot_be_read_is_told_and_nothing_is_kept(string text, string code)
    {
        var marit = await server.SignedInAsync();
        await marit.PostAsync("/api/bringing?name=x.ics", new StringContent(text)).ProblemAsync(422, code);
    }

    [Fact]
    public async Task Clashes_and_closures_are_told_before_anything_is_saved()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("With clashes");
        await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Keel laying", place = "Slip 9", description = "", timing = Timed("2026-12-03T10:00:00", "2026-12-03T11:00:00"), facts = new { } });
        var year = (await marit.GetJsonAsync("/api/school-years")).AsArray()[0]!;
        var closure = year["closures"]!.AsArray().Select(c => c!).First(c => string.CompareOrdinal(c.Text("first"), "2026-12-01") > 0);
        var file = await LayAsync(marit, $"Title,Date,Start,End,Place\nTwo at once,2026-12-03,10:30,11:30,Slip 9\nOn a closure,{closure.Text("first")},10:00,11:00,Slip 8\nFine,2026-12-03,14:00,15:00,Slip 9", "plan.csv");
        var rows = (await marit.PostAsync($"/api/bringing/{file.Text("id")}/look", new { calendarId = calendar.Text("id") }))["what"]!["rows"]!.AsArray().ToDictionary(r => r!.Text("title"), r => r!);
        Assert.Equal((1, 0), (rows["Two at once"].Number("clashes"), rows["Fine"].Number("clashes")));
        Assert.Equal(closure.Text("name"), rows["On a closure"].Text("closure"));
    }
}
