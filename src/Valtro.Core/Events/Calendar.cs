using NodaTime;
using Valtro.Core.Reach;
using Valtro.Core.Time;

namespace Valtro.Core.Events;

/// <summary>A named set of events with a time zone, a mark and a reach.</summary>
public sealed record Calendar
{
    /// <summary>The number of marks: hues with patterns, 1 to 12.</summary>
    public const int Marks = 12;

    /// <summary>The longest title.</summary>
    public const int MaxTitle = 100;

    /// <summary>The longest description.</summary>
    public const int MaxDescription = 2_000;

    /// <summary>Identity.</summary>
    public required Guid Id { get; init; }

    /// <summary>What people call it.</summary>
    public required string Title { get; init; }

    /// <summary>What it is for; may be empty.</summary>
    public required string Description { get; init; }

    /// <summary>The heading it stands under in the workspace; may be empty.</summary>
    public required string Group { get; init; }

    /// <summary>The zone new events get, and that its readers are told.</summary>
    public required DateTimeZone Zone { get; init; }

    /// <summary>The mark, 1 to <see cref="Marks"/>.</summary>
    public required int Mark { get; init; }

    /// <summary>Who gets what.</summary>
    public required ReachTable Reach { get; init; }

    /// <summary>Whether search engines are asked to leave out every page it stands on.</summary>
    public bool IsOutOfSearch { get; init; }

    /// <summary>Whether its events come from an address that is followed: they are not changed by hand.</summary>
    public bool IsFollowed { get; init; }

    /// <summary>Grows with every change.</summary>
    public required int Version { get; init; }

    /// <summary>When it was put in the bin, or null.</summary>
    public Instant? DeletedAt { get; init; }

    /// <summary>This state as the one that follows another.</summary>
    public Calendar After(Calendar before) => this with { Version = before.Version + 1 };

    /// <summary>A calendar from what a person gave, or the given one changed.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>title_missing</c>, <c>text_too_long</c>, <c>zone_unknown</c>, <c>mark_unknown</c>.
    /// </exception>
    public static Calendar Apply(Calendar? old, Guid id, string? title, string? description, string? group, string? zone, int mark)
    {
        if (mark is < 1 or > Marks)
            throw new InvalidInputException("mark_unknown", "mark", $"A mark is a number from 1 to {Marks}.");
        return new Calendar
        {
            Id = id,
            Title = Texts.Title(title, "title", MaxTitle),
            Description = Texts.Optional(description, "description", MaxDescription),
            Group = Texts.Optional(group, "group", MaxTitle),
            Zone = Zones.Get(zone ?? ""),
            Mark = mark,
            Reach = old?.Reach ?? ReachTable.MembersOnly,
            IsOutOfSearch = old?.IsOutOfSearch ?? false,
            IsFollowed = old?.IsFollowed ?? false,
            Version = old?.Version ?? 1,
            DeletedAt = old?.DeletedAt,
        };
    }
}
