using Valtro.Server.Api;
using Valtro.Server.Calendars;
using Valtro.Server.People;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.WhoSees;

/// <summary>What one calendar shows to whom.</summary>
internal sealed record WhoSeesDto(
    Guid CalendarId, string Title, string Group, int Mark, ReachDto Reach, int Events, int Narrowed, int Drafts, int Files, IReadOnlyList<ShareDto> Roles, IReadOnlyList<string> Publications);

internal static class WhoSeesEndpoints
{
    public static void MapWhoSees(this IEndpointRouteBuilder api)
    {
        api.MapGet("/who-sees", async (Caller caller, Overview overview) => await RowsAsync(caller, overview));

        // The same as a table to take along (RFC 4180).
        api.MapGet("/who-sees.csv", async (Caller caller, Overview overview) =>
        {
            var rows = await RowsAsync(caller, overview);
            var school = await caller.SchoolAsync();
            return CsvTable.Of(
                $"{school.ShortName} who sees what.csv",
                ["calendar", "group", "members", "link holders", "everyone", "events", "narrowed", "drafts", "files", "roles", "publications"],
                rows.Select(row => new object[]
                {
                    row.Title, row.Group, row.Reach.Members, row.Reach.LinkHolders, row.Reach.Everyone, row.Events, row.Narrowed, row.Drafts, row.Files,
                    string.Join("; ", row.Roles.Select(r => $"{r.Name} ({r.Role})")), string.Join("; ", row.Publications),
                }));
        }).ExcludeFromDescription();
    }

    private static async Task<IReadOnlyList<WhoSeesDto>> RowsAsync(Caller caller, Overview overview)
    {
        var (counts, shares) = (await overview.CalendarsAsync(caller.SchoolId), await overview.SharesAsync(caller.SchoolId));
        return [.. (await caller.CalendarsAsync()).Values.Select(c =>
        {
            var count = counts[c.Id];
            return new WhoSeesDto(
                c.Id, c.Title, c.Group, c.Mark, ReachDto.Of(c.Reach)!, count.Events, count.Narrowed, count.Drafts, count.Files,
                [.. shares[c.Id].Select(s => new ShareDto(s.PersonId, s.GroupId, s.Name, s.Role))], count.Publications);
        })];
    }
}
