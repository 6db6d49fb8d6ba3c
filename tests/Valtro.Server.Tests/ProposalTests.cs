using Microsoft.Extensions.DependencyInjection;
using Valtro.Server.Proposals;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What is offered, asked, answered and told, through the server.</summary>
public sealed class ProposalTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Bea = "bea.lindqvist@lanternfell.example";
    private const string Tomas = "tomas.reed@lanternfell.example";
    private const string Ines = "ines.harrow@lanternfell.example";

    private readonly Server server = fixture.Server;

    private static async Task ShareAsync(HttpClient client, JsonNode calendar, string email, string role)
    {
        var people = (await client.GetJsonAsync("/api/people"))["people"]!.AsArray();
        var personId = people.Single(p => p!.Text("email") == email)!.Text("id");
        await client.PutAsync($"/api/calendars/{calendar.Text("id")}/roles", new { personId, role });
    }

    private static Dictionary<string, object?> Wanted(JsonNode calendar, string title, object? facts = null, object? rule = null, int? version = null) => new()
    {
        ["calendarId"] = calendar.Text("id"),
        ["title"] = title,
        ["place"] = "Slip 1",
        ["description"] = "Bring a rope",
        ["timing"] = Timed("2045-03-06T09:00:00", "2045-03-06T10:00:00"),
        ["rule"] = rule,
        ["facts"] = facts ?? new { },
        ["version"] = version,
    };

    private static object Also(params JsonNode[] calendars) => new { alsoIn = calendars.Select(c => c.Text("id")) };

    private static Dictionary<string, object?> Offer(object ev, string remark = "", int? version = null) => new() { ["event"] = ev, ["remark"] = remark, ["version"] = version };

    private static async Task<JsonNode> OfferAsync(HttpClient client, object ev, string remark = "") =>
        (await client.PostAsync("/api/proposals", Offer(ev, remark)))["proposal"]!;

    private static object Answer(JsonNode proposal, string answer, string remark, params JsonNode[] calendars) =>
        new { calendarIds = calendars.Select(c => c.Text("id")), answer, remark, version = proposal.Number("version") };

    private static Task<HttpResponseMessage> SendAnswerAsync(HttpClient client, JsonNode proposal, string answer, string remark, params JsonNode[] calendars) =>
        client.PostAsJsonAsync($"/api/proposals/{proposal.Text("id")}/answer", Answer(proposal, answer, remark, calendars));

    private static async Task<JsonNode> AnswerAsync(HttpClient client, JsonNode proposal, string answer, string remark, params JsonNode[] calendars) =>
        await (await SendAnswerAsync(client, proposal, answer, remark, calendars)).JsonAsync();

    private static async Task<JsonNode?> FindAsync(HttpClient client, JsonNode proposal) =>
        (await client.GetJsonAsync("/api/proposals")).AsArray().SingleOrDefault(p => p!.Text("id") == proposal.Text("id"));

    private static async Task<string[]> BoardAsync(HttpClient client, JsonNode calendar, string more = "") =>
        [.. (await client.GetJsonAsync("/api/board?from=2045-03-01&to=2045-04-01" + more))["occurrences"]!.AsArray()
            .Where(o => o!.Text("calendarId") == calendar.Text("id"))
            .Select(o => $"{o!.Text("title")} {o!.Text("firstDay")} {(o!["proposed"] is { } kind ? kind.GetValue<string>() : "-")}")];

    private static async Task<JsonNode> FeedAsync(HttpClient keeper, string key, params JsonNode[] calendars)
    {
        foreach (var calendar in calendars)
            await keeper.OpenAsync(calendar);
        return await keeper.PublishAsync(key, calendars);
    }

    [Fact]
    public async Task What_is_proposed_goes_out_when_it_is_approved_and_not_before()
    {
        var (marit, bea) = (await server.SignedInAsync(), await server.SignedInAsync(Bea));
        var (boats, ropes) = (await marit.NewCalendarAsync("Boats offered to"), await marit.NewCalendarAsync("Ropes offered to"));
        await ShareAsync(marit, boats, Bea, "proposer");
        await ShareAsync(marit, ropes, Bea, "proposer");
        await FeedAsync(marit, "offered-calendar", boats, ropes);
        // An event that was out and is gone again is told of as cancelled.
        async Task<int> OutAsync()
        {
            var feed = await server.Visitor().GetStringAsync("/p/offered-calendar/feed.ics");
            return feed.Split("SUMMARY:Keel evening").Length - 1 - (feed.Split("STATUS:CANCELLED").Length - 1);
        }

        await bea.PostAsJsonAsync("/api/events", Wanted(boats, "Keel evening")).ProblemAsync(403, "not_allowed");
        var offered = await bea.PostAsync("/api/proposals", Offer(Wanted(boats, "Keel evening", new { alsoIn = new[] { ropes.Text("id") }, tags = new[] { "zigzag" } }), "Two zigzag boats come"));
        Assert.Null(offered["event"]);
        var proposal = offered["proposal"]!;
        Assert.Equal(0, await OutAsync());
        Assert.Equal(["Keel evening 2045-03-06 new"], await BoardAsync(marit, boats));
        Assert.Equal(["Keel evening 2045-03-06 new"], await BoardAsync(bea, boats));
        Assert.Empty(await BoardAsync(await server.SignedInAsync(Tomas), boats));
        Assert.Empty(await BoardAsync(marit, boats, "&look=members"));
        Assert.Empty((await marit.GetJsonAsync("/api/search?q=zigzag")).AsArray());

        var seen = (await FindAsync(marit, proposal))!;
        Assert.Equal(("Bea Lindqvist", "Two zigzag boats come", false), (seen.Text("person"), seen.Text("remark"), seen["isMine"]!.GetValue<bool>()));
        Assert.All(seen["asks"]!.AsArray(), a => Assert.True(a!["mayDecide"]!.GetValue<bool>()));

        var answered = await AnswerAsync(marit, seen, "approved", "", boats);
        Assert.Equal(1, await OutAsync());
        Assert.Equal(["approved", "open"], answered["asks"]!.AsArray().Select(a => a!.Text("answer")).Order());
        await AnswerAsync(marit, seen, "declined", "No room", ropes);
        var mine = (await FindAsync(bea, proposal))!;
        Assert.Equal("No room", mine["asks"]!.AsArray().Single(a => a!.Text("calendarId") == ropes.Text("id"))!.Text("remark"));
        Assert.Equal(["Keel evening 2045-03-06 -"], await BoardAsync(marit, boats));

        // Taken back it is as before, and Ctrl+Z of the workspace does not take half of an answer away.
        await marit.PostAsJsonAsync("/api/me/undo", new { });
        Assert.Equal(1, await OutAsync());
        await marit.PostAsync($"/api/proposals/{proposal.Text("id")}/reopen", new { calendarIds = new[] { boats.Text("id") } });
        Assert.Equal(0, await OutAsync());
        await AnswerAsync(marit, seen, "approved", "", boats);
        Assert.Equal(1, await OutAsync());
    }

    [Fact]
    public async Task Who_keeps_the_events_of_one_calendar_is_asked_only_for_the_others()
    {
        var (marit, tomas) = (await server.SignedInAsync(), await server.SignedInAsync(Tomas));
        var (own, open, closed) = (await marit.NewCalendarAsync("Own of Tomas"), await marit.NewCalendarAsync("Open to offers"), await marit.NewCalendarAsync("Closed to Tomas"));
        await ShareAsync(marit, own, Tomas, "editor");
        await marit.PutAsync($"/api/calendars/{closed.Text("id")}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 1 });

        await tomas.PostAsJsonAsync("/api/proposals", Offer(Wanted(own, "Oars", Also(closed)))).ProblemAsync(404, "no_such_calendar");
        Assert.Empty(await BoardAsync(tomas, own));
        var offered = await tomas.PostAsync("/api/proposals", Offer(Wanted(open, "Oars", Also(own))));
        Assert.Equal(own.Text("id"), offered["event"]!.Text("calendarId"));
        Assert.Equal(["Oars 2045-03-06 -"], await BoardAsync(tomas, own));
        Assert.Equal(["Oars 2045-03-06 new"], await BoardAsync(marit, open));
        // Who may do it all at once needs no proposal.
        var all = await marit.PostAsync("/api/proposals", Offer(Wanted(open, "All mine", Also(own))));
        Assert.Null(all["proposal"]);
        // Who has no part in any calendar offers nothing.
        var samir = await server.SignedInAsync("samir.dole@lanternfell.example");
        await samir.PostAsJsonAsync("/api/proposals", Offer(Wanted(open, "Mine"))).ProblemAsync(403, "not_allowed");
    }

    [Fact]
    public async Task A_copy_and_a_move_to_where_one_may_only_propose_wait_there()
    {
        var (marit, bea, tomas) = (await server.SignedInAsync(), await server.SignedInAsync(Bea), await server.SignedInAsync(Tomas));
        var own = await bea.NewCalendarAsync("Bea's copies");
        var theirs = await marit.NewCalendarAsync("Proposed copies");
        await ShareAsync(marit, theirs, Bea, "proposer");
        var made = await bea.PostAsync("/api/events", Wanted(own, "Caulking", rule: new { frequency = "weekly", interval = 1, days = new[] { "monday" }, count = 3, until = (string?)null }));
        var path = made.Text("id");
        object Copy(JsonNode to, bool isSeries, int days = 1) => new { date = "2045-03-13T09:00:00", isSeries, shift = new { days, minutes = 0, longerDays = 0, longerMinutes = 0, calendarId = to.Text("id"), place = (string?)null }, remark = "Like mine" };

        var date = await bea.PostAsync($"/api/proposals/copy/{path}", Copy(own, false));
        Assert.Equal(("2045-03-14T09:00:00", null, null), (date["event"]!["timing"]!.Text("start"), date["event"]!["rule"]?.ToJsonString(), date["proposal"]?.ToJsonString()));
        var series = (await bea.PostAsync($"/api/proposals/copy/{path}", Copy(theirs, true, 7)))["proposal"]!;
        Assert.Equal(["Caulking 2045-03-13 new", "Caulking 2045-03-20 new", "Caulking 2045-03-27 new"], await BoardAsync(marit, theirs));
        await AnswerAsync(marit, series, "approved", "", theirs);
        Assert.Equal(["Caulking 2045-03-13 -", "Caulking 2045-03-20 -", "Caulking 2045-03-27 -"], await BoardAsync(bea, theirs));

        var edit = Wanted(theirs, "Caulking", rule: new { frequency = "weekly", interval = 1, days = new[] { "monday" }, count = 3, until = (string?)null }, version: 1);
        await bea.PutAsJsonAsync($"/api/events/{path}", edit).ProblemAsync(403, "not_allowed");
        var moving = (await bea.PostAsync($"/api/proposals/change/{path}", new { edit, remark = "" }))["proposal"]!;
        Assert.Equal("moving", moving["asks"]![0]!.Text("kind"));
        Assert.Equal(own.Text("id"), (await bea.GetJsonAsync($"/api/events/{path}")).Text("calendarId"));
        await AnswerAsync(marit, moving, "approved", "", theirs);
        Assert.Equal(theirs.Text("id"), (await marit.GetJsonAsync($"/api/events/{path}")).Text("calendarId"));
        await marit.PostAsync($"/api/proposals/{moving.Text("id")}/reopen", new { calendarIds = new[] { theirs.Text("id") } });
        Assert.Equal(own.Text("id"), (await bea.GetJsonAsync($"/api/events/{path}")).Text("calendarId"));

        // Who may not know of it copies nothing of it, nor into what they may not.
        var draft = await bea.PostAsync("/api/events", Wanted(own, "Not yet", facts: new { isDraft = true }));
        await tomas.PostAsJsonAsync($"/api/proposals/copy/{draft.Text("id")}", Copy(theirs, true)).ProblemAsync(404, "no_such_event");
        await bea.PostAsJsonAsync($"/api/proposals/copy/{path}", new { date = "2045-03-14T09:00:00" }).ProblemAsync(422, "no_such_date");
    }

    [Fact]
    public async Task A_change_waits_and_the_old_version_stays_published_until_it_is_decided()
    {
        var (marit, bea) = (await server.SignedInAsync(), await server.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats changed");
        await ShareAsync(marit, boats, Bea, "proposer");
        await FeedAsync(marit, "changed-calendar", boats);
        Task<string> FeedTextAsync() => server.Visitor().GetStringAsync("/p/changed-calendar/feed.ics");
        var made = await marit.PostAsync("/api/events", Wanted(boats, "Tides", rule: new { frequency = "weekly", interval = 1, days = new[] { "monday" }, count = 3, until = (string?)null }));
        var path = made.Text("id");

        var edit = Wanted(boats, "Tides and moon", rule: Weekly("monday"), version: 1);
        edit["rule"] = new { frequency = "weekly", interval = 1, days = new[] { "monday" }, count = 3, until = (string?)null };
        var first = await bea.PostAsync($"/api/proposals/change/{path}", new { edit, remark = "Better so" });
        Assert.Contains("SUMMARY:Tides\r\n", await FeedTextAsync());
        // A date left out goes on from what is proposed already: one proposal says both.
        var second = await bea.PostAsync($"/api/proposals/step/{path}", new { step = "leaveOut", date = "2045-03-13T09:00:00", version = 1, remark = "" });
        Assert.Null(await FindAsync(bea, first["proposal"]!));
        var proposal = second["proposal"]!;
        Assert.Equal(("Tides and moon", 1), (proposal["offered"]!.Text("title"), proposal["offered"]!["skips"]!.AsArray().Count));
        Assert.Equal(
            ["Tides 2045-03-06 -", "Tides 2045-03-13 gone", "Tides 2045-03-20 -", "Tides and moon 2045-03-06 change", "Tides and moon 2045-03-20 change"],
            (await BoardAsync(marit, boats)).Order());

        // A keeper changes the place meanwhile: both hold.
        await marit.PutAsync($"/api/events/{path}", new Dictionary<string, object?>(edit) { ["title"] = "Tides", ["place"] = "Slip 9", ["version"] = 1 });
        await bea.PostAsJsonAsync($"/api/proposals/step/{path}", new { step = "delete", version = 1, remark = "" }).ProblemAsync(409, "stale_version");
        await AnswerAsync(marit, proposal, "approved", "", boats);
        var feed = await FeedTextAsync();
        Assert.Contains("SUMMARY:Tides and moon\r\n", feed);
        Assert.Contains("LOCATION:Slip 9\r\n", feed);
        Assert.Equal(["Tides and moon 2045-03-06 -", "Tides and moon 2045-03-20 -"], await BoardAsync(marit, boats));

        // Overtaken, it is not laid over what somebody else said.
        var overtaken = (await bea.PostAsync($"/api/proposals/step/{path}", new { step = "callOff", date = "2045-03-20T09:00:00", version = 3, remark = "" }))["proposal"]!;
        await marit.PostAsync($"/api/events/{path}/leave-out", new { date = "2045-03-20T09:00:00", version = 3 });
        await SendAnswerAsync(marit, overtaken, "approved", "", boats).ProblemAsync(422, "proposal_overtaken");
        Assert.Equal("open", (await FindAsync(bea, overtaken))!["asks"]![0]!.Text("answer"));
    }

    [Fact]
    public async Task What_is_sent_back_is_made_better_and_asked_again()
    {
        var (marit, bea) = (await server.SignedInAsync(), await server.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats sent back");
        await ShareAsync(marit, boats, Bea, "proposer");
        var proposal = await OfferAsync(bea, Wanted(boats, "Sail"));
        await SendAnswerAsync(marit, proposal, "sentBack", "", boats).ProblemAsync(422, "remark_missing");
        await AnswerAsync(marit, proposal, "sentBack", "Which sail?", boats);
        Assert.Equal("Which sail?", (await FindAsync(bea, proposal))!["asks"]![0]!.Text("remark"));

        await marit.PutAsJsonAsync($"/api/proposals/{proposal.Text("id")}", Offer(Wanted(boats, "Mine now"), version: 1)).ProblemAsync(403, "not_allowed");
        await bea.PutAsJsonAsync($"/api/proposals/{proposal.Text("id")}", Offer(Wanted(boats, "Stale"), version: 9)).ProblemAsync(409, "stale_version");
        var better = await bea.PutAsync($"/api/proposals/{proposal.Text("id")}", Offer(Wanted(boats, "Fore sail"), "This one", 1));
        Assert.Equal(("open", 2), (better["asks"]![0]!.Text("answer"), better.Number("version")));
        // What the keeper has on the screen is the old one.
        await SendAnswerAsync(marit, proposal, "approved", "", boats).ProblemAsync(422, "proposal_changed");
        await AnswerAsync(marit, better, "approved", "", boats);
        Assert.Equal(["Fore sail 2045-03-06 -"], await BoardAsync(marit, boats));
        await bea.PutAsJsonAsync($"/api/proposals/{proposal.Text("id")}", Offer(Wanted(boats, "Other"), version: 2)).ProblemAsync(422, "proposal_in_part");
    }

    [Fact]
    public async Task Of_two_keepers_who_answer_at_once_one_is_told()
    {
        var (marit, owen, bea) = (await server.SignedInAsync(), await server.SignedInAsync("owen.tarbell@lanternfell.example"), await server.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats of two");
        await ShareAsync(marit, boats, Bea, "proposer");
        for (var run = 0; run < 8; run++)
        {
            var proposal = await OfferAsync(bea, Wanted(boats, "Race " + run));
            var answers = await Task.WhenAll(SendAnswerAsync(marit, proposal, "approved", "", boats), SendAnswerAsync(owen, proposal, "declined", "No", boats));
            Assert.Equal([200, 422], answers.Select(a => (int)a.StatusCode).Order());
            await Task.FromResult(answers.Single(a => !a.IsSuccessStatusCode)).ProblemAsync(422, "proposal_decided");
            var said = (await FindAsync(bea, proposal))!["asks"]![0]!.Text("answer");
            Assert.Equal(answers[0].IsSuccessStatusCode ? "approved" : "declined", said);
            Assert.Equal(said == "approved", (await BoardAsync(marit, boats)).Contains($"Race {run} 2045-03-06 -"));
        }
    }

    [Fact]
    public async Task Only_keepers_answer_and_only_those_concerned_see()
    {
        var (marit, bea, tomas, ines) = (await server.SignedInAsync(), await server.SignedInAsync(Bea), await server.SignedInAsync(Tomas), await server.SignedInAsync(Ines));
        var (boats, ropes) = (await marit.NewCalendarAsync("Boats concerned"), await marit.NewCalendarAsync("Ropes hidden"));
        foreach (var (calendar, email, role) in new[] { (boats, Bea, "proposer"), (boats, Tomas, "editor"), (ropes, Bea, "proposer") })
            await ShareAsync(marit, calendar, email, role);
        await marit.PutAsync($"/api/calendars/{ropes.Text("id")}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 1 });
        var proposal = await OfferAsync(bea, Wanted(boats, "Hulls", Also(ropes)));
        var path = $"/api/proposals/{proposal.Text("id")}";

        // An editor sees it and does not answer; of a calendar they do not see they are not told.
        var seen = (await FindAsync(tomas, proposal))!;
        Assert.Equal((1, false), (seen["asks"]!.AsArray().Count, seen["asks"]![0]!["mayDecide"]!.GetValue<bool>()));
        Assert.Empty(seen["offered"]!["facts"]!["alsoIn"]!.AsArray());
        await SendAnswerAsync(tomas, proposal, "approved", "", boats).ProblemAsync(403, "not_allowed");
        await SendAnswerAsync(bea, proposal, "approved", "", boats).ProblemAsync(403, "not_allowed");
        Assert.Null(await FindAsync(ines, proposal));
        await SendAnswerAsync(ines, proposal, "approved", "", boats).ProblemAsync(404, "no_such_proposal");
        await ines.GetAsync(path + "/clashes").ProblemAsync(404, "no_such_proposal");
        await tomas.DeleteAsync(path).ProblemAsync(403, "not_allowed");
        await ines.DeleteAsync(path).ProblemAsync(404, "no_such_proposal");
        Assert.Equal(HttpStatusCode.NoContent, (await bea.DeleteAsync(path)).StatusCode);
        await bea.DeleteAsync(path).ProblemAsync(404, "no_such_proposal");
    }

    [Fact]
    public async Task The_clashes_of_a_proposal_are_told_with_other_proposals_among_them()
    {
        var (marit, bea) = (await server.SignedInAsync(), await server.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats that clash");
        await ShareAsync(marit, boats, Bea, "proposer");
        Dictionary<string, object?> At(string title, string place) => new(Wanted(boats, title)) { ["place"] = place };
        await marit.PutAsync("/api/lists", await WithPlaceAsync(marit, "Dry dock 7"));
        await marit.PostAsync("/api/events", At("Standing", "Dry dock 7"));
        var first = await OfferAsync(bea, At("First offered", "Dry dock 7"));
        await OfferAsync(bea, At("Second offered", "Dry dock 7"));
        var clashes = (await marit.GetJsonAsync($"/api/proposals/{first.Text("id")}/clashes"))["clashes"]!.AsArray();
        var titles = clashes.Where(c => c!.Text("kind") == "placeTaken").SelectMany(c => new[] { c!["event"]!.Text("title"), c!["other"]!.Text("title") }).Distinct().Order();
        Assert.Equal(["First offered", "Second offered", "Standing"], titles);
    }

    private static async Task<JsonNode> WithPlaceAsync(HttpClient client, string name)
    {
        var lists = await client.GetJsonAsync("/api/lists");
        lists["places"]!.AsArray().Add(JsonNode.Parse($$"""{"id":null,"name":"{{name}}","capacity":null,"address":"","latitude":null,"longitude":null}"""));
        return lists;
    }

    [Fact]
    public async Task A_file_of_a_proposal_is_read_by_those_it_is_offered_to()
    {
        var (marit, bea, ines) = (await server.SignedInAsync(), await server.SignedInAsync(Bea), await server.SignedInAsync(Ines));
        var boats = await marit.NewCalendarAsync("Boats with papers");
        await ShareAsync(marit, boats, Bea, "proposer");
        var file = await (await bea.PostAsync("/api/files?name=list.txt", new StringContent("oars, ropes"))).JsonAsync();
        var proposal = await OfferAsync(bea, Wanted(boats, "Papers", new { files = new[] { file } }));
        var path = $"/api/proposals/{proposal.Text("id")}/files/{file.Text("id")}";
        Assert.Equal("oars, ropes", await marit.GetStringAsync(path));
        await ines.GetAsync(path).ProblemAsync(404, "no_such_proposal");
        await marit.GetAsync($"/api/proposals/{proposal.Text("id")}/files/{Guid.NewGuid()}").ProblemAsync(404, "no_such_file");
        await AnswerAsync(marit, proposal, "approved", "", boats);
        Assert.Equal("oars, ropes", await marit.GetStringAsync($"/api/events/{proposal.Text("eventId")}/files/{file.Text("id")}"));
    }

    [Fact]
    public async Task Keepers_and_proposers_get_one_mail_for_all_and_only_once()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, bea) = (await own.SignedInAsync(), await own.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats told of");
        await ShareAsync(marit, boats, Bea, "proposer");
        await ShareAsync(marit, boats, Ines, "keeper");
        var teller = own.Services.GetServices<Jobs.IJob>().OfType<ProposalTeller>().Single();
        // What waits in the demo school is told of first.
        own.Clock.Now += Duration.FromHours(1);
        await teller.TellAsync(own.Clock.Now);
        Assert.Equal(0, await teller.TellAsync(own.Clock.Now));

        var first = await OfferAsync(bea, Wanted(boats, "Bow"));
        await OfferAsync(bea, Wanted(boats, "Stern"));
        Assert.Equal(0, await teller.TellAsync(own.Clock.Now));
        own.Clock.Now += Duration.FromHours(1);
        Assert.Equal(2, await teller.TellAsync(own.Clock.Now));
        Assert.Equal(0, await teller.TellAsync(own.Clock.Now));
        var mails = await MailsAsync(own);
        foreach (var to in new[] { Server.Marit, Ines })
        {
            var (subject, body) = mails.Single(m => m.To == to && m.Body.Contains("Stern", StringComparison.Ordinal)) is var mail ? (mail.Subject, mail.Body) : default;
            Assert.Contains("2 proposals wait", subject);
            Assert.Contains("– Bow → Boats told of (Bea Lindqvist)\n", body);
            Assert.Contains(Server.Address + "/proposals", body);
        }

        await AnswerAsync(marit, first, "sentBack", "Which bow?", boats);
        own.Clock.Now += Duration.FromHours(1);
        Assert.Equal(1, await teller.TellAsync(own.Clock.Now));
        Assert.Contains("– Bow → Boats told of: sent back (Marit Quill)\n  “Which bow?”", (await MailsAsync(own)).Single(m => m.To == Bea).Body);
        // Made better, it waits again and is told again.
        await bea.PutAsync($"/api/proposals/{first.Text("id")}", Offer(Wanted(boats, "Bow of oak"), version: 1));
        own.Clock.Now += Duration.FromHours(1);
        Assert.Equal(2, await teller.TellAsync(own.Clock.Now));
        Assert.Contains((await MailsAsync(own)), m => m.To == Ines && m.Subject.Contains("1 proposal waits", StringComparison.Ordinal) && m.Body.Contains("Bow of oak", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_further_change_keeps_where_it_was_offered_and_those_are_told_when_its_home_has_agreed()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, bea) = (await own.SignedInAsync(), await own.SignedInAsync(Bea));
        var (boats, ropes) = (await marit.NewCalendarAsync("Boats at home"), await marit.NewCalendarAsync("Ropes beside"));
        foreach (var calendar in new[] { boats, ropes })
            await ShareAsync(marit, calendar, Bea, "proposer");
        await ShareAsync(marit, ropes, Ines, "keeper");
        var made = await marit.PostAsync("/api/events", Wanted(boats, "Tides"));
        var teller = own.Services.GetServices<Jobs.IJob>().OfType<ProposalTeller>().Single();
        own.Clock.Now += Duration.FromHours(1);
        await teller.TellAsync(own.Clock.Now);

        await bea.PostAsync($"/api/proposals/change/{made.Text("id")}", new { edit = Wanted(boats, "Tides and moon", Also(ropes), version: 1), remark = "Both" });
        var proposal = (await bea.PostAsync($"/api/proposals/step/{made.Text("id")}", new { step = "callOff", date = "2045-03-06T09:00:00", version = 1, remark = "" }))["proposal"]!;
        Assert.Equal(["contents", "standing"], proposal["asks"]!.AsArray().Select(a => a!.Text("kind")).Order());
        Assert.Equal(("Both", "Tides and moon"), (proposal.Text("remark"), proposal["offered"]!.Text("title")));

        own.Clock.Now += Duration.FromHours(1);
        Assert.Equal(1, await teller.TellAsync(own.Clock.Now));
        Assert.DoesNotContain(await MailsAsync(own), m => m.To == Ines && m.Body.Contains("Tides", StringComparison.Ordinal));
        await AnswerAsync(marit, proposal, "approved", "", boats);
        own.Clock.Now += Duration.FromHours(1);
        await teller.TellAsync(own.Clock.Now);
        Assert.Contains(await MailsAsync(own), m => m.To == Ines && m.Body.Contains("– Tides and moon → Ropes beside", StringComparison.Ordinal));
        Assert.Equal(0, await teller.TellAsync(own.Clock.Now + Duration.FromHours(1)));
    }

    private static async Task<IReadOnlyList<(string To, string Subject, string Body)>> MailsAsync(Server own)
    {
        await using var connection = new Npgsql.NpgsqlConnection(own.Database);
        return [.. await Dapper.SqlMapper.QueryAsync<(string, string, string)>(connection, "select recipient, subject, body from mail order by id")];
    }

    [Fact]
    public async Task A_proposal_ends_with_its_time_and_never_while_it_waits()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, bea) = (await own.SignedInAsync(), await own.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats of long ago");
        await ShareAsync(marit, boats, Bea, "proposer");
        var (decided, waiting) = (await OfferAsync(bea, Wanted(boats, "Bow")), await OfferAsync(bea, Wanted(boats, "Stern")));
        await AnswerAsync(marit, decided, "declined", "", boats);
        var store = own.Services.GetRequiredService<Valtro.Store.Proposals>();
        Assert.Equal(0, await store.RemoveOldAsync(own.Clock.Now + Duration.FromDays(89)));
        Assert.Equal(1, await store.RemoveOldAsync(own.Clock.Now + Duration.FromDays(91)));
        Assert.NotNull(await FindAsync(bea, waiting));
    }

    [Fact]
    public async Task Nobody_lets_more_wait_than_keepers_can_read()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, bea) = (await own.SignedInAsync(), await own.SignedInAsync(Bea));
        var boats = await marit.NewCalendarAsync("Boats by the hundred");
        await ShareAsync(marit, boats, Bea, "proposer");
        var waiting = (await bea.GetJsonAsync("/api/proposals")).AsArray().Count(p => p!["isMine"]!.GetValue<bool>());
        for (var i = waiting; i < Valtro.Store.Proposals.MaxOpen; i++)
            await OfferAsync(bea, Wanted(boats, "Boat " + i));
        await bea.PostAsJsonAsync("/api/proposals", Offer(Wanted(boats, "One more"))).ProblemAsync(422, "too_many_proposals");
    }
}
