using System.IO.Compression;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What is in can be taken out, and comes in again as it was.</summary>
public sealed class TakeOutTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private static async Task<string> BringAsync(HttpClient client, byte[] file, string name, JsonNode calendar)
    {
        var laid = await (await client.PostAsync($"/api/bringing?name={name}", new ByteArrayContent(file))).JsonAsync();
        var done = await client.PostAsync($"/api/bringing/{laid.Text("id")}", new { calendarId = calendar.Text("id") });
        return string.Join(' ', done["counts"]!.AsArray().Select(c => $"{c!.Text("kind")} {c!.Number("count")}"));
    }

    private async Task<(HttpClient Marit, JsonNode Calendar)> FilledAsync(string title)
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync(title);
        var file = await (await marit.PostAsync("/api/files?name=slip.txt", new StringContent("Rope"))).JsonAsync();
        await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Rigging test, one", place = "Loft 2", description = "<p>Bring <strong>rope</strong></p>", timing = Timed("2026-12-01T09:30:00", "2026-12-01T11:00:00"), facts = new { subtitle = "Knots", tags = new[] { "late" }, files = new[] { file } } });
        await marit.PostAsync("/api/events", EventBody(calendar, "Row", Timed("2026-12-02T07:00:00", "2026-12-02T08:00:00"), Weekly("wednesday")));
        await marit.PostAsync("/api/events", EventBody(calendar, "=1+1", AllDay("2026-12-05", "2026-12-06")));
        return (marit, calendar);
    }

    [Fact]
    public async Task A_calendar_file_comes_in_elsewhere_as_it_was_and_goes_out_the_same()
    {
        var (marit, calendar) = await FilledAsync("To keep");
        var first = await marit.GetByteArrayAsync($"/api/calendars/{calendar.Text("id")}/export/ics");
        // In another school nothing has these identities.
        await using var other = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var away = await other.SignedInAsync();
        var home = await away.PostAsync("/api/calendars", CalendarBody("To keep"));
        Assert.Equal("new 3", await BringAsync(away, first, "to-keep.ics", home));
        var second = await away.GetByteArrayAsync($"/api/calendars/{home.Text("id")}/export/ics");
        Assert.Equal(System.Text.Encoding.UTF8.GetString(first), System.Text.Encoding.UTF8.GetString(second));
    }

    [Fact]
    public async Task What_was_chosen_is_taken_out_as_far_as_it_is_read()
    {
        var (marit, calendar) = await FilledAsync("Some of it");
        var events = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-08"))["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == calendar.Text("id")).ToDictionary(o => o!.Text("title"), o => o!.Text("eventId"));
        var draft = await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Not yet", timing = Timed("2026-12-01T12:00:00", "2026-12-01T13:00:00"), facts = new { isDraft = true } });
        async Task<string> TakenAsync(HttpClient by, params string[] ids) => await (await by.PostAsJsonAsync("/api/export/events", new { eventIds = ids })).Content.ReadAsStringAsync();
        var both = await TakenAsync(marit, events["Row"], draft.Text("id"));
        Assert.Equal(2, both.Split("BEGIN:VEVENT").Length - 1);
        Assert.Contains("RRULE:FREQ=WEEKLY", both);
        // A colleague takes out what they read, and is told of no more.
        var tomas = await server.SignedInAsync("tomas.reed@lanternfell.example");
        Assert.DoesNotContain("Not yet", await TakenAsync(tomas, events["Row"], draft.Text("id")));
        await tomas.PostAsJsonAsync("/api/export/events", new { eventIds = new[] { draft.Text("id") } }).ProblemAsync(404, "no_such_event");
        await marit.PostAsJsonAsync("/api/export/events", new { eventIds = Array.Empty<string>() }).ProblemAsync(422, "selection_size");
    }

    [Fact]
    public async Task Files_that_stand_within_a_file_are_checked_and_kept_and_plain_json_comes_in_again()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("With files within");
        string Event(string uid, string title, string attach) => $"BEGIN:VEVENT\r\nUID:{uid}\r\nSUMMARY:{title}\r\nDTSTART:20261203T090000\r\n{attach}END:VEVENT\r\n";
        string Inline(string name, string text) => $"ATTACH;FILENAME={name};VALUE=BINARY;ENCODING=BASE64:{Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes(text))}\r\n";
        var file = System.Text.Encoding.UTF8.GetBytes(
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + Event("within-1", "Sheet within", Inline("sheet.pdf", "%PDF-1.7 sheet")) + Event("within-2", "Program within", Inline("run.pdf", "MZ not a sheet")) + "END:VCALENDAR\r\n");
        Assert.Equal("new 2", await BringAsync(marit, file, "within.ics", calendar));
        var events = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-08"))["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == calendar.Text("id")).ToDictionary(o => o!.Text("title"), o => o!.Text("eventId"));
        var sheet = Assert.Single((await marit.GetJsonAsync($"/api/events/{events["Sheet within"]}"))["facts"]!["files"]!.AsArray())!;
        Assert.Equal(("sheet.pdf", "%PDF-1.7 sheet"), (sheet.Text("name"), await marit.GetStringAsync($"/api/events/{events["Sheet within"]}/files/{sheet.Text("id")}")));
        Assert.Empty((await marit.GetJsonAsync($"/api/events/{events["Program within"]}"))["facts"]!["files"]!.AsArray());
        // The same file again is the same.
        Assert.Equal("same 2", await BringAsync(marit, file, "within.ics", calendar));

        // What somebody else brought and let lie is brought by whoever brings it next.
        var loose = System.Text.Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + Event("within-3", "Loose", Inline("loose.pdf", "%PDF-1.7 loose")) + "END:VCALENDAR\r\n");
        var laid = await (await marit.PostAsync("/api/bringing?name=loose.ics", new ByteArrayContent(loose))).JsonAsync();
        await marit.PostAsync($"/api/bringing/{laid.Text("id")}", new { calendarId = calendar.Text("id"), leaves = new[] { "within-3" } });
        var bea = await server.SignedInAsync("bea.lindqvist@lanternfell.example");
        Assert.Equal("new 1", await BringAsync(bea, loose, "loose.ics", await bea.NewCalendarAsync("Bea brings")));

        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "everything", everyone = "everything", version = calendar.Number("version") });
        await marit.PostAsync("/api/publications", new { key = "plain-again", title = "Plain", introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "list", language = "en" });
        var plain = await server.Visitor().GetByteArrayAsync("/p/plain-again/dates.json");
        var copy = await marit.NewCalendarAsync("From plain JSON");
        Assert.Equal("new 2", await BringAsync(marit, plain, "dates.json", copy));
        Assert.Equal("same 2", await BringAsync(marit, plain, "dates.json", copy));
    }

    [Theory]
    [InlineData("csv")]
    [InlineData("xlsx")]
    public async Task Tables_have_the_columns_that_are_read_again(string form)
    {
        var (marit, calendar) = await FilledAsync("As a table " + form);
        var table = await marit.GetByteArrayAsync($"/api/calendars/{calendar.Text("id")}/export/{form}");
        var copy = await marit.NewCalendarAsync("From a table " + form);
        Assert.Equal("new 3", await BringAsync(marit, table, "table." + form, copy));
        var there = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-08"))["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == copy.Text("id")).Select(o => $"{o!.Text("title")} {o!.Text("start")[5..16]}").Order().ToList();
        // No spreadsheet takes a title for a formula.
        Assert.Equal([form == "csv" ? "'=1+1 12-05T00:00" : "=1+1 12-05T00:00", "Rigging test, one 12-01T09:30", "Row 12-02T07:00"], there);
    }

    [Fact]
    public async Task The_whole_school_has_every_calendar_and_its_files_and_is_administrators_alone()
    {
        var (marit, _) = await FilledAsync("In the zip");
        using var zip = new ZipArchive(await marit.GetStreamAsync("/api/export.zip"));
        var names = zip.Entries.Select(e => e.FullName).ToList();
        Assert.Contains("School diary.ics", names);
        var file = Assert.Single(zip.Entries, e => e.FullName.StartsWith("files/In the zip/", StringComparison.Ordinal));
        using var text = new StreamReader(file.Open());
        Assert.Equal("Rope", await text.ReadToEndAsync());
        var tomas = await server.SignedInAsync("tomas.reed@lanternfell.example");
        await tomas.GetAsync("/api/export.zip").ProblemAsync(403, "not_allowed");
    }
}
