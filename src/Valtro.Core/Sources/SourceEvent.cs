using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Core.Sources;

/// <summary>
/// An event as it would stand here: made from what was read, with all that our events cannot say left and noted. It has no
/// identity and no calendar yet.
/// </summary>
/// <param name="Key">What it is known by when it is read again: its UID, and which part of it this is.</param>
/// <param name="State">What it says; identity and home are empty.</param>
/// <param name="Read">What it was made from.</param>
/// <param name="Notes">What was read otherwise, or could not be kept.</param>
public sealed record SourceEvent(string Key, Event State, ReadEvent Read, ImmutableArray<ReadNote> Notes)
{
    /// <summary>The longest key that is kept; longer UIDs are known by a hash.</summary>
    public const int MaxKey = 300;

    /// <summary>
    /// What it is known by when its UID changes at each reading: title, first start and kind of time.
    /// </summary>
    public string Fingerprint => FingerprintOf(State);

    /// <summary>See <see cref="Fingerprint"/>.</summary>
    public static string FingerprintOf(Event e) => $"{Place.NameKey(e.Title)}\n{e.Timing.Start:uuuu-MM-dd'T'HH:mm:ss}\n{e.Timing.Kind}";

    /// <summary>Makes events of what was read.</summary>
    /// <param name="read">The events of a file or an address.</param>
    /// <param name="zone">The zone of the calendar they come to: what is given in UTC alone is told on its clock.</param>
    /// <param name="lists">The school's categories, found again by their names; other categories become tags.</param>
    /// <param name="keep">Checks a file that stands within an event, and names it as it is kept; null, or for all where nothing keeps them, for one that is left.</param>
    /// <returns>The events, in the order they were read; of one that is called off as a whole series nothing.</returns>
    public static IReadOnlyList<SourceEvent> Of(IEnumerable<ReadEvent> read, DateTimeZone zone, SchoolLists lists, Func<InlineFile, EventFile?>? keep = null)
    {
        var categories = lists.Categories.GroupBy(c => Place.NameKey(c.Name)).ToDictionary(g => g.Key, g => g.First().Id);
        var (all, keys) = (new List<SourceEvent>(), new HashSet<string>(StringComparer.Ordinal));
        foreach (var e in read)
        {
            foreach (var made in new SourceEventMaker(e, zone, categories, keep ?? (_ => null)).Make())
            {
                // Two that say they are the same stand in files that were put together by hand.
                var key = made.Key;
                for (var i = 2; !keys.Add(key); i++)
                    key = $"{made.Key}~{i}";
                all.Add(made with { Key = key });
            }
        }
        return all;
    }

    /// <summary>Makes events of what was read, without any school.</summary>
    public static IReadOnlyList<SourceEvent> Of(IEnumerable<ReadEvent> read, DateTimeZone zone) => Of(read, zone, SchoolLists.Empty);

    /// <summary>Whether one of its dates touches some days.</summary>
    /// <param name="from">The first; null for no bound.</param>
    /// <param name="after">The day after the last; null for no bound.</param>
    /// <param name="zone">In whose days.</param>
    public bool Touches(LocalDate? from, LocalDate? after, DateTimeZone zone)
    {
        if (from is null && after is null)
            return true;
        // Most are plainly within or without.
        var (first, last) = State.Bounds;
        if (last is { } end && from is { } since && end.InZone(zone).Date.PlusDays(3) < since)
            return false;
        if (after is { } until && first.InZone(zone).Date.PlusDays(-3) >= until)
            return false;
        return State.All.Touches(from, after, zone);
    }

    /// <summary>Its title, and its next date from a day on; null when it is over.</summary>
    public (string Title, LocalDate? Next) NextFrom(LocalDate day) => (State.Title, State.All.NextFrom(day.AtMidnight()) is { IsOver: false, Date: { } date } ? date.Date : null);

    /// <summary>It as an event of a calendar.</summary>
    internal Event In(Guid calendarId, Guid id, string uid, Instant now)
    {
        var made = (State with { Id = id, Uid = uid, CalendarId = calendarId, Facts = State.Facts.Checked(calendarId) }).AsNew(now);
        // What moves house keeps its history's dates; what others say of theirs is nothing to our readers.
        return Read is not { Kept: not null, Stamps: var (created, changed, sequence) }
            ? made
            : made with
            {
                CreatedAt = Instant.Min(created, now),
                ChangedAt = Instant.Min(changed, now),
                TimedAt = Instant.Min(created, now),
                Stamps = EventStamps.New(Instant.Min(changed, now)),
                Sequence = sequence,
                RelatedTo = Read.RelatedTo,
            };
    }
}
