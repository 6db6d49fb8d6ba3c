using System.Security.Claims;
using System.Text.Json;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Server.Api;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Events;

/// <summary>Something that was done to an event, with the event before and after.</summary>
internal sealed record HistoryDto(Guid Id, Instant At, string? Person, string Action, EventDto? Before, EventDto? After);

/// <summary>An event in the bin.</summary>
internal sealed record BinnedDto(Guid Id, Guid CalendarId, string Title, LocalDateTime Start, bool IsSeries, Instant DeletedAt, Instant Until);

/// <summary>What was undone.</summary>
internal sealed record UndoneDto(string Action, IReadOnlyList<string> Titles);

internal static class HistoryEndpoints
{
    /// <summary>How long one's own steps can be undone, also after a reload.</summary>
    private static readonly Duration UndoTime = Duration.FromHours(1);

    private static readonly JsonSerializerOptions Json = new JsonSerializerOptions(JsonSerializerDefaults.Web).ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    public static void MapHistory(this IEndpointRouteBuilder api)
    {
        api.MapGet("/events/{id:guid}/history", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Events store) =>
        {
            // What was is the team's alone: it may have been less open then.
            if (await store.FindAsync(user.SchoolId(), id) is not { } e || !await caller.IsTeamOfAsync(e))
                throw NotFoundException.Event();
            return (await store.HistoryAsync(user.SchoolId(), id))
                .Select(h => new HistoryDto(h.Id, h.At, h.Person, h.Action, h.Before is null ? null : EventDto.Of(h.Before), h.After is null ? null : EventDto.Of(h.After)))
                .ToList();
        });

        api.MapGet("/bin", async (ClaimsPrincipal user, Caller caller, Store.Events store) =>
        {
            var may = await caller.AccessAsync();
            return (await store.BinAsync(user.SchoolId()))
                .Where(e => may.Has(e.CalendarId, CalendarRole.Editor))
                .Select(e => new BinnedDto(e.Id, e.CalendarId, e.Title, e.Timing.Start, e.Rule is not null, e.DeletedAt!.Value, e.DeletedAt.Value + Event.BinTime))
                .ToList();
        });

        // The last own step of the last hour, whoever forgot it: a reload, another screen.
        api.MapPost("/me/undo", (ClaimsPrincipal user, Caller caller, Steps steps, Store.Events events, Store.Calendars calendars, Store.Lists lists, SchoolYears schoolYears, IClock clock) =>
            EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var last = await steps.LastAsync(author.SchoolId, user.PersonId(), author.Now - UndoTime)
                    ?? throw new NotFoundException("nothing_to_undo", "There is nothing of the last hour to undo.");
                foreach (var part in last.Calendars)
                {
                    await caller.NeedAsync(part.Id, CalendarRole.Keeper);
                    await UndoAsync(part, calendars, author);
                }
                foreach (var part in last.Lists)
                {
                    await caller.NeedAdministratorAsync();
                    await UndoAsync(part, lists, author);
                }
                if (last.Events.Count > 0)
                    await UndoAsync(last.Events, caller, events, author, years);
                return new UndoneDto(last.Action, [.. last.Events.Select(p => p.After.Title), .. last.Calendars.Select(p => p.After.Title)]);
            }));
    }

    // A state is put back only over the state the step left: nobody's later work is lost.
    private static async Task UndoAsync(IReadOnlyList<StepPart<Event>> parts, Caller caller, Store.Events store, Author author, KnownYears years)
    {
        var current = (await store.FindAllAsync(author.SchoolId, [.. parts.Select(p => p.Id)])).ToDictionary(e => e.Id);
        var edits = new List<(Event? Before, Event After)>();
        foreach (var part in parts)
        {
            if (!current.TryGetValue(part.Id, out var now))
                throw NotFoundException.Event();
            await caller.NeedChangeAsync(now, now);
            if (!IsAs(now, part.After))
                throw new StaleWriteException(now);
            edits.Add((now, part.Before is null ? now.Delete(author.Now) : EventDto.Of(part.Before).ToState(now, author.Now, years.Days)));
            await caller.NeedChangeAsync(now, edits[^1].After);
        }
        await store.SaveAsync(edits, "undo", author, years);
    }

    private static async Task UndoAsync(StepPart<Calendar> part, Store.Calendars store, Author author)
    {
        var now = await store.FindAsync(author.SchoolId, part.Id) ?? throw NotFoundException.Calendar();
        // What is in the bin is there, whenever it went in.
        if (now with { Version = 0, DeletedAt = null } != part.After with { Version = 0, DeletedAt = null } || now.DeletedAt is null != part.After.DeletedAt is null)
            throw new StaleWriteException(now);
        await store.SaveAsync(now, (part.Before ?? now with { DeletedAt = author.Now }) with { Version = now.Version + 1 }, "undo", author);
    }

    private static async Task UndoAsync(StepPart<SchoolLists> part, Store.Lists store, Author author)
    {
        var now = await store.GetAsync(author.SchoolId);
        static string Said(SchoolLists l) => JsonSerializer.Serialize(l with { Version = 0 }, Json);
        if (Said(now) != Said(part.After))
            throw new StaleWriteException(now);
        await store.SaveAsync((part.Before ?? SchoolLists.Empty) with { Version = now.Version + 1 }, author, "undo");
    }

    /// <summary>Whether two states of an event say the same. An undo gives back a state, not its version.</summary>
    private static bool IsAs(Event a, Event b)
    {
        static string Said(Event e) => JsonSerializer.Serialize(EventDto.Of(e) with { Version = 0, ChangedAt = default }, Json);
        return Said(a) == Said(b);
    }
}
