using Valtro.Core.Events;
using Valtro.Server.Calendars;
using Valtro.Server.Sessions;

namespace Valtro.Server.Lists;

internal sealed record CategoryDto(Guid? Id, string Name, Guid? ParentId, bool IsAssessment, ReachDto? Reach = null);

internal sealed record PlaceDto(Guid? Id, string Name, int? Capacity, string? Address, double? Latitude, double? Longitude);

/// <summary>What a school keeps for all its calendars. New entries have no identity yet, or one the sender chose.</summary>
internal sealed record ListsDto(
    IReadOnlyList<CategoryDto> Categories, IReadOnlyList<PlaceDto> Places, int NoticeDays, int TestsADay, string MapPattern, int Version, int MaxFileMegabytes = 25, bool IsMonthFirst = false)
{
    public static ListsDto Of(SchoolLists l) => new(
        [.. l.Categories.Select(c => new CategoryDto(c.Id, c.Name, c.ParentId, c.IsAssessment, ReachDto.Of(c.Reach)))],
        [.. l.Places.Select(p => new PlaceDto(p.Id, p.Name, p.Capacity, p.Address, p.Latitude, p.Longitude))],
        l.NoticeDays,
        l.TestsADay,
        l.MapPattern,
        l.Version,
        l.MaxFileMegabytes,
        l.IsMonthFirst);

    public SchoolLists ToLists() => new SchoolLists
    {
        Categories = [.. Categories.Select(c => new Category(c.Id ?? Guid.CreateVersion7(), c.Name ?? "", c.ParentId, c.IsAssessment, c.Reach?.ToTable()))],
        Places = [.. Places.Select(p => new Place(p.Id ?? Guid.CreateVersion7(), p.Name ?? "", p.Capacity, p.Address ?? "", p.Latitude, p.Longitude))],
        NoticeDays = NoticeDays,
        TestsADay = TestsADay,
        MapPattern = MapPattern ?? "",
        MaxFileMegabytes = MaxFileMegabytes,
        IsMonthFirst = IsMonthFirst,
        Version = Version,
    }.Checked();
}

internal static class ListEndpoints
{
    public static void MapLists(this IEndpointRouteBuilder api)
    {
        api.MapGet("/lists", async (Caller caller) => ListsDto.Of(await caller.ListsAsync()));

        // The lists are small and kept whole: the version sent is the one they were changed from.
        api.MapPut("/lists", async (ListsDto input, Caller caller, Store.Lists store) =>
        {
            var sent = input.ToLists();
            var lists = sent.After(sent);
            await store.SaveAsync(lists, caller.Author(), cancellation: caller.Aborted);
            return ListsDto.Of(lists);
        });
    }
}
