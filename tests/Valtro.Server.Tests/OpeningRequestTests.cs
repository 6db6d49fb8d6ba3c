using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Valtro.Server.Publications;
using Valtro.Store;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Whoever publishes asks for what is closed, its keepers answer, and the publication follows; who has it hears when it shows less.</summary>
public sealed class OpeningRequestTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Bea = "bea.lindqvist@lanternfell.example";
    private const string Tomas = "tomas.reed@lanternfell.example";

    private readonly Server server = fixture.Server;

    private static async Task<JsonNode> CalendarAsync(HttpClient keeper, string title, string everyone)
    {
        var calendar = await keeper.NewCalendarAsync(title);
        return await keeper.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = everyone, everyone, version = calendar["version"]!.GetValue<int>() });
    }

    private static Task<JsonNode> EventAsync(HttpClient editor, JsonNode calendar, string title) => editor.PostAsync(
        "/api/events", new { calendarId = calendar.Text("id"), title, place = "", description = "", timing = Timed("2026-12-01T18:00:00", "2026-12-01T19:00:00"), facts = new { } });

    private static async Task<List<(string To, string Subject, string Body)>> MailsAsync(Server server)
    {
        await using var none = await server.Services.GetRequiredService<Connections>().OpenAsync((await server.Services.GetRequiredService<Schools>().ListAsync())[0].Id);
        return [.. await none.QueryAsync<(string, string, string)>("select recipient, subject, body from mail where reader_id is null order by created_at, id")];
    }

    private async Task<(HttpClient Bea, HttpClient Marit, JsonNode Closed, JsonNode Publication)> AskedAsync(string key)
    {
        var (marit, bea) = (await server.SignedInAsync(), await server.SignedInAsync(Bea));
        var (own, closed) = (await CalendarAsync(bea, $"Hers of {key}", "everything"), await CalendarAsync(marit, $"Closed of {key}", "nothing"));
        await EventAsync(marit, closed, $"Supper of {key}");
        return (bea, marit, closed, await bea.PublishAsync(key, own, closed));
    }

    [Fact]
    public async Task Is_asked_once_answered_once_and_the_publication_fills_by_itself()
    {
        var (bea, marit, closed, publication) = await AskedAsync("asked-for");
        var body = new { publicationId = publication.Text("id"), calendarId = closed.Text("id"), detail = "headlines", remark = "For the families" };
        var asked = await bea.PostAsync("/api/opening-requests", body);
        Assert.Equal(("everyone", "headlines", "For the families"), (asked.Text("audience"), asked.Text("detail"), asked.Text("remark")));
        Assert.Equal((true, false), (asked["isMine"]!.GetValue<bool>(), asked["mayAnswer"]!.GetValue<bool>()));
        // Asked again it is the same one, with what is asked for now; its keeper is written to once.
        var again = await bea.PostAsync("/api/opening-requests", new { body.publicationId, body.calendarId, detail = "everything", remark = "" });
        Assert.Equal((asked.Text("id"), "everything"), (again.Text("id"), again.Text("detail")));
        Assert.Single(await MailsAsync(server), m => m is { To: Server.Marit } && m.Body.Contains("Closed of asked-for", StringComparison.Ordinal));

        var waiting = (await marit.GetJsonAsync("/api/opening-requests")).AsArray().Single(r => r!.Text("id") == asked.Text("id"))!;
        Assert.Equal(("Bea Lindqvist", true), (waiting.Text("person"), waiting["mayAnswer"]!.GetValue<bool>()));
        await bea.PostAsJsonAsync($"/api/opening-requests/{asked.Text("id")}/answer", new { given = "everything" }).ProblemAsync(403, "not_allowed");
        Assert.DoesNotContain("Supper", await server.Visitor().GetStringAsync("/p/asked-for/feed.ics"));

        var answered = await marit.PostAsync($"/api/opening-requests/{asked.Text("id")}/answer", new { given = "headlines", remark = "Titles will do" });
        Assert.Equal(("headlines", "Titles will do", "Marit Quill"), (answered.Text("given"), answered.Text("answerRemark"), answered.Text("answeredBy")));
        Assert.Contains("Supper of asked-for", await server.Visitor().GetStringAsync("/p/asked-for/feed.ics"));
        Assert.Contains("Titles will do", (await MailsAsync(server)).Last(m => m.To == Bea).Body);
        await marit.PostAsJsonAsync($"/api/opening-requests/{asked.Text("id")}/answer", new { given = "nothing" }).ProblemAsync(409, "request_answered");
        await bea.PostAsJsonAsync("/api/opening-requests", new { body.publicationId, body.calendarId, detail = "headlines" }).ProblemAsync(422, "already_open");
    }

    [Fact]
    public async Task A_no_opens_nothing_and_less_than_there_is_takes_nothing_away()
    {
        var (bea, marit, closed, publication) = await AskedAsync("refused");
        Task<JsonNode> Ask(string detail) => bea.PostAsync("/api/opening-requests", new { publicationId = publication.Text("id"), calendarId = closed.Text("id"), detail });
        var first = await Ask("everything");
        await marit.PostAsync($"/api/opening-requests/{first.Text("id")}/answer", new { given = "nothing", remark = "" });
        Assert.DoesNotContain("Supper", await server.Visitor().GetStringAsync("/p/refused/feed.ics"));
        var second = await Ask("everything");
        Assert.NotEqual(first.Text("id"), second.Text("id"));
        var now = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-02"))["calendars"]!.AsArray().Single(c => c!.Text("id") == closed.Text("id"))!;
        await marit.PutAsync($"/api/calendars/{closed.Text("id")}/reach", new { members = "everything", linkHolders = "headlines", everyone = "headlines", version = now["version"]!.GetValue<int>() });
        await marit.PostAsync($"/api/opening-requests/{second.Text("id")}/answer", new { given = "timesOnly", remark = "" });
        Assert.Contains("Supper of refused", await server.Visitor().GetStringAsync("/p/refused/feed.ics"));
    }

    [Fact]
    public async Task Nobody_asks_for_others_publications_or_for_what_is_not_in_it()
    {
        var (bea, marit, closed, publication) = await AskedAsync("not-yours");
        var tomas = await server.SignedInAsync(Tomas);
        object Body(JsonNode calendar, string detail = "headlines") => new { publicationId = publication.Text("id"), calendarId = calendar.Text("id"), detail };
        await tomas.PostAsJsonAsync("/api/opening-requests", Body(closed)).ProblemAsync(404, "no_such_publication");
        var other = await CalendarAsync(marit, "Not in it", "nothing");
        await bea.PostAsJsonAsync("/api/opening-requests", Body(other)).ProblemAsync(422, "calendar_not_chosen");
        await bea.PostAsJsonAsync("/api/opening-requests", Body(closed, "nothing")).ProblemAsync(422, "detail_unknown");
        await marit.PostAsJsonAsync($"/api/opening-requests/{Guid.NewGuid()}/answer", new { given = "nothing" }).ProblemAsync(404, "no_such_request");
        await bea.PostAsync("/api/opening-requests", Body(closed));
        Assert.DoesNotContain((await tomas.GetJsonAsync("/api/opening-requests")).AsArray(), r => r!.Text("publication") == publication.Text("title"));
    }

    [Fact]
    public async Task A_publication_is_shared_with_who_then_changes_it()
    {
        var (bea, _, _, publication) = await AskedAsync("shared-one");
        var tomas = await server.SignedInAsync(Tomas);
        var people = (await bea.GetJsonAsync("/api/people"))["people"]!.AsArray();
        var him = people.Single(p => p!.Text("name") == "Tomas Reed")!.Text("id");
        await bea.PutAsJsonAsync($"/api/publications/{publication.Text("id")}/shares", new { people = new[] { Guid.NewGuid().ToString() }, version = 1 }).ProblemAsync(404, "no_such_person");
        var shared = await bea.PutAsync($"/api/publications/{publication.Text("id")}/shares", new { people = new[] { him, him }, version = 1 });
        Assert.Equal(him, Assert.Single(shared["sharedWith"]!.AsArray())!.GetValue<string>());
        await tomas.PostAsync($"/api/publications/{publication.Text("id")}/take-down", new { });
        await bea.PutAsync($"/api/publications/{publication.Text("id")}/shares", new { people = Array.Empty<string>(), version = 3 });
        await tomas.PostAsJsonAsync($"/api/publications/{publication.Text("id")}/put-up", new { }).ProblemAsync(404, "no_such_publication");
    }

    [Fact]
    public async Task Who_has_it_hears_once_when_a_calendar_gives_nothing_any_more()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, bea) = (await own.SignedInAsync(), await own.SignedInAsync(Bea));
        var (hers, open, known) = (await CalendarAsync(bea, "Hers", "everything"), await CalendarAsync(marit, "Diary of all", "headlines"), await CalendarAsync(marit, "Closed from the first", "nothing"));
        await EventAsync(bea, hers, "Knots");
        var supper = await EventAsync(marit, open, "Supper");
        var publication = await bea.PublishAsync("troubled", hers, open, known);
        var teller = own.Services.GetServices<Jobs.IJob>().OfType<TroubleTeller>().Single();
        // What was closed when it was published is known.
        Assert.Equal(0, await teller.TellAsync(own.Clock.Now));

        await marit.DeleteAsync($"/api/events/{supper.Text("id")}?version=1");
        Assert.Equal(1, await teller.TellAsync(own.Clock.Now));
        var told = (await MailsAsync(own)).Last();
        Assert.Equal(Bea, told.To);
        Assert.Contains("– Diary of all: has no events any more\n", told.Body);
        Assert.DoesNotContain("Closed from the first", told.Body);
        Assert.Equal(0, await teller.TellAsync(own.Clock.Now));

        await marit.DeleteAsync($"/api/calendars/{open.Text("id")}?version={open["version"]}");
        Assert.Equal(1, await teller.TellAsync(own.Clock.Now));
        Assert.Contains("– Diary of all: is in the bin", (await MailsAsync(own)).Last().Body);
        var seen = (await bea.GetJsonAsync("/api/publications")).AsArray().Single(p => p!.Text("id") == publication.Text("id"))!["troubles"]!.AsArray();
        Assert.Equal(["binned", "closed"], seen.Select(t => t!.Text("kind")));
    }
}
