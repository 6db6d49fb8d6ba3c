using NodaTime;
using Valtro.Core.Proposals;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.Events;

/// <summary>When an event is, as it stands in fields: not checked, an end may lie before its start.</summary>
/// <param name="Kind">What kind of time.</param>
/// <param name="Start">The start on its clock.</param>
/// <param name="End">The end on its clock; of whole days the last one.</param>
/// <param name="Zone">The IANA name of its zone; null for its calendar's, or where none is needed.</param>
public sealed record TypedTiming(TimeKind Kind, LocalDateTime Start, LocalDateTime End, string? Zone)
{
    /// <summary>A timing in fields.</summary>
    public static TypedTiming Of(EventTiming t) => new(t.Kind, t.Start, t.Kind == TimeKind.AllDay ? t.End.PlusDays(-1) : t.End, t.Zone?.Id);
}

/// <summary>How far something is moved and stretched on the board.</summary>
/// <param name="Days">By how many days.</param>
/// <param name="Minutes">By how many minutes beside.</param>
/// <param name="LongerDays">How many days later it ends, beside being moved.</param>
/// <param name="LongerMinutes">How many minutes later it ends, beside being moved.</param>
/// <param name="CalendarId">The calendar it goes to; null where it stays.</param>
/// <param name="Place">The place it goes to; null where it stays.</param>
public sealed record BoardShift(int Days = 0, int Minutes = 0, int LongerDays = 0, int LongerMinutes = 0, Guid? CalendarId = null, string? Place = null)
{
    /// <summary>The most days either way.</summary>
    public const int MaxDays = 36_600;

    /// <summary>None.</summary>
    public static readonly BoardShift None = new();

    /// <summary>What is left of it after another one, without where it goes to.</summary>
    /// <param name="before">The other one.</param>
    public BoardShift Since(BoardShift before) => new(Days - before.Days, Minutes - before.Minutes, LongerDays - before.LongerDays, LongerMinutes - before.LongerMinutes);

    /// <summary>Where it takes the start of something.</summary>
    /// <param name="start">The start on its clock.</param>
    public LocalDateTime From(LocalDateTime start) => start.PlusDays(Days).PlusMinutes(Minutes);

    /// <summary>The shift itself, when it is one that can be made.</summary>
    /// <exception cref="InvalidInputException"><c>shift_too_far</c>.</exception>
    public BoardShift Checked() =>
        new[] { Days, LongerDays, Minutes / 1440, LongerMinutes / 1440 }.All(d => d is >= -MaxDays and <= MaxDays)
            ? this
            : throw new InvalidInputException("shift_too_far", "shift", "Nothing is moved by more than a hundred years.");
}

/// <summary>What was typed into the fields of an event.</summary>
/// <param name="Fields">What they hold.</param>
/// <param name="Over">What they held before anything was typed or moved.</param>
/// <param name="Was">Which dates that was meant for; null for those meant now.</param>
/// <param name="Shift">How far it was moved on the board, as far as the fields have it.</param>
public sealed record TypedFields(EventFields Fields, EventFields Over, EditScope? Was, BoardShift Shift);

