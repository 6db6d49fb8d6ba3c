using System.Security.Claims;
using NodaTime;
using Valtro.Core.LineEntry;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Sessions;

namespace Valtro.Server.Events;

internal sealed record LineRequest(Guid CalendarId, LocalDate Day, string Text, string? Language);

internal sealed record RuleTextRequest(string Text, string? Zone);

internal sealed record LinePartDto(LinePartKind Kind, int Start, int Length);

/// <summary>A line as it was understood: the parts, and the event it would make.</summary>
internal sealed record LineDto(string Title, string Place, TimingDto Timing, RuleDto? Rule, IReadOnlyList<LinePartDto> Parts, DatesDto Dates);

internal static class LineEndpoints
{
    public static void MapLines(this IEndpointRouteBuilder api)
    {
        // Every rule of the standard can be typed as its text.
        api.MapPost("/rule", (RuleTextRequest request) =>
            RuleDto.Of(RecurrenceRule.Parse((request.Text ?? "").Trim(), request.Zone is { Length: > 0 } zone ? Zones.Get(zone) : null))!);

        api.MapPost("/line", async (LineRequest request, ClaimsPrincipal user, Store.Calendars calendars) =>
        {
            var calendar = await calendars.FindAsync(user.SchoolId(), request.CalendarId) ?? throw NotFoundException.Calendar();
            var reading = LineReader.Read(request.Text ?? "", new LineContext(request.Day, calendar.Zone, request.Language ?? "en"));
            var draft = reading.Draft;
            return new LineDto(
                draft.Title ?? "",
                draft.Place ?? "",
                TimingDto.Of(draft.Timing),
                RuleDto.Of(draft.Rule),
                [.. reading.Parts.Select(p => new LinePartDto(p.Kind, p.Start, p.Length))],
                EventEndpoints.Dates(draft.Timing, draft.Rule, [], [], null, request.Language));
        });
    }
}
