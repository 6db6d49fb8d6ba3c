using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Core.Views;
using Valtro.Server.Events;
using Valtro.Server.Sessions;

namespace Valtro.Server.Views;

/// <summary>Something that was done to an event, with the states that may be read.</summary>
internal sealed record HistoryView(Guid Id, Instant At, string? Person, string Action, EventView? Before, EventView? After);

/// <summary>
/// The one way out, for who is signed in: events as the one who asks gets them. Reads what is kept and gives views of it; board,
/// sheet, search, history, checks, templates and files take theirs from here and have no other.
/// </summary>
internal sealed class EventViews(Caller caller, Store.Events events, Store.Proposals proposals, IClock clock)
{
    private const int MostHits = 20;

    /// <summary>An event; null when they get nothing of it.</summary>
    public async Task<EventView?> FindAsync(Guid id) =>
        await events.FindAsync(caller.SchoolId, id, caller.Aborted) is { } e ? (await caller.EyesAsync()).View(e) : null;

    /// <summary>Some events by their identities; those they get nothing of are left out.</summary>
    public async Task<IReadOnlyList<EventView>> OfIdsAsync(Guid[] ids) =>
        [.. (await caller.EyesAsync()).View(await events.FindAllAsync(caller.SchoolId, ids, caller.Aborted))];

    /// <summary>The event with an identity feeds know, as far as they get it; null for nothing.</summary>
    public async Task<EventView?> ByUidAsync(string uid) =>
        await events.ByUidAsync(caller.SchoolId, uid) is { } e ? (await caller.EyesAsync()).View(e) : null;

    /// <summary>An event of which they get at least a detail.</summary>
    /// <exception cref="NotFoundException">They do not.</exception>
    public async Task<EventView> NeedAsync(Guid id, Detail least) =>
        await FindAsync(id) is { } view && view.Detail >= least ? view : throw NotFoundException.Event();

    /// <summary>The events that can touch a window.</summary>
    /// <param name="window">The window.</param>
    /// <param name="eyes">With whose eyes; null for one's own.</param>
    public async Task<IReadOnlyList<EventView>> InWindowAsync(TimeWindow window, Eyes? eyes = null)
    {
        eyes ??= await caller.EyesAsync();
        return [.. eyes.View(await events.InWindowAsync(caller.SchoolId, window, await SeenAsync(eyes), caller.Aborted))];
    }

    /// <summary>All events of some calendars, in the bin not.</summary>
    public async Task<IReadOnlyList<EventView>> OfCalendarsAsync(Guid[] calendarIds) =>
        [.. (await caller.EyesAsync()).View(await events.OfCalendarsAsync(caller.SchoolId, calendarIds, caller.Aborted))];

    /// <summary>The events some changes were about, as they are now; those in the bin are not among them.</summary>
    public async Task<IReadOnlyList<EventView>> OfChangesAsync(Guid[] changeIds)
    {
        var all = await events.OfChangesAsync(caller.SchoolId, changeIds, caller.Aborted);
        return [.. (await caller.EyesAsync()).View(all.Where(e => e.DeletedAt is null))];
    }

    /// <summary>
    /// What was done to an event, the newest first. Each state as they would get it now if it still were so: one from a calendar
    /// that is closed to them they get nothing of. What they get neither state of is not told.
    /// </summary>
    /// <exception cref="NotFoundException">They are not of the event's team.</exception>
    public async Task<IReadOnlyList<HistoryView>> HistoryAsync(Guid id)
    {
        // What was is the team's alone: it may have been less open then.
        if (await FindAsync(id) is not { IsTeams: true })
            throw NotFoundException.Event();
        var eyes = await caller.EyesAsync();
        EventView? Seen(Event? e) => e is null ? null : eyes.View(e) is { Detail: >= Detail.Headlines } view ? view : null;
        return
        [
            .. (await events.HistoryAsync(caller.SchoolId, id, caller.Aborted))
                .Select(h => new HistoryView(h.Id, h.At, h.Person, h.Action, Seen(h.Before), Seen(h.After)))
                .Where(h => h.Before is not null || h.After is not null),
        ];
    }

    /// <summary>The events in the bin that they may take out.</summary>
    public async Task<IReadOnlyList<EventView>> BinAsync()
    {
        var (may, eyes) = (await caller.AccessAsync(), await caller.EyesAsync());
        Guid[] kept = [.. (await caller.CalendarsAsync()).Keys.Where(c => may.Has(c, CalendarRole.Editor))];
        return [.. eyes.View(await events.BinAsync(caller.SchoolId, kept, caller.Aborted))];
    }

    /// <summary>
    /// The events that are like what was asked for, by what they get of each, the best first: neither how many there are nor
    /// their order follows from what they do not get.
    /// </summary>
    public async Task<IReadOnlyList<EventView>> SearchAsync(string text)
    {
        var (eyes, folded) = (await caller.EyesAsync(), Words.Fold(text));
        var seen = await SeenAsync(eyes);
        var found = new List<(EventView View, float Likeness)>();
        foreach (var byHeadlines in new[] { false, true })
        {
            var hits = 0;
            await foreach (var (e, likeness) in events.SearchAsync(caller.SchoolId, folded, seen, byHeadlines))
            {
                if (eyes.View(e) is not { } view || view.Detail != (byHeadlines ? Detail.Headlines : Detail.Everything) || (byHeadlines && !view.HasWords(folded)))
                    continue;
                found.Add((view, likeness));
                if (++hits == MostHits)
                    break;
            }
        }
        return [.. found.OrderByDescending(f => f.Likeness).ThenBy(f => f.View.Id).Take(MostHits).Select(f => f.View)];
    }

