using System.Net.Sockets;
using Npgsql;

namespace Valtro.Server.Tests;

/// <summary>The line between a server and its database, which the tests cut and hold.</summary>
public sealed class Wire : IAsyncDisposable
{
    private readonly TcpListener listener;
    private readonly string host;
    private readonly int port;
    private readonly CancellationTokenSource end = new();
    private readonly Lock gate = new();
    private readonly List<TcpClient> open = [];
    private readonly Task listening;
    private volatile TaskCompletionSource flowing = new();
    private volatile bool isCut;

    /// <param name="database">The database it leads to.</param>
    public Wire(string database)
    {
        var settings = new NpgsqlConnectionStringBuilder(database);
        (host, port) = (settings.Host!, settings.Port);
        listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        settings.Port = ((IPEndPoint)listener.LocalEndpoint).Port;
        Database = settings.ConnectionString;
        flowing.SetResult();
        listening = ListenAsync();
    }

    /// <summary>The database through it.</summary>
    public string Database { get; }

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
            await Task.WhenAny(CarryAsync(client.GetStream(), server.GetStream()), CarryAsync(server.GetStream(), client.GetStream()));
        }
        catch (Exception error) when (error is IOException or SocketException or ObjectDisposedException or OperationCanceledException)
        {
        }
        client.Dispose();
    }

    private async Task CarryAsync(NetworkStream from, NetworkStream to)
    {
        var bytes = new byte[64 * 1024];
        try
        {
            while (await from.ReadAsync(bytes, end.Token) is var read and > 0)
            {
                await flowing.Task.WaitAsync(end.Token);
                await to.WriteAsync(bytes.AsMemory(0, read), end.Token);
            }
        }
        catch (Exception error) when (error is IOException or SocketException or ObjectDisposedException or OperationCanceledException)
        {
        }
    }
}
