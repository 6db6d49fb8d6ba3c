using System.Data.Common;
using Dapper;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>Which event, and in which of its states: no two writes of one leave it with the same number at the same moment.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Version">How often it was written.</param>
/// <param name="ChangedAt">When it was last: after a backup was brought back, a number may come again.</param>
internal readonly record struct EventState(Guid Id, int Version, Instant ChangedAt);

/// <summary>
/// Events that were read a moment ago. Publications of one school show much of the same, and a change alters one event of many: which
/// there are, and in which state, is asked every time, but each state is read and understood once.
/// </summary>
internal sealed class KnownEvents : IDisposable
{
    // In thousands of letters, of which an event takes one at least.
    private const int MaxKept = 20_000;
    // Whoever has more events than that would only drive out all others.
    private const int MostOfOne = MaxKept / 2;

    private static readonly TimeSpan Kept = TimeSpan.FromSeconds(30);

    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MaxKept, ExpirationScanFrequency = Kept });

    /// <summary>Events in the states they are in, by their identity.</summary>
    /// <param name="connection">A connection whose transaction sees them in these states.</param>
    /// <param name="wanted">The states.</param>
    public async Task<IReadOnlyDictionary<Guid, Event>> ReadAsync(DbConnection connection, IReadOnlyList<EventState> wanted)
    {
        var events = new Dictionary<Guid, Event>(wanted.Count);
        var missing = new List<Guid>();
        foreach (var state in wanted)
        {
            if (cache.TryGetValue(state, out Event? known))
                events[state.Id] = known!;
            else
                missing.Add(state.Id);
        }
        if (missing.Count == 0)
            return events;
        foreach (var row in await connection.QueryAsync<EventColumns>($"select {EventColumns.Selected} from event where id = any(array(select unnest(@missing)))", new { missing = missing.ToArray() }))
        {
            var read = events[row.Id] = row.ToEvent();
            if (wanted.Count <= MostOfOne)
                cache.Set(new EventState(read.Id, read.Version, read.ChangedAt), read, new MemoryCacheEntryOptions { Size = 1 + Letters(row) / 1_000, SlidingExpiration = Kept });
        }
        return events;
    }

    public void Dispose() => cache.Dispose();

    private static int Letters(EventColumns row) => row.Title.Length + row.Place.Length + row.Description.Length + row.Facts.Length + row.Changes.Length + row.Names.Length + 10 * (row.Skips.Length + row.Extras.Length);
}
