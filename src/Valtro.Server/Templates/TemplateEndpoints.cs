using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Templates;

/// <summary>What events can be started from: all of an event but its day.</summary>
internal sealed record TemplateDto(Guid Id, string Name, EventInput Event);

internal sealed record TemplateInput(string? Name, EventInput Event);

internal static class TemplateEndpoints
{
    public static void MapTemplates(this IEndpointRouteBuilder api)
    {
        var templates = api.MapGroup("/templates");

        // What is started from in a calendar that somebody may not read is not told to them, by no name.
        templates.MapGet("", async (TemplateViews templates) => await templates.ListAsync());

        templates.MapPost("", (TemplateInput input, TemplateViews templates) => templates.SaveAsync(Guid.CreateVersion7(), null, input));

        templates.MapPut("/{id:guid}", async (Guid id, TemplateInput input, Caller caller, TemplateViews templates) =>
        {
            await caller.NeedEditorAsync();
            return await templates.SaveAsync(id, await templates.NeedAsync(id), input);
        });

        templates.MapDelete("/{id:guid}", async (Guid id, Caller caller, TemplateViews templates, Store.Templates store) =>
        {
            await caller.NeedEditorAsync();
            var template = await templates.NeedAsync(id);
            return await store.RemoveAsync(id, template.Event.CalendarId, caller.Author()) ? TypedResults.NoContent() : throw TemplateViews.Missing();
        });
    }
}

/// <summary>Templates as the one who asks may know them.</summary>
internal sealed class TemplateViews(Caller caller, EventViews views, Store.Templates store, Contents contents, IOptions<JsonOptions> json)
{
    private const int MaxName = 100;

    public static NotFoundException Missing() => new("no_such_template", "There is no such template any more.");

    public async Task<IReadOnlyList<TemplateDto>> ListAsync()
    {
        var told = new List<TemplateDto>();
        foreach (var template in await store.ListAsync(caller.SchoolId))
        {
            var kept = JsonSerializer.Deserialize<EventInput>(template.Event, json.Value.SerializerOptions)!;
            if (await views.TemplateAsync(kept) is { } view)
                told.Add(new TemplateDto(template.Id, template.Name, kept with { Facts = FactsDto.Of(view.Facts, view.StandsIn.Skip(1)) }));
        }
        return told;
    }

    /// <exception cref="NotFoundException">There is none that they may know of.</exception>
    public async Task<TemplateDto> NeedAsync(Guid id) => (await ListAsync()).FirstOrDefault(t => t.Id == id) ?? throw Missing();

    /// <summary>Whether they may start from a template that has these contents.</summary>
    public async Task<bool> HaveContentAsync(Guid contentId) =>
        (await ListAsync()).Any(t => t.Event.Facts is { } f && (f.Picture?.Id == contentId || f.Files?.Any(file => file.ContentId == contentId) == true));

    // What somebody may not read they cannot hand on.
    private async Task NeedContentAsync(Guid id)
    {
        if (await contents.FindAsync(caller.SchoolId, id) is not { } content || (content.PersonId != caller.PersonId && !await views.MayReadContentAsync(id) && !await HaveContentAsync(id)))
            throw new InvalidInputException("no_such_file", "facts.files", "One of the files is not there any more. Add it again.");
    }

    /// <summary>Keeps a new template, or one that there is anew.</summary>
    public async Task<TemplateDto> SaveAsync(Guid id, TemplateDto? before, TemplateInput input)
    {
        await caller.NeedEditorAsync();
        var name = Texts.Title(input.Name, "name", MaxName);
        await caller.NeedAsync(input.Event.CalendarId, CalendarRole.Editor);
        // What is wrong is said now, not when somebody starts from it. Its calendar may go later; it is chosen then.
        var view = await views.TypedAsync(input.Event with { Title = Texts.Title(input.Event.Title, "title", Event.MaxTitle), Follows = null }, null);
        foreach (var content in view.Facts.Files.Select(f => f.ContentId).Concat(view.Facts.Picture is { } picture ? [picture.Id] : []))
            await NeedContentAsync(content);
        var kept = input.Event with { Title = view.Title, Place = view.Place, Description = view.Description, Facts = FactsDto.Of(view.Facts, view.StandsIn.Skip(1)), Version = null };
        if (before is not null && before.Event.CalendarId != kept.CalendarId)
            await caller.NeedAsync(before.Event.CalendarId, CalendarRole.Reader);
        await store.SaveAsync(new StoredTemplate(id, name, JsonSerializer.Serialize(kept, json.Value.SerializerOptions)), kept.CalendarId, view.Facts, caller.Author());
        return new TemplateDto(id, name, kept);
    }
}
