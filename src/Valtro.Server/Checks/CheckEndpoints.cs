using System.Security.Claims;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Clashes;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
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
    string? AcceptedBy);

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
        api.MapGet("/checks", async (
            ClaimsPrincipal user, Caller caller, Schools schools, SchoolYears years, Store.Lists lists, Store.Events events, AcceptedClashes accepted, LinkChecks links, IClock clock) =>
        {
            var school = await schools.GetAsync(user.SchoolId());
            var today = clock.GetCurrentInstant().InZone(school.Zone).Date;
            var window = new TimeWindow(today, today.PlusDays(DaysAhead), school.Zone);
            var found = ClashFinder.Find(
                await events.InWindowAsync(school.Id, window), window, await lists.GetAsync(school.Id), (await years.GetAsync(school.Id)).Days,
                closedLinks: await links.ClosedAsync(school.Id));
            return new ClashesDto(window.From, window.To, ClashCheck.Grouped(school.Id, await ClashCheck.ShownAsync(found, caller), await accepted.ListAsync(school.Id)));
        });

        // Computes only: what an event as it is typed would clash with.
        api.MapPost("/checks/event", async (
            ClashesRequest request, ClaimsPrincipal user, Caller caller, SchoolYears years, Store.Events events, Store.Calendars calendars, ClashCheck check, IClock clock) =>
        {
            var schoolId = user.SchoolId();
            var days = (await years.GetAsync(schoolId)).Days;
            var now = clock.GetCurrentInstant();
            var before = request.Id is { } id ? await events.FindAsync(schoolId, id) : null;
            var draft = await EventEndpoints.DraftAsync(request.Event, before, schoolId, calendars);
            await caller.NeedOfferAsync(request.Event.CalendarId);
            if (before is not null && await caller.DetailOfAsync(before) < Detail.Everything)
                throw NotFoundException.Event();
            // Without a title it clashes all the same.
            var typed = Event.Create(before?.Id ?? Guid.Empty, request.Event.CalendarId, draft with { Title = string.IsNullOrWhiteSpace(draft.Title) ? "…" : draft.Title }, now, days);
            if (before is not null && typed.Rule is not null)
                typed = typed with { Skips = before.Skips, Extras = before.Extras, Changes = before.Changes };
            typed = typed with { CreatedAt = before?.CreatedAt ?? now };
            return await check.OfAsync(typed, []);
        }).IsNotLogged();

        api.MapPost("/checks/accept", async (AcceptInput input, ClaimsPrincipal user, Caller caller, AcceptedClashes accepted, IClock clock) =>
        {
            await caller.NeedEditorAsync();
            if (input.Key is not { Length: > 0 and <= MaxKey })
                throw new InvalidInputException("no_such_clash", "key", "There is no such clash.");
            var reason = Texts.Line(input.Reason, "reason", 300);
            if (reason.Length == 0)
                throw new InvalidInputException("reason_missing", "reason", "Say in a few words why it is all right.");
            await accepted.AcceptAsync(input.Key, reason, user.Author(clock));
            return TypedResults.NoContent();
        });

        api.MapPost("/checks/take-back", async (AcceptInput input, ClaimsPrincipal user, Caller caller, AcceptedClashes accepted) =>
        {
            await caller.NeedEditorAsync();
            await accepted.TakeBackAsync(user.SchoolId(), input.Key ?? "");
            return TypedResults.NoContent();
        });
    }
}
