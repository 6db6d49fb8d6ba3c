using System.Collections.Immutable;
using System.Text.Json;
using Valtro.Core.Events;
using Valtro.Core.Reach;

namespace Valtro.Store;

/// <summary>An event's facts as they lie in the database; the calendars it also stands in have a column of their own.</summary>
internal sealed record StoredFacts(
    string? Subtitle, Guid? CategoryId, string[]? Tags, int? Mark, bool IsFree, int? Reminder, bool IsDraft, EventLink[]? Links, int? Size,
    EventFile[]? Files = null, EventPicture? Picture = null, ReachTable? Reach = null, PlacementLimit[]? Limits = null)
{
    public static string Write(EventFacts f) => JsonSerializer.Serialize(
        new StoredFacts(
            f.Subtitle.Length == 0 ? null : f.Subtitle, f.CategoryId, f.Tags.IsEmpty ? null : [.. f.Tags], f.Mark, f.IsFree, f.Reminder, f.IsDraft, f.Links.IsEmpty ? null : [.. f.Links], f.Size,
            f.Files.IsEmpty ? null : [.. f.Files], f.Picture, f.Reach, f.Limits.IsEmpty ? null : [.. f.Limits]),
        StoredChange.Json);

    public static EventFacts Read(string text, Guid[] alsoIn)
    {
        var f = JsonSerializer.Deserialize<StoredFacts>(text, StoredChange.Json)!;
        return new EventFacts
        {
            Subtitle = f.Subtitle ?? "",
            CategoryId = f.CategoryId,
            Tags = [.. f.Tags ?? []],
            Mark = f.Mark,
            IsFree = f.IsFree,
            Reminder = f.Reminder,
            IsDraft = f.IsDraft,
            Links = [.. f.Links ?? []],
            AlsoIn = ImmutableArray.Create(alsoIn),
            Size = f.Size,
            Files = [.. f.Files ?? []],
            Picture = f.Picture,
            Reach = f.Reach,
            Limits = [.. f.Limits ?? []],
        };
    }
}
