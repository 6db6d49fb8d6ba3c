using System.Collections.Concurrent;

namespace Valtro.Store;

/// <summary>
/// What is asked so often that each connection keeps its plan: planning is a good part of what a question costs.
/// Npgsql's own way to do so loses count when one of several commands sent at once fails, so plans are asked for by name here.
/// </summary>
internal sealed class OftenAsked
{
    // What somebody asks a few times is not worth the memory of a plan in every connection.
    private const int Enough = 20;
    private const int MaxPlans = 60;
    private const int MaxCounted = 1_000;

    private readonly ConcurrentDictionary<string, Count> counts = new(StringComparer.Ordinal);
    private volatile bool isOn;
    private int plans;

    /// <summary>
    /// Plans are kept from now on. Only where a connection surely leads to one and the same place: by what hands connections out by
    /// the transaction one would come to what another means by the same name.
    /// </summary>
    public void KeepPlans() => isOn = true;

    /// <summary>Counts a question, and tells whether its plan is to be kept.</summary>
    /// <param name="sql">The question.</param>
    public bool Is(string sql)
    {
        if (!isOn || (!counts.TryGetValue(sql, out var count) && !TryCount(sql, out count)))
            return false;
        if (count.IsKept)
            return true;
        if (Interlocked.Increment(ref count.Asked) != Enough || Interlocked.Increment(ref plans) > MaxPlans)
            return false;
        count.IsKept = true;
        return true;
    }

    private bool TryCount(string sql, out Count count)
    {
        count = new Count();
        if (counts.Count >= MaxCounted)
            return false;
        count = counts.GetOrAdd(sql, count);
        return true;
    }

    private sealed class Count
    {
        public int Asked;
        public volatile bool IsKept;
    }
}
