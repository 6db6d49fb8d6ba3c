using System.Net;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using System.Text;
using System.Threading.Channels;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Jobs;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>
/// Notes who reads, beside the request's path: what is noted waits in memory, is added up, and written every few seconds.
/// An address never leaves memory; what is kept of it is a hash under a salt that is thrown away after the day.
/// </summary>
internal sealed class ReadingLog(Readings readings, IClock clock) : IJob, IDisposable
{
    private const int MaxAtOnce = 20_000;
    private const int MaxWaiting = 500_000;

    // Under a load that cannot be written down readers are served, and the log has a gap.
    private readonly Channel<Noted> waiting = Channel.CreateUnbounded<Noted>(new UnboundedChannelOptions { SingleReader = true });
    private int noted;
    private readonly Dictionary<(Guid School, LocalDate Day), byte[]> salts = [];
    private readonly SemaphoreSlim turn = new(1);
    private LocalDate? forgotten;
    private LocalDate today;
    private Instant dayFrom;
    private Instant dayTo;

    private readonly record struct Noted(PublicationState State, OutletKind Outlet, bool IsUnchanged, string? UserAgent, IPAddress? Address, Instant At);

    /// <summary>Notes an answer. Never waits.</summary>
    public void Note(HttpContext http, PublicationState state, OutletKind outlet, bool isUnchanged)
    {
        // Who asks whether there is anything new reads nothing; the studio's own preview is nobody's reading.
        if (HttpMethods.IsHead(http.Request.Method))
            return;
        if (outlet is OutletKind.Page or OutletKind.Embed && http.Request.Headers["Sec-Fetch-Dest"] == "iframe" && http.Request.Headers["Sec-Fetch-Site"] == "same-origin")
            return;
        if (Interlocked.Increment(ref noted) > MaxWaiting)
        {
            Interlocked.Decrement(ref noted);
            return;
        }
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

    public string Name => "readings";

    public TimeSpan Pause => TimeSpan.FromSeconds(2);

    public void Dispose() => turn.Dispose();

    private async Task WriteWaitingAsync()
    {
        // Added up first, by what they say of themselves: what is the same is hashed once.
        var heard = new Dictionary<(Guid Id, long Revision, OutletKind Outlet, LocalDate Day, string? Agent, IPAddress? Address), (PublicationState State, int Fetches, int Unchanged, Instant At)>();
        while (heard.Count < MaxAtOnce && waiting.Reader.TryRead(out var note))
        {
            Interlocked.Decrement(ref noted);
            var key = (note.State.Id, note.State.Revision, note.Outlet, DayOf(note.At), note.UserAgent, note.Address);
            ref var sum = ref CollectionsMarshal.GetValueRefOrAddDefault(heard, key, out _);
            sum = (note.State, sum.Fetches + 1, sum.Unchanged + (note.IsUnchanged ? 1 : 0), Instant.Max(sum.At, note.At));
        }
        var sums = new Dictionary<(Guid Publication, LocalDate Day, string Reader, OutletKind Outlet), Reading>();
        foreach (var ((_, _, outlet, day, agent, address), sum) in heard)
        {
            var state = sum.State;
            if (!salts.TryGetValue((state.SchoolId, day), out var salt))
            {
                foreach (var old in salts.Keys.Where(k => k.Day < day.PlusDays(-1)).ToList())
                    salts.Remove(old);
                salts[(state.SchoolId, day)] = salt = await readings.SaltAsync(state.SchoolId, day);
            }
            var reader = HMACSHA256.HashData(salt, Encoding.UTF8.GetBytes($"{state.Id:N} {address} {agent}"))[..12];
            var family = ReaderFamily.Of(agent);
            var reading = new Reading(state.SchoolId, state.Id, day, reader, (short)outlet, (short)family.Kind, family.Family, sum.Fetches, sum.Unchanged, state.Revision, sum.At);
            // One reader may have come before and after a change.
            var key = (state.Id, day, Convert.ToHexString(reader), outlet);
            sums[key] = sums.TryGetValue(key, out var other)
                ? other with { Fetches = other.Fetches + reading.Fetches, Unchanged = other.Unchanged + reading.Unchanged, Revision = Math.Max(other.Revision, reading.Revision), At = Instant.Max(other.At, reading.At) }
                : reading;
        }
        if (sums.Count > 0)
            await readings.AddAsync([.. sums.Values]);
    }

    // Most are of one day.
    private LocalDate DayOf(Instant at)
    {
        if (at < dayFrom || at >= dayTo)
        {
            today = at.InUtc().Date;
            dayFrom = today.AtStartOfDayInZone(DateTimeZone.Utc).ToInstant();
            dayTo = dayFrom + Duration.FromDays(1);
        }
        return today;
    }

    public async Task RunAsync(CancellationToken stopping)
    {
        await WriteAsync();
        var day = clock.GetCurrentInstant().InUtc().Date;
        if (forgotten == day)
            return;
        await readings.ForgetAsync(day);
        forgotten = day;
    }
}
