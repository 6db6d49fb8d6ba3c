using System.Collections.Immutable;
using System.Security.Claims;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence.Sentences;
using Valtro.Core.SchoolYears;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Calendars;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Events;

internal sealed record EventInput(
    Guid CalendarId, string? Title, string? Place, string? Description, TimingDto Timing, RuleDto? Rule, int? Version, FollowsDto? Follows = null, FactsDto? Facts = null);

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
    FollowsDto? Follows = null,
    FactsDto? Facts = null,
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

internal sealed record ManyInput(IReadOnlyList<EventInput>? Events);

/// <summary>A date of an event.</summary>
internal sealed record ChosenDateDto(Guid EventId, LocalDateTime Date);

/// <summary>One change for many dates; what is not said stays.</summary>
internal sealed record BulkInput(
    IReadOnlyList<ChosenDateDto>? Dates,
    int? MoveDays = null,
    Guid? CalendarId = null,
    string? Place = null,
    bool SetsCategory = false,
    Guid? CategoryId = null,
    IReadOnlyList<string>? AddTags = null,
    bool? IsDraft = null,
    bool? IsOff = null,
    bool Deletes = false,
    bool SetsReach = false,
    ReachDto? Reach = null)
{
    public const int MaxDates = 500;

    public BulkAction ToAction() => new()
    {
        MoveDays = MoveDays,
        CalendarId = CalendarId,
        Place = Place,
        SetsCategory = SetsCategory,
        CategoryId = CategoryId,
        AddTags = [.. (AddTags ?? []).Select(t => t ?? "")],
        IsDraft = IsDraft,
        IsOff = IsOff,
        Deletes = Deletes,
        SetsReach = SetsReach,
        Reach = Reach?.ToTable(),
    };
}

/// <summary>An event as it was before a change of many, and its version since.</summary>
internal sealed record BulkChangedDto(EventDto State, int Version);

internal sealed record BulkDto(IReadOnlyList<BulkChangedDto> Events);

internal sealed record UndoManyInput(IReadOnlyList<BulkChangedDto>? Events);

internal sealed record DatesRequest(
    Guid CalendarId, TimingDto Timing, RuleDto? Rule, IReadOnlyList<LocalDateTime>? Skips, LocalDate? Around, IReadOnlyList<LocalDateTime>? Extras = null, string? Language = null, FollowsDto? Follows = null, LocalDate? Month = null);

internal sealed record DateDto(LocalDateTime Start, bool Skipped);

/// <summary>A day on which the event's calendar is shut.</summary>
internal sealed record ShutDayDto(LocalDate Date, string Closure);

/// <summary>The dates an event makes.</summary>
/// <param name="Start">Its first date.</param>
/// <param name="Moved">Whether that is another date than the one given.</param>
/// <param name="Total">How many dates there are, left-out ones not counted; null when it never ends.</param>
/// <param name="Last">The last date; null when it never ends.</param>
/// <param name="Month">The first of the two months shown: the one asked for, or that of the first date from the day asked for on.</param>
/// <param name="Dates">The dates in these months; the first ones, when there are very many.</param>
/// <param name="Shut">The days in these months on which the calendar is shut.</param>
/// <param name="Sentence">The rule as a sentence in the language asked for; empty for a one-time event.</param>
internal sealed record DatesDto(
    LocalDateTime Start, bool Moved, int? Total, LocalDate? Last, LocalDate Month, IReadOnlyList<DateDto> Dates, IReadOnlyList<ShutDayDto> Shut, string Sentence);

internal static class EventEndpoints
{
    private const int MonthsShown = 2;
    private const int MostShown = 500;
    private const int MostCounted = 10_000;

