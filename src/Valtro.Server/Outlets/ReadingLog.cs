using System.Buffers;
using System.Buffers.Binary;
using System.Collections.Concurrent;
using System.Net;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Api;
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
    private const int SheetSize = 1_000;
    private const int MaxSheets = 500;
    private const int MaxFamilies = 300;

    // Each processor has a sheet of its own to write on, so that none waits for what another is writing. Under a load that cannot be
    // written down readers are served, and the log has a gap.
    private readonly Sheet[] sheets = [.. Enumerable.Range(0, Environment.ProcessorCount).Select(_ => new Sheet())];
    private readonly ConcurrentQueue<Noted[]> full = [];
    // Added up, by what they say of themselves: what is the same is hashed once. What could not be written stays for the next time.
    private readonly Dictionary<Same, Sum> heard = [];
    private readonly Dictionary<(Guid School, LocalDate Day), byte[]> salts = [];
    private readonly SemaphoreSlim turn = new(1);
    private readonly Dictionary<(Guid PublicationId, LocalDate Day), HashSet<(short Outlet, short Kind, string Family)>> told = [];
    private LocalDate toldUntil = LocalDate.MinIsoValue;
    private LocalDate? forgotten;
    private bool isMoved;
    private LocalDate today;
    private Instant dayFrom;
    private Instant dayTo;

    private readonly record struct Noted(PublicationState State, OutletKind Outlet, bool IsUnchanged, string? UserAgent, IPAddress? Address, Instant At);

    private readonly record struct Same(Guid Id, long Revision, OutletKind Outlet, LocalDate Day, string? Agent, IPAddress? Address);

    private readonly record struct Sum(PublicationState State, int Fetches, int Unchanged, Instant At);

    private sealed class Sheet
    {
        public Noted[] Notes { get; set; } = [];

        public int Count { get; set; }
    }

    /// <summary>Notes an answer. Never waits.</summary>
    public void Note(HttpContext http, PublicationState state, OutletKind outlet, bool isUnchanged, Instant now)
    {
        // Who asks whether there is anything new reads nothing; the studio's own preview is nobody's reading.
        if (HttpMethods.IsHead(http.Request.Method))
            return;
        if (outlet is OutletKind.Page or OutletKind.Embed && http.Request.Headers["Sec-Fetch-Dest"] == "iframe" && http.Request.Headers["Sec-Fetch-Site"] == "same-origin")
            return;
        var agents = http.Request.Headers.UserAgent;
        var note = new Noted(state, outlet, isUnchanged, agents.Count > 0 ? agents[0] : null, http.Connection.RemoteIpAddress, now);
        var sheet = sheets[Thread.GetCurrentProcessorId() % sheets.Length];
        lock (sheet)
        {
            if (sheet.Count == sheet.Notes.Length && !TurnOver(sheet))
                return;
            sheet.Notes[sheet.Count++] = note;
        }
    }

    private bool TurnOver(Sheet sheet)
    {
        if (sheet.Count > 0)
        {
            if (full.Count >= MaxSheets)
                return false;
            full.Enqueue(sheet.Notes);
        }
        (sheet.Notes, sheet.Count) = (ArrayPool<Noted>.Shared.Rent(SheetSize), 0);
        return true;
    }

    /// <summary>Writes down what was noted so far.</summary>
    /// <exception cref="AggregateException">It cannot be, of some schools; it is tried again.</exception>
    public Task WriteAsync() => WriteOfAsync(null);

    /// <summary>The same of one school, as far as it can be now.</summary>
    public async Task CountAsync(Guid schoolId)
    {
        try
        {
            await WriteOfAsync(schoolId);
        }
        catch (AggregateException error) when (!DatabaseAwayException.Is(error))
        {
            // Told when it is tried again.
        }
    }

    public string Name => "readings";

    public TimeSpan Pause => TimeSpan.FromSeconds(2);

    public void Dispose() => turn.Dispose();

    private void AddUp()
    {
        while (heard.Count < MaxAtOnce && full.TryDequeue(out var notes))
            AddUp(notes, notes.Length);
        foreach (var sheet in sheets)
        {
            Noted[] notes;
            int count;
            lock (sheet)
            {
                if (heard.Count >= MaxAtOnce)
                    return;
                (notes, count, sheet.Notes, sheet.Count) = (sheet.Notes, sheet.Count, [], 0);
            }
            AddUp(notes, count);
        }
    }

    private void AddUp(Noted[] notes, int count)
    {
        foreach (ref readonly var note in notes.AsSpan(0, count))
        {
            var key = new Same(note.State.Id, note.State.Revision, note.Outlet, DayOf(note.At), note.UserAgent, note.Address);
            ref var sum = ref CollectionsMarshal.GetValueRefOrAddDefault(heard, key, out _);
            sum = new Sum(note.State, sum.Fetches + 1, sum.Unchanged + (note.IsUnchanged ? 1 : 0), Instant.Max(sum.At, note.At));
        }
        if (notes.Length > 0)
            ArrayPool<Noted>.Shared.Return(notes, clearArray: true);
    }

    private async Task WriteOfAsync(Guid? only)
    {
        await turn.WaitAsync();
        try
        {
            AddUp();
            await Each.DoAsync(heard.GroupBy(h => h.Value.State.SchoolId).Where(g => only is null || g.Key == only).ToList(), WriteNowAsync);
        }
        finally
        {
            turn.Release();
        }
    }

    private async Task WriteNowAsync(IGrouping<Guid, KeyValuePair<Same, Sum>> ofSchool)
    {
        // What cannot be counted waits while there is room: what the others say needs it, too.
        var mayWait = heard.Count < MaxAtOnce / 2;
        try
        {
            await readings.AddAsync(ofSchool.Key, await TallyAsync(ofSchool.Key, ofSchool));
        }
        catch (Exception error) when (!mayWait && !DatabaseAwayException.Is(error))
        {
            Forget(ofSchool);
            throw;
        }
        Forget(ofSchool);
    }

    private void Forget(IEnumerable<KeyValuePair<Same, Sum>> read)
    {
        foreach (var (key, _) in read)
            heard.Remove(key);
    }

    private async Task<Dictionary<ReadingKey, ReadingTally>> TallyAsync(Guid schoolId, IEnumerable<KeyValuePair<Same, Sum>> read)
    {
        var tallies = new Dictionary<ReadingKey, ReadingTally>();
        foreach (var ((id, revision, outlet, day, agent, address), sum) in read)
        {
            if (!salts.TryGetValue((schoolId, day), out var salt))
            {
                foreach (var old in salts.Keys.Where(k => k.Day < day.PlusDays(-1)).ToList())
                    salts.Remove(old);
                salts[(schoolId, day)] = salt = await readings.SaltAsync(schoolId, day);
            }
            var family = ReaderFamily.Of(agent);
            var key = new ReadingKey(id, day, (short)outlet, (short)family.Kind, family.Family);
            // Names can be made up without end; so many of a publication and day are told apart.
            if (!IsTold(key))
                key = key with { Kind = (short)ReaderKind.Unknown, Family = "" };
            var tally = Readings.TallyOf(tallies, key);
            (tally.Fetches, tally.Unchanged, tally.At) = (tally.Fetches + sum.Fetches, tally.Unchanged + sum.Unchanged, Instant.Max(tally.At, sum.At));
            tally.Readers.Add(revision, BinaryPrimitives.ReadUInt64BigEndian(HMACSHA256.HashData(salt, Encoding.UTF8.GetBytes($"{id:N} {address} {agent}"))));
        }
        return tallies;
    }

    private bool IsTold(ReadingKey key)
    {
        // Looked through once a day, not with every publication that is read for the first time.
        if (key.Day > toldUntil)
        {
            foreach (var old in told.Keys.Where(k => k.Day < key.Day.PlusDays(-1)).ToList())
                told.Remove(old);
            toldUntil = key.Day;
        }
        if (!told.TryGetValue((key.PublicationId, key.Day), out var names))
            told[(key.PublicationId, key.Day)] = names = [];
        return names.Contains((key.Outlet, key.Kind, key.Family)) || (names.Count < MaxFamilies && names.Add((key.Outlet, key.Kind, key.Family)));
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
        if (!isMoved)
        {
            await readings.MoveOldAsync();
            isMoved = true;
        }
        var day = clock.GetCurrentInstant().InUtc().Date;
        if (forgotten == day)
            return;
        await readings.ForgetAsync(day);
        forgotten = day;
    }
}
