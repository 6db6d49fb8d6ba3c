extern alias cli;

using cli::Valtro.Cli;
using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Valtro.Core.Limits;
using Valtro.Demo;
using Valtro.Server.Limits;
using Valtro.Store;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>One school takes so much and no more, is told before, and is refused in words; old history takes less.</summary>
public sealed class LimitTests(Cluster cluster)
{
    private static async Task<(Guid School, Store.Limits Limits)> SchoolAsync(Server server)
    {
        var schools = server.Services.GetRequiredService<Schools>();
        return ((await schools.ListAsync()).Single(s => s.Name == DemoSchool.Name).Id, server.Services.GetRequiredService<Store.Limits>());
    }

    private static JsonNode Of(JsonNode limits, string what) => limits["limits"]!.AsArray().Single(l => l!.Text("what") == what)!;

    private static Task<HttpResponseMessage> UploadAsync(HttpClient client, string name, int bytes) =>
        client.PostAsync($"/api/files?name={name}", new ByteArrayContent([.. Enumerable.Repeat((byte)'x', bytes)]));

    [Fact]
    public async Task Events_are_added_up_to_the_limit_and_not_beyond_whoever_adds_them_at_once()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var marit = await server.SignedInAsync();
        var (school, limits) = await SchoolAsync(server);
        var calendar = await marit.NewCalendarAsync("Full");
        var taken = Of(await marit.GetJsonAsync("/api/limits"), "events")["taken"]!.GetValue<long>();
        await limits.SetOwnAsync(school, new OwnLimits(Events: (int)taken + 5));
        object Body(int i) => EventBody(calendar, $"Watch {i}", AllDay("2026-12-01", "2026-12-01"));
        var answers = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => marit.PostAsJsonAsync("/api/events", Body(i))));
        Assert.Equal(5, answers.Count(a => a.IsSuccessStatusCode));
        await marit.PostAsJsonAsync("/api/events", Body(20)).ProblemAsync(422, "limit_events");
        var full = Of(await marit.GetJsonAsync("/api/limits"), "events");
        Assert.Equal((taken + 5, taken + 5, true), (full["taken"]!.GetValue<long>(), full["limit"]!.GetValue<long>(), full["isNear"]!.GetValue<bool>()));
        // What is there can be changed; one in the bin makes room for another, and does not come back into the same room.
        var one = await answers.First(a => a.IsSuccessStatusCode).JsonAsync();
        var seen = one["event"] ?? one;
        var removed = await marit.DeleteAsync($"/api/events/{seen.Text("id")}?version={seen.Number("version")}");
        Assert.True(removed.IsSuccessStatusCode, await removed.Content.ReadAsStringAsync());
        await marit.PostAsync("/api/events", Body(21));
        await marit.PostAsJsonAsync($"/api/events/{seen.Text("id")}/restore", new { version = seen.Number("version") + 1 }).ProblemAsync(422, "limit_events");
        await using var owner = new NpgsqlConnection(server.Database);
        Assert.Equal(taken + 5, await owner.ExecuteScalarAsync<long>("select count(*) from event where school_id = @school and deleted_at is null", new { school }));
    }

    [Fact]
    public async Task Publications_files_and_invitations_have_limits_of_their_own_and_members_do_not_look_at_them()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var (marit, ines) = (await server.SignedInAsync(), await server.SignedInAsync("ines.harrow@lanternfell.example"));
        var (school, limits) = await SchoolAsync(server);
        var before = await marit.GetJsonAsync("/api/limits");
        long Taken(string what) => Of(before, what)["taken"]!.GetValue<long>();
        Assert.All(before["limits"]!.AsArray(), l => Assert.False(l!["isNear"]!.GetValue<bool>()));
        await ines.GetAsync("/api/limits").ProblemAsync(403, "not_allowed");
        await limits.SetOwnAsync(school, new OwnLimits(Publications: (int)Taken("publications") + 1, Megabytes: (int)(Taken("storage") / 1_000_000) + 1, MailsADay: (int)Taken("mails") + 1));
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Narrow"));
        await marit.PublishAsync("last", calendar);
        object Another(string key) => new { key, title = "Boats", introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "month", language = "en" };
        await marit.PostAsJsonAsync("/api/publications", Another("beyond")).ProblemAsync(422, "limit_publications");
        var room = Of(await marit.GetJsonAsync("/api/limits"), "storage");
        var left = (int)(room["limit"]!.GetValue<long>() - room["taken"]!.GetValue<long>());
        await UploadAsync(marit, "beyond.txt", left + 1).ProblemAsync(422, "limit_storage");
        Assert.True((await UploadAsync(marit, "fits.txt", left)).IsSuccessStatusCode);
        await marit.PostAsync("/api/invitations", new { email = "one@lanternfell.example", role = "member" });
        await marit.PostAsJsonAsync("/api/invitations", new { email = "two@lanternfell.example", role = "member" }).ProblemAsync(422, "limit_mails");
        Assert.DoesNotContain("two@lanternfell.example", (await marit.GetJsonAsync("/api/people")).ToJsonString(), StringComparison.Ordinal);
        // Who forgot a password gets in all the same.
        Assert.True((await server.Visitor().PostAsJsonAsync("/api/forgotten", new { email = "samir.dole@lanternfell.example" })).IsSuccessStatusCode);
        await using var owner = new NpgsqlConnection(server.Database);
        await Eventually.TrueAsync(async () => await owner.ExecuteScalarAsync<int>("select count(*)::int from mail where recipient = 'samir.dole@lanternfell.example'") == 1);
    }

    [Fact]
    public async Task Letters_to_readers_wait_for_the_next_day_and_mail_to_people_goes()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        _ = server.Services;
        var (school, limits) = await SchoolAsync(server);
        await using var owner = new NpgsqlConnection(server.Database);
        var now = server.Clock.Now;
        await owner.ExecuteAsync(
            """
            insert into mail_reader (id, school_id, publication_id, address, address_hash, wants, choice, language, link_key, asked_at, confirmed_at)
            select gen_random_uuid(), @school, id, '\x01', '\x01', 0, '', 'en', 'x', @at, @at from publication limit 1;
            delete from mail;
            insert into mail (id, school_id, recipient, subject, body, created_at, next_try_at, reader_id)
            select gen_random_uuid(), @school, '', 'letter ' || n, 'x', @at, @at, (select id from mail_reader limit 1) from generate_series(1, 5) n;
            insert into mail (id, school_id, recipient, subject, body, created_at, next_try_at)
            values (gen_random_uuid(), @school, 'ines.harrow@lanternfell.example', 'for a person', 'x', @later, @later)
            """,
            new { school, at = (now - Duration.FromHours(1)).ToDateTimeUtc(), later = now.ToDateTimeUtc() });
        await limits.SetOwnAsync(school, new OwnLimits(MailsADay: 2));
        var mails = server.Services.GetRequiredService<Mails>();
        async Task<List<string>> SendAsync(Instant at)
        {
            var sent = new List<string>();
            while (await mails.TakeAsync(at) is { } mail)
            {
                sent.Add(mail.Subject);
                await mails.SentAsync(mail, at);
            }
            return sent;
        }
        var first = await SendAsync(now);
        Assert.Equal((3, 2, true), (first.Count, first.Count(s => s.StartsWith("letter", StringComparison.Ordinal)), first.Contains("for a person")));
        Assert.Equal(3, (await limits.GetAsync(school, now)).Waiting);
        Assert.Empty(await SendAsync(now + Duration.FromHours(23)));
        Assert.Equal(2, (await SendAsync(now + Duration.FromHours(25))).Count);
        Assert.Single(await SendAsync(now + Duration.FromHours(50)));
    }

    [Fact]
    public async Task Of_old_history_one_state_a_day_stays_and_the_states_still_follow_each_other()
    {
        var random = new Random(20260112);
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["HISTORY_DAYS"] = "0" } };
        _ = server.Services;
        var (school, _) = await SchoolAsync(server);
        await using var owner = new NpgsqlConnection(server.Database);
        await owner.ExecuteAsync("delete from history");
        static string ActionOf(string? before) => before is null ? "create" : "change";
        var zone = DemoSchool.Zone;
        var first = Instant.FromUtc(2024, 3, 1, 0, 0);
        // Chains of states at any time of day, across both changes of the clock; some end, and some begin and end on one day.
        var things = new List<(Guid Id, List<(Instant At, string? Before, string? After)> Entries)>();
        for (var i = 0; i < 40; i++)
        {
            var (id, entries, state) = (Guid.NewGuid(), new List<(Instant, string?, string?)>(), (string?)null);
            var at = first + Duration.FromHours(random.Next(0, 24 * 200));
            for (var n = random.Next(1, 30); n > 0; n--)
            {
                var next = state is not null && random.Next(8) == 0 ? null : $$"""{"n": {{random.Next()}}}""";
                entries.Add((at, state, next));
                state = next;
                at += Duration.FromMinutes(random.Next(1, 60 * (random.Next(3) == 0 ? 60 : 4)));
            }
            things.Add((id, entries));
        }
        foreach (var (id, entries) in things)
        {
            foreach (var (at, before, after) in entries)
                await owner.ExecuteAsync("insert into history (id, change_id, school_id, at, entity, entity_id, action, before, after) values (gen_random_uuid(), gen_random_uuid(), @school, @at, 'event', @id, @action, @before::jsonb, @after::jsonb)", new { school, at = at.ToDateTimeUtc(), id, action = ActionOf(before), before, after });
        }
        var border = zone.AtStartOfDay(new LocalDate(2024, 9, 1)).ToInstant();
        var keeping = server.Services.GetRequiredService<HistoryKeeping>();
        // In two runs, the second of which finds the border moved on.
        var gone = await keeping.ThinAsync(border - Duration.FromDays(40)) + await keeping.ThinAsync(border);
        Assert.Equal(0, await keeping.ThinAsync(border));
        var expectedGone = 0;
        foreach (var (id, entries) in things)
        {
            var expected = entries.Where(e => e.At < border).GroupBy(e => e.At.InZone(zone).Date).Select(day => (day.Last().At, day.First().Before, day.Last().After, Action: ActionOf((day.First().Before is null ? day.First() : day.Last()).Before)))
                .Where(e => e.Before is not null || e.After is not null).Concat(entries.Where(e => e.At >= border).Select(e => (e.At, e.Before, e.After, Action: ActionOf(e.Before)))).ToList();
            expectedGone += entries.Count - expected.Count;
            var kept = (await owner.QueryAsync<(DateTime At, string? Before, string? After, string Action)>("select at, before::text, after::text, action from history where entity_id = @id order by place", new { id })).ToList();
            Assert.Equal(expected.Select(e => (e.At.ToDateTimeUtc(), e.Before, e.After, e.Action)), kept);
        }
        Assert.Equal((true, expectedGone), (expectedGone > 50, gone));
    }

    [Fact]
    public async Task A_server_that_runs_while_a_newer_version_changes_the_database_goes_on_and_says_so_and_a_new_start_is_refused()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Old and new"));
        await marit.PublishAsync("upgrade", calendar);
        var opening = server.Services.GetRequiredService<DatabaseOpening>();
        await opening.LookForNewerAsync();
        Assert.DoesNotContain("newer version", server.Log.Text, StringComparison.Ordinal);
        await using var owner = new NpgsqlConnection(database);
        // As a newer one does it: what is there stays, what comes has a value by itself.
        await owner.ExecuteAsync(
            """
            alter table event add column tide text not null default 'high';
            alter table publication add column tide text;
            create table tide (id uuid primary key, school_id uuid not null references school);
            insert into schemaversions (scriptname, applied) values ('Valtro.Store.Migrations.0999_tide.sql', now())
            """);
        await opening.LookForNewerAsync();
        Assert.Contains("A newer version has changed the database (Valtro.Store.Migrations.0999_tide.sql)", server.Log.Text, StringComparison.Ordinal);
        await marit.PostAsync("/api/events", EventBody(calendar, "Night sail", AllDay("2026-12-01", "2026-12-01")));
        Assert.Contains("Night sail", await server.Visitor().GetStringAsync("/p/upgrade/feed.ics"), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/health/ready")).StatusCode);
        Assert.Throws<NewerDatabaseException>(() => Database.Migrate(database, Server.AppOf(database)));
    }

    [Fact]
    public async Task Before_a_newer_version_changes_a_database_it_writes_a_backup_and_without_one_changes_nothing()
    {
        var database = await cluster.CreateDatabaseAsync();
        var backups = Path.Combine(Scratch.Folder("backups"), "upgrades");
        await using var owner = new NpgsqlConnection(database);
        long Events(NpgsqlConnection at) => at.ExecuteScalar<long>("select count(*) from event");
        // Nothing to change, nothing to write.
        Database.Migrate(database, Server.AppOf(database), backups);
        Assert.False(Directory.Exists(backups));
        // As a database of before, whose change fails half way.
        await owner.ExecuteAsync("delete from schemaversions where scriptname = (select max(scriptname) from schemaversions)");
        Assert.Throws<BackupFailedException>(() => Database.Migrate(database, Server.AppOf(database), "/proc/nowhere"));
        Assert.Throws<InvalidOperationException>(() => Database.Migrate(database, Server.AppOf(database), backups));
        var file = Assert.Single(Directory.GetFiles(backups));
        Assert.Matches(@"/upgrade-\d{8}T\d{6}Z-from-\d{4}_[a-z_]+\.backup$", file);
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(file));
        var restored = await cluster.CreateEmptyDatabaseAsync();
        Backup.Read(file, restored, TextWriter.Null);
        await using var back = new NpgsqlConnection(restored);
        Assert.Equal(Events(owner), Events(back));
    }

    [Fact]
    public async Task A_disk_that_is_nearly_full_is_told_before_it_is()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var marit = await server.SignedInAsync();
        var watch = server.Services.GetRequiredService<RoomWatch>();
        async Task<bool> IsToldAsync(DiskRoom room)
        {
            watch.Look = _ => room;
            await watch.RunAsync(default);
            return (await marit.GetJsonAsync("/api/limits"))["isDiskLow"]!.GetValue<bool>();
        }
        Assert.False(await IsToldAsync(new DiskRoom(50L << 30, 100L << 30)));
        Assert.DoesNotContain("nearly full", server.Log.Text, StringComparison.Ordinal);
        Assert.True(await IsToldAsync(new DiskRoom(9L << 30, 100L << 30)));
        Assert.Contains("nearly full: 9216 MB of 102400 are free", server.Log.Text, StringComparison.Ordinal);
        Assert.False(await IsToldAsync(new DiskRoom(50L << 30, 100L << 30)));
    }
}
