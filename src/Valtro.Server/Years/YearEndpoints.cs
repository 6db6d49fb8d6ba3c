using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Server.Audit;
using Valtro.Server.Board;
using Valtro.Server.Commands;
using Valtro.Server.Sessions;

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
    /// <param name="y">The year.</param>
    /// <param name="sees">Which calendars are told of; null for all.</param>
    public static SchoolYearDto Of(SchoolYear y, Func<Guid, bool>? sees = null) => new(
        y.Id,
        y.First,
        y.Last,
        [.. y.Terms.Select(t => new TermDto(t.Name, t.First, t.Last))],
        [.. y.Closures.Where(c => c.IsForAll || sees is null || c.CalendarIds.Any(sees)).Select(c => new ClosureDto(c.Name, c.First, c.Last, [.. c.CalendarIds.Where(id => sees is null || sees(id))]))],
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

        // Closures of calendars that somebody does not see are not theirs to know.
        years.MapGet("", async (Caller caller) =>
        {
            var eyes = await caller.EyesAsync();
            return (await caller.DaysAsync()).Years.Select(y => SchoolYearDto.Of(y, eyes.Sees)).ToList();
        });

        // Computes only: the days of a year as it is being typed, and which series it would change.
        years.MapPost("/plan", async (SchoolYearInput input, Guid? id, Caller caller, CommandHandler commands) =>
        {
            var year = input.ToYear(id ?? Guid.Empty, input.Version ?? 1);
            var (days, series) = await commands.TryYearAsync(year);
            var table = Enumerable.Range(0, Period.DaysBetween(year.First, year.Last) + 1)
                .Select(i => BoardEndpoints.Day(days, year.First.PlusDays(i), _ => true))
                .ToList();
            return new YearPlanDto(table, [.. series.Select(e => new AffectedDto(e.EventId, e.CalendarId, e.Title, e.Come, e.Gone))]);
        }).IsNotLogged();

        years.MapPost("", async (SchoolYearInput input, Caller caller, CommandHandler commands) =>
        {
            var after = input.ToYear(Guid.CreateVersion7(), 1);
            return await commands.HandleYearAsync(null, after, series => new SavedYearDto(SchoolYearDto.Of(after), series));
        });

        years.MapPut("/{id:guid}", async (Guid id, SchoolYearInput input, Caller caller, CommandHandler commands) =>
        {
            var before = await FindAsync(id, input.Version, caller);
            var after = input.ToYear(id, before.Version).After(before);
            return await commands.HandleYearAsync(before, after, series => new SavedYearDto(SchoolYearDto.Of(after), series));
        });

        years.MapDelete("/{id:guid}", async (Guid id, int version, Caller caller, CommandHandler commands) =>
        {
            var before = await FindAsync(id, version, caller);
            await commands.HandleYearAsync(before, null, _ => (object?)null);
            return Results.NoContent();
        });
    }

    private static async Task<SchoolYear> FindAsync(Guid id, int? version, Caller caller)
    {
        var year = (await caller.DaysAsync()).Years.FirstOrDefault(y => y.Id == id) ?? throw NotFoundException.SchoolYear();
        return version is null || version == year.Version ? year : throw new StaleWriteException(year);
    }
}
