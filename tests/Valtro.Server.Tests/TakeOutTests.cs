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