    public static void MapEvents(this IEndpointRouteBuilder api)
    {
        var events = api.MapGroup("/events");

        events.MapGet("/{id:guid}", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Events store) =>
        {
            var e = await store.FindAsync(user.SchoolId(), id) ?? throw NotFoundException.Event();
            var detail = await caller.DetailOfAsync(e);
            return detail switch
            {
                Detail.Everything => EventDto.Of(e),
                // Where else it stands is not said either.
                Detail.Headlines => EventDto.Of(e.At(detail, user.PersonId()) with { Facts = EventFacts.None }),
                _ => throw NotFoundException.Event(),
            };
        });

        events.MapPost("", (EventInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var draft = await DraftAsync(input, null, author.SchoolId, calendars);
                var e = Event.Create(Guid.CreateVersion7(), input.CalendarId, draft, author.Now, years.Days);
                await caller.NeedChangeAsync(null, e);
                await store.SaveAsync(null, e, "create", author, years);
                return EventDto.Of(e);
            }));

        events.MapPut("/{id:guid}", (Guid id, EditInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var plan = await PlanAsync(await FindAsync(id, input.Version, author, caller, store), input, author, calendars, years.Days);
                await caller.NeedChangeAsync(plan.Before, plan.After);
                foreach (var added in plan.Added)
                    await caller.NeedChangeAsync(plan.Before, added);
                if (plan.Undecided.Count > 0)
                    throw Undecided();
                if (!plan.IsEmpty)
                    await store.SaveAsync([(plan.Before, plan.After), .. plan.Added.Select(e => ((Event?)null, e))], "change", author, years);
                return new EditedDto(EventDto.Of(plan.After), [.. plan.Added.Select(EventDto.Of)]);
            }));

        // Computes only: what the edit would do, before it is done or proposed.
        events.MapPost("/{id:guid}/plan", async (Guid id, EditInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
        {
            var before = await store.FindAsync(user.SchoolId(), id) ?? throw NotFoundException.Event();
            if (await caller.DetailOfAsync(before) < Detail.Everything)
                throw NotFoundException.Event();
            await caller.NeedOfferAsync(before.CalendarId);
            if (input.Version is not null && input.Version != before.Version)
                throw new StaleWriteException(before);
            var plan = await PlanAsync(before, input, user.Author(clock), calendars, (await schoolYears.GetAsync(user.SchoolId())).Days);
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
        }).IsNotLogged();

        // Several new ones, as from a pasted list: all of them or none.
        events.MapPost("/many", (ManyInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                if (input.Events is null or { Count: 0 or > LinesRequest.MaxLines })
                    throw new InvalidInputException("selection_size", "events", $"Between 1 and {LinesRequest.MaxLines} events are added at once.");
                var homes = new Dictionary<Guid, Calendar>();
                foreach (var id in input.Events.Select(e => e.CalendarId).Distinct())
                    homes.Add(id, await HomeAsync(id, author.SchoolId, calendars));
                await CheckPlacementsAsync([.. input.Events.SelectMany(e => e.Facts?.AlsoIn ?? [])], author.SchoolId, calendars);
                var made = new List<(Event? Before, Event After)>();
                foreach (var one in input.Events)
                {
                    var draft = Draft(one, null, homes[one.CalendarId]);
                    made.Add((null, Event.Create(Guid.CreateVersion7(), one.CalendarId, draft, author.Now, years.Days)));
                    await caller.NeedChangeAsync(null, made[^1].After);
                }
                await store.SaveAsync(made, "create", author, years);
                return made.Select(e => EventDto.Of(e.After)).ToList();
            }));

        // Many at once: all of them or none, and one way back.
        events.MapPost("/bulk", (BulkInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                if (input.Dates is null or { Count: 0 or > BulkInput.MaxDates })
                    throw new InvalidInputException("selection_size", "dates", $"Choose between 1 and {BulkInput.MaxDates} dates.");
                if (input.CalendarId is { } to && await calendars.FindAsync(author.SchoolId, to) is not { DeletedAt: null })
                    throw NotFoundException.Calendar();
                var chosen = input.Dates.ToLookup(d => d.EventId, d => d.Date);
                var before = await store.FindAllAsync(author.SchoolId, [.. chosen.Select(g => g.Key)]);
                if (before.Count != chosen.Count)
                    throw NotFoundException.Event();
                foreach (var one in before)
                    await caller.NeedChangeAsync(one, one);
                var action = input.ToAction();
                var edits = before
                    .Select(e => (Before: e, After: BulkEditor.Apply(e, [.. chosen[e.Id].Distinct().Order()], action, author.Now, years.Days)))
                    .Where(e => !ReferenceEquals(e.Before, e.After))
                    .ToList();
                foreach (var (one, after) in edits)
                    await caller.NeedChangeAsync(one, after);
                if (edits.Count > 0)
                    await store.SaveAsync([.. edits.Select(e => ((Event?)e.Before, e.After))], "change many", author, years);
                return new BulkDto([.. edits.Select(e => new BulkChangedDto(EventDto.Of(e.Before), e.After.Version))]);
            }));

        events.MapPost("/undo", (UndoManyInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                if (input.Events is null or { Count: 0 or > BulkInput.MaxDates })
                    throw new InvalidInputException("selection_size", "events", $"Between 1 and {BulkInput.MaxDates} events are put back at once.");
                var now = (await store.FindAllAsync(author.SchoolId, [.. input.Events.Select(e => e.State.Id)])).ToDictionary(e => e.Id);
                var known = (await calendars.ListAsync(author.SchoolId)).Select(c => c.Id).ToHashSet();
                await CheckPlacementsAsync([.. input.Events.SelectMany(e => e.State.Facts.AlsoIn ?? [])], author.SchoolId, calendars);
                var edits = new List<(Event? Before, Event After)>();
                foreach (var (state, version) in input.Events.DistinctBy(e => e.State.Id))
                {
                    if (!now.TryGetValue(state.Id, out var current))
                        throw NotFoundException.Event();
                    await caller.NeedChangeAsync(current, current);
                    if (current.Version != version)
                        throw new StaleWriteException(current);
                    if (!known.Contains(state.CalendarId))
                        throw NotFoundException.Calendar();
                    edits.Add((current, state.ToState(current, author.Now, years.Days)));
                }
                foreach (var (one, after) in edits)
                    await caller.NeedChangeAsync(one, after);
                await store.SaveAsync(edits, "undo", author, years);
                return new BulkDto([.. edits.Select(e => new BulkChangedDto(EventDto.Of(e.Before!), e.After.Version))]);
            }));

        events.MapPost("/{id:guid}/undo", (Guid id, UndoInput input, ClaimsPrincipal user, Caller caller, Store.Events store, Store.Calendars calendars, SchoolYears schoolYears, IClock clock) =>
            ByYearsAsync(user, schoolYears, async years =>
            {
                var author = user.Author(clock);
                var before = await FindAsync(id, input.Version, author, caller, store);
                _ = await calendars.FindAsync(author.SchoolId, input.State.CalendarId) ?? throw NotFoundException.Calendar();
                await CheckPlacementsAsync(input.State.Facts.AlsoIn ?? [], author.SchoolId, calendars);
                var after = input.State.ToState(before, author.Now, years.Days);
                var edits = new List<(Event? Before, Event After)> { (before, after) };
                foreach (var added in input.Added ?? [])
                {
                    if (await store.FindAsync(author.SchoolId, added) is { RelatedTo: { } origin } e && origin == before.Uid)
                        edits.Add((e, e.Delete(author.Now)));
                }
                foreach (var (one, other) in edits)
                    await caller.NeedChangeAsync(one, other);
                await store.SaveAsync(edits, "undo", author, years);
                return EventDto.Of(after);
            }));

        events.MapPost("/{id:guid}/call-off", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "call off", user, caller, store, clock, (e, now) => e.CallOff(input.Date, true, now)));

        events.MapPost("/{id:guid}/call-on", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "call on", user, caller, store, clock, (e, now) => e.CallOff(input.Date, false, now)));

        events.MapPost("/{id:guid}/as-others", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "as others", user, caller, store, clock, (e, now) => e.WithoutChange(input.Date, now)));

        events.MapPost("/{id:guid}/add-date", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "add date", user, caller, store, clock, (e, now) => e.AddDate(input.Date, now)));

        events.MapPost("/{id:guid}/remove-date", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "remove date", user, caller, store, clock, (e, now) => e.RemoveExtra(input.Date, now)));

        events.MapDelete("/{id:guid}", (Guid id, int version, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, version, "bin", user, caller, store, clock, (e, now) => e.Delete(now)));

        events.MapPost("/{id:guid}/restore", (Guid id, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, null, "restore", user, caller, store, clock, (e, now) => e.Restore(now)));

        events.MapPost("/{id:guid}/leave-out", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "leave out", user, caller, store, clock, (e, now) => e.Skip(input.Date, now)));

        events.MapPost("/{id:guid}/put-back", (Guid id, SkipInput input, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock) =>
            ChangeAsync(id, input.Version, "put back", user, caller, store, clock, (e, now) => e.Unskip(input.Date, now)));

        // Computes only: the sheet shows the dates of what is being typed.
        events.MapPost("/dates", async (DatesRequest request, ClaimsPrincipal user, Caller caller, Store.Calendars calendars, SchoolYears years) =>
        {
            await caller.NeedSightAsync(request.CalendarId);
            var calendar = await calendars.FindAsync(user.SchoolId(), request.CalendarId) ?? throw NotFoundException.Calendar();
            var draft = new EventDraft(null, null, null, request.Timing.ToTiming(calendar.Zone), request.Rule?.ToRule(), request.Follows?.ToRule());
            return Dates(draft, calendar, (await years.GetAsync(user.SchoolId())).Days, request.Language, request.Skips ?? [], request.Extras ?? [], request.Around, request.Month);
        }).IsNotLogged();
    }

    internal static DatesDto Dates(
        EventDraft draft,
        Calendar calendar,
        SchoolDays days,
        string? language,
        IReadOnlyList<LocalDateTime> skips,
        IReadOnlyList<LocalDateTime> extras,
        LocalDate? around,
        LocalDate? shownMonth)
    {
        if (skips.Count > Event.MaxSkips || extras.Count > Event.MaxSkips)
            throw new InvalidInputException("too_many_skips", "skips", $"A series holds {Event.MaxSkips} left-out and added dates at most.");
        // Its texts play no part in its dates.
        var e = Event.Create(Guid.Empty, calendar.Id, draft with { Title = "?" }, default, days) with
        {
            Skips = [.. skips.Order()],
            Extras = [.. extras.Order()],
        };
        var dates = e.Dates;
        var first = dates.First ?? e.Timing.Start;
        int? total = dates.IsEndless ? null : dates.FirstStarts(MostCounted).Count();

        var month = shownMonth ?? dates.StartsFrom(around ?? first.Date, 1)[0].Date;
        month = new LocalDate(month.Year, month.Month, 1);
        var after = month.PlusMonths(MonthsShown);
        var shown = dates.Between(month, after).Take(MostShown)
            .Select(start => new DateDto(start, e.Skips.BinarySearch(start) >= 0))
            .ToList();
        var shut = Enumerable.Range(0, Period.DaysBetween(month, after))
            .Select(i => month.PlusDays(i))
            .Select(date => (Date: date, Closure: days.ClosureOf(date, calendar.Id)))
            .Where(d => d.Closure is not null)
            .Select(d => new ShutDayDto(d.Date, d.Closure!.Name))
            .ToList();
        var letters = days.Year(month).WeekLetters;
        var sentence = draft.Rule is null ? "" : RuleSentence.Of(draft.Rule, e.Timing.Start, language ?? "en", e.Follows, letters);
        return new DatesDto(first, first != draft.Timing.Start, total, dates.Last?.Date, month, shown, shut, sentence);
    }

    /// <summary>Does what computes dates by the school's years; once more when these change meanwhile.</summary>
    internal static async Task<T> ByYearsAsync<T>(ClaimsPrincipal user, SchoolYears schoolYears, Func<KnownYears, Task<T>> act)
    {
        try
        {
            return await act(await schoolYears.GetAsync(user.SchoolId()));
        }
        catch (StaleYearsException)
        {
            return await act(await schoolYears.GetAsync(user.SchoolId()));
        }
    }

    private static async Task<Event> FindAsync(Guid id, int? version, Author author, Caller caller, Store.Events store)
    {
        var before = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Event();
        // First of all: what is stored now is told to whoever sends an old version.
        await caller.NeedChangeAsync(before, before);
        return version is null || version == before.Version ? before : throw new StaleWriteException(before);
    }

    internal static async Task<SeriesPlan> PlanAsync(Event before, EditInput input, Author author, Store.Calendars calendars, SchoolDays days)
    {
        var fields = new EventInput(input.CalendarId, input.Title, input.Place, input.Description, input.Timing, input.Rule, input.Version, input.Follows, input.Facts);
        var draft = await DraftAsync(fields, before, author.SchoolId, calendars);
        var edit = new SeriesEdit(input.Scope, input.Date ?? before.Timing.Start, draft, input.CalendarId);
        var choices = (input.Choices ?? []).DistinctBy(c => c.Date).ToDictionary(c => c.Date, c => c.Choice);
        return SeriesEditor.Plan(before, edit, choices, author.Now, Guid.CreateVersion7, days);
    }

    internal static InvalidInputException Undecided() =>
        new("changes_undecided", "choices", "Some changed dates no longer fit. Decide for each what becomes of it.");

    internal static async Task<EventDraft> DraftAsync(EventInput input, Event? before, Guid schoolId, Store.Calendars calendars)
    {
        var calendar = await HomeAsync(input.CalendarId, schoolId, calendars);
        await CheckPlacementsAsync(input.Facts?.AlsoIn ?? [], schoolId, calendars);
        return Draft(input, before, calendar);
    }

    private static async Task<Calendar> HomeAsync(Guid id, Guid schoolId, Store.Calendars calendars)
    {
        var calendar = await calendars.FindAsync(schoolId, id) ?? throw NotFoundException.Calendar();
        return calendar.DeletedAt is null
            ? calendar
            : throw new InvalidInputException("calendar_in_bin", "calendarId", "This calendar lies in the bin. Take it out first, or choose another one.");
    }

    private static EventDraft Draft(EventInput input, Event? before, Calendar calendar)
    {
        var timing = input.Timing.ToTiming(before?.Timing.Zone ?? calendar.Zone);
        return new EventDraft(input.Title, input.Place, input.Description, timing, input.Rule?.ToRule(), input.Follows?.ToRule(), input.Facts?.ToFacts());
    }

    /// <summary>An event stands in calendars of its own school only.</summary>
    private static async Task CheckPlacementsAsync(IReadOnlyList<Guid> alsoIn, Guid schoolId, Store.Calendars calendars)
    {
        if (alsoIn.Count == 0)
            return;
        var known = (await calendars.ListAsync(schoolId)).Select(c => c.Id).ToHashSet();
        if (alsoIn.Any(id => !known.Contains(id)))
            throw new InvalidInputException("no_such_calendar", "facts.alsoIn", "One of the calendars is not there any more. Choose again where it stands.");
    }

    private static async Task<EventDto> ChangeAsync(
        Guid id, int? version, string action, ClaimsPrincipal user, Caller caller, Store.Events store, IClock clock, Func<Event, Instant, Event> change)
    {
        var author = user.Author(clock);
        var before = await FindAsync(id, version, author, caller, store);
        var after = change(before, author.Now);
        if (after != before)
            await store.SaveAsync(before, after, action, author);
        return EventDto.Of(after);
    }
}
