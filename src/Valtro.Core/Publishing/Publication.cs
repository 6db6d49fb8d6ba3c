using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;

namespace Valtro.Core.Publishing;

/// <summary>The view a page or an embed opens with.</summary>
public enum OutletView
{
    /// <summary>Weeks under each other.</summary>
    Month,

    /// <summary>Day by day.</summary>
    List,
}

/// <summary>A chosen set of calendars, a detail, an audience and a look, with a link.</summary>
public sealed record Publication
{
    /// <summary>The longest title.</summary>
    public const int MaxTitle = 100;

    /// <summary>The longest introduction.</summary>
    public const int MaxIntroduction = 1_000;

    /// <summary>The most calendars in one publication.</summary>
    public const int MaxCalendars = 200;

    /// <summary>The languages an outlet can speak.</summary>
    public static readonly IReadOnlyList<string> Languages = ["en", "fr"];

    /// <summary>Identity.</summary>
    public required Guid Id { get; init; }

    /// <summary>What stands in its links.</summary>
    public required string Key { get; init; }

    /// <summary>What visitors read above it.</summary>
    public required string Title { get; init; }

    /// <summary>A few words under the title; may be empty.</summary>
    public required string Introduction { get; init; }

    /// <summary>The calendars, in the order of the key of calendars.</summary>
    public required IReadOnlyList<Guid> CalendarIds { get; init; }

    /// <summary>Who it is for.</summary>
    public required Audience Audience { get; init; }

    /// <summary>The most it shows of any event; reach may show less.</summary>
    public required Detail Detail { get; init; }

    /// <summary>The view it opens with.</summary>
    public required OutletView FirstView { get; init; }

    /// <summary>The language its visitors read, one of <see cref="Languages"/>.</summary>
    public required string Language { get; init; }

    /// <summary>Grows with every change of its settings.</summary>
    public required int Version { get; init; }

    /// <summary>Grows with every change that can alter what goes out.</summary>
    public required long Revision { get; init; }

    /// <summary>When the revision last grew.</summary>
    public required Instant ChangedAt { get; init; }

    /// <summary>What of its calendars goes out, for which days and how long.</summary>
    public PublicationChoices Choices { get; init; } = PublicationChoices.None;

    /// <summary>When its links were taken down, or null while they work.</summary>
    public Instant? TakenDownAt { get; init; }

    /// <summary>A publication from what a person gave, or the given one changed.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>title_missing</c>, <c>text_too_long</c>, <c>no_calendars</c>, <c>too_many_calendars</c>, <c>language_unknown</c>,
    /// <c>audience_unknown</c>: it is for everyone, or for who has the link; or a code of the choices.
    /// </exception>
    public static Publication Apply(
        Publication? old, Guid id, string key, string? title, string? introduction, IReadOnlyList<Guid> calendarIds, OutletView firstView, string? language, Instant now,
        Audience audience = Audience.Everyone, PublicationChoices? choices = null)
    {
        var calendars = calendarIds.Distinct().ToList();
        if (calendars.Count == 0)
            throw new InvalidInputException("no_calendars", "calendarIds", "Choose at least one calendar to publish.");
        if (calendars.Count > MaxCalendars)
            throw new InvalidInputException("too_many_calendars", "calendarIds", $"A publication holds {MaxCalendars} calendars at most.");
        if (language is null || !Languages.Contains(language))
            throw new InvalidInputException("language_unknown", "language", "The language has to be one of: " + string.Join(", ", Languages) + ".");
        return new Publication
        {
            Id = id,
            Key = key,
            Title = Texts.Title(title, "title", MaxTitle),
            Introduction = Texts.Optional(introduction, "introduction", MaxIntroduction),
            CalendarIds = calendars,
            Audience = audience is Audience.Everyone or Audience.LinkHolders
                ? audience
                : throw new InvalidInputException("audience_unknown", "audience", "A publication is for everyone, or for whoever has the link."),
            Detail = Detail.Everything,
            FirstView = firstView,
            Choices = (choices ?? old?.Choices ?? PublicationChoices.None).Checked(),
            Language = language,
            Version = (old?.Version ?? 0) + 1,
            Revision = old?.Revision ?? 1,
            ChangedAt = old?.ChangedAt ?? now,
            TakenDownAt = old?.TakenDownAt,
        };
    }
}
