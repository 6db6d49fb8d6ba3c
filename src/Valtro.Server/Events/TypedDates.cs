using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Recurrence.Sentences;
using Valtro.Core.SchoolYears;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;

namespace Valtro.Server.Events;

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

/// <summary>The dates of what is being typed; nothing of what is kept is read.</summary>
internal static class TypedDates
{
    private const int MonthsShown = 2;
    private const int MostShown = 500;
    private const int MostCounted = 10_000;

    public static void MapTypedDates(this IEndpointRouteBuilder events) =>
        // Computes only: the sheet shows the dates of what is being typed.
        events.MapPost("/dates", async (DatesRequest request, Caller caller) =>
        {
            var calendar = await caller.NeedSightAsync(request.CalendarId);
            var draft = new EventDraft(null, null, null, request.Timing.ToTiming(calendar.Zone), request.Rule?.ToRule(), request.Follows?.ToRule());
            return Of(draft, calendar, await caller.DaysAsync(), request.Language, request.Skips ?? [], request.Extras ?? [], request.Around, request.Month);
        }).IsNotLogged();

    public static DatesDto Of(
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
        if (draft.Rule is { } rule)
            RuleBudget.Check(draft.Timing, rule);
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
}
