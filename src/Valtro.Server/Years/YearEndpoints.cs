using System.Security.Claims;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Board;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Years;

internal sealed record TermDto(string Name, LocalDate First, LocalDate Last);

/// <summary>A closure; without calendars it is for the whole school.</summary>
internal sealed record ClosureDto(string Name, LocalDate First, LocalDate Last, IReadOnlyList<Guid> CalendarIds);

internal sealed record PinDto(LocalDate Date, int CycleDay);

/// <summary>A school year as it is kept; both ends of every span included.</summary>
internal sealed record SchoolYearDto(
    Guid Id,
    LocalDate First,
    LocalDate Last,
    IReadOnlyList<TermDto> Terms,
    IReadOnlyList<ClosureDto> Closures,
    IReadOnlyList<IsoDayOfWeek> Week,
    int CycleLength,
    bool CycleRestarts,
    IReadOnlyList<PinDto> Pins,
    IReadOnlyList<string> WeekLetters,
    bool LettersRestart,
    int Version)
{
    public static SchoolYearDto Of(SchoolYear y) => new(
        y.Id,
        y.First,
        y.Last,
        [.. y.Terms.Select(t => new TermDto(t.Name, t.First, t.Last))],
        [.. y.Closures.Select(c => new ClosureDto(c.Name, c.First, c.Last, c.CalendarIds))],
        [.. y.Week.InOrder()],
        y.CycleLength,
        y.CycleRestarts,
        [.. y.Pins.Select(p => new PinDto(p.Date, p.CycleDay))],
        y.WeekLetters,
        y.LettersRestart,
        y.Version);
}

internal sealed record SchoolYearInput(
    LocalDate First,
    LocalDate Last,
    IReadOnlyList<TermDto> Terms,
    IReadOnlyList<ClosureDto> Closures,
    IReadOnlyList<IsoDayOfWeek> Week,
    int CycleLength,
    bool CycleRestarts,
    IReadOnlyList<PinDto> Pins,
    IReadOnlyList<string> WeekLetters,
    bool LettersRestart,
    int? Version)
{
    public SchoolYear ToYear(Guid id, int version)
    {
        if (Week.Any(d => d is < IsoDayOfWeek.Monday or > IsoDayOfWeek.Sunday))
            throw new InvalidInputException("school_week", "week", "A weekday is one of monday to sunday.");
        return new SchoolYear
        {
            Id = id,
            First = First,
            Last = Last,
            Terms = [.. Terms.Select(t => new Term(t.Name ?? "", t.First, t.Last))],
            Closures = [.. Closures.Select(c => new Closure(c.Name ?? "", c.First, c.Last) { CalendarIds = [.. c.CalendarIds ?? []] })],
            Week = WeekdaySet.Of([.. Week]),
            CycleLength = CycleLength,
            CycleRestarts = CycleRestarts,
            Pins = [.. Pins.Select(p => new PinnedDay(p.Date, p.CycleDay))],
            WeekLetters = [.. WeekLetters.Select(l => l ?? "")],
            LettersRestart = LettersRestart,
            Version = version,
        }.Checked();
    }
}

/// <summary>A series whose dates a change of the year alters.</summary>
internal sealed record AffectedDto(Guid EventId, Guid CalendarId, string Title, IReadOnlyList<LocalDateTime> Come, IReadOnlyList<LocalDateTime> Gone);

/// <summary>What a year as it is typed would be: its days, and what changes with it.</summary>
internal sealed record YearPlanDto(IReadOnlyList<DayDto> Days, IReadOnlyList<AffectedDto> Series);

/// <summary>A year that was kept, and how many series got other dates by it.</summary>
internal sealed record SavedYearDto(SchoolYearDto Year, int Series);

internal static class YearEndpoints
{
    public static void MapSchoolYears(this IEndpointRouteBuilder api)
    {
        var years = api.MapGroup("/school-years");

        years.MapGet("", async (ClaimsPrincipal user, SchoolYears store) =>
            (await store.GetAsync(user.SchoolId())).Days.Years.Select(SchoolYearDto.Of).ToList());

        // Computes only: the days of a year as it is being typed, and which series it would change.
        years.MapPost("/plan", async (SchoolYearInput input, Guid? id, ClaimsPrincipal user, Caller caller, SchoolYears store, IClock clock) =>
        {
            await caller.NeedAdministratorAsync();
            var yearId = id ?? Guid.Empty;
            var year = input.ToYear(yearId, input.Version ?? 1);
            var (days, series) = await store.PlanAsync(user.SchoolId(), yearId, year, clock.GetCurrentInstant());
            var table = Enumerable.Range(0, Period.DaysBetween(year.First, year.Last) + 1)
                .Select(i => BoardEndpoints.Day(days, year.First.PlusDays(i)))
                .ToList();
            return new YearPlanDto(table, [.. series.Where(e => e.Before.DeletedAt is null).Select(e => Affected(e.Before, e.After, days))]);
        }).IsNotLogged();

        years.MapPost("", async (SchoolYearInput input, ClaimsPrincipal user, Caller caller, SchoolYears store, IClock clock) =>
        {
            await caller.NeedAdministratorAsync();
            return await SaveAsync(null, input.ToYear(Guid.CreateVersion7(), 1), user.Author(clock), store);
        });

        years.MapPut("/{id:guid}", async (Guid id, SchoolYearInput input, ClaimsPrincipal user, Caller caller, SchoolYears store, IClock clock) =>
        {
            await caller.NeedAdministratorAsync();
            var before = await FindAsync(id, input.Version, user.SchoolId(), store);
            return await SaveAsync(before, input.ToYear(id, before.Version + 1), user.Author(clock), store);
        });

        years.MapDelete("/{id:guid}", async (Guid id, int version, ClaimsPrincipal user, Caller caller, SchoolYears store, IClock clock) =>
        {
            await caller.NeedAdministratorAsync();
            var before = await FindAsync(id, version, user.SchoolId(), store);
            await store.SaveAsync(before, null, user.Author(clock));
            return Results.NoContent();
        });
    }

    private static async Task<SavedYearDto> SaveAsync(SchoolYear? before, SchoolYear after, Author author, SchoolYears store)
    {
        var series = await store.SaveAsync(before, after, author);
        return new SavedYearDto(SchoolYearDto.Of(after), series.Count(e => e.DeletedAt is null));
    }

    private static async Task<SchoolYear> FindAsync(Guid id, int? version, Guid schoolId, SchoolYears store)
    {
        var year = (await store.GetAsync(schoolId)).Days.Years.FirstOrDefault(y => y.Id == id)
            ?? throw new NotFoundException("no_such_school_year", "There is no such school year. It may have been removed.");
        return version is null || version == year.Version ? year : throw new StaleWriteException(year);
    }

    private static AffectedDto Affected(Event before, Event after, SchoolDays days)
    {
        // Beyond the years that are kept nothing comes or goes; a year that shrinks had dates a little beyond.
        var from = LocalDateTime.Min(before.Timing.Start, after.Timing.Start).Date.PlusDays(-SchoolDayDates.MaxMove);
        var to = (days.KnownUntil ?? from).PlusDays(SchoolYear.MaxDays);
        var was = before.Dates.Between(from, to).ToHashSet();
        var now = after.Dates.Between(from, to).ToHashSet();
        return new AffectedDto(before.Id, before.CalendarId, before.Title, [.. now.Except(was).Order()], [.. was.Except(now).Order()]);
    }
}
