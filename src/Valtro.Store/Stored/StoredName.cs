using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>Dates with other names than they would have, as they lie in the database.</summary>
internal sealed record StoredName(LocalDateTime First, LocalDateTime Last, long Shift, string? Uid, bool IsAll)
{
    public static string Write(ImmutableArray<NamedDates> names) =>
        JsonSerializer.Serialize(names.Select(n => new StoredName(n.First, n.Last, n.Shift, n.Uid, n.IsAll)), StoredChange.Json);

    public static ImmutableArray<NamedDates> Read(string text) =>
        [.. JsonSerializer.Deserialize<StoredName[]>(text, StoredChange.Json)!.Select(n => new NamedDates(n.First, n.Last, n.Shift, n.Uid, n.IsAll))];
}
