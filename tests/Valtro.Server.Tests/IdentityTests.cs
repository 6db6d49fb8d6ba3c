using System.Security.Cryptography;
using Dapper;
using OtpNet;
using Valtro.Demo;

namespace Valtro.Server.Tests;

/// <summary>Who somebody is withstands those who would be them: guessing, links from before, sessions left open.</summary>
public sealed class IdentityTests(Cluster cluster)
{
    private const string Tomas = "tomas.reed@lanternfell.example";
    private const string Ines = "ines.harrow@lanternfell.example";
    private const string Guessed = "a guess of many";

    private async Task<Server> OwnAsync() => new(await cluster.CreateDatabaseAsync());

    private static HttpClient From(Server server, string address)
    {
        var client = server.Visitor();
        client.DefaultRequestHeaders.Add(FromAddress.From, address);
        return client;
    }

    private static Task<HttpResponseMessage> SignInAsync(HttpClient client, string email, string password = DemoSchool.Password, string? code = null) =>
        client.PostAsJsonAsync("/api/session", new { email, password, code });

    private static async Task<string> TokenAsync(Server server, string to)
    {
        await using var db = new Npgsql.NpgsqlConnection(server.Database);
        for (var i = 0; ; i++)
        {
            // What is sent already has no text any more.
            if (await db.ExecuteScalarAsync<string?>("select body from mail where recipient = @to and body <> '' order by id desc limit 1", new { to }) is { } body)
                return body[(body.IndexOf('#', StringComparison.Ordinal) + 1)..].Split('\n')[0].Trim();
            Assert.True(i < 200, "No mail came.");
            await Task.Delay(25, TestContext.Current.CancellationToken);
        }
    }

    [Fact]
    public async Task Of_a_burst_of_sixty_five_are_looked_at()
    {
        await using var server = await OwnAsync();
        var answers = await Task.WhenAll(Enumerable.Range(0, 60).Select(_ => SignInAsync(From(server, "10.7.0.1"), Tomas, Guessed)));
        Assert.Equal((5, 55), (answers.Count(a => a.StatusCode == HttpStatusCode.Unauthorized), answers.Count(a => a.StatusCode == HttpStatusCode.TooManyRequests)));
        // Nor do sixty addresses of one network, or sixty codes, get more.
        answers = await Task.WhenAll(Enumerable.Range(0, 60).Select(i => SignInAsync(From(server, $"2001:db8:1:2::{i + 1:x}"), Ines, Guessed)));
        Assert.Equal(5, answers.Count(a => a.StatusCode == HttpStatusCode.Unauthorized));
        var marit = await server.SignedInAsync();
        await TurnOnAsync(server, marit);
        answers = await Task.WhenAll(Enumerable.Range(0, 60).Select(_ => SignInAsync(From(server, "10.7.0.2"), Server.Marit, DemoSchool.Password, "abcdefghij")));
        Assert.Equal((5, 55), (answers.Count(a => a.StatusCode == HttpStatusCode.Unauthorized), answers.Count(a => a.StatusCode == HttpStatusCode.TooManyRequests)));
    }

