using NodaTime;
using NodaTime.TimeZones;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>The zones of a file by the names it gives them.</summary>
internal sealed class SourceZones(IEnumerable<SourceComponent> described)
{
    private readonly Dictionary<string, SourceComponent> byName = described
        .Where(c => c.Property("TZID") is not null).GroupBy(c => c.Property("TZID")!.Value.Trim()).ToDictionary(g => g.Key, g => g.First(), StringComparer.OrdinalIgnoreCase);

    private readonly Dictionary<string, DateTimeZone?> known = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>The zone of a name: one that is known, by any of its names, else as the file describes it; null when nothing tells.</summary>
    public DateTimeZone? Find(string name)
    {
        var trimmed = name.Trim();
        if (!known.TryGetValue(trimmed, out var zone))
            known[trimmed] = zone = Named(trimmed) ?? (byName.TryGetValue(trimmed, out var own) ? Located(own) ?? FileZone.Of(trimmed, own) : null);
        return zone;
    }

    /// <summary>A zone by its IANA name, one that ends a path, or the name another system has for it (CLDR's table).</summary>
    public static DateTimeZone? Named(string name)
    {
        if (Zones.TryGet(name, out var zone))
            return zone;
        // Names are compared without regard to letters' size by many who write them.
        if (DateTimeZoneProviders.Tzdb.Ids.FirstOrDefault(id => string.Equals(id, name, StringComparison.OrdinalIgnoreCase)) is { } same)
            return Zones.Get(same);
        if (TzdbDateTimeZoneSource.Default.WindowsMapping.PrimaryMapping.FirstOrDefault(m => string.Equals(m.Key, name, StringComparison.OrdinalIgnoreCase)) is { Value: { } mapped })
            return Zones.Get(mapped);
        // A path of whoever wrote it stands before the name: its last two or three parts are one.
        var parts = name.Split('/', StringSplitOptions.RemoveEmptyEntries);
        for (var length = Math.Min(3, parts.Length - 1); length >= 1; length--)
        {
            if (Zones.TryGet(string.Join('/', parts[^length..]), out zone) && (length > 1 || parts[^1] is "UTC" or "GMT"))
                return zone;
        }
        return name is "Z" or "GMT" or "Coordinated Universal Time" ? DateTimeZone.Utc : null;
    }

    private static DateTimeZone? Located(SourceComponent own) => own.Property("X-LIC-LOCATION") is { } location ? Named(location.Value.Trim()) : null;
}

/// <summary>A zone as a file describes it (RFC 5545, 3.6.5): its changes, up to the end of the times there are.</summary>
internal sealed class FileZone : DateTimeZone
{
    private static readonly LocalDate Horizon = new(2200, 1, 1);
    private const int MaxChanges = 2_000;

    private readonly (Instant At, Offset Offset)[] changes;

    private FileZone(string id, (Instant, Offset)[] changes, Offset least, Offset most)
        : base(id, changes.Length == 1, least, most) => this.changes = changes;

    /// <summary>The zone; null when nothing in it can be read.</summary>
    public static FileZone? Of(string id, SourceComponent described)
    {
        var found = new List<(LocalDateTime Local, Offset From, Offset To)>();
        foreach (var observance in described.Components.Where(c => c.Name is "STANDARD" or "DAYLIGHT"))
        {
            if (SourceValues.OffsetOf(observance.Property("TZOFFSETTO")?.Value) is not { } to || SourceValues.Local(observance.Property("DTSTART")?.Value) is not { } start)
                continue;
            var from = SourceValues.OffsetOf(observance.Property("TZOFFSETFROM")?.Value) ?? to;
            var begin = start.Date.Year < 1900 ? start.PlusYears(1900 - start.Date.Year) : start;
            var starts = new List<LocalDateTime> { begin };
            if (observance.Property("RRULE")?.Value is { } text && SourceRules.Read(text, start, false, null) is { Rule: { } rule })
                starts.AddRange(new SeriesDates(EventTiming.Floating(begin, begin), rule, []).From(begin).TakeWhile(d => d.Date < Horizon).Take(MaxChanges));
            starts.AddRange(observance.All("RDATE").SelectMany(p => p.Value.Split(',')).Select(SourceValues.Local).OfType<LocalDateTime>());
            found.AddRange(starts.Distinct().Select(s => (s, from, to)));
        }
        if (found.Count == 0)
            return null;
        var ordered = found.Select(f => (At: f.Local.WithOffset(f.From).ToInstant(), f.From, f.To)).OrderBy(f => f.At).ToList();
        (Instant, Offset)[] all = [(Instant.MinValue, ordered[0].From), .. ordered.Select(o => (o.At, o.To))];
        var offsets = all.Select(c => c.Item2).ToList();
        return new FileZone(id, all, offsets.Min(), offsets.Max());
    }

    /// <inheritdoc/>
    public override ZoneInterval GetZoneInterval(Instant instant)
    {
        var (low, high) = (0, changes.Length - 1);
        while (low < high)
        {
            var middle = (low + high + 1) / 2;
            if (changes[middle].At <= instant)
                low = middle;
            else
                high = middle - 1;
        }
        return new ZoneInterval(Id, low == 0 ? null : changes[low].At, low + 1 < changes.Length ? changes[low + 1].At : null, changes[low].Offset, Offset.Zero);
    }
}
