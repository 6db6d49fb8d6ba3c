using System.Collections.Concurrent;
using System.Threading.Channels;
using NodaTime;
using Npgsql;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Live;

/// <summary>
/// Hears of every change of every server through PostgreSQL (LISTEN) and tells those who wait for changes of a school.
/// When the connection was cut nobody knows what was missed, so everybody is told. The connection is tried all the time:
/// what is kept of outlets is believed without asking only while it surely works.
/// </summary>
internal sealed class ChangeFeed(Connections db, DatabaseGate gate, IClock clock, ILogger<ChangeFeed> log) : BackgroundService
{
    private const int BeatMilliseconds = 250;
    private const int TrustMilliseconds = 900;
    private const int EchoMilliseconds = 2_000;
    private const int RecentMilliseconds = 30_000;

    private static readonly TimeSpan LongestPause = TimeSpan.FromSeconds(2);

    private long heardAt = long.MinValue / 2;

    private readonly ConcurrentDictionary<Listener, Guid> listeners = [];
    private readonly ConcurrentQueue<(long At, ChangeNotice Notice)> recent = [];
    private long hearingSince = long.MaxValue;

    /// <summary>Whether every change up to less than a second ago is known here.</summary>
    public bool IsHearing => Environment.TickCount64 - Volatile.Read(ref heardAt) < TrustMilliseconds;

    /// <summary>When every change was last surely known; the beginning of time before the first.</summary>
    public Instant LastHeard { get; private set; } = Instant.MinValue;

    /// <summary>Told of publications whose outlets are others, by whichever server.</summary>
    public event Action<PublicationsNotice>? Outgoing;

    /// <summary>Told when the connection was made anew: nobody knows what changed meanwhile.</summary>
    public event Action? Missed;

    /// <summary>Waits for changes of a school until it is disposed; those of a time before are told at once.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="before">How long ago whoever listens began to ask for what may have changed since.</param>
    public Listener Listen(Guid schoolId, TimeSpan before)
    {
        var listener = new Listener(this);
        listeners[listener] = schoolId;
        var (since, hearing) = (Environment.TickCount64 - (long)before.TotalMilliseconds, Volatile.Read(ref hearingSince));
        // Who comes before anything is heard is told as soon as it is.
        if (before.TotalMilliseconds > RecentMilliseconds || (hearing < long.MaxValue && since < hearing))
            listener.Tell(Anything(schoolId));
        foreach (var (_, notice) in recent.Where(r => r.At >= since && r.Notice.SchoolId == schoolId))
            listener.Tell(notice);
        return listener;
    }

    // Nobody knows what it was.
    private static ChangeNotice Anything(Guid schoolId) => new(schoolId, Guid.Empty, IsOfTeams: false, new HashSet<Guid>());

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        db.Changed += notice => Outgoing?.Invoke(notice);
        await gate.Opened.WaitAsync(stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        var pause = TimeSpan.FromMilliseconds(200);
        while (!stopping.IsCancellationRequested)
        {
            try
            {
                await using var connection = await db.OpenToListenAsync(stopping);
                var (word, echo) = (Guid.NewGuid().ToString(), new TaskCompletionSource());
                connection.Notification += (_, e) =>
                {
                    if (e.Payload == word)
                        echo.TrySetResult();
                    Tell(e.Payload);
                };
                await using var listen = new NpgsqlCommand($"listen {Changes.Channel}", connection) { CommandTimeout = 1 };
                await listen.ExecuteNonQueryAsync(stopping);
                // A pooler between may answer like one who listens, and give what is told to somebody else or to nobody.
                await db.TellAsync(word, stopping);
                for (var since = Environment.TickCount64; !echo.Task.IsCompleted;)
                {
                    var left = EchoMilliseconds - (int)(Environment.TickCount64 - since);
                    if (left <= 0 || !await connection.WaitAsync(left, stopping))
                        throw new InvalidOperationException("what is told does not come back: VALTRO_LISTEN_DATABASE has to lead to PostgreSQL itself");
                }
                db.NoteHeard();
                Volatile.Write(ref hearingSince, Environment.TickCount64);
                // What was read before may have changed unheard, also before the first time.
                Missed?.Invoke();
                TellAll();
                pause = TimeSpan.FromMilliseconds(200);
                while (true)
                {
                    // To listen again changes nothing, but its answer comes after everything that was told before it.
                    var (asked, at) = (Environment.TickCount64, clock.GetCurrentInstant());
                    await listen.ExecuteNonQueryAsync(stopping);
                    LastHeard = at;
                    Volatile.Write(ref heardAt, asked);
                    // Asked again in time also when it never is silent.
                    for (var left = BeatMilliseconds; left > 0 && await connection.WaitAsync(left, stopping); left = BeatMilliseconds - (int)(Environment.TickCount64 - asked))
                    {
                    }
                }
            }
            catch (Exception) when (stopping.IsCancellationRequested)
            {
                return;
            }
            // Whatever it was: nothing ends it, or the server with it.
            catch (Exception error)
            {
                Volatile.Write(ref heardAt, long.MinValue / 2);
                log.LogWarning("The connection for changes was cut ({Message}); it is made again in {Pause}.", error.Message, pause);
                await Task.Delay(pause, stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
                pause = TimeSpan.FromTicks(Math.Min(pause.Ticks * 2, LongestPause.Ticks));
            }
        }
    }

    private void Tell(string payload)
    {
        if (PublicationsNotice.Read(payload) is { } publications)
            Outgoing?.Invoke(publications);
        if (Changes.Read(payload) is not { } notice)
            return;
        var now = Environment.TickCount64;
        recent.Enqueue((now, notice));
        while (recent.TryPeek(out var oldest) && oldest.At < now - RecentMilliseconds)
            recent.TryDequeue(out _);
        foreach (var (listener, school) in listeners)
        {
            if (school == notice.SchoolId)
                listener.Tell(notice);
        }
    }

    private void TellAll()
    {
        foreach (var (listener, school) in listeners)
            listener.Tell(Anything(school));
    }

    /// <summary>One who waits for changes of their school.</summary>
    public sealed class Listener(ChangeFeed feed) : IDisposable
    {
        private readonly Channel<ChangeNotice> waiting = Channel.CreateBounded<ChangeNotice>(1024);
        private int missed;

        public ChannelReader<ChangeNotice> Reader => waiting.Reader;

        /// <summary>Whether more came since the last time than could wait: nobody knows what it was.</summary>
        public bool TakeMissed() => Interlocked.Exchange(ref missed, 0) != 0;

        public void Dispose() => feed.listeners.TryRemove(this, out _);

        internal void Tell(ChangeNotice notice)
        {
            if (!waiting.Writer.TryWrite(notice))
                Volatile.Write(ref missed, 1);
        }
    }
}
