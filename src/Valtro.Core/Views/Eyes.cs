using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;

namespace Valtro.Core.Views;

/// <summary>
/// Whoever looks: a person, an audience, a publication. Turns events into what they get of them (<see cref="EventView"/>),
/// by <see cref="ReachDecision"/>, and nobody else does. Immutable.
/// </summary>
public sealed class Eyes
{
    private readonly Func<Calendar, Audience> audienceOf;
    private readonly IReadOnlyDictionary<Guid, Calendar> calendars;
    private readonly SchoolLists lists;
    private readonly Guid salt;
    private readonly Publication? publication;

    private Eyes(Func<Calendar, Audience> audienceOf, IReadOnlyDictionary<Guid, Calendar> calendars, SchoolLists lists, Guid salt, Publication? publication)
    {
        (this.audienceOf, this.calendars, this.lists, this.salt, this.publication) = (audienceOf, calendars, lists, salt, publication);
    }

    /// <summary>The eyes of a person, or of whom they look as.</summary>
    /// <param name="access">What they may do.</param>
    /// <param name="calendars">The school's calendars that are not in the bin; others are not told of.</param>
    /// <param name="lists">The school's categories and places.</param>
    /// <param name="salt">What makes the identities of events shown as times only tell nothing: the person's identity.</param>
    public static Eyes Of(Access access, IReadOnlyDictionary<Guid, Calendar> calendars, SchoolLists lists, Guid salt) =>
        new(access.AudienceOf, calendars, lists, salt, null);

    /// <summary>The eyes of a publication's readers.</summary>
    /// <param name="publication">The publication, whose choices may show less.</param>
    /// <param name="calendars">Its calendars; others are not told of.</param>
    /// <param name="lists">The school's categories and places.</param>
    /// <param name="audienceOf">As whom each calendar is looked at; null for the publication's audience.</param>
    public static Eyes Of(Publication publication, IReadOnlyDictionary<Guid, Calendar> calendars, SchoolLists lists, Func<Calendar, Audience>? audienceOf = null) =>
        // In every publication an event shown as times only is another one.
        new(audienceOf ?? (_ => publication.Audience), calendars, lists, publication.Id, publication);

    /// <summary>Whether they see that there is a calendar.</summary>
    public bool Sees(Guid calendarId) => Decide(calendarId) is { Detail: > Detail.Nothing };

    /// <summary>A calendar as they get it; null when they get nothing of it.</summary>
    public ViewedCalendar? View(Guid calendarId) =>
        calendars.TryGetValue(calendarId, out var calendar) ? Viewed(calendar, ReachDecision.For(calendar, audienceOf(calendar)).Detail) : null;

    /// <summary>What is decided of a calendar; null for one they know nothing of.</summary>
    public ReachDecision? Decide(Guid calendarId) =>
        calendars.TryGetValue(calendarId, out var calendar) ? ReachDecision.For(calendar, audienceOf(calendar)) : null;

    /// <summary>What is decided of an event by one of the calendars it stands in; null for one they know nothing of.</summary>
    public ReachDecision? Decide(Event e, Guid calendarId) =>
        calendars.TryGetValue(calendarId, out var calendar) ? ReachDecision.For(e, calendar, audienceOf(calendar), lists) : null;

    /// <summary>What they get of events; those they get nothing of are left out.</summary>
    public IEnumerable<EventView> View(IEnumerable<Event> events) => events.Select(View).OfType<EventView>();

    /// <summary>What they get of an event; null for nothing.</summary>
    public EventView? View(Event e)
    {
        // What is in the bin is told to nobody but the team, and never goes out.
        if (publication is not null && e.DeletedAt is not null)
            return null;
        var by = Showing(e, out var isTeams);
        if (by.Count == 0)
            return null;
        var made = Made(e, by, isTeams);
        return e.Changes.IsEmpty ? made : made.Without(KeptBack(e, made.Detail));
    }

    /// <summary>The calendars that show something of an event, each with how much.</summary>
    private List<ViewedCalendar> Showing(Event e, out bool isTeams)
    {
        var by = new List<ViewedCalendar>();
        isTeams = false;
        foreach (var id in publication is null ? e.CalendarIds : publication.CalendarIds.Where(e.CalendarIds.Contains))
        {
            if (Decide(e, id) is not { Detail: > Detail.Nothing } decision || Viewed(calendars[id], decision.Detail) is not { } viewed)
                continue;
            by.Add(viewed);
            isTeams |= publication is null && audienceOf(calendars[id]) == Audience.Team;
        }
        return by;
    }

    // A date's own category can be one that was narrowed later: such a date is shown to none who get less of it than of the others.
    private HashSet<LocalDateTime> KeptBack(Event e, Detail detail) =>
    [
        .. e.Changes
            .Where(c => c.Facts.CategoryId is { } id && lists.Category(id)?.Reach is not null)
            .Where(c => Showing(e with { Facts = c.Facts.On(e.Facts) }, out _).Select(s => s.Detail).DefaultIfEmpty(Detail.Nothing).Max() < detail)
            .Select(c => c.Date),
    ];

