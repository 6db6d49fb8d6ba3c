using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Valtro.Core.Events;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>A change as it lies in the database.</summary>
internal sealed record StoredChange(
    LocalDateTime Date, string? Title, string? Place, string? Description, LocalDateTime? Start, long? Length, bool CalledOff, Instant? At = null)
{
    internal static readonly JsonSerializerOptions Json = new JsonSerializerOptions(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    }.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    public static string Write(ImmutableArray<EventChange> changes) => JsonSerializer.Serialize(
        changes.Select(c => new StoredChange(
            c.Date, c.Title, c.Place, c.Description, c.Timing?.Start, (long?)c.Timing?.Length.TotalSeconds, c.IsCalledOff, c.At)),
        Json);

    public static ImmutableArray<EventChange> Read(string text, EventTiming timing) =>
    [
        .. JsonSerializer.Deserialize<StoredChange[]>(text, Json)!.Select(c => new EventChange
        {
            Date = c.Date,
            Title = c.Title,
            Place = c.Place,
            Description = c.Description is null ? null : RichText.Stored(c.Description),
            Timing = c.Start is { } start ? EventTiming.Restore(timing.Kind, start, Duration.FromSeconds(c.Length ?? 0), timing.Zone) : null,
            IsCalledOff = c.CalledOff,
            At = c.At,
        }),
    ];
}
