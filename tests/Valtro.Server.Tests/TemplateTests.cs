using Microsoft.Extensions.DependencyInjection;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What events are started from.</summary>
public sealed class TemplateTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    [Fact]
    public async Task A_template_holds_an_event_cleaned_and_goes_under_its_own_name()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Templates");
        object Input(string name, string title = "Evening for families") => new
        {
            name,
            @event = new
            {
                calendarId = calendar.Text("id"),
                title,
                place = "Great hall",
                description = "<p onclick=x>Bring <b>cake</b></p>",
                timing = Timed("2043-01-05T18:00:00", "2043-01-05T20:00:00"),
                facts = new { reminder = 60, tags = new[] { "#cake" } },
            },
        };
        var made = await client.PostAsync("/api/templates", Input("Families"));
        Assert.Equal("<p>Bring <strong>cake</strong></p>", made["event"]!.Text("description"));
        Assert.Equal("cake", made["event"]!["facts"]!["tags"]![0]!.GetValue<string>());
        await client.PostAsJsonAsync("/api/templates", Input("families")).ProblemAsync(409, "key_taken");
        await client.PostAsJsonAsync("/api/templates", Input(" ")).ProblemAsync(422, "title_missing");
        await client.PostAsJsonAsync("/api/templates", Input("No title", "")).ProblemAsync(422, "title_missing");
        await client.PutAsync($"/api/templates/{made.Text("id")}", Input("Evening of families"));
        Assert.Equal("Evening of families", Assert.Single((await client.GetJsonAsync("/api/templates")).AsArray(), t => t!.Text("id") == made.Text("id"))!.Text("name"));
        Assert.Equal(HttpStatusCode.NoContent, (await client.DeleteAsync($"/api/templates/{made.Text("id")}")).StatusCode);
        await client.DeleteAsync($"/api/templates/{made.Text("id")}").ProblemAsync(404, "no_such_template");
    }

    [Fact]
    public async Task A_template_keeps_files_for_whoever_starts_from_it_and_hands_on_none_its_keeper_may_not_read()
    {
        var (marit, bea) = (await server.SignedInAsync(), await server.SignedInAsync("bea.lindqvist@lanternfell.example"));
        var calendar = await marit.NewCalendarAsync("Templates with files");
        var file = await (await marit.PostAsync("/api/files?name=list.pdf", new ByteArrayContent([.. "%PDF-1.7 list"u8]))).JsonAsync();
        object Event(JsonNode of, JsonNode to) => new Dictionary<string, object?> { ["calendarId"] = to.Text("id"), ["title"] = "Families", ["timing"] = Timed("2043-01-05T18:00:00", "2043-01-05T20:00:00"), ["facts"] = new { files = new[] { of } } };
        var made = await marit.PostAsync("/api/templates", new Dictionary<string, object?> { ["name"] = "With a list", ["event"] = Event(file, calendar) });
        var kept = made["event"]!["facts"]!["files"]![0]!;
        Assert.Equal("list.pdf", kept.Text("name"));
        // Loose files go after two days: those of a template stay, and events begin with them.
        await server.Services.GetRequiredService<Store.Contents>().RemoveLooseAsync(server.Clock.Now + NodaTime.Duration.FromDays(3));
        var started = await marit.PostAsync("/api/events", Event(kept, calendar));
        Assert.Equal("%PDF-1.7 list", await marit.GetStringAsync($"/api/events/{started.Text("id")}/files/{kept.Text("id")}"));

        var own = await bea.NewCalendarAsync("Bea's templates");
        var hidden = await (await marit.PostAsync("/api/files?name=hidden.pdf", new ByteArrayContent([.. "%PDF-1.7 hidden"u8]))).JsonAsync();
        await bea.PostAsJsonAsync("/api/templates", new Dictionary<string, object?> { ["name"] = "Not mine", ["event"] = Event(hidden, own) }).ProblemAsync(422, "no_such_file");
    }

    [Fact]
    public async Task The_schools_order_of_dates_decides_what_a_typed_date_means()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Dates");
        async Task<string> ReadAsync() =>
            (await client.PostAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2043-01-05", text = "Launch 5/12", language = "en" }))["timing"]!.Text("start")[..10];
        Assert.Equal("2043-12-05", await ReadAsync());
        var lists = (await client.GetJsonAsync("/api/lists")).AsObject();
        lists["isMonthFirst"] = true;
        await client.PutAsync("/api/lists", lists);
        Assert.Equal("2043-05-12", await ReadAsync());
    }
}
