using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Valtro.Demo;
using Valtro.Server.People;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>People, groups, roles and invitations: who may do what, and who sees what in the workspace.</summary>
public sealed class PeopleTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Ines = "ines.harrow@lanternfell.example";
    private const string Tomas = "tomas.reed@lanternfell.example";
    private const string Bea = "bea.lindqvist@lanternfell.example";

    private readonly Server server = fixture.Server;

    private static async Task<string> IdOfAsync(HttpClient client, string email) =>
        (await client.GetJsonAsync("/api/people"))["people"]!.AsArray().Single(p => p!.Text("email") == email)!.Text("id");

    private static async Task ShareAsync(HttpClient client, JsonNode calendar, string personId, string? role) =>
        await client.PutAsync($"/api/calendars/{calendar.Text("id")}/roles", new { personId, role });

    private static object Body(JsonNode calendar, string title, object? facts = null, int? version = null) => new
    {
        calendarId = calendar.Text("id"),
        title,
        place = "Slip 1",
        description = "Bring a rope",
        timing = AllDay("2045-03-03", "2045-03-03"),
        facts = facts ?? new { },
        version,
    };

    private static async Task<JsonArray> BoardAsync(HttpClient client, string part) => (await client.GetJsonAsync("/api/board?from=2045-03-01&to=2045-03-08"))[part]!.AsArray();

    [Fact]
    public async Task Each_role_may_do_what_it_says_and_no_more()
    {
        var marit = await server.SignedInAsync();
        var ines = await server.SignedInAsync(Ines);
        var calendar = await marit.NewCalendarAsync("Shared out");
        var made = await marit.PostAsync("/api/events", Body(calendar, "Keel"));
        var id = await IdOfAsync(marit, Ines);
        var path = $"/api/events/{made.Text("id")}";

        // A member reads by the calendar's reach.
        Assert.Equal("Keel", (await ines.GetJsonAsync(path)).Text("title"));
        await ines.PutAsJsonAsync(path, Body(calendar, "Mine", version: 1)).ProblemAsync(403, "not_allowed");
        await ines.PostAsJsonAsync("/api/events", Body(calendar, "Mine")).ProblemAsync(403, "not_allowed");
        await ines.DeleteAsync(path + "?version=1").ProblemAsync(403, "not_allowed");
        await ines.GetAsync(path + "/history").ProblemAsync(404, "no_such_event");
        await ines.GetAsync($"/api/calendars/{calendar.Text("id")}/roles").ProblemAsync(403, "not_allowed");

        await ShareAsync(marit, calendar, id, "editor");
        Assert.Equal("editor", (await BoardAsync(ines, "calendars")).Single(c => c!.Text("id") == calendar.Text("id"))!.Text("role"));
        await ines.PutAsync(path, Body(calendar, "Keel talk", version: 1));
        await ines.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 1 }).ProblemAsync(403, "not_allowed");
        await ines.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/roles", new { personId = id, role = "keeper" }).ProblemAsync(403, "not_allowed");
        // Anybody publishes; what the calendar's reach keeps in stays in, whoever publishes it.
        await ines.PostAsync("/api/publications", new { key = "ines-own", title = "x", introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "list", language = "en" });
        Assert.DoesNotContain("Keel", await server.Visitor().GetStringAsync("/p/ines-own/feed.ics"));
        // Into a calendar of others it does not go, neither by home nor by placement.
        var closed = await marit.NewCalendarAsync("Not shared");
        await ines.PutAsJsonAsync(path, Body(closed, "Keel", version: 2)).ProblemAsync(403, "not_allowed");
        await ines.PutAsJsonAsync(path, Body(calendar, "Keel", new { alsoIn = new[] { closed.Text("id") } }, 2)).ProblemAsync(403, "not_allowed");

        // One gives up one's own role; and has nothing then.
        await ShareAsync(ines, calendar, id, null);
        await ines.PutAsJsonAsync(path, Body(calendar, "Again", version: 2)).ProblemAsync(403, "not_allowed");
    }

    [Fact]
    public async Task Whoever_changes_a_group_at_the_same_moment_as_others_undoes_nothing_of_theirs()
    {
        var random = new Random(5);
        var marit = await server.SignedInAsync();
        var people = (await marit.GetJsonAsync("/api/people"))["people"]!.AsArray().Select(p => p!.Text("id")).ToArray();
        var id = (await marit.PostAsync("/api/groups", new { name = "Riggers", personIds = people[..1] })).Text("id");
        async Task<JsonNode> GroupAsync() => (await marit.GetJsonAsync("/api/people"))["groups"]!.AsArray().Single(g => g!.Text("id") == id)!;
        for (var round = 0; round < 5; round++)
        {
            // Each person's own last choice is what holds, and the name of whoever chose one.
            var chosen = people.ToDictionary(p => p, _ => random.Next(2) == 0);
            var name = $"Riggers {round}";
            var changes = chosen.Select(c => c.Value ? (object)new { comes = new[] { c.Key } } : new { goes = new[] { c.Key } }).Append(new { name }).OrderBy(_ => random.Next());
            var answers = await Task.WhenAll(changes.Select(c => marit.PutAsJsonAsync($"/api/groups/{id}", c)));
            Assert.All(answers, a => Assert.Equal(HttpStatusCode.NoContent, a.StatusCode));
            var group = await GroupAsync();
            Assert.Equal((name, string.Join(' ', chosen.Where(c => c.Value).Select(c => c.Key).Order())), (group.Text("name"), string.Join(' ', group["personIds"]!.AsArray().Select(p => p!.GetValue<string>()).Order())));
        }
        await marit.PutAsJsonAsync($"/api/groups/{id}", new { name = " " }).ProblemAsync(422, "title_missing");
        await marit.PutAsJsonAsync($"/api/groups/{Guid.NewGuid()}", new { comes = people }).ProblemAsync(404, "no_such_group");
        await marit.PutAsJsonAsync($"/api/groups/{id}", new { personIds = people[1..], comes = people[..1], goes = people[1..2] });
        Assert.Equal(people.Length - 1, (await GroupAsync())["personIds"]!.AsArray().Count);
    }

    [Fact]
    public async Task A_group_shares_with_all_who_are_in_it_as_long_as_they_are()
    {
        var marit = await server.SignedInAsync();
        var bea = await server.SignedInAsync(Bea);
        var calendar = await marit.NewCalendarAsync("For a group");
        var group = await marit.PostAsync("/api/groups", new { name = "Sail makers", personIds = new[] { await IdOfAsync(marit, Bea) } });
        await marit.PostAsJsonAsync("/api/groups", new { name = "sail MAKERS" }).ProblemAsync(409, "key_taken");
        await bea.PostAsJsonAsync("/api/groups", new { name = "Own" }).ProblemAsync(403, "not_allowed");
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/roles", new { groupId = group.Text("id"), role = "editor" });
        await bea.PostAsync("/api/events", Body(calendar, "Sails"));
        Assert.Equal(HttpStatusCode.NoContent, (await marit.PutAsJsonAsync($"/api/groups/{group.Text("id")}", new { name = "Sail makers", personIds = Array.Empty<string>() })).StatusCode);
        await bea.PostAsJsonAsync("/api/events", Body(calendar, "More sails")).ProblemAsync(403, "not_allowed");
        await marit.DeleteAsync($"/api/groups/{group.Text("id")}");
        await marit.DeleteAsync($"/api/groups/{group.Text("id")}").ProblemAsync(404, "no_such_group");
    }

    [Fact]
    public async Task Members_see_as_much_as_the_reach_gives_on_every_path()
    {
        var marit = await server.SignedInAsync();
        var tomas = await server.SignedInAsync(Tomas);
        var calendar = await marit.NewCalendarAsync("Half open");
        async Task ReachAsync(string members)
        {
            var now = (await BoardAsync(marit, "calendars")).Single(c => c!.Text("id") == calendar.Text("id"))!;
            await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members, linkHolders = "nothing", everyone = "nothing", version = now.Number("version") });
        }
        var made = await marit.PostAsync("/api/events", Body(calendar, "Zugzwang talk", new { tags = new[] { "hushtag" } }));
        var path = $"/api/events/{made.Text("id")}";
        async Task<JsonNode?> SeenAsync() => (await BoardAsync(tomas, "occurrences")).FirstOrDefault(o => o!.Text("calendarId") == calendar.Text("id"));
        async Task<int> FoundAsync(string text) => (await tomas.GetJsonAsync($"/api/search?q={text}")).AsArray().Count;

        Assert.Equal("Zugzwang talk", (await SeenAsync())!.Text("title"));
        Assert.Equal(1, await FoundAsync("hushtag"));

        await ReachAsync("headlines");
        Assert.Equal(("Zugzwang talk", "headlines", 0), ((await SeenAsync())!.Text("title"), (await SeenAsync())!.Text("detail"), (await SeenAsync())!["tags"]!.AsArray().Count));
        Assert.Equal("", (await tomas.GetJsonAsync(path)).Text("description"));
        Assert.Equal((1, 0), (await FoundAsync("zugzwang"), await FoundAsync("hushtag")));

        await ReachAsync("timesOnly");
        var times = (await SeenAsync())!;
        Assert.Equal(("", "", "2045-03-03"), (times.Text("title"), times.Text("place"), times.Text("firstDay")));
        Assert.NotEqual(made.Text("id"), times.Text("eventId"));
        await tomas.GetAsync(path).ProblemAsync(404, "no_such_event");
        Assert.Equal(0, await FoundAsync("zugzwang"));

        await ReachAsync("nothing");
        Assert.Null(await SeenAsync());
        Assert.DoesNotContain(await BoardAsync(tomas, "calendars"), c => c!.Text("id") == calendar.Text("id"));
        await tomas.PutAsJsonAsync(path, Body(calendar, "x", version: 1)).ProblemAsync(404, "no_such_event");
        // Nor that there is such a calendar.
        await tomas.PostAsJsonAsync("/api/events", Body(calendar, "x")).ProblemAsync(404, "no_such_calendar");
        await tomas.PostAsJsonAsync("/api/line", new { calendarId = calendar.Text("id"), day = "2045-03-03", text = "x", language = "en" }).ProblemAsync(404, "no_such_calendar");
    }

    [Fact]
    public async Task A_keeper_looks_at_the_board_as_others_do_and_others_not_as_a_keeper()
    {
        var (marit, tomas) = (await server.SignedInAsync(), await server.SignedInAsync(Tomas));
        var calendar = await marit.NewCalendarAsync("Looked at");
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "headlines", everyone = "timesOnly", version = 1 });
        await marit.PostAsync("/api/events", Body(calendar, "Keel", new { tags = new[] { "oak" } }));
        await marit.PostAsync("/api/events", Body(calendar, "Not yet", new { isDraft = true }));
        async Task<string[]> SeenAsync(HttpClient client, string look) =>
            [.. (await client.GetJsonAsync($"/api/board?from=2045-03-01&to=2045-03-08&look={look}"))["occurrences"]!.AsArray()
                .Where(o => o!.Text("calendarId") == calendar.Text("id")).Select(o => $"{o!.Text("title")}/{o!["tags"]!.AsArray().Count}").Order()];
        Assert.Equal(["Keel/1"], await SeenAsync(marit, "members"));
        Assert.Equal(["Keel/0"], await SeenAsync(marit, "linkHolders"));
        Assert.Equal(["/0"], await SeenAsync(marit, "everyone"));
        Assert.Equal(["Keel/1"], await SeenAsync(marit, await IdOfAsync(marit, Tomas)));
        Assert.Equal(["Keel/1", "Not yet/0"], await SeenAsync(marit, await IdOfAsync(marit, Server.Marit)));
        // Who keeps nothing sees nothing more through other eyes.
        Assert.Empty(await SeenAsync(tomas, await IdOfAsync(marit, Server.Marit)));
        await marit.GetAsync("/api/board?from=2045-03-01&to=2045-03-08&look=nobody").ProblemAsync(404, "no_such_person");
    }

    [Fact]
    public async Task Who_sees_what_is_told_for_the_whole_school_and_taken_along_as_a_table()
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("=Told, \"of\"");
        await marit.PostAsync("/api/events", Body(calendar, "Keel", new { reach = new { members = "nothing", linkHolders = "nothing", everyone = "nothing" } }));
        await marit.PostAsync("/api/events", Body(calendar, "Not yet", new { isDraft = true }));
        var row = (await marit.GetJsonAsync("/api/who-sees")).AsArray().Single(r => r!.Text("calendarId") == calendar.Text("id"))!;
        Assert.Equal((2, 1, 1, "everything", "nothing"), (row.Number("events"), row.Number("narrowed"), row.Number("drafts"), row["reach"]!.Text("members"), row["reach"]!.Text("everyone")));
        Assert.Equal(("Marit Quill", "keeper"), (row["roles"]![0]!.Text("name"), row["roles"]![0]!.Text("role")));
        var csv = await marit.GetStringAsync("/api/who-sees.csv");
        // A spreadsheet takes no title for a formula.
        Assert.Contains("\"'=Told, \"\"of\"\"\",Groups,Everything,Nothing,Nothing,2,1,1,0,Marit Quill (Keeper),\r\n", csv);
    }

    [Fact]
    public async Task The_last_keeper_and_the_last_administrator_stay()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("Kept");
        var (id, owen) = (await IdOfAsync(marit, Server.Marit), await IdOfAsync(marit, "owen.tarbell@lanternfell.example"));
        await marit.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/roles", new { personId = id, role = (string?)null }).ProblemAsync(422, "last_keeper");
        await marit.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/roles", new { personId = id, role = "reader" }).ProblemAsync(422, "last_keeper");
        await ShareAsync(marit, calendar, owen, "keeper");
        await ShareAsync(marit, calendar, id, null);
        await marit.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/roles", new { personId = Guid.NewGuid(), role = "reader" }).ProblemAsync(422, "no_such_person");
        await marit.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/roles", new { role = "reader" }).ProblemAsync(422, "no_such_person");

        Assert.Equal(HttpStatusCode.NoContent, (await marit.DeleteAsync($"/api/people/{owen}")).StatusCode);
        await marit.DeleteAsync($"/api/people/{id}").ProblemAsync(422, "last_administrator");
        await marit.PutAsJsonAsync($"/api/people/{id}/role", new { role = "member" }).ProblemAsync(422, "last_administrator");
    }

    [Fact]
    public async Task Who_leaves_is_signed_out_and_has_nothing_left()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, ines) = (await own.SignedInAsync(), await own.SignedInAsync(Ines));
        var choir = (await BoardAsync(marit, "calendars")).Single(c => c!.Text("title") == "Harbour choir")!;
        await marit.DeleteAsync($"/api/people/{await IdOfAsync(marit, Ines)}");
        await ines.GetAsync("/api/session").ProblemAsync(401, "signed_out");
        await own.Visitor().PostAsJsonAsync("/api/session", new { email = Ines, password = DemoSchool.Password }).ProblemAsync(401, "sign_in_failed");
        Assert.Empty((await marit.GetJsonAsync($"/api/calendars/{choir.Text("id")}/roles")).AsArray());
    }

    [Fact]
    public async Task An_invitation_is_mailed_once_used_once_and_expires()
    {
        var box = new Box();
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync(), mail: box) { IsLoggingAll = true };
        var marit = await own.SignedInAsync();
        var invited = await marit.PostAsync("/api/invitations", new { email = "nora.fenn@lanternfell.example", role = "member" });
        await marit.PostAsJsonAsync("/api/invitations", new { email = "nobody", role = "member" }).ProblemAsync(422, "email_malformed");
        await marit.PostAsJsonAsync("/api/invitations", new { email = Ines, role = "member" }).ProblemAsync(409, "key_taken");
        var mail = await box.NextAsync();
        Assert.Equal("nora.fenn@lanternfell.example", mail.Recipient);
        var token = mail.Body[(mail.Body.IndexOf("/join#", StringComparison.Ordinal) + 6)..].Split('\n')[0];

        var nora = own.Visitor();
        Assert.Equal("nora.fenn@lanternfell.example", (await nora.PostAsync("/api/invitation", new { token })).Text("email"));
        await nora.PostAsJsonAsync("/api/invitation/accept", new { token, name = "Nora Fenn", password = "short" }).ProblemAsync(422, "password_short");
        await nora.PostAsJsonAsync("/api/invitation/accept", new { token, name = " ", password = "three small words" }).ProblemAsync(422, "title_missing");
        Assert.Equal(HttpStatusCode.NoContent, (await nora.PostAsJsonAsync("/api/invitation/accept", new { token, name = "Nora Fenn", password = "three small words" })).StatusCode);
        Assert.Equal("Nora Fenn", (await nora.GetJsonAsync("/api/session"))["person"]!.Text("name"));
        await own.Visitor().PostAsJsonAsync("/api/invitation/accept", new { token, name = "Another", password = "three small words" }).ProblemAsync(404, "no_such_invitation");
        Assert.Empty((await marit.GetJsonAsync("/api/people"))["invitations"]!.AsArray());
        Assert.NotNull(invited["id"]);

        await marit.PostAsync("/api/invitations", new { email = "late@lanternfell.example", role = "member" });
        mail = await box.NextAsync();
        token = mail.Body[(mail.Body.IndexOf("/join#", StringComparison.Ordinal) + 6)..].Split('\n')[0];
        own.Clock.Now += Duration.FromDays(8);
        await own.Visitor().PostAsJsonAsync("/api/invitation", new { token }).ProblemAsync(404, "no_such_invitation");
        Assert.DoesNotContain(token, own.Log.Text);
    }

    [Fact]
    public async Task A_forgotten_password_is_replaced_by_mail_and_ends_all_sessions()
    {
        var box = new Box();
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync(), mail: box);
        var (ines, visitor) = (await own.SignedInAsync(Ines), own.Visitor());
        // The answer does not tell whether there is somebody.
        // The same answer to everybody, also to what no database can be asked for.
        foreach (var none in new[] { "nobody@lanternfell.example", "no\0body@lanternfell.example", "nobody@lanternfell.example\0", "\0\0\0", "nobody", "" })
            Assert.Equal(HttpStatusCode.NoContent, (await visitor.PostAsJsonAsync("/api/forgotten", new { email = none })).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await visitor.PostAsJsonAsync("/api/forgotten", new { email = Ines })).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await visitor.PostAsJsonAsync("/api/forgotten", new { email = Ines })).StatusCode);
        var mail = await box.NextAsync();
        Assert.Equal(Ines, mail.Recipient);
        var token = mail.Body[(mail.Body.IndexOf("/new-password#", StringComparison.Ordinal) + 14)..].Split('\n')[0];
        Assert.Equal(HttpStatusCode.NoContent, (await visitor.PostAsJsonAsync("/api/new-password", new { token, password = "another long one" })).StatusCode);
        await visitor.PostAsJsonAsync("/api/new-password", new { token, password = "another long one" }).ProblemAsync(404, "reset_expired");
        await ines.GetAsync("/api/session").ProblemAsync(401, "signed_out");
        await own.SignedInAsync(Ines, "another long one");
        Assert.Equal(1, box.Sent);
    }

    [Fact]
    public async Task Mail_that_cannot_be_sent_waits_longer_each_time_and_goes_out_once()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync(), mail: new Box());
        var mails = own.Services.GetRequiredService<Store.Mails>();
        var now = own.Clock.Now + Duration.FromDays(3660);
        var tries = new List<Instant>();
        await using var db = new Npgsql.NpgsqlConnection(own.Database);
        // Due when the server's own sender does not look for it.
        await db.ExecuteAsync(
            """
            insert into mail (id, school_id, recipient, subject, body, created_at, next_try_at)
            select gen_random_uuid(), id, 'late@lanternfell.example', 'An invitation', 'Come.', @now, @now from school
            """,
            new { now = now.ToDateTimeUtc() });
        for (var minute = 0; minute < 60; minute++)
        {
            var at = now + Duration.FromMinutes(minute);
            if (await mails.TakeAsync(at) is not { } mail)
                continue;
            Assert.Null(await mails.TakeAsync(at));
            tries.Add(at);
            if (tries.Count < 4)
                Assert.True(await mails.FailedAsync(mail, "no line", isFinal: false, at) > at);
            else
                await mails.SentAsync(mail, at);
        }
        Assert.Equal(4, tries.Count);
        Assert.True(tries[3] - tries[2] > tries[2] - tries[1]);
    }

    private sealed class Box : IMailWay
    {
        private readonly System.Threading.Channels.Channel<Store.Mail> mails = System.Threading.Channels.Channel.CreateUnbounded<Store.Mail>();

        public int Sent { get; private set; }

        public async Task SendAsync(Store.Mail mail, CancellationToken cancellation)
        {
            Sent++;
            await mails.Writer.WriteAsync(mail, cancellation);
        }

        public async Task<Store.Mail> NextAsync() => await mails.Reader.ReadAsync(TestContext.Current.CancellationToken);
    }
}
