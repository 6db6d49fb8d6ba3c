using System.Collections.Immutable;
using System.Security.Claims;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Recurrence.Sentences;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Events;

internal sealed record EventInput(
    Guid CalendarId, string? Title, string? Place, string? Description, TimingDto Timing, RuleDto? Rule, int? Version);

internal sealed record SkipInput(LocalDateTime Date, int Version);

internal sealed record ChoiceInput(LocalDateTime Date, MisfitChoice Choice);

/// <summary>An edit of an event: its fields, and for which of its dates they are meant.</summary>
internal sealed record EditInput(
    Guid CalendarId,
    string? Title,
    string? Place,
    string? Description,
    TimingDto Timing,
    RuleDto? Rule,
    int? Version,
    EditScope Scope = EditScope.EveryDate,
    LocalDateTime? Date = null,
    IReadOnlyList<ChoiceInput>? Choices = null);

internal sealed record MovedDto(LocalDateTime From, LocalDateTime To);

/// <summary>What becomes of a change: the date it goes to, or none and the nearest there is.</summary>
internal sealed record PlannedChangeDto(ChangeDto Change, LocalDateTime? To, LocalDateTime? Nearest);

/// <summary>What an edit would do.</summary>
internal sealed record PlanDto(
    bool Splits,
    IReadOnlyList<LocalDateTime> Come,
    IReadOnlyList<LocalDateTime> Gone,
    IReadOnlyList<MovedDto> Moved,
    IReadOnlyList<PlannedChangeDto> Refitted,
    IReadOnlyList<PlannedChangeDto> Misfits,
    int KeptChanges,
    IReadOnlyList<LocalDateTime> LostSkips);

/// <summary>What an edit did: the event, and the events that are new with it.</summary>
internal sealed record EditedDto(EventDto Event, IReadOnlyList<EventDto> Added);

/// <summary>Puts an event back to the state it had before an edit, and the events that came with it into the bin.</summary>
internal sealed record UndoInput(EventDto State, int Version, IReadOnlyList<Guid>? Added);

internal sealed record DatesRequest(
    Guid CalendarId, TimingDto Timing, RuleDto? Rule, IReadOnlyList<LocalDateTime>? Skips, LocalDate? Around, IReadOnlyList<LocalDateTime>? Extras = null, string? Language = null);

internal sealed record DateDto(LocalDateTime Start, bool Skipped);

/// <summary>The dates an event makes.</summary>
/// <param name="Start">Its start, in step with its rule.</param>
/// <param name="Moved">Whether that is another date than the one given.</param>
/// <param name="Total">How many dates there are, left-out ones not counted; null when it never ends.</param>
/// <param name="Last">The last date; null when it never ends.</param>
/// <param name="Dates">Some dates around the one asked for.</param>
/// <param name="Sentence">The rule as a sentence in the language asked for; empty for a one-time event.</param>
internal sealed record DatesDto(LocalDateTime Start, bool Moved, int? Total, LocalDate? Last, IReadOnlyList<DateDto> Dates, string Sentence);

internal static class EventEndpoints
{
    private const int DatesShown = 12;
    private const int MostCounted = 10_000;

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

        events.MapPut("/{id:guid}", async (Guid id, EditInput input, ClaimsPrincipal user, Store.Events store, Store.Calendars calendars, IClock clock) =>
        {
            var author = user.Author(clock);
            var plan = await PlanAsync(id, input, author, store, calendars);
            if (plan.Undecided.Count > 0)
                throw new InvalidInputException("changes_undecided", "choices", "Some changed dates no longer fit. Decide for each what becomes of it.");
            if (!plan.IsEmpty)
                await store.SaveAsync([(plan.Before, plan.After), .. plan.Added.Select(e => ((Event?)null, e))], "change", author);
            return new EditedDto(EventDto.Of(plan.After), [.. plan.Added.Select(EventDto.Of)]);
        });

        // Computes only: what the edit would do, before it is done.
        events.MapPost("/{id:guid}/plan", async (Guid id, EditInput input, ClaimsPrincipal user, Store.Events store, Store.Calendars calendars, IClock clock) =>
        {
            var plan = await PlanAsync(id, input, user.Author(clock), store, calendars);
            static PlannedChangeDto Planned(PlannedChange c) => new(ChangeDto.Of(c.Change), c.To, c.Nearest);
            return new PlanDto(
                plan.Second is not null,
                plan.Come,
                plan.Gone,
                [.. plan.Moved.Select(m => new MovedDto(m.From, m.To))],
                [.. plan.Changes.Where(c => !c.IsKept && !c.IsMisfit).Select(Planned)],
                [.. plan.Changes.Where(c => c.IsMisfit).Select(Planned)],
                plan.Changes.Count(c => c.IsKept),
                plan.LostSkips);
        });

