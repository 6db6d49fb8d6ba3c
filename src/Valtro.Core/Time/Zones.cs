using System.Diagnostics.CodeAnalysis;
using NodaTime;
using NodaTime.TimeZones;

namespace Valtro.Core.Time;

/// <summary>Time zones by their IANA names, from the data NodaTime ships.</summary>
public static class Zones
{
    private static readonly ZoneLocalMappingResolver Resolver = Resolvers.LenientResolver;

    /// <summary>The version of the zone data in use, such as "TZDB: 2026a".</summary>
    public static string DataVersion => DateTimeZoneProviders.Tzdb.VersionId;

    /// <summary>
    /// The names a person may choose from: places, in alphabetical order, without old aliases and bare offsets.
    /// </summary>
    public static IReadOnlyList<string> Names { get; } =
        [.. TzdbDateTimeZoneSource.Default.ZoneLocations!.Select(l => l.ZoneId).Append("UTC").Distinct().Order(StringComparer.Ordinal)];

    /// <summary>The zone with this IANA name (aliases included).</summary>
    /// <exception cref="InvalidInputException"><c>zone_unknown</c>.</exception>
    public static DateTimeZone Get(string id, string field = "zone") =>
        TryGet(id, out var zone)
            ? zone
            : throw new InvalidInputException("zone_unknown", field, $"There is no time zone called “{id}”. Choose one from the list, such as America/Halifax.");

    /// <summary>Finds a zone by its IANA name.</summary>
    public static bool TryGet(string? id, [NotNullWhen(true)] out DateTimeZone? zone)
    {
        zone = id is null ? null : DateTimeZoneProviders.Tzdb.GetZoneOrNull(id);
        return zone is not null;
    }

    /// <summary>
    /// The instant of a local date-time. A time in a gap moves forward by the gap, a time that happens twice is the
    /// earlier one (RFC 5545, 3.3.5).
    /// </summary>
    public static Instant ToInstant(LocalDateTime local, DateTimeZone zone) =>
        zone.ResolveLocal(local, Resolver).ToInstant();
}
