using Dapper;
using Microsoft.Extensions.DependencyInjection;
using Valtro.Server.Live;
using Valtro.Server.Outlets;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What is published stays readable while the database is away, after a restart too; and what may not be shown any more is not.</summary>
public sealed class NeverDarkTests(Cluster cluster)
{
    private static readonly string[] Outlets = ["", "/embed", "/feed.ics", "/term", "/wall", "/dates.json"];

    private const int LargeSize = (4 << 20) + 1;

    private static string Folder() => Scratch.Folder("kept");

    private static async Task<(HttpClient Client, JsonNode Calendar, JsonNode Publication)> PublishedAsync(Server server, string key)
    {
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Of " + key));
        await client.PostAsync("/api/events", EventBody(calendar, "Lantern walk", AllDay("2026-12-01", "2026-12-01")));
        return (client, calendar, await client.PublishAsync(key, calendar));
    }

    /// <summary>What a server that is gone by then had on disk of a publication, and the calendar it shows.</summary>
    private static async Task<(JsonNode Calendar, List<KeptFile> Found)> KeptOnDiskAsync(string database, string key)
    {
        await using var before = new Server(database) { Settings = { ["KEPT"] = Folder() } };
        var (_, calendar, _) = await PublishedAsync(before, key);
        await WarmAsync(before, key);
        var found = new List<KeptFile>();
        await foreach (var file in before.Services.GetRequiredService<KeptFiles>().ReadAllAsync())
            found.Add(file);
        Assert.Equal(Outlets.Length, found.Count);
        return (calendar, found);
    }