    [Fact]
    public async Task One_pupil_who_guesses_locks_nobody_out()
    {
        await using var server = await OwnAsync();
        const string School = "10.7.1.1";
        var tomas = From(server, School);
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(tomas, Tomas)).StatusCode);
        var pupil = From(server, School);
        for (var round = 0; round < 12; round++)
        {
            await Task.WhenAll(new[] { Tomas, "nobody@lanternfell.example", "b@c.example", Server.Marit }.SelectMany(email => Enumerable.Range(0, 10).Select(_ => SignInAsync(pupil, email, Guessed))));
            server.Clock.Now += Duration.FromMinutes(1);
        }
        // Who has signed in from their device comes in from there, others of the school from a new one, and everybody from home.
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(tomas, Tomas)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(From(server, School), Ines)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(From(server, "10.99.0.1"), Tomas)).StatusCode);
        // A device is known to be its owner's alone.
        await Task.WhenAll(Enumerable.Range(0, 20).Select(_ => SignInAsync(pupil, Server.Marit, Guessed)));
        await SignInAsync(tomas, Server.Marit).ProblemAsync(429, "too_often");
    }

    [Fact]
    public async Task Others_who_guess_from_everywhere_keep_a_known_device_out_of_nothing()
    {
        await using var server = await OwnAsync();
        var tomas = From(server, "10.7.2.1");
        await SignInAsync(tomas, Tomas);
        for (var i = 0; i < 60; i++)
            await SignInAsync(From(server, $"10.8.{i}.1"), Tomas, Guessed);
        await SignInAsync(From(server, "10.9.0.1"), Tomas).ProblemAsync(429, "too_often");
        Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(tomas, Tomas)).StatusCode);
        // It has tries of its own, and no more than others.
        for (var i = 0; i < 5; i++)
            await SignInAsync(tomas, Tomas, Guessed).ProblemAsync(401, "sign_in_failed");
        await SignInAsync(tomas, Tomas).ProblemAsync(429, "too_often");
    }

    [Theory]
    [InlineData("address")]
    [InlineData("password")]
    [InlineData("factor on")]
    [InlineData("factor off")]
    [InlineData("reset")]
    public async Task What_guards_an_account_takes_back_all_that_was_given_out_before_it_changed(string change)
    {
        await using var server = await OwnAsync();
        var (here, there) = (await server.SignedInAsync(Tomas), await server.SignedInAsync(Tomas));
        var totp = change == "factor off" ? await TurnOnAsync(server, here) : null;
        if (totp is not null)
        {
            server.Clock.Now += Duration.FromSeconds(90);
            there = server.Visitor();
            await SignInAsync(there, Tomas, code: totp.ComputeTotp(server.Clock.Now.ToDateTimeUtc()));
            server.Clock.Now += Duration.FromSeconds(90);
        }
        await server.Visitor().PostAsJsonAsync("/api/forgotten", new { email = Tomas });
        var reset = await TokenAsync(server, Tomas);
        await here.PostAsJsonAsync("/api/me/email", new { email = "given.up@lanternfell.example", password = DemoSchool.Password });
        var address = await TokenAsync(server, "given.up@lanternfell.example");

        var answer = change switch
        {
            "address" => await here.PostAsJsonAsync("/api/new-address", new { token = address }),
            "password" => await here.PutAsJsonAsync("/api/me/password", new { current = DemoSchool.Password, password = "four very small words" }),
            "factor off" => await here.PostAsJsonAsync("/api/me/second-factor/off", new { password = DemoSchool.Password, code = totp!.ComputeTotp(server.Clock.Now.ToDateTimeUtc()) }),
            "reset" => await here.PostAsJsonAsync("/api/new-password", new { token = reset, password = "four very small words" }),
            _ => null,
        };
        if (answer is null)
            await TurnOnAsync(server, here);
        else
            Assert.True(answer.IsSuccessStatusCode, await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));

        await server.Visitor().PostAsJsonAsync("/api/new-password", new { token = reset, password = "another long one" }).ProblemAsync(404, "reset_expired");
        await server.Visitor().PostAsJsonAsync("/api/new-address", new { token = address }).ProblemAsync(404, "link_expired");
        await there.GetAsync("/api/session").ProblemAsync(401, "signed_out");
        // Where it was changed it goes on; who has lost the password is in nowhere.
        Assert.Equal(change == "reset" ? HttpStatusCode.Unauthorized : HttpStatusCode.OK, (await here.GetAsync("/api/session")).StatusCode);
    }

    [Fact]
    public async Task What_is_open_in_a_session_closes_when_it_ends()
    {
        await using var server = await OwnAsync();
        var (here, there) = (await server.SignedInAsync(Tomas), await server.SignedInAsync(Tomas));
        async Task<StreamReader> OpenAsync(HttpClient client)
        {
            var reader = new StreamReader(await client.GetStreamAsync("/api/changes", TestContext.Current.CancellationToken));
            while ((await reader.ReadLineAsync(TestContext.Current.CancellationToken))?.Contains("ready", StringComparison.Ordinal) != true)
            {
            }
            return reader;
        }
        using var open = await OpenAsync(there);
        using var own = await OpenAsync(here);
        await here.PostAsJsonAsync("/api/me/sign-out", new { });
        // How long it takes is not asserted: the limit ends what hangs.
        using var seconds = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        while (await open.ReadLineAsync(seconds.Token) is not null)
        {
        }
        // The one that stays is told as before.
        var marit = await server.SignedInAsync();
        await marit.OpenAsync(await marit.NewCalendarAsync("Heard"));
        while ((await own.ReadLineAsync(seconds.Token))!.Contains("changed", StringComparison.Ordinal) is false)
        {
        }
        await here.DeleteAsync("/api/session");
        while (await own.ReadLineAsync(seconds.Token) is not null)
        {
        }
    }

    [Theory]
    [InlineData("1234567890", "password_common")]
    [InlineData("passwordpassword", "password_common")]
    [InlineData("qwertyuiop", "password_common")]
    [InlineData("basketball", "password_common")]
    [InlineData("p@ssw0rd123", "password_common")]
    [InlineData(Tomas, "password_common")]
    [InlineData("Tomas Reed", "password_common")]
    [InlineData("Lanternfell", "password_common")]
    [InlineData("three", "password_short")]
    public async Task A_password_that_is_guessed_first_is_refused(string password, string code)
    {
        await using var server = await OwnAsync();
        var tomas = await server.SignedInAsync(Tomas);
        await tomas.PutAsJsonAsync("/api/me/password", new { current = DemoSchool.Password, password }).ProblemAsync(422, code);
        await server.SignedInAsync(Tomas);
    }

    [Fact]
    public async Task Secrets_of_second_factors_are_worth_nothing_without_the_key_and_old_ones_are_encrypted()
    {
        var database = await cluster.CreateDatabaseAsync();
        await using var db = new Npgsql.NpgsqlConnection(database);
        var old = RandomNumberGenerator.GetBytes(20);
        await using (var server = new Server(database))
        {
            var marit = await server.SignedInAsync();
            var totp = await TurnOnAsync(server, marit);
            var kept = (await db.ExecuteScalarAsync<byte[]>("select factor_secret from person where email = @Marit", new { Server.Marit }))!;
            Assert.True(kept.Length > 40);
            Assert.Equal(-1, kept.AsSpan().IndexOf(totp.Secret));
            // Put into another's row it fits nobody.
            await db.ExecuteAsync("update person set factor_secret = @kept, factor_since = now() where email = @Tomas", new { kept, Tomas });
            server.Clock.Now += Duration.FromSeconds(90);
            await SignInAsync(server.Visitor(), Tomas, code: totp.Totp.ComputeTotp(server.Clock.Now.ToDateTimeUtc())).ProblemAsync(422, "factor_unreadable");
            await db.ExecuteAsync("update person set factor_secret = @old, factor_since = now() where email = @Ines", new { old, Ines });
        }
        await using (var server = new Server(database))
        {
            Assert.Equal(HttpStatusCode.NoContent, (await SignInAsync(server.Visitor(), Ines, code: new Totp(old).ComputeTotp(server.Clock.Now.ToDateTimeUtc()))).StatusCode);
            Assert.NotEqual(20, await db.ExecuteScalarAsync<int>("select length(factor_secret) from person where email = @Ines", new { Ines }));
        }
        await using (var server = new Server(database) { Settings = { ["KEYS"] = Scratch.Folder("other-keys") } })
            await SignInAsync(server.Visitor(), Ines, code: "123456").ProblemAsync(422, "factor_unreadable");
    }

    private sealed record Factor(Totp Totp, byte[] Secret)
    {
        public string ComputeTotp(DateTime at) => Totp.ComputeTotp(at);
    }

    private static async Task<Factor> TurnOnAsync(Server server, HttpClient client)
    {
        var secret = Base32Encoding.ToBytes((await client.PostAsync("/api/me/second-factor", new { password = DemoSchool.Password })).Text("secret"));
        var totp = new Totp(secret);
        await client.PostAsync("/api/me/second-factor/confirm", new { password = DemoSchool.Password, code = totp.ComputeTotp(server.Clock.Now.ToDateTimeUtc()) });
        return new Factor(totp, secret);
    }
}