    /// <summary>
    /// All of an event that is somebody's own words, or was offered to them: what they type, propose or are asked about.
    /// Calendars they do not see are not told of all the same.
    /// </summary>
    public EventView Own(Event e)
    {
        var by = e.CalendarIds.Where(Sees).Select(id => Viewed(calendars[id], Detail.Everything)!).ToList();
        return Made(e, by.Count > 0 ? by : [new ViewedCalendar(e.CalendarId, "", 1, Detail.Everything)], isTeams: true);
    }

    private ViewedCalendar? Viewed(Calendar calendar, Detail detail)
    {
        if (publication is null)
            return detail == Detail.Nothing ? null : new ViewedCalendar(calendar.Id, calendar.Title, calendar.Mark, detail);
        var choice = publication.Choices.Of(calendar.Id);
        detail = detail < choice.Most ? detail : choice.Most;
        return detail == Detail.Nothing ? null : new ViewedCalendar(calendar.Id, calendar.Title, choice.Mark ?? calendar.Mark, detail, choice.Tag);
    }

    private EventView Made(Event e, IReadOnlyList<ViewedCalendar> by, bool isTeams)
    {
        var calendar = by.MaxBy(c => c.Detail)!;
        var headlines = calendar.Detail >= Detail.Headlines;
        var everything = calendar.Detail >= Detail.Everything;
        var plain = e.Plain;
        var stamp = everything ? e.Stamps.Everything : headlines ? e.Stamps.Headlines : e.Stamps.Times;
        // Where it is told by its times only, it is not told which event that is.
        var named = headlines ? [.. by.Where(c => c.Detail >= Detail.Headlines)] : new[] { calendar };
        var hash = headlines ? null : Hidden(e.Uid);
        return new EventView
        {
            Id = headlines ? e.Id : new Guid(hash!.AsSpan(0, 16)),
            Uid = headlines ? e.Uid : Convert.ToHexStringLower(hash!.AsSpan(0, 16)),
            Detail = calendar.Detail,
            IsTeams = isTeams,
            Calendar = calendar,
            Calendars = named,
            StandsIn = isTeams ? [.. e.CalendarIds.Where(Sees)] : headlines ? [.. named.Select(c => c.Id)] : [.. by.Select(c => c.Id)],
            Title = headlines ? e.Title : null,
            Place = headlines ? e.Place : null,
            Description = everything ? e.Description : null,
            Facts = FactsOf(e.Facts, calendar.Detail, isTeams),
            Category = everything ? lists.Category(e.Facts.CategoryId)?.Name : null,
            DateCategories = everything && !e.Changes.IsEmpty ? e.CategoryIds.Select(id => lists.Category(id)).OfType<Category>().ToDictionary(c => c.Id, c => c.Name) : ImmutableDictionary<Guid, string>.Empty,
            Where = headlines ? lists.Place(e.Place) : null,
            Timing = plain.Timing,
            Rule = plain.Rule,
            Skips = plain.LeftOut,
            Extras = plain.Added,
            Changes = everything
                ? e.Changes
                : [.. e.Changes.Select(c => c with { Title = headlines ? c.Title : null, Place = headlines ? c.Place : null, Description = null, Facts = DateFacts.None }).Where(c => !c.IsEmpty)],
            Names = headlines ? e.Names : [.. e.Names.Select(n => n with { Uid = n.Uid is null ? null : Convert.ToHexStringLower(Hidden(n.Uid).AsSpan(0, 16)) })],
            Said = headlines ? new SaidDates(e.Timing, e.Rule, e.Follows, e.Skips, e.Extras) : null,
            RelatedTo = headlines ? e.RelatedTo : null,
            Sequence = e.Sequence,
            Version = isTeams ? e.Version : stamp.Number,
            CreatedAt = e.CreatedAt,
            ChangedAt = isTeams ? e.ChangedAt : stamp.At,
            TimedAt = e.TimedAt,
            DeletedAt = e.DeletedAt,
        };
    }

    // What tells of an event and nobody which: another one for each who looks.
    private byte[] Hidden(string uid) => HMACSHA256.HashData(salt.ToByteArray(), Encoding.UTF8.GetBytes(uid));

    private EventFacts FactsOf(EventFacts f, Detail detail, bool isTeams) => detail switch
    {
        >= Detail.Everything when isTeams => f with { AlsoIn = [], Limits = [.. f.Limits.Where(l => Sees(l.CalendarId))] },
        >= Detail.Everything => f with { AlsoIn = [], Limits = [], Reach = null },
        >= Detail.Headlines => new EventFacts { IsFree = f.IsFree, Mark = f.Mark, Reminder = f.Reminder },
        _ => new EventFacts { IsFree = f.IsFree },
    };
}
