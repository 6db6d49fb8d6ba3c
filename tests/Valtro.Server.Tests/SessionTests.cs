using Valtro.Demo;

namespace Valtro.Server.Tests;

public sealed class SessionTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private readonly Server server = fixture.Server;

    [Fact]
    public async Task Signed_in_one_is_known_and_signed_out_no_longer()
    {
        var client = await server.SignedInAsync();
        var session = await client.GetJsonAsync("/api/session");
        Assert.Equal("Marit Quill", session["person"]!.Text("name"));
        Assert.Equal("America/Halifax", session["school"]!.Text("zone"));

        Assert.Equal(HttpStatusCode.NoContent, (await client.DeleteAsync("/api/session")).StatusCode);
        await client.GetAsync("/api/session").ProblemAsync(401, "signed_out");
    }

    [Fact]
    public async Task A_stolen_cookie_is_worthless_after_signing_out_and_after_its_time()
    {
        var client = server.Visitor();
        var answer = await client.PostAsJsonAsync("/api/session", new { email = Server.Marit, password = DemoSchool.Password });
        var cookies = answer.Headers.GetValues("Set-Cookie").ToList();
        Assert.Equal(["valtro_session", "valtro_device"], cookies.Select(c => c.Split('=')[0]));
        var cookie = cookies[0];
        Assert.All(cookies, c =>
        {
            Assert.Contains("httponly", c);
            Assert.Contains("samesite=lax", c);
            Assert.Contains("secure", c);
        });

        async Task<HttpStatusCode> WithCookieAsync()
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/api/session");
            request.Headers.Add("Cookie", cookie.Split(';')[0]);
            return (await server.Visitor().SendAsync(request)).StatusCode;
        }

        Assert.Equal(HttpStatusCode.OK, await WithCookieAsync());
        server.Clock.Now += Duration.FromDays(14);
        Assert.Equal(HttpStatusCode.Unauthorized, await WithCookieAsync());
        server.Clock.Now -= Duration.FromDays(14);
        await client.DeleteAsync("/api/session");
        Assert.Equal(HttpStatusCode.Unauthorized, await WithCookieAsync());
    }

    [Theory]
    [InlineData("nobody@lanternfell.example", "lantern by night")]
    [InlineData(Server.Marit, "wrong")]
    [InlineData("", "")]
    public async Task Which_part_was_wrong_is_not_said(string email, string password)
    {
        var problem = await server.Visitor().PostAsJsonAsync("/api/session", new { email, password }).ProblemAsync(401, "sign_in_failed");
        Assert.Equal("E-mail and password do not fit together. Check both and try again.", problem.Text("detail"));
    }

    [Fact]
    public async Task Guessing_is_slowed_more_and_more_and_the_right_password_does_not_get_round_it()
    {
        const string Email = "owen.tarbell@lanternfell.example";
        var client = server.Visitor();
        Task<HttpResponseMessage> TryAsync(string password) => client.PostAsJsonAsync("/api/session", new { email = Email, password });

        for (var i = 0; i < 5; i++)
            await TryAsync("guess " + i).ProblemAsync(401, "sign_in_failed");
        var slowed = await TryAsync("guess");
        Assert.Equal("2", Assert.Single(slowed.Headers.GetValues("Retry-After")));
        await TryAsync(DemoSchool.Password).ProblemAsync(429, "too_often");

        server.Clock.Now += Duration.FromSeconds(2);
        await TryAsync("guess").ProblemAsync(401, "sign_in_failed");
        Assert.Equal("4", Assert.Single((await TryAsync("guess")).Headers.GetValues("Retry-After")));
        server.Clock.Now += Duration.FromSeconds(4);
        Assert.Equal(HttpStatusCode.NoContent, (await TryAsync(DemoSchool.Password)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await TryAsync(DemoSchool.Password)).StatusCode);
    }

    [Theory]
    [InlineData("Sec-Fetch-Site", "cross-site")]
    [InlineData("Sec-Fetch-Site", "same-site")]
    [InlineData("Origin", "https://elsewhere.example")]
    [InlineData("Origin", "null")]
    public async Task A_write_that_another_site_sends_is_refused(string header, string value)
    {
        var client = await server.SignedInAsync();
        client.DefaultRequestHeaders.Add(header, value);
        await client.PostAsJsonAsync("/api/calendars", Asking.CalendarBody("Planted")).ProblemAsync(403, "cross_site");
        Assert.DoesNotContain("Planted", (await client.GetJsonAsync("/api/board?from=2026-11-16&to=2026-11-30"))["calendars"]!.ToJsonString());
    }

    [Fact]
    public async Task A_write_from_our_own_pages_goes_through()
    {
        var client = await server.SignedInAsync();
        client.DefaultRequestHeaders.Add("Origin", Server.Address);
        client.DefaultRequestHeaders.Add("Sec-Fetch-Site", "same-origin");
        Assert.Equal("Ours", (await client.NewCalendarAsync("Ours")).Text("title"));
    }

    [Theory]
    [InlineData("GET", "/api/board?from=2026-11-16&to=2026-11-30")]
    [InlineData("GET", "/api/year?date=2026-11-16")]
    [InlineData("GET", "/api/publications")]
    [InlineData("GET", "/api/zones")]
    [InlineData("POST", "/api/calendars")]
    [InlineData("POST", "/api/events")]
    [InlineData("POST", "/api/line")]
    [InlineData("DELETE", "/api/events/01980000-0000-7000-8000-000000000001?version=1")]
    public async Task Nothing_of_the_workspace_answers_without_a_session(string method, string path)
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), path) { Content = method == "POST" ? JsonContent.Create(new { }) : null };
        await server.Visitor().SendAsync(request).ProblemAsync(401, "signed_out");
    }

    [Fact]
    public async Task Secrets_never_reach_the_log()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync()) { IsLoggingAll = true };
        var client = own.Visitor();
        var answer = await client.PostAsJsonAsync("/api/session", new { email = Server.Marit, password = DemoSchool.Password });
        var secrets = answer.Headers.GetValues("Set-Cookie").Select(c => c.Split('=', ';')[1]).ToList();
        await client.PostAsJsonAsync("/api/session", new { email = Server.Marit, password = "hunting for it" });
        await client.GetJsonAsync("/api/session");
        // The log is not silent, or this would prove nothing.
        Assert.Contains("/api/session", own.Log.Text);
        Assert.All(secrets, secret => Assert.DoesNotContain(secret, own.Log.Text));
        Assert.DoesNotContain(DemoSchool.Password, own.Log.Text);
        Assert.DoesNotContain("hunting for it", own.Log.Text);
    }

    [Fact]
    public async Task Every_answer_forbids_what_a_browser_need_not_do()
    {
        foreach (var path in new[] { "/api/session", "/p/lanternfell", "/p/lanternfell/embed", "/nowhere" })
        {
            var headers = (await server.Visitor().GetAsync(path)).Headers;
            Assert.Equal("nosniff", headers.GetValues("X-Content-Type-Options").Single());
            var policy = headers.GetValues("Content-Security-Policy").Single();
            Assert.StartsWith("default-src 'self'", policy);
            Assert.EndsWith(path.EndsWith("/embed") ? "frame-ancestors *" : path.StartsWith("/p/") ? "frame-ancestors 'self'" : "frame-ancestors 'none'", policy);
        }
    }

    [Fact]
    public async Task It_says_when_it_is_ready()
    {
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync("/health/ready")).StatusCode);
        using var head = new HttpRequestMessage(HttpMethod.Head, "/health/ready");
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().SendAsync(head)).StatusCode);
    }
}
