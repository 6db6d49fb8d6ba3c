using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Core.Views;

/// <summary>A calendar as whoever looks gets it.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Title">Its name.</param>
/// <param name="Mark">Its mark.</param>
/// <param name="Detail">The most any of its events shows; with one event, how much it shows of that.</param>
/// <param name="Tag">A short name for it; may be empty.</param>
public sealed record ViewedCalendar(Guid Id, string Title, int Mark, Detail Detail, string Tag = "");

/// <summary>When an event is, as people said it: what a series of school days was made from, not the dates that gave.</summary>
/// <param name="Timing">When it is, or first is.</param>
/// <param name="Rule">The rule of a series; null for a one-time event.</param>
/// <param name="Follows">How the series follows school days; null when it does not.</param>
/// <param name="Skips">Local starts left out.</param>
/// <param name="Extras">Local starts added.</param>
public sealed record SaidDates(
    EventTiming Timing, RecurrenceRule? Rule, SchoolDayRule? Follows, ImmutableArray<LocalDateTime> Skips, ImmutableArray<LocalDateTime> Extras);

/// <summary>
/// What one viewer gets of an event: holds nothing that their detail does not allow, so that nothing downstream can show
/// more. Made by <see cref="Eyes"/> alone, from the event and the decision; nothing outside the core can make or change one.
/// </summary>
public sealed record EventView
{
    internal EventView()
    {
    }

    /// <summary>Its identity; below <see cref="Detail.Headlines"/> one that tells nobody which event it is.</summary>
    public Guid Id { get; internal init; }

    /// <summary>The identity feeds know it by; below <see cref="Detail.Headlines"/> one that tells nobody which event it is.</summary>
    public string Uid { get; internal init; } = "";

    /// <summary>How much of it is shown.</summary>
    public Detail Detail { get; internal init; }

    /// <summary>Whether the viewer has a role on a calendar it stands in: the team is told of its drafts, its reach and its version.</summary>
    public bool IsTeams { get; internal init; }

    /// <summary>The calendar it is shown by: of those it stands in, the first that shows most of it.</summary>
    public ViewedCalendar Calendar { get; internal init; } = null!;

    /// <summary>All calendars that show its name, in the viewer's order; below <see cref="Detail.Headlines"/> the one it is shown by.</summary>
    public IReadOnlyList<ViewedCalendar> Calendars { get; internal init; } = [];

    /// <summary>The calendars it is told to stand in: its home first where that is one of them.</summary>
    public ImmutableArray<Guid> StandsIn { get; internal init; } = [];

    /// <summary>The title; null below <see cref="Detail.Headlines"/>.</summary>
    public string? Title { get; internal init; }

    /// <summary>The place; null below <see cref="Detail.Headlines"/>.</summary>
    public string? Place { get; internal init; }

    /// <summary>The description, as clean <see cref="RichText"/>; null below <see cref="Detail.Everything"/>.</summary>
    public string? Description { get; internal init; }

    /// <summary>
    /// What it has beside: all of it with <see cref="Detail.Everything"/>, below that only whether it leaves the time free,
    /// and with <see cref="Detail.Headlines"/> its mark and its reminder. Its reach and limits are the team's; where it stands
    /// is never among them, see <see cref="StandsIn"/>.
    /// </summary>
    public EventFacts Facts { get; internal init; } = EventFacts.None;

    /// <summary>The name of its category; null below <see cref="Detail.Everything"/>.</summary>
    public string? Category { get; internal init; }

    /// <summary>The names of categories that single dates have of their own; empty below <see cref="Detail.Everything"/>.</summary>
    public IReadOnlyDictionary<Guid, string> DateCategories { get; internal init; } = ImmutableDictionary<Guid, string>.Empty;

    /// <summary>What a date of it has beside.</summary>
    /// <param name="change">What differs on it, or null.</param>
    public EventFacts FactsOn(EventChange? change) => change?.Facts.On(Facts) ?? Facts;

    /// <summary>The name of a date's category; null for none, and below <see cref="Detail.Everything"/>.</summary>
    /// <param name="change">What differs on it, or null.</param>
    public string? CategoryOn(EventChange? change) =>
        change is not { Facts.SetsCategory: true } ? Category : change.Facts.CategoryId is { } id ? DateCategories.GetValueOrDefault(id) : null;

    /// <summary>All its files, those of single dates too; each once.</summary>
    public IEnumerable<EventFile> Files => Facts.Files.Concat(Changes.SelectMany(c => c.Facts.Files)).DistinctBy(f => f.Id);

    /// <summary>All its links, those of single dates too.</summary>
    public IEnumerable<EventLink> Links => Facts.Links.Concat(Changes.SelectMany(c => c.Facts.Links)).DistinctBy(l => l.Address);

    /// <summary>Where it is; null below <see cref="Detail.Headlines"/>, or when the school's list does not know.</summary>
    public Place? Where { get; internal init; }

    /// <summary>When it is, or first is, in the terms of RFC 5545 alone: who reads it needs to know of no school year.</summary>
    public EventTiming Timing { get; internal init; } = null!;

    /// <summary>The rule of a series, in the same terms.</summary>
    public RecurrenceRule? Rule { get; internal init; }

    /// <summary>Left-out local starts, in the same terms.</summary>
    public ImmutableArray<LocalDateTime> Skips { get; internal init; } = [];

