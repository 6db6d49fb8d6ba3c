using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>How a series follows school days, as it lies in the database.</summary>
internal sealed record StoredPattern(SchoolDayChoice Days, ClosureChoice Closures, int[]? CycleDays, int[]? Weeks)
{
    public static string? Write(SchoolDayRule? rule) =>
        rule is null ? null : JsonSerializer.Serialize(new StoredPattern(rule.Days, rule.Closures, [.. rule.CycleDays], [.. rule.Weeks]), StoredChange.Json);

    public static SchoolDayRule? Read(string? text) =>
        text is not null && JsonSerializer.Deserialize<StoredPattern>(text, StoredChange.Json) is { } p
            ? SchoolDayRule.Of(p.Days, p.Closures, p.CycleDays ?? [], p.Weeks ?? [])
            : null;
}

/// <summary>The dates that gave, as they lie in the database.</summary>
internal sealed record StoredDates(LocalDateTime Start, string? Rule, ImmutableArray<LocalDateTime> LeftOut, ImmutableArray<LocalDateTime> Added)
{
    public static string? Write(PlainDates? dates) => dates is null
        ? null
        : JsonSerializer.Serialize(new StoredDates(dates.Timing.Start, dates.Rule?.ToString(), dates.LeftOut, dates.Added), StoredChange.Json);

    public static PlainDates? Read(string? text, EventTiming timing)
    {
        if (text is null)
            return null;
        var dates = JsonSerializer.Deserialize<StoredDates>(text, StoredChange.Json)!;
        return new PlainDates(
            timing.At(dates.Start), dates.Rule is null ? null : RecurrenceRule.Parse(dates.Rule, timing.Zone), dates.LeftOut, dates.Added);
    }
}
