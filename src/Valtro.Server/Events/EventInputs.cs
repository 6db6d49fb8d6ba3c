using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;

namespace Valtro.Server.Events;

/// <summary>An event as somebody says it.</summary>
internal sealed record EventInput(
    Guid CalendarId, string? Title, string? Place, string? Description, TimingDto Timing, RuleDto? Rule, int? Version, FollowsDto? Follows = null, FactsDto? Facts = null)
{
    /// <summary>What stands in fields, as it is sent back.</summary>
    public static EventInput Of(EventFields f, int version) =>
        new(f.CalendarId, f.Title, f.Place, f.Description, TimingDto.Of(f.When), RuleDto.Of(f.Rule), version, FollowsDto.Of(f.Follows), FactsDto.Of(f.Facts));

    /// <summary>What is typed, as it stands: not checked for what could be saved.</summary>
    /// <exception cref="InvalidInputException">A rule that says nothing.</exception>
    public EventFields ToFields() => new(
        CalendarId, Title ?? "", Place ?? "", Description ?? "", Timing.ToTyped(), Rule?.ToRule(), Follows?.ToRule(), (Facts ?? new FactsDto()).ToFacts());

    /// <param name="state">What there is: a new event without a zone has its calendar's.</param>
    /// <param name="zone">The zone of the event it is of; null for a new one's.</param>
    public EventDraft ToDraft(CommandState state, DateTimeZone? zone = null)
    {
        var calendar = state.Home(CalendarId);
        return new EventDraft(Title, Place, Description, Timing.ToTiming(zone ?? calendar.Zone), Rule?.ToRule(), Follows?.ToRule(), Facts?.ToFacts());
    }
}

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
    IReadOnlyList<ChoiceInput>? Choices = null)
{
    public EditEvent ToCommand(Guid id, CommandState state)
    {
        var before = state.Events.GetValueOrDefault(id);
        var fields = new EventInput(CalendarId, Title, Place, Description, Timing, Rule, Version, Follows, Facts);
        // Whether there is such an event for who asks is told before anything of its calendar.
        if (before is null || (state.PersonId is not null && state.Eyes.View(before) is null))
            throw Core.NotFoundException.Event();
        // A calendar that is not chosen anew may lie in the bin with the event.
        var draft = CalendarId == before.CalendarId && !state.Calendars.ContainsKey(CalendarId)
            ? new EventDraft(Title, Place, Description, Timing.ToTiming(before.Timing.Zone ?? DateTimeZone.Utc), Rule?.ToRule(), Follows?.ToRule(), Facts?.ToFacts())
            : fields.ToDraft(state, before.Timing.Zone);
        return new EditEvent(
            id, Version, new SeriesEdit(Scope, Date ?? before.Timing.Start, draft, CalendarId), (Choices ?? []).DistinctBy(c => c.Date).ToDictionary(c => c.Date, c => c.Choice));
    }
}