    /// <summary>Added local starts, in the same terms.</summary>
    public ImmutableArray<LocalDateTime> Extras { get; internal init; } = [];

    /// <summary>What differs on single dates; holds no word its detail does not allow.</summary>
    public ImmutableArray<EventChange> Changes { get; internal init; } = [];

    /// <summary>Where its dates got other names than they would have now; below <see cref="Detail.Headlines"/> names that tell nobody which event it is.</summary>
    public ImmutableArray<NamedDates> Names { get; internal init; } = [];

    /// <summary>When it is as people said it; null below <see cref="Detail.Headlines"/>.</summary>
    public SaidDates? Said { get; internal init; }

    /// <summary>The UID of the event it was split off from, or null.</summary>
    public string? RelatedTo { get; internal init; }

    /// <summary>Revision of its times (RFC 5545, 3.8.7.4).</summary>
    public int Sequence { get; internal init; }

    /// <summary>Which state of it this is: grows with what the viewer gets of it, for the team with every change.</summary>
    public int Version { get; internal init; }

    /// <summary>When it was made.</summary>
    public Instant CreatedAt { get; internal init; }

    /// <summary>When what the viewer gets of it last became different; for the team with every change.</summary>
    public Instant ChangedAt { get; internal init; }

    /// <summary>When its times were last set.</summary>
    public Instant TimedAt { get; internal init; }

    /// <summary>When it was put in the bin; told to the team alone, others get nothing of it then.</summary>
    public Instant? DeletedAt { get; internal init; }

    /// <summary>The dates it makes.</summary>
    public EventDates Dates => new(new PlainDates(Timing, Rule, [], []), Skips, Extras, Changes);

    /// <summary>It without some of its dates; null where nothing is left.</summary>
    internal EventView? Without(IReadOnlySet<LocalDateTime> dates) => dates.Count == 0 ? this : IsSeries
        ? this with { Skips = [.. Skips.Concat(dates).Distinct().Order()], Changes = Changes.RemoveAll(c => dates.Contains(c.Date)), Extras = Extras.RemoveAll(dates.Contains) }
        : dates.Contains(Timing.Start) ? null : this;

    /// <summary>
    /// It with the dates that are wanted by what they have beside; null for none. Of a series that is not wanted, single dates can be.
    /// </summary>
    /// <param name="wants">Whether a date with this change is wanted; null asks for all those that have nothing of their own.</param>
    internal EventView? Wanted(Func<EventChange?, bool> wants)
    {
        var own = Changes.Where(c => !c.Facts.IsNone && (!IsSeries ? c.Date == Timing.Start : Dates.Makes(c.Date))).ToLookup(c => wants(c), c => c);
        if (!IsSeries && own.Count > 0)
            return own[true].Any() ? this : null;
        if (wants(null))
            return Without(own[false].Select(c => c.Date).ToHashSet());
        var left = own[true].ToImmutableArray();
        return left.IsEmpty ? null : this with { Timing = Timing.At(left[0].Date), Rule = null, Skips = [], Extras = [.. left.Skip(1).Select(c => c.Date)], Changes = left };
    }

    /// <summary>Whether it has more dates than one.</summary>
    public bool IsSeries => Rule is not null || !Extras.IsEmpty;

    /// <summary>
    /// Whether people hear of a date late: it was made, moved, called off or put on again less than some days before it.
    /// </summary>
    /// <param name="start">The date's first moment.</param>
    /// <param name="change">What differs on it, or null.</param>
    /// <param name="days">The school's notice; 0 for never.</param>
    public bool IsShortNotice(Instant start, EventChange? change, int days)
    {
        bool Is(Instant at) => at <= start && start - at < Duration.FromDays(days);
        return days > 0 && (Is(TimedAt) || (change?.At is { } at && Is(at)));
    }

    /// <summary>Whether its words hold what was asked for; what the viewer does not get finds nothing.</summary>
    /// <param name="folded">Words in small letters without accents (<see cref="Words.Fold"/>), separated by spaces.</param>
    public bool HasWords(string folded)
    {
        var words = Words.Of(this);
        return folded.Split(' ', StringSplitOptions.RemoveEmptyEntries).All(w => words.Contains(w, StringComparison.Ordinal));
    }

    /// <summary>Two views are the same when they show the same.</summary>
    public bool Equals(EventView? other) =>
        other is not null
        && (Id, Uid, Detail, IsTeams, Calendar, Title, Place) == (other.Id, other.Uid, other.Detail, other.IsTeams, other.Calendar, other.Title, other.Place)
        && (Description, Category, Where, Timing, Rule, RelatedTo) == (other.Description, other.Category, other.Where, other.Timing, other.Rule, other.RelatedTo)
        && (Sequence, Version, CreatedAt, ChangedAt, TimedAt, DeletedAt) == (other.Sequence, other.Version, other.CreatedAt, other.ChangedAt, other.TimedAt, other.DeletedAt)
        && Facts == other.Facts && Calendars.SequenceEqual(other.Calendars) && StandsIn.SequenceEqual(other.StandsIn)
        && Skips.SequenceEqual(other.Skips) && Extras.SequenceEqual(other.Extras) && Changes.SequenceEqual(other.Changes)
        && DateCategories.OrderBy(c => c.Key).SequenceEqual(other.DateCategories.OrderBy(c => c.Key));

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Uid, Detail, Title, Version, Sequence, ChangedAt);
}
