using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Valtro.Core.Limits;
using Valtro.Server.Sources;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Addresses that are followed, however they behave: what was read is kept, what changed follows, and all of it is told.</summary>
public sealed class SourceTests(Cluster cluster) : IAsyncLifetime
{
    private const string Address = "https://league.example/feed.ics";
    private const string Ines = "ines.harrow@lanternfell.example";

    private WebApplication outside = null!;
    private Server server = null!;
    private Func<HttpContext, Task> answer = _ => Task.CompletedTask;
    private int asked;

    public async ValueTask InitializeAsync()
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        outside = builder.Build();
        outside.MapGet("/feed.ics", (HttpContext http) =>
        {
            Interlocked.Increment(ref asked);
            return answer(http);
        });
        outside.MapGet("/moved.ics", (HttpContext http) => answer(http));
        await outside.StartAsync();
        server = new Server(await cluster.CreateEmptyDatabaseAsync(), standIns: outside.Urls.Single());
    }

    public async ValueTask DisposeAsync()
    {
        await server.DisposeAsync();
        await outside.DisposeAsync();
    }

    private static string Feed(params (string Uid, string Title, string Start)[] events) =>
        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nX-WR-CALNAME:Harbour league\r\n" + string.Concat(events.Select(e => $"BEGIN:VEVENT\r\nUID:{e.Uid}\r\nSUMMARY:{e.Title}\r\nDTSTART;TZID=America/Halifax:{e.Start}\r\nDURATION:PT1H\r\nEND:VEVENT\r\n")) + "END:VCALENDAR\r\n";

    private void Gives(string body, string? tag = null, string type = "text/calendar; charset=utf-8") => answer = async http =>
    {
        if (tag is not null)
        {
            http.Response.Headers.ETag = tag;
            if (http.Request.Headers.IfNoneMatch == tag)
            {
                http.Response.StatusCode = 304;
                return;
            }
        }
        http.Response.ContentType = type;
        await http.Response.WriteAsync(body, type.Contains("iso-8859-1", StringComparison.Ordinal) ? System.Text.Encoding.Latin1 : System.Text.Encoding.UTF8);
    };

    private void Says(int status, string? retryAfter = null) => answer = http =>
    {
        http.Response.StatusCode = status;
        if (retryAfter is not null)
            http.Response.Headers.RetryAfter = retryAfter;
        return Task.CompletedTask;
    };

    private static object Body(string address = Address, string title = "League") => new { address, title, group = "From elsewhere", zone = "America/Halifax", mark = 7 };

    private static async Task<List<string>> TitlesAsync(HttpClient client, string calendarId, string from = "2026-11-01", string to = "2026-12-31") =>
        [.. (await client.GetJsonAsync($"/api/board?from={from}&to={to}"))["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == calendarId).Select(o => $"{o!.Text("title")} {o!.Text("start")[5..10]}").Order()];

    private static Task<JsonNode> ReadAsync(HttpClient client, JsonNode source, bool isEmptyRight = false) => client.PostAsync($"/api/sources/{source.Text("id")}/read", new { isEmptyRight });

    [Fact]
    public async Task An_address_is_looked_at_followed_and_kept_up_to_date()
    {
        var ines = await server.SignedInAsync(Ines);
        Gives(Feed(("a", "Home regatta", "20261203T100000"), ("b", "Away regatta", "20261210T100000")), "\"1\"");
        var seen = await ines.PostAsync("/api/sources/look", new { address = "webcal://league.example/feed.ics" });
        Assert.Equal((Address, "Harbour league", 2, "Home regatta"), (seen.Text("address"), seen.Text("name"), seen.Number("events"), seen["samples"]![0]!.Text("title")));

        var source = await ines.PostAsync("/api/sources", Body());
        var lane = source.Text("calendarId");
        Assert.Equal(["Away regatta 12-10", "Home regatta 12-03"], await TitlesAsync(ines, lane));
        Assert.Equal((2, null), (source["lastChange"]!.Number("added"), source["problem"]?.GetValue<string>()));

        // The same is asked for by its tag, and nothing is written.
        var before = asked;
        var same = await ReadAsync(ines, source);
        Assert.Equal((before + 1, source["lastChange"]!.Text("at")), (asked, same["lastChange"]!.Text("at")));

        Gives(Feed(("a", "Home regatta", "20261204T100000"), ("c", "Cup", "20261220T100000")), "\"2\"");
        var changed = (await ReadAsync(ines, source))["lastChange"]!;
        Assert.Equal((1, 1, 1), (changed.Number("added"), changed.Number("changed"), changed.Number("gone")));
        Assert.Equal(["Cup 12-20", "Home regatta 12-04"], await TitlesAsync(ines, lane));
        var log = (await ines.GetJsonAsync($"/api/sources/{source.Text("id")}/readings")).AsArray();
        Assert.Contains(log[0]!["told"]!.AsArray(), t => t!.Text("kind") == "changed" && t!.Text("from") == "2026-12-03");
        // Nobody changes what comes from elsewhere, its follower neither; and nobody else is told the address.
        var e = (await ines.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-31"))["occurrences"]!.AsArray().First(o => o!.Text("calendarId") == lane)!;
        await ines.PostAsJsonAsync("/api/events", EventBody(new JsonObject { ["id"] = lane }, "By hand", AllDay("2026-12-01", "2026-12-01"))).ProblemAsync(403, "not_allowed");
        await ines.DeleteAsync($"/api/events/{e.Text("eventId")}?version=1").ProblemAsync(403, "not_allowed");
        var bea = await server.SignedInAsync("bea.lindqvist@lanternfell.example");
        Assert.DoesNotContain((await bea.GetJsonAsync("/api/sources")).AsArray(), s => s!.Text("id") == source.Text("id"));
        await bea.PostAsJsonAsync($"/api/sources/{source.Text("id")}/read", new { }).ProblemAsync(404, "no_such_source");
    }

    [Fact]
    public async Task However_it_misbehaves_what_was_read_stays_and_it_is_said_why()
    {
        var ines = await server.SignedInAsync(Ines);
        Gives(Feed(("a", "Home regatta", "20261203T100000")));
        var source = await ines.PostAsync("/api/sources", Body());
        async Task FailsAsync(string problem)
        {
            var now = await ReadAsync(ines, source);
            Assert.Equal((problem, true), (now.Text("problem"), now["failingSince"] is not null));
            Assert.Equal(["Home regatta 12-03"], await TitlesAsync(ines, source.Text("calendarId")));
        }
        Says(404);
        await FailsAsync("source_missing");
        Says(403);
        await FailsAsync("source_closed");
        Says(500);
        await FailsAsync("source_failed");
        Says(503, "7200");
        await FailsAsync("source_busy");
        Gives("<!doctype html><p>Sign in</p>", type: "text/html");
        await FailsAsync("web_page");
        Gives("");
        await FailsAsync("file_empty");
        Gives(Feed(("a", "Home regatta", "20261203T100000"), ("b", "Away", "20261204T100000"))[..180]);
        await FailsAsync("source_cut");
        // More events than the school may have: none of them is taken, and what was there stays.
        var school = Assert.Single(await server.Services.GetRequiredService<Valtro.Store.Schools>().ListAsync()).Id;
        var limits = server.Services.GetRequiredService<Valtro.Store.Limits>();
        var (_, taken, _) = await limits.GetAsync(school, server.Clock.Now);
        await limits.SetOwnAsync(school, new OwnLimits(Events: (int)taken[Limited.Events]));
        Gives(Feed(("a", "Home regatta", "20261203T100000"), ("b", "Away", "20261204T100000")));
        await FailsAsync("limit_events");
        await limits.SetOwnAsync(school, new OwnLimits());
        Gives(Feed());
        await FailsAsync("source_empty");
        answer = http =>
        {
            http.Response.Redirect("/feed.ics");
            return Task.CompletedTask;
        };
        await FailsAsync("source_redirects");
        answer = http =>
        {
            http.Response.Redirect("http://127.0.0.1:1/secret.ics");
            return Task.CompletedTask;
        };
        await FailsAsync("source_inside");
        answer = http =>
        {
            http.Abort();
            return Task.CompletedTask;
        };
        await FailsAsync("source_unreachable");
        answer = async http =>
        {
            // It never ends; the limit does.
            var line = System.Text.Encoding.ASCII.GetBytes(new string('X', 1 << 16));
            while (!http.RequestAborted.IsCancellationRequested)
                await http.Response.Body.WriteAsync(line, http.RequestAborted);
        };
        await FailsAsync("source_too_large");
        Says(410);
        await FailsAsync("source_gone");
        Assert.Null((await ines.GetJsonAsync("/api/sources")).AsArray().Single(s => s!.Text("id") == source.Text("id"))!["nextAt"]);
        // Each is in its log once, and it comes back by itself.
        Assert.Equal(14, (await ines.GetJsonAsync($"/api/sources/{source.Text("id")}/readings")).AsArray().Count(r => r!["problem"] is not null));
        Gives(Feed(("a", "Home regatta", "20261205T100000")));
        Assert.Null((await ReadAsync(ines, source))["problem"]);
        Assert.Equal(["Home regatta 12-05"], await TitlesAsync(ines, source.Text("calendarId")));
        // Nothing is right when somebody says so.
        Gives(Feed());
        Assert.Null((await ReadAsync(ines, source, isEmptyRight: true))["problem"]);
        Assert.Empty(await TitlesAsync(ines, source.Text("calendarId")));
    }

    [Fact]
    public async Task Nothing_is_kept_of_an_address_that_gives_nothing()
    {
        var ines = await server.SignedInAsync(Ines);
        Says(404);
        await ines.PostAsJsonAsync("/api/sources", Body()).ProblemAsync(422, "source_missing");
        await ines.PostAsJsonAsync("/api/sources", Body("http://localhost:1/x.ics")).ProblemAsync(422, "source_inside");
        await ines.PostAsJsonAsync("/api/sources", Body("file:///etc/passwd")).ProblemAsync(422, "address_malformed");
        await ines.PostAsJsonAsync("/api/sources", new { address = Address, title = "x", zone = "America/Halifax", mark = 1, everyMinutes = 1 }).ProblemAsync(422, "source_pause");
        Assert.Empty((await ines.GetJsonAsync("/api/sources")).AsArray());
        Assert.DoesNotContain((await ines.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-02"))["calendars"]!.AsArray(), c => c!.Text("title") == "League");
    }

    [Fact]
    public async Task Letters_by_another_name_a_move_for_good_and_one_for_now()
    {
        var ines = await server.SignedInAsync(Ines);
        Gives(Feed(("a", "Régate à l’anse".Replace('’', '\''), "20261203T100000")), type: "text/calendar; charset=iso-8859-1");
        var source = await ines.PostAsync("/api/sources", Body());
        Assert.Equal(["Régate à l'anse 12-03"], await TitlesAsync(ines, source.Text("calendarId")));
        var feed = Feed(("a", "Regatta", "20261203T100000"));
        Func<HttpContext, Task> Leads(int status) => async http =>
        {
            if (http.Request.Path == "/moved.ics")
                await http.Response.WriteAsync(feed);
            else
                (http.Response.StatusCode, http.Response.Headers.Location) = (status, "https://league.example/moved.ics");
        };
        answer = Leads(302);
        Assert.Null((await ReadAsync(ines, source))["movedTo"]);
        answer = Leads(301);
        Assert.Equal("https://league.example/moved.ics", (await ReadAsync(ines, source)).Text("movedTo"));
        var before = asked;
        await ReadAsync(ines, source);
        Assert.Equal(before, asked);
    }

    [Fact]
    public async Task A_joined_feed_is_sorted_into_classes_follows_there_and_goes_out_from_there()
    {
        var marit = await server.SignedInAsync();
        var rigging = await marit.OpenAsync(await marit.NewCalendarAsync("Rigging 7"));
        var publication = await marit.PublishAsync("rigging-7", rigging);
        Gives(Feed(("a", "Essay [Rigging 7]", "20261203T100000"), ("b", "Splice [Rigging 7]", "20261204T100000"), ("c", "Chart [Nav 7]", "20261205T100000")));
        var source = await marit.PostAsync("/api/sources", Body(title: "Due"));
        var path = $"/api/sources/{source.Text("id")}/sorting";
        var trial = await marit.PostAsync(path + "/try", new { rules = Array.Empty<object>(), version = 1 });
        var group = trial["groups"]!.AsArray().Single(g => g!.Text("value") == "Rigging 7")!;
        Assert.Equal(("brackets", 2, rigging.Text("id")), (group.Text("by"), group.Number("count"), group.Text("calendarId")));
        var rules = new[] { new { by = "brackets", value = "Rigging 7", calendarId = rigging.Text("id"), dropsCode = true } };
        var tried = await marit.PostAsync(path + "/try", new { rules, version = 1 });
        Assert.Equal((2, 1, 3), (tried["caught"]![0]!.GetValue<int>(), tried.Number("rest"), tried.Number("total")));
        // Trying keeps nothing.
        Assert.Empty(await TitlesAsync(marit, rigging.Text("id")));

        await marit.PutAsync(path, new { rules, version = 1 });
        Assert.Equal(["Essay 12-03", "Splice 12-04"], await TitlesAsync(marit, rigging.Text("id")));
        Assert.Equal(["Chart [Nav 7] 12-05"], await TitlesAsync(marit, source.Text("calendarId")));
        Assert.Contains("SUMMARY:Essay\r\n", await server.Visitor().GetStringAsync("/p/rigging-7/feed.ics"), StringComparison.Ordinal);

        // The proof says what comes from elsewhere, and how old it is.
        var age = Assert.Single((await marit.GetJsonAsync($"/api/publications/{publication.Text("id")}/proof"))["sources"]!.AsArray())!;
        Assert.Equal(("Due", "Rigging 7", "2026-11-23T15:00:00Z"), (age.Text("lane"), age["calendars"]![0]!.GetValue<string>(), age.Text("readAt")));

        // What is sorted can be added to, says where it comes from, and follows its original.
        var essay = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-31"))["occurrences"]!.AsArray().Single(o => o!.Text("title") == "Essay")!;
        var state = await marit.GetJsonAsync($"/api/events/{essay.Text("eventId")}");
        await marit.PutAsync($"/api/events/{essay.Text("eventId")}", new { calendarId = rigging.Text("id"), title = "Essay", place = "Loft 2", description = "", timing = state["timing"], version = state.Number("version"), facts = new { tags = new[] { "long" } } });
        Assert.Equal("Due", (await marit.GetJsonAsync($"/api/events/{essay.Text("eventId")}/origin")).Text("name"));
        Gives(Feed(("a", "Essay [Rigging 7]", "20261211T100000"), ("c", "Chart [Nav 7]", "20261205T100000")));
        await ReadAsync(marit, source);
        Assert.Equal(["Essay 12-11"], await TitlesAsync(marit, rigging.Text("id")));
        Assert.Equal("Loft 2", (await marit.GetJsonAsync($"/api/events/{essay.Text("eventId")}")).Text("place"));
        Assert.Contains("DTSTART;TZID=America/Halifax:20261211T100000", await server.Visitor().GetStringAsync("/p/rigging-7/feed.ics"), StringComparison.Ordinal);

        // Followed no more, what it gave stays as the school's own.
        await (await marit.PostAsJsonAsync($"/api/sources/{source.Text("id")}/stop", new { keeps = true })).Content.ReadAsStringAsync();
        Assert.Equal(["Chart [Nav 7] 12-05"], await TitlesAsync(marit, source.Text("calendarId")));
        await marit.PostAsync("/api/events", EventBody(new JsonObject { ["id"] = source.Text("calendarId") }, "By hand", AllDay("2026-12-01", "2026-12-01")));
    }

    [Fact]
    public async Task Rules_lead_only_where_their_follower_keeps_events_then_and_later()
    {
        var (marit, ines) = (await server.SignedInAsync(), await server.SignedInAsync(Ines));
        var theirs = await marit.NewCalendarAsync("Theirs");
        Gives(Feed(("a", "Essay [Theirs]", "20261203T100000"), ("b", "Other", "20261204T100000")));
        var source = await ines.PostAsync("/api/sources", Body(title: "Due of Ines"));
        object Rules(int version) => new { rules = new[] { new { by = "brackets", value = "Theirs", calendarId = theirs.Text("id"), dropsCode = false } }, version };
        await ines.PutAsJsonAsync($"/api/sources/{source.Text("id")}/sorting", Rules(1)).ProblemAsync(403, "not_allowed");
        var people = (await marit.GetJsonAsync("/api/people"))["people"]!.AsArray();
        var id = people.Single(p => p!.Text("email") == Ines)!.Text("id");
        await marit.PutAsJsonAsync($"/api/calendars/{theirs.Text("id")}/roles", new { personId = id, role = "editor" });
        await ines.PutAsync($"/api/sources/{source.Text("id")}/sorting", Rules(1));
        Assert.Equal(["Essay [Theirs] 12-03"], await TitlesAsync(marit, theirs.Text("id")));
        await marit.PutAsJsonAsync($"/api/calendars/{theirs.Text("id")}/roles", new { personId = id, role = "reader" });
        await ReadAsync(ines, source);
        Assert.Empty(await TitlesAsync(marit, theirs.Text("id")));
        // Let go, all of it goes.
        await ines.PostAsJsonAsync($"/api/sources/{source.Text("id")}/stop", new { keeps = false });
        Assert.DoesNotContain((await ines.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-31"))["calendars"]!.AsArray(), c => c!.Text("title") == "Due of Ines");
    }

    [Fact]
    public async Task The_job_reads_what_is_due_each_once_and_leaves_a_binned_lane_alone()
    {
        var ines = await server.SignedInAsync(Ines);
        Gives(Feed(("a", "Regatta", "20261203T100000")));
        var source = await ines.PostAsync("/api/sources", Body());
        var keeper = ActivatorUtilities.CreateInstance<SourceKeeper>(server.Services);
        var before = asked;
        await keeper.RunAsync(TestContext.Current.CancellationToken);
        Assert.Equal(before, asked);
        server.Clock.Now += NodaTime.Duration.FromMinutes(70);
        Gives(Feed(("a", "Regatta", "20261206T100000")));
        // Two servers at once.
        await Task.WhenAll(keeper.RunAsync(TestContext.Current.CancellationToken), ActivatorUtilities.CreateInstance<SourceKeeper>(server.Services).RunAsync(TestContext.Current.CancellationToken));
        Assert.Equal(before + 1, asked);
        ines = await server.SignedInAsync(Ines);
        Assert.Equal(["Regatta 12-06"], await TitlesAsync(ines, source.Text("calendarId")));
        var calendar = (await ines.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-02"))["calendars"]!.AsArray().Single(c => c!.Text("id") == source.Text("calendarId"))!;
        await ines.DeleteAsync($"/api/calendars/{calendar.Text("id")}?version={calendar.Number("version")}");
        server.Clock.Now += NodaTime.Duration.FromMinutes(70);
        await keeper.RunAsync(TestContext.Current.CancellationToken);
        Assert.Equal(before + 1, asked);
    }
}
