using System.Text.Json;
using Dapper;
using Microsoft.Extensions.DependencyInjection;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What publications show is the same, whether they are read one by one or together.</summary>
public sealed class PublicationContentsTests(Cluster cluster)
{
    [Fact]
    public async Task Read_together_each_has_what_it_has_alone()
    {
        var random = new Random(11);
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        var client = await server.SignedInAsync();
        var calendars = new List<JsonNode>();
        for (var i = 0; i < 7; i++)
            calendars.Add(await client.OpenAsync(await client.NewCalendarAsync($"Berth {i}")));
        for (var i = 0; i < 40; i++)
        {
            var home = calendars[random.Next(calendars.Count)];
            var also = calendars.Where(c => c != home && random.Next(4) == 0).Select(c => c.Text("id")).ToArray();
            var made = await client.PostAsync("/api/events", new { calendarId = home.Text("id"), title = $"Tide {i}", place = "", description = "", timing = AllDay("2026-12-01", "2026-12-01"), facts = new { alsoIn = also } });
            if (i % 9 == 0)
                await client.DeleteAsync($"/api/events/{made.Text("id")}?version=1");
        }
        var some = Enumerable.Range(0, 12).Select(n => calendars.Where(_ => random.Next(3) == 0).Append(calendars[n % calendars.Count]).Select(c => Guid.Parse(c.Text("id"))).Distinct().ToArray()).ToList();
        await using var db = new Npgsql.NpgsqlConnection(database);
        var first = await client.PublishAsync("berths", calendars[0]);
        var (template, school) = (Guid.Parse(first.Text("id")), await db.ExecuteScalarAsync<Guid>("select school_id from publication where key = 'berths'"));
        var ids = new List<Guid> { template };
        foreach (var (of, n) in some.Select((of, n) => (of, n)))
        {
            var id = Guid.NewGuid();
            ids.Add(id);
            await db.ExecuteAsync(
                """
                insert into publication (id, school_id, key, title, introduction, audience, first_view, language, version, revision, changed_at, created_at, published_at, choices, look)
                select @id, school_id, 'berth-' || @n, title, introduction, audience, first_view, language, 1, 1, changed_at, created_at, published_at, choices, look from publication where id = @template;
                insert into publication_calendar (publication_id, calendar_id, school_id, position) select @id, c, @school, row_number() over () from unnest(@of) c;
                insert into gone_event (school_id, publication_id, uid) values (@school, @id, 'gone-' || @n)
                """,
                new { id, n, template, school, of });
        }
        // What stands in another calendar goes with its own.
        await db.ExecuteAsync("update calendar set deleted_at = now() where id = any(@gone)", new { gone = new[] { Guid.Parse(calendars[2].Text("id")), Guid.Parse(calendars[5].Text("id")) } });
        var store = server.Services.GetRequiredService<Valtro.Store.Publications>();
        var (together, _) = await store.ContentsAsync(school, [.. ids, Guid.NewGuid()]);
        Assert.Equal(ids.Order(), together.Keys.Order());
        foreach (var id in ids)
            Assert.Equal(Said((await store.ContentsAsync(school, id)).Contents), Said(together[id]));
        Assert.Contains(together.Values, c => c.Events.Any(e => !c.Publication.CalendarIds.Contains(e.CalendarId)));
        await Assert.ThrowsAsync<InvalidOperationException>(() => store.ContentsAsync(school, Guid.NewGuid()));
    }

