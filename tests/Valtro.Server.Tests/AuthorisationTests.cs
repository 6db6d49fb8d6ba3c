using Dapper;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using Valtro.Core.People;
using Valtro.Demo;
using Valtro.Store;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>
/// Every endpoint with every role. The endpoints are taken from the server: one that is new and not in the table fails the
/// test, and so does a row whose endpoint is gone.
/// </summary>
public sealed class AuthorisationTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    // From the least up: whoever may do something, all after them may too.
    private enum Who
    {
        Anybody,
        Member,
        Reader,
        Proposer,
        Editor,
        Keeper,
        Administrator,

        // What is one person's alone: nobody else may, whatever their role.
        Nobody,
    }

    private sealed record Row(string Endpoint, Who Least, string? Path = null, object? Body = null, bool ConcernsCalendar = true);

    private readonly Server server = fixture.Server;
    private string calendar = "";
    private string ev = "";
    private string publication = "";
    private string group = "";
    private string proposal = "";
    private string request = "";
    private string source = "";

    private object Event(int? version = null) => new { calendarId = calendar, title = "x", place = "", description = "", timing = AllDay("2046-03-03", "2046-03-03"), version };

    /// <summary>What each endpoint needs. A stale version tells that somebody was let in (409) and changes nothing.</summary>
    private IEnumerable<Row> Table()
    {
        const int Stale = 9999;
        var date = new { date = "2046-03-03T00:00:00", version = Stale };
        var year = new { first = "2050-08-01", last = "2050-07-31", terms = Array.Empty<object>(), closures = Array.Empty<object>(), week = new[] { "monday" }, cycleLength = 0, cycleRestarts = false, pins = Array.Empty<object>(), weekLetters = Array.Empty<string>(), lettersRestart = false, version = Stale };
        var lists = new { categories = Array.Empty<object>(), places = Array.Empty<object>(), noticeDays = 3, testsADay = 1, mapPattern = "", version = Stale, maxFileMegabytes = 25, isMonthFirst = false };
        var (nobody, token) = (Guid.NewGuid(), new { token = "none", name = "x", password = "three small words" });
        Row School(string endpoint, Who least, string? path = null, object? body = null) => new(endpoint, least, path, body, ConcernsCalendar: false);

        yield return School("GET /api/installation", Who.Anybody);
        yield return School("POST /api/session", Who.Anybody, body: new { email = "", password = "" });
        yield return School("POST /api/invitation", Who.Anybody, body: token);
        yield return School("POST /api/invitation/accept", Who.Anybody, body: token);
        yield return School("POST /api/forgotten", Who.Anybody, body: new { email = "" });
        yield return School("POST /api/new-password", Who.Anybody, body: token);
        yield return School("POST /api/first-run", Who.Anybody, body: new { code = "none" });
        yield return School("POST /api/new-address", Who.Anybody, body: token);
        yield return School("GET /api/me/account", Who.Member);
        yield return School("GET /api/me/data", Who.Member);
        yield return School("PUT /api/me/settings", Who.Member, body: new { });
        yield return School("PUT /api/me/name", Who.Member, body: new { name = "P" });
        yield return School("PUT /api/me/password", Who.Member, body: new { current = "guess", password = "x" });
        yield return School("POST /api/me/email", Who.Member, body: new { email = "", password = "guess" });
        foreach (var step in new[] { "", "/confirm", "/recovery-codes", "/off" })
            yield return School("POST /api/me/second-factor" + step, Who.Member, body: new { password = "guess" });
        yield return School("GET /api/audit", Who.Administrator);
        yield return School("GET /api/limits", Who.Administrator);
        yield return School("GET /api/audit.csv", Who.Administrator);
        yield return School("GET /api/mails", Who.Administrator);
        yield return School("GET /api/people/{id:guid}/data", Who.Administrator, $"/api/people/{nobody}/data");
        yield return School("POST /api/people/{id:guid}/erase", Who.Administrator, $"/api/people/{nobody}/erase");
        yield return School("DELETE /api/people/{id:guid}/second-factor", Who.Administrator, $"/api/people/{nobody}/second-factor");
        yield return School("GET /api/session", Who.Member);
        yield return School("GET /api/people", Who.Member);
        yield return School("GET /api/zones", Who.Member);
        yield return School("GET /api/board", Who.Member, "/api/board?from=2046-03-01&to=2046-03-08");
        yield return School("GET /api/board/changed", Who.Member, "/api/board/changed?from=2046-03-01&to=2046-03-08");
        yield return School("GET /api/year", Who.Member, "/api/year?date=2046-03-01");
        yield return School("GET /api/school-years", Who.Member);
        yield return School("GET /api/lists", Who.Member);
        yield return School("GET /api/checks", Who.Member);
        yield return School("GET /api/bin", Who.Member);
        yield return School("GET /api/bin/calendars", Who.Member);
        yield return School("GET /api/search", Who.Member, "/api/search?q=keel");
        yield return School("GET /api/templates", Who.Member);
        yield return School("GET /api/publications", Who.Member);
        yield return School("GET /api/me/board", Who.Member);
        yield return School("PATCH /api/me/board", Who.Member, body: new { });
        yield return School("POST /api/me/undo", Who.Member);
        yield return School("POST /api/me/redo", Who.Member);
        yield return School("GET /api/typed", Who.Member, "/api/typed?text=fri&near=2046-03-03");
        yield return School("POST /api/rule", Who.Member, body: new { text = "FREQ=DAILY" });
        yield return School("POST /api/links/check", Who.Member, body: new { addresses = Array.Empty<string>() });
        yield return School("POST /api/files", Who.Proposer, "/api/files?name=a.txt");
        yield return School("POST /api/pictures", Who.Proposer, "/api/pictures?x=0&y=0&width=1&height=1");
        yield return School("POST /api/calendars", Who.Member, body: CalendarBody("", mark: 4));
        yield return School("GET /api/who-sees", Who.Administrator);
        yield return School("GET /api/who-sees.csv", Who.Administrator);
        yield return School("PUT /api/lists", Who.Administrator, body: lists);
        yield return School("POST /api/school-years", Who.Administrator, body: year);
        yield return School("POST /api/school-years/plan", Who.Administrator, body: year);
        yield return School("PUT /api/school-years/{id:guid}", Who.Administrator, $"/api/school-years/{nobody}", year);
        yield return School("DELETE /api/school-years/{id:guid}", Who.Administrator, $"/api/school-years/{nobody}?version=1");
        yield return School("PUT /api/people/{id:guid}/role", Who.Administrator, $"/api/people/{nobody}/role", new { role = "member" });
        yield return School("DELETE /api/people/{id:guid}", Who.Administrator, $"/api/people/{nobody}");
        yield return School("POST /api/groups", Who.Administrator, body: new { name = "" });
        yield return School("PUT /api/groups/{id:guid}", Who.Administrator, $"/api/groups/{group}", new { name = "" });
        yield return School("DELETE /api/groups/{id:guid}", Who.Administrator, $"/api/groups/{nobody}");
        yield return School("POST /api/invitations", Who.Administrator, body: new { email = "", role = "member" });
        yield return School("DELETE /api/invitations/{id:guid}", Who.Administrator, $"/api/invitations/{nobody}");

        yield return new Row("GET /api/calendars/{id:guid}/roles", Who.Reader, $"/api/calendars/{calendar}/roles");
        yield return new Row("PUT /api/calendars/{id:guid}/roles", Who.Keeper, $"/api/calendars/{calendar}/roles", new { personId = nobody, role = "reader" });
        yield return new Row("POST /api/calendars/{id:guid}/hand-over", Who.Keeper, $"/api/calendars/{calendar}/hand-over", new { personId = nobody });
        yield return new Row("PUT /api/calendars/{id:guid}", Who.Keeper, $"/api/calendars/{calendar}", CalendarBody("x", Stale));
        yield return new Row("PUT /api/calendars/{id:guid}/reach", Who.Keeper, $"/api/calendars/{calendar}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = Stale });
        yield return new Row("DELETE /api/calendars/{id:guid}", Who.Keeper, $"/api/calendars/{calendar}?version={Stale}");
        yield return new Row("POST /api/calendars/{id:guid}/restore", Who.Keeper, $"/api/calendars/{calendar}/restore");
        yield return new Row("GET /api/calendars/{id:guid}/contents", Who.Keeper, $"/api/calendars/{calendar}/contents");

        yield return new Row("GET /api/events/{id:guid}", Who.Reader, $"/api/events/{ev}");
        yield return new Row("GET /api/events/{id:guid}/history", Who.Reader, $"/api/events/{ev}/history");
        yield return new Row("POST /api/events/{id:guid}/fields", Who.Reader, $"/api/events/{ev}/fields", new { });
        yield return new Row("POST /api/events/dates", Who.Reader, Body: new { calendarId = calendar, timing = AllDay("2046-03-03", "2046-03-03") });
        yield return new Row("POST /api/line", Who.Reader, Body: new { calendarId = calendar, day = "2046-03-03", text = "x", language = "en" });
        yield return new Row("POST /api/lines", Who.Reader, Body: new { calendarId = calendar, day = "2046-03-03", lines = new[] { "x" }, language = "en" });
        yield return new Row("POST /api/checks/event", Who.Proposer, Body: new Dictionary<string, object?> { ["event"] = Event(), ["id"] = null });
        yield return new Row("POST /api/checks/accept", Who.Editor, Body: new { key = "", reason = "" });
        yield return new Row("POST /api/checks/take-back", Who.Editor, Body: new { key = "none", reason = "" });
        yield return new Row("POST /api/events", Who.Editor, Body: Event());
        yield return new Row("PUT /api/events/{id:guid}", Who.Editor, $"/api/events/{ev}", Event(Stale));
        yield return new Row("POST /api/events/{id:guid}/plan", Who.Proposer, $"/api/events/{ev}/plan", Event(Stale));
        yield return new Row("POST /api/events/{id:guid}/undo", Who.Editor, $"/api/events/{ev}/undo", new { state = eventState, version = Stale });
        yield return new Row("POST /api/events/many", Who.Editor, Body: new { events = new[] { Event() } });
        yield return new Row("POST /api/events/bulk", Who.Editor, Body: new { dates = new[] { new { eventId = ev, date = "2046-03-03T00:00:00" } }, place = "Slip 2" });
        yield return new Row("POST /api/events/undo", Who.Editor, Body: new { events = new[] { new { state = eventState, version = Stale } } });
        foreach (var verb in new[] { "call-off", "call-on", "as-others", "add-date", "remove-date", "leave-out", "put-back" })
            yield return new Row($"POST /api/events/{{id:guid}}/{verb}", Who.Editor, $"/api/events/{ev}/{verb}", date);
        yield return new Row("DELETE /api/events/{id:guid}", Who.Editor, $"/api/events/{ev}?version={Stale}");
        yield return new Row("POST /api/events/{id:guid}/restore", Who.Editor, $"/api/events/{ev}/restore");
        yield return new Row("GET /api/events/{eventId:guid}/files/{fileId:guid}/{name?}", Who.Reader, $"/api/events/{ev}/files/{fileId}");
        yield return new Row("GET /api/pictures/{id:guid}/{variant}", Who.Reader, $"/api/pictures/{fileId}/large");
        yield return School("GET /api/proposals", Who.Member);
        yield return School("GET /api/opening-requests", Who.Member);
        yield return School("GET /api/reader-mail", Who.Member);
        yield return School("PUT /api/reader-mail", Who.Administrator, body: new { isOn = false });
        yield return new Row("POST /api/opening-requests", Who.Keeper, Body: new { publicationId = publication, calendarId = calendar, detail = "nothing" });
        yield return new Row("POST /api/opening-requests/{id:guid}/answer", Who.Keeper, $"/api/opening-requests/{request}/answer", new { given = "nothing", remark = new string('x', 9_000) });
        yield return new Row("POST /api/proposals", Who.Proposer, Body: new Dictionary<string, object?> { ["event"] = Event(), ["remark"] = "" });
        yield return new Row("POST /api/proposals/change/{eventId:guid}", Who.Proposer, $"/api/proposals/change/{ev}", new { edit = Event(Stale), remark = "" });
        yield return new Row("POST /api/proposals/copy/{eventId:guid}", Who.Proposer, $"/api/proposals/copy/{ev}", new { date = "1999-01-01T00:00:00" });
        yield return new Row("POST /api/proposals/step/{eventId:guid}", Who.Proposer, $"/api/proposals/step/{ev}", new { step = "delete", version = Stale, remark = "" });
        yield return new Row("PUT /api/proposals/{id:guid}", Who.Nobody, $"/api/proposals/{proposal}", new Dictionary<string, object?> { ["event"] = Event(), ["remark"] = "" });
        yield return new Row("DELETE /api/proposals/{id:guid}", Who.Nobody, $"/api/proposals/{proposal}");
        yield return new Row("POST /api/proposals/{id:guid}/answer", Who.Keeper, $"/api/proposals/{proposal}/answer", new { calendarIds = new[] { calendar }, answer = "approved", remark = "", version = Stale });
        yield return new Row("POST /api/proposals/{id:guid}/reopen", Who.Keeper, $"/api/proposals/{proposal}/reopen", new { calendarIds = new[] { calendar } });
        yield return new Row("GET /api/proposals/{id:guid}/clashes", Who.Editor, $"/api/proposals/{proposal}/clashes");
        yield return new Row("GET /api/proposals/{id:guid}/files/{fileId:guid}/{name?}", Who.Editor, $"/api/proposals/{proposal}/files/{fileId}");
        yield return School("POST /api/templates", Who.Editor, body: new Dictionary<string, object?> { ["name"] = "", ["event"] = Event() });
        yield return School("PUT /api/templates/{id:guid}", Who.Editor, $"/api/templates/{nobody}", new Dictionary<string, object?> { ["name"] = "", ["event"] = Event() });
        yield return School("DELETE /api/templates/{id:guid}", Who.Editor, $"/api/templates/{nobody}");
        yield return new Row("GET /api/calendars/{id:guid}/keepers", Who.Reader, $"/api/calendars/{calendar}/keepers");
        yield return new Row("POST /api/publications", Who.Reader, Body: new { key = "authorised-calendar", title = "x", introduction = "", calendarIds = new[] { calendar }, firstView = "list", language = "en" });
        yield return new Row("PUT /api/publications/{id:guid}", Who.Keeper, $"/api/publications/{publication}", new { title = "x", introduction = "", calendarIds = new[] { calendar }, firstView = "list", language = "en", version = Stale });
        yield return new Row("POST /api/publications/{id:guid}/key", Who.Keeper, $"/api/publications/{publication}/key", new { version = Stale });
        yield return new Row("POST /api/publications/{id:guid}/duplicate", Who.Keeper, $"/api/publications/{publication}/duplicate");
        yield return new Row("POST /api/publications/{id:guid}/take-down", Who.Keeper, $"/api/publications/{publication}/take-down");
        yield return new Row("PUT /api/publications/{id:guid}/shares", Who.Keeper, $"/api/publications/{publication}/shares", new { people = Array.Empty<string>(), version = Stale });
        yield return new Row("POST /api/publications/{id:guid}/take-out", Who.Keeper, $"/api/publications/{publication}/take-out", new { calendarId = calendar });
        yield return new Row("POST /api/publications/{id:guid}/hand-over", Who.Keeper, $"/api/publications/{publication}/hand-over", new { personId = nobody, version = Stale });
        yield return new Row("POST /api/publications/{id:guid}/put-up", Who.Keeper, $"/api/publications/{publication}/put-up");
        yield return School("GET /api/publications/for-members", Who.Member);
        yield return School("GET /api/publications/title", Who.Member, "/api/publications/title?pattern={title}&title=x");
        yield return School("GET /api/board/shared-places", Who.Member, "/api/board/shared-places?from=2046-03-01&to=2046-03-08");
        yield return new Row("GET /api/proposals/asked", Who.Reader, $"/api/proposals/asked?calendarId={calendar}");
        yield return new Row("POST /api/reach/event", Who.Reader, Body: new { calendarId = calendar });
        yield return School("POST /api/reach/opened", Who.Member, body: new { reach = new { members = "everything", linkHolders = "nothing", everyone = "nothing" }, audience = "everyone", detail = "headlines" });
        yield return School("POST /api/publications/{id:guid}/my-link", Who.Member, $"/api/publications/{nobody}/my-link", new { isNew = false });
        yield return new Row("POST /api/publications/{id:guid}/publish", Who.Keeper, $"/api/publications/{publication}/publish", new { version = Stale });
        yield return new Row("POST /api/publications/{id:guid}/discard", Who.Keeper, $"/api/publications/{publication}/discard", new { version = Stale });
        yield return new Row("GET /api/publications/{id:guid}/readings", Who.Keeper, $"/api/publications/{publication}/readings");
        yield return new Row("GET /api/publications/{id:guid}/look/embed", Who.Keeper, $"/api/publications/{publication}/look/embed?look=draft");
        yield return new Row("GET /api/publications/{id:guid}/look/page", Who.Keeper, $"/api/publications/{publication}/look/page?look=members");
        yield return new Row("GET /api/publications/{id:guid}/look/feed.ics", Who.Keeper, $"/api/publications/{publication}/look/feed.ics?look=members");
        yield return new Row("GET /api/publications/{id:guid}/look/events.json", Who.Keeper, $"/api/publications/{publication}/look/events.json?look=members&from=2046-03-01&to=2046-03-08");
        yield return new Row("GET /api/publications/{id:guid}/proof", Who.Keeper, $"/api/publications/{publication}/proof");

        yield return new Row("GET /api/events/{id:guid}/origin", Who.Reader, $"/api/events/{ev}/origin");
        yield return new Row("GET /api/calendars/{id:guid}/export/{form}", Who.Reader, $"/api/calendars/{calendar}/export/ics");
        yield return School("GET /api/export.zip", Who.Administrator);
        yield return new Row("POST /api/export/events", Who.Reader, "/api/export/events", new { eventIds = new[] { ev } });
        yield return School("GET /api/bringing", Who.Member);
        yield return School("POST /api/bringing", Who.Editor, "/api/bringing?name=a.csv");
        yield return School("POST /api/bringing/{id:guid}/look", Who.Editor, $"/api/bringing/{nobody}/look", new { });
        yield return School("POST /api/bringing/{id:guid}", Who.Editor, $"/api/bringing/{nobody}", new { });
        yield return School("DELETE /api/bringing/{id:guid}", Who.Member, $"/api/bringing/{nobody}");
        yield return School("GET /api/sources", Who.Member);
        yield return School("POST /api/sources", Who.Member, body: new { address = "", mark = 1 });
        yield return School("POST /api/sources/look", Who.Member, body: new { address = "" });
        yield return new Row("PUT /api/sources/{id:guid}", Who.Keeper, $"/api/sources/{source}", new { everyMinutes = 60, pastDays = 1, aheadDays = 1, version = Stale });
        yield return new Row("POST /api/sources/{id:guid}/read", Who.Keeper, $"/api/sources/{source}/read", new { });
        yield return new Row("GET /api/sources/{id:guid}/readings", Who.Keeper, $"/api/sources/{source}/readings");
        yield return new Row("POST /api/sources/{id:guid}/sorting/try", Who.Keeper, $"/api/sources/{source}/sorting/try", new { rules = Array.Empty<object>(), version = Stale });
        yield return new Row("PUT /api/sources/{id:guid}/sorting", Who.Keeper, $"/api/sources/{source}/sorting", new { rules = Array.Empty<object>(), version = Stale });
        // Done once: whoever comes after finds it done.
        yield return new Row("POST /api/sources/{id:guid}/stop", Who.Keeper, $"/api/sources/{source}/stop", new { keeps = true });

        // Signing out is each one's own; it would end the test's sessions.
        yield return School("DELETE /api/session", Who.Member, "");
        yield return School("POST /api/me/sign-out", Who.Member, "");
        // It never ends.
        yield return School("GET /api/changes", Who.Member, "");
    }

    private JsonNode? eventState;
    private string fileId = "";

    [Fact]
    public async Task Every_endpoint_lets_in_whom_it_should_and_nobody_else()
    {
        var marit = await server.SignedInAsync();
        var made = await marit.NewCalendarAsync("Authorised");
        calendar = made.Text("id");
        await marit.PutAsync($"/api/calendars/{calendar}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 1 });
        var file = await (await marit.PostAsync("/api/files?name=a.txt", new StringContent("Rope"))).JsonAsync();
        fileId = file.Text("id");
        eventState = await marit.PostAsync("/api/events", new { calendarId = calendar, title = "Keel", place = "", description = "", timing = AllDay("2046-03-03", "2046-03-03"), facts = new { files = new[] { file }, picture = new { id = fileId, alt = "" } } });
        ev = eventState.Text("id");
        publication = (await marit.PublishAsync("authorised-calendar", made)).Text("id");
        group = (await marit.PostAsync("/api/groups", new { name = "Authorised group", personIds = Array.Empty<string>() })).Text("id");
        var proposer = await PersonAsync(SchoolRole.Member, CalendarRole.Proposer);
        var offered = await (await proposer.PostAsync("/api/files?name=b.txt", new StringContent("Rope"))).JsonAsync();
        offered["id"] = fileId;
        var wanted = new { calendarId = calendar, title = "Mast", place = "", description = "", timing = AllDay("2046-03-03", "2046-03-03"), facts = new { files = new[] { offered } } };
        proposal = (await proposer.PostAsync("/api/proposals", new Dictionary<string, object?> { ["event"] = wanted }))["proposal"]!.Text("id");
        request = (await marit.PostAsync("/api/opening-requests", new { publicationId = publication, calendarId = calendar, detail = "headlines" })).Text("id");
        source = await SourceAsync();
        var clients = new Dictionary<string, (Who Who, HttpClient Client)>
        {
            ["anybody"] = (Who.Anybody, server.Visitor()),
            ["member"] = (Who.Member, await PersonAsync(SchoolRole.Member, null)),
            ["administrator"] = (Who.Administrator, marit),
        };
        foreach (var role in Enum.GetValues<CalendarRole>())
            clients[role.ToString()] = (Enum.Parse<Who>(role.ToString()), await PersonAsync(SchoolRole.Member, role));
        var stranger = await PersonAsync(SchoolRole.Administrator, null, elsewhere: true);

        var rows = Table().ToList();
        var endpoints = server.Services.GetServices<EndpointDataSource>().SelectMany(s => s.Endpoints).OfType<RouteEndpoint>()
            .Where(e => e.RoutePattern.RawText!.StartsWith("/api", StringComparison.Ordinal) && !e.RoutePattern.RawText.Contains("{*", StringComparison.Ordinal))
            .SelectMany(e => e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods.Select(m => $"{m} {e.RoutePattern.RawText!.TrimEnd('/')}") ?? [])
            .Distinct().Order().ToList();
        Assert.Equal(endpoints, rows.Select(r => r.Endpoint).Order());

        var wrong = new List<string>();
        foreach (var row in rows.Where(r => r.Path != ""))
        {
            foreach (var (name, (who, client)) in clients)
            {
                var status = await AskAsync(client, row);
                // What fails lets nobody in, and hides whether it would have.
                if (status >= 500)
                    wrong.Add($"{row.Endpoint} as {name}: {status}");
                var isIn = status is not (401 or 403 or 404);
                // What is asked for by an identity nobody has is not there, also for those who may ask.
                var mayBeMissing = who >= row.Least && status == 404 && row.Path?.Contains(calendar, StringComparison.Ordinal) != true && row.Path?.Contains(ev, StringComparison.Ordinal) != true;
                if (isIn != who >= row.Least && !mayBeMissing && !(row.Least == Who.Anybody && status == 401 && row.Endpoint == "POST /api/session"))
                    wrong.Add($"{row.Endpoint} as {name}: {status}");
            }
            // An administrator of another school is nobody here.
            if (row.ConcernsCalendar && await AskAsync(stranger, row) is var other && other is not (401 or 403 or 404) && !row.Endpoint.StartsWith("POST /api/checks/", StringComparison.Ordinal))
                wrong.Add($"{row.Endpoint} from another school: {other}");
        }
        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
        Assert.True((await marit.GetJsonAsync($"/api/events/{ev}"))["inBin"]!.GetValue<bool>() == false);
    }

    // An address that leads inside, which is not asked.
    private async Task<string> SourceAsync()
    {
        var school = (await server.Services.GetRequiredService<Schools>().ListAsync())[0].Id;
        await using var connection = await server.Services.GetRequiredService<Connections>().OpenAsync(school);
        return (await connection.ExecuteScalarAsync<Guid>(
            "insert into source (id, school_id, calendar_id, address, host, past_days, ahead_days, sorting, version, failures) values (@id, @school, @calendar, 'http://127.0.0.1:1/x.ics', '127.0.0.1', 1, 1, '[]', 1, 0) returning id",
            new { id = Guid.NewGuid(), school, calendar = Guid.Parse(calendar) })).ToString();
    }

    private static async Task<int> AskAsync(HttpClient client, Row row)
    {
        var (method, pattern) = (row.Endpoint.Split(' ')[0], row.Endpoint.Split(' ')[1]);
        using var request = new HttpRequestMessage(new HttpMethod(method), row.Path ?? pattern);
        if (row.Body is not null)
            request.Content = JsonContent.Create(row.Body);
        using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        return (int)answer.StatusCode;
    }

    private async Task<HttpClient> PersonAsync(SchoolRole role, CalendarRole? onCalendar, bool elsewhere = false)
    {
        var schools = server.Services.GetRequiredService<Schools>();
        var marit = await server.SignedInAsync();
        var schoolId = Guid.Parse((await marit.GetJsonAsync("/api/session"))["school"]!.Text("id"));
        if (elsewhere)
        {
            schoolId = Guid.CreateVersion7();
            await schools.AddAsync(new School(schoolId, "Another school", "Another", DemoSchool.Zone, "en"), server.Clock.Now);
        }
        var person = new Person(Guid.CreateVersion7(), schoolId, "P", $"p{Guid.NewGuid():n}@lanternfell.example", "", role);
        var hash = server.Services.GetRequiredService<IPasswordHasher<Person>>().HashPassword(person, DemoSchool.Password);
        await server.Services.GetRequiredService<Store.People>().AddAsync(person with { PasswordHash = hash }, server.Clock.Now);
        if (onCalendar is { } given)
            await server.Services.GetRequiredService<Roles>().SetAsync(Guid.Parse(calendar), person.Id, null, given, new Author(schoolId, null, server.Clock.Now));
        return await server.SignedInAsync(person.Email);
    }
}
