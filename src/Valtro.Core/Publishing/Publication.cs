using NodaTime;
using Valtro.Core.Reach;

namespace Valtro.Core.Publishing;

/// <summary>
/// A chosen set of calendars, an audience and a look, with a link. What is out and what its keepers are changing are two
/// things until the changes are published.
/// </summary>
public sealed record Publication
{
    /// <summary>The longest title.</summary>
    public const int MaxTitle = 100;

    /// <summary>The longest introduction.</summary>
    public const int MaxIntroduction = 1_000;

    /// <summary>The most people it is shared with.</summary>
    public const int MaxShared = 50;

    /// <summary>The most calendars in one publication.</summary>
    public const int MaxCalendars = 200;

    /// <summary>The languages an outlet can speak.</summary>
    public static readonly IReadOnlyList<string> Languages = ["en", "fr", "de", "es", "ar"];

    /// <summary>Identity.</summary>
    public required Guid Id { get; init; }

    /// <summary>Who made it, or has it now; null when nobody in particular does.</summary>
    public Guid? OwnerId { get; init; }

    /// <summary>Who else changes it, in order.</summary>
    public IReadOnlyList<Guid> SharedWith { get; init; } = [];

    /// <summary>What stands in its links.</summary>
    public required string Key { get; init; }

    /// <summary>What is out; of one that never was, what is being made.</summary>
    public required PublicationSettings Settings { get; init; }

    /// <summary>Changes that are not out yet, as whole settings; null when there are none.</summary>
    public PublicationSettings? Draft { get; init; }

    /// <summary>Grows with every change its keepers make.</summary>
    public required int Version { get; init; }

    /// <summary>Grows with every change that can alter what goes out.</summary>
    public required long Revision { get; init; }

    /// <summary>When the revision last grew.</summary>
    public required Instant ChangedAt { get; init; }

    /// <summary>When its settings last went out; null when they never did.</summary>
    public Instant? PublishedAt { get; init; }

    /// <summary>When its links were taken down, or null while they work.</summary>
    public Instant? TakenDownAt { get; init; }

    /// <summary>What visitors read above it.</summary>
    public string Title => Settings.Title;

    /// <summary>The calendars, in the order of the key of calendars.</summary>
    public IReadOnlyList<Guid> CalendarIds => Settings.CalendarIds;

    /// <summary>Who it is for.</summary>
    public Audience Audience => Settings.Audience;

    /// <summary>The language its visitors read.</summary>
    public string Language => Settings.Language;

    /// <summary>What of its calendars goes out.</summary>
    public PublicationChoices Choices => Settings.Choices;

    /// <summary>How it looks.</summary>
    public PublicationLook Look => Settings.Look;

    /// <summary>The publication as it would be with its changes out.</summary>
    public Publication WithDraft => Draft is null ? this : this with { Settings = Draft, Draft = null };

    /// <summary>A new publication.</summary>
    /// <param name="id">Identity.</param>
    /// <param name="key">What stands in its links.</param>
    /// <param name="settings">What was decided.</param>
    /// <param name="now">The moment.</param>
    /// <param name="isOut">Whether it goes out at once.</param>
    /// <exception cref="InvalidInputException">A code of <see cref="PublicationSettings.Checked"/>.</exception>
    public static Publication New(Guid id, string key, PublicationSettings settings, Instant now, bool isOut = true) => new()
    {
        Id = id,
        Key = key,
        Settings = settings.Checked(),
        Version = 1,
        Revision = 1,
        ChangedAt = now,
        PublishedAt = isOut ? now : null,
    };

    /// <summary>With other settings: at once, or as changes that wait until they are published.</summary>
    /// <exception cref="InvalidInputException">A code of <see cref="PublicationSettings.Checked"/>.</exception>
    public Publication Change(PublicationSettings settings, Instant now, bool isOut)
    {
        var good = settings.Checked();
        if (isOut)
            return (this with { Settings = good, Draft = null, PublishedAt = now }).After(this);
        return (PublishedAt is null ? this with { Settings = good } : this with { Draft = good }).After(this);
    }

    /// <summary>Lets what is being changed go out.</summary>
    public Publication Publish(Instant now) => (WithDraft with { PublishedAt = now }).After(this);

    /// <summary>Without one of its calendars, at once and in what is being changed; taken down where that was all of it.</summary>
    public Publication Without(Guid calendarId, Instant now)
    {
        PublicationSettings Less(PublicationSettings s) => s.CalendarIds.Any(c => c != calendarId) ? s with { CalendarIds = [.. s.CalendarIds.Where(c => c != calendarId)] } : s;
        var less = this with { Settings = Less(Settings), Draft = Draft is null ? null : Less(Draft) };
        return (less.CalendarIds.Contains(calendarId) ? less with { TakenDownAt = TakenDownAt ?? now } : less).After(this);
    }

    /// <summary>Shared with others who change it, too.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_shares</c>.</exception>
    public Publication Shared(IEnumerable<Guid> with)
    {
        var people = with.Where(p => p != OwnerId).Distinct().Order().ToList();
        return people.Count > MaxShared
            ? throw new InvalidInputException("too_many_shares", "people", $"A publication can be shared with {MaxShared} people at most.")
            : (this with { SharedWith = people }).After(this);
    }

    /// <summary>Leaves what is being changed.</summary>
    public Publication Discard() => (this with { Draft = null }).After(this);

    /// <summary>This state as the one that follows another.</summary>
    public Publication After(Publication before) => this with { Version = before.Version + 1 };
}
