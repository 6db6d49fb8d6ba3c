using NodaTime;
using Valtro.Core.Clashes;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Core.Views;
using Valtro.Server.Accounts;
using Valtro.Server.Api;
using Valtro.Server.Calendars;
using Valtro.Server.Sessions;
using Valtro.Server.Views;

namespace Valtro.Server.Board;

/// <summary>A closure on a day that is for some calendars only.</summary>
internal sealed record PartClosureDto(string Name, IReadOnlyList<Guid> CalendarIds);

/// <summary>What a date is to the school.</summary>
internal sealed record DayDto(
    LocalDate Date,
    string? Term,
    int? TeachingWeek,
    string? WeekLetter,
    int? CycleDay,
    bool IsPinned,
    bool IsSchoolDay,
    string? Closure,
    IReadOnlyList<PartClosureDto> PartClosures);

/// <summary>One date of an event on the board, on the clock of who looks: the school's, unless they chose another.</summary>
/// <param name="EventId">The event.</param>
/// <param name="CalendarId">Its calendar.</param>
/// <param name="Date">Which of its dates: the local start in the event's own zone.</param>
/// <param name="Title">What it is.</param>
/// <param name="Place">Where it is.</param>
/// <param name="AllDay">Whether it is a matter of whole days.</param>
/// <param name="Start">The start on that clock.</param>
/// <param name="End">The end on that clock, exclusive.</param>
/// <param name="FirstDay">The first day it touches.</param>
/// <param name="LastDay">The last day it touches.</param>
/// <param name="IsSeries">Whether it repeats.</param>
/// <param name="IsChanged">Whether something differs on this date.</param>
/// <param name="IsCalledOff">Whether this date is called off.</param>
/// <param name="Subtitle">The line under the title.</param>
/// <param name="CategoryId">Its category.</param>
/// <param name="Tags">Its tags.</param>
/// <param name="Mark">A mark of its own; null for its calendar's.</param>
/// <param name="IsDraft">Whether only the team sees it.</param>
/// <param name="IsShortNotice">Whether people hear of it late.</param>
/// <param name="AlsoIn">The calendars it stands in beside its own.</param>
/// <param name="Detail">How much of it the one who asks gets.</param>
/// <param name="ProposalId">What proposes it; null for what is so.</param>
/// <param name="Proposed">What is proposed of it; null for what is so.</param>
internal sealed record OccurrenceDto(
    Guid EventId, Guid CalendarId, LocalDateTime Date, string Title, string Place, bool AllDay, LocalDateTime Start, LocalDateTime End, LocalDate FirstDay, LocalDate LastDay, bool IsSeries, bool IsChanged, bool IsCalledOff,
    string Subtitle, Guid? CategoryId, IReadOnlyList<string> Tags, int? Mark, bool IsDraft, bool IsShortNotice, IReadOnlyList<Guid> AlsoIn, Detail Detail,
    Guid? ProposalId = null, ProposedKind? Proposed = null);

/// <summary>What is proposed of a date on the board.</summary>
internal enum ProposedKind
{
    /// <summary>It shall stand there.</summary>
    New,

    /// <summary>It shall be so, instead of as it is.</summary>
    Change,

    /// <summary>It shall not be there any more.</summary>
    Gone,
}

internal sealed record BoardDto(
    LocalDate From, LocalDate To, string Zone, IReadOnlyList<DayDto> Days, IReadOnlyList<CalendarDto> Calendars, IReadOnlyList<OccurrenceDto> Occurrences);

internal sealed record SharedDateDto(Guid EventId, LocalDateTime Date);

/// <summary>Two dates that have one place at one time.</summary>
/// <param name="FirstDay">The first day they share.</param>
/// <param name="LastDay">The last day they share.</param>
/// <param name="Dates">Both.</param>
internal sealed record SharedPlaceDto(LocalDate FirstDay, LocalDate LastDay, IReadOnlyList<SharedDateDto> Dates);

