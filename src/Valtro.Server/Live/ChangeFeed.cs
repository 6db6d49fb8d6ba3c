using System.Collections.Concurrent;
using System.Threading.Channels;
using Npgsql;
using Valtro.Store;

namespace Valtro.Server.Live;

/// <summary>
/// Hears of every change of every server through PostgreSQL (LISTEN) and tells those who wait for changes of a school.
/// When the connection was cut nobody knows what was missed, so everybody is told.
/// </summary>
internal sealed class ChangeFeed(Connections db, ILogger<ChangeFeed> log) : BackgroundService
{
    private static readonly TimeSpan LongestPause = TimeSpan.FromSeconds(10);

    private readonly ConcurrentDictionary<Listener, Guid> listeners = [];

    /// <summary>Waits for changes of a school until it is disposed.</summary>
    public Listener Listen(Guid schoolId)
    {
        var listener = new Listener(this);
        listeners[listener] = schoolId;
        return listener;
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        var pause = TimeSpan.FromMilliseconds(200);
        var wasCut = false;
        while (!stopping.IsCancellationRequested)
        {
            try
            {
                await using var connection = await db.OpenToListenAsync(stopping);
                connection.Notification += (_, e) => Tell(e.Payload);
                await using (var listen = new NpgsqlCommand($"listen {Changes.Channel}", connection))
                    await listen.ExecuteNonQueryAsync(stopping);
                if (wasCut)
                    TellAll();
                (wasCut, pause) = (true, TimeSpan.FromMilliseconds(200));
                while (true)
                    await connection.WaitAsync(stopping);
            }
            catch (Exception error) when (error is NpgsqlException or IOException && !stopping.IsCancellationRequested)
            {
                log.LogWarning("The connection for changes was cut ({Message}); it is made again in {Pause}.", error.Message, pause);
                await Task.Delay(pause, stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
                pause = TimeSpan.FromTicks(Math.Min(pause.Ticks * 2, LongestPause.Ticks));
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }

    private void Tell(string payload)
    {
        if (!Changes.TryRead(payload, out var schoolId, out var personId))
            return;
        foreach (var (listener, school) in listeners)
        {
            if (school == schoolId)
                listener.Tell(personId);
        }
    }

    private void TellAll()
    {
        foreach (var listener in listeners.Keys)
            listener.Tell(Guid.Empty);
    }

    /// <summary>One who waits. What comes is the person who made a change, or nobody.</summary>
    public sealed class Listener(ChangeFeed feed) : IDisposable
    {
        // One who is slow has missed nothing: any change makes them look again.
        private readonly Channel<Guid> waiting = Channel.CreateBounded<Guid>(new BoundedChannelOptions(16) { FullMode = BoundedChannelFullMode.DropOldest });

        public ChannelReader<Guid> Reader => waiting.Reader;

        public void Dispose() => feed.listeners.TryRemove(this, out _);

        internal void Tell(Guid personId) => waiting.Writer.TryWrite(personId);
    }
}