    /// <summary>Whether they may read contents because an event has them, or a proposal that concerns them.</summary>
    public async Task<bool> MayReadContentAsync(Guid contentId)
    {
        var eyes = await caller.EyesAsync();
        if (eyes.View(await events.WithContentAsync(caller.SchoolId, contentId)).Any(e => e.Detail >= Detail.Everything))
            return true;
        var of = await ProposalsAsync(await proposals.WithContentAsync(caller.SchoolId, contentId));
        return of.Any(p => p.Offered.Facts.Picture?.Id == contentId || p.Offered.Files.Any(f => f.ContentId == contentId));
    }

    /// <summary>An event as it is being typed, or as it is kept when it has an identity, and what they get of it: all.</summary>
    /// <exception cref="NotFoundException">They do not get all of it, or do not see its calendar.</exception>
    /// <exception cref="NotAllowedException">They may not offer events to its calendar.</exception>
    public async Task<EventView> TypedAsync(EventInput input, Guid? id)
    {
        await caller.NeedOfferAsync(input.CalendarId);
        var (eyes, now) = (await caller.EyesAsync(), clock.GetCurrentInstant());
        var before = id is { } known ? await NeedAsync(known, Detail.Everything) : null;
        var calendar = (await caller.CalendarsAsync())[input.CalendarId];
        var timing = input.Timing.ToTiming(before?.Said?.Timing.Zone ?? calendar.Zone);
        // Without a title it clashes all the same.
        var draft = new EventDraft(string.IsNullOrWhiteSpace(input.Title) ? "…" : input.Title, input.Place, input.Description, timing, input.Rule?.ToRule(), input.Follows?.ToRule(), input.Facts?.ToFacts());
        var typed = Event.Create(before?.Id ?? Guid.Empty, input.CalendarId, draft, now, await caller.DaysAsync());
        if (before is { Said: { } said } && typed.Rule is not null)
            typed = typed with { Skips = said.Skips, Extras = said.Extras, Changes = before.Changes };
        // Of two events the one that was there first is told first; what is only typed never was.
        return eyes.Own(typed with { CreatedAt = before?.CreatedAt ?? Instant.MaxValue });
    }

    /// <summary>A template's event, as whoever may start from it gets it; null when they do not get all of it.</summary>
    public async Task<EventView?> TemplateAsync(EventInput input)
    {
        if (!(await caller.CalendarsAsync()).TryGetValue(input.CalendarId, out var calendar))
            return null;
        var draft = new EventDraft(input.Title, input.Place, input.Description, input.Timing.ToTiming(calendar.Zone), input.Rule?.ToRule(), null, input.Facts?.ToFacts());
        return (await caller.EyesAsync()).View(Event.Create(Guid.Empty, input.CalendarId, draft, clock.GetCurrentInstant())) is { Detail: Detail.Everything } view ? view : null;
    }

    /// <summary>The proposals that concern them: their own, and those to the calendars whose events they keep.</summary>
    public async Task<IReadOnlyList<ProposalView>> ProposalsAsync()
    {
        var may = await caller.AccessAsync();
        Guid[] calendars = [.. (await caller.CalendarsAsync()).Keys.Where(c => may.Has(c, CalendarRole.Editor))];
        return await ProposalsAsync(await proposals.ListAsync(caller.SchoolId, caller.PersonId, calendars, clock.GetCurrentInstant(), caller.Aborted));
    }

    /// <summary>A proposal that concerns them.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task<ProposalView> ProposalAsync(Guid id) =>
        await proposals.FindAsync(caller.SchoolId, id, caller.Aborted) is { } proposal && await ProposalsAsync([proposal]) is [var view] ? view : throw NotFoundException.Proposal();

    /// <summary>What somebody offered themselves for an event, to go on with.</summary>
    /// <exception cref="NotFoundException">They have no such proposal.</exception>
    public async Task<EventView> OfferedAsync(Guid proposalId, Guid eventId) =>
        await ProposalAsync(proposalId) is { } view && view.Proposal.EventId == eventId && view.Proposal.PersonId == caller.PersonId ? view.Offered : throw NotFoundException.Proposal();

    /// <summary>Proposals as they may see them, with the events they are about as these are now.</summary>
    public async Task<IReadOnlyList<ProposalView>> ProposalsAsync(IReadOnlyList<Proposal> all)
    {
        if (all.Count == 0)
            return [];
        var (may, eyes, days) = (await caller.AccessAsync(), await caller.EyesAsync(), await caller.DaysAsync());
        var known = (await events.FindAllAsync(caller.SchoolId, [.. all.Select(p => p.EventId).Distinct()], caller.Aborted)).ToDictionary(e => e.Id);
        return [.. all.Where(p => may.Sees(p, caller.PersonId)).Select(p => ProposalView.Of(p, known.GetValueOrDefault(p.EventId), may, eyes, caller.PersonId, days))];
    }

    private async Task<Guid[]> SeenAsync(Eyes eyes) => [.. (await caller.CalendarsAsync()).Keys.Where(eyes.Sees)];
}
