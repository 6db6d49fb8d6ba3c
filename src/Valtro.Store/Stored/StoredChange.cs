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
    LocalDateTime Date, string? Title, string? Place, string? Description, LocalDateTime? Start, long? Length, bool CalledOff, Instant? At = null, StoredDateFacts? Facts = null)
{
    internal static readonly JsonSerializerOptions Json = new JsonSerializerOptions(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    }.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    public static string Write(ImmutableArray<EventChange> changes) => JsonSerializer.Serialize(
        changes.Select(c => new StoredChange(
            c.Date, c.Title, c.Place, c.Description, c.Timing?.Start, (long?)c.Timing?.Length.TotalSeconds, c.IsCalledOff, c.At, StoredDateFacts.Of(c.Facts))),
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
            Facts = c.Facts?.ToFacts() ?? DateFacts.None,
        }),
    ];
}

/// <summary>What a date has beside otherwise than its series, as it lies in the database.</summary>
internal sealed record StoredDateFacts(
    string? Subtitle, bool SetsCategory, Guid? CategoryId, string[]? Tags, string[]? WithoutTags, EventLink[]? Links, string[]? WithoutLinks, EventFile[]? Files, Guid[]? WithoutFiles)
{
    public static StoredDateFacts? Of(DateFacts f)
    {
        static T[]? Said<T>(ImmutableArray<T> all) => all.IsEmpty ? null : [.. all];
        return f.IsNone
            ? null
            : new(f.Subtitle, f.SetsCategory, f.CategoryId, Said(f.Tags), Said(f.WithoutTags), Said(f.Links), Said(f.WithoutLinks), Said(f.Files), Said(f.WithoutFiles));
    }

    public DateFacts ToFacts() => new()
    {
        Subtitle = Subtitle,
        SetsCategory = SetsCategory,
        CategoryId = CategoryId,
        Tags = [.. Tags ?? []],
        WithoutTags = [.. WithoutTags ?? []],
        Links = [.. Links ?? []],
        WithoutLinks = [.. WithoutLinks ?? []],
        Files = [.. Files ?? []],
        WithoutFiles = [.. WithoutFiles ?? []],
    };
}
