using System.Diagnostics;

namespace Valtro.Server.Tests;

/// <summary>The server as a process of its own, as who runs it has it.</summary>
public sealed class StoppingTests(Cluster cluster)
{
    private const int Seconds = 4;

    private static Process Start(string database, int port)
    {
        var program = Path.Combine(SeeingTests.Root(), "src/Valtro.Server/bin", new DirectoryInfo(AppContext.BaseDirectory).Parent!.Name, "net10.0/Valtro.Server.dll");
        // What is started in the background of a shell ignores the keyboard, and so does all that it starts.
        var start = new ProcessStartInfo("env", ["--default-signal=INT,QUIT,TERM", "dotnet", program, "--urls", $"http://127.0.0.1:{port}"]) { WorkingDirectory = SeeingTests.Root() };
        foreach (var (name, value) in new[] { ("OWNER_DATABASE", database), ("DATABASE", Server.AppOf(database)), ("ADDRESS", Server.Address), ("DEMO", "true"), ("STOP_SECONDS", $"{Seconds}") })
            start.Environment[$"VALTRO_{name}"] = value;
        return Process.Start(start)!;
    }

    private static void Send(Process process, string signal) => Process.Start("kill", [$"-{signal}", $"{process.Id}"]).WaitForExit();

    private static async Task EndedAsync(Process process)
    {
        try
        {
            await process.WaitForExitAsync().WaitAsync(TimeSpan.FromSeconds(60));
        }
        finally
        {
            process.Kill();
        }
    }

    private static async Task ReadyAsync(HttpClient client) => await Eventually.TrueAsync(async () =>
    {
        try
        {
            return (await client.GetAsync("/health/ready")).IsSuccessStatusCode;
        }
        catch (HttpRequestException)
        {
            return false;
        }
    });

    [Fact]
    public async Task Told_to_end_it_is_first_no_longer_ready_and_serves_on_for_a_while()
    {
        var port = Cluster.FreePort();
        using var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };
        using var process = Start(await cluster.CreateDatabaseAsync(), port);
        await ReadyAsync(client);
        var told = Stopwatch.GetTimestamp();
        Send(process, "TERM");
        await Eventually.TrueAsync(async () => (await client.GetAsync("/health/ready")).StatusCode == HttpStatusCode.ServiceUnavailable);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/p/lanternfell/feed.ics")).StatusCode);
        await EndedAsync(process);
        Assert.True(Stopwatch.GetElapsedTime(told) >= TimeSpan.FromSeconds(Seconds));
        Assert.Equal(0, process.ExitCode);
    }

    [Theory]
    [InlineData("TERM", "TERM")]
    [InlineData("INT")]
    public async Task Told_twice_or_from_the_keyboard_it_ends_at_once(params string[] signals)
    {
        var port = Cluster.FreePort();
        using var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };
        using var process = Start(await cluster.CreateDatabaseAsync(), port);
        await ReadyAsync(client);
        foreach (var signal in signals)
            Send(process, signal);
        await EndedAsync(process);
        Assert.Equal(0, process.ExitCode);
    }
}
