using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Where outlets are read: in five languages, on walls, on paper, in frames of sites, and by search engines.</summary>
public sealed class OutletPlacesTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    private async Task<JsonNode> PublishedAsync(string key, object? look = null)
    {
        var marit = await server.SignedInAsync();
        var boats = await marit.OpenAsync(await marit.NewCalendarAsync($"Boats of {key}"));
        await marit.PostAsync("/api/events", new { calendarId = boats.Text("id"), title = "Keel walk", place = "Slip 1", description = "", timing = Timed("2026-11-26T18:00:00", "2026-11-26T19:00:00"), rule = Weekly("thursday"), facts = new { } });
        var body = new Dictionary<string, object?>
        {
            ["key"] = key,
            ["title"] = "Boats",
            ["introduction"] = "",
            ["calendarIds"] = new[] { boats.Text("id") },
            ["firstView"] = "list",
            ["language"] = "en",
            ["look"] = look ?? new { },
        };
        return await marit.PostAsync("/api/publications", body);
    }

    [Theory]
    [InlineData("en", "ltr", "Whole calendar", "Thursday 26 November")]
    [InlineData("fr", "ltr", "Calendrier complet", "jeudi 26 novembre")]
    [InlineData("de", "ltr", "Ganzer Kalender", "Donnerstag, 26. November")]
    [InlineData("es", "ltr", "Calendario completo", "jueves, 26 de noviembre")]
    [InlineData("ar", "rtl", "التقويم الكامل", "الخميس، 26 نوفمبر")]
    public async Task A_visitor_reads_in_their_language_everywhere(string language, string direction, string whole, string day)
    {
        if ((await server.Visitor().GetAsync("/p/spoken")).StatusCode == HttpStatusCode.NotFound)
            await PublishedAsync("spoken");
        async Task<string> Read(string path) => WebUtility.HtmlDecode(await (await server.Visitor().GetAsync(path)).Content.ReadAsStringAsync());
        var root = $"<html lang=\"{language}\" dir=\"{direction}\"";
        var page = await Read($"/p/spoken?lang={language}&q=keel");
        Assert.Contains(root, page);
        Assert.Contains(day, page);
        // Every language is one step away, with what was chosen.
        Assert.Contains("href=\"?q=keel&lang=de\"", page);
        var embed = await Read($"/p/spoken/embed?view=upcoming&lang={language}");
        Assert.Contains(root, embed);
        Assert.Contains(whole, embed);
        var id = page.Split("/e/")[1].Split('?', '"')[0];
        var date = await Read($"/p/spoken/e/{id}?lang={language}");
        Assert.Contains(root, date);
        Assert.Contains($"href=\"/p/spoken{(language == "en" ? "" : $"?lang={language}")}\"", date);
        Assert.Contains(root, await Read($"/p/spoken/e/{Guid.NewGuid()}-20300101T0900?lang={language}"));
        Assert.Contains(root, await Read($"/p/spoken/term?lang={language}"));
        Assert.Contains(root, await Read($"/p/spoken/wall?lang={language}"));
    }

    [Fact]
    public async Task An_unknown_language_is_the_publications()
    {
        await PublishedAsync("unspoken");
        Assert.Equal(await server.Visitor().GetStringAsync("/p/unspoken"), await server.Visitor().GetStringAsync("/p/unspoken?lang=xx"));
        Assert.Equal(await server.Visitor().GetStringAsync("/p/unspoken"), await server.Visitor().GetStringAsync("/p/unspoken?lang=en"));
    }

    [Fact]
    public async Task A_term_is_a_row_a_week_and_a_wall_has_no_way_out_of_it()
    {
        await PublishedAsync("on-paper");
        var plan = await server.Visitor().GetStringAsync("/p/on-paper/term");
        Assert.True(plan.Split("<tr>").Length > 4);
        Assert.True(plan.Split(">Keel walk<").Length > 3);
        var wall = await server.Visitor().GetAsync("/p/on-paper/wall");
        var html = await wall.Content.ReadAsStringAsync();
        Assert.Contains("Keel walk", html);
        Assert.DoesNotContain("<a ", html);
        Assert.DoesNotContain("<button", html);
        // It asks again every minute, and gets a whole answer only when there is something else to show.
        var again = new HttpRequestMessage(HttpMethod.Get, "/p/on-paper/wall");
        again.Headers.IfNoneMatch.Add(wall.Headers.ETag!);
        Assert.Equal(HttpStatusCode.NotModified, (await server.Visitor().SendAsync(again)).StatusCode);
    }

    [Fact]
    public async Task A_frame_on_a_site_that_is_not_allowed_says_so_in_words()
    {
        await PublishedAsync("framed-here", new { sites = new[] { "https://www.school.example", "*.class.example" } });
        async Task<HttpResponseMessage> From(string? site, string path = "/p/framed-here/embed", string dest = "iframe")
        {
            var request = new HttpRequestMessage(HttpMethod.Get, path);
            request.Headers.Add("Sec-Fetch-Dest", dest);
            request.Headers.Add("Sec-Fetch-Site", "cross-site");
            if (site is not null)
                request.Headers.Referrer = new Uri(site);
            return await server.Visitor().SendAsync(request);
        }

        foreach (var allowed in new[] { "https://www.school.example/", "https://a.class.example/", "https://b.a.class.example/" })
            Assert.Equal(HttpStatusCode.OK, (await From(allowed)).StatusCode);
        foreach (var other in new[] { "https://school.example/", "http://www.school.example/", "https://class.example/", "https://www.school.example.evil.example/", "https://www.school.example:8443/" })
        {
            // Also when the answer lies ready.
            var refused = await From(other);
            Assert.Equal(HttpStatusCode.Forbidden, refused.StatusCode);
            var html = await refused.Content.ReadAsStringAsync();
            Assert.Contains("not shown on this site", html);
            Assert.DoesNotContain("Keel walk", html);
            Assert.Contains("frame-ancestors *", string.Join(';', refused.Headers.GetValues("Content-Security-Policy")));
        }
        // What a browser does not say is left to its policy; a page of its own is nobody's frame.
        Assert.Equal(HttpStatusCode.OK, (await From(null)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await From("https://other.example/", "/p/framed-here", "document")).StatusCode);
    }

    [Fact]
    public async Task One_date_is_framed_and_stands_in_the_feed()
    {
        await PublishedAsync("one-date");
        var feed = (await server.Visitor().GetStringAsync("/p/one-date/feed.ics")).Replace("\r\n ", "");
        // A series has one address: of whichever date is next.
        var url = feed.Split("\r\nURL:").Last().Split("\r\n")[0];
        var next = await server.Visitor().GetStringAsync(new Uri(url).AbsolutePath);
        Assert.Contains("Keel walk", next);
        var id = next.Split("/p/one-date/e/")[1].Split('"', '.', '?')[0];
        var framed = await server.Visitor().GetAsync($"/p/one-date/e/{id}/embed");
        var html = await framed.Content.ReadAsStringAsync();
        Assert.Contains("outlet-embed outlet-date", html);
        Assert.Contains("target=\"_blank\"", html);
        Assert.Contains("frame-ancestors *", string.Join(';', framed.Headers.GetValues("Content-Security-Policy")));
        Assert.Equal(HttpStatusCode.NotFound, (await server.Visitor().GetAsync("/p/one-date/e/nothing/embed")).StatusCode);
    }

    [Fact]
    public async Task Search_engines_find_what_is_for_everyone_and_nothing_else()
    {
        await PublishedAsync("listed-one");
        await PublishedAsync("kept-out");
        var marit = await server.SignedInAsync();
        var calendar = (await marit.GetJsonAsync("/api/board?from=2026-12-01&to=2026-12-02"))["calendars"]!.AsArray().Single(c => c!.Text("title") == "Boats of kept-out")!;
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "everything", everyone = "everything", isOutOfSearch = true, version = calendar["version"]!.GetValue<int>() });
        Assert.Contains("/sitemap.xml", await server.Visitor().GetStringAsync("/robots.txt"));
        var sitemap = System.Xml.Linq.XDocument.Parse(await server.Visitor().GetStringAsync("/sitemap.xml"));
        var pages = sitemap.Descendants().Where(e => e.Name.LocalName == "loc").Select(e => e.Value).ToList();
        Assert.Contains(Server.Address + "/p/listed-one", pages);
        Assert.DoesNotContain(Server.Address + "/p/kept-out", pages);
    }
}
