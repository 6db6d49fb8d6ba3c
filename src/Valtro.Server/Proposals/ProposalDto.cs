using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Server.Events;

namespace Valtro.Server.Proposals;

/// <summary>What a proposal asks of a calendar.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Kind">What is asked.</param>
/// <param name="Answer">What its keepers said.</param>
/// <param name="Remark">With which words.</param>
/// <param name="By">Who said it.</param>
/// <param name="At">When.</param>
/// <param name="MayDecide">Whether the one who asks can answer it now.</param>
/// <param name="MayTakeBack">Whether they can take the answer back.</param>
internal sealed record AskDto(Guid CalendarId, AskKind Kind, Answer Answer, string Remark, string? By, Instant? At, bool MayDecide, bool MayTakeBack);

/// <summary>An event, or a change of one, that waits for keepers.</summary>
/// <param name="Id">Identity.</param>
/// <param name="IsMine">Whether the one who asks offered it.</param>
/// <param name="Person">Who offered it.</param>
/// <param name="EventId">The event it is about; of a new one the identity it will have.</param>
/// <param name="IsNew">Whether the event is there only once somebody approves it.</param>
/// <param name="Before">The event as it is, before a change; null when none is proposed.</param>
/// <param name="Offered">The event as it shall be.</param>
/// <param name="IsOvertaken">Whether the event was changed in the same place since: before is what the change was made from then.</param>
/// <param name="Added">Events that come with it.</param>
/// <param name="Remark">What its proposer says.</param>
/// <param name="Asks">What is asked of each calendar that the one who asks sees.</param>
/// <param name="CreatedAt">When it was offered.</param>
/// <param name="ChangedAt">When its proposer last changed it.</param>
/// <param name="Version">What is approved is what was read.</param>
internal sealed record ProposalDto(
    Guid Id,
    bool IsMine,
    string? Person,
    Guid EventId,
    bool IsNew,
    EventDto? Before,
    EventDto Offered,
    bool IsOvertaken,
    IReadOnlyList<EventDto> Added,
    string Remark,
    IReadOnlyList<AskDto> Asks,
    Instant CreatedAt,
    Instant ChangedAt,
    int Version);

/// <summary>A new event for several calendars, and what is said to their keepers.</summary>
internal sealed record OfferInput(EventInput Event, string? Remark, int? Version = null);

/// <summary>A change of an event, and what is said to the keepers.</summary>
internal sealed record OfferChangeInput(EditInput Edit, string? Remark);

/// <summary>Another event like one, or like one of its dates.</summary>
/// <param name="Date">The date it is taken by; null for the first.</param>
/// <param name="IsSeries">Whether all of a series is copied, and not this date alone.</param>
/// <param name="Shift">How far away it lies, and where it goes; null for the same place.</param>
/// <param name="Remark">What is said to keepers who have to be asked.</param>
internal sealed record CopyInput(LocalDateTime? Date, bool IsSeries = false, BoardShift? Shift = null, string? Remark = null);

internal sealed record OfferStepInput(DateStep Step, LocalDateTime? Date, int Version, string? Remark);

/// <summary>What became of an offer: the event as far as it is there already, and the proposal as far as keepers are asked.</summary>
internal sealed record OfferedDto(EventDto? Event, ProposalDto? Proposal);

internal sealed record AnswerInput(IReadOnlyList<Guid>? CalendarIds, Answer Answer, string? Remark, int Version);

internal sealed record ReopenInput(IReadOnlyList<Guid>? CalendarIds);