internal sealed record SpanDto(string Name, LocalDate First, LocalDate Last);

internal sealed record WeekDto(LocalDate Monday, int Occurrences);

internal sealed record YearDto(LocalDate First, LocalDate Last, IReadOnlyList<SpanDto> Terms, IReadOnlyList<SpanDto> Closures, IReadOnlyList<WeekDto> Weeks);

internal static class BoardEndpoints
{
    /// <summary>The longest window the board asks for at once.</summary>
    private const int MaxDays = 400;

    // A list goes over a year; of a large school that is more than anybody reads through, or a browser holds.
    private const int ShortDays = 70;
    private const int MaxDates = 20_000;

    public static void MapBoard(this IEndpointRouteBuilder api)
    {
        api.MapGet("/board", BoardAsync);

        // What open screens show of the events that changes were about, as it is now: asked for when they hear of them.
        api.MapGet("/board/changed", async (DayParameter from, DayParameter to, Guid[] change, EventViews views, ProposedBoard proposed, OwnSettings own, Caller caller) =>
        {
            if (change.Length > Store.Changes.MaxEvents)
                throw new InvalidInputException("too_many_changes", "change", $"At most {Store.Changes.MaxEvents} changes are asked for at a time.");
            var window = await WindowAsync(from, to, own);
            var notice = (await caller.ListsAsync()).NoticeDays;
            var seen = await views.OfChangesAsync(change);
            var occurrences = await OccurrencesAsync(seen, window, notice, seen.Count > 0 ? proposed : null);
            var ids = seen.Select(e => e.Id).ToHashSet();
            occurrences.RemoveAll(o => !ids.Contains(o.EventId));
            return occurrences;
        });

        // Which dates have their place at one time with another one: what the checks call a place that is taken.
        api.MapGet("/board/shared-places", async (DayParameter from, DayParameter to, EventViews views, OwnSettings own, Caller caller) =>
        {
            var window = await WindowAsync(from, to, own);
            var clashes = ClashFinder.Find(await views.InWindowAsync(window), window, await caller.ListsAsync(), await caller.DaysAsync());
            return clashes.Where(c => c.Kind == ClashKind.PlaceTaken)
                .Select(c => new SharedPlaceDto(c.Span.FirstDay, c.Span.LastDay, [new SharedDateDto(c.Event.Id, c.Date), new SharedDateDto(c.Other!.Id, c.OtherDate!.Value)]))
                .ToList();
        });

        api.MapGet("/year", async (DayParameter date, Caller caller, EventViews views) =>
        {
            var (school, days) = (await caller.SchoolAsync(), await caller.DaysAsync());
            var year = days.Year(date);
            var firstMonday = year.First.PlusDays(1 - (int)year.First.DayOfWeek);
            var weeks = new int[Period.DaysBetween(firstMonday, year.Last) / 7 + 1];
            var window = new TimeWindow(firstMonday, firstMonday.PlusDays(7 * weeks.Length), school.Zone);
            foreach (var e in await views.InWindowAsync(window))
            {
                foreach (var seen in e.Dates.In(window))
                    weeks[Math.Max(0, Period.DaysBetween(firstMonday, seen.Span.FirstDay) / 7)]++;
            }
            return new YearDto(
                year.First,
                year.Last,
                [.. year.Terms.Select(t => new SpanDto(t.Name, t.First, t.Last))],
                [.. year.Closures.Where(c => c.IsForAll).Select(c => new SpanDto(c.Name, c.First, c.Last))],
                [.. weeks.Select((count, i) => new WeekDto(firstMonday.PlusDays(7 * i), count))]);
        });
    }

