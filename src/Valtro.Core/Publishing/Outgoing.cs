using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Views;

namespace Valtro.Core.Publishing;

/// <summary>What a change does to what a publication sends out.</summary>
public enum OutEffect
{
    /// <summary>Its readers get the same.</summary>
    None,

    /// <summary>They get something else, and nothing that they may not see any more.</summary>
    Alters,

    /// <summary>They get less of something: what went out before may not be shown any longer.</summary>
    Narrows,
}

/// <summary>
/// Whether a change alters what a publication sends out. Its revision and its Last-Modified grow with what its readers get,
/// and with nothing else: a hidden title that is edited makes nobody fetch again. Pure functions.
/// </summary>
public static class Outgoing
{
    /// <summary>What changes of events do to it.</summary>
    /// <param name="publication">The publication.</param>
    /// <param name="zone">The school's zone.</param>
    /// <param name="calendars">The school's calendars.</param>
    /// <param name="lists">The school's categories and places.</param>
    /// <param name="steps">Each event before and after; null where it was not there, or is not any more.</param>
    /// <param name="now">The moment.</param>
    /// <returns>
    /// <see cref="OutEffect.Narrows"/> where an event is kept back, binned, or goes out in less detail, in fewer calendars or with
    /// other categories, which may leave single dates out. Other words, times and dates only alter.
    /// </returns>
    public static OutEffect EffectOf(
        Publication publication, DateTimeZone zone, IReadOnlyDictionary<Guid, Calendar> calendars, SchoolLists lists, IEnumerable<(Event? Before, Event? After)> steps, Instant now)
    {
        var (eyes, gate) = (Eyes.Of(publication, calendars, lists), new OutGate(publication, zone, now));
        EventView? Out(Event? e) => e is null ? null : gate.Let(eyes.View(e));
        var effect = OutEffect.None;
        foreach (var (before, after) in steps)
        {
            var (was, will) = (Out(before), Out(after));
            if (was == will)
                continue;
            if (was is not null && (will is null || IsLess(was, will) || !before!.CategoryIds.SequenceEqual(after!.CategoryIds)))
                return OutEffect.Narrows;
            effect = OutEffect.Alters;
        }
        return effect;
    }

    private static bool IsLess(EventView was, EventView will) =>
        will.Detail < was.Detail || was.Calendars.Any(c => !will.Calendars.Contains(c))
        // What was taken out or replaced may be what never should have been in.
        || was.Files.Any(f => !will.Files.Contains(f)) || (was.Facts.Picture is { } picture && picture.Id != will.Facts.Picture?.Id);

    /// <summary>Whether a change of one of its calendars alters it: what its readers are told of the calendar, and how much they get.</summary>
    /// <param name="publication">The publication.</param>
    /// <param name="before">The calendar before; null for a new one.</param>
    /// <param name="after">The calendar after.</param>
    public static bool IsAltered(Publication publication, Calendar? before, Calendar after)
    {
        (ViewedCalendar?, bool) Out(Calendar? c) => c is null ? (null, false) :
            (Eyes.Of(publication, new Dictionary<Guid, Calendar> { [c.Id] = c }, SchoolLists.Empty).View(c.Id), publication.Audience == Audience.Everyone && c.IsOutOfSearch);
        return Out(before) != Out(after);
    }

    /// <summary>Whether other lists alter it.</summary>
    /// <param name="publication">The publication.</param>
    /// <param name="zone">The school's zone.</param>
    /// <param name="calendars">The school's calendars.</param>
    /// <param name="before">The lists before.</param>
    /// <param name="after">The lists after.</param>
    /// <param name="events">The events that may be concerned.</param>
    /// <param name="now">The moment.</param>
    public static bool IsAltered(
        Publication publication, DateTimeZone zone, IReadOnlyDictionary<Guid, Calendar> calendars, SchoolLists before, SchoolLists after, IEnumerable<Event> events, Instant now)
    {
        var (was, will, gate) = (Eyes.Of(publication, calendars, before), Eyes.Of(publication, calendars, after), new OutGate(publication, zone, now));
        return events.Any(e => gate.Let(was.View(e)) != gate.Let(will.View(e)));
    }
}
