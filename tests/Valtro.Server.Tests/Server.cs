using Dapper;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Npgsql;
using Valtro.Demo;
using Valtro.Server.Jobs;
using Valtro.Server.People;

namespace Valtro.Server.Tests;

/// <summary>A clock the tests set.</summary>
public sealed class TestClock : IClock
{
    public Instant Now { get; set; } = Instant.FromUtc(2026, 11, 23, 15, 0);

    public Instant GetCurrentInstant() => Now;
}

/// <summary>Where every request of the tests comes from, unless it says; and senders who do not wait for their answer.</summary>
internal sealed class FromAddress : IStartupFilter
{
    public const string Address = "10.1.1.1";

    /// <summary>The header that names another address.</summary>
    public const string From = "Test-From";

    /// <summary>The header of a request whose sender is gone once it was read.</summary>
    public const string Gone = "Test-Gone";

    public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) => app =>
    {
        app.Use(async (http, rest) =>
        {
            http.Connection.RemoteIpAddress = IPAddress.Parse(http.Request.Headers[From] is [{ } from] ? from : Address);
            using var gone = new CancellationTokenSource();
            if (http.Request.Headers.ContainsKey(Gone))
            {
                http.RequestAborted = gone.Token;
                http.Request.Body = new ReadOnce(http.Request.Body, gone);
            }
            await rest();
        });
        next(app);
    };

    private sealed class ReadOnce(Stream inner, CancellationTokenSource gone) : MemoryStream
    {
        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            var read = await inner.ReadAsync(buffer, CancellationToken.None);
            if (read == 0)
                await gone.CancelAsync();
            return read;
        }
    }
}

/// <summary>What the server wrote to its log.</summary>
public sealed class TestLog : ILoggerProvider, ILogger
{
    private readonly System.Collections.Concurrent.ConcurrentQueue<string> lines = [];

    public string Text => string.Join('\n', lines);

    public ILogger CreateLogger(string categoryName) => this;

    public IDisposable? BeginScope<TState>(TState state)
        where TState : notnull => null;

    public bool IsEnabled(LogLevel logLevel) => true;

    public void Log<TState>(LogLevel logLevel, EventId eventId, TState state, Exception? exception, Func<TState, Exception?, string> formatter) =>
        lines.Enqueue(formatter(state, exception) + exception);

    public void Dispose()
    {
    }
}

/// <summary>The whole server over a database of the cluster, with the demo school in it.</summary>
public sealed class Server(string database, bool demo = true, string standIns = "", object? mail = null, object? job = null, int requestsAMinute = 1_000_000, string proxies = "", int cacheMegabytes = 64) : WebApplicationFactory<Program>
{
    public const string Address = "https://valtro.example";
    public const string AppRole = "valtro_app";
    public const string Marit = "marit.quill@lanternfell.example";

    public TestClock Clock { get; } = new();

    public TestLog Log { get; } = new();

    private static string Keys { get; } = Scratch.Folder("keys");

    /// <summary>The database as its owner.</summary>
    public string Database { get; } = database;

    /// <summary>Settings that differ.</summary>
    public Dictionary<string, string> Settings { get; } = [];

    /// <summary>Whether all that could be logged is written to <see cref="Log"/>, which costs more than most of what is tested; else what a person running it would read.</summary>
    public bool IsLoggingAll { get; init; }

    /// <summary>The database as the server works with it.</summary>
    public string AppDatabase => AppOf(Database);

    public static string AppOf(string database) => new Npgsql.NpgsqlConnectionStringBuilder(database) { Username = AppRole }.ConnectionString;

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        builder.UseSetting("DATABASE", AppDatabase);
        builder.UseSetting("OWNER_DATABASE", Database);
        // Two servers over one database read what the other wrote.
        builder.UseSetting("KEYS", Keys);
        builder.UseSetting("KEPT", "none");
        builder.UseSetting("RENDERS_A_MINUTE", "1000000");
        builder.UseSetting("ADDRESS", Address);
        builder.UseSetting("WEB", "/nowhere");
        builder.UseSetting("STAND_INS", standIns);
        builder.UseSetting("REQUESTS_A_MINUTE", requestsAMinute.ToString(System.Globalization.CultureInfo.InvariantCulture));
        builder.UseSetting("PROXIES", proxies);
        builder.UseSetting("CACHE_MB", cacheMegabytes.ToString(System.Globalization.CultureInfo.InvariantCulture));
        builder.UseSetting("DEMO", demo ? "true" : "false");
        foreach (var (name, value) in Settings)
            builder.UseSetting(name, value);
        builder.UseSetting("Logging:LogLevel:Microsoft.AspNetCore", IsLoggingAll ? "Trace" : "Warning");
        builder.ConfigureLogging(logging => logging.ClearProviders().SetMinimumLevel(IsLoggingAll ? LogLevel.Trace : LogLevel.Information).AddProvider(Log));
        builder.ConfigureServices(services =>
        {
            services.AddSingleton<IClock>(Clock);
            // Passwords are hashed slowly on purpose, which no test is about.
            services.Configure<PasswordHasherOptions>(options => options.IterationCount = 10);
            services.AddSingleton<IStartupFilter, FromAddress>();
            if (mail is IMailWay way)
                services.AddSingleton(way);
            if (job is IJob more)
                services.AddSingleton(more);
        });
    }

    /// <summary>The tests' own connections to its database go with it: kept for minutes each, those of two hundred databases were all the cluster has.</summary>
    public override async ValueTask DisposeAsync()
    {
        await base.DisposeAsync();
        await using var own = new Npgsql.NpgsqlConnection(Database);
        Npgsql.NpgsqlConnection.ClearPool(own);
        GC.SuppressFinalize(this);
    }

    /// <summary>Somebody who only looks: no cookie, no redirects.</summary>
    public HttpClient Visitor() => CreateClient(new WebApplicationFactoryClientOptions { BaseAddress = new Uri(Address), AllowAutoRedirect = false });

    /// <summary>Somebody of the school who has signed in.</summary>
    public async Task<HttpClient> SignedInAsync(string email = Marit, string password = DemoSchool.Password)
    {
        var client = Visitor();
        var answer = await client.PostAsJsonAsync("/api/session", new { email, password });
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
        return client;
    }

    /// <summary>An administrator of a second school on the same installation.</summary>
    public async Task<HttpClient> OfAnotherSchoolAsync()
    {
        var (school, person) = (Guid.CreateVersion7(), Guid.CreateVersion7());
        var (email, hash) = ($"{person}@second.example", new PasswordHasher<object>().HashPassword(null!, DemoSchool.Password));
        await using var connection = new NpgsqlConnection(Database);
        await connection.ExecuteAsync(
            """
            insert into school (id, name, short_name, zone, language, created_at) values (@school, 'Second', 'Second', 'Europe/Paris', 'fr', now());
            insert into person (id, school_id, name, email, password_hash, role, created_at) select @person, @school, 'Ida Vey', @email, @hash, role, now() from person where email = @Marit
            """,
            new { school, person, hash, email, Marit });
        return await SignedInAsync(email);
    }
}

