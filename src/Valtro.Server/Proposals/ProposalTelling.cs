using Valtro.Core.Commands;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Views;
using Valtro.Server.Events;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Proposals;

/// <summary>A calendar that would be asked, and who keeps it.</summary>
internal sealed record AskedDto(Guid CalendarId, IReadOnlyList<string> Keepers);

/// <summary>Tells of proposals, with the names of who offered and answered them.</summary>
internal sealed class ProposalTelling(Caller caller, Members members, Roles roles)
{
    /// <summary>Who would be asked for calendars, by name.</summary>
    public async Task<IReadOnlyList<AskedDto>> AskedAsync(IReadOnlyList<Guid> calendarIds)
    {
        if (calendarIds.Count == 0)
            return [];
        var keepers = await roles.KeepersAsync(caller.SchoolId, [.. calendarIds]);
        return [.. calendarIds.Select(c => new AskedDto(c, [.. keepers[c]]))];
    }

    /// <summary>The names of the school's people.</summary>
    public Task<IReadOnlyDictionary<Guid, string>> NamesAsync() => members.NamesAsync(caller.SchoolId);

    public async Task<IReadOnlyList<ProposalDto>> OfAsync(IReadOnlyList<ProposalView> proposals)
    {
        if (proposals.Count == 0)
            return [];
        var (names, may) = (await NamesAsync(), await caller.AccessAsync());
        return [.. proposals.Select(p => Of(p, may, names))];
    }

    public ProposalDto Of(ProposalView p, CommandState state, IReadOnlyDictionary<Guid, string> names) => Of(p, state.Access, names);

    private ProposalDto Of(ProposalView view, Access may, IReadOnlyDictionary<Guid, string> names)
    {
        var p = view.Proposal;
        string? Name(Guid? id) => id is { } known ? names.GetValueOrDefault(known) : null;
        return new ProposalDto(
            p.Id,
            p.PersonId == caller.PersonId,
            Name(p.PersonId),
            p.EventId,
            p.IsNew,
            view.Before is null ? null : EventDto.Of(view.Before),
            EventDto.Of(view.Offered),
            view.IsOvertaken,
            [.. view.Added.Select(EventDto.Of)],
            p.Remark,
            [
                .. p.Asks.Select(a => new AskDto(
                    a.CalendarId,
                    a.Kind,
                    a.Answer,
                    a.Remark,
                    Name(a.By),
                    a.At,
                    a.IsUndecided && may.MayDecide(a.CalendarId) && !p.Waiting.Contains(a),
                    a.Answer != Answer.Open && may.MayDecide(a.CalendarId))),
            ],
            p.CreatedAt,
            p.ChangedAt,
            p.Version);
    }
}
