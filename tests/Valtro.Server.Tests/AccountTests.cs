extern alias cli;

using cli::Valtro.Cli;
using Microsoft.Extensions.DependencyInjection;
using OtpNet;
using Valtro.Demo;
using Valtro.Server.FirstRun;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What people keep of their own account, the second factor, the log, personal data, and the first run.</summary>
public sealed class AccountTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private const string Owen = "owen.tarbell@lanternfell.example";
    private const string Samir = "samir.dole@lanternfell.example";
    private const string Bea = "bea.lindqvist@lanternfell.example";

    private readonly Server server = fixture.Server;

    private static async Task<string> IdOfAsync(HttpClient client, string email) =>
        (await client.GetJsonAsync("/api/people"))["people"]!.AsArray().Single(p => p!.Text("email") == email)!.Text("id");

    private static Task<HttpResponseMessage> SignInAsync(Server at, string email, string password, string? code = null) =>
        at.Visitor().PostAsJsonAsync("/api/session", new { email, password, code });

    private static async Task<string> MailAsync(Server at, string to)
    {
        await using var connection = new Npgsql.NpgsqlConnection(at.Database);
        return (await Dapper.SqlMapper.QueryAsync<string>(connection, "select body from mail where recipient = @to order by id desc limit 1", new { to })).Single();
    }

    private static string SecretIn(string mail) => mail.Split('#')[1].Split('\n')[0];

    private async Task<Server> OwnServerAsync() => new(await fixture.Cluster.CreateDatabaseAsync()) { IsLoggingAll = true };

    [Fact]
    public async Task Settings_are_a_persons_own_and_the_board_is_read_on_their_clock()
    {
        var (marit, samir) = (await server.SignedInAsync(), await server.SignedInAsync(Samir));
        var calendar = await marit.NewCalendarAsync("On a clock");
        await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Late", place = "", description = "", timing = Timed("2045-03-03T22:30:00", "2045-03-03T23:30:00") });
        async Task<(string, string)> SeenAsync()
        {
            var board = await samir.GetJsonAsync("/api/board?from=2045-03-01&to=2045-03-08");
            return (board.Text("zone"), board["occurrences"]!.AsArray().Single(o => o!.Text("title") == "Late")!.Text("start"));
        }
        Assert.Equal(("America/Halifax", "2045-03-03T22:30:00"), await SeenAsync());
        Assert.Null((await samir.GetJsonAsync("/api/session"))["settings"]!["zone"]);

        var wanted = new { language = "fr", zone = "Europe/Berlin", weekStart = "sunday", hours = 12, dateOrder = "monthFirst", theme = "dark" };
        Assert.Equal(HttpStatusCode.NoContent, (await samir.PutAsJsonAsync("/api/me/settings", wanted)).StatusCode);
        Assert.Equal(("Europe/Berlin", "2045-03-04T03:30:00"), await SeenAsync());
        var settings = (await samir.GetJsonAsync("/api/session"))["settings"]!;
        Assert.Equal(("fr", "sunday", 12, "monthFirst", "dark"), (settings.Text("language"), settings.Text("weekStart"), settings.Number("hours"), settings.Text("dateOrder"), settings.Text("theme")));
        Assert.Equal("America/Halifax", (await marit.GetJsonAsync("/api/board?from=2045-03-01&to=2045-03-08")).Text("zone"));

        await samir.PutAsJsonAsync("/api/me/settings", new { language = "xx" }).ProblemAsync(422, "no_such_language");
        await samir.PutAsJsonAsync("/api/me/settings", new { zone = "Moon/Base" }).ProblemAsync(422, "zone_unknown");
        await samir.PutAsJsonAsync("/api/me/settings", new { weekStart = "tuesday" }).ProblemAsync(422, "week_start");
        await samir.PutAsJsonAsync("/api/me/settings", new { hours = 10 }).ProblemAsync(422, "hours");
        Assert.Equal("fr", (await samir.GetJsonAsync("/api/session"))["settings"]!.Text("language"));
        await samir.PutAsJsonAsync("/api/me/settings", new { });
        Assert.Equal("America/Halifax", (await SeenAsync()).Item1);
    }

    [Fact]
    public async Task A_new_password_needs_the_old_one_and_ends_all_other_sessions()
    {
        await using var own = await OwnServerAsync();
        var (here, there) = (await own.SignedInAsync(), await own.SignedInAsync());
        Assert.Equal(2, (await here.GetJsonAsync("/api/me/account")).Number("sessions"));
        await here.PutAsJsonAsync("/api/me/password", new { current = "guess", password = "four very small words" }).ProblemAsync(422, "password_wrong");
        await here.PutAsJsonAsync("/api/me/password", new { current = DemoSchool.Password, password = "short" }).ProblemAsync(422, "password_short");
        Assert.Equal(HttpStatusCode.NoContent, (await here.PutAsJsonAsync("/api/me/password", new { current = DemoSchool.Password, password = "four very small words" })).StatusCode);
        await here.GetJsonAsync("/api/session");
        await there.GetAsync("/api/session").ProblemAsync(401, "signed_out");
        await SignInAsync(own, Server.Marit, DemoSchool.Password).ProblemAsync(401, "sign_in_failed");
        await own.SignedInAsync(Server.Marit, "four very small words");
        Assert.Equal(HttpStatusCode.NoContent, (await here.PostAsJsonAsync("/api/me/sign-out", new { })).StatusCode);
        Assert.Equal(1, (await here.GetJsonAsync("/api/me/account")).Number("sessions"));

        // Guessing from a screen that was left open is slowed as at sign-in.
        for (var i = 0; i < 5; i++)
            await here.PutAsJsonAsync("/api/me/password", new { current = "guess " + i, password = "x" }).ProblemAsync(422, "password_wrong");
        var slowed = await here.PutAsJsonAsync("/api/me/password", new { current = "four very small words", password = "five very small words" });
        Assert.Equal((429, "2"), ((int)slowed.StatusCode, slowed.Headers.GetValues("Retry-After").Single()));
    }

    [Fact]
    public async Task An_address_changes_when_the_link_sent_there_is_opened_and_the_old_one_is_told()
    {
        await using var own = await OwnServerAsync();
        var marit = await own.SignedInAsync();
        await marit.PostAsJsonAsync("/api/me/email", new { email = "m.quill@lanternfell.example", password = "guess" }).ProblemAsync(422, "password_wrong");
        await marit.PostAsJsonAsync("/api/me/email", new { email = Owen, password = DemoSchool.Password }).ProblemAsync(422, "email_taken");
        await marit.PostAsJsonAsync("/api/me/email", new { email = "none", password = DemoSchool.Password }).ProblemAsync(422, "email_malformed");
        Assert.Equal(HttpStatusCode.NoContent, (await marit.PostAsJsonAsync("/api/me/email", new { email = "m.quill@lanternfell.example", password = DemoSchool.Password })).StatusCode);
        Assert.Contains("m.quill@lanternfell.example", await MailAsync(own, Server.Marit));
        var token = SecretIn(await MailAsync(own, "m.quill@lanternfell.example"));
        Assert.Equal(Server.Marit, (await marit.GetJsonAsync("/api/me/account")).Text("email"));

        await own.Visitor().PostAsJsonAsync("/api/new-address", new { token = "none" }).ProblemAsync(404, "link_expired");
        Assert.Equal(HttpStatusCode.NoContent, (await own.Visitor().PostAsJsonAsync("/api/new-address", new { token })).StatusCode);
        await own.Visitor().PostAsJsonAsync("/api/new-address", new { token }).ProblemAsync(404, "link_expired");
        // Whoever was signed in under the old one is not any more.
        await marit.GetAsync("/api/me/account").ProblemAsync(401, "signed_out");
        marit = await own.SignedInAsync("m.quill@lanternfell.example");
        Assert.Equal("m.quill@lanternfell.example", (await marit.GetJsonAsync("/api/me/account")).Text("email"));
        await SignInAsync(own, Server.Marit, DemoSchool.Password).ProblemAsync(401, "sign_in_failed");

        // A link lies a day; and of two who want the same address the second finds it taken.
        await marit.PostAsJsonAsync("/api/me/email", new { email = "late@lanternfell.example", password = DemoSchool.Password });
        var late = SecretIn(await MailAsync(own, "late@lanternfell.example"));
        own.Clock.Now += Duration.FromHours(25);
        await own.Visitor().PostAsJsonAsync("/api/new-address", new { token = late }).ProblemAsync(404, "link_expired");
        var owen = await own.SignedInAsync(Owen);
        foreach (var client in new[] { marit, owen })
            await client.PostAsJsonAsync("/api/me/email", new { email = "both@lanternfell.example", password = DemoSchool.Password });
        await using var connection = new Npgsql.NpgsqlConnection(own.Database);
        var tokens = (await Dapper.SqlMapper.QueryAsync<string>(connection, "select body from mail where recipient = 'both@lanternfell.example' order by id")).Select(SecretIn).ToList();
        Assert.Equal(HttpStatusCode.NoContent, (await own.Visitor().PostAsJsonAsync("/api/new-address", new { token = tokens[0] })).StatusCode);
        await own.Visitor().PostAsJsonAsync("/api/new-address", new { token = tokens[1] }).ProblemAsync(409, "key_taken");
    }

    [Fact]
    public async Task With_a_second_factor_a_password_alone_lets_nobody_in()
    {
        await using var own = await OwnServerAsync();
        var marit = await own.SignedInAsync();
        await marit.PostAsJsonAsync("/api/me/second-factor", new { password = "guess" }).ProblemAsync(422, "password_wrong");
        await marit.PostAsJsonAsync("/api/me/second-factor/confirm", new { password = DemoSchool.Password, code = "123456" }).ProblemAsync(422, "factor_on");
        var setup = await marit.PostAsync("/api/me/second-factor", new { password = DemoSchool.Password });
        Assert.StartsWith("otpauth://totp/", setup.Text("uri"));
        Assert.StartsWith("<svg", setup.Text("picture"));
        var totp = new Totp(Base32Encoding.ToBytes(setup.Text("secret")));
        string Code() => totp.ComputeTotp(own.Clock.Now.ToDateTimeUtc());
        string Wrong() => Code() == "000000" ? "000001" : "000000";

        // Nothing is asked for before a code has shown that it works.
        await own.SignedInAsync();
        await marit.PostAsJsonAsync("/api/me/second-factor/confirm", new { password = DemoSchool.Password, code = Wrong() }).ProblemAsync(422, "code_wrong");
        var codes = (await marit.PostAsync("/api/me/second-factor/confirm", new { password = DemoSchool.Password, code = Code() }))["codes"]!.AsArray().Select(c => c!.GetValue<string>()).ToList();
        Assert.Equal(10, codes.Distinct().Count());
        var account = await marit.GetJsonAsync("/api/me/account");
        Assert.Equal((true, 10), (account["hasSecondFactor"]!.GetValue<bool>(), account.Number("recoveryCodes")));

        await SignInAsync(own, Server.Marit, DemoSchool.Password).ProblemAsync(401, "code_needed");
        await SignInAsync(own, Server.Marit, "guess", Code()).ProblemAsync(401, "sign_in_failed");
        // The code that confirmed is spent (RFC 6238, 5.2).
        await SignInAsync(own, Server.Marit, DemoSchool.Password, Code()).ProblemAsync(401, "code_wrong");
        own.Clock.Now += Duration.FromSeconds(30);
        var code = Code();
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(own, Server.Marit, DemoSchool.Password, code[..3] + " " + code[3..])).StatusCode);
        await SignInAsync(own, Server.Marit, DemoSchool.Password, code).ProblemAsync(401, "code_wrong");
        // A clock that is a step behind is understood, one of minutes is not.
        own.Clock.Now += Duration.FromSeconds(90);
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(own, Server.Marit, DemoSchool.Password, totp.ComputeTotp((own.Clock.Now - Duration.FromSeconds(30)).ToDateTimeUtc()))).StatusCode);
        own.Clock.Now += Duration.FromMinutes(10);
        await SignInAsync(own, Server.Marit, DemoSchool.Password, totp.ComputeTotp((own.Clock.Now - Duration.FromMinutes(3)).ToDateTimeUtc())).ProblemAsync(401, "code_wrong");

        // Each recovery code works once, however it is typed.
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(own, Server.Marit, DemoSchool.Password, codes[0].ToUpperInvariant().Replace("-", " "))).StatusCode);
        await SignInAsync(own, Server.Marit, DemoSchool.Password, codes[0]).ProblemAsync(401, "code_wrong");
        Assert.Equal(9, (await marit.GetJsonAsync("/api/me/account")).Number("recoveryCodes"));
        await marit.PostAsJsonAsync("/api/me/second-factor/recovery-codes", new { password = DemoSchool.Password }).ProblemAsync(422, "code_wrong");
        own.Clock.Now += Duration.FromSeconds(90);
        var renewed = (await marit.PostAsync("/api/me/second-factor/recovery-codes", new { password = DemoSchool.Password, code = Code() }))["codes"]!.AsArray();
        Assert.Equal(10, renewed.Count);
        await SignInAsync(own, Server.Marit, DemoSchool.Password, codes[1]).ProblemAsync(401, "code_wrong");
        Assert.DoesNotContain(codes[1], own.Log.Text);

        await marit.PostAsJsonAsync("/api/me/second-factor/off", new { password = DemoSchool.Password }).ProblemAsync(422, "code_wrong");
        await marit.PostAsJsonAsync("/api/me/second-factor/off", new { password = DemoSchool.Password, code = Wrong() }).ProblemAsync(422, "code_wrong");
        own.Clock.Now += Duration.FromSeconds(90);
        Assert.Equal(HttpStatusCode.NoContent, (await marit.PostAsJsonAsync("/api/me/second-factor/off", new { password = DemoSchool.Password, code = Code() })).StatusCode);
        await own.SignedInAsync();
        await marit.PostAsJsonAsync("/api/me/second-factor/recovery-codes", new { password = DemoSchool.Password }).ProblemAsync(422, "factor_off");
    }

    [Fact]
    public async Task Codes_cannot_be_guessed_in_a_row_and_who_lost_the_device_is_let_in_by_others()
    {
        await using var own = await OwnServerAsync();
        var (marit, samir) = (await own.SignedInAsync(), await own.SignedInAsync(Samir));
        async Task TurnOnAsync()
        {
            var setup = await samir.PostAsync("/api/me/second-factor", new { password = DemoSchool.Password });
            own.Clock.Now += Duration.FromSeconds(30);
            var code = new Totp(Base32Encoding.ToBytes(setup.Text("secret"))).ComputeTotp(own.Clock.Now.ToDateTimeUtc());
            await samir.PostAsync("/api/me/second-factor/confirm", new { password = DemoSchool.Password, code });
        }
        await TurnOnAsync();
        for (var i = 0; i < 5; i++)
            await SignInAsync(own, Samir, DemoSchool.Password, "abcdefghij").ProblemAsync(401, "code_wrong");
        await SignInAsync(own, Samir, DemoSchool.Password, "abcdefghij").ProblemAsync(429, "too_often");
        own.Clock.Now += Duration.FromMinutes(20);

        var id = await IdOfAsync(marit, Samir);
        Assert.Equal(HttpStatusCode.NoContent, (await marit.DeleteAsync($"/api/people/{id}/second-factor")).StatusCode);
        samir = await own.SignedInAsync(Samir);
        await TurnOnAsync();
        using var told = new StringWriter();
        await AdminCommands.UnlockAsync(Samir, new Options(["--database", own.AppDatabase]), told);
        Assert.Contains("Samir Dole signs in with the password alone now.", told.ToString());
        await own.SignedInAsync(Samir);
        await AdminCommands.UnlockAsync(Samir, new Options(["--database", own.AppDatabase]), told);
        Assert.Contains("had no second factor", told.ToString());
    }

    [Fact]
    public async Task The_log_says_who_did_what_and_from_where_and_is_kept_a_year()
    {
        await using var own = await OwnServerAsync();
        var marit = await own.SignedInAsync();
        var calendar = await marit.NewCalendarAsync("Logged");
        await marit.OpenAsync(calendar);
        await SignInAsync(own, Samir, "guess");
        // What is refused, read or only computed is no change.
        await marit.PutAsJsonAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "nothing", linkHolders = "nothing", everyone = "nothing", version = 77 }).ProblemAsync(409, "stale_version");
        await marit.PostAsync("/api/rule", new { text = "FREQ=DAILY" });
        await marit.PatchAsJsonAsync("/api/me/board", new { });

        var log = await marit.GetJsonAsync("/api/audit");
        var entries = log["entries"]!.AsArray().Select(e => (e!["person"]?.GetValue<string>(), e.Text("action"), e["about"]?.GetValue<string>())).ToList();
        Assert.Equal(
            [("Samir Dole", "sign-in failed", null), ("Marit Quill", "put calendars reach", "Logged"), ("Marit Quill", "post calendars", null), ("Marit Quill", "sign-in", null)],
            entries.ToArray());
        Assert.False(log["hasMore"]!.GetValue<bool>());
        var last = log["entries"]![3]!.Text("id");
        Assert.Empty((await marit.GetJsonAsync($"/api/audit?before={last}"))["entries"]!.AsArray());
        Assert.Single((await marit.GetJsonAsync($"/api/audit?person={await IdOfAsync(marit, Samir)}"))["entries"]!.AsArray());
        Assert.Contains("Marit Quill,put calendars reach,Logged,", await marit.GetStringAsync("/api/audit.csv"));
        await (await own.SignedInAsync(Samir)).GetAsync("/api/audit").ProblemAsync(403, "not_allowed");

        var store = own.Services.GetRequiredService<Valtro.Store.AuditLog>();
        Assert.Equal(0, await store.RemoveOldAsync(own.Clock.Now + Duration.FromDays(364)));
        Assert.Equal(5, await store.RemoveOldAsync(own.Clock.Now + Duration.FromDays(366)));
    }

    [Fact]
    public async Task The_address_behind_a_proxy_is_believed_from_the_proxy_that_is_set_only()
    {
        async Task<string> LoggedAsync(string proxies)
        {
            await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync(), proxies: proxies);
            var client = own.Visitor();
            client.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.9");
            await client.PostAsJsonAsync("/api/session", new { email = Server.Marit, password = "guess" }).ProblemAsync(401, "sign_in_failed");
            return (await (await own.SignedInAsync()).GetJsonAsync("/api/audit"))["entries"]!.AsArray().Single(e => e!.Text("action") == "sign-in failed")!.Text("address");
        }
        Assert.Equal("203.0.113.9", await LoggedAsync(FromAddress.Address));
        Assert.Equal(FromAddress.Address, await LoggedAsync("10.1.1.2"));
        Assert.Equal(FromAddress.Address, await LoggedAsync(""));
    }

    [Fact]
    public async Task Who_asks_too_often_is_told_when_to_come_back_and_others_are_not_slowed()
    {
        await using var own = new Server(await fixture.Cluster.CreateDatabaseAsync(), requestsAMinute: 60);
        var (marit, samir) = (await own.SignedInAsync(), await own.SignedInAsync(Samir));
        HttpResponseMessage? refused = null;
        for (var i = 0; i < 200 && refused is null; i++)
        {
            var answer = await marit.GetAsync("/api/zones");
            refused = answer.StatusCode == HttpStatusCode.TooManyRequests ? answer : null;
        }
        Assert.NotNull(refused);
        Assert.InRange(int.Parse(refused.Headers.GetValues("Retry-After").Single()), 1, 60);
        await Task.FromResult(refused).ProblemAsync(429, "too_often");
        await samir.GetJsonAsync("/api/session");
        // A whole school reads the outlets from behind one address.
        for (var i = 0; i < 60; i++)
            Assert.Equal(HttpStatusCode.OK, (await marit.GetAsync("/p/lanternfell/feed.ics")).StatusCode);
        var visitor = own.Visitor();
        var statuses = new HashSet<HttpStatusCode>();
        for (var i = 0; i < 60; i++)
            statuses.Add((await visitor.GetAsync("/api/installation")).StatusCode);
        Assert.Contains(HttpStatusCode.TooManyRequests, statuses);
    }

    [Fact]
    public async Task Personal_data_is_given_out_and_erased_and_what_was_done_stays_without_a_name()
    {
        await using var own = await OwnServerAsync();
        var (marit, bea) = (await own.SignedInAsync(), await own.SignedInAsync(Bea));
        var calendar = await bea.NewCalendarAsync("Of Bea");
        var made = await bea.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Left behind", place = "", description = "", timing = AllDay("2045-03-03", "2045-03-03") });
        var id = await IdOfAsync(marit, Bea);

        var data = await marit.GetJsonAsync($"/api/people/{id}/data");
        Assert.Equal((Bea, "Bea Lindqvist"), (data["person"]!.Text("email"), data["person"]!.Text("name")));
        Assert.Contains(data["did"]!.AsArray(), d => d!["title"]?.GetValue<string>() == "Left behind");
        Assert.Contains(data["roles"]!.AsArray(), r => r!.Text("calendar") == "Of Bea" && r!.Text("role") == "keeper");
        Assert.Contains(data["log"]!.AsArray(), l => l!.Text("action") == "sign-in");
        Assert.Contains(data["proposals"]!.AsArray(), p => p!.Text("title") == "Knot clinic");
        Assert.DoesNotContain("hash", data.ToJsonString());
        Assert.Equal(id, (await bea.GetJsonAsync("/api/me/data"))["person"]!.Text("id"));
        await bea.GetAsync($"/api/people/{id}/data").ProblemAsync(403, "not_allowed");
        await marit.GetAsync($"/api/people/{Guid.NewGuid()}/data").ProblemAsync(404, "no_such_person");

        await marit.PostAsJsonAsync($"/api/people/{id}/erase", new { }).ProblemAsync(422, "still_member");
        await marit.DeleteAsync($"/api/people/{id}");
        Assert.Equal("Bea Lindqvist", (await marit.GetJsonAsync("/api/people"))["left"]!.AsArray().Single()!.Text("name"));
        Assert.Equal(HttpStatusCode.NoContent, (await marit.PostAsJsonAsync($"/api/people/{id}/erase", new { })).StatusCode);
        Assert.Empty((await marit.GetJsonAsync("/api/people"))["left"]!.AsArray());
        await marit.PostAsJsonAsync($"/api/people/{id}/erase", new { }).ProblemAsync(422, "no_such_person");

        // The event and its history are there; of the person nothing is, in no table.
        var history = (await marit.GetJsonAsync($"/api/events/{made.Text("id")}/history")).AsArray();
        Assert.Null(history.Single()!["person"]);
        await using var connection = new Npgsql.NpgsqlConnection(own.Database);
        foreach (var table in await Dapper.SqlMapper.QueryAsync<string>(connection, "select tablename from pg_tables where schemaname = 'public' and tablename <> 'schemaversions'"))
        {
            var left = await Dapper.SqlMapper.ExecuteScalarAsync<int>(connection, $"select count(*)::int from {table} t where t::text ilike '%lindqvist%'");
            Assert.Equal((table, 0), (table, left));
        }
    }

    [Fact]
    public async Task An_empty_installation_is_begun_with_the_code_its_server_printed_and_only_once()
    {
        await using var own = new Server(await fixture.Cluster.CreateEmptyDatabaseAsync(), demo: false);
        var visitor = own.Visitor();
        Assert.False((await visitor.GetJsonAsync("/api/installation"))["hasSchool"]!.GetValue<bool>());
        var printed = own.Services.GetRequiredService<FirstRunCode>().Make(Server.Address);
        Assert.Contains($"{Server.Address}/first-run", printed);
        var code = printed.Split(' ')[^1];
        object Begin(string typed, string password = "three small words", string zone = "Europe/Dublin") => new
        {
            code = typed,
            school = "Tidewater School",
            shortName = "Tidewater",
            zone,
            language = "en",
            name = "Ann Poole",
            email = "ann@tidewater.example",
            password,
        };
        await visitor.PostAsJsonAsync("/api/first-run", Begin("AAAA-BBBB-CCCC")).ProblemAsync(422, "first_run_code");
        await visitor.PostAsJsonAsync("/api/first-run", Begin(code, password: "short")).ProblemAsync(422, "password_short");
        await visitor.PostAsJsonAsync("/api/first-run", Begin(code, zone: "Moon/Base")).ProblemAsync(422, "zone_unknown");
        var both = await Task.WhenAll(own.Visitor().PostAsJsonAsync("/api/first-run", Begin(code)), visitor.PostAsJsonAsync("/api/first-run", Begin(code.ToLowerInvariant().Replace("-", ""))));
        Assert.Equal([204, 422], both.Select(b => (int)b.StatusCode).Order());
        var ann = await own.SignedInAsync("ann@tidewater.example", "three small words");
        var session = await ann.GetJsonAsync("/api/session");
        Assert.Equal(("Ann Poole", "administrator", "Tidewater School"), (session["person"]!.Text("name"), session["person"]!.Text("role"), session["school"]!.Text("name")));
        await visitor.PostAsJsonAsync("/api/first-run", Begin(code)).ProblemAsync(422, "first_run_code");
    }

    [Fact]
    public void A_first_run_code_cannot_be_guessed_for_long()
    {
        var code = new FirstRunCode();
        Assert.False(code.Fits(""));
        var printed = code.Make("x").Split(' ')[^1];
        for (var i = 0; i < 20; i++)
            Assert.False(code.Fits("AAAA-AAAA-" + i));
        Assert.False(code.Fits(printed));
        printed = code.Make("x").Split(' ')[^1];
        Assert.True(code.Fits(printed));
        code.End();
        Assert.False(code.Fits(printed));
    }

    [Fact]
    public async Task A_calendar_is_handed_over_at_once_or_not_at_all()
    {
        var (marit, samir) = (await server.SignedInAsync(), await server.SignedInAsync(Samir));
        var calendar = await samir.NewCalendarAsync("Handed over");
        var path = $"/api/calendars/{calendar.Text("id")}";
        await samir.PostAsJsonAsync(path + "/hand-over", new { personId = Guid.NewGuid() }).ProblemAsync(422, "no_such_person");
        var shares = (await samir.PostAsync(path + "/hand-over", new { personId = await IdOfAsync(marit, Bea) })).AsArray();
        Assert.Equal(["Bea Lindqvist keeper", "Samir Dole editor"], shares.Select(s => $"{s!.Text("name")} {s!.Text("role")}"));
        await samir.PostAsJsonAsync(path + "/hand-over", new { personId = await IdOfAsync(marit, Samir) }).ProblemAsync(403, "not_allowed");
    }

    [Fact]
    public async Task A_page_and_a_feed_are_looked_at_through_other_eyes_before_anything_is_out()
    {
        var (marit, samir) = (await server.SignedInAsync(), await server.SignedInAsync(Samir));
        var calendar = await marit.NewCalendarAsync("Looked through");
        await marit.PutAsync($"/api/calendars/{calendar.Text("id")}/reach", new { members = "everything", linkHolders = "headlines", everyone = "timesOnly", version = 1 });
        await marit.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Keel ceremony", place = "", description = "Bring oak", timing = AllDay("2026-12-01", "2026-12-01") });
        var path = $"/api/publications/{(await marit.PublishAsync("looked-through", calendar)).Text("id")}/look";
        async Task<(bool Title, bool Text)> SeenAsync(string what)
        {
            var text = (await marit.GetStringAsync($"{path}/{what}")).Replace("\r\n ", "");
            return (text.Contains("Keel ceremony", StringComparison.Ordinal), text.Contains("Bring oak", StringComparison.Ordinal));
        }
        foreach (var what in new[] { "page?look={0}", "feed.ics?look={0}", "events.json?look={0}&from=2026-11-30&to=2026-12-05" })
        {
            Assert.Equal((true, true), await SeenAsync(string.Format(what, "members")));
            Assert.Equal((true, false), await SeenAsync(string.Format(what, "linkHolders")));
            Assert.Equal((false, false), await SeenAsync(string.Format(what, "everyone")));
            Assert.Equal((true, true), await SeenAsync(string.Format(what, await IdOfAsync(marit, Samir))));
        }
        await marit.GetAsync(path + "/page?look=nobody").ProblemAsync(404, "no_such_person");
        await samir.GetAsync(path + "/page?look=members").ProblemAsync(404, "no_such_publication");
        // What goes out is what it was.
        Assert.DoesNotContain("Keel ceremony", await server.Visitor().GetStringAsync("/p/looked-through"));
    }

    [Fact]
    public async Task A_calendar_that_is_kept_out_of_search_engines_says_so_on_every_page_it_stands_on()
    {
        var marit = await server.SignedInAsync();
        var (hidden, other) = (await marit.NewCalendarAsync("Not to be found"), await marit.OpenAsync(await marit.NewCalendarAsync("To be found")));
        await marit.PutAsync($"/api/calendars/{hidden.Text("id")}/reach", new { members = "everything", linkHolders = "everything", everyone = "everything", version = 1, isOutOfSearch = true });
        await marit.PublishAsync("not-found-by-engines", hidden, other);
        await marit.PublishAsync("found-by-engines", other);
        async Task<string[]> RobotsAsync(string path) =>
            (await server.Visitor().GetAsync(path)).Headers.TryGetValues("X-Robots-Tag", out var told) ? [.. told] : [];
        foreach (var outlet in new[] { "", "/feed.ics", "/events.json?from=2026-11-30&to=2026-12-05", "/embed" })
            Assert.Equal(["noindex"], await RobotsAsync("/p/not-found-by-engines" + outlet));
        Assert.Empty(await RobotsAsync("/p/found-by-engines"));
        Assert.Equal(["noindex"], await RobotsAsync("/p/found-by-engines/embed"));
        // What is not said stays.
        var board = await marit.GetJsonAsync("/api/board?from=2045-03-01&to=2045-03-08");
        var now = board["calendars"]!.AsArray().Single(c => c!.Text("id") == hidden.Text("id"))!;
        var closed = await marit.PutAsync($"/api/calendars/{hidden.Text("id")}/reach", new { members = "everything", linkHolders = "nothing", everyone = "nothing", version = now.Number("version") });
        Assert.True(closed["isOutOfSearch"]!.GetValue<bool>());
    }
}