    private static async Task WarmAsync(Server server, string key)
    {
        foreach (var outlet in Outlets)
            Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync($"/p/{key}{outlet}")).StatusCode);
        await server.Services.GetRequiredService<KeptFiles>().SettleAsync();
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Readers_see_no_error_while_the_database_is_away_and_are_told_as_of_when_it_is(bool isHeld)
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var wire = new Wire(database);
        await using var server = new Server(wire.Database);
        var (client, calendar, _) = await PublishedAsync(server, "lit");
        await WarmAsync(server, "lit");
        await server.Visitor().GetStringAsync("/p/lit/embed?lang=fr");
        using var bitmap = new SkiaSharp.SKBitmap(40, 16);
        using var png = bitmap.Encode(SkiaSharp.SKEncodedImageFormat.Png, 90);
        var picture = await (await client.PostAsync("/api/pictures?x=0&y=0&width=1&height=1", new ByteArrayContent(png.ToArray()))).JsonAsync();
        await client.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Lantern", place = "", description = "", timing = AllDay("2026-12-01", "2026-12-01"), facts = new { picture = new { id = picture.Text("id"), alt = "A lantern" } } });
        var seen = await server.Visitor().GetByteArrayAsync($"/p/lit/files/{picture.Text("id")}/small");
        await WarmAsync(server, "lit");
        if (isHeld)
            wire.Hold();
        else
            wire.Cut();
        server.Clock.Now += Duration.FromMinutes(90);
        // From the first moment on, on every form, for many at once.
        for (var round = 0; round < 3; round++)
        {
            var answers = await Task.WhenAll(Enumerable.Range(0, 30).Select(i => server.Visitor().GetAsync("/p/lit" + Outlets[i % Outlets.Length])));
            Assert.All(answers, a => Assert.Equal(HttpStatusCode.OK, a.StatusCode));
            foreach (var answer in answers)
                Assert.Contains("Lantern walk", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/p/lit")).Headers.Age is not null);
        var page = await server.Visitor().GetAsync("/p/lit");
        Assert.InRange(page.Headers.Age!.Value.TotalMinutes, 89, 91);
        Assert.Contains("As of 11:00.", await page.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Contains("stale-if-error", page.Headers.CacheControl!.ToString(), StringComparison.Ordinal);
        Assert.Contains("État de 11", await server.Visitor().GetStringAsync("/p/lit/embed?lang=fr"), StringComparison.Ordinal);
        Assert.Equal(seen, await server.Visitor().GetByteArrayAsync($"/p/lit/files/{picture.Text("id")}/small"));
        // Whoever has a feed is not sent it again.
        var feed = await server.Visitor().GetAsync("/p/lit/feed.ics");
        using var known = new HttpRequestMessage(HttpMethod.Get, "/p/lit/feed.ics");
        known.Headers.IfNoneMatch.Add(feed.Headers.ETag!);
        Assert.Equal(HttpStatusCode.NotModified, (await server.Visitor().SendAsync(known)).StatusCode);
        // The rest says that it comes back; what needs no database is there.
        var refused = await client.GetAsync("/api/board?from=2026-11-23&to=2026-11-30");
        Assert.Equal((HttpStatusCode.ServiceUnavailable, true), (refused.StatusCode, refused.Headers.RetryAfter is not null));
        Assert.NotEqual(HttpStatusCode.ServiceUnavailable, (await server.Visitor().GetAsync("/outlet/frame.js")).StatusCode);
        // Not for ever.
        server.Clock.Now += Duration.FromHours(11);
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await server.Visitor().GetAsync("/p/lit/feed.ics")).StatusCode);
        server.Clock.Now -= Duration.FromHours(12);
        wire.Mend();
        await Eventually.TrueAsync(async () => (await client.GetAsync("/api/board?from=2026-11-23&to=2026-11-30")).IsSuccessStatusCode);
        await client.PostAsync("/api/events", EventBody(calendar, "Lantern rest", AllDay("2026-12-02", "2026-12-02")));
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/p/lit")) is { Headers.Age: null } now && (await now.Content.ReadAsStringAsync()).Contains("Lantern rest", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_server_that_starts_without_a_database_serves_what_was_kept_and_goes_on_when_it_is_there()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        // Days and dates somebody looked at.
        var more = new List<string> { "?date=2026-12-01", "/events.json?from=2026-11-23&to=2026-12-27" };
        await using (var before = new Server(database) { Settings = { ["KEPT"] = kept } })
        {
            var (client, _, _) = await PublishedAsync(before, "restart");
            more.Add("/e/" + (await before.Visitor().GetStringAsync("/p/restart")).Split("/e/")[1].Split('?', '"')[0]);
            foreach (var one in more)
                Assert.Contains("Lantern walk", await before.Visitor().GetStringAsync("/p/restart" + one), StringComparison.Ordinal);
            Assert.Contains("Lantern walk", await before.Visitor().GetStringAsync("/p/restart/found.json?q=lantern"), StringComparison.Ordinal);
            await WarmAsync(before, "restart");
            var (_, _, down) = await PublishedAsync(before, "down");
            await WarmAsync(before, "down");
            await client.PostAsync($"/api/publications/{down.Text("id")}/take-down", new { version = down.Number("version") });
            before.Services.GetRequiredService<KeptFiles>().NoteHeard(before.Clock.Now);
            await before.Services.GetRequiredService<KeptFiles>().SettleAsync();
        }
        await using var wire = new Wire(database);
        wire.Cut();
        await using var server = new Server(wire.Database) { Settings = { ["KEPT"] = kept } };
        foreach (var outlet in Outlets.Concat(more))
            Assert.Contains("Lantern walk", await server.Visitor().GetStringAsync("/p/restart" + outlet), StringComparison.Ordinal);
        // What somebody sought is not kept.
        await server.Visitor().GetAsync("/p/restart/found.json?q=lantern").ProblemAsync(503, "database_away");
        Assert.Contains("As of ", await server.Visitor().GetStringAsync("/p/restart"), StringComparison.Ordinal);
        // What was taken down is not found; neither is what never was.
        foreach (var path in new[] { "/p/down", "/p/down/feed.ics", "/p/never" })
            Assert.Equal(HttpStatusCode.ServiceUnavailable, (await server.Visitor().GetAsync(path)).StatusCode);
        await server.Visitor().GetAsync("/health/ready").ProblemAsync(503, "database_away");
        await server.Visitor().GetAsync("/api/session").ProblemAsync(503, "database_away");
        wire.Mend();
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/health/ready")).IsSuccessStatusCode);
        Assert.Null((await server.Visitor().GetAsync("/p/restart")).Headers.Age);
        Assert.Equal(HttpStatusCode.Gone, (await server.Visitor().GetAsync("/p/down")).StatusCode);
    }

    [Fact]
    public async Task What_is_published_and_nobody_has_asked_for_yet_is_there_without_a_database_with_its_pictures_and_files()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var wire = new Wire(database);
        var folder = Folder();
        await using var server = new Server(wire.Database) { Settings = { ["KEPT"] = folder } };
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Unasked"));
        using var bitmap = new SkiaSharp.SKBitmap(40, 16);
        using var png = bitmap.Encode(SkiaSharp.SKEncodedImageFormat.Png, 90);
        var picture = await (await client.PostAsync("/api/pictures?x=0&y=0&width=1&height=1", new ByteArrayContent(png.ToArray()))).JsonAsync();
        async Task<JsonNode> UploadAsync(string name, int size) => await (await client.PostAsync($"/api/files?name={name}", new ByteArrayContent([.. Enumerable.Repeat((byte)'x', size)]))).JsonAsync();
        var (slip, large) = (await UploadAsync("slip.txt", 3000), await UploadAsync("large.txt", LargeSize));
        object Body(int? version, params JsonNode[] files) => new
        {
            calendarId = calendar.Text("id"),
            title = "Lantern walk",
            place = "",
            description = "",
            version,
            timing = AllDay("2026-12-01", "2026-12-01"),
            facts = new { picture = new { id = picture.Text("id"), alt = "A lantern" }, files },
        };
        var made = await client.PostAsync("/api/events", Body(null, slip, large));
        await client.PublishAsync("unasked", calendar);
        var school = (await server.Services.GetRequiredService<Valtro.Store.Schools>().ListAsync()).Single(s => s.Name == Valtro.Demo.DemoSchool.Name).Id;
        var every = server.Services.GetRequiredService<EveryAddress>();
        await every.SweepAsync(school, null, TestContext.Current.CancellationToken);
        var largest = $"/files/{large.Text("id")}/large.txt";
        var addresses = new[] { "", "/embed", "/feed.ics", $"/files/{picture.Text("id")}/small", $"/files/{picture.Text("id")}/large", largest, $"/files/{slip.Text("id")}/slip.txt" };
        await server.Services.GetRequiredService<KeptFiles>().SettleAsync();
        var renewal = server.Services.GetRequiredService<Renewal>();
        var before = renewal.Made;
        await every.SweepAsync(school, null, TestContext.Current.CancellationToken);
        Assert.Equal(before, renewal.Made);
        // What changes elsewhere in the publication neither reads nor writes a file again.
        var kept = server.Services.GetRequiredService<Standings>().Find("unasked")!.Kept[OutletAsk.Brought(Guid.Parse(slip.Text("id")))];
        var (bytes, revision) = (kept.Rendered!.Kept, kept.Rendered.Revision);
        await client.PostAsync("/api/events", EventBody(calendar, "Lantern rest", AllDay("2026-12-02", "2026-12-02")));
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/p/unasked" + addresses[^1])).IsSuccessStatusCode && kept.Rendered.Revision > revision);
        Assert.Same(bytes, kept.Rendered.Kept);
        Assert.True(kept.IsOnDisk);
        wire.Cut();
        foreach (var address in addresses)
            Assert.Equal((address, HttpStatusCode.OK), (address, (await server.Visitor().GetAsync("/p/unasked" + address)).StatusCode));
        var file = await server.Visitor().GetAsync("/p/unasked" + addresses[^1]);
        Assert.Equal((3000L, "slip.txt", "sandbox; default-src 'none'"), (file.Content.Headers.ContentLength, file.Content.Headers.ContentDisposition?.FileNameStar, file.Headers.GetValues("Content-Security-Policy").Single()));
        // What is large comes from disk, and is not held in memory.
        var whole = await server.Visitor().GetAsync("/p/unasked" + largest);
        Assert.Equal(((long?)LargeSize, "large.txt", "text/plain"), (whole.Content.Headers.ContentLength, whole.Content.Headers.ContentDisposition?.FileNameStar, whole.Content.Headers.ContentType?.MediaType));
        Assert.Equal(Enumerable.Repeat((byte)'x', LargeSize), await whole.Content.ReadAsByteArrayAsync());
        Assert.Empty(server.Services.GetRequiredService<Standings>().Find("unasked")!.Kept[OutletAsk.Brought(Guid.Parse(large.Text("id")))].Rendered!.Kept);
        using (var known = new HttpRequestMessage(HttpMethod.Get, "/p/unasked" + largest) { Headers = { IfNoneMatch = { whole.Headers.ETag! } } })
            Assert.Equal(HttpStatusCode.NotModified, (await server.Visitor().SendAsync(known)).StatusCode);
        using (var head = new HttpRequestMessage(HttpMethod.Head, "/p/unasked" + largest))
            Assert.Equal(((long?)LargeSize, 0), ((await server.Visitor().SendAsync(head)) is var said ? said.Content.Headers.ContentLength : null, (await said.Content.ReadAsByteArrayAsync()).Length));
        // One wrong byte of it, and it is none: the database is asked, when it is there.
        var onDisk = Directory.EnumerateFiles(folder, "*.kept", SearchOption.AllDirectories).Single(f => new FileInfo(f).Length > LargeSize);
        using (var damaged = File.OpenWrite(onDisk))
        {
            damaged.Position = damaged.Length - 7;
            damaged.WriteByte((byte)'y');
        }
        await server.Visitor().GetAsync("/p/unasked" + largest).ProblemAsync(503, "database_away");
        Assert.False(File.Exists(onDisk));
        wire.Mend();
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/health/ready")).IsSuccessStatusCode);
        // What was taken out is not shown any more, with a database or without.
        await client.PutAsync($"/api/events/{made.Text("id")}", Body(1, large));
        await server.Visitor().GetAsync("/p/unasked" + addresses[^1]).ProblemAsync(404, "no_such_file");
        Assert.Equal(LargeSize, (await server.Visitor().GetByteArrayAsync("/p/unasked" + largest)).Length);
        await server.Services.GetRequiredService<KeptFiles>().SettleAsync();
        wire.Cut();
        Assert.Contains((await server.Visitor().GetAsync("/p/unasked" + addresses[^1])).StatusCode, new[] { HttpStatusCode.NotFound, HttpStatusCode.ServiceUnavailable });
    }

    [Fact]
    public async Task A_large_file_that_was_kept_long_before_the_last_change_is_there_after_a_restart_without_a_database()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        string link;
        await using (var before = new Server(database) { Settings = { ["KEPT"] = kept } })
        {
            var (client, calendar, _) = await PublishedAsync(before, "heavy");
            var file = await (await client.PostAsync("/api/files?name=large.txt", new ByteArrayContent([.. Enumerable.Repeat((byte)'x', LargeSize)]))).JsonAsync();
            await client.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Score night", place = "", description = "", timing = AllDay("2026-12-01", "2026-12-01"), facts = new { files = new[] { file } } });
            link = $"/p/heavy/files/{file.Text("id")}/large.txt";
            Assert.Equal(LargeSize, (await before.Visitor().GetByteArrayAsync(link)).Length);
            await WarmAsync(before, "heavy");
            before.Clock.Now += Duration.FromHours(13);
            await client.PostAsync("/api/events", EventBody(calendar, "Later walk", AllDay("2026-12-02", "2026-12-02")));
            await WarmAsync(before, "heavy");
            before.Services.GetRequiredService<KeptFiles>().NoteHeard(before.Clock.Now);
        }
        await using var wire = new Wire(database);
        wire.Cut();
        await using var server = new Server(wire.Database) { Settings = { ["KEPT"] = kept } };
        server.Clock.Now += Duration.FromHours(13);
        Assert.Contains("Later walk", await server.Visitor().GetStringAsync("/p/heavy"), StringComparison.Ordinal);
        Assert.Equal(LargeSize, (await server.Visitor().GetByteArrayAsync(link)).Length);
    }

    [Fact]
    public async Task What_is_read_while_the_database_is_away_is_counted_when_it_is_there_again_and_once()
    {
        await using var wire = new Wire(await cluster.CreateDatabaseAsync());
        await using var server = new Server(wire.Database);
        var (client, _, publication) = await PublishedAsync(server, "noted");
        var log = server.Services.GetRequiredService<ReadingLog>();
        async Task<int> FetchesAsync() => (await client.GetJsonAsync($"/api/publications/{publication.Text("id")}/readings"))["days"]!.AsArray().Sum(d => d!.Number("fetches"));
        await WarmAsync(server, "noted");
        var before = await FetchesAsync();
        Assert.InRange(before, 1, Outlets.Length);
        wire.Cut();
        // More than a processor writes on one sheet, and from several of them.
        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Task.Run(async () =>
        {
            for (var i = 0; i < 300; i++)
                Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/noted/feed.ics")).StatusCode);
        })));
        for (var tries = 0; tries < 2; tries++)
            await Assert.ThrowsAnyAsync<Exception>(log.WriteAsync);
        wire.Mend();
        await Eventually.TrueAsync(async () => (await client.GetAsync("/api/session")).IsSuccessStatusCode);
        Assert.Equal(before + 2_400, await FetchesAsync());
        Assert.Equal(before + 2_400, await FetchesAsync());
    }

    [Fact]
    public async Task What_was_read_of_one_school_is_counted_when_another_ones_cannot_be_and_that_is_when_it_can()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var schools = new List<(HttpClient Client, JsonNode Publication)>();
        foreach (var (client, key) in new[] { (await server.SignedInAsync(), "first"), (await server.OfAnotherSchoolAsync(), "second") })
        {
            var calendar = await client.OpenAsync(await client.NewCalendarAsync("Of " + key));
            schools.Add((client, await client.PublishAsync(key, calendar)));
        }
        await using var db = new Npgsql.NpgsqlConnection(server.Database);
        foreach (var broken in schools)
        {
            await db.ExecuteAsync($"""
                create function refuse() returns trigger language plpgsql as 'begin raise exception $$no$$; end';
                create trigger refused before insert or update on readings_of_day for each row when (new.publication_id = '{broken.Publication.Text("id")}') execute function refuse();
                """);
            foreach (var (_, publication) in schools)
                Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync($"/p/{publication.Text("key")}/feed.ics")).StatusCode);
            var other = schools.Single(s => s != broken);
            await CountsAsync(other, 1);
            await CountsAsync(broken, 0);
            await db.ExecuteAsync("drop trigger refused on readings_of_day; drop function refuse");
            await CountsAsync(broken, 1);
            await CountsAsync(other, 1);
            await db.ExecuteAsync("delete from readings_of_day");
        }

        static async Task CountsAsync((HttpClient Client, JsonNode Publication) school, int expected) =>
            Assert.Equal(expected, (await school.Client.GetJsonAsync($"/api/publications/{school.Publication.Text("id")}/readings"))["days"]!.AsArray().Sum(d => d!.Number("fetches")));
    }

    [Fact]
    public async Task What_has_to_go_from_disk_goes_while_a_large_file_is_still_fetched()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        await using var server = new Server(database) { Settings = { ["KEPT"] = kept } };
        var (client, _, going) = await PublishedAsync(server, "going");
        await WarmAsync(server, "going");
        var (_, calendar, _) = await PublishedAsync(server, "heavier");
        var file = await (await client.PostAsync("/api/files?name=large.txt", new ByteArrayContent([.. Enumerable.Repeat((byte)'x', LargeSize)]))).JsonAsync();
        await client.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Score night", place = "", description = "", timing = AllDay("2026-12-01", "2026-12-01"), facts = new { files = new[] { file } } });
        string[] OnDisk(string link) => Directory.Exists(Path.Combine(kept, link)) ? Directory.GetFiles(Path.Combine(kept, link), "*.kept") : [];
        await using var db = new Npgsql.NpgsqlConnection(database);
        await db.OpenAsync();
        await using (await db.BeginTransactionAsync())
        {
            // Nobody reads the bytes of a file now.
            await db.ExecuteAsync("lock table content_part in access exclusive mode");
            using var head = new HttpRequestMessage(HttpMethod.Head, $"/p/heavier/files/{file.Text("id")}/large.txt");
            Assert.Equal(HttpStatusCode.OK, (await server.Visitor().SendAsync(head)).StatusCode);
            await Eventually.TrueAsync(() => Task.FromResult(Directory.GetFiles(kept, "*.part", SearchOption.AllDirectories).Length > 0));
            Assert.NotEmpty(OnDisk("going"));
            await client.PostAsync($"/api/publications/{going.Text("id")}/take-down", new { version = going.Number("version") });
            await Eventually.TrueAsync(() => Task.FromResult(OnDisk("going").Length == 0));
            Assert.DoesNotContain(OnDisk("heavier"), f => new FileInfo(f).Length > LargeSize);
        }
        await Eventually.TrueAsync(() => Task.FromResult(OnDisk("heavier").Any(f => new FileInfo(f).Length > LargeSize)));
    }

    [Fact]
    public async Task A_restart_warms_from_disk_and_renders_nothing_that_is_right()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        await using (var before = new Server(database) { Settings = { ["KEPT"] = kept } })
        {
            await PublishedAsync(before, "warm");
            await WarmAsync(before, "warm");
        }
        // One file is not what was written: it is dropped and made anew.
        var files = Directory.GetFiles(Path.Combine(kept, "warm")).Order(StringComparer.Ordinal).ToList();
        Assert.Equal(Outlets.Length, files.Count);
        var bytes = await File.ReadAllBytesAsync(files[0], TestContext.Current.CancellationToken);
        bytes[^5] ^= 1;
        await File.WriteAllBytesAsync(files[0], bytes, TestContext.Current.CancellationToken);
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(files[1]));
        await using var server = new Server(database) { Settings = { ["KEPT"] = kept } };
        await WarmAsync(server, "warm");
        Assert.Equal(1, server.Services.GetRequiredService<Renewal>().Made);
    }

    [Fact]
    public async Task What_was_kept_of_changes_that_a_restored_database_has_not_is_not_shown()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        await using (var before = new Server(database) { Settings = { ["KEPT"] = kept } })
        {
            var (client, calendar, _) = await PublishedAsync(before, "undone");
            await client.PostAsync("/api/events", EventBody(calendar, "Later walk", AllDay("2026-12-01", "2026-12-01")));
            await WarmAsync(before, "undone");
        }
        await using (var db = new Npgsql.NpgsqlConnection(database))
            await db.ExecuteAsync("update event set title = 'Restored walk' where title = 'Lantern walk'; update publication set revision = 0, narrowed_revision = 0 where key = 'undone'");
        await using var server = new Server(database) { Settings = { ["KEPT"] = kept } };
        foreach (var outlet in Outlets)
            Assert.Contains("Restored walk", await server.Visitor().GetStringAsync("/p/undone" + outlet), StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_was_kept_of_a_revision_is_not_shown_when_a_restored_database_gives_its_number_to_another()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        string[] asked = [.. Outlets, "/events.json?from=2026-11-23&to=2026-12-27"];
        await using (var before = new Server(database) { Settings = { ["KEPT"] = kept } })
        {
            await PublishedAsync(before, "again");
            foreach (var outlet in asked)
                await before.Visitor().GetStringAsync("/p/again" + outlet);
            await WarmAsync(before, "again");
        }
        // As if the backup were of before the event got its words, and as much were done since.
        await using (var db = new Npgsql.NpgsqlConnection(database))
            await db.ExecuteAsync("update event set title = 'Restored walk' where title = 'Lantern walk'; update publication set changed_at = changed_at + interval '1 hour' where key = 'again'");
        await using var server = new Server(database) { Settings = { ["KEPT"] = kept } };
        foreach (var outlet in asked)
            Assert.Contains("Restored walk", await server.Visitor().GetStringAsync("/p/again" + outlet), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Who_waits_for_what_is_being_made_does_not_get_it_when_it_was_taken_down_meanwhile()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        var (client, calendar, going) = await PublishedAsync(server, "going");
        using var bytes = new ByteArrayContent("Words of it"u8.ToArray());
        var file = await (await client.PostAsync("/api/files?name=words.txt", bytes)).JsonAsync();
        await client.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Score night", place = "", description = "", timing = AllDay("2026-12-01", "2026-12-01"), facts = new { files = new[] { file } } });
        var standings = server.Services.GetRequiredService<Standings>();
        await using var db = new Npgsql.NpgsqlConnection(database);
        await db.OpenAsync();
        Task<HttpResponseMessage> waiting;
        await using (await db.BeginTransactionAsync())
        {
            // Nobody reads the bytes of a file now, so that making the answer takes its time.
            await db.ExecuteAsync("lock table content_part in access exclusive mode");
            waiting = server.Visitor().GetAsync($"/p/going/files/{file.Text("id")}/words.txt");
            await Eventually.TrueAsync(async () => await db.ExecuteScalarAsync<bool>("select exists (select from pg_locks where not granted and relation = 'content_part'::regclass)"));
            await client.PostAsync($"/api/publications/{going.Text("id")}/take-down", new { version = going.Number("version") });
            await Eventually.TrueAsync(() => standings.Find("going") is { State.IsGone: true, Doubt: Doubt.None });
        }
        var answer = await waiting;
        Assert.Equal(HttpStatusCode.Gone, answer.StatusCode);
        Assert.DoesNotContain("Words of it", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    // A server has begun, somebody asks at once, and the question what there is was just answered.
    [Theory]
    [InlineData("fewer")]
    [InlineData("as many")]
    [InlineData("another")]
    public async Task What_was_on_disk_is_right_for_nobody_between_a_look_at_a_restored_database_and_its_being_sorted(string why)
    {
        var database = await cluster.CreateDatabaseAsync();
        var (_, found) = await KeptOnDiskAsync(database, "between");
        await using var server = new Server(database);
        await Eventually.TrueAsync(() => server.Services.GetRequiredService<ChangeFeed>().IsHearing);
        var shelf = server.Services.GetRequiredService<Shelf>();
        var standing = new Standing("between");
        standing.TakeOld(found[0].State);
        var taken = found.ConvertAll(f => shelf.Take(standing, f));
        var state = why switch
        {
            "fewer" => found[0].State with { Revision = 0, NarrowedRevision = 0 },
            "as many" => found[0].State with { ChangedAt = found[0].State.ChangedAt + Duration.FromHours(1) },
            _ => found[0].State with { Id = Guid.NewGuid() },
        };
        standing.Take(state, standing.Begin());
        Assert.All(taken, k => Assert.Equal(Verdict.Ask, shelf.Judge(k, out _)));
        // The same without a backup brought back.
        standing.Take(found[0].State, standing.Begin());
        Assert.All(taken, k => Assert.Equal(Verdict.Right, shelf.Judge(k, out _)));
    }

    [Theory]
    [InlineData("restored")]
    [InlineData("another")]
    [InlineData("narrowed")]
    [InlineData("doubted")]
    public async Task What_is_found_on_disk_after_its_link_was_looked_up_is_sorted_as_what_was_there_before(string why)
    {
        var database = await cluster.CreateDatabaseAsync();
        var (calendar, found) = await KeptOnDiskAsync(database, "late");
        await using var server = new Server(database);
        var (standings, shelf) = (server.Services.GetRequiredService<Standings>(), server.Services.GetRequiredService<Shelf>());
        if (why == "another")
            // Of the publication that was at this link before.
            found.ForEach(f => f.Rendered.PublicationId = Guid.NewGuid());
        if (why == "restored")
            await using (var db = new Npgsql.NpgsqlConnection(database))
                await db.ExecuteAsync("update publication set revision = 0, narrowed_revision = 0 where key = 'late'");
        var standing = (await standings.SureAsync("late", _ => { }))!;
        // What happens between this look and the moment the disk has answered.
        if (why == "narrowed")
        {
            var client = await server.SignedInAsync();
            await client.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { version = (await CalendarAsync(client, calendar)).Number("version"), members = "everything", linkHolders = "nothing", everyone = "nothing" });
            await Eventually.TrueAsync(async () => (await standings.SureAsync("late", _ => { }))!.State!.NarrowedRevision > found[0].Rendered.Revision);
        }
        if (why == "doubted")
            standing.DoubtIt(Doubt.Narrowed);
        foreach (var file in found)
        {
            var taken = shelf.Take(standing, file);
            Assert.Equal(Verdict.Ask, shelf.Judge(taken, out _));
            if (why is "narrowed" or "doubted")
                Assert.False(shelf.MayStay(taken, file.Rendered, server.Clock.Now));
        }
    }

    [Fact]
    public async Task What_a_server_heard_may_not_be_shown_any_more_is_not_shown_when_the_database_goes_with_it()
    {
        var (database, kept) = (await cluster.CreateDatabaseAsync(), Folder());
        await using var wire = new Wire(database);
        // One server hears of what another one does.
        await using var server = new Server(wire.Database) { Settings = { ["KEPT"] = kept } };
        await using var other = new Server(database);
        var (client, calendar, publication) = await PublishedAsync(other, "narrow");
        var (_, _, gone) = await PublishedAsync(other, "gone");
        await WarmAsync(server, "narrow");
        await WarmAsync(server, "gone");
        await PublishedAsync(other, "doubted");
        await WarmAsync(server, "doubted");
        await client.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { version = (await CalendarAsync(client, calendar)).Number("version"), members = "everything", linkHolders = "nothing", everyone = "nothing" });
        await client.PostAsync($"/api/publications/{gone.Text("id")}/take-down", new { version = gone.Number("version") });
        var standings = server.Services.GetRequiredService<Standings>();
        await Eventually.TrueAsync(() => standings.Find("gone") is { State.IsGone: true } && standings.Find("narrow")!.State!.NarrowedRevision > 1);
        wire.Cut();
        // Heard at the last moment, and not looked up any more: it may be one of these.
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/doubted/feed.ics")).StatusCode);
        standings.Find("doubted")!.DoubtIt(Doubt.Narrowed);
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await server.Visitor().GetAsync("/p/doubted/feed.ics")).StatusCode);
        foreach (var path in new[] { "/p/narrow", "/p/narrow/feed.ics" })
        {
            var answer = await server.Visitor().GetAsync(path);
            Assert.DoesNotContain("Lantern walk", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }
        Assert.NotEqual(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/gone/feed.ics")).StatusCode);
        await server.Services.GetRequiredService<KeptFiles>().SettleAsync();
        Assert.All(Directory.GetFiles(kept, "*.kept", SearchOption.AllDirectories), file => Assert.DoesNotContain("/gone/", file, StringComparison.Ordinal));
        Assert.Equal(publication.Text("key"), standings.Find("narrow")!.Key);
    }

    [Fact]
    public async Task Narrowing_is_out_with_the_next_question_and_other_changes_within_a_second()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        var (client, calendar, _) = await PublishedAsync(server, "quick");
        using var end = new CancellationTokenSource();
        var latest = 0;
        // Readers who ask all the time get something at least as young as what was there a second before.
        var readers = Enumerable.Range(0, 4).Select(_ => Task.Run(async () =>
        {
            var asked = 0;
            while (!end.IsCancellationRequested)
            {
                var known = Volatile.Read(ref latest);
                await Task.Delay(1_100, TestContext.Current.CancellationToken);
                Assert.Contains($"Turn {known}", await server.Visitor().GetStringAsync("/p/quick/feed.ics"), StringComparison.Ordinal);
                asked++;
            }
            return asked;
        })).ToList();
        var crowd = Task.Run(async () =>
        {
            while (!end.IsCancellationRequested)
                Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/p/quick/feed.ics")).StatusCode);
        });
        await client.PostAsync("/api/events", EventBody(calendar, "Turn 0", AllDay("2026-12-01", "2026-12-01")));
        for (var turn = 1; turn <= 40; turn++)
        {
            var made = await client.PostAsync("/api/events", EventBody(calendar, $"Turn {turn}", AllDay("2026-12-01", "2026-12-01")));
            Volatile.Write(ref latest, turn);
            if (turn % 8 != 0)
                continue;
            // Deleted: the next one who asks does not get it, whoever else asks.
            var secret = await client.PostAsync("/api/events", EventBody(calendar, "Hidden " + turn, AllDay("2026-12-01", "2026-12-01")));
            await client.DeleteAsync($"/api/events/{secret.Text("id")}?version={secret.Number("version")}");
            var texts = await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => server.Visitor().GetStringAsync("/p/quick/feed.ics")));
            Assert.All(texts, text => Assert.DoesNotContain("Hidden", text, StringComparison.Ordinal));
        }
        await Task.Delay(1_500, TestContext.Current.CancellationToken);
        await end.CancelAsync();
        Assert.True((await Task.WhenAll(readers)).Sum() > 4);
        await crowd;
    }

    [Fact]
    public async Task In_a_storm_of_cuts_nothing_that_was_acknowledged_is_lost_readers_see_no_error_and_the_feed_is_the_board()
    {
        await using var wire = new Wire(await cluster.CreateDatabaseAsync());
        await using var server = new Server(wire.Database);
        var (client, calendar, _) = await PublishedAsync(server, "storm");
        await WarmAsync(server, "storm");
        using var end = new CancellationTokenSource();
        var (kept, errors, refused) = (new System.Collections.Concurrent.ConcurrentBag<string>(), new System.Collections.Concurrent.ConcurrentBag<string>(), 0);
        var writers = Enumerable.Range(0, 3).Select(w => Task.Run(async () =>
        {
            for (var n = 0; !end.IsCancellationRequested; n++)
            {
                var answer = await client.PostAsJsonAsync("/api/events", EventBody(calendar, $"Storm {w} {n}", AllDay("2026-12-03", "2026-12-03")));
                if (answer.IsSuccessStatusCode)
                    kept.Add($"Storm {w} {n}");
                else
                    Assert.Equal(((int)HttpStatusCode.ServiceUnavailable, Interlocked.Increment(ref refused) > 0), ((int)answer.StatusCode, true));
            }
        }));
        var readers = Enumerable.Range(0, 3).Select(r => Task.Run(async () =>
        {
            for (var n = r; !end.IsCancellationRequested; n++)
            {
                var outlet = Outlets[n % Outlets.Length];
                var answer = await server.Visitor().GetAsync("/p/storm" + outlet);
                if (answer.StatusCode != HttpStatusCode.OK)
                    errors.Add($"{outlet} {answer.StatusCode}");
            }
        }));
        var all = writers.Concat(readers).ToList();
        var random = new Random(7);
        for (var cut = 0; cut < 8; cut++)
        {
            // However slow the machine is, something is kept between two cuts, and something refused in each.
            var (keptBefore, refusedBefore) = (kept.Count, refused);
            await Task.Delay(random.Next(200, 700), TestContext.Current.CancellationToken);
            await Eventually.TrueAsync(() => kept.Count > keptBefore + 1);
            wire.Cut();
            await Task.Delay(random.Next(50, 500), TestContext.Current.CancellationToken);
            await Eventually.TrueAsync(() => Volatile.Read(ref refused) > refusedBefore);
            wire.Mend();
        }
        await end.CancelAsync();
        await Task.WhenAll(all);
        Assert.Empty(errors);
        Assert.True(kept.Count >= 16 && refused >= 8, $"{kept.Count} {refused}");
        await Eventually.TrueAsync(async () => (await server.Visitor().GetAsync("/health/ready")).IsSuccessStatusCode);
        var board = (await client.GetJsonAsync("/api/board?from=2026-11-30&to=2026-12-07"))["occurrences"]!.AsArray().Where(o => o!.Text("calendarId") == calendar.Text("id")).Select(o => o!.Text("title")).Where(t => t.StartsWith("Storm", StringComparison.Ordinal)).Order(StringComparer.Ordinal).ToList();
        Assert.Empty(kept.Except(board));
        using var newest = new HttpRequestMessage(HttpMethod.Get, "/p/storm/feed.ics");
        newest.Headers.CacheControl = new System.Net.Http.Headers.CacheControlHeaderValue { NoCache = true };
        var feed = await (await server.Visitor().SendAsync(newest)).Content.ReadAsStringAsync();
        Assert.Equal(board, feed.Split("\r\n").Where(l => l.StartsWith("SUMMARY:Storm", StringComparison.Ordinal)).Select(l => l["SUMMARY:".Length..]).Order(StringComparer.Ordinal));
    }

    [Fact]
    public async Task The_day_begins_with_what_was_made_ahead()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        await PublishedAsync(server, "midnight");
        Assert.Contains("\"today\":\"2026-11-23\"", await server.Visitor().GetStringAsync("/p/midnight"), StringComparison.Ordinal);
        // The school's midnight is at four in the world's time.
        server.Clock.Now = Instant.FromUtc(2026, 11, 24, 3, 59, 30);
        var kept = server.Services.GetRequiredService<Shelf>().At("/p/midnight")!;
        await Eventually.TrueAsync(() => kept.Ahead is not null);
        Assert.Contains("\"today\":\"2026-11-23\"", await server.Visitor().GetStringAsync("/p/midnight"), StringComparison.Ordinal);
        var made = server.Services.GetRequiredService<Renewal>().Made;
        server.Clock.Now = Instant.FromUtc(2026, 11, 24, 4, 0, 1);
        Assert.Contains("\"today\":\"2026-11-24\"", await server.Visitor().GetStringAsync("/p/midnight"), StringComparison.Ordinal);
        Assert.Equal(made, server.Services.GetRequiredService<Renewal>().Made);
    }

    [Fact]
    public async Task Of_what_there_is_none_of_nothing_is_kept_however_often_it_is_asked_for()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        await PublishedAsync(server, "made-up");
        await WarmAsync(server, "made-up");
        var standing = server.Services.GetRequiredService<Standings>().Find("made-up")!;
        var before = standing.Kept.Count;
        for (var n = 0; n < 30; n++)
        {
            Assert.Equal(HttpStatusCode.NotFound, (await server.Visitor().GetAsync($"/p/made-up/files/{Guid.NewGuid()}/small")).StatusCode);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await server.Visitor().GetAsync($"/p/made-up/events.json?from=2026-01-{n % 28 + 1:00}&to=2028-01-01")).StatusCode);
        }
        Assert.Equal(before, standing.Kept.Count);
        // Under many addresses one answer is kept once, and asks the database no more.
        for (var n = 0; n < 30; n++)
            Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync($"/p/made-up/feed.ics?from-mail={n}")).StatusCode);
        Assert.Equal(before, standing.Kept.Count);
    }

    [Fact]
    public async Task Of_days_that_can_be_asked_for_without_end_the_last_hundred_are_kept_and_all_else_beside_them()
    {
        var folder = Folder();
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["KEPT"] = folder } };
        var (client, _, publication) = await PublishedAsync(server, "endless");
        for (var n = 0; n < 120; n++)
            await server.Visitor().GetStringAsync($"/p/endless/events.json?from={new LocalDate(2026, 1, 1).PlusDays(n):uuuu-MM-dd}&to=2026-05-01");
        await WarmAsync(server, "endless");
        var named = Path.Combine(folder, "endless");
        Assert.Equal((100, Outlets.Length), (Directory.GetFiles(named, "*+.kept").Length, Directory.GetFiles(named, "*.kept").Length - 100));
        // None of it is read when a server starts.
        var read = new List<string>();
        await foreach (var file in server.Services.GetRequiredService<KeptFiles>().ReadAllAsync())
        {
            if (file.Key == "endless")
                read.Add(file.Ask.Address);
        }
        Assert.Equal(Outlets.Select(o => o.TrimStart('/')).Order(), read.Order());
        // All of it goes with the publication.
        await client.PostAsync($"/api/publications/{publication.Text("id")}/take-down", new { version = publication.Number("version") });
        await server.Services.GetRequiredService<KeptFiles>().SettleAsync();
        Assert.Empty(Directory.GetFiles(named));
    }

    [Fact]
    public async Task The_log_says_once_a_second_that_the_database_is_away()
    {
        await using var wire = new Wire(await cluster.CreateDatabaseAsync());
        await using var server = new Server(wire.Database);
        var client = await server.SignedInAsync();
        wire.Cut();
        var begun = Environment.TickCount64;
        await Task.WhenAll(Enumerable.Range(0, 60).Select(_ => client.GetAsync("/api/board?from=2026-11-23&to=2026-11-30")));
        var lines = server.Log.Text.Split('\n').Count(l => l.Contains("found no database", StringComparison.Ordinal));
        Assert.InRange(lines, 1, 2 + (int)((Environment.TickCount64 - begun) / 1_000));
    }

    private static async Task<JsonNode> CalendarAsync(HttpClient client, JsonNode calendar) =>
        (await client.GetJsonAsync("/api/board?from=2026-11-23&to=2026-11-24"))["calendars"]!.AsArray().Single(c => c!.Text("id") == calendar.Text("id"))!;
}