        events.MapPost("/{id:guid}/undo", async (Guid id, UndoInput input, ClaimsPrincipal user, Store.Events store, Store.Calendars calendars, IClock clock) =>
        {
            var author = user.Author(clock);
            var before = await FindAsync(id, input.Version, author, store);
            _ = await calendars.FindAsync(author.SchoolId, input.State.CalendarId) ?? throw NotFoundException.Calendar();
            var after = input.State.ToState(before, author.Now);
            var edits = new List<(Event? Before, Event After)> { (before, after) };
            foreach (var added in input.Added ?? [])
            {
                if (await store.FindAsync(author.SchoolId, added) is { RelatedTo: { } origin } e && origin == before.Uid)
                    edits.Add((e, e.Delete(author.Now)));
            }
            await store.SaveAsync(edits, "undo", author);
            return EventDto.Of(after);
        });

        events.MapPost("/{id:guid}/call-off", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "call off", user, store, clock, (e, now) => e.CallOff(input.Date, true, now)));

        events.MapPost("/{id:guid}/call-on", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "call on", user, store, clock, (e, now) => e.CallOff(input.Date, false, now)));

        events.MapPost("/{id:guid}/as-others", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "as others", user, store, clock, (e, now) => e.WithoutChange(input.Date, now)));

        events.MapPost("/{id:guid}/add-date", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "add date", user, store, clock, (e, now) => e.AddDate(input.Date, now)));

        events.MapPost("/{id:guid}/remove-date", (Guid id, SkipInput input, ClaimsPrincipal user, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "remove date", user, store, clock, (e, now) => e.RemoveExtra(input.Date, now)));

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
            return Dates(request.Timing.ToTiming(calendar.Zone), request.Rule?.ToRule(), request.Skips ?? [], request.Extras ?? [], request.Around, request.Language);
        });
    }

    internal static DatesDto Dates(
        EventTiming given, RecurrenceRule? rule, IReadOnlyList<LocalDateTime> skips, IReadOnlyList<LocalDateTime> extras, LocalDate? around, string? language)
    {
        if (skips.Count > Event.MaxSkips || extras.Count > Event.MaxSkips)
            throw new InvalidInputException("too_many_skips", "skips", $"A series holds {Event.MaxSkips} left-out and added dates at most.");
        var (timing, _) = Event.InStep(new EventDraft(null, null, null, given, rule));
        var left = skips.Order().ToImmutableArray();
        var added = extras.Order().ToImmutableArray();
        var all = new SeriesDates(timing, rule, [], added);
        var kept = new SeriesDates(timing, rule, left, added);
        int? total = all.IsEndless ? null : kept.FirstStarts(MostCounted).Count();

        var dates = all.StartsFrom((around ?? timing.Start.Date).PlusDays(-14), DatesShown)
            .Select(start => new DateDto(start, left.BinarySearch(start) >= 0))
            .ToList();
        return new DatesDto(timing.Start, timing.Start != given.Start, total, all.Last?.Date, dates, rule is null ? "" : RuleSentence.Of(rule, timing.Start, language ?? "en"));
    }

    private static async Task<Event> FindAsync(Guid id, int? version, Author author, Store.Events store)
    {
        var before = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Event();
        return version is null || version == before.Version ? before : throw new StaleWriteException(before);
    }

    private static async Task<SeriesPlan> PlanAsync(Guid id, EditInput input, Author author, Store.Events store, Store.Calendars calendars)
    {
        var before = await FindAsync(id, input.Version, author, store);
        var fields = new EventInput(input.CalendarId, input.Title, input.Place, input.Description, input.Timing, input.Rule, input.Version);
        var draft = await DraftAsync(fields, before, author.SchoolId, calendars);
        var edit = new SeriesEdit(input.Scope, input.Date ?? before.Timing.Start, draft, input.CalendarId);
        var choices = (input.Choices ?? []).DistinctBy(c => c.Date).ToDictionary(c => c.Date, c => c.Choice);
        return SeriesEditor.Plan(before, edit, choices, author.Now, Guid.CreateVersion7);
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
