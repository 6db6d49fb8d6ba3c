using System.Security.Claims;
using NodaTime;
using Valtro.Core.Limits;
using Valtro.Server.Sessions;

namespace Valtro.Server.Limits;

/// <summary>How much a school has of something, and may.</summary>
/// <param name="What">Of what.</param>
/// <param name="Taken">How much it has: storage in bytes.</param>
/// <param name="Limit">How much it may have, in the same measure.</param>
/// <param name="IsNear">Whether little is left.</param>
internal sealed record LimitDto(Limited What, long Taken, long Limit, bool IsNear);

/// <summary>How much a school has of the installation.</summary>
/// <param name="Limits">Thing by thing.</param>
/// <param name="WaitingLetters">How many letters to readers wait for tomorrow, or their turn.</param>
/// <param name="IsDiskLow">Whether the server's disk is nearly full.</param>
internal sealed record LimitsDto(IReadOnlyList<LimitDto> Limits, int WaitingLetters, bool IsDiskLow);

internal static class LimitEndpoints
{
    public static void MapLimits(this IEndpointRouteBuilder api) =>
        api.MapGet("/limits", async (ClaimsPrincipal user, Store.Limits limits, RoomWatch room, IClock clock) =>
        {
            var (may, taken, waiting) = await limits.GetAsync(user.SchoolId(), clock.GetCurrentInstant());
            return new LimitsDto([.. Enum.GetValues<Limited>().Select(what => new LimitDto(what, taken[what], may.Of(what), may.IsNear(what, taken[what])))], waiting, room.IsLow);
        });
}