/// <summary>
/// What stands in the fields of an event while it is edited: what is saved, for the dates that are meant; that moved on the
/// board; and what was typed over it, carried to other dates or put over what somebody else saved. Nothing of it is checked:
/// what cannot be saved yet stays typed.
/// </summary>
/// <param name="CalendarId">Its home calendar.</param>
/// <param name="Title">What it is.</param>
/// <param name="Place">Where it is.</param>
/// <param name="Description">Rich text.</param>
/// <param name="When">When it is: the first date, or the one that is meant.</param>
/// <param name="Rule">How it repeats; null for once.</param>
/// <param name="Follows">How it follows school days; null when it does not.</param>
/// <param name="Facts">What it has beside.</param>
public sealed record EventFields(
    Guid CalendarId, string Title, string Place, string Description, TypedTiming When, RecurrenceRule? Rule, SchoolDayRule? Follows, EventFacts Facts)
{
    private const int LeastMinutes = 15;

    private static readonly (string Name, Func<EventFields, object?> Get, Func<EventFields, EventFields, EventFields> Take)[] Parts =
    [
        ("calendarId", f => f.CalendarId, (f, o) => f with { CalendarId = o.CalendarId }),
        ("title", f => f.Title, (f, o) => f with { Title = o.Title }),
        ("place", f => f.Place, (f, o) => f with { Place = o.Place }),
        ("description", f => f.Description, (f, o) => f with { Description = o.Description }),
        // A day of one and a rule of the other would be neither's.
        ("when", f => (f.When, f.Rule, f.Follows), (f, o) => f with { When = o.When, Rule = o.Rule, Follows = o.Follows }),
        .. EventMerge.FactFields.Select(fact => (fact.Name, (Func<EventFields, object?>)(f => fact.Get(f.Facts)), (Func<EventFields, EventFields, EventFields>)((f, o) => f with { Facts = fact.Take(f.Facts, o.Facts) }))),
    ];

    /// <summary>What the fields hold before anything is typed.</summary>
    /// <param name="e">The event, of which everything is read.</param>
    /// <param name="date">The date it was opened on: the local start the series gives.</param>
    /// <param name="scope">Which dates are meant.</param>
    public static EventFields Of(EventView e, LocalDateTime date, EditScope scope)
    {
        var said = e.Said!;
        var home = e.StandsIn.IsEmpty ? e.Calendar.Id : e.StandsIn[0];
        var series = new EventFields(
            home, e.Title ?? "", e.Place ?? "", e.Description ?? "", TypedTiming.Of(said.Timing), said.Rule, said.Follows, e.Facts with { AlsoIn = [.. e.StandsIn.Skip(1)] });
        if (scope == EditScope.EveryDate || said.Rule is null)
            return series;
        var on = series with { When = TypedTiming.Of(said.Timing.At(date)) };
        return scope == EditScope.ThisDate && e.Changes.FirstOrDefault(c => c.Date == date) is { } change
            ? on with
            {
                Title = change.Title ?? on.Title,
                Place = change.Place ?? on.Place,
                Description = change.Description ?? on.Description,
                When = change.Timing is { } timing ? TypedTiming.Of(timing) : on.When,
                Facts = change.Facts.On(on.Facts),
            }
            : on;
    }

    /// <summary>
    /// What the fields hold with what was moved on the board and typed. A move is made from what is saved, however many steps it was
    /// made in: weekdays that fell together on the way come apart again. What was typed stands and is moved on.
    /// </summary>
    /// <param name="saved">What they hold for the dates that are meant, before anything is typed.</param>
    /// <param name="date">The date they were opened on: the local start the series gives.</param>
    /// <param name="scope">Which dates are meant.</param>
    /// <param name="shift">How far it is moved on the board by now.</param>
    /// <param name="typed">What was typed; null for nothing.</param>
    /// <param name="conflicts">The names of what somebody else saved meanwhile, otherwise than it was typed.</param>
    public static EventFields Filled(EventFields saved, LocalDateTime date, EditScope scope, BoardShift shift, TypedFields? typed, out IReadOnlyList<string> conflicts)
    {
        conflicts = [];
        var moved = saved.Shifted(shift, date.Date, scope);
        if (typed is not { Shift: var before })
            return moved;
        var was = typed.Was ?? scope;
        var over = typed.Over.Shifted(before, date.Date, was);
        // What is saved now, moved as far as what was typed was.
        var then = saved.Shifted(before, date.Date, scope);
        var mine = was == scope
            ? typed.Fields.MergedWith(over, then, out conflicts)
            : typed.Fields.CarriedOver(over, was, then, scope, before.From(date).Date);
        if (shift == before)
            return mine;
        var days = Period.DaysBetween(then.When.Start.Date, mine.When.Start.Date);
        var when = Same((mine.When, mine.Rule, mine.Follows), (then.When, then.Rule, then.Follows))
            ? moved
            : mine.Shifted(shift.Since(before), before.From(date).Date.PlusDays(days), scope);
        return mine with
        {
            When = when.When,
            Rule = when.Rule,
            Follows = when.Follows,
            CalendarId = shift.CalendarId == before.CalendarId ? mine.CalendarId : moved.CalendarId,
            Place = shift.Place == before.Place ? mine.Place : moved.Place,
        };
    }

    /// <summary>The fields with a shift of the board; for more dates than one the rule goes along.</summary>
    /// <param name="shift">The shift.</param>
    /// <param name="day">The day of the date that was moved.</param>
    /// <param name="scope">Which dates are meant.</param>
    public EventFields Shifted(BoardShift shift, LocalDate day, EditScope scope)
    {
        var moved = this with { CalendarId = shift.CalendarId ?? CalendarId, Place = shift.Place ?? Place, When = Moved(When, shift) };
        return scope == EditScope.ThisDate ? moved : moved.WithRuleMoved(When.Start.Date, day);
    }

    /// <summary>
    /// What was typed, carried over to other dates: what differs from the fields it was typed over differs from the new ones
    /// too. When one date was moved and more are meant now, the rule goes along; it stays when one date is meant.
    /// </summary>
    /// <param name="over">What the fields held before.</param>
    /// <param name="was">Which dates that was.</param>
    /// <param name="blank">What they hold for the dates that are meant now.</param>
    /// <param name="next">Which dates these are.</param>
    /// <param name="day">The day of the date it was opened on.</param>
    public EventFields CarriedOver(EventFields over, EditScope was, EventFields blank, EditScope next, LocalDate day)
    {
        var carried = blank;
        foreach (var (name, get, take) in Parts)
        {
            if (name != "when" && !Same(get(this), get(over)))
                carried = take(carried, this);
        }
        carried = carried with
        {
            When = CarriedOver(When, over.When, blank.When),
            Rule = Equals(Rule, over.Rule) ? blank.Rule : Rule,
            Follows = Equals(Follows, over.Follows) ? blank.Follows : Follows,
        };
        if (next == EditScope.ThisDate)
            return carried with { Rule = blank.Rule, Follows = blank.Follows, Facts = DateFacts.Between(carried.Facts, blank.Facts).On(blank.Facts) };
        return was == EditScope.ThisDate ? carried.WithRuleMoved(blank.When.Start.Date, day) : carried;
    }

    /// <summary>
    /// What was typed, over what somebody else saved meanwhile: what only they changed is taken from them, what both changed
    /// alike is no matter. Where they differ the typed stands and is named.
    /// </summary>
    /// <param name="over">What the fields held before.</param>
    /// <param name="theirs">What they hold now.</param>
    /// <param name="conflicts">The names of what has to be chosen.</param>
    public EventFields MergedWith(EventFields over, EventFields theirs, out IReadOnlyList<string> conflicts)
    {
        var found = new List<string>();
        var merged = this;
        foreach (var (name, get, take) in Parts)
        {
            var (was, mine, other) = (get(over), get(this), get(theirs));
            if (Same(mine, was) || Same(mine, other))
                merged = take(merged, theirs);
            else if (!Same(other, was))
                found.Add(name);
        }
        conflicts = found;
        return merged;
    }

    private static TypedTiming Moved(TypedTiming when, BoardShift shift)
    {
        if (when.Kind == TimeKind.AllDay)
        {
            var first = when.Start.PlusDays(shift.Days);
            return when with { Start = first, End = Later(when.End.PlusDays(shift.Days + shift.LongerDays), first) };
        }
        var start = when.Start.PlusDays(shift.Days).PlusMinutes(shift.Minutes);
        var end = when.End.PlusDays(shift.Days + shift.LongerDays).PlusMinutes((long)shift.Minutes + shift.LongerMinutes);
        // What had no length on purpose keeps none.
        var least = shift is { LongerDays: 0, LongerMinutes: 0 } ? start : start.PlusMinutes(LeastMinutes);
        return when with { Start = start, End = Later(end, least) };
    }

    private static TypedTiming CarriedOver(TypedTiming typed, TypedTiming over, TypedTiming blank)
    {
        var kind = typed.Kind == over.Kind ? blank.Kind : typed.Kind;
        LocalDateTime Carried(LocalDateTime at, LocalDateTime was, LocalDateTime now)
        {
            var date = now.Date.PlusDays(Period.DaysBetween(was.Date, at.Date));
            return kind == TimeKind.AllDay ? date.AtMidnight() : date.At(at.TimeOfDay == was.TimeOfDay ? now.TimeOfDay : at.TimeOfDay);
        }

        return new TypedTiming(kind, Carried(typed.Start, over.Start, blank.Start), Carried(typed.End, over.End, blank.End), typed.Zone == over.Zone ? blank.Zone : typed.Zone);
    }

    /// <summary>The fields with the rule moved as far as they were: the date on one day is meant, of several weekdays the others stay.</summary>
    /// <param name="start">The first day before.</param>
    /// <param name="day">The day of the date that was moved.</param>
    private EventFields WithRuleMoved(LocalDate start, LocalDate day)
    {
        var days = Period.DaysBetween(start, When.Start.Date);
        if (Rule is null || days == 0)
            return this;
        var to = day.PlusDays(days);
        var by = Period.DaysBetween(When.Start.Date, MovedRule.Start(Rule, start, day, to));
        return this with { Rule = MovedRule.Of(Rule, day, to), When = When with { Start = When.Start.PlusDays(by), End = When.End.PlusDays(by) } };
    }

    private static LocalDateTime Later(LocalDateTime a, LocalDateTime b) => a < b ? b : a;

    private static bool Same(object? a, object? b) => EventMerge.Same(a, b);
}
