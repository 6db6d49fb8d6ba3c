using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Views;

/// <summary>
/// What one viewer gets of a proposal. Keepers who are asked get what was offered to them; who offered it gets their own
/// words, and of the event behind them what they may still read: an event that was narrowed since does not stand there.
/// </summary>
/// <param name="Proposal">The proposal's own: who, to whom, with which words. Its events are not told from here.</param>
/// <param name="Before">The event as it is, before a change; null when none is proposed, or they may not read it.</param>
/// <param name="Offered">The event as it shall be.</param>
/// <param name="Now">The event as it would be on the board if what waits were approved; null when it was overtaken, or may not be read.</param>
/// <param name="IsOvertaken">Whether the event was changed in the same place since.</param>
/// <param name="Added">Events that come with it.</param>
public sealed record ProposalView(ProposalHead Proposal, EventView? Before, EventView Offered, EventView? Now, bool IsOvertaken, IReadOnlyList<EventView> Added)
{
    /// <summary>Makes it.</summary>
    /// <param name="p">The proposal.</param>
    /// <param name="current">The event as it is now; null when there is none.</param>
    /// <param name="may">What the viewer may do.</param>
    /// <param name="eyes">With what eyes they look.</param>
    /// <param name="personId">Who they are.</param>
    /// <param name="days">The school's days.</param>
    public static ProposalView Of(Proposal p, Event? current, Access may, Eyes eyes, Guid personId, SchoolDays days)
    {
        var head = new ProposalHead(p, [.. p.Asks.Where(a => eyes.Sees(a.CalendarId))]);
        var detail = current is null ? Detail.Nothing : eyes.View(current)?.Detail ?? Detail.Nothing;
        var isAsked = p.Asks.Any(a => may.Has(a.CalendarId, CalendarRole.Editor));
        // What nobody approved yet is nothing but what was offered.
        var isOffer = p.IsNew && p.Asks.All(a => a.Answer != Answer.Approved);
        if (!isOffer && detail < Detail.Everything && !isAsked)
            return new ProposalView(head, null, eyes.Own(OwnWords(p, current, detail)), null, false, []);
        var mayRead = isOffer || detail >= Detail.Everything;
        var isOpen = p.Asks.Any(a => a.Kind == AskKind.Contents && a.IsUndecided);
        // As of when it was last changed: asked for later it says the same.
        var merged = mayRead ? p.AsProposed(current, p.ChangedAt, days) : null;
        var shown = isOpen ? merged : null;
        var before = p.Base is null ? null : shown is null ? (isAsked || detail >= Detail.Everything ? p.Base : null) : current;
        return new ProposalView(
            head,
            before is null ? null : eyes.Own(before),
            eyes.Own(shown ?? p.Offered),
            merged is null ? null : eyes.Own(merged),
            isOpen && mayRead && merged is null,
            [.. p.Added.Select(eyes.Own)]);
    }

    // What they wrote themselves, and of the rest what is still theirs to read.
    private static Event OwnWords(Proposal p, Event? current, Detail detail)
    {
        var was = p.Base ?? p.Offered;
        string Own(Func<Event, string> text, bool isHeadline) =>
            text(p.Offered) != text(was) ? text(p.Offered) : isHeadline && detail >= Detail.Headlines && current is not null ? text(current) : "";
        return p.Offered with
        {
            Title = Own(e => e.Title, true),
            Place = Own(e => e.Place, true),
            Description = Own(e => e.Description, false),
            Facts = new EventFacts { AlsoIn = p.Offered.Facts.AlsoIn },
            Changes = [.. p.Offered.Changes.Except(was.Changes)],
            RelatedTo = null,
        };
    }
}

/// <summary>What a proposal says beside its events.</summary>
public sealed record ProposalHead
{
    internal ProposalHead(Proposal p, IReadOnlyList<Ask> asks)
    {
        (Id, PersonId, EventId, IsNew, Remark, CreatedAt, ChangedAt, Version, Home) = (p.Id, p.PersonId, p.EventId, p.IsNew, p.Remark, p.CreatedAt, p.ChangedAt, p.Version, p.Offered.CalendarId);
        IsDecided = p.IsDecided;
        IsOffer = p.IsNew && p.Asks.All(a => a.IsUndecided);
        Asks = asks;
        Waiting = [.. asks.Where(p.WaitsForHome)];
    }

    /// <summary>Identity.</summary>
    public Guid Id { get; }

    /// <summary>Who offers it; null when they are gone.</summary>
    public Guid? PersonId { get; }

    /// <summary>The event it is about.</summary>
    public Guid EventId { get; }

    /// <summary>The home that was meant.</summary>
    public Guid Home { get; }

    /// <summary>Whether the event is there only once somebody approves it.</summary>
    public bool IsNew { get; }

    /// <summary>Whether it is a new event that nobody has decided on.</summary>
    public bool IsOffer { get; }

    /// <summary>Whether nothing of it can be answered any more.</summary>
    public bool IsDecided { get; }

    /// <summary>What the proposer says.</summary>
    public string Remark { get; }

    /// <summary>When it was first offered.</summary>
    public Instant CreatedAt { get; }

    /// <summary>When the proposer last changed it.</summary>
    public Instant ChangedAt { get; }

    /// <summary>What is approved is what was read.</summary>
    public int Version { get; }

    /// <summary>What is asked of the calendars the viewer sees.</summary>
    public IReadOnlyList<Ask> Asks { get; }

    /// <summary>Those of them that wait for the event's home.</summary>
    public IReadOnlyList<Ask> Waiting { get; }
}
