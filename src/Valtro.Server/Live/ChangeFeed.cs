using System.Collections.Concurrent;
using System.Threading.Channels;
using Npgsql;
using Valtro.Store;

namespace Valtro.Server.Live;

/// <summary>
/// Hears of every change of every server through PostgreSQL (LISTEN) and tells those who wait for changes of a school.
/// When the connection was cut nobody knows what was missed, so everybody is told. The connection is tried all the time:
/// what is kept by <see cref="SchoolMark"/> is believed only while it surely works.
/// </summary>
internal sealed class ChangeFeed(Connections db, ILogger<ChangeFeed> log) : BackgroundService
{
    private const int BeatMilliseconds = 250;
    private const int TrustMilliseconds = 900;

    private static readonly TimeSpan LongestPause = TimeSpan.FromSeconds(10);

    private readonly ConcurrentDictionary<Guid, SchoolMark> marks = [];
    private long count;
    private long allOldAt;
    private long heardAt = long.MinValue / 2;

    private readonly ConcurrentDictionary<Listener, Guid> listeners = [];

    /// <summary>Whether every change up to less than a second ago is known here.</summary>
    public bool IsHearing => Environment.TickCount64 - Volatile.Read(ref heardAt) < TrustMilliseconds;

    /// <summary>How many changes were heard of; taken before something is read that shall be kept.</summary>
    public long Count => Volatile.Read(ref count);

    /// <summary>
    /// The mark of a school's present state: it becomes old with the school's next change. Null when the school changed
    /// after <paramref name="before"/>, so that what was read since may be older.
    /// </summary>
    public SchoolMark? MarkOf(Guid schoolId, long before)
    {
        var mark = marks.GetOrAdd(schoolId, _ => new SchoolMark(Volatile.Read(ref allOldAt)));
        return mark.MadeAt > before || mark.IsOld ? null : mark;
    }

    /// <summary>Waits for changes of a school until it is disposed.</summary>
    public Listener Listen(Guid schoolId)
    {
        var listener = new Listener(this);
        listeners[listener] = schoolId;
        return listener;
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        db.Changed += MakeOld;
        var pause = TimeSpan.FromMilliseconds(200);
        var wasCut = false;
        while (!stopping.IsCancellationRequested)
        {
            try
            {
                await using var connection = await db.OpenToListenAsync(stopping);
                connection.Notification += (_, e) => Tell(e.Payload);
                await using var listen = new NpgsqlCommand($"listen {Changes.Channel}", connection) { CommandTimeout = 1 };
                await listen.ExecuteNonQueryAsync(stopping);
                // What was read before may have changed unheard, also before the first time.
                MakeAllOld();
                if (wasCut)
                    TellAll();
                (wasCut, pause) = (true, TimeSpan.FromMilliseconds(200));
                while (true)
                {
                    // To listen again changes nothing, but its answer comes after everything that was told before it.
                    var asked = Environment.TickCount64;
                    await listen.ExecuteNonQueryAsync(stopping);
                    Volatile.Write(ref heardAt, asked);
                    while (await connection.WaitAsync(BeatMilliseconds, stopping))
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
        if (Changes.Read(payload) is not { } notice)
            return;
        MakeOld(notice.SchoolId);
        foreach (var (listener, school) in listeners)
        {
            if (school == notice.SchoolId)
                listener.Tell(notice);
        }
    }

    private void MakeOld(Guid schoolId)
    {
        var next = new SchoolMark(Interlocked.Increment(ref count));
        SchoolMark? old = null;
        marks.AddOrUpdate(schoolId, next, (_, known) =>
        {
            old = known;
            return next;
        });
        old?.MakeOld();
    }

    private void MakeAllOld()
    {
        Volatile.Write(ref allOldAt, Interlocked.Increment(ref count));
        foreach (var schoolId in marks.Keys)
            MakeOld(schoolId);
    }

    private void TellAll()
    {
        foreach (var (listener, school) in listeners)
            listener.Tell(new ChangeNotice(school, Guid.Empty, IsOfTeams: false, new HashSet<Guid>()));
    }

    /// <summary>Stands for a school's state as it was heard of.</summary>
    public sealed class SchoolMark(long madeAt)
    {
        private volatile bool isOld;

        /// <summary>How many changes were heard of when it was made.</summary>
        public long MadeAt => madeAt;

        /// <summary>Whether the school has changed since.</summary>
        public bool IsOld => isOld;

        internal void MakeOld() => isOld = true;
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
