using System.Net.Sockets;
using Dapper;
using Valtro.Server.Jobs;
using Valtro.Server.People;

namespace Valtro.Server.Tests;

/// <summary>What runs beside the requests: nothing that fails or is silent ends it, or the server.</summary>
public sealed class JobTests(Cluster cluster)
{
    private static async Task UntilAsync(Func<Task<bool>> isSo, string what)
    {
        for (var i = 0; !await isSo(); i++)
        {
            Assert.True(i < 800, what);
            await Task.Delay(25, TestContext.Current.CancellationToken);
        }
    }

    private static Task<JsonNode> InviteAsync(HttpClient marit, string name) => marit.PostAsync("/api/invitations", new { email = name + "@lanternfell.example", role = "member" });

    private static async Task<JsonNode?> ProblemAsync(HttpClient marit, string name) =>
        (await marit.GetJsonAsync("/api/mails")).AsArray().SingleOrDefault(m => m!.Text("recipient") == name + "@lanternfell.example");

    [Fact]
    public async Task A_job_that_fails_is_named_and_tried_again_and_ends_neither_itself_nor_others()
    {
        var (failing, box) = (new FailingJob(), new Way());
        await using var server = new Server(await cluster.CreateDatabaseAsync(), mail: box, job: failing);
        var marit = await server.SignedInAsync();
        await UntilAsync(() => Task.FromResult(failing.Runs > 3), "It was not tried again.");
        Assert.Contains("The job failing failed, 1 times now; again in 00:00:02", server.Log.Text, StringComparison.Ordinal);
        Assert.Contains("The job failing failed, 2 times now; again in 00:00:04", server.Log.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("3 times now", server.Log.Text, StringComparison.Ordinal);
        await InviteAsync(marit, "after");
        await UntilAsync(() => Task.FromResult(box.Sent.Contains("after@lanternfell.example")), "Mail had ended.");
    }

    [Theory]
    [InlineData(1, 2)]
    [InlineData(2, 4)]
    [InlineData(5, 32)]
    [InlineData(40, 600)]
    public void The_pause_grows_up_to_ten_minutes(int failures, int seconds) => Assert.Equal(TimeSpan.FromSeconds(seconds), JobSupervisor.PauseAfter(failures));

    [Fact]
    public async Task What_fails_for_some_is_done_for_all_others_and_told_unless_there_is_no_database()
    {
        var done = new List<int>();
        Task WorkAsync(int at, int away)
        {
            if (at >= away)
                throw new TimeoutException();
            if (at % 2 == 0)
                throw new InvalidOperationException($"{at}");
            done.Add(at);
            return Task.CompletedTask;
        }
        var told = await Assert.ThrowsAsync<AggregateException>(() => Each.DoAsync(Enumerable.Range(0, 5), at => WorkAsync(at, away: 9)));
        Assert.Equal(["0", "2", "4"], told.InnerExceptions.Select(e => e.Message));
        Assert.Equal([1, 3], done);
        Assert.False(Api.DatabaseAwayException.Is(told));
        // Nobody waits for a database once for each.
        var asked = 0;
        var away = await Assert.ThrowsAsync<AggregateException>(() => Each.DoAsync(Enumerable.Range(0, 500), at =>
        {
            asked++;
            return WorkAsync(at, away: 0);
        }));
        Assert.True(asked < 10);
        Assert.True(Api.DatabaseAwayException.Is(away));
        // What it does not do in its time for one it may do for the next.
        await Assert.ThrowsAsync<AggregateException>(() => Each.DoAsync([9, 1, 9, 3, 9, 9, 5, 9, 7], at => WorkAsync(at, away: 8)));
        Assert.Equal([1, 3, 1, 3, 5, 7], done);
    }

    [Fact]
    public async Task A_silent_mail_server_holds_what_it_has_and_no_other_mail_and_says_so()
    {
        var box = new Way();
        await using var server = new Server(await cluster.CreateDatabaseAsync(), mail: box) { Settings = { ["MAIL_SECONDS"] = "2" } };
        var marit = await server.SignedInAsync();
        // Silence; a time-out of the client, which looks like the end of the server; a refusal.
        foreach (var name in new[] { "silent", "cancelled", "refused", "good" })
            await InviteAsync(marit, name);
        await UntilAsync(() => Task.FromResult(box.Sent.Contains("good@lanternfell.example")), "It was held.");
        await UntilAsync(async () => await ProblemAsync(marit, "silent") is not null, "Nobody was told of silence.");
        Assert.Contains("did not answer within 2 seconds", (await ProblemAsync(marit, "silent"))!.Text("problem"), StringComparison.Ordinal);
        await UntilAsync(async () => await ProblemAsync(marit, "cancelled") is not null, "Nobody was told.");
        await UntilAsync(async () => await ProblemAsync(marit, "refused") is not null, "Nobody was told of a refusal.");
        Assert.NotNull((await ProblemAsync(marit, "silent"))!["next"]);
        Assert.NotNull((await ProblemAsync(marit, "cancelled"))!["next"]);
        var refused = (await ProblemAsync(marit, "refused"))!;
        Assert.Equal((null, "550 nobody of this name"), (refused["next"], refused.Text("problem")));
        await InviteAsync(marit, "later");
        await UntilAsync(() => Task.FromResult(box.Sent.Contains("later@lanternfell.example")), "Mail had ended.");
        // Nothing was open in the database meanwhile.
        await using var db = new Npgsql.NpgsqlConnection(server.Database);
        Assert.Equal(0, await db.ExecuteScalarAsync<int>("select count(*)::int from pg_stat_activity where datname = current_database() and state like 'idle in transaction%'"));
        Assert.DoesNotContain("@lanternfell.example was", server.Log.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Through_a_mail_server_each_mail_keeps_its_identity_and_a_refusal_is_final()
    {
        await using var smtp = new SmtpServer();
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["SMTP"] = $"smtp://127.0.0.1:{smtp.Port}" } };
        var marit = await server.SignedInAsync();
        await InviteAsync(marit, "nobody");
        await UntilAsync(async () => await ProblemAsync(marit, "nobody") is { } told && told["next"] is null, "It was not given up.");
        Assert.Contains("550", (await ProblemAsync(marit, "nobody"))!.Text("problem"), StringComparison.Ordinal);
        await InviteAsync(marit, "busy");
        await UntilAsync(async () => await ProblemAsync(marit, "busy") is not null, "Nobody was told.");
        Assert.NotNull((await ProblemAsync(marit, "busy"))!["next"]);
        server.Clock.Now += Duration.FromMinutes(1);
        await UntilAsync(() => Task.FromResult(!smtp.Taken.IsEmpty), "It was not sent again.");
        var identities = smtp.Said.Where(s => s.StartsWith("Message-Id: ", StringComparison.OrdinalIgnoreCase)).ToList();
        Assert.Equal((2, 1), (identities.Count, identities.Distinct().Count()));
        await UntilAsync(async () => await ProblemAsync(marit, "busy") is null, "It was sent, and told as if not.");
    }

    private sealed class FailingJob : IJob
    {
        public int Runs { get; private set; }

        public string Name => "failing";

        public TimeSpan Pause => TimeSpan.FromMilliseconds(50);

        public Task RunAsync(CancellationToken stopping) => ++Runs <= 2 ? throw new InvalidOperationException("by and by") : Task.CompletedTask;
    }

    private sealed class Way : IMailWay
    {
        public System.Collections.Concurrent.ConcurrentBag<string> Sent { get; } = [];

        public Task SendAsync(Store.Mail mail, CancellationToken cancellation)
        {
            switch (mail.Recipient.Split('@')[0])
            {
                case "silent":
                    // Whoever waits for it does so for good.
                    return new TaskCompletionSource().Task;
                case "cancelled":
                    throw new TaskCanceledException("The request was canceled due to the configured HttpClient.Timeout.");
                case "refused":
                    throw new MailRefusedException("550 nobody of this name", new IOException());
                default:
                    Sent.Add(mail.Recipient);
                    return Task.CompletedTask;
            }
        }
    }

    /// <summary>As much of a mail server (RFC 5321) as is needed: it knows no “nobody”, and the first mail for “busy” it cannot keep.</summary>
    private sealed class SmtpServer : IAsyncDisposable
    {
        private readonly TcpListener listener = new(IPAddress.Loopback, 0);
        private readonly Task running;
        private int tries;

        public SmtpServer()
        {
            listener.Start();
            running = Task.Run(AcceptAsync);
        }

        public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

        public System.Collections.Concurrent.ConcurrentQueue<string> Said { get; } = [];

        public System.Collections.Concurrent.ConcurrentQueue<string> Taken { get; } = [];

        public async ValueTask DisposeAsync()
        {
            listener.Stop();
            await running;
        }

        private async Task AcceptAsync()
        {
            try
            {
                while (true)
                {
                    var client = await listener.AcceptTcpClientAsync();
                    _ = Task.Run(() => SpeakAsync(client));
                }
            }
            catch (SocketException)
            {
                // It is over.
            }
        }

        private async Task SpeakAsync(TcpClient client)
        {
            using var _ = client;
            using var reader = new StreamReader(client.GetStream());
            await using var writer = new StreamWriter(client.GetStream()) { AutoFlush = true, NewLine = "\r\n" };
            await writer.WriteLineAsync("220 here");
            var inText = false;
            while (await reader.ReadLineAsync() is { } line)
            {
                if (inText)
                {
                    Said.Enqueue(line);
                    if (line != ".")
                        continue;
                    inText = false;
                    var isKept = Interlocked.Increment(ref tries) > 1;
                    if (isKept)
                        Taken.Enqueue(line);
                    await writer.WriteLineAsync(isKept ? "250 kept" : "451 later");
                    continue;
                }
                inText = line.StartsWith("DATA", StringComparison.OrdinalIgnoreCase);
                await writer.WriteLineAsync(inText ? "354 go on" : line.StartsWith("QUIT", StringComparison.OrdinalIgnoreCase) ? "221 bye" : line.Contains("nobody@", StringComparison.Ordinal) ? "550 nobody of this name" : "250 well");
            }
        }
    }
}
