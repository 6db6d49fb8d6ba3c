using Valtro.Core.Reach;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;

namespace Valtro.Server.Calendars;

/// <summary>A calendar's reach, and what an audience shall get of it.</summary>
internal sealed record OpeningInput(ReachDto Reach, Audience Audience, Detail Detail);

/// <summary>What opening or closing for an audience makes.</summary>
/// <param name="Reach">The reach then.</param>
/// <param name="Widest">The widest audience that gets more; null when none does.</param>
internal sealed record OpeningDto(ReachDto Reach, Audience? Widest);

/// <summary>An event as it is typed, as far as its reach depends on it, and what an audience shall get of it.</summary>
/// <param name="CalendarId">Its home.</param>
/// <param name="CategoryId">Its category.</param>
/// <param name="Own">The limit of its own so far.</param>
/// <param name="IsDraft">Whether only the team sees it.</param>
/// <param name="Audience">The audience; null for asking only what each gets.</param>
/// <param name="Detail">What it shall get.</param>
internal sealed record EventReachInput(Guid CalendarId, Guid? CategoryId, ReachDto? Own, bool IsDraft = false, Audience? Audience = null, Detail? Detail = null);

/// <summary>Who gets what of an event.</summary>
/// <param name="Given">What each audience can get: what the calendar gives, within the category's limit.</param>
/// <param name="Own">The limit of its own; null for none.</param>
/// <param name="Shown">What each audience gets.</param>
internal sealed record EventReachDto(ReachDto Given, ReachDto? Own, ReachDto Shown);

/// <summary>Reach while it is chosen: computes only.</summary>
internal static class ReachEndpoints
{
    public static void MapReach(this IEndpointRouteBuilder api)
    {
        var reach = api.MapGroup("/reach");

        reach.MapPost("/opened", (OpeningInput input) =>
        {
            var before = input.Reach.ToTable();
            var after = before.Opened(input.Audience, input.Detail);
            return new OpeningDto(ReachDto.Of(after)!, after.WidestBeyond(before));
        }).IsNotLogged();

        reach.MapPost("/event", async (EventReachInput input, Caller caller) =>
        {
            var calendar = await caller.NeedSightAsync(input.CalendarId);
            var given = calendar.Reach.Within((await caller.ListsAsync()).Category(input.CategoryId)?.Reach);
            var own = input.Own?.ToTable();
            if (input is { Audience: { } audience, Detail: { } detail })
                own = given.Limited(own, audience, detail);
            var shown = input.IsDraft ? new ReachTable(Detail.Nothing, Detail.Nothing, Detail.Nothing) : given.Within(own);
            return new EventReachDto(ReachDto.Of(given)!, ReachDto.Of(own), ReachDto.Of(shown)!);
        }).IsNotLogged();
    }
}
