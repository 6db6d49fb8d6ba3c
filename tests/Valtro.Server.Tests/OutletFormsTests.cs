using System.Text;
using System.Xml.Linq;
using Dapper;
using Microsoft.Extensions.DependencyInjection;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>A publication's draft, its members, its other forms, its policy, its readers, and clients that ask oddly.</summary>
public sealed class OutletFormsTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Agent = "HarbourCal/3.1 (Android 14; Mobile)";

    private readonly Server server = fixture.Server;

    private static Dictionary<string, object?> Body(JsonNode calendar, string? key, string title = "Boats", object? look = null, object? choices = null, string audience = "everyone", bool isOut = true, int? version = null) => new()
    {
        ["key"] = key,
        ["title"] = title,
        ["introduction"] = "",
        ["calendarIds"] = new[] { calendar.Text("id") },
        ["firstView"] = "list",
        ["language"] = "en",
        ["audience"] = audience,
        ["look"] = look,
        ["choices"] = choices,
        ["isOut"] = isOut,
        ["version"] = version,
    };

    private async Task<(HttpClient Marit, JsonNode Calendar, JsonNode Event)> CalendarAsync(string title, object? facts = null)
    {
        var marit = await server.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync(title));
        var e = await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Keel & mast", place = "Slip 1", description = "<p>Bring a <strong>rope</strong></p>", timing = Timed("2026-11-26T18:00:00", "2026-11-26T20:00:00"), rule = Weekly("thursday"), facts = facts ?? new { } });
        return (marit, calendar, e);
    }

    private async Task<HttpResponseMessage> GetAsync(string path, Action<HttpRequestMessage>? ask = null)
    {
        var request = new HttpRequestMessage(HttpMethod.Get, path);
        ask?.Invoke(request);
        return await server.Visitor().SendAsync(request);
    }

    private async Task<string> TextAsync(string path)
    {
        var answer = await GetAsync(path);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        return await answer.Content.ReadAsStringAsync();
    }

    private static string Policy(HttpResponseMessage answer) => answer.Headers.GetValues("Content-Security-Policy").Single();

    [Fact]
    public async Task Changes_of_what_is_out_wait_until_they_are_published()
    {
        var (marit, calendar, _) = await CalendarAsync("Waiting");
        var made = await marit.PostAsync("/api/publications", Body(calendar, "waiting-ones"));
        var path = $"/api/publications/{made.Text("id")}";
        var before = (await GetAsync("/p/waiting-ones/feed.ics")).Headers.ETag;
        var changed = await marit.PutAsync(path, Body(calendar, null, "Ropes", isOut: false, choices: new { text = "nothing like it" }, version: 1));
        Assert.Equal(("Ropes", true, 2), (changed.Text("title"), changed["hasChanges"]!.GetValue<bool>(), changed.Number("version")));
        Assert.Contains("<h1><bdi>Boats</bdi></h1>", await TextAsync("/p/waiting-ones"));
        Assert.Equal(before, (await GetAsync("/p/waiting-ones/feed.ics")).Headers.ETag);

        // The keeper sees what it will be, and what that takes away.
        Assert.Contains("<h1><bdi>Ropes</bdi></h1>", await marit.GetStringAsync(path + "/look/page?look=draft"));
        Assert.Contains("Keel", await TextAsync("/p/waiting-ones/embed"));
        Assert.DoesNotContain("Keel", await marit.GetStringAsync(path + "/look/embed?look=draft&view=upcoming"));
        var proof = await marit.GetJsonAsync(path + "/proof");
        Assert.Equal((1, 1, 0), (proof.Number("events"), proof["waiting"]!.Number("removed"), proof["waiting"]!.Number("added")));
        Assert.Equal(0, (await marit.GetJsonAsync(path + "/proof?draft=true")).Number("events"));

        await marit.PostAsJsonAsync(path + "/publish", new { version = 1 }).ProblemAsync(409, "stale_version");
        var published = await marit.PostAsync(path + "/publish", new { version = 2 });
        Assert.False(published["hasChanges"]!.GetValue<bool>());
        Assert.Contains("<h1><bdi>Ropes</bdi></h1>", await TextAsync("/p/waiting-ones"));
        Assert.NotEqual(before, (await GetAsync("/p/waiting-ones/feed.ics")).Headers.ETag);

        await marit.PutAsync(path, Body(calendar, null, "Knots", isOut: false, version: 3));
        var discarded = await marit.PostAsync(path + "/discard", new { version = 4 });
        Assert.Equal(("Ropes", false), (discarded.Text("title"), discarded["hasChanges"]!.GetValue<bool>()));
    }

    [Fact]
    public async Task What_never_was_published_is_not_there()
    {
        var (marit, calendar, _) = await CalendarAsync("Not yet");
        var made = await marit.PostAsync("/api/publications", Body(calendar, null, isOut: false));
        Assert.False(made["isPublished"]!.GetValue<bool>());
        Assert.Equal(HttpStatusCode.NotFound, (await GetAsync("/p/" + made.Text("key"))).StatusCode);
        Assert.Contains("Keel", await marit.GetStringAsync($"/api/publications/{made.Text("id")}/look/embed?look=draft"));
        // A link that never was out leaves no trace, and its name is free.
        var named = await marit.PostAsync($"/api/publications/{made.Text("id")}/key", new { key = "not-yet-named", version = 1 });
        await marit.PostAsync($"/api/publications/{made.Text("id")}/publish", new { version = named.Number("version") });
        Assert.Equal(HttpStatusCode.NotFound, (await GetAsync("/p/" + made.Text("key"))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await GetAsync("/p/not-yet-named")).StatusCode);
    }

    [Fact]
    public async Task The_same_dates_in_every_form()
    {
        var (marit, calendar, e) = await CalendarAsync("Forms");
        await marit.PostAsync($"/api/events/{e.Text("id")}/call-off", new { date = "2026-12-03T18:00:00", version = 1 });
        await marit.PostAsync("/api/publications", Body(calendar, "all-forms"));
        async Task<(string Type, string Text)> FormAsync(string path)
        {
            var answer = await GetAsync("/p/all-forms" + path);
            Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
            Assert.NotNull(answer.Headers.ETag);
            Assert.Equal("*", answer.Headers.GetValues("Access-Control-Allow-Origin").Single());
            return (answer.Content.Headers.ContentType!.MediaType!, await answer.Content.ReadAsStringAsync());
        }
        var json = await FormAsync("/dates.json");
        var dates = JsonNode.Parse(json.Text)!;
        Assert.Equal(("application/json", "valtro-dates-1", "America/Halifax"), (json.Type, dates.Text("format"), dates.Text("zone")));
        var first = dates["dates"]![0]!;
        Assert.Equal(("Keel & mast", "2026-11-26T18:00:00-04:00", "2026-11-26T20:00:00-04:00", "Bring a rope"), (first.Text("title"), first.Text("start"), first.Text("end"), first.Text("description")));
        Assert.True(dates["dates"]![1]!["calledOff"]!.GetValue<bool>());

        var csv = await FormAsync("/dates.csv");
        Assert.Equal("text/csv", csv.Type);
        Assert.StartsWith("start,end,all-day,title,place,calendars,category,called off,description\r\n2026-11-26T18:00:00-04:00,", csv.Text.TrimStart('\uFEFF'));
        Assert.Equal(dates["dates"]!.AsArray().Count + 1, csv.Text.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Length);

        var atom = await FormAsync("/atom.xml");
        Assert.Equal("application/atom+xml", atom.Type);
        Assert.Equal(dates["dates"]!.AsArray().Count, XDocument.Parse(atom.Text).Root!.Elements(XName.Get("entry", "http://www.w3.org/2005/Atom")).Count());

        var jcal = await FormAsync("/feed.json");
        Assert.Equal(("application/calendar+json", "vcalendar"), (jcal.Type, JsonNode.Parse(jcal.Text)![0]!.GetValue<string>()));
        Assert.Contains("FREEBUSY;FBTYPE=BUSY:20261126T220000Z/20261127T000000Z", (await FormAsync("/busy.ifb")).Text);
        Assert.DoesNotContain("Keel", (await FormAsync("/busy.ifb")).Text);
        var snapshot = await GetAsync("/p/all-forms/snapshot.ics");
        Assert.Equal("all-forms-2026-11-23.ics", snapshot.Content.Headers.ContentDisposition!.FileNameStar);
        Assert.Contains("NAME:Lanternfell: Boats (2026-11-23)", await snapshot.Content.ReadAsStringAsync());
        Assert.StartsWith("<svg", (await FormAsync("/qr.svg")).Text);
        Assert.NotEqual((await FormAsync("/qr.svg")).Text, (await FormAsync("/qr-page.svg")).Text);
        var png = await GetAsync("/p/all-forms/qr.png", r => r.Headers.AcceptEncoding.ParseAdd("br"));
        Assert.Equal([0x89, 0x50, 0x4E, 0x47], (await png.Content.ReadAsByteArrayAsync())[..4]);
        Assert.Empty(png.Content.Headers.ContentEncoding);
    }

    [Fact]
    public async Task A_date_has_a_page_of_its_own_for_people_previews_and_search_engines()
    {
        var (marit, calendar, e) = await CalendarAsync("Pages </script>");
        await marit.PostAsync("/api/publications", Body(calendar, "date-pages", look: new { newsDays = 7 }));
        var path = $"/p/date-pages/e/{e.Text("id")}-20261203T1800";
        var html = await TextAsync(path);
        Assert.Contains("<meta property=\"og:title\" content=\"Keel &amp; mast\"", html);
        Assert.Contains("Thursday 3 December 2026, 18:00–20:00 · Slip 1 · Bring a rope", WebUtility.HtmlDecode(html));
        var data = JsonNode.Parse(WebUtility.HtmlDecode(html).Split("application/ld+json\">")[1].Split("</script>")[0])!;
        Assert.Equal(("Event", "2026-12-03T18:00:00-04:00", "https://schema.org/EventScheduled", "Slip 1"), (data.Text("@type"), data.Text("startDate"), data.Text("eventStatus"), data["location"]!.Text("name")));
        Assert.Null(data["image"]);
        var file = await GetAsync(path + ".ics");
        Assert.Contains("DTSTART;TZID=America/Halifax:20261203T180000", await file.Content.ReadAsStringAsync());
        Assert.DoesNotContain("RRULE:FREQ=WEEKLY", await file.Content.ReadAsStringAsync());
        // The list without scripts leads there, and says what is new.
        var page = await TextAsync("/p/date-pages");
        Assert.Contains($"/p/date-pages/e/{e.Text("id")}-20261126T1800", page);
        Assert.Matches("class=\"news\">\\s*new</em>", page);
        foreach (var none in new[] { "/e/nonsense", $"/e/{e.Text("id")}-20261204T1800", $"/e/{Guid.NewGuid()}-20261203T1800", "/e/" + new string('x', 300) })
            Assert.Equal(HttpStatusCode.NotFound, (await GetAsync("/p/date-pages" + none)).StatusCode);
        await marit.PostAsync($"/api/events/{e.Text("id")}/call-off", new { date = "2026-12-03T18:00:00", version = 1 });
        Assert.Contains("EventCancelled", await TextAsync(path));
    }

    [Fact]
    public async Task Times_only_have_no_page()
    {
        var (marit, calendar, e) = await CalendarAsync("Secret pages");
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "timesOnly", everyone = "timesOnly", version = 2 });
        await marit.PostAsync("/api/publications", Body(calendar, "secret-pages"));
        Assert.Equal(HttpStatusCode.NotFound, (await GetAsync($"/p/secret-pages/e/{e.Text("id")}-20261203T1800")).StatusCode);
        foreach (var form in new[] { "", "/embed", "/feed.ics", "/feed.json", "/atom.xml", "/dates.json", "/dates.csv", "/snapshot.ics", "/busy.ifb", "/events.json?from=2026-11-01&to=2026-12-01" })
        {
            var text = await TextAsync("/p/secret-pages" + form);
            Assert.DoesNotContain("Keel", text);
            Assert.DoesNotContain("a rope", text);
            Assert.DoesNotContain("Slip 1", text);
            Assert.DoesNotContain(e.Text("id"), text);
        }
    }

    [Fact]
    public async Task Members_get_links_of_their_own_that_end_with_them()
    {
        var (marit, calendar, _) = await CalendarAsync("For members");
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "nothing", everyone = "nothing", version = 2 });
        var made = await marit.PostAsync("/api/publications", Body(calendar, "members-only", audience: "members"));
        foreach (var form in new[] { "", "/embed", "/feed.ics", "/dates.json", "/qr.svg" })
        {
            var closed = await GetAsync("/p/members-only" + form);
            Assert.Equal(HttpStatusCode.Forbidden, closed.StatusCode);
            Assert.DoesNotContain("Keel", await closed.Content.ReadAsStringAsync());
        }
        Assert.Contains("https://valtro.example/members/members-only", await (await GetAsync("/p/members-only")).Content.ReadAsStringAsync());
        var samir = await server.SignedInAsync("samir.dole@lanternfell.example");
        Assert.Contains((await samir.GetJsonAsync("/api/publications/for-members")).AsArray(), p => p!.Text("key") == "members-only");
        var path = $"/api/publications/{made.Text("id")}/my-link";
        var own = await samir.PostAsync(path, new { });
        Assert.Equal(own.Text("feed"), (await samir.PostAsync(path, new { })).Text("feed"));
        Assert.NotEqual(own.Text("feed"), (await marit.PostAsync(path, new { })).Text("feed"));
        var feed = new Uri(own.Text("feed")).AbsolutePath;
        var answer = await GetAsync(feed);
        Assert.Contains("Keel", await answer.Content.ReadAsStringAsync());
        Assert.True(answer.Headers.CacheControl!.Private);
        Assert.Equal("noindex", answer.Headers.GetValues("X-Robots-Tag").Single());
        Assert.Contains(feed, await TextAsync(feed.Replace("/feed.ics", "")));
        // Nobody else can take the name of a link.
        await marit.PostAsJsonAsync("/api/publications", Body(calendar, feed.Split('/')[2])).ProblemAsync(409, "key_taken");

        var fresh = await samir.PostAsync(path, new { isNew = true });
        Assert.Equal(HttpStatusCode.NotFound, (await GetAsync(feed)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await GetAsync(new Uri(fresh.Text("feed")).AbsolutePath)).StatusCode);
        // No longer for members, no link of a member's leads there.
        await marit.PutAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, audience: "everyone", version: 1));
        Assert.Equal(HttpStatusCode.Gone, (await GetAsync(new Uri(fresh.Text("feed")).AbsolutePath)).StatusCode);
        await samir.PostAsJsonAsync(path, new { }).ProblemAsync(404, "no_such_publication");
    }

    [Fact]
    public async Task A_member_who_leaves_has_no_link_any_more()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var (marit, samir) = (await own.SignedInAsync(), await own.SignedInAsync("samir.dole@lanternfell.example"));
        var staff = (await samir.GetJsonAsync("/api/publications/for-members")).AsArray().Single(p => p!.Text("key") == "staff")!;
        var page = new Uri((await samir.PostAsync($"/api/publications/{staff.Text("id")}/my-link", new { })).Text("page")).AbsolutePath;
        // Twice: the second time it is ready.
        for (var i = 0; i < 2; i++)
            Assert.Equal(HttpStatusCode.OK, (await own.Visitor().GetAsync(page)).StatusCode);
        var person = (await marit.GetJsonAsync("/api/people"))["people"]!.AsArray().Single(p => p!.Text("name") == "Samir Dole")!;
        Assert.Equal(HttpStatusCode.NoContent, (await marit.DeleteAsync($"/api/people/{person.Text("id")}")).StatusCode);
        Assert.Equal(HttpStatusCode.Gone, (await own.Visitor().GetAsync(page)).StatusCode);
    }

    [Fact]
    public async Task A_picture_at_the_head_of_a_page_is_kept_with_it_and_seen_where_it_is()
    {
        var (marit, calendar, _) = await CalendarAsync("Pictured");
        using var bitmap = new SkiaSharp.SKBitmap(40, 16);
        using var png = bitmap.Encode(SkiaSharp.SKEncodedImageFormat.Png, 90);
        var picture = await (await marit.PostAsync("/api/pictures?x=0&y=0&width=1&height=1", new ByteArrayContent(png.ToArray()))).JsonAsync();
        var id = picture.Text("id");
        var made = await marit.PostAsync("/api/publications", Body(calendar, "with-picture", look: new { picture = new { id, alt = "Boats \"at\" rest" } }));
        var html = await TextAsync("/p/with-picture");
        Assert.Contains($"src=\"/p/with-picture/files/{id}/large\" alt=\"Boats &quot;at&quot; rest\"", html);
        Assert.Contains($"og:image\" content=\"https://valtro.example/p/with-picture/files/{id}/large\"", html);
        foreach (var size in new[] { "large", "small" })
            Assert.Equal("image/jpeg", (await GetAsync($"/p/with-picture/files/{id}/{size}")).Content.Headers.ContentType?.MediaType);
        Assert.Equal(HttpStatusCode.NotFound, (await GetAsync($"/p/lanternfell/files/{id}/large")).StatusCode);
        // It stays while the publication has it, and goes with it.
        var contents = (Store.Contents)server.Services.GetService(typeof(Store.Contents))!;
        await contents.RemoveLooseAsync(server.Clock.Now + Duration.FromDays(3));
        Assert.Equal(HttpStatusCode.OK, (await GetAsync($"/p/with-picture/files/{id}/small")).StatusCode);
        await marit.PutAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, look: new { }, version: 1));
        Assert.Equal(HttpStatusCode.NotFound, (await GetAsync($"/p/with-picture/files/{id}/small")).StatusCode);
        Assert.Equal(1, await contents.RemoveLooseAsync(server.Clock.Now + Duration.FromDays(3)));
        await marit.PostAsJsonAsync("/api/publications", Body(calendar, "no-picture", look: new { picture = new { id, alt = "" } })).ProblemAsync(422, "no_such_file");
    }

    [Fact]
    public async Task A_look_goes_out_in_the_page_and_its_policy()
    {
        var (marit, calendar, _) = await CalendarAsync("Looks");
        var look = new
        {
            views = new[] { "list", "cards" },
            sites = new[] { "www.school.example" },
            emptyText = "Come back soon",
            hours = "twelve",
            theme = new { preset = "own", ground = "#102030", ink = "#f0f0f0", accent = "#223344", corner = 9, css = "h1 { color: #ff0; display: none }" },
        };
        var made = await marit.PostAsync("/api/publications", Body(calendar, "own-look", look: look));
        var weak = Assert.Single(made["weak"]!.AsArray())!;
        Assert.Equal("accent", weak.Text("field"));
        Assert.Contains("display: none", made["removedCss"]![0]!.GetValue<string>());
        var embed = await GetAsync("/p/own-look/embed?view=cards&count=2");
        var html = await embed.Content.ReadAsStringAsync();
        Assert.Contains("frame-ancestors 'self' https://www.school.example", Policy(embed));
        var css = html.Split("<style>")[1].Split("</style>")[0];
        Assert.Contains("--paper:#102030", css);
        Assert.Contains(".outlet h1 { color: rgb(255, 255, 0) }", css);
        Assert.DoesNotContain("display", css);
        // The browser takes this style and no other.
        Assert.Contains($"'sha256-{Convert.ToBase64String(System.Security.Cryptography.SHA256.HashData(Encoding.UTF8.GetBytes(css)))}'", Policy(embed));
        Assert.Contains("class=\"by-night\"", html);
        Assert.Contains("6:00 pm", html);
        Assert.Contains("view-cards", html);
        Assert.DoesNotContain("unsafe", Policy(embed));
        Assert.EndsWith("frame-ancestors 'self'", Policy(await GetAsync("/p/own-look")));
        Assert.EndsWith("frame-ancestors *", Policy(await GetAsync("/p/lanternfell/embed")));
        await marit.PutAsJsonAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, look: new { theme = new { preset = "own", ink = "blue" } }, version: 1)).ProblemAsync(422, "colour_malformed");
        await marit.PutAsJsonAsync($"/api/publications/{made.Text("id")}", Body(calendar, null, look: new { sites = new[] { "a.example; script-src *" } }, version: 1)).ProblemAsync(422, "site_malformed");
    }

    [Theory]
    [InlineData("?view=nonsense")]
    [InlineData("?view=0")]
    [InlineData("?view=upcoming&count=-3")]
    [InlineData("?count=99999999999999999999")]
    [InlineData("?theme=neon&view=&count=")]
    [InlineData("?view=list&view=month")]
    [InlineData("?%00=%ff")]
    public async Task An_embed_whose_address_was_mistyped_still_shows_the_calendar(string query) =>
        Assert.Contains("outlet-embed", await TextAsync("/p/lanternfell/embed" + query));

    [Theory]
    [InlineData("*", 304)]
    [InlineData("W/{0}", 304)]
    [InlineData("\"a\", {0} , \"b\"", 304)]
    [InlineData("{0}x", 200)]
    [InlineData("nonsense", 200)]
    [InlineData("\"\"", 200)]
    [InlineData("W/", 200)]
    [InlineData(",,,", 200)]
    public async Task Tags_are_compared_by_the_book(string tag, int status)
    {
        var known = (await GetAsync("/p/lanternfell/feed.ics")).Headers.ETag!.Tag;
        for (var i = 0; i < 2; i++)
        {
            var answer = await GetAsync("/p/lanternfell/feed.ics", r => r.Headers.TryAddWithoutValidation("If-None-Match", string.Format(null, tag, known)));
            Assert.Equal(status, (int)answer.StatusCode);
            Assert.NotNull(answer.Headers.ETag);
            Assert.True((await answer.Content.ReadAsByteArrayAsync()).Length > 0 == (status == 200));
        }
    }

    [Fact]
    public async Task Parts_other_methods_and_odd_headers_are_answered_by_the_book()
    {
        var whole = await (await GetAsync("/p/lanternfell/feed.ics")).Content.ReadAsByteArrayAsync();
        // A server may send the whole of what a part was asked of (RFC 9110, 14.2).
        var part = await GetAsync("/p/lanternfell/feed.ics", r => r.Headers.TryAddWithoutValidation("Range", "bytes=0-99"));
        Assert.Equal((HttpStatusCode.OK, whole.Length), (part.StatusCode, (await part.Content.ReadAsByteArrayAsync()).Length));
        var odd = await GetAsync("/p/lanternfell/feed.ics", r =>
        {
            r.Headers.TryAddWithoutValidation("Accept-Encoding", "gzip;q=0, br;q=0.0, *;q=0.1, ,;;");
            r.Headers.TryAddWithoutValidation("If-Modified-Since", "yesterday");
        });
        Assert.Equal(HttpStatusCode.OK, odd.StatusCode);
        Assert.Empty(odd.Content.Headers.ContentEncoding);
        foreach (var method in new[] { HttpMethod.Post, HttpMethod.Put, HttpMethod.Delete })
            Assert.Equal(HttpStatusCode.MethodNotAllowed, (await server.Visitor().SendAsync(new HttpRequestMessage(method, "/p/lanternfell/feed.ics"))).StatusCode);
        foreach (var none in new[] { "/p/", "/p/no-such-key", "/p/" + new string('k', 500), "/p/lanternfell/nothing" })
            Assert.InRange((int)(await GetAsync(none)).StatusCode, 400, 404);
        foreach (var days in new[] { "from=2026-11-01", "from=x&to=y", "from=2026-11-02&to=2026-11-01", "from=2026-01-01&to=2027-01-01", "from=1200-01-01&to=1200-02-01" })
            Assert.InRange((int)(await GetAsync("/p/lanternfell/events.json?" + days)).StatusCode, 400, 422);
    }

    [Fact]
    public async Task A_site_can_ask_how_to_show_a_page_by_its_address()
    {
        var html = WebUtility.HtmlDecode(await TextAsync("/p/lanternfell"));
        var link = html.Split("application/json+oembed\"")[1].Split("href=\"")[1].Split('"')[0];
        var embed = JsonNode.Parse(await TextAsync(new Uri(link).PathAndQuery + "&maxwidth=400&maxheight=99999"))!;
        Assert.Equal(("rich", "1.0", 400, 2000), (embed.Text("type"), embed.Text("version"), embed.Number("width"), embed.Number("height")));
        Assert.Contains("src=\"https://valtro.example/p/lanternfell/embed\"", embed.Text("html"));
        foreach (var url in new[] { "https://elsewhere.example/p/lanternfell", "https://valtro.example/p/no-such", "nonsense", "" })
            Assert.Equal(HttpStatusCode.NotFound, (await GetAsync("/oembed?url=" + Uri.EscapeDataString(url))).StatusCode);
        Assert.Equal(HttpStatusCode.NotImplemented, (await GetAsync("/oembed?format=xml&url=https://valtro.example/p/lanternfell")).StatusCode);
    }

    [Fact]
    public async Task A_publication_whose_last_calendar_is_gone_shows_nothing_and_stays_the_administrators()
    {
        var (marit, calendar, e) = await CalendarAsync("Last one");
        await marit.PostAsync("/api/publications", Body(calendar, "last-calendar"));
        Assert.Contains("Keel", await TextAsync("/p/last-calendar"));
        await marit.DeleteAsync($"/api/calendars/{calendar.Text("id")}?version=2");
        foreach (var form in new[] { "", "/embed", "/feed.ics", "/dates.json", "/atom.xml", "/busy.ifb" })
            Assert.DoesNotContain("Keel", await TextAsync("/p/last-calendar" + form));
        var proof = await marit.GetJsonAsync($"/api/publications/{(await marit.GetJsonAsync("/api/publications")).AsArray().Single(p => p!.Text("key") == "last-calendar")!.Text("id")}/proof");
        Assert.Contains(proof["warnings"]!.AsArray(), w => w!.Text("doubt") == "emptyWindow");
        Assert.Contains(proof["warnings"]!.AsArray(), w => w!.Text("doubt") == "closedCalendar");
        Assert.NotNull(e);
    }

    [Fact]
    public async Task The_proof_reads_the_feed_back_and_tells_what_may_be_wrong()
    {
        var (marit, calendar, e) = await CalendarAsync("Proven", new { links = new[] { new { kind = "more", address = "https://closed.example/x", label = "" } } });
        await marit.PostAsync($"/api/events/{e.Text("id")}/call-off", new { date = "2026-12-03T18:00:00", version = 1 });
        await marit.PostAsync("/api/events", EventBody(calendar, "Night " + new string('x', 90), Timed("2026-11-27T03:00:00", "2026-11-27T04:00:00")));
        await marit.PostAsync("/api/events", EventBody(calendar, "Days", AllDay("2026-12-01", "2026-12-03"), Weekly("tuesday")));
        var links = (Store.LinkChecks)server.Services.GetService(typeof(Store.LinkChecks))!;
        var schoolId = Guid.Parse((await marit.GetJsonAsync("/api/session"))["school"]!.Text("id"));
        await links.SaveAsync(schoolId, [new Store.LinkCheck("https://closed.example/x", Store.LinkOutcome.SignIn, 302, server.Clock.Now)]);
        var made = await marit.PostAsync("/api/publications", Body(calendar, "proven-one", choices: new { titlePattern = "{title} ({calendar})" }));
        var path = $"/api/publications/{made.Text("id")}/proof";
        var proof = await marit.GetJsonAsync(path);
        var read = proof["readBack"]!;
        Assert.Empty(read["missing"]!.AsArray());
        Assert.Empty(read["extra"]!.AsArray());
        Assert.True(read.Number("dates") > 40, read.ToJsonString());
        Assert.Equal(["closedLink", "longTitle", "smallHours"], proof["warnings"]!.AsArray().Select(w => w!.Text("doubt")).Order());
        Assert.Equal("Keel & mast (Proven)", proof["next"]![0]!.Text("feed"));
        Assert.Equal("Thursday 26 November 2026, 18:00–20:00 · Keel & mast", proof["next"]![0]!.Text("page"));
        Assert.Empty(proof["sincePublished"]!["first"]!.AsArray());
        await marit.PutAsync($"/api/events/{e.Text("id")}", EventBody(calendar, "Keel and mast", Timed("2026-11-26T18:00:00", "2026-11-26T20:00:00"), Weekly("thursday"), version: 2));
        await marit.PostAsync("/api/events", EventBody(calendar, "More", AllDay("2026-12-09", "2026-12-09")));
        var since = (await marit.GetJsonAsync(path))["sincePublished"]!;
        Assert.Equal((1, 1, 0), (since.Number("added"), since.Number("changed"), since.Number("removed")));
        Assert.Contains(since["first"]!.AsArray(), d => d!.Text("title") == "More" && d!.Text("step") == "added");
    }

    [Fact]
    public async Task Readers_are_counted_and_not_known()
    {
        var (marit, calendar, _) = await CalendarAsync("Read");
        var made = await marit.PostAsync("/api/publications", Body(calendar, "read-by-many"));
        var path = $"/api/publications/{made.Text("id")}/readings";
        void As(HttpRequestMessage r, string agent) => r.Headers.TryAddWithoutValidation("User-Agent", agent);
        var tag = (await GetAsync("/p/read-by-many/feed.ics", r => As(r, Agent))).Headers.ETag!;
        for (var i = 0; i < 3; i++)
        {
            await GetAsync("/p/read-by-many/feed.ics", r =>
            {
                As(r, Agent);
                r.Headers.IfNoneMatch.Add(tag);
            });
        }
        await GetAsync("/p/read-by-many/feed.ics", r => As(r, "DeskDiary/8.0"));
        await GetAsync("/p/read-by-many", r => As(r, "Mozilla/5.0 (X11; Linux x86_64) Version/1"));
        await GetAsync("/p/read-by-many/events.json?from=2026-11-01&to=2026-12-01", r => As(r, "Mozilla/5.0 (X11; Linux x86_64) Version/1"));
        // Their keeper's own preview is none of them.
        await GetAsync("/p/read-by-many/embed", r =>
        {
            r.Headers.TryAddWithoutValidation("Sec-Fetch-Dest", "iframe");
            r.Headers.TryAddWithoutValidation("Sec-Fetch-Site", "same-origin");
        });
        var log = await marit.GetJsonAsync(path);
        var phone = log["today"]!.AsArray().Single(r => r!.Text("family") == "HarbourCal")!;
        Assert.Equal(("feed", "phoneProgram", 4, 3, 1, 1), (phone.Text("outlet"), phone.Text("kind"), phone.Number("fetches"), phone.Number("unchanged"), phone.Number("readers"), phone.Number("newest")));
        Assert.Equal((2, 2, 60), (log.Number("feedReaders"), log.Number("feedReadersNewest"), log.Number("refreshMinutes")));
        Assert.Equal(28, log["days"]!.AsArray().Count);
        Assert.Equal((6, 3), (log["days"]![27]!.Number("fetches"), log["days"]![27]!.Number("readers")));
        // After a change the newest is nobody's until they come again.
        await marit.PostAsync("/api/events", EventBody(calendar, "Later", AllDay("2026-12-09", "2026-12-09")));
        Assert.Equal(0, (await marit.GetJsonAsync(path)).Number("feedReadersNewest"));
        await GetAsync("/p/read-by-many/feed.ics", r => As(r, "DeskDiary/8.0"));
        Assert.Equal(1, (await marit.GetJsonAsync(path)).Number("feedReadersNewest"));
        // Neither an address nor a whole name of a program is kept, and a reader is another one tomorrow.
        await using var db = Npgsql.NpgsqlDataSource.Create(server.Database);
        await using var read = db.CreateCommand("select string_agg(encode(readers, 'escape') || family, ' ') from readings_of_day");
        var kept = (string)(await read.ExecuteScalarAsync())!;
        Assert.DoesNotContain(FromAddress.Address, kept);
        Assert.DoesNotContain("Linux", kept);
    }

    [Fact]
    public async Task What_was_kept_a_row_a_reader_is_moved_over_and_servers_that_write_at_once_lose_nothing()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var readings = own.Services.GetRequiredService<Store.Readings>();
        var schoolId = Guid.Parse((await marit.GetJsonAsync("/api/session"))["school"]!.Text("id"));
        await using var db = new Npgsql.NpgsqlConnection(own.Database);
        var publication = await db.QuerySingleAsync<Guid>("select id from publication where key = 'families'");
        var day = own.Clock.Now.InUtc().Date;
        await db.ExecuteAsync(
            """
            insert into reading (school_id, publication_id, day, reader, outlet, kind, family, fetches, unchanged, revision, at)
            select @schoolId, @publication, @day::date - d, sha256((n || '')::bytea), 2, 3, 'HarbourCal', 3, 2, 1 + n % 2, @now
            from generate_series(0, 2) d, generate_series(1, 400) n
            """,
            new { schoolId, publication, day = day.ToDateOnly(), now = own.Clock.Now.ToDateTimeUtc() });
        Assert.Equal(1200, await readings.MoveOldAsync());
        Assert.Equal(0, await readings.MoveOldAsync());
        Assert.Equal(0, await db.ExecuteScalarAsync<int>("select count(*) from reading"));
        var sums = await readings.SumsAsync(schoolId, publication, day.PlusDays(-10), 2);
        Assert.Equal(3, sums.Count);
        Assert.All(sums, s => Assert.Equal(("HarbourCal", 1200, 800), (s.Family, s.Fetches, s.Unchanged)));
        Assert.All(sums, s => Assert.InRange(s.Readers, 370, 430));
        Assert.All(sums, s => Assert.InRange(s.Newest, 180, 220));

        var key = new Store.ReadingKey(publication, day, 2, 3, "HarbourCal");
        await Task.WhenAll(Enumerable.Range(0, 20).Select(i => Task.Run(async () =>
        {
            var read = new Dictionary<Store.ReadingKey, Store.ReadingTally>();
            foreach (var k in new[] { key, key with { Family = "DeskDiary" } })
            {
                var tally = Store.Readings.TallyOf(read, k);
                (tally.Fetches, tally.At) = (5, own.Clock.Now);
                tally.Readers.Add(3, (ulong)i << 32);
            }
            await readings.AddAsync(schoolId, read);
        })));
        var now = await readings.SumsAsync(schoolId, publication, day, 3);
        Assert.Equal((100, 20, 20), now.Where(s => s.Family == "DeskDiary").Select(s => (s.Fetches, s.Readers, s.Newest)).Single());
        Assert.Equal(1300, now.Single(s => s.Family == "HarbourCal").Fetches);
    }

    [Fact]
    public async Task The_days_salt_is_thrown_away()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var readings = (Store.Readings)own.Services.GetService(typeof(Store.Readings))!;
        var schoolId = Guid.Parse((await marit.GetJsonAsync("/api/session"))["school"]!.Text("id"));
        var today = own.Clock.Now.InUtc().Date;
        var salt = await readings.SaltAsync(schoolId, today);
        Assert.Equal(salt, await readings.SaltAsync(schoolId, today));
        Assert.NotEqual(salt, await readings.SaltAsync(schoolId, today.PlusDays(1)));
        await readings.ForgetAsync(today.PlusDays(2));
        Assert.NotEqual(salt, await readings.SaltAsync(schoolId, today));
    }

    private static bool IsReady(Outlets.Shelf shelf, string address) => shelf.At(address) is { } kept && shelf.Judge(kept, out _) == Outlets.Verdict.Right;

    [Fact]
    public async Task The_first_who_comes_after_a_change_gets_what_is_new_also_when_somebody_was_told_before_that_nothing_was()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("First"));
        await marit.PublishAsync("first", calendar);
        await own.Visitor().GetStringAsync("/p/first/feed.ics");
        var shelf = own.Services.GetRequiredService<Outlets.Shelf>();
        for (var i = 0; i < 10; i++)
        {
            await Eventually.TrueAsync(() => Task.FromResult(IsReady(shelf, "/p/first/feed.ics")));
            // As when a change is told a second time, by the database.
            own.Services.GetRequiredService<Outlets.Standings>().Find("first")!.DoubtIt(Outlets.Doubt.Altered);
            await own.Visitor().GetStringAsync("/p/first/feed.ics");
            await marit.PostAsync("/api/events", EventBody(calendar, $"Tide {i}", AllDay("2026-12-01", "2026-12-01")));
            Assert.Contains($"Tide {i}", await own.Visitor().GetStringAsync("/p/first/feed.ics"), StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task A_stampede_renders_once_and_what_is_ready_asks_the_database_nothing()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync());
        var marit = await own.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Stampede"));
        await marit.PublishAsync("stampede", calendar);
        var renewal = own.Services.GetRequiredService<Outlets.Renewal>();
        async Task<HttpResponseMessage[]> AllAsync() => await Task.WhenAll(Enumerable.Range(0, 60).Select(_ => own.Visitor().GetAsync("/p/stampede/feed.ics")));
        await marit.PostAsync("/api/events", EventBody(calendar, "Change 0", AllDay("2026-12-01", "2026-12-01")));
        await AllAsync();
        for (var round = 1; round <= 3; round++)
        {
            await marit.PostAsync("/api/events", EventBody(calendar, "Change " + round, AllDay("2026-12-01", "2026-12-01")));
            var before = renewal.Made;
            var answers = await AllAsync();
            // Most are not kept waiting; what they get is what was out before, or what is now.
            var texts = await Task.WhenAll(answers.Select(a => a.Content.ReadAsStringAsync()));
            Assert.All(texts, text => Assert.Contains($"Change {round - 1}", text));
            // Who comes when it is ready finds it; the sixty may all have been quicker.
            await Eventually.TrueAsync(async () => (await own.Visitor().GetStringAsync("/p/stampede/feed.ics")).Contains($"Change {round}", StringComparison.Ordinal));
            answers = await AllAsync();
            Assert.Single(answers.Select(a => a.Headers.ETag!.Tag).Distinct());
            Assert.Contains("Change " + round, await answers[59].Content.ReadAsStringAsync());
            Assert.Equal(before + 1, renewal.Made);
        }
        // With the table of publications out of the way answers still come, as long as changes are heard of.
        var tag = (await own.Visitor().GetAsync("/p/stampede/feed.ics")).Headers.ETag!;
        async Task<bool> IsKnownAsync()
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/p/stampede/feed.ics");
            request.Headers.IfNoneMatch.Add(tag);
            return (await own.Visitor().SendAsync(request)).StatusCode == HttpStatusCode.NotModified;
        }
        await Eventually.TrueAsync(async () => await IsKnownAsync() && IsReady(own.Services.GetRequiredService<Outlets.Shelf>(), "/p/stampede/feed.ics"));
        await using var db = new Npgsql.NpgsqlConnection(own.Database);
        await db.ExecuteAsync("alter table publication rename to away");
        await Eventually.TrueAsync(async () =>
        {
            for (var i = 0; i < 20; i++)
            {
                if (!await IsKnownAsync())
                    return false;
            }
            return true;
        });
    }

    [Fact]
    public async Task A_change_through_one_server_is_out_on_the_other_within_a_second_also_after_a_cut()
    {
        var database = await fixture.Cluster.CreateDatabaseAsync();
        await using var one = new Server(database);
        await using var two = new Server(database);
        var marit = await one.SignedInAsync();
        var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Both"));
        await marit.PublishAsync("both-servers", calendar);
        async Task<string> OtherAsync() => await (await two.Visitor().GetAsync("/p/both-servers/feed.ics")).Content.ReadAsStringAsync();
        await OtherAsync();
        var other = two.Services.GetRequiredService<Outlets.Shelf>();
        for (var round = 0; round < 3; round++)
        {
            await Eventually.TrueAsync(async () => (await OtherAsync()).Length > 0 && IsReady(other, "/p/both-servers/feed.ics"));
            if (round == 1)
            {
                await using var db = Npgsql.NpgsqlDataSource.Create(database);
                await using var cut = db.CreateCommand("select count(pg_terminate_backend(pid)) from pg_stat_activity where query like 'listen valtro_changes%' and datname = current_database()");
                Assert.Equal(2L, await cut.ExecuteScalarAsync());
            }
            await marit.PostAsync("/api/events", EventBody(calendar, "Round " + round, AllDay("2026-12-01", "2026-12-01")));
            // How long it takes is told by the one thing that bounds it: nothing older than a second is believed.
            await Eventually.TrueAsync(async () => (await OtherAsync()).Contains("Round " + round, StringComparison.Ordinal));
        }
        // Byte for byte the same.
        var ours = await one.Visitor().GetAsync("/p/both-servers/feed.ics");
        Assert.Equal(await ours.Content.ReadAsStringAsync(), await OtherAsync());
    }

    [Fact]
    public async Task What_finds_no_room_is_rendered_anew_and_right()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync(), cacheMegabytes: 1);
        var marit = await own.SignedInAsync();
        var texts = new Dictionary<string, string>();
        for (var i = 0; i < 6; i++)
        {
            var calendar = await marit.OpenAsync(await marit.NewCalendarAsync("Large " + i));
            await marit.PostAsync("/api/events/many", new { events = Enumerable.Range(0, 100).Select(n => new { calendarId = calendar.Text("id"), title = $"Event {i} {n}", place = "", description = string.Concat(Enumerable.Range(0, 300).Select(k => $" {(i + 1) * (n + 7) * (k + 3) % 9973}")), timing = AllDay("2026-12-01", "2026-12-01") }) });
            await marit.PublishAsync($"large-{i}", calendar);
        }
        for (var round = 0; round < 3; round++)
        {
            for (var i = 0; i < 6; i++)
            {
                foreach (var form in new[] { "feed.ics", "feed.json", "dates.json", "dates.csv" })
                {
                    var text = await own.Visitor().GetStringAsync($"/p/large-{i}/{form}");
                    Assert.Equal(texts.GetValueOrDefault($"{i} {form}", text), text);
                    texts[$"{i} {form}"] = text;
                }
            }
        }
        Assert.True(texts.Values.Sum(t => t.Length) > 1_000_000);
        var renewal = own.Services.GetRequiredService<Outlets.Renewal>();
        Assert.True(renewal.Made > texts.Count, $"{renewal.Made}");
    }
}

/// <summary>Waits for what comes by itself.</summary>
internal static class Eventually
{
    public static Task TrueAsync(Func<bool> isSo) => TrueAsync(() => Task.FromResult(isSo()));

    public static async Task TrueAsync(Func<Task<bool>> isSo)
    {
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        while (!await isSo())
            await Task.Delay(20, patience.Token);
    }
}
