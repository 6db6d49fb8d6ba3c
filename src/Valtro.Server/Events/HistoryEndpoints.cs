using System.Security.Claims;
using System.Text.Json;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Valtro.Core.Events;
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
        api.MapGet("/events/{id:guid}/history", async (Guid id, ClaimsPrincipal user, Store.Events store) =>
            (await store.HistoryAsync(user.SchoolId(), id))
                .Select(h => new HistoryDto(h.Id, h.At, h.Person, h.Action, h.Before is null ? null : EventDto.Of(h.Before), h.After is null ? null : EventDto.Of(h.After)))
                .ToList());

        api.MapGet("/bin", async (ClaimsPrincipal user, Store.Events store) =>
            (await store.BinAsync(user.SchoolId()))
                .Select(e => new BinnedDto(e.Id, e.CalendarId, e.Title, e.Timing.Start, e.Rule is not null, e.DeletedAt!.Value, e.DeletedAt.Value + Event.BinTime))
                .ToList());

        // The last own step of the last hour, whoever forgot it: a reload, another screen.
        api.MapPost("/me/undo", (ClaimsPrincipal user, Store.Events store, SchoolYears schoolYears, IClock clock) =>
            EventEndpoints.ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var last = await store.LastChangeAsync(author.SchoolId, user.PersonId(), author.Now - UndoTime);
                if (last.Count == 0)
                    throw new NotFoundException("nothing_to_undo", "There is nothing of the last hour to undo.");
                var current = (await store.FindAllAsync(author.SchoolId, [.. last.Select(h => h.After!.Id)])).ToDictionary(e => e.Id);
                var edits = new List<(Event? Before, Event After)>();
                foreach (var entry in last)
                {
                    if (!current.TryGetValue(entry.After!.Id, out var now))
                        throw NotFoundException.Event();
                    if (!IsAs(now, entry.After))
                        throw new StaleWriteException(now);
                    edits.Add((now, entry.Before is null ? now.Delete(author.Now) : EventDto.Of(entry.Before).ToState(now, author.Now, years.Days)));
                }
                await store.SaveAsync(edits, "undo", author, years);
                return new UndoneDto(last[0].Action, [.. last.Select(h => h.After!.Title)]);
            }));
    }

    /// <summary>Whether two states of an event say the same. An undo gives back a state, not its version.</summary>
    private static bool IsAs(Event a, Event b)
    {
        static string Said(Event e) => JsonSerializer.Serialize(EventDto.Of(e) with { Version = 0, ChangedAt = default }, Json);
        return Said(a) == Said(b);
    }
}
