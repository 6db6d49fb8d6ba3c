using System.Collections.Concurrent;
using NodaTime;

namespace Valtro.Core.Time;

/// <summary>
/// A zone's offsets as arrays, to turn local seconds into instants by a short search. Each stretch runs over the local
/// times that take its offset: a time in a gap takes the offset before it, so that it moves forward by the gap, and a
/// time that comes twice is the earlier one (RFC 5545, 3.3.5).
/// </summary>
internal sealed class ZoneTable
{
    private static readonly ConcurrentDictionary<DateTimeZone, ZoneTable> Known = new();
    private static readonly Instant First = Instant.FromUtc(1850, 1, 1, 0, 0);
    private static readonly Instant Last = Instant.FromUtc(3010, 1, 1, 0, 0);

    // Where each stretch begins, in local seconds; where its gap begins; its offset.
    private readonly long[] starts;
    private readonly long[] gaps;
    private readonly int[] offsets;

    private ZoneTable(DateTimeZone zone)
    {
        var intervals = zone.GetZoneIntervals(First, Last).ToArray();
        starts = new long[intervals.Length];
        gaps = new long[intervals.Length];
        offsets = new int[intervals.Length];
        for (var i = 0; i < intervals.Length; i++)
        {
            var (interval, offset) = (intervals[i], intervals[i].WallOffset.Seconds);
            offsets[i] = offset;
            starts[i] = i == 0 ? long.MinValue : interval.Start.ToUnixTimeSeconds() + Math.Max(offsets[i - 1], offset);
            gaps[i] = i == intervals.Length - 1 ? long.MaxValue : interval.End.ToUnixTimeSeconds() + offset;
        }
        LeastOffset = offsets.Min();
        GreatestOffset = offsets.Max();
    }

    /// <summary>The least offset the zone has, in seconds: local times lie no further behind UTC.</summary>
    public int LeastOffset { get; }

    /// <summary>The greatest offset the zone has, in seconds.</summary>
    public int GreatestOffset { get; }

    // A zone that one file describes goes with the file.
    public static ZoneTable Of(DateTimeZone zone) => zone is Sources.FileZone ? new ZoneTable(zone) : Known.GetOrAdd(zone, z => new ZoneTable(z));

    /// <summary>The stretch a local time lies in.</summary>
    public int Find(long local)
    {
        var index = Array.BinarySearch(starts, local);
        return index < 0 ? ~index - 1 : index;
    }

    /// <summary>The same, when it is probably the stretch of the time before.</summary>
    public int Find(long local, int near) =>
        local >= starts[near] && (near + 1 == starts.Length || local < starts[near + 1]) ? near : Find(local);

    public long ToInstant(long local, int stretch) => local - offsets[stretch];

    public long ToInstant(long local) => local - offsets[Find(local)];

    public bool IsInGap(long local, int stretch) => local >= gaps[stretch];
}
