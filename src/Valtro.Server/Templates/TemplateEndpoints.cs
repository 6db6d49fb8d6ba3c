using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Server.Api;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Templates;

/// <summary>What events can be started from: all of an event but its day.</summary>
internal sealed record TemplateDto(Guid Id, string Name, EventInput Event);

internal sealed record TemplateInput(string? Name, EventInput Event);

internal static class TemplateEndpoints
{
    private const int MaxName = 100;

    public static void MapTemplates(this IEndpointRouteBuilder api)
    {
        var templates = api.MapGroup("/templates");

        templates.MapGet("", async (ClaimsPrincipal user, Store.Templates store, IOptions<JsonOptions> json) =>
            (await store.ListAsync(user.SchoolId()))
                .Select(t => new TemplateDto(t.Id, t.Name, JsonSerializer.Deserialize<EventInput>(t.Event, json.Value.SerializerOptions)!))
                .ToList());

        templates.MapPost("", (TemplateInput input, ClaimsPrincipal user, Caller caller, Store.Templates store, Store.Calendars calendars, IOptions<JsonOptions> json, IClock clock) =>
            SaveAsync(Guid.CreateVersion7(), input, user, caller, store, calendars, json, clock));

        templates.MapPut("/{id:guid}", (Guid id, TemplateInput input, ClaimsPrincipal user, Caller caller, Store.Templates store, Store.Calendars calendars, IOptions<JsonOptions> json, IClock clock) =>
            SaveAsync(id, input, user, caller, store, calendars, json, clock));

        templates.MapDelete("/{id:guid}", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Templates store) =>
        {
            await caller.NeedEditorAsync();
            return await store.RemoveAsync(user.SchoolId(), id) ? TypedResults.NoContent() : throw new NotFoundException("no_such_template", "There is no such template any more.");
        });
    }

    private static async Task<TemplateDto> SaveAsync(
        Guid id, TemplateInput input, ClaimsPrincipal user, Caller caller, Store.Templates store, Store.Calendars calendars, IOptions<JsonOptions> json, IClock clock)
    {
        await caller.NeedEditorAsync();
        var name = Texts.Title(input.Name, "name", MaxName);
        // What is wrong is said now, not when somebody starts from it. Its calendar may go later; it is chosen then.
        var draft = await EventEndpoints.DraftAsync(input.Event, null, user.SchoolId(), calendars);
        var e = Event.Create(id, input.Event.CalendarId, draft with { Follows = null }, clock.GetCurrentInstant());
        // Files belong to an event: a template has none.
        var facts = FactsDto.Of(e.Facts with { Files = [], Picture = null });
        var kept = input.Event with { Title = e.Title, Place = e.Place, Description = e.Description, Facts = facts, Version = null };
        await store.SaveAsync(user.SchoolId(), new StoredTemplate(id, name, JsonSerializer.Serialize(kept, json.Value.SerializerOptions)), clock.GetCurrentInstant());
        return new TemplateDto(id, name, kept);
    }
}
