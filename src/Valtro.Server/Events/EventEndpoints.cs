using System.Collections.Immutable;
using System.Security.Claims;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Events;

internal sealed record EventInput(
    Guid CalendarId, string? Title, string? Place, string? Description, TimingDto Timing, RuleDto? Rule, int? Version);

internal sealed record SkipInput(LocalDateTime Date, int Version);

internal sealed record DatesRequest(Guid CalendarId, TimingDto Timing, RuleDto? Rule, IReadOnlyList<LocalDateTime>? Skips, LocalDate? Around);

internal sealed record DateDto(LocalDateTime Start, bool Skipped);

/// <summary>The dates an event makes.</summary>
/// <param name="Start">Its start, in step with its rule.</param>
/// <param name="Moved">Whether that is another date than the one given.</param>
/// <param name="Total">How many dates there are, left-out ones not counted; null when it never ends.</param>
/// <param name="Last">The last date; null when it never ends.</param>
/// <param name="Dates">Some dates around the one asked for.</param>
internal sealed record DatesDto(LocalDateTime Start, bool Moved, int? Total, LocalDate? Last, IReadOnlyList<DateDto> Dates);

internal static class EventEndpoints
{
    private const int DatesShown = 12;

    public static void MapEvents(this IEndpointRouteBuilder api)
    {
        var events = api.MapGroup("/events");

        events.MapGet("/{id:guid}", async (Guid id, ClaimsPrincipal user, Store.Events store) =>
            EventDto.Of(await store.FindAsync(user.SchoolId(), id) ?? throw NotFoundException.Event()));

        events.MapPost("", async (EventInput input, ClaimsPrincipal user, Store.Events store, Store.Calendars calendars, IClock clock) =>
        {
            var author = user.Author(clock);
            var draft = await DraftAsync(input, null, author.SchoolId, calendars);
            var e = Event.Create(Guid.CreateVersion7(), input.CalendarId, draft, author.Now);
            await store.SaveAsync(null, e, "create", author);
            return EventDto.Of(e);
        });

        events.MapPut("/{id:guid}", async (Guid id, EventInput input, ClaimsPrincipal user, Store.Events store, Store.Calendars calendars, IClock clock) =>
        {
            var author = user.Author(clock);
            var before = await FindAsync(id, input.Version, author, store);
            var draft = await DraftAsync(input, before, author.SchoolId, calendars);
            var after = before.Change(draft, input.CalendarId, author.Now);
            await store.SaveAsync(before, after, "change", author);
            return EventDto.Of(after);
        });

        events.MapDelete("/{id:guid}", (Guid id, int version, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, version, "bin", user, store, clock, (e, now) => e.Delete(now)));

        events.MapPost("/{id:guid}/restore", (Guid id, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, null, "restore", user, store, clock, (e, now) => e.Restore(now)));

        events.MapPost("/{id:guid}/leave-out", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "leave out", user, store, clock, (e, now) => e.Skip(input.Date, now)));

        events.MapPost("/{id:guid}/put-back", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "put back", user, store, clock, (e, now) => e.Unskip(input.Date, now)));

        // Computes only: the sheet shows the dates of what is being typed.
        events.MapPost("/dates", async (DatesRequest request, ClaimsPrincipal user, Store.Calendars calendars) =>
        {
            var calendar = await calendars.FindAsync(user.SchoolId(), request.CalendarId) ?? throw NotFoundException.Calendar();
            return Dates(request.Timing.ToTiming(calendar.Zone), request.Rule?.ToRule(), request.Skips ?? [], request.Around);
        });
    }

    internal static DatesDto Dates(EventTiming given, RecurrenceRule? rule, IReadOnlyList<LocalDateTime> skips, LocalDate? around)
    {
        if (skips.Count > Event.MaxSkips)
            throw new InvalidInputException("too_many_skips", "skips", $"A series holds {Event.MaxSkips} left-out dates at most.");
        var (timing, _) = Event.InStep(new EventDraft(null, null, null, given, rule));
        var left = skips.Order().ToImmutableArray();
        var all = new SeriesDates(timing, rule, []);
        var kept = new SeriesDates(timing, rule, left);
        int? total = all.IsEndless ? null : kept.FirstStarts(RecurrenceRule.MaxCount).Count();

        var dates = all.StartsFrom((around ?? timing.Start.Date).PlusDays(-14), DatesShown)
            .Select(start => new DateDto(start, left.BinarySearch(start) >= 0))
            .ToList();
        return new DatesDto(timing.Start, timing.Start != given.Start, total, all.Last?.Date, dates);
    }

    private static async Task<Event> FindAsync(Guid id, int? version, Author author, Store.Events store)
    {
        var before = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Event();
        return version is null || version == before.Version ? before : throw new StaleWriteException(before);
    }

    private static async Task<EventDraft> DraftAsync(EventInput input, Event? before, Guid schoolId, Store.Calendars calendars)
    {
        var calendar = await calendars.FindAsync(schoolId, input.CalendarId) ?? throw NotFoundException.Calendar();
        if (calendar.DeletedAt is not null)
            throw new InvalidInputException("calendar_in_bin", "calendarId", "This calendar lies in the bin. Take it out first, or choose another one.");
        var timing = input.Timing.ToTiming(before?.Timing.Zone ?? calendar.Zone);
        return new EventDraft(input.Title, input.Place, input.Description, timing, input.Rule?.ToRule());
    }

    private static async Task<EventDto> ChangeAsync(
        Guid id, int? version, string action, ClaimsPrincipal user, Store.Events store, IClock clock, Func<Event, Instant, Event> change)
    {
        var author = user.Author(clock);
        var before = await FindAsync(id, version, author, store);
        var after = change(before, author.Now);
        if (after != before)
            await store.SaveAsync(before, after, action, author);
        return EventDto.Of(after);
    }
}