    [Fact]
    public async Task What_links_lead_to_is_the_same_asked_together_or_alone_of_whichever_schools()
    {
        var random = new Random(31);
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        var client = await server.SignedInAsync();
        await client.PublishAsync("moored", await client.OpenAsync(await client.NewCalendarAsync("Moored")));
        await using var db = new Npgsql.NpgsqlConnection(database);
        var schools = server.Services.GetRequiredService<Valtro.Store.Schools>();
        var ids = (await db.QueryAsync<Guid>("select school_id from publication where key = 'moored'")).ToList();
        for (var n = 0; n < 3; n++)
        {
            var school = new Valtro.Store.School(Guid.CreateVersion7(), $"School {n}", $"S{n}", DateTimeZoneProviders.Tzdb["America/Halifax"], "en");
            await schools.AddAsync(school, server.Clock.Now);
            ids.Add(school.Id);
        }
        // By link, as it was written: its school, and whether it is gone, closed and somebody's own; null where nothing is.
        var expected = new Dictionary<string, (Guid School, bool IsGone, bool IsClosed, bool IsPersonal)?>();
        for (var n = 0; n < 40; n++)
        {
            var (id, school, person) = (Guid.NewGuid(), ids[random.Next(ids.Count)], Guid.NewGuid());
            var (isDraft, isDown, isOfMembers, hasLeft) = (random.Next(5) == 0, random.Next(4) == 0, random.Next(3) == 0, random.Next(3) == 0);
            var (isReplaced, isTaken) = (random.Next(2) == 0, random.Next(3) == 0);
            await db.ExecuteAsync(
                """
                insert into publication (id, school_id, key, title, introduction, audience, first_view, language, version, revision, changed_at, created_at, published_at, taken_down_at, choices, look)
                select @id, @school, 'now-' || @n, title, introduction, @audience, first_view, language, 1, @n, changed_at, created_at,
                    case when @isDraft then null else published_at end, case when @isDown then created_at end, choices, look
                from publication where key = 'moored';
                insert into person (id, school_id, name, email, password_hash, created_at, left_at)
                select @person, @school, 'Reader', 'reader-' || @n || '@lanternfell.example', '', created_at, case when @hasLeft then created_at end from publication where key = 'moored';
                insert into member_link (key, school_id, publication_id, person_id, made_at) select 'own-' || @n, @school, @id, @person, created_at from publication where key = 'moored';
                """,
                new { id, school, n, person, isDraft, isDown, hasLeft, audience = (short)(isOfMembers ? Valtro.Core.Reach.Audience.Members : Valtro.Core.Reach.Audience.Everyone) });
            expected[$"now-{n}"] = isDraft ? null : (school, isDown, isOfMembers, false);
            expected[$"own-{n}"] = isDraft ? null : (school, isDown || hasLeft || !isOfMembers, false, true);
            if (!isReplaced)
                continue;
            // A name that was given up leads to where it led; one that was given to another leads to that.
            var key = isTaken ? $"now-{random.Next(n + 1)}" : $"was-{n}";
            await db.ExecuteAsync("insert into publication_old_key (key, school_id, publication_id, replaced_at) values (@key, @school, @id, now()) on conflict do nothing", new { key, school, id });
            expected.TryAdd(key, (school, true, false, false));
        }
        expected["nothing"] = null;
        var store = server.Services.GetRequiredService<Valtro.Store.Publications>();
        for (var step = 0; step < 40; step++)
        {
            var keys = expected.Keys.Where(_ => random.Next(4) <= step % 5).Concat(expected.Keys.Where(_ => random.Next(20) == 0)).ToArray();
            Guid? only = step % 2 == 0 ? null : ids[random.Next(ids.Count)];
            var found = await store.StatesAsync(keys, only);
            Assert.Equal(
                keys.Distinct().Where(k => expected[k] is { } at && (only ?? at.School) == at.School).Order(StringComparer.Ordinal).Select(k => (k, expected[k]!.Value)),
                found.OrderBy(f => f.Key, StringComparer.Ordinal).Select(f => (f.Key, (f.Value.SchoolId, f.Value.IsGone, f.Value.IsClosed, f.Value.IsPersonal))));
        }
        var together = await store.StatesAsync([.. expected.Keys]);
        foreach (var key in expected.Keys)
            Assert.Equal(together.GetValueOrDefault(key), (await store.StatesAsync([key])).GetValueOrDefault(key));
    }

    [Fact]
    public async Task What_was_read_before_is_never_taken_for_what_is_there_now()
    {
        var random = new Random(23);
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        await using var db = new Npgsql.NpgsqlConnection(database);
        await db.OpenAsync();
        var client = await server.SignedInAsync();
        var calendars = new List<JsonNode>();
        var publications = new List<Guid>();
        for (var i = 0; i < 3; i++)
        {
            calendars.Add(await client.OpenAsync(await client.NewCalendarAsync($"Quay {i}")));
            publications.Add(Guid.Parse((await client.PublishAsync($"quay-{i}", [.. calendars])).Text("id")));
        }
        var events = new List<Guid>();
        for (var i = 0; i < 6; i++)
            events.Add(Guid.Parse((await client.PostAsync("/api/events", EventBody(calendars[i % 3], $"Ferry {i}", AllDay("2026-12-01", "2026-12-01")))).Text("id")));
        var school = await db.ExecuteScalarAsync<Guid>("select school_id from publication where key = 'quay-0'");
        var store = server.Services.GetRequiredService<Valtro.Store.Publications>();
        for (var step = 0; step < 30; step++)
        {
            // A backup that was brought back leaves the number of before, which the next change takes again.
            var isBackup = step % 5 == 4;
            if (isBackup)
                await db.ExecuteAsync("create temp table if not exists kept as select * from event; delete from kept; insert into kept select * from event");
            var id = events[random.Next(events.Count)];
            server.Clock.Now += Duration.FromMilliseconds(random.Next(1, 3));
            var version = await db.ExecuteScalarAsync<int>("select version from event where id = @id", new { id });
            await client.PutAsync($"/api/events/{id}", EventBody(calendars[random.Next(3)], $"Ferry {step}", AllDay("2026-12-01", "2026-12-01"), version: version));
            await SameAsync();
            if (!isBackup)
                continue;
            await db.ExecuteAsync("update event e set title = k.title, calendar_id = k.calendar_id, version = k.version, changed_at = k.changed_at from kept k where k.id = e.id");
            await SameAsync();
        }

        async Task SameAsync()
        {
            using var fresh = Valtro.Store.Database.Connect(server.AppDatabase);
            var expected = await new Valtro.Store.Publications(fresh).ContentsAsync(school, [.. publications]);
            var read = await store.ContentsAsync(school, [.. publications]);
            Assert.All(publications, id => Assert.Equal(Said(expected.Contents[id]), Said(read.Contents[id])));
            Assert.All(publications, id => Assert.NotEmpty(read.Contents[id].Events));
        }
    }

    private static string Said(Valtro.Store.PublicationContents contents) => JsonSerializer.Serialize(new
    {
        contents.Publication.Key,
        Calendars = contents.Calendars.Select(c => c.Id).Order(),
        Events = contents.Events.Select(e => (e.Id, e.Version, e.CalendarId, e.Title, e.DeletedAt)).Order().Select(e => e.ToString()),
        Gone = contents.Gone.Order(),
    });
}
