using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Core.Time;
using Valtro.Core.Views;
using Valtro.Server.Sessions;
using Valtro.Server.Views;

namespace Valtro.Server.Board;

/// <summary>What waits for an answer, in its place on the board: for its proposer and the keepers of events it is offered to.</summary>
internal sealed class ProposedBoard(Caller caller, EventViews views)
{
    /// <summary>Adds what is proposed to the dates of a board, and marks those that would go.</summary>
    public async Task AddAsync(List<OccurrenceDto> occurrences, IReadOnlyDictionary<Guid, EventView> seen, TimeWindow window, int notice)
    {
        var may = await caller.AccessAsync();
        foreach (var proposal in await views.ProposalsAsync())
        {
            if (proposal.Proposal.IsDecided || proposal.Now is not { } wanted)
                continue;
            var head = proposal.Proposal;
            var isMine = head.PersonId == caller.PersonId;
            var asks = head.Asks.Where(a => a.IsUndecided && (isMine || may.Has(a.CalendarId, Core.People.CalendarRole.Editor))).ToList();
            OccurrenceDto Proposed(EventDate date, IReadOnlyList<Guid> standing, ProposedKind kind) =>
                BoardEndpoints.Occurrence(wanted, date, standing, window.Zone, notice) with { ProposalId = head.Id, Proposed = kind };

            var standing = asks.Where(a => a.Kind != AskKind.Contents).Select(a => a.CalendarId).OrderByDescending(c => c == head.Home).ToList();
            if (standing.Count > 0)
                occurrences.AddRange(wanted.Dates.In(window).Select(date => Proposed(date, standing, ProposedKind.New)));
            if (asks.Find(a => a.Kind == AskKind.Contents) is not { } home || !seen.TryGetValue(head.EventId, out var current))
                continue;
            var was = current.Dates.In(window).ToDictionary(date => date.Date, date => Shown(current, date));
            var dates = new HashSet<LocalDateTime>();
            if (wanted.DeletedAt is null)
            {
                foreach (var date in wanted.Dates.In(window))
                {
                    dates.Add(date.Date);
                    if (!was.TryGetValue(date.Date, out var shown) || shown != Shown(wanted, date))
                        occurrences.Add(Proposed(date, [home.CalendarId], ProposedKind.Change));
                }
            }
            for (var i = 0; i < occurrences.Count; i++)
            {
                if (occurrences[i] is { ProposalId: null } there && there.EventId == current.Id && !dates.Contains(there.Date))
                    occurrences[i] = there with { ProposalId = head.Id, Proposed = ProposedKind.Gone };
            }
        }
    }

    private static (string? Title, string? Place, SeenSpan Span, bool IsOff) Shown(EventView e, EventDate date) =>
        (date.Change?.Title ?? e.Title, date.Change?.Place ?? e.Place, date.Span, date.Change is { IsCalledOff: true });
}
