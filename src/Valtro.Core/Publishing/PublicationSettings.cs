using Valtro.Core.Events;
using Valtro.Core.Reach;

namespace Valtro.Core.Publishing;

/// <summary>All a keeper decides of a publication but its link. Immutable.</summary>
public sealed record PublicationSettings
{
    /// <summary>What visitors read above it.</summary>
    public required string Title { get; init; }

    /// <summary>A few words under the title; may be empty.</summary>
    public string Introduction { get; init; } = "";

    /// <summary>The calendars, in the order of the key of calendars.</summary>
    public required IReadOnlyList<Guid> CalendarIds { get; init; }

    /// <summary>Who it is for.</summary>
    public Audience Audience { get; init; } = Audience.Everyone;

    /// <summary>The view it opens with.</summary>
    public OutletView FirstView { get; init; }

    /// <summary>The language its visitors read, one of <see cref="Publication.Languages"/>.</summary>
    public string Language { get; init; } = "en";

    /// <summary>What of its calendars goes out, for which days and how long.</summary>
    public PublicationChoices Choices { get; init; } = PublicationChoices.None;

    /// <summary>How it looks.</summary>
    public PublicationLook Look { get; init; } = PublicationLook.Usual;

    /// <summary>The settings, checked and in order.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>title_missing</c>, <c>text_too_long</c>, <c>no_calendars</c>, <c>too_many_calendars</c>, <c>language_unknown</c>,
    /// <c>audience_unknown</c>: the team has the board; or a code of the choices or the look.
    /// </exception>
    public PublicationSettings Checked()
    {
        var calendars = CalendarIds.Distinct().ToList();
        if (calendars.Count == 0)
            throw new InvalidInputException("no_calendars", "calendarIds", "Choose at least one calendar to publish.");
        if (calendars.Count > Publication.MaxCalendars)
            throw new InvalidInputException("too_many_calendars", "calendarIds", $"A publication holds {Publication.MaxCalendars} calendars at most.");
        if (!Publication.Languages.Contains(Language))
            throw new InvalidInputException("language_unknown", "language", "The language has to be one of: " + string.Join(", ", Publication.Languages) + ".");
        if (Audience is not (Audience.Everyone or Audience.LinkHolders or Audience.Members))
            throw new InvalidInputException("audience_unknown", "audience", "A publication is for everyone, for whoever has the link, or for the school’s members.");
        return this with
        {
            Title = Texts.Title(Title, "title", Publication.MaxTitle),
            Introduction = Texts.Optional(Introduction, "introduction", Publication.MaxIntroduction),
            CalendarIds = calendars,
            Choices = Choices.Checked(),
            Look = Look.Checked(FirstView),
        };
    }
}
