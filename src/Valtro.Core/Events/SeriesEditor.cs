using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Events;

/// <summary>An edit of an event: what it shall be, and for which of its dates.</summary>
/// <param name="Scope">For which dates.</param>
/// <param name="Date">The date it is made on: the local start the series gives.</param>
/// <param name="Draft">
/// What it shall be. For this date its timing is that date's; from this date on it is the new start; for every date it
/// is the series' start. A rule that still has the series' COUNT means the dates that are left.
/// </param>
/// <param name="CalendarId">The home calendar it shall have.</param>
public sealed record SeriesEdit(EditScope Scope, LocalDateTime Date, EventDraft Draft, Guid CalendarId);

/// <summary>
/// Edits series: (state, edit) → plan, a pure function. Nothing a person changed by hand disappears without being named
/// in the plan.
/// </summary>
public static class SeriesEditor
{
    /// <summary>Computes what an edit does.</summary>
    /// <param name="before">The event as it is.</param>
    /// <param name="edit">The edit.</param>
    /// <param name="choices">What was decided about changes that no longer fit, by their dates.</param>
    /// <param name="now">The moment of the edit.</param>
    /// <param name="newId">Gives identities to new events.</param>
    /// <param name="schoolDays">The school's days, for series that follow them.</param>
    /// <exception cref="InvalidInputException">
    /// <c>no_such_date</c>; <c>date_calendar</c>, <c>date_kind</c>: one date cannot go to another calendar or kind of time; or a code of the draft.
    /// </exception>
    public static SeriesPlan Plan(
        Event before, SeriesEdit edit, IReadOnlyDictionary<LocalDateTime, MisfitChoice> choices, Instant now, Func<Guid> newId, SchoolDays? schoolDays = null)
    {
        var means = new EditMeans(choices, now, newId, schoolDays ?? SchoolDays.None);
        if (before.IsOneTime)
            return OfEvery(before, edit, means);
        if (edit.Scope != EditScope.EveryDate && !before.Dates.Makes(edit.Date))
            throw new InvalidInputException("no_such_date", "date", "This event has no such date.");
        return edit.Scope switch
        {
            EditScope.ThisDate => OfThis(before, edit, now),
            EditScope.FromThisDate when before.Rule is not null && before.RuleDates.First < edit.Date => OfRest(before, edit, means),
            // From the first date on is every date.
            _ => OfEvery(before, edit, means),
        };
    }

    /// <summary>What a date of an event is, as a draft: its own fields where a change gives them.</summary>
    public static EventDraft DraftOf(Event e, LocalDateTime date)
    {
        var change = e.All.Of(date);
        return new EventDraft(
            change?.Title ?? e.Title,
            change?.Place ?? e.Place,
            change?.Description ?? e.Description,
            change?.Timing ?? e.Timing.At(date),
            e.Rule,
            e.Follows,
            change?.Facts.On(e.Facts) ?? e.Facts);
    }

    private static SeriesPlan OfThis(Event before, SeriesEdit edit, Instant now)
    {
        if (edit.CalendarId != before.CalendarId)
            throw new InvalidInputException("date_calendar", "calendarId", "One date alone cannot go to another calendar. Choose every date, or from this date on.");
        var draft = edit.Draft;
        // RECURRENCE-ID and its date have the series' own form (RFC 5545, 3.8.4.4).
        if (draft.Timing.Kind != before.Timing.Kind || draft.Timing.Zone?.Id != before.Timing.Zone?.Id)
            throw new InvalidInputException("date_kind", "end", "One date alone cannot turn into whole days or back, or go to another time zone. Choose every date, or from this date on.");
        var old = before.All.Of(edit.Date);
        var (title, place, description) = Event.CheckedTexts(draft);
        var change = new EventChange
        {
            Date = edit.Date,
            Title = title == before.Title ? null : title,
            Place = place == before.Place ? null : place,
            Description = description == before.Description ? null : description,
            Timing = draft.Timing == before.Timing.At(edit.Date) ? null : draft.Timing,
            IsCalledOff = old?.IsCalledOff ?? false,
            Facts = draft.Facts is { } facts ? DateFacts.Between(facts.Checked(before.CalendarId), before.Facts) : old?.Facts ?? DateFacts.None,
        };
        var after = before.WithChange(change, now);
        var (from, to) = ((old?.Timing ?? before.Timing.At(edit.Date)).Start, draft.Timing.Start);
        return new SeriesPlan
        {
            Before = before,
            After = after,
            Moved = from == to ? [] : [new MovedDate(from, to)],
            Changes = [.. before.Changes.Select(c => new PlannedChange(c, c.Date, null))],
        };
    }