/// <summary>A server for one test class.</summary>
public sealed class ServerFixture(Cluster cluster) : IAsyncLifetime
{
    public Server Server { get; private set; } = null!;

    public Cluster Cluster { get; } = cluster;

    public async ValueTask InitializeAsync() => Server = new Server(await Cluster.CreateDatabaseAsync());

    public ValueTask DisposeAsync() => Server.DisposeAsync();
}

/// <summary>Short ways to ask and to look at answers.</summary>
internal static class Asking
{
    public static async Task<JsonNode> GetJsonAsync(this HttpClient client, string path) =>
        await (await client.GetAsync(path)).JsonAsync();

    public static async Task<JsonNode> PostAsync(this HttpClient client, string path, object body) =>
        await (await client.PostAsJsonAsync(path, body)).JsonAsync();

    public static async Task<JsonNode> PutAsync(this HttpClient client, string path, object body) =>
        await (await client.PutAsJsonAsync(path, body)).JsonAsync();

    /// <summary>The body of an answer that has to be good.</summary>
    public static async Task<JsonNode> JsonAsync(this HttpResponseMessage answer)
    {
        var text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, $"{(int)answer.StatusCode}: {text}");
        return JsonNode.Parse(text)!;
    }

    /// <summary>The problem an answer has to be, with this status and code.</summary>
    public static async Task<JsonNode> ProblemAsync(this Task<HttpResponseMessage> asked, int status, string code)
    {
        var answer = await asked;
        var text = await answer.Content.ReadAsStringAsync();
        Assert.Equal((status, "application/problem+json"), ((int)answer.StatusCode, answer.Content.Headers.ContentType?.MediaType));
        var problem = JsonNode.Parse(text)!;
        Assert.Equal(code, problem.Text("code"));
        Assert.False(string.IsNullOrWhiteSpace(problem.Text("detail")));
        return problem;
    }

    public static string Text(this JsonNode node, string name) => node[name]!.GetValue<string>();

    public static int Number(this JsonNode node, string name) => node[name]!.GetValue<int>();

    public static object CalendarBody(string title, int? version = null, string zone = "America/Halifax", int mark = 4) =>
        new { title, description = "", group = "Groups", zone, mark, version };

    public static object Timed(string start, string end, string? zone = null) => new { kind = "zoned", start, end, zone };

    public static object AllDay(string first, string last) => new { kind = "allDay", start = first + "T00:00:00", end = last + "T00:00:00", zone = (string?)null };

    public static object Weekly(params string[] days) => new { frequency = "weekly", interval = 1, days, count = (int?)null, until = (string?)null };

    public static object EventBody(JsonNode calendar, string title, object timing, object? rule = null, int? version = null) =>
        new { calendarId = calendar.Text("id"), title, place = "Slip 1", description = "Bring a rope", timing, rule, version };

    public static async Task<JsonNode> NewCalendarAsync(this HttpClient client, string title) =>
        await client.PostAsync("/api/calendars", CalendarBody(title));

    public static async Task<JsonNode> OpenAsync(this HttpClient client, JsonNode calendar, string everyone = "everything") =>
        await client.PutAsync(
            $"/api/calendars/{calendar.Text("id")}/reach",
            new { members = "everything", linkHolders = everyone, everyone, version = calendar.Number("version") });

    public static async Task<JsonNode> PublishAsync(this HttpClient client, string key, params JsonNode[] calendars) =>
        await client.PostAsync(
            "/api/publications",
            new { key, title = "Boats and ropes", introduction = "All of it", calendarIds = calendars.Select(c => c.Text("id")), firstView = "month", language = "en" });
}
