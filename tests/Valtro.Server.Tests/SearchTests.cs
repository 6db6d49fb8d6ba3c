using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

public sealed class SearchTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private static async Task<string[]> FoundAsync(HttpClient client, string q) =>
        [.. (await client.GetJsonAsync("/api/search?q=" + Uri.EscapeDataString(q))).AsArray().Select(h => h!.Text("title"))];

    [Theory]
    [InlineData("pilot gig")]
    [InlineData("PILOT")]
    [InlineData("pilto gig")]
    [InlineData("epissoir")]
    [InlineData("Épissoir")]
    [InlineData("tarred twine")]
    [InlineData("#gunwale")]
    [InlineData("crow")]
    public async Task An_event_is_found_by_its_words_without_accents_and_with_an_error(string q)
    {
        var client = await fixture.Server.SignedInAsync();
        if ((await FoundAsync(client, "Pilot gig builders")).Length == 0)
        {
            var calendar = await client.NewCalendarAsync("Searched");
            await client.PostAsync("/api/events", new
            {
                calendarId = calendar.Text("id"),
                title = "Pilot gig builders",
                place = "Crow’s nest",
                description = "Bring an épissoir",
                timing = Timed("2027-03-03T09:00:00", "2027-03-03T10:00:00"),
                rule = Weekly("wednesday"),
                facts = new { subtitle = "Tarred twine for all", tags = new[] { "gunwale" } },
            });
        }
        Assert.Equal("Pilot gig builders", (await FoundAsync(client, q))[0]);
    }

    [Fact]
    public async Task The_next_date_is_told_the_last_one_of_what_is_over_and_nothing_of_what_is_gone()
    {
        var client = await fixture.Server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Search dates");
        await client.PostAsync("/api/events", EventBody(calendar, "Zephyr lesson", Timed("2026-01-06T09:00:00", "2026-01-06T10:00:00"), Weekly("tuesday")));
        var over = await client.PostAsync("/api/events", EventBody(calendar, "Zephyr launch", AllDay("2025-05-05", "2025-05-05")));
        var hits = (await client.GetJsonAsync("/api/search?q=zephyr")).AsArray();
        // The clock stands on Monday 23 November 2026.
        Assert.Equal("2026-11-24", hits.Single(h => h!.Text("title") == "Zephyr lesson")!.Text("day"));
        var launch = hits.Single(h => h!.Text("title") == "Zephyr launch")!;
        Assert.Equal(("2025-05-05", true), (launch.Text("day"), launch["isOver"]!.GetValue<bool>()));
        await client.DeleteAsync($"/api/events/{over.Text("id")}?version=1");
        Assert.DoesNotContain("Zephyr launch", await FoundAsync(client, "zephyr"));
    }

    [Theory]
    [InlineData("")]
    [InlineData("x")]
    [InlineData("qqqqwwwweeee")]
    [InlineData("100%")]
    [InlineData("a' or 1=1 --")]
    [InlineData("\"( & | ! :* <->")]
    public async Task What_finds_nothing_is_no_error(string q) =>
        Assert.DoesNotContain("Pilot gig builders", await FoundAsync(await fixture.Server.SignedInAsync(), q));
}
