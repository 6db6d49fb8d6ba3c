using NodaTime;
using Valtro.Core.Clashes;
using Valtro.Core.Events;
using Valtro.Core.Time;
using Valtro.Server.Audit;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Checks;

/// <summary>One of the events of a clash, on the date in question.</summary>
internal sealed record ClashEventDto(Guid EventId, Guid CalendarId, string Title, LocalDateTime Date);

/// <summary>Something that does not go together, on all its dates.</summary>
/// <param name="Key">What it is accepted by.</param>
/// <param name="Kind">What.</param>
/// <param name="Event">The event on the first date.</param>
/// <param name="Other">The other event on that date.</param>
/// <param name="About">The place or the closure.</param>
/// <param name="CalendarId">For tests the calendar that has too many.</param>
/// <param name="Start">When the first date is, on the school's clock.</param>
/// <param name="Dates">The days of all dates.</param>
/// <param name="Accepted">Why it is all right; null when nobody said so.</param>
/// <param name="AcceptedBy">Who said so.</param>
/// <param name="AcceptedKey">What it was accepted by: its own key, or that of its kind for a series.</param>
/// <param name="Series">The series it is about, with the keys by which all of its kind about them are accepted.</param>
internal sealed record ClashDto(
    string Key,
    ClashKind Kind,
    ClashEventDto Event,
    ClashEventDto? Other,
    string About,
    Guid? CalendarId,
    LocalDateTime Start,
    IReadOnlyList<LocalDate> Dates,
    string? Accepted,
    string? AcceptedBy,
    string? AcceptedKey,
    IReadOnlyList<SeriesKeyDto> Series);

/// <summary>What everything of a kind about a series is accepted by at once.</summary>
internal sealed record SeriesKeyDto(string Key, string Title);

internal sealed record ClashesDto(LocalDate From, LocalDate To, IReadOnlyList<ClashDto> Clashes);

internal sealed record AcceptInput(string Key, string Reason);

/// <summary>An event as it is typed, or as it is saved when it has an identity.</summary>
internal sealed record ClashesRequest(EventInput Event, Guid? Id);

internal static class CheckEndpoints
{
    /// <summary>How far ahead is looked: what is typed now should not surprise in half a year.</summary>
    private const int DaysAhead = 200;

    private const int MaxKey = 200;

    public static void MapChecks(this IEndpointRouteBuilder api)
    {
        api.MapGet("/checks", async (Caller caller, ClashCheck check) =>
        {
            var today = await caller.TodayAsync();
            return await check.OfAsync(new TimeWindow(today, today.PlusDays(DaysAhead), (await caller.SchoolAsync()).Zone));
        });

        // Computes only: what an event as it is typed would clash with.
        api.MapPost("/checks/event", async (ClashesRequest request, EventViews views, ClashCheck check) =>
            await check.OfAsync(await views.TypedAsync(request.Event, request.Id), [])).IsNotLogged();

        api.MapPost("/checks/accept", async (AcceptInput input, Caller caller, AcceptedClashes accepted) =>
        {
            await caller.NeedEditorAsync();
            if (input.Key is not { Length: > 0 and <= MaxKey })
                throw new InvalidInputException("no_such_clash", "key", "There is no such clash.");
            var reason = Texts.Line(input.Reason, "reason", 300);
            if (reason.Length == 0)
                throw new InvalidInputException("reason_missing", "reason", "Say in a few words why it is all right.");
            await accepted.AcceptAsync(input.Key, reason, caller.Author());
            return TypedResults.NoContent();
        });

        api.MapPost("/checks/take-back", async (AcceptInput input, Caller caller, AcceptedClashes accepted) =>
        {
            await caller.NeedEditorAsync();
            await accepted.TakeBackAsync(input.Key ?? "", caller.Author());
            return TypedResults.NoContent();
        });
    }
}
