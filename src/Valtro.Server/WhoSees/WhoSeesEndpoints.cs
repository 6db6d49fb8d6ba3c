using System.Globalization;
using System.Security.Claims;
using CsvHelper;
using CsvHelper.Configuration;
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
        api.MapGet("/who-sees.csv", async (Caller caller, Overview overview, ClaimsPrincipal user, Schools schools) =>
        {
            var rows = await RowsAsync(caller, overview);
            await using var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\r\n" };
            await using var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\r\n", InjectionOptions = InjectionOptions.Escape });
            foreach (var head in new[] { "calendar", "group", "members", "link holders", "everyone", "events", "narrowed", "drafts", "files", "roles", "publications" })
                csv.WriteField(head);
            foreach (var row in rows)
            {
                await csv.NextRecordAsync();
                foreach (var field in new object[]
                {
                    row.Title, row.Group, row.Reach.Members, row.Reach.LinkHolders, row.Reach.Everyone, row.Events, row.Narrowed, row.Drafts, row.Files,
                    string.Join("; ", row.Roles.Select(r => $"{r.Name} ({r.Role})")), string.Join("; ", row.Publications),
                })
                {
                    csv.WriteField(field);
                }
            }
            await csv.NextRecordAsync();
            await csv.FlushAsync();
            var school = await schools.GetAsync(user.SchoolId());
            // With its mark, so that programs that ask for it read UTF-8.
            return Results.File([0xEF, 0xBB, 0xBF, .. System.Text.Encoding.UTF8.GetBytes(text.ToString())], "text/csv; charset=utf-8", $"{school.ShortName} who sees what.csv");
        }).ExcludeFromDescription();
    }

    private static async Task<IReadOnlyList<WhoSeesDto>> RowsAsync(Caller caller, Overview overview)
    {
        await caller.NeedAdministratorAsync();
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
