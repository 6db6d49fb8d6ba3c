using System.Text.RegularExpressions;
using Dapper;
using Microsoft.Extensions.Configuration;

namespace Valtro.Server.Tests;

/// <summary>What an operator sees: health with its reason, metrics on a port of their own, settings that are checked.</summary>
public sealed class SeeingTests(Cluster cluster, ServerFixture fixture) : IClassFixture<ServerFixture>
{
    internal static string Root([System.Runtime.CompilerServices.CallerFilePath] string here = "") => Path.Combine(Path.GetDirectoryName(here)!, "../..");

    private static ServerSettings From(params (string Name, string Value)[] set) =>
        ServerSettings.From(new ConfigurationBuilder().AddInMemoryCollection(set.Select(s => KeyValuePair.Create(s.Name, (string?)s.Value))).Build());

    [Fact]
    public async Task Ready_says_why_it_is_not_and_live_is_apart_from_it()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var server = new Server(database);
        var visitor = server.Visitor();
        async Task UntilAsync(HttpStatusCode status)
        {
            for (var i = 0; (await visitor.GetAsync("/health/ready", TestContext.Current.CancellationToken)).StatusCode != status; i++)
            {
                Assert.True(i < 800, $"It was never {status}.");
                await Task.Delay(25, TestContext.Current.CancellationToken);
            }
        }
        await UntilAsync(HttpStatusCode.OK);
        var name = new Npgsql.NpgsqlConnectionStringBuilder(database).Database!;
        await using var elsewhere = new Npgsql.NpgsqlConnection(new Npgsql.NpgsqlConnectionStringBuilder(database) { Database = "postgres" }.ConnectionString);
        await elsewhere.ExecuteAsync($"alter database {name} with allow_connections false");
        await elsewhere.ExecuteAsync("select pg_terminate_backend(pid) from pg_stat_activity where datname = @name", new { name });
        await UntilAsync(HttpStatusCode.ServiceUnavailable);
        await visitor.GetAsync("/health/ready").ProblemAsync(503, "database_away");
        Assert.Equal("live", await visitor.GetStringAsync("/health/live", TestContext.Current.CancellationToken));
        await elsewhere.ExecuteAsync($"alter database {name} with allow_connections true");
        await UntilAsync(HttpStatusCode.OK);
    }

    [Theory]
    [InlineData("GET", "/api/nothing", 404, "no_such_address")]
    [InlineData("GET", "/api/nothing.txt", 404, "no_such_address")]
    [InlineData("GET", "/api", 404, "no_such_address")]
    [InlineData("GET", "/health", 404, "no_such_address")]
    [InlineData("GET", "/health/other.json", 404, "no_such_address")]
    [InlineData("GET", "/api/events/none", 404, "no_such_address")]
    [InlineData("PATCH", "/api/events", 404, "no_such_address")]
    public async Task What_is_at_no_address_is_told_as_a_problem(string method, string path, int status, string code)
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), path);
        await (await fixture.Server.SignedInAsync()).SendAsync(request).ProblemAsync(status, code);
    }

    [Fact]
    public async Task Metrics_stand_on_a_port_of_their_own_and_nowhere_else()
    {
        var (port, ownPort) = (Cluster.FreePort(), Cluster.FreePort());
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["METRICS_PORT"] = port.ToString(System.Globalization.CultureInfo.InvariantCulture), ["urls"] = $"http://127.0.0.1:{ownPort}" } };
        server.UseKestrel();
        server.StartServer();
        var own = new Uri($"http://127.0.0.1:{ownPort}");
        using var client = new HttpClient();
        for (var i = 0; i < 2; i++)
            Assert.Equal(HttpStatusCode.OK, (await client.GetAsync(new Uri(own, "/p/lanternfell/feed.ics"), TestContext.Current.CancellationToken)).StatusCode);
        var metrics = "";
        // Measured every while; jobs run within the first seconds.
        for (var i = 0; i < 100 && !Regex.IsMatch(metrics, "valtro_job_age_seconds.*job=\"mail\""); i++)
        {
            metrics = await client.GetStringAsync($"http://127.0.0.1:{port}/metrics", TestContext.Current.CancellationToken);
            await Task.Delay(100, TestContext.Current.CancellationToken);
        }
        foreach (var told in new[] { "valtro_outlet_answers_total", "valtro_outlet_cache_total", "valtro_outlet_render_duration_seconds_count", "valtro_changes_hearing", "valtro_job_age_seconds", "valtro_mail_waiting", "http_server_request_duration_seconds_count", "db_client", "dotnet_gc" })
            Assert.Contains(told, metrics, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"http://127.0.0.1:{port}/api/installation", TestContext.Current.CancellationToken)).StatusCode);
        Assert.DoesNotContain("valtro_outlet", await (await client.GetAsync(new Uri(own, "/metrics"), TestContext.Current.CancellationToken)).Content.ReadAsStringAsync(TestContext.Current.CancellationToken), StringComparison.Ordinal);
        // Whatever has a name in it names no secret and no person.
        Assert.DoesNotContain("lanternfell.example", metrics, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("CACHE_MB", "much", "VALTRO_CACHE_MB has to be a whole number.")]
    [InlineData("CACHE_MB", "0", "VALTRO_CACHE_MB")]
    [InlineData("REQUESTS_A_MINUTE", "1", "VALTRO_REQUESTS_A_MINUTE")]
    [InlineData("SMTP", "mail", "VALTRO_SMTP has to be an address.")]
    [InlineData("ADDRESS", "here", "VALTRO_ADDRESS")]
    [InlineData("PROXIES", "10.0.0.1, proxy", "VALTRO_PROXIES")]
    [InlineData("DEMO", "perhaps", "VALTRO_DEMO has to be true or false.")]
    [InlineData("LOG", "xml", "VALTRO_LOG")]
    [InlineData("CLOCK", "tomorrow", "VALTRO_CLOCK")]
    [InlineData("CLOCK", "2027-02-30T12:00:00Z", "VALTRO_CLOCK is no moment there is.")]
    public void A_setting_that_is_wrong_is_named(string name, string value, string told) =>
        Assert.Contains(told, Assert.Throws<SettingException>(() => From((name, value))).Message, StringComparison.Ordinal);

    [Fact]
    public void Settings_that_are_empty_are_as_if_not_there()
    {
        var settings = From(("CACHE_MB", " "), ("SMTP", ""), ("ADDRESS", "https://valtro.example/"), ("PROXIES", "10.0.0.1, ::1"));
        Assert.Equal((256, null, "https://valtro.example", 2), (settings.CacheMegabytes, settings.Smtp, settings.Address, settings.Proxies.Count));
    }

    [Fact]
    public void A_clock_that_is_set_goes_on_from_there()
    {
        var clock = From(("CLOCK", "2027-03-14T05:59:00Z")).MakeClock();
        Assert.InRange(clock.GetCurrentInstant(), NodaTime.Instant.FromUtc(2027, 3, 14, 5, 59), NodaTime.Instant.FromUtc(2027, 3, 14, 6, 30));
        Assert.Same(NodaTime.SystemClock.Instance, From().MakeClock());
    }

    [Fact]
    public async Task The_table_of_settings_in_the_documents_is_what_the_server_reads()
    {
        var path = Path.Combine(Root(), "docs/operations.md");
        var parts = (await File.ReadAllTextAsync(path, TestContext.Current.CancellationToken)).Split("<!-- settings: scripts/settings -->\n");
        Assert.Equal(3, parts.Length);
        // As scripts/settings asks for it.
        if (Environment.GetEnvironmentVariable("VALTRO_WRITE_SETTINGS") is { Length: > 0 })
            await File.WriteAllTextAsync(path, string.Join("<!-- settings: scripts/settings -->\n", parts[0], ServerSettings.Table(), parts[2]), TestContext.Current.CancellationToken);
        else
            Assert.Equal(ServerSettings.Table(), parts[1]);
    }
}
