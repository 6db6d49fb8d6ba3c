using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;

namespace Valtro.Core.Publishing;

/// <summary>Somebody who publishes asks a calendar's keepers to let the publication's readers have it.</summary>
/// <param name="Id">Identity.</param>
/// <param name="PublicationId">Where it would go out.</param>
/// <param name="CalendarId">What is asked for.</param>
/// <param name="PersonId">Who asks; null when they are gone.</param>
/// <param name="Audience">For whom.</param>
/// <param name="Detail">How much of it.</param>
/// <param name="Remark">What they say to it.</param>
/// <param name="AskedAt">When.</param>
/// <param name="Answer">What the keepers said; null while they have not.</param>
public sealed record OpeningRequest(
    Guid Id, Guid PublicationId, Guid CalendarId, Guid? PersonId, Audience Audience, Detail Detail, string Remark, Instant AskedAt, OpeningAnswer? Answer)
{
    /// <summary>The longest remark.</summary>
    public const int MaxRemark = 500;

    /// <summary>A new request.</summary>
    /// <param name="publication">Where the calendar would go out.</param>
    /// <param name="calendar">The calendar.</param>
    /// <param name="detail">How much is asked for.</param>
    /// <param name="remark">A word to it; may be empty.</param>
    /// <param name="personId">Who asks.</param>
    /// <param name="now">The moment.</param>
    /// <exception cref="InvalidInputException">
    /// <c>detail_unknown</c>: nothing is asked for; <c>calendar_not_chosen</c>: it is not in the publication; <c>already_open</c>: its
    /// readers have as much; <c>text_too_long</c>.
    /// </exception>
    public static OpeningRequest New(Publication publication, Calendar calendar, Detail detail, string? remark, Guid personId, Instant now)
    {
        var current = publication.WithDraft;
        if (!Enum.IsDefined(detail) || detail == Detail.Nothing)
            throw new InvalidInputException("detail_unknown", "detail", "Say how much of it the readers should get.");
        if (!current.CalendarIds.Contains(calendar.Id))
            throw new InvalidInputException("calendar_not_chosen", "calendarId", "Choose the calendar for the publication first.");
        if (calendar.Reach.For(current.Audience) >= detail)
            throw new InvalidInputException("already_open", "detail", "The publication’s readers have as much of it already.");
        return new OpeningRequest(Guid.CreateVersion7(), publication.Id, calendar.Id, personId, current.Audience, detail, Texts.Optional(remark ?? "", "remark", MaxRemark), now, null);
    }

    /// <summary>Answers it.</summary>
    /// <param name="calendar">The calendar as it is.</param>
    /// <param name="given">How much its readers get from now on; nothing for a no.</param>
    /// <param name="remark">A word to it; may be empty.</param>
    /// <param name="by">Which keeper.</param>
    /// <param name="now">The moment.</param>
    /// <returns>The request, and the calendar's reach then. What its readers have already is never made less.</returns>
    /// <exception cref="InvalidInputException"><c>detail_unknown</c>, <c>text_too_long</c>.</exception>
    public (OpeningRequest Request, ReachTable Reach) Answered(Calendar calendar, Detail given, string? remark, Guid by, Instant now)
    {
        if (!Enum.IsDefined(given))
            throw new InvalidInputException("detail_unknown", "given", "Say how much of it the readers should get.");
        var reach = given > calendar.Reach.For(Audience) ? calendar.Reach.Opened(Audience, given) : calendar.Reach;
        return (this with { Answer = new OpeningAnswer(given, Texts.Optional(remark ?? "", "remark", MaxRemark), by, now) }, reach);
    }
}

/// <summary>What keepers said to a request.</summary>
/// <param name="Given">How much they opened; nothing for a no.</param>
/// <param name="Remark">A word to it.</param>
/// <param name="By">Who answered; null when they are gone.</param>
/// <param name="At">When.</param>
public sealed record OpeningAnswer(Detail Given, string Remark, Guid? By, Instant At);
