using System.IO.Compression;
using System.Net.Http.Headers;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

public sealed class OutletTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    /// <summary>A published open calendar with one event.</summary>
    private async Task<(HttpClient Client, JsonNode Calendar, JsonNode Event, JsonNode Publication)> PublishedAsync(string key)
    {
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Rope club " + key));
        var e = await client.PostAsync("/api/events", EventBody(calendar, "Splice night", Timed("2026-11-26T18:00:00", "2026-11-26T20:00:00")));
        return (client, calendar, e, await client.PublishAsync(key, calendar));
    }

    private Task<HttpResponseMessage> SendAsync(string path, Action<HttpRequestMessage>? ask = null, HttpMethod? method = null)
    {
        var request = new HttpRequestMessage(method ?? HttpMethod.Get, path);
        ask?.Invoke(request);
        return server.Visitor().SendAsync(request);
    }

    [Fact]
    public async Task The_whole_school_diary_is_out_under_its_key()
    {
        var page = await server.Visitor().GetStringAsync("/p/lanternfell");
        Assert.Contains("What is on at Lanternfell", page);
        var feed = await server.Visitor().GetAsync("/p/lanternfell/feed.ics");
        Assert.Equal("text/calendar; charset=utf-8", feed.Content.Headers.ContentType?.ToString());
        Assert.StartsWith("BEGIN:VCALENDAR\r\n", await feed.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Without_scripts_the_next_events_can_be_read()
    {
        await PublishedAsync("no-scripts");
        foreach (var path in new[] { "/p/no-scripts", "/p/no-scripts/embed", "/p/no-scripts/embed?view=upcoming&count=3" })
        {
            var html = await server.Visitor().GetStringAsync(path);
            var body = html[..html.IndexOf("<script type=\"application/json\"", StringComparison.Ordinal)];
            Assert.Contains("Splice night", body);
            Assert.Contains("18:00", body);
            Assert.Contains("America/Halifax", html);
        }
    }

    [Fact]
    public async Task A_change_in_the_workspace_is_there_with_the_next_question()
    {
        var (client, calendar, e, _) = await PublishedAsync("changes");
        Assert.Contains("Splice night", await server.Visitor().GetStringAsync("/p/changes/embed"));
        await client.PutAsync($"/api/events/{e.Text("id")}", EventBody(calendar, "Rope evening", Timed("2026-11-26T18:00:00", "2026-11-26T20:00:00"), version: 1));
        foreach (var path in new[] { "/p/changes", "/p/changes/embed", "/p/changes/feed.ics", "/p/changes/events.json?from=2026-11-01&to=2026-12-01" })
        {
            var text = await server.Visitor().GetStringAsync(path);
            Assert.Contains("Rope evening", text);
            Assert.DoesNotContain("Splice night", text);
        }
    }

    [Fact]
    public async Task An_unchanged_feed_is_not_sent_again()
    {
        var (client, calendar, _, _) = await PublishedAsync("conditional");
        var first = await SendAsync("/p/conditional/feed.ics");
        var (tag, changed) = (first.Headers.ETag!, first.Content.Headers.LastModified!.Value);

        var again = await SendAsync("/p/conditional/feed.ics", r => r.Headers.IfNoneMatch.Add(tag));
        Assert.Equal(HttpStatusCode.NotModified, again.StatusCode);
        Assert.Equal(tag, again.Headers.ETag);
        Assert.Empty(await again.Content.ReadAsByteArrayAsync());
        Assert.Equal(HttpStatusCode.NotModified, (await SendAsync("/p/conditional/feed.ics", r => r.Headers.IfModifiedSince = changed)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync("/p/conditional/feed.ics", r => r.Headers.IfModifiedSince = changed.AddSeconds(-1))).StatusCode);
        // A tag that does not fit goes before a date that does (RFC 9110, 13.1.3).
        Assert.Equal(HttpStatusCode.OK, (await SendAsync("/p/conditional/feed.ics", r =>
        {
            r.Headers.IfNoneMatch.Add(new EntityTagHeaderValue("\"other\""));
            r.Headers.IfModifiedSince = changed;
        })).StatusCode);

        // Two changes within the same second still get times of their own.
        await client.PostAsync("/api/events", EventBody(calendar, "Second", AllDay("2026-12-01", "2026-12-01")));
        await client.PostAsync("/api/events", EventBody(calendar, "Third", AllDay("2026-12-01", "2026-12-01")));
        var later = await SendAsync("/p/conditional/feed.ics", r => r.Headers.IfNoneMatch.Add(tag));
        Assert.Equal(HttpStatusCode.OK, later.StatusCode);
        // None is said that is still to come; and whoever has what was said before is sent the later one.
        Assert.True(later.Content.Headers.LastModified <= fixture.Server.Clock.Now.ToDateTimeOffset());
        Assert.Equal(HttpStatusCode.OK, (await SendAsync("/p/conditional/feed.ics", r => r.Headers.IfModifiedSince = later.Content.Headers.LastModified)).StatusCode);
        fixture.Server.Clock.Now += Duration.FromSeconds(3);
        later = await SendAsync("/p/conditional/feed.ics");
        Assert.True(later.Content.Headers.LastModified >= changed.AddSeconds(2));
        Assert.Equal(HttpStatusCode.NotModified, (await SendAsync("/p/conditional/feed.ics", r => r.Headers.IfModifiedSince = later.Content.Headers.LastModified)).StatusCode);
    }

    [Fact]
    public async Task A_head_request_tells_what_a_get_would_without_the_body()
    {
        foreach (var path in new[] { "/p/lanternfell", "/p/lanternfell/embed", "/p/lanternfell/feed.ics" })
        {
            var (get, head) = (await SendAsync(path), await SendAsync(path, method: HttpMethod.Head));
            Assert.Equal(HttpStatusCode.OK, head.StatusCode);
            Assert.Equal((get.Headers.ETag, get.Content.Headers.ContentLength), (head.Headers.ETag, head.Content.Headers.ContentLength));
            Assert.Empty(await head.Content.ReadAsByteArrayAsync());
        }
    }

    [Fact]
    public async Task It_is_sent_compressed_to_those_who_take_that()
    {
        var plain = await (await SendAsync("/p/lanternfell/feed.ics")).Content.ReadAsByteArrayAsync();
        foreach (var (coding, open) in new (string, Func<Stream, Stream>)[]
        {
            ("gzip", s => new GZipStream(s, CompressionMode.Decompress)),
            ("br", s => new BrotliStream(s, CompressionMode.Decompress)),
        })
        {
            var answer = await SendAsync("/p/lanternfell/feed.ics", r => r.Headers.AcceptEncoding.ParseAdd(coding));
            Assert.Equal([coding], answer.Content.Headers.ContentEncoding);
            Assert.Contains("Accept-Encoding", answer.Headers.Vary);
            using var unpacked = new MemoryStream();
            await open(await answer.Content.ReadAsStreamAsync()).CopyToAsync(unpacked);
            Assert.Equal(plain, unpacked.ToArray());
        }
        var refused = await SendAsync("/p/lanternfell/feed.ics", r => r.Headers.AcceptEncoding.ParseAdd("gzip;q=0, identity"));
        Assert.Empty(refused.Content.Headers.ContentEncoding);
    }

    [Fact]
    public async Task Two_servers_and_two_fillings_give_the_same_bytes()
    {
        await using var second = new Server(server.Database);
        await using var refilled = new Server(await fixture.Cluster.CreateEmptyDatabaseAsync());
        var expected = await SendAsync("/p/families/feed.ics");
        foreach (var other in new[] { second, refilled })
        {
            var answer = await other.Visitor().GetAsync("/p/families/feed.ics");
            Assert.Equal(await expected.Content.ReadAsByteArrayAsync(), await answer.Content.ReadAsByteArrayAsync());
            Assert.Equal(expected.Headers.ETag, answer.Headers.ETag);
        }
    }

    [Fact]
    public async Task An_unknown_key_says_what_to_do()
    {
        foreach (var key in new[] { "nothing-here", new string('x', 500), "a%2Fb", "LANTERNFELL-NOT" })
        {
            var answer = await SendAsync($"/p/{key}");
            Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
            Assert.Contains("ask the school for the right link", await answer.Content.ReadAsStringAsync());
        }
        var french = await SendAsync("/p/nothing-here", r => r.Headers.AcceptLanguage.ParseAdd("fr-CA, en;q=0.5"));
        Assert.Contains("lang=\"fr\"", await french.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task A_publication_taken_down_is_gone_and_says_so_until_it_is_put_up()
    {
        var (client, _, _, publication) = await PublishedAsync("withdrawn");
        await client.PostAsync($"/api/publications/{publication.Text("id")}/take-down", null);
        foreach (var path in new[] { "/p/withdrawn", "/p/withdrawn/embed", "/p/withdrawn/feed.ics", "/p/withdrawn/events.json?from=2026-11-01&to=2026-12-01" })
        {
            var answer = await SendAsync(path);
            Assert.Equal(HttpStatusCode.Gone, answer.StatusCode);
            var text = await answer.Content.ReadAsStringAsync();
            Assert.Contains("taken down", text);
            Assert.DoesNotContain("Splice night", text);
            Assert.Equal(path.EndsWith("feed.ics") ? "text/plain" : "text/html", answer.Content.Headers.ContentType?.MediaType);
        }
        await client.PostAsync($"/api/publications/{publication.Text("id")}/put-up", null);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync("/p/withdrawn")).StatusCode);
    }

    [Fact]
    public async Task Closing_a_calendar_takes_its_events_out_everywhere_and_the_proof_says_why()
    {
        var (client, calendar, _, publication) = await PublishedAsync("closing");
        await client.OpenAsync(calendar, "nothing");
        foreach (var path in new[] { "/p/closing", "/p/closing/embed", "/p/closing/feed.ics", "/p/closing/events.json?from=2026-11-01&to=2026-12-01" })
        {
            var text = await server.Visitor().GetStringAsync(path);
            Assert.DoesNotContain("Splice night", text);
            Assert.DoesNotContain("Rope club", text);
        }
        var proof = await client.GetJsonAsync($"/api/publications/{publication.Text("id")}/proof");
        Assert.Equal(0, proof.Number("events"));
        var held = Assert.Single(proof["heldBack"]!.AsArray())!;
        Assert.Equal(("calendarClosed", 1), (held.Text("reason"), held.Number("events")));
    }

    [Fact]
    public async Task A_deleted_event_is_gone_from_every_form_at_once_and_comes_back_as_it_was()
    {
        var (client, _, e, _) = await PublishedAsync("deleted");
        var before = await server.Visitor().GetStringAsync("/p/deleted/feed.ics");
        await client.DeleteAsync($"/api/events/{e.Text("id")}?version=1");
        foreach (var form in new[] { "", "/feed.ics", "/feed.json", "/atom.xml", "/dates.json", "/dates.csv", "/busy.ifb", "/events.json?from=2026-11-01&to=2026-12-01" })
        {
            var said = await server.Visitor().GetStringAsync("/p/deleted" + form);
            Assert.DoesNotContain("Splice night", said);
            Assert.DoesNotContain(e.Text("id"), said);
            Assert.DoesNotContain("CANCELLED", said);
        }
        await client.PostAsync($"/api/events/{e.Text("id")}/restore", new { });
        Assert.Equal(before, await server.Visitor().GetStringAsync("/p/deleted/feed.ics"));
    }

    [Fact]
    public async Task What_was_deleted_while_its_calendar_was_closed_never_comes_out()
    {
        var (client, calendar, e, _) = await PublishedAsync("deleted-closed");
        var closed = await client.OpenAsync(calendar, "nothing");
        await client.DeleteAsync($"/api/events/{e.Text("id")}?version=1");
        await client.OpenAsync(closed);
        Assert.DoesNotContain("BEGIN:VEVENT", await server.Visitor().GetStringAsync("/p/deleted-closed/feed.ics"));
    }

    [Fact]
    public async Task What_is_shown_as_times_only_says_no_word_of_the_event()
    {
        var (client, calendar, _, _) = await PublishedAsync("times");
        await client.OpenAsync(calendar, "timesOnly");
        foreach (var path in new[] { "/p/times", "/p/times/feed.ics", "/p/times/events.json?from=2026-11-01&to=2026-12-01" })
        {
            var text = await server.Visitor().GetStringAsync(path);
            Assert.DoesNotContain("Splice night", text);
            Assert.DoesNotContain("Slip 1", text);
            Assert.DoesNotContain("Bring a rope", text);
            Assert.Contains("Taken", text);
        }
    }

    [Theory]
    [InlineData("ab", "key_malformed", 422)]
    [InlineData("Has Blanks", "key_malformed", 422)]
    [InlineData("-edge-", "key_malformed", 422)]
    [InlineData("lanternfell", "key_taken", 409)]
    public async Task A_key_that_cannot_be_is_refused(string key, string code, int status)
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Keys");
        var problem = await client.PostAsJsonAsync(
            "/api/publications",
            new { key, title = "T", introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "month", language = "en" }).ProblemAsync(status, code);
        Assert.Equal("key", problem.Text("field"));
    }

    [Fact]
    public async Task Text_from_the_workspace_is_text_on_the_page()
    {
        var (client, calendar, _, _) = await PublishedAsync("escaping");
        await client.PostAsync("/api/events", EventBody(calendar, "</script><img src=x onerror=alert(1)>", AllDay("2026-11-27", "2026-11-27")));
        var html = await server.Visitor().GetStringAsync("/p/escaping");
        Assert.Contains("&lt;img", html);
        Assert.DoesNotContain("<img", html);
        Assert.DoesNotContain("</script><img", html);
    }

    [Fact]
    public async Task The_links_name_the_address_people_reach_the_server_at()
    {
        var (_, _, _, publication) = await PublishedAsync("links");
        var links = publication["links"]!;
        Assert.Equal("https://valtro.example/p/links/feed.ics", links.Text("feed"));
        Assert.Equal("webcal://valtro.example/p/links/feed.ics", links.Text("webcal"));
        Assert.Equal("https://valtro.example/p/links/embed", links.Text("embed"));
    }

    [Fact]
    public async Task No_visitor_gets_a_cookie_and_no_window_is_too_wide()
    {
        var page = await SendAsync("/p/lanternfell");
        Assert.False(page.Headers.Contains("Set-Cookie"));
        await server.Visitor().GetAsync("/p/lanternfell/events.json?from=2026-01-01&to=2027-01-01").ProblemAsync(422, "window_too_long");
    }
}
