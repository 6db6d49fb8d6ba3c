using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>Makes another event like one: like one of its dates, or like all of a series with what was done by hand. Pure.</summary>
internal static class EventCopier
{
    /// <summary>Another event like one of its dates: it happens once.</summary>
    /// <param name="e">The event.</param>
    /// <param name="date">The date: the local start the series gives.</param>
    /// <param name="shift">How far away it lies.</param>
    /// <param name="means">What it is made with.</param>
    public static Event OfDate(Event e, LocalDateTime date, BoardShift shift, EditMeans means)
    {
        var draft = SeriesEditor.DraftOf(e, date) with { Rule = null, Follows = null };
        draft = draft with { Timing = draft.Timing.At(Shifted(e, draft.Timing.Start, shift)), Place = shift.Place ?? draft.Place };
        return Event.Create(means.NewId(), shift.CalendarId ?? e.CalendarId, draft, means.Now, means.Days);
    }

    /// <summary>
    /// Another series like it, with what was left out, added and changed by hand on the dates that are then in their place.
    /// What differs on a date that has no place there is an event of its own.
    /// </summary>
    /// <param name="e">The series.</param>
    /// <param name="date">The date it is taken by.</param>
    /// <param name="shift">How far away that date lies then.</param>
    /// <param name="means">What it is made with; what was decided about changes plays no part.</param>
    /// <returns>The series, and what comes beside it.</returns>
    public static IReadOnlyList<Event> OfSeries(Event e, LocalDateTime date, BoardShift shift, EditMeans means)
    {
        if (e.Rule is null or { Frequency: Frequency.Daily or Frequency.Weekly } && e.Follows is not { CycleDays.IsEmpty: false })
        {
            // By whole weeks everything goes along as it is; only the days beside these change a weekday. Dates without a rule have none.
            var days = e.Rule is null ? shift.Days : shift.Days / 7 * 7;
            (e, date, shift) = (Later(e, days).OnSchoolDays(means.Days), date.PlusDays(days), shift with { Days = shift.Days - days });
        }
        var (start, rule) = (e.Timing.Start, e.Rule);
        if (rule is not null && shift.Days != 0)
        {
            if (rule.Until is { } until)
                rule = rule.WithEnd(null, until with { Date = until.Date.PlusDays(shift.Days) });
            var to = date.Date.PlusDays(shift.Days);
            start = MovedRule.Start(rule, start.Date, date.Date, to).At(start.TimeOfDay);
            rule = MovedRule.Of(rule, date.Date, to);
            shift = shift with { Days = 0 };
        }
        var draft = new EventDraft(e.Title, shift.Place ?? e.Place, e.Description, e.Timing.At(Shifted(e, start, shift)), rule, e.Follows, e.Facts);
        var plan = SeriesEditor.Plan(
            e, new SeriesEdit(EditScope.EveryDate, date, draft, shift.CalendarId ?? e.CalendarId), e.Changes.ToDictionary(c => c.Date, _ => MisfitChoice.KeepAsEvent), means.Now, means.NewId, means.Days);
        var copy = Fresh(plan.After, means);
        return [copy, .. plan.Kept.Select(k => Fresh(k, means) with { RelatedTo = copy.Uid })];
    }

    private static Event Later(Event e, int days)
    {
        EventTiming At(EventTiming t) => t.At(t.Start.PlusDays(days));
        return e with
        {
            Timing = At(e.Timing),
            Rule = e.Rule is { Until: { } until } ? e.Rule.WithEnd(null, until with { Date = until.Date.PlusDays(days) }) : e.Rule,
            Skips = [.. e.Skips.Select(d => d.PlusDays(days))],
            Extras = [.. e.Extras.Select(d => d.PlusDays(days))],
            Changes = [.. e.Changes.Select(c => c with { Date = c.Date.PlusDays(days), Timing = c.Timing is null ? null : At(c.Timing) })],
        };
    }

    // Of the minutes only timed events know.
    private static LocalDateTime Shifted(Event e, LocalDateTime start, BoardShift shift) =>
        start.PlusDays(shift.Days).PlusMinutes(e.Timing.Kind == TimeKind.AllDay ? 0 : shift.Minutes);

    private static Event Fresh(Event e, EditMeans means)
    {
        var id = means.NewId();
        return (e with { Id = id, Uid = id.ToString("D"), RelatedTo = null, Names = [], Changes = [.. e.Changes.Select(c => c with { At = null })] }).AsNew(means.Now);
    }
}
