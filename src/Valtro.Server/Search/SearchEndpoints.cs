using System.Security.Claims;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Search;

/// <summary>An event that was found, on its next date; on its last one when it is over.</summary>
internal sealed record HitDto(Guid EventId, Guid CalendarId, string Title, string Place, LocalDateTime Date, LocalDate Day, bool AllDay, bool IsSeries, bool IsOver);

internal static class SearchEndpoints
{
    private const int MostHits = 20;

    // Of what is found not all may be seen.
    private const int MostRead = 100;
    private const int LongestText = 200;

    public static void MapSearch(this IEndpointRouteBuilder api) =>
        api.MapGet("/search", async (string? q, ClaimsPrincipal user, Caller caller, Schools schools, Store.Events events, IClock clock) =>
        {
            var text = (q ?? "").Trim();
            if (text.Length is < 2 or > LongestText)
                return [];
            var school = await schools.GetAsync(user.SchoolId());
            var today = clock.GetCurrentInstant().InZone(school.Zone).Date;
            var found = await caller.SeenAsync(await events.SearchAsync(school.Id, text, MostRead));
            return found.Where(f => f.Detail == Detail.Everything || f.Detail == Detail.Headlines && Store.Events.IsFoundBy(f.Event, text))
                .Select(f => Hit(f.Event, today)).OfType<HitDto>().Take(MostHits).ToList();
        });

    private static HitDto? Hit(Event e, LocalDate today)
    {
        // What lasts several days and has begun is still on.
        var from = today.PlusDays(-(int)Math.Min(e.Timing.Length.TotalDays, 30));
        LocalDateTime? next = e.Dates.From(from.AtMidnight()).Where(d => !e.Skips.Contains(d)).Select(d => (LocalDateTime?)d).FirstOrDefault();
        if ((next ?? e.Dates.Last ?? e.Dates.First) is not { } date)
            return null;
        var day = (e.All.Of(date)?.Timing?.Start ?? date).Date;
        return new HitDto(e.Id, e.CalendarId, e.Title, e.Place, date, day, e.Timing.Kind == TimeKind.AllDay, e.Rule is not null, next is null);
    }
}
