using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Threading.Channels;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>
/// Notes who reads, beside the request's path: what is noted waits in memory, is added up, and written every few seconds.
/// An address never leaves memory; what is kept of it is a hash under a salt that is thrown away after the day.
/// </summary>
internal sealed class ReadingLog(Readings readings, IClock clock, ILogger<ReadingLog> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);

    // Under a load that cannot be written down readers are served, and the log has a gap.
    private readonly Channel<Noted> waiting = Channel.CreateBounded<Noted>(new BoundedChannelOptions(200_000) { FullMode = BoundedChannelFullMode.DropWrite, SingleReader = true });
    private readonly Dictionary<(Guid School, LocalDate Day), byte[]> salts = [];
    private readonly SemaphoreSlim turn = new(1);

    private readonly record struct Noted(PublicationState State, OutletKind Outlet, bool IsUnchanged, string? UserAgent, IPAddress? Address, Instant At);

    /// <summary>Notes an answer. Never waits.</summary>
    public void Note(HttpContext http, PublicationState state, OutletKind outlet, bool isUnchanged)
    {
        var agents = http.Request.Headers.UserAgent;
        waiting.Writer.TryWrite(new Noted(state, outlet, isUnchanged, agents.Count > 0 ? agents[0] : null, http.Connection.RemoteIpAddress, clock.GetCurrentInstant()));
    }

    /// <summary>Writes down what was noted so far.</summary>
    public async Task WriteAsync()
    {
        await turn.WaitAsync();
        try
        {
            await WriteWaitingAsync();
        }
        finally
        {
            turn.Release();
        }
    }

    public override void Dispose()
    {
        turn.Dispose();
        base.Dispose();
    }

    private async Task WriteWaitingAsync()
    {
        var sums = new Dictionary<(Guid Publication, LocalDate Day, string Reader, OutletKind Outlet), Reading>();
        while (sums.Count < 20_000 && waiting.Reader.TryRead(out var note))
        {
            var day = note.At.InUtc().Date;
            if (!salts.TryGetValue((note.State.SchoolId, day), out var salt))
            {
                foreach (var old in salts.Keys.Where(k => k.Day < day.PlusDays(-1)).ToList())
                    salts.Remove(old);
                salts[(note.State.SchoolId, day)] = salt = await readings.SaltAsync(note.State.SchoolId, day);
            }
            var reader = HMACSHA256.HashData(salt, Encoding.UTF8.GetBytes($"{note.State.Id:N} {note.Address} {note.UserAgent}"))[..12];
            var key = (note.State.Id, day, Convert.ToHexString(reader), note.Outlet);
            if (!sums.TryGetValue(key, out var sum))
            {
                var family = ReaderFamily.Of(note.UserAgent);
                sum = new Reading(note.State.SchoolId, note.State.Id, day, reader, (short)note.Outlet, (short)family.Kind, family.Family, 0, 0, 0, note.At);
            }
            sums[key] = sum with
            {
                Fetches = sum.Fetches + 1,
                Unchanged = sum.Unchanged + (note.IsUnchanged ? 1 : 0),
                Revision = Math.Max(sum.Revision, note.State.Revision),
                At = Instant.Max(sum.At, note.At),
            };
        }
        if (sums.Count > 0)
            await readings.AddAsync([.. sums.Values]);
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        var forgotten = default(LocalDate?);
        while (!stopping.IsCancellationRequested)
        {
            await Task.Delay(Pause, stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            try
            {
                await WriteAsync();
                var today = clock.GetCurrentInstant().InUtc().Date;
                if (forgotten != today)
                {
                    await readings.ForgetAsync(today);
                    forgotten = today;
                }
            }
            catch (Exception error) when (error is Npgsql.NpgsqlException or TimeoutException or IOException)
            {
                log.LogWarning("What was read could not be written down ({Message}).", error.Message);
            }
        }
    }
}
