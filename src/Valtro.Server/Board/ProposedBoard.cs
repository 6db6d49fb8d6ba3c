using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Server.Proposals;
using Valtro.Server.Sessions;

namespace Valtro.Server.Board;

/// <summary>What waits for an answer, in its place on the board: for its proposer and the keepers of events it is offered to.</summary>
internal sealed class ProposedBoard(Caller caller, Store.Proposals proposals, Store.Events events, IClock clock)
{
    /// <summary>Adds what is proposed to the dates of a board, and marks those that would go.</summary>
    public async Task AddAsync(List<OccurrenceDto> occurrences, TimeWindow window, SchoolDays days, int notice)
    {
        var waiting = (await ProposalEndpoints.VisibleAsync(caller, proposals, clock)).Where(p => !p.IsDecided).ToList();
        if (waiting.Count == 0)
            return;
        var (may, calendars, now) = (await caller.AccessAsync(), await caller.CalendarsAsync(), clock.GetCurrentInstant());
        var known = (await events.FindAllAsync(caller.SchoolId, [.. waiting.Select(p => p.EventId).Distinct()])).ToDictionary(e => e.Id);
        foreach (var proposal in waiting)
        {
            var current = known.GetValueOrDefault(proposal.EventId);
            if (proposal.AsProposed(current, now, days) is not { } wanted)
                continue;
            var isMine = proposal.PersonId == caller.PersonId;
            var asks = proposal.Asks
                .Where(a => a.IsUndecided && calendars.TryGetValue(a.CalendarId, out var calendar) && may.Sees(calendar) && (isMine || may.Has(a.CalendarId, CalendarRole.Editor)))
                .ToList();
            OccurrenceDto Proposed(EventDate seen, IReadOnlyList<Guid> standing, ProposedKind kind) =>
                BoardEndpoints.Occurrence(wanted, seen, standing, window.Zone, notice, Detail.Everything) with { ProposalId = proposal.Id, Proposed = kind };

            var standing = asks.Where(a => a.Kind == AskKind.Standing).Select(a => a.CalendarId).OrderByDescending(c => c == proposal.Offered.CalendarId).ToList();
            if (standing.Count > 0)
                occurrences.AddRange(wanted.All.In(window).Select(seen => Proposed(seen, standing, ProposedKind.New)));
            if (current is null || asks.Find(a => a.Kind == AskKind.Contents) is not { } home)
                continue;
            var was = current.All.In(window).ToDictionary(seen => seen.Date, seen => Shown(current, seen));
            var dates = new HashSet<LocalDateTime>();
            if (wanted.DeletedAt is null)
            {
                foreach (var seen in wanted.All.In(window))
                {
                    dates.Add(seen.Date);
                    if (!was.TryGetValue(seen.Date, out var shown) || shown != Shown(wanted, seen))
                        occurrences.Add(Proposed(seen, [home.CalendarId], ProposedKind.Change));
                }
            }
            for (var i = 0; i < occurrences.Count; i++)
            {
                if (occurrences[i] is { ProposalId: null } there && there.EventId == current.Id && !dates.Contains(there.Date))
                    occurrences[i] = there with { ProposalId = proposal.Id, Proposed = ProposedKind.Gone };
            }
        }
    }

    private static (string Title, string Place, SeenSpan Span, bool IsOff) Shown(Event e, EventDate seen) =>
        (seen.Change?.Title ?? e.Title, seen.Change?.Place ?? e.Place, seen.Span, seen.Change is { IsCalledOff: true });
}
