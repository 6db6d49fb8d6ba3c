using System.Security.Claims;
using NodaTime;
using Valtro.Server.Api;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Audit;

internal sealed record AuditEntryDto(Guid Id, Instant At, string? Person, string Action, string? About, string Address);

/// <summary>The newest part of the log.</summary>
internal sealed record AuditDto(IReadOnlyList<AuditEntryDto> Entries, bool HasMore);

internal static class AuditEndpoints
{
    private const int MaxExported = 100_000;

    public static void MapAudit(this IEndpointRouteBuilder api)
    {
        api.MapGet("/audit", async (Guid? person, Guid? before, ClaimsPrincipal user, AuditLog audit) =>
        {
            var entries = await audit.ListAsync(user.SchoolId(), person, before);
            return new AuditDto([.. entries.Select(e => new AuditEntryDto(e.Id, e.At, e.Person, e.Action, e.About, e.Address))], entries.Count == AuditLog.Page);
        });

        api.MapGet("/audit.csv", async (ClaimsPrincipal user, AuditLog audit) =>
        {
            return CsvTable.Of(
                "log.csv",
                ["at", "who", "what", "about", "from"],
                (await audit.ListAsync(user.SchoolId(), null, null, MaxExported)).Select(e => new object?[] { e.At, e.Person, e.Action, e.About, e.Address }));
        }).ExcludeFromDescription();
    }
}
