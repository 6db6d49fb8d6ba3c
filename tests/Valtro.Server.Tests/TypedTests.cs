namespace Valtro.Server.Tests;

public sealed class TypedTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private static string? Day(JsonNode typed) => typed["day"]?.GetValue<string>();

    private static Task<JsonNode> ReadAsync(HttpClient client, string text, string language = "en", string near = "2026-11-23") =>
        client.GetJsonAsync($"/api/typed?text={Uri.EscapeDataString(text)}&near={near}&language={language}");

    [Fact]
    public async Task A_typed_day_is_read_as_its_person_writes_days_in_fields_and_lines()
    {
        var marit = await fixture.Server.SignedInAsync();
        Assert.Equal("2026-12-05", Day(await ReadAsync(marit, "5/12")));
        await marit.PutAsJsonAsync("/api/me/settings", new { dateOrder = "monthFirst" });
        Assert.Equal("2027-05-12", Day(await ReadAsync(marit, "5/12")));
        // In French the day stands first, whoever writes it.
        Assert.Equal("2026-12-05", Day(await ReadAsync(marit, "5/12", "fr")));
        var calendar = (await marit.GetJsonAsync("/api/board?from=2026-11-23&to=2026-11-24"))["calendars"]!.AsArray()[0]!;
        var line = await marit.PostAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2026-11-23", text = "Regatta 5/12", language = "en" });
        Assert.StartsWith("2027-05-12", line["timing"]!.Text("start"));
        var french = await marit.PostAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2026-11-23", text = "Régate 5/12", language = "fr" });
        Assert.StartsWith("2026-12-05", french["timing"]!.Text("start"));
        await marit.PutAsJsonAsync("/api/me/settings", new { });
    }

    [Theory]
    [InlineData("fri", "2026-11-27", null, "")]
    [InlineData("9h30", null, "09:30", null)]
    [InlineData("Storm closure 27 Nov", null, null, "Storm closure")]
    // The demo school's autumn term has eleven weeks until then, closed weeks not counted.
    [InlineData("week 11", "2026-11-23", null, "")]
    [InlineData("", null, null, null)]
    public async Task What_is_typed_is_told_as_what_it_is(string text, string? day, string? clock, string? name)
    {
        var typed = await ReadAsync(await fixture.Server.SignedInAsync(), text);
        Assert.Equal((day, clock, name), (Day(typed), typed["clock"]?.GetValue<string>(), typed["span"]?["name"]!.GetValue<string>()));
    }
}
