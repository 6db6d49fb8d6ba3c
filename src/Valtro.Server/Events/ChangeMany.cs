using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Server.Calendars;
using Valtro.Server.Commands;

namespace Valtro.Server.Events;

/// <summary>A date of an event.</summary>
internal sealed record ChosenDateDto(Guid EventId, LocalDateTime Date);

/// <summary>One change for many dates; what is not said stays.</summary>
internal sealed record BulkInput(
    IReadOnlyList<ChosenDateDto>? Dates,
    int? MoveDays = null,
    LocalTime? StartsAt = null,
    Guid? AlsoIn = null,
    Guid? CalendarId = null,
    string? Place = null,
    bool SetsCategory = false,
    Guid? CategoryId = null,
    IReadOnlyList<string>? AddTags = null,
    bool? IsDraft = null,
    bool? IsOff = null,
    bool Deletes = false,
    bool SetsReach = false,
    ReachDto? Reach = null,
    Guid? CopyTo = null,
    bool CopiesSeries = false)
{
    public const int MaxDates = 2_000;

    public BulkAction ToAction() => new()
    {
        MoveDays = MoveDays,
        StartsAt = StartsAt,
        AlsoIn = AlsoIn,
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
        CopyTo = CopyTo,
        CopiesSeries = CopiesSeries,
    };
}

/// <summary>An event as it was before a change of many, and its version since.</summary>
internal sealed record BulkChangedDto(EventDto State, int Version);

/// <summary>An event that was left as it is, and why.</summary>
internal sealed record BulkLeftDto(Guid EventId, string Code, string Message);

internal sealed record BulkDto(IReadOnlyList<BulkChangedDto> Events, IReadOnlyList<BulkLeftDto> Left);

internal static class ChangeMany
{
    // Many at once, as far as the one who asks may, with one way back; the rest is named.
    public static void MapChangeMany(this IEndpointRouteBuilder events) =>
        events.MapPost("/bulk", (BulkInput input, CommandHandler commands) =>
        {
            if (input.Dates is null or { Count: 0 or > BulkInput.MaxDates })
                throw new InvalidInputException("selection_size", "dates", $"Choose between 1 and {BulkInput.MaxDates} dates.");
            var chosen = input.Dates.ToLookup(d => d.EventId, d => d.Date);
            var action = input.ToAction();
            return commands.HandleAsync(
                CommandNeeds.Of([.. chosen.Select(g => g.Key)]),
                state =>
                {
                    if (action.CalendarId is { } to)
                        _ = state.Home(to);
                    return new Core.Commands.ChangeMany([.. chosen.Select(g => new ChangeDates(g.Key, [.. g.Distinct().Order()], action))]);
                },
                done => new BulkDto([.. done.Outcome.Steps.Where(s => s.Before is not null).Select(s => new BulkChangedDto(EventDto.Of(done.State.Eyes.View(s.Before!)!), s.After.Version))], [.. done.Outcome.Left.Select(l => new BulkLeftDto(l.EventId, l.Code, l.Message))]));
        });
}
