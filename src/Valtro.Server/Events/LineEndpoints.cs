using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.LineEntry;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using Valtro.Server.Accounts;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;

namespace Valtro.Server.Events;

internal sealed record LineRequest(Guid CalendarId, LocalDate Day, string Text, string? Language);

internal sealed record RuleTextRequest(string Text, string? Zone);

internal sealed record LinePartDto(LinePartKind Kind, int Start, int Length);

/// <summary>A part that may as well be something else.</summary>
/// <param name="Kind">Why it is in doubt.</param>
/// <param name="Start">Index of its first character.</param>
/// <param name="Length">How many characters.</param>
/// <param name="Rivals">How it is written for each of the other things it may be; empty for part of the title.</param>
/// <param name="AsRead">How it is written to be taken as it was; null where that cannot be said.</param>
/// <param name="Key">Under what a choice is kept for the next line; null where it is chosen each time.</param>
internal sealed record LineDoubtDto(LineDoubtKind Kind, int Start, int Length, IReadOnlyList<string> Rivals, string? AsRead, string? Key);

/// <summary>A line as it was understood: the parts, the event it would make, and when it would be besides as events of its own.</summary>
internal sealed record LineDto(
    string Title,
    string Place,
    TimingDto Timing,
    RuleDto? Rule,
    FollowsDto? Follows,
    FactsDto Facts,
    IReadOnlyList<LinePartDto> Parts,
    DatesDto Dates,
    IReadOnlyList<TimingDto> More,
    IReadOnlyList<LineDoubtDto> Doubts);

internal sealed record LinesRequest(Guid CalendarId, LocalDate Day, IReadOnlyList<string?>? Lines, string? Language)
{
    public const int MaxLines = 1_000;
}

/// <summary>One of several lines: as it was understood, or why it was not.</summary>
internal sealed record ReadLineDto(string Text, LineDto? Line, string? Problem);

internal static class LineEndpoints
{
    public static void MapLines(this IEndpointRouteBuilder api)
    {
        // Every rule of the standard can be typed as its text.
        api.MapPost("/rule", (RuleTextRequest request) =>
            RuleDto.Of(RecurrenceRule.Parse((request.Text ?? "").Trim(), request.Zone is { Length: > 0 } zone ? Zones.Get(zone) : null))!).IsNotLogged();

        api.MapPost("/line", async (LineRequest request, Caller caller, OwnSettings own) =>
            (await ReaderAsync(request.CalendarId, request.Day, request.Language, caller, own))(request.Text ?? "")).IsNotLogged();

        // Lines of a document or rows of a spreadsheet; one that cannot be read is told, and the rest goes on.
        api.MapPost("/lines", async (LinesRequest request, Caller caller, OwnSettings own) =>
        {
            var read = await ReaderAsync(request.CalendarId, request.Day, request.Language, caller, own);
            var lines = (request.Lines ?? []).Select(l => l ?? "").ToList();
            if (lines.Count is 0 or > LinesRequest.MaxLines)
                throw new InvalidInputException("too_many_lines", "lines", $"Paste between 1 and {LinesRequest.MaxLines} lines at a time.");
            return lines.Select(text =>
            {
                try
                {
                    return new ReadLineDto(text, read(string.Join(' ', text.Split('\t', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))), null);
                }
                catch (InvalidInputException error)
                {
                    return new ReadLineDto(text, null, error.Message);
                }
            }).ToList();
        }).IsNotLogged();
    }

    /// <summary>What reads lines typed in a calendar on a day.</summary>
    private static async Task<Func<string, LineDto>> ReaderAsync(Guid calendarId, LocalDate day, string? language, Caller caller, OwnSettings own)
    {
        var calendar = await caller.NeedSightAsync(calendarId);
        var (may, days, kept) = (await caller.AccessAsync(), await caller.DaysAsync(), await caller.ListsAsync());
        var context = new LineContext(day, calendar.Zone, language ?? "en", days.Year(day).CycleLength)
        {
            MonthFirst = await own.IsMonthFirstAsync(language),
            Today = await caller.TodayAsync(),
            WeekOf = number => TypedEndpoints.WeekOf(days, day, number),
            Terms = TypedEndpoints.Terms(days),
            LeavesOutClosures = days.Years.Count > 0,
            Kept = (await own.GetAsync()).Meanings ?? new Dictionary<string, string>(),
            Categories = [.. kept.Categories.Select(c => new LineName(c.Id, c.Name))],
            Calendars = [.. (await caller.CalendarsAsync()).Values.Where(c => c.Id != calendar.Id && may.MayEdit(c.Id)).Select(c => new LineName(c.Id, c.Title))],
        };
        return text =>
        {
            var reading = LineReader.Read(text, context);
            if (reading.Problem is { } problem)
                throw new InvalidInputException(problem.Code, "text", problem.Message);
            var draft = reading.Draft;
            return new LineDto(
                draft.Title ?? "",
                draft.Place ?? "",
                TimingDto.Of(draft.Timing),
                RuleDto.Of(draft.Rule),
                FollowsDto.Of(draft.Follows),
                FactsDto.Of(draft.Facts ?? EventFacts.None),
                [.. reading.Parts.Select(p => new LinePartDto(p.Kind, p.Start, p.Length))],
                TypedDates.Of(draft, calendar, days, language, [], [], null, null),
                [.. reading.More.Select(m => TimingDto.Of(m.Timing))],
                [.. reading.Doubts.Select(d => new LineDoubtDto(d.Kind, d.Start, d.Length, [.. d.Rivals.Select(r => r.Text ?? "")], d.AsRead, d.CanBeKept ? LineReader.KeyOf(text.Substring(d.Start, d.Length)) : null))]);
        };
    }
}
