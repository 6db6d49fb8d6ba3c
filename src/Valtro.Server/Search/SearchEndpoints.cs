using NodaTime;
using Valtro.Core.Time;
using Valtro.Core.Views;
using Valtro.Server.Sessions;
using Valtro.Server.Views;

namespace Valtro.Server.Search;

/// <summary>An event that was found, on its next date; on its last one when it is over.</summary>
internal sealed record HitDto(Guid EventId, Guid CalendarId, string Title, string Place, LocalDateTime Date, LocalDate Day, bool AllDay, bool IsSeries, bool IsOver);

internal static class SearchEndpoints
{
    private const int LongestText = 200;

    public static void MapSearch(this IEndpointRouteBuilder api) =>
        api.MapGet("/search", async (string? q, Caller caller, EventViews views) =>
        {
            var text = (q ?? "").Trim();
            if (text.Length is < 2 or > LongestText)
                return [];
            var today = await caller.TodayAsync();
            return (await views.SearchAsync(text)).Select(e => Hit(e, today)).OfType<HitDto>().ToList();
        });

    private static HitDto? Hit(EventView e, LocalDate today)
    {
        // What lasts several days and has begun is still on.
        var from = today.PlusDays(-(int)Math.Min(e.Timing.Length.TotalDays, 30));
        var (next, isOver) = e.Dates.NextFrom(from.AtMidnight());
        if (next is not { } date)
            return null;
        var day = (e.Dates.Of(date)?.Timing?.Start ?? date).Date;
        return new HitDto(e.Id, e.StandsIn[0], e.Title ?? "", e.Place ?? "", date, day, e.Timing.Kind == TimeKind.AllDay, e.IsSeries, isOver);
    }
}
