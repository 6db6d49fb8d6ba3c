using System.Security.Claims;
using System.Text.Json;
using System.Text.Json.Serialization;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;

namespace Valtro.Server.Board;

/// <summary>One heading of the lanes with its rows, in a person's order.</summary>
internal sealed record LaneGroupDto(string Name, IReadOnlyList<Guid> CalendarIds);

/// <summary>How a person keeps the board. What is not there any more is passed over by who reads it.</summary>
internal sealed record BoardSettingsDto(
    string? Form = null,
    int? Days = null,
    IReadOnlyList<LaneGroupDto>? Groups = null,
    IReadOnlyList<Guid>? Folded = null,
    IReadOnlyList<Guid>? Hidden = null);

internal static class BoardSettingsEndpoints
{
    private const int MaxRows = 1000;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    public static void MapBoardSettings(this IEndpointRouteBuilder api)
    {
        api.MapGet("/me/board", async (ClaimsPrincipal user, Store.People people) =>
            await people.BoardAsync(user.SchoolId(), user.PersonId()) is { } text ? JsonSerializer.Deserialize<BoardSettingsDto>(text, Json)! : new BoardSettingsDto());

        // What is not said stays as it is: another screen of the person may have chosen it meanwhile.
        api.MapPatch("/me/board", async (BoardSettingsDto settings, ClaimsPrincipal user, Store.People people) =>
        {
            var rows = (settings.Groups ?? []).Sum(g => 1 + (g.CalendarIds?.Count ?? 0)) + (settings.Folded?.Count ?? 0) + (settings.Hidden?.Count ?? 0);
            if (rows > MaxRows || (settings.Groups ?? []).Any(g => g.Name is null or { Length: > 100 }) || settings.Form is { Length: > 20 })
                throw new InvalidInputException("too_many_parts", null, $"The board keeps {MaxRows} rows and headings at most.");
            await people.KeepBoardAsync(user.SchoolId(), user.PersonId(), JsonSerializer.Serialize(settings, Json));
            return TypedResults.NoContent();
        }).IsNotLogged();
    }
}
