using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Proposals;

/// <summary>What of an offer is done at once, because its author may do it, and what keepers have to be asked.</summary>
/// <param name="Edits">What is done at once, each with the state before; none before for a new event.</param>
/// <param name="Proposal">What is asked; null when nothing has to be.</param>
public sealed record Offering(IReadOnlyList<(Event? Before, Event After)> Edits, Proposal? Proposal)
{
    /// <summary>The calendars that have to be asked.</summary>
    public IEnumerable<Guid> Asked => Proposal is null ? [] : Proposal.Asks.Select(a => a.CalendarId).Distinct();

    /// <summary>
    /// The calendars whose keepers have to be asked before an event is as it is wanted: those it would newly stand in or move to,
    /// and for a change its home, where one does not keep their events.
    /// </summary>
    /// <param name="wanted">The calendars it shall stand in, its home first.</param>
    /// <param name="before">Those it stands in, its home first; empty for a new event.</param>
    /// <param name="may">What its author may do.</param>
    public static IReadOnlyList<Guid> ToAsk(IEnumerable<Guid> wanted, IReadOnlyList<Guid> before, Access may)
    {
        var all = wanted.ToList();
        return [.. before.Take(1).Concat(before.Count > 0 ? all.Take(1) : []).Concat(all.Except(before)).Distinct().Where(c => !may.MayEdit(c))];
    }

    /// <summary>Offers a new event to the calendars it shall stand in. It is there at once in those whose events its author keeps.</summary>
    /// <param name="wanted">The event, as it shall be.</param>
    /// <param name="may">What its author may do.</param>
    /// <param name="personId">Who that is.</param>
    /// <param name="remark">What they say to the keepers.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days.</param>
    /// <exception cref="InvalidInputException"><c>text_too_long</c>.</exception>
    public static Offering OfNew(Event wanted, Access may, Guid personId, string? remark, Instant now, SchoolDays days)
    {
        var own = wanted.CalendarIds.Where(c => may.MayEdit(c)).ToList();
        var asks = ToAsk(wanted.CalendarIds, [], may).Select(c => new Ask(c, AskKind.Standing)).ToList();
        if (own.Count == 0)
            return new Offering([], Proposal.Offer(Guid.CreateVersion7(), personId, wanted, true, null, [], remark, asks, now));
        // The home that was meant stays it where it can.
        var home = own.Contains(wanted.CalendarId) ? wanted.CalendarId : own[0];
        var made = Standing(wanted, home, own, days);
        return new Offering([(null, made)], asks.Count == 0 ? null : Proposal.Offer(Guid.CreateVersion7(), personId, made, false, null, [], remark, asks, now));
    }

    /// <summary>
    /// Offers a change of an event. Who keeps its home's events changes it at once, and only the calendars it shall newly
    /// stand in, or move to, are asked; from others the change itself waits for the home's keepers.
    /// </summary>
    /// <param name="before">The event as it is.</param>
    /// <param name="after">The event as it shall be.</param>
    /// <param name="added">Events that come with it.</param>
    /// <param name="may">What its author may do.</param>
    /// <param name="personId">Who that is.</param>
    /// <param name="remark">What they say to the keepers.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days.</param>
    /// <exception cref="InvalidInputException">
    /// <c>proposal_home</c>: an event is moved only out of a calendar one keeps; <c>nothing_proposed</c>: nothing differs; <c>text_too_long</c>.
    /// </exception>
    public static Offering OfChange(Event before, Event after, IReadOnlyList<Event> added, Access may, Guid personId, string? remark, Instant now, SchoolDays days)
    {
        var keepsHome = may.MayEdit(before.CalendarId);
        var moves = after.CalendarId != before.CalendarId;
        if (moves && !keepsHome)
            throw new InvalidInputException("proposal_home", "calendarId", "Only who keeps the calendar it is of can move an event to another one. Let it stand in the other one too.");
        var asked = ToAsk(after.CalendarIds, [.. before.CalendarIds], may).Except(before.CalendarIds).ToList();
        var asks = asked.Select(c => new Ask(c, AskKind.Standing)).ToList();
        var home = after.CalendarId;
        if (moves && !may.MayEdit(home))
        {
            // It stays where it is until those it shall go to have agreed.
            asks = [new Ask(home, AskKind.Moving), .. asks.Where(a => a.CalendarId != home)];
            home = before.CalendarId;
        }
        var direct = asks.Count == 0 ? after : Standing(after, home, [home, .. after.CalendarIds.Except(asked).Where(c => c != after.CalendarId || c == home)], days);
        if (home != after.CalendarId && before.Facts.AlsoIn.Contains(after.CalendarId))
            direct = direct with { Facts = (direct.Facts with { AlsoIn = direct.Facts.AlsoIn.Add(after.CalendarId) }).Checked(home) };
        var isChanged = EventMerge.Of(before, direct, before, now, days, out _) != before || direct.CalendarId != before.CalendarId || added.Count > 0;
        if (!isChanged && asks.Count == 0)
            throw new InvalidInputException("nothing_proposed", "proposal", "Nothing differs from how it is.");
        if (keepsHome)
        {
            IReadOnlyList<(Event? Before, Event After)> edits = isChanged ? [(before, direct), .. added.Select(e => ((Event?)null, e))] : [];
            return new Offering(edits, asks.Count == 0 ? null : Proposal.Offer(Guid.CreateVersion7(), personId, isChanged ? direct : before, false, null, [], remark, asks, now));
        }
        if (isChanged)
            asks.Insert(0, new Ask(before.CalendarId, AskKind.Contents));
        return new Offering([], Proposal.Offer(Guid.CreateVersion7(), personId, isChanged ? direct : before, false, isChanged ? before : null, added, remark, asks, now));
    }

    private static Event Standing(Event e, Guid home, IReadOnlyList<Guid> calendars, SchoolDays days)
    {
        var facts = e.Facts with
        {
            AlsoIn = [.. calendars.Where(c => c != home)],
            Limits = [.. e.Facts.Limits.Where(l => calendars.Contains(l.CalendarId))],
        };
        var placed = e with { CalendarId = home, Facts = facts.Checked(home) };
        return home == e.CalendarId ? placed : placed.OnSchoolDays(days);
    }
}