    private static async Task<BoardDto> BoardAsync(DayParameter from, DayParameter to, string? look, EventViews views, ProposedBoard proposed, OwnSettings own, Caller caller)
    {
        var window = await WindowAsync(from, to, own);
        var schoolDays = await caller.DaysAsync();
        var (eyes, access, calendars) = look is null ? (await caller.EyesAsync(), await caller.AccessAsync(), await caller.CalendarsAsync()) : await caller.LookAsync(look);
        var days = new List<DayDto>();
        for (LocalDate date = from; date < to; date = date.PlusDays(1))
            days.Add(Day(schoolDays, date, eyes.Sees));

        var notice = (await caller.ListsAsync()).NoticeDays;
        // Nobody looks with other eyes at what is only proposed: it reaches the team alone.
        var occurrences = await OccurrencesAsync(await views.InWindowAsync(window, eyes), window, notice, look is null ? proposed : null);
        return new BoardDto(from, to, window.Zone.Id, days, [.. calendars.Values.Where(access.Sees).Select(c => CalendarDto.Of(c, access.RoleOn(c.Id), access.MayOffer(c)))], occurrences);
    }

    private static async Task<TimeWindow> WindowAsync(DayParameter from, DayParameter to, OwnSettings own) =>
        to.Date > from.Date.PlusDays(MaxDays)
            ? throw new InvalidInputException("window_too_long", "to", $"The board covers {MaxDays} days at a time.")
            : new TimeWindow(from, to, await own.ZoneAsync());

    /// <summary>The dates of events in a window in their order, with what is proposed of these events where that is told.</summary>
    private static async Task<List<OccurrenceDto>> OccurrencesAsync(IReadOnlyList<EventView> events, TimeWindow window, int notice, ProposedBoard? proposed)
    {
        var occurrences = new List<OccurrenceDto>();
        foreach (var e in events)
        {
            foreach (var date in e.Dates.In(window))
            {
                if (occurrences.Count == MaxDates && Period.DaysBetween(window.From, window.To) > ShortDays)
                    throw new InvalidInputException("too_many_events", "to", $"These days hold more than {MaxDates} dates. Choose fewer days.");
                occurrences.Add(Occurrence(e, date, e.StandsIn, window.Zone, notice));
            }
        }
        if (proposed is not null)
            await proposed.AddAsync(occurrences, events.ToDictionary(e => e.Id), window, notice);
        occurrences.Sort((a, b) => a.Start.CompareTo(b.Start) is var order and not 0 ? order : a.EventId.CompareTo(b.EventId));
        return occurrences;
    }

    internal static OccurrenceDto Occurrence(EventView e, EventDate seen, IReadOnlyList<Guid> standing, DateTimeZone zone, int notice)
    {
        var (date, span, timing, change) = seen;
        var facts = e.FactsOn(change);
        return new OccurrenceDto(
            e.Id,
            standing[0],
            date,
            change?.Title ?? e.Title ?? "",
            change?.Place ?? e.Place ?? "",
            timing.Kind == TimeKind.AllDay,
            span.Start,
            span.End,
            span.FirstDay,
            span.LastDay,
            e.IsSeries,
            change is not null,
            change is { IsCalledOff: true },
            facts.Subtitle,
            facts.CategoryId,
            facts.Tags,
            e.Facts.Mark,
            e.Facts.IsDraft,
            e.IsShortNotice(Zones.ToInstant(span.Start, zone), change, notice),
            [.. standing.Skip(1)],
            e.Detail);
    }

    /// <param name="days">The school's days.</param>
    /// <param name="date">The date.</param>
    /// <param name="sees">Which calendars are told of.</param>
    internal static DayDto Day(SchoolDays days, LocalDate date, Func<Guid, bool> sees)
    {
        var d = days.Day(date);
        return new DayDto(
            date,
            d.Term?.Name,
            d.TeachingWeek,
            d.WeekLetter,
            d.CycleDay,
            d.IsPinned,
            d.IsSchoolDay,
            d.Closure?.Name,
            [.. days.PartClosures(date).Select(c => new PartClosureDto(c.Name, [.. c.CalendarIds.Where(sees)])).Where(c => c.CalendarIds.Count > 0)]);
    }
}
