using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Proposals;

/// <summary>Proposals as the one who asks may see them.</summary>
internal sealed class ProposalView(Caller caller, Store.Events events, SchoolYears schoolYears, Members members, IClock clock)
{
    public async Task<IReadOnlyList<ProposalDto>> OfAsync(IReadOnlyList<Proposal> proposals)
    {
        var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
        var names = await members.NamesAsync(caller.SchoolId, [.. proposals.SelectMany(p => p.Asks.Select(a => a.By).Append(p.PersonId)).OfType<Guid>().Distinct()]);
        string? Name(Guid? id) => id is { } known ? names.GetValueOrDefault(known) : null;
        // Calendars that somebody does not see are not told of.
        bool IsSeen(Guid id) => calendars.TryGetValue(id, out var calendar) && may.Sees(calendar);
        EventDto Told(Event e) => EventDto.Of(e with
        {
            Facts = e.Facts with
            {
                AlsoIn = [.. e.Facts.AlsoIn.Where(IsSeen)],
                Limits = [.. e.Facts.Limits.Where(l => IsSeen(l.CalendarId))],
            },
        });
        var known = (await events.FindAllAsync(caller.SchoolId, [.. proposals.Where(p => p.Base is not null).Select(p => p.EventId).Distinct()])).ToDictionary(e => e.Id);
        var days = (await schoolYears.GetAsync(caller.SchoolId)).Days;
        var now = clock.GetCurrentInstant();
        var told = new List<ProposalDto>();
        foreach (var p in proposals)
        {
            // A change is told as it would be now; to a proposer who may not read the event any more, as they knew it.
            var current = known.GetValueOrDefault(p.EventId);
            var mayRead = current is not null && (await caller.DetailOfAsync(current) == Detail.Everything || p.Asks.Any(a => may.Has(a.CalendarId, CalendarRole.Editor)));
            var isOpen = p.Asks.Any(a => a.Kind == AskKind.Contents && a.IsUndecided);
            var merged = isOpen && mayRead ? p.AsProposed(current, now, days) : null;
            var before = p.Base is null ? null : merged is null ? p.Base : current;
            told.Add(new ProposalDto(
                p.Id,
                p.PersonId == caller.PersonId,
                Name(p.PersonId),
                p.EventId,
                p.IsNew,
                before is null ? null : Told(before),
                Told(merged ?? p.Offered),
                isOpen && mayRead && merged is null,
                [.. p.Added.Select(Told)],
                p.Remark,
                [
                    .. p.Asks.Where(a => IsSeen(a.CalendarId)).Select(a => new AskDto(
                        a.CalendarId,
                        a.Kind,
                        a.Answer,
                        a.Remark,
                        Name(a.By),
                        a.At,
                        a.IsUndecided && may.MayDecide(a.CalendarId) && !p.WaitsForHome(a),
                        a.Answer != Answer.Open && may.MayDecide(a.CalendarId))),
                ],
                p.CreatedAt,
                p.ChangedAt,
                p.Version));
        }
        return told;
    }
}
