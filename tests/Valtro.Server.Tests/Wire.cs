using System.Net.Sockets;
using Npgsql;

namespace Valtro.Server.Tests;

/// <summary>The line between a server and its database, which the tests cut and hold.</summary>
public sealed class Wire : IAsyncDisposable
{
    private readonly TcpListener listener;
    private readonly string host;
    private readonly int port;
    private readonly TimeSpan silence;
    private readonly CancellationTokenSource end = new();
    private readonly Lock gate = new();
    private readonly List<TcpClient> open = [];
    private readonly Task listening;
    private volatile TaskCompletionSource flowing = new();
    private volatile bool isCut;

    /// <param name="database">The database it leads to.</param>
    public Wire(string database)
        : this(new NpgsqlConnectionStringBuilder(database).Host!, new NpgsqlConnectionStringBuilder(database).Port) =>
        Database = new NpgsqlConnectionStringBuilder(database) { Port = Port }.ConnectionString;

    /// <param name="host">Where it leads.</param>
    /// <param name="port">And to which port there.</param>
    /// <param name="silence">For how long nothing may come from there before it is cut, as proxies do; null for any time.</param>
    public Wire(string host, int port, TimeSpan? silence = null)
    {
        (this.host, this.port, this.silence) = (host, port, silence ?? Timeout.InfiniteTimeSpan);
        listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        flowing.SetResult();
        listening = ListenAsync();
    }

    /// <summary>The database through it.</summary>
    public string Database { get; } = "";

    /// <summary>Where it begins, on loopback.</summary>
    public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

    /// <summary>Whoever is connected is cut off, and nobody is let in: as if the database had been stopped.</summary>
    public void Cut()
    {
        isCut = true;
        lock (gate)
        {
            foreach (var client in open)
                client.Dispose();
            open.Clear();
        }
    }

    /// <summary>Nothing comes through any more, and nobody is told: as if the network had gone.</summary>
    public void Hold() => flowing = new TaskCompletionSource();

    /// <summary>As it was.</summary>
    public void Mend()
    {
        isCut = false;
        flowing.TrySetResult();
    }

    public async ValueTask DisposeAsync()
    {
        await end.CancelAsync();
        listener.Stop();
        Mend();
        Cut();
        await listening.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        end.Dispose();
    }

    private async Task ListenAsync()
    {
        while (!end.IsCancellationRequested)
        {
            var client = await listener.AcceptTcpClientAsync(end.Token);
            if (isCut)
                client.Dispose();
            else
                _ = CarryAsync(client);
        }
    }

    private async Task CarryAsync(TcpClient client)
    {
        using var server = new TcpClient();
        try
        {
            await server.ConnectAsync(host, port, end.Token);
            lock (gate)
                open.AddRange([client, server]);
            await Task.WhenAny(CarryAsync(client.GetStream(), server.GetStream(), Timeout.InfiniteTimeSpan), CarryAsync(server.GetStream(), client.GetStream(), silence));
        }
        catch (Exception error) when (error is IOException or SocketException or ObjectDisposedException or OperationCanceledException)
        {
        }
        client.Dispose();
    }

    private async Task CarryAsync(NetworkStream from, NetworkStream to, TimeSpan patience)
    {
        var bytes = new byte[64 * 1024];
        try
        {
            while (await from.ReadAsync(bytes, end.Token).AsTask().WaitAsync(patience) is var read and > 0)
            {
                await flowing.Task.WaitAsync(end.Token);
                await to.WriteAsync(bytes.AsMemory(0, read), end.Token);
            }
        }
        catch (Exception error) when (error is IOException or SocketException or ObjectDisposedException or OperationCanceledException or TimeoutException)
        {
        }
    }
}
