using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Server.Sessions;

namespace Valtro.Server.Calendars;

internal sealed record CalendarInput(string? Title, string? Description, string? Group, string? Zone, int Mark, int? Version);

/// <summary>Who gets what. What is not said of search engines stays.</summary>
internal sealed record ReachInput(Detail Members, Detail LinkHolders, Detail Everyone, int Version, bool? IsOutOfSearch = null);

/// <summary>What opening a calendar would let people read.</summary>
internal sealed record CalendarContentsDto(int Events, LocalDate? First, int Files);

internal static class CalendarEndpoints
{
    public static void MapCalendars(this IEndpointRouteBuilder api)
    {
        api.MapGet("/zones", () => Zones.Names);

        var calendars = api.MapGroup("/calendars");

        calendars.MapPost("", async (CalendarInput input, Caller caller, Store.Calendars store) =>
        {
            var calendar = Calendar.Apply(null, Guid.CreateVersion7(), input.Title, input.Description, input.Group, input.Zone, input.Mark);
            await store.SaveAsync(null, calendar, "create", caller.Author());
            return CalendarDto.Of(calendar, CalendarRole.Keeper, true);
        });

        calendars.MapPut("/{id:guid}", (Guid id, CalendarInput input, Caller caller, Store.Calendars store) =>
            ChangeAsync(id, input.Version, "change", caller, store, old =>
                Calendar.Apply(old, old.Id, input.Title, input.Description, input.Group, input.Zone, input.Mark)));

        calendars.MapPut("/{id:guid}/reach", (Guid id, ReachInput input, Caller caller, Store.Calendars store) =>
            ChangeAsync(id, input.Version, "reach", caller, store, old =>
                old with { Reach = new ReachTable(input.Members, input.LinkHolders, input.Everyone), IsOutOfSearch = input.IsOutOfSearch ?? old.IsOutOfSearch }));

        calendars.MapDelete("/{id:guid}", (Guid id, int version, Caller caller, Store.Calendars store) =>
            ChangeAsync(id, version, "bin", caller, store, old => old with { DeletedAt = caller.Author().Now }));

        calendars.MapPost("/{id:guid}/restore", (Guid id, Caller caller, Store.Calendars store) =>
            ChangeAsync(id, null, "restore", caller, store, old => old with { DeletedAt = null }));

        calendars.MapGet("/{id:guid}/contents", async (Guid id, Caller caller, Store.Calendars store) =>
        {
            await caller.NeedAsync(id, CalendarRole.Keeper);
            var calendar = await store.FindAsync(caller.SchoolId, id) ?? throw NotFoundException.Calendar();
            var contents = await store.ContentsAsync(caller.SchoolId, id);
            return new CalendarContentsDto(contents.Events, contents.First?.InZone(calendar.Zone).Date, contents.Files);
        });
    }

    private static async Task<CalendarDto> ChangeAsync(
        Guid id, int? version, string action, Caller caller, Store.Calendars store, Func<Calendar, Calendar> change)
    {
        await caller.NeedAsync(id, CalendarRole.Keeper);
        var before = await store.FindAsync(caller.SchoolId, id) ?? throw NotFoundException.Calendar();
        if (version is not null && version != before.Version)
            throw new StaleWriteException(before);
        var after = change(before).After(before);
        await store.SaveAsync(before, after, action, caller.Author(), caller.Aborted);
        return CalendarDto.Of(after, CalendarRole.Keeper, true);
    }
}