    private static SeriesPlan OfEvery(Event before, SeriesEdit edit, EditMeans means)
    {
        var (timing, rule) = Event.InStep(edit.Draft);
        var (title, place, description) = Event.CheckedTexts(edit.Draft);
        var follows = rule is null ? null : edit.Draft.Follows;
        var facts = edit.Draft.Facts?.Checked(edit.CalendarId) ?? before.Facts.Checked(edit.CalendarId);
        var isTimed = timing != before.Timing || rule != before.Rule || follows != before.Follows;
        if (!isTimed && title == before.Title && place == before.Place && description == before.Description && facts == before.Facts && edit.CalendarId == before.CalendarId)
            return new SeriesPlan { Before = before, After = before, Changes = [.. before.Changes.Select(c => new PlannedChange(c, c.Date, null))] };

        var after = before with
        {
            CalendarId = edit.CalendarId,
            Title = title,
            Place = place,
            Description = description,
            Timing = timing,
            Rule = rule,
            Follows = follows,
            Facts = facts,
            TimedAt = isTimed ? means.Now : before.TimedAt,
        };
        after = after.OnSchoolDays(means.Days);
        // Another calendar may have closures of its own.
        if (!isTimed && after.BySchoolDays == before.BySchoolDays)
            return new SeriesPlan { Before = before, After = after.After(before, means.Now), Changes = [.. before.Changes.Select(c => new PlannedChange(c, c.Date, null))] };

        var fit = SeriesFit.Of(before, after, HandMade.Of(before), means);
        return fit.Plan(before, fit.Series.After(before, means.Now), null);
    }

    private static SeriesPlan OfRest(Event before, SeriesEdit edit, EditMeans means)
    {
        var rule = before.Rule!;
        // A date moved off a closure begins where the rule has it.
        var origin = before.Follows is null ? edit.Date : new SchoolDayDates(before.Timing, rule, before.Follows, means.Days, before.CalendarId).Origin(edit.Date) ?? edit.Date;
        var ended = rule.Count is null ? UntilBefore(before, origin) : null;
        var counted = rule.Count is null ? 0 : before.RuleDates.FirstStarts(RecurrenceRule.MaxCount).TakeWhile(d => d < edit.Date).Count();
        bool IsBefore(LocalDateTime date) => date < edit.Date;

        var first = before with
        {
            Rule = rule.WithEnd(rule.Count is null ? null : Math.Max(1, counted), ended),
            Skips = [.. before.Skips.Where(IsBefore)],
            Extras = [.. before.Extras.Where(IsBefore)],
            Changes = [.. before.Changes.Where(c => IsBefore(c.Date))],
        };
        first = first.OnSchoolDays(means.Days).After(before, means.Now);
        var draft = edit.Draft;
        if (origin != edit.Date && draft.Timing.Start.Date == edit.Date.Date)
            draft = draft with { Timing = draft.Timing.At(origin.Date.At(draft.Timing.Start.TimeOfDay)) };
        if (draft.Rule is { Count: not null } given && given.Count == rule.Count)
            draft = draft with { Rule = given.WithEnd(Math.Max(1, given.Count.Value - counted), null) };
        draft = draft with { Facts = draft.Facts ?? before.Facts };
        var second = Event.Create(means.NewId(), edit.CalendarId, draft, means.Now, means.Days) with { RelatedTo = before.Uid };
        var fit = SeriesFit.Of(before, second, HandMade.Of(before, edit.Date), means);
        var plan = fit.Plan(before, first, fit.Series);
        second = plan.Second! with { Names = DateNames.After(before, plan.Second!, edit.Date) };
        return plan with { After = first with { Names = DateNames.WithoutRest(first, second) }, Second = second, Changes = [.. first.Changes.Select(c => new PlannedChange(c, c.Date, null)), .. plan.Changes] };
    }

    /// <summary>The end that keeps a rule's dates before one, and no others.</summary>
    private static RuleEnd? UntilBefore(Event before, LocalDateTime date)
    {
        var moment = date.PlusSeconds(-1);
        if (before.Follows is not null)
            return before.Rule!.GivesOneTimeADay ? new RuleEnd(date.Date.PlusDays(-1)) : new RuleEnd(moment.Date, moment.TimeOfDay);
        var rule = before.Rule!.WithEnd(null, new RuleEnd(moment.Date, moment.TimeOfDay));
        return new SeriesDates(before.Timing, rule, []).Last is { } last
            ? new RuleEnd(last.Date, rule.GivesOneTimeADay ? null : last.TimeOfDay)
            : null;
    }
}
