using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Valtro.Server.People;
using Valtro.Server.Readers;
using Valtro.Store;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>A visitor leaves an address, confirms it, is written to, and ends it; nobody else learns that it is there.</summary>
public sealed class ReaderMailTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private sealed record Sent(Guid Id, string Recipient, string Subject, string Body, string? EndsAt);

    private sealed class Box : IMailWay
    {
        public List<Sent> Mails { get; } = [];

        public HashSet<string> Refused { get; } = [];

        public Task SendAsync(Mail mail, CancellationToken cancellation)
        {
            if (Refused.Contains(mail.Recipient))
                throw new MailRefusedException("550 no such mailbox", new InvalidOperationException());
            lock (Mails)
                Mails.Add(new Sent(mail.Id, mail.Recipient, mail.Subject, mail.Body, mail.EndsAt));
            return Task.CompletedTask;
        }
    }

    private sealed class Place(Server server, Box box, JsonNode calendar, HttpClient marit) : IAsyncDisposable
    {
        public Server Server => server;

        public Box Box => box;

        public JsonNode Calendar => calendar;

        public HttpClient Marit => marit;

        // The server's own job sends them; it is waited for.
        public async Task SendAllAsync()
        {
            var sender = server.Services.GetServices<Jobs.IJob>().OfType<MailSender>().Single();
            for (var i = 0; i < 200 && await RowsAsync("select count(*) from mail where sent_at is null and next_try_at < 'infinity'") > 0; i++)
            {
                await sender.RunAsync(CancellationToken.None);
                await Task.Delay(50);
            }
        }

        public Task<int> WriteAsync() => server.Services.GetServices<Jobs.IJob>().OfType<ReaderMailer>().Single().WriteAsync(server.Clock.Now);

        public async Task<HttpResponseMessage> AskAsync(string address, string wish = "changes", string query = "") =>
            await server.Visitor().PostAsync("/follow/boats" + query, new FormUrlEncodedContent(new Dictionary<string, string> { ["address"] = address, ["wish"] = wish }));

        public async Task<string> LinkAsync(string address)
        {
            await SendAllAsync();
            return new Uri(box.Mails.Last(m => m.Recipient == address).Body.Split('\n').First(l => l.Contains("/follow/confirm/", StringComparison.Ordinal))).PathAndQuery;
        }

        public async Task FollowAsync(string address, string wish = "changes", string query = "")
        {
            Assert.Equal(HttpStatusCode.OK, (await AskAsync(address, wish, query)).StatusCode);
            Assert.Equal(HttpStatusCode.OK, (await server.Visitor().PostAsync(await LinkAsync(address), null)).StatusCode);
        }

        public Task<JsonNode> EventAsync(string title, string day, object? on = null) => marit.PostAsync(
            "/api/events", new { calendarId = (on as JsonNode ?? calendar).Text("id"), title, place = "", description = "", timing = Timed($"{day}T18:00:00", $"{day}T19:00:00"), facts = new { } });

        public async Task<long> RowsAsync(string sql)
        {
            await using var connection = new Npgsql.NpgsqlConnection(server.Database);
            return await connection.ExecuteScalarAsync<long>(sql);
        }

        public ValueTask DisposeAsync() => server.DisposeAsync();
    }

    // It is Wednesday, noon at the school.
    private async Task<Place> BeginAsync(bool isOn = true)
    {
        var box = new Box();
        var server = new Server(await fixture.Cluster.CreateDatabaseAsync(), mail: box);
        server.Clock.Now = Instant.FromUtc(2026, 12, 2, 16, 0);
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Boats"));
        if (isOn)
            await marit.PutAsync("/api/reader-mail", new { isOn = true });
        var place = new Place(server, box, calendar, marit);
        await place.EventAsync("Keel walk", "2026-12-08");
        await marit.PublishAsync("boats", calendar);
        await place.SendAllAsync();
        box.Mails.Clear();
        return place;
    }

    [Fact]
    public async Task Nothing_is_sent_before_it_is_confirmed_and_nothing_kept_that_is_not()
    {
        await using var place = await BeginAsync();
        Assert.Contains("/follow/boats", await place.Server.Visitor().GetStringAsync("/p/boats"));
        Assert.Equal(HttpStatusCode.OK, (await place.AskAsync("Family@Home.example")).StatusCode);
        // Asked twice at once is asked once.
        await place.AskAsync("family@home.example");
        await place.SendAllAsync();
        Assert.Single(place.Box.Mails);
        // However it is asked for, somebody's mailbox is not filled by others.
        for (var i = 0; i < 6; i++)
            Assert.Equal(HttpStatusCode.OK, (await place.AskAsync("Family@home.example", query: $"?q=row{i}")).StatusCode);
        await place.SendAllAsync();
        Assert.Equal(MailReaders.MaxLinksADay, place.Box.Mails.Count);
        // Nowhere the address can be read: not in the mails that wait, not for administrators.
        Assert.Equal(0, await place.RowsAsync("select count(*) from mail_reader where position('home' in encode(address, 'escape')) > 0"));
        Assert.Equal(0, await place.RowsAsync("select count(*) from mail where recipient like '%home%'"));
        await place.EventAsync("Knots", "2026-12-09");
        place.Server.Clock.Now += Duration.FromHours(2);
        Assert.Equal(0, await place.WriteAsync());
        // A program that opens links confirms nothing.
        var link = await place.LinkAsync("Family@Home.example");
        Assert.Contains("<button", await place.Server.Visitor().GetStringAsync(link));
        Assert.Equal(0, await place.RowsAsync("select count(*) from mail_reader where confirmed_at is not null"));
        place.Server.Clock.Now += Duration.FromHours(23);
        Assert.Equal(HttpStatusCode.NotFound, (await place.Server.Visitor().PostAsync(link, null)).StatusCode);
        await place.WriteAsync();
        Assert.Equal(0, await place.RowsAsync("select count(*) from mail_reader"));
    }

    [Fact]
    public async Task Changes_come_once_a_day_as_far_as_they_were_chosen()
    {
        await using var place = await BeginAsync();
        var (server, box) = (place.Server, place.Box);
        await place.FollowAsync("all@home.example");
        await place.FollowAsync("knots@home.example", query: "?q=knots&lang=de");
        Assert.Equal(2, await place.RowsAsync("select count(*) from mail_reader where confirmed_at is not null"));

        // Not on the day they began.
        await place.EventAsync("Sail sewing", "2026-12-10");
        server.Clock.Now += Duration.FromHours(1);
        Assert.Equal(0, await place.WriteAsync());
        server.Clock.Now = Instant.FromUtc(2026, 12, 3, 9, 0);
        // Nobody is woken.
        Assert.Equal(0, await place.WriteAsync());
        server.Clock.Now = Instant.FromUtc(2026, 12, 3, 16, 0);
        Assert.Equal(1, await place.WriteAsync());
        Assert.Equal(0, await place.WriteAsync());
        await place.SendAllAsync();
        var mail = box.Mails.Last();
        Assert.Equal("all@home.example", mail.Recipient);
        Assert.Contains("New\n– Thursday 10 December 2026, 18:00–19:00: Sail sewing\n", mail.Body);
        Assert.DoesNotContain("Keel walk", mail.Body);
        Assert.Contains("/p/boats/e/", mail.Body);

        // Knots are what the other wants, in German, and only on the next day.
        await place.EventAsync("Knots", "2026-12-11");
        server.Clock.Now += Duration.FromHours(2);
        Assert.Equal(0, await place.WriteAsync());
        server.Clock.Now = Instant.FromUtc(2026, 12, 4, 16, 0);
        Assert.Equal(2, await place.WriteAsync());
        await place.SendAllAsync();
        Assert.Contains("Neu\n– Freitag, 11. Dezember 2026, 18:00–19:00: Knots", box.Mails.Single(m => m.Recipient == "knots@home.example" && m.Body.Contains("Neu", StringComparison.Ordinal)).Body);
    }

    [Fact]
    public async Task The_plan_of_the_week_comes_on_its_day()
    {
        await using var place = await BeginAsync();
        await place.FollowAsync("sunday@home.example", "sunday");
        await place.FollowAsync("friday@home.example", "friday");
        place.Server.Clock.Now = Instant.FromUtc(2026, 12, 4, 20, 0);
        Assert.Equal(1, await place.WriteAsync());
        Assert.Equal(0, await place.WriteAsync());
        place.Server.Clock.Now = Instant.FromUtc(2026, 12, 6, 20, 0);
        Assert.Equal(1, await place.WriteAsync());
        await place.SendAllAsync();
        foreach (var to in new[] { "friday@home.example", "sunday@home.example" })
            Assert.Contains("Keel walk", box(place, to).Body);

        static Sent box(Place place, string to) => place.Box.Mails.Last(m => m.Recipient == to);
    }

    [Fact]
    public async Task One_click_ends_it_and_a_mailbox_that_is_none_is_forgotten()
    {
        await using var place = await BeginAsync();
        await place.FollowAsync("one@home.example", "friday");
        await place.FollowAsync("gone@home.example", "friday");
        // The server's own job may send what is written before it is waited for.
        place.Box.Refused.Add("gone@home.example");
        place.Server.Clock.Now = Instant.FromUtc(2026, 12, 4, 20, 0);
        await place.WriteAsync();
        await place.SendAllAsync();
        Assert.Equal(1, await place.RowsAsync("select count(*) from mail_reader"));
        Assert.Empty((await place.Marit.GetJsonAsync("/api/mails")).AsArray());

        var end = new Uri(place.Box.Mails.Last(m => m.EndsAt is not null).EndsAt!).PathAndQuery;
        Assert.Contains("<button", await place.Server.Visitor().GetStringAsync(end));
        var click = new FormUrlEncodedContent(new Dictionary<string, string> { ["List-Unsubscribe"] = "One-Click" });
        Assert.Equal(HttpStatusCode.OK, (await place.Server.Visitor().PostAsync(end, click)).StatusCode);
        Assert.Equal(0, await place.RowsAsync("select count(*) from mail_reader"));
        Assert.Contains("deleted", await place.Server.Visitor().GetStringAsync(end));
        Assert.Equal(HttpStatusCode.NotFound, (await place.Server.Visitor().GetAsync("/follow/end/00ff")).StatusCode);
    }

    [Fact]
    public async Task It_is_off_until_the_school_turns_it_on_and_is_bounded()
    {
        await using var place = await BeginAsync(isOn: false);
        Assert.DoesNotContain("/follow/", await place.Server.Visitor().GetStringAsync("/p/boats"));
        Assert.Equal(HttpStatusCode.NotFound, (await place.Server.Visitor().GetAsync("/follow/boats")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await place.AskAsync("a@home.example")).StatusCode);
        await place.Marit.PutAsync("/api/reader-mail", new { isOn = true });
        Assert.Contains("/follow/boats", await place.Server.Visitor().GetStringAsync("/p/boats"));
        foreach (var wrong in new[] { "", "a", "a@b", "a b@home.example", "x@home.example, y@home.example", "\"<script>\"@home", new string('a', 400) + "@home.example" })
        {
            var answer = await place.AskAsync(wrong);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, answer.StatusCode);
            Assert.DoesNotContain("<script>\"@", await answer.Content.ReadAsStringAsync());
        }
        await place.RowsAsync($"with made as (insert into mail_reader (id, school_id, publication_id, address, address_hash, wants, choice, language, link_key, asked_at) select gen_random_uuid(), p.school_id, p.id, '', decode(lpad(n::text, 8, '0'), 'hex'), 0, '', 'en', 'boats', timestamptz '2026-12-02 15:00Z' from publication p, generate_series(1, {MailReaders.MaxAsksADay}) n where p.key = 'boats' returning 1) select count(*) from made");
        Assert.Equal(HttpStatusCode.TooManyRequests, (await place.AskAsync("late@home.example")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await place.Server.Visitor().GetAsync("/follow/nothing-here")).StatusCode);
        var publication = (await place.Marit.GetJsonAsync("/api/publications")).AsArray().Single(p => p!.Text("key") == "boats")!;
        await place.Marit.PostAsync($"/api/publications/{publication.Text("id")}/take-down", new { });
        Assert.Equal(HttpStatusCode.Gone, (await place.Server.Visitor().GetAsync("/follow/boats")).StatusCode);
    }
}
