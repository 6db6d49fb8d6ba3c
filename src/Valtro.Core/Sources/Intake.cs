using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Sources;

/// <summary>What becomes of an event that was read.</summary>
public enum IntakeKind
{
    /// <summary>It was not here, and comes.</summary>
    New,

    /// <summary>It is here, and follows what it has become there.</summary>
    Changed,

    /// <summary>It is here as it is there.</summary>
    Same,

    /// <summary>It is here and not there any more, and goes.</summary>
    Gone,

    /// <summary>It is here and not there any more, and stays for what was added to it here.</summary>
    Kept,

    /// <summary>It is here, and somebody threw it away here: it stays away.</summary>
    ThrownAway,

    /// <summary>None of its dates lies in the days that are wanted.</summary>
    Outside,

    /// <summary>It was left, by choice or because no calendar was named for it.</summary>
    Left,

    /// <summary>It cannot stand here; the note says why.</summary>
    Unfit,
}

/// <summary>What is wanted of what was read.</summary>
public sealed record IntakeWish
{
    /// <summary>The calendar an event comes to; null to leave it.</summary>
    public required Func<SourceEvent, Guid?> CalendarOf { get; init; }

    /// <summary>The days that are wanted; what lies beyond them is left, unless it is here already.</summary>
    public LocalDate? From { get; init; }

    /// <summary>The day after the last that is wanted.</summary>
    public LocalDate? After { get; init; }

    /// <summary>In whose days.</summary>
    public required DateTimeZone Zone { get; init; }

    /// <summary>Keys of events that are left.</summary>
    public IReadOnlySet<string> Leaves { get; init; } = new HashSet<string>();

    /// <summary>Whether what is not there any more goes here too.</summary>
    public bool LetsGo { get; init; }

    /// <summary>Whether what was thrown away here comes back, as when a file is brought in once more.</summary>
    public bool BringsBack { get; init; }

    /// <summary>The name of the file or address, for the record of where events come from.</summary>
    public string Name { get; init; } = "";

    /// <summary>The source that is followed; null for a file.</summary>
    public Guid? SourceId { get; init; }
}

/// <summary>What becomes of one event.</summary>
/// <param name="Kind">What.</param>
/// <param name="Key">What it is known by.</param>
/// <param name="Read">What was read; null for what is there no more.</param>
/// <param name="CalendarId">The calendar it comes to or stands in; null when it comes to none.</param>
/// <param name="Before">The event as it is here; null for a new one.</param>
/// <param name="After">The event as it will be; null where nothing becomes of it.</param>
/// <param name="Origin">Where it comes from, as it is to be kept; null where nothing is.</param>
/// <param name="Own">The parts that were changed here and there, of which what was made here stays.</param>
/// <param name="Notes">What was read otherwise, or could not be kept.</param>
public sealed record IntakeRow(
    IntakeKind Kind, string Key, SourceEvent? Read, Guid? CalendarId, Event? Before, Event? After, Origin? Origin, IReadOnlyList<string> Own, IReadOnlyList<ReadNote> Notes);

/// <summary>
/// What reading a file or an address does to what is here: (what was read, where events come from, events) → what becomes of each.
/// Nobody's typed change is lost: each event is a three-way merge of what it was there, what it is there now, and what it is here.
/// </summary>
public static class Intake
{
    /// <summary>Computes it.</summary>
    /// <param name="read">What was read.</param>
    /// <param name="origins">Where events that are here come from, as far as they are of this source.</param>
    /// <param name="events">Those events, in the bin or not.</param>
    /// <param name="wish">What is wanted.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days.</param>
    /// <param name="newId">Gives identities to what is new.</param>
    /// <param name="uidOf">The identity readers of feeds know a new event by; null to make it of its identity.</param>
    public static IReadOnlyList<IntakeRow> Plan(
        IReadOnlyList<SourceEvent> read, IReadOnlyList<Origin> origins, IReadOnlyDictionary<Guid, Event> events, IntakeWish wish, Instant now, SchoolDays days, Func<Guid> newId, Func<SourceEvent, string?>? uidOf = null)
    {
        var byKey = origins.Where(o => events.ContainsKey(o.EventId)).ToLookup(o => o.Key, StringComparer.Ordinal);
        var unseen = origins.Where(o => events.ContainsKey(o.EventId)).ToDictionary(o => o.EventId);
        // What somebody threw away long ago has left nothing but its key.
        var thrown = origins.Where(o => o is { SourceId: not null, IsKept: false } && !events.ContainsKey(o.EventId)).Select(o => o.Key).ToHashSet(StringComparer.Ordinal);
        var found = new Dictionary<string, Origin>(StringComparer.Ordinal);
        foreach (var e in read)
        {
            var calendar = wish.CalendarOf(e);
            // Of the same file in two calendars each is its own.
            var mine = byKey[e.Key].Where(o => unseen.ContainsKey(o.EventId)).OrderByDescending(o => events[o.EventId].CalendarId == calendar).FirstOrDefault();
            if (mine is not null && (wish.SourceId is not null || events[mine.EventId].CalendarId == calendar || calendar is null) && unseen.Remove(mine.EventId))
                found[e.Key] = mine;
        }
        var alike = new HashSet<string>(StringComparer.Ordinal);
        // Some give other UIDs at each reading: what is alike in title and time is the same.
        var known = read.Where(e => !found.ContainsKey(e.Key)).GroupBy(e => e.Fingerprint).Where(g => g.Count() == 1).ToDictionary(g => g.Key, g => g.First());
        if (known.Count > 0)
        {
            foreach (var group in unseen.Values.GroupBy(o => SourceEvent.FingerprintOf(o.Read)).Where(g => g.Count() == 1).ToList())
            {
                var origin = group.First();
                if (known.TryGetValue(group.Key, out var e) && (wish.SourceId is not null || events[origin.EventId].CalendarId == wish.CalendarOf(e)) && unseen.Remove(origin.EventId))
                {
                    found[e.Key] = origin;
                    alike.Add(e.Key);
                }
            }
        }
        var rows = new List<IntakeRow>(read.Count + unseen.Count);
        foreach (var e in read)
        {
            try
            {
                var row = found.TryGetValue(e.Key, out var origin) ? Known(e, origin, events[origin.EventId], wish, now, days) : Unknown(e, wish, thrown.Contains(e.Key), now, newId, uidOf);
                rows.Add(alike.Contains(e.Key) ? row with { Notes = [.. row.Notes, new ReadNote("identity_changed", "It has another identity than at the last reading; it was known by its title and time.")] } : row);
            }
            catch (InvalidInputException problem)
            {
                rows.Add(new IntakeRow(IntakeKind.Unfit, e.Key, e, null, null, null, null, [], [.. e.Notes, new ReadNote(problem.Code, problem.Message)]));
            }
        }
        // What was brought in from elsewhere before, and is not in this, is not about this.
        var targets = read.Select(wish.CalendarOf).OfType<Guid>().ToHashSet();
        rows.AddRange(unseen.Values.Where(o => wish.SourceId is not null || (o.Name == wish.Name && targets.Contains(events[o.EventId].CalendarId))).OrderBy(o => o.Read.Timing.Start).ThenBy(o => o.Key, StringComparer.Ordinal).Select(o => Missing(o, events[o.EventId], wish, now)).OfType<IntakeRow>());
        return rows;
    }

    private static IntakeRow Unknown(SourceEvent e, IntakeWish wish, bool isThrown, Instant now, Func<Guid> newId, Func<SourceEvent, string?>? uidOf)
    {
        IntakeRow Not(IntakeKind kind) => new(kind, e.Key, e, null, null, null, null, [], e.Notes);
        if (wish.Leaves.Contains(e.Key) || wish.CalendarOf(e) is not { } calendar)
            return Not(IntakeKind.Left);
        if (isThrown)
            return Not(IntakeKind.ThrownAway);
        if (!e.Touches(wish.From, wish.After, wish.Zone))
            return Not(IntakeKind.Outside);
        var id = newId();
        var made = e.In(calendar, id, uidOf?.Invoke(e) ?? id.ToString("D"), now);
        return new IntakeRow(IntakeKind.New, e.Key, e, calendar, null, made, OriginOf(e, id, wish, []), [], e.Notes);
    }

    private static IntakeRow Known(SourceEvent e, Origin origin, Event current, IntakeWish wish, Instant now, SchoolDays days)
    {
        if (wish.Leaves.Contains(e.Key))
            return new IntakeRow(IntakeKind.Left, e.Key, e, current.CalendarId, current, null, null, [], e.Notes);
        if (current.DeletedAt is not null && !wish.BringsBack)
        {
            // What vanished at its source and came back comes back; what somebody threw away here stays away.
            if (!origin.IsKept || wish.SourceId is null)
                return new IntakeRow(IntakeKind.ThrownAway, e.Key, e, current.CalendarId, current, null, null, [], e.Notes);
        }
        var isBack = current.DeletedAt is not null;
        var here = isBack ? current with { DeletedAt = null } : current;
        // Where it was put last is where its state of then says; moved by hand it stays where it is.
        var target = wish.CalendarOf(e);
        var isMoved = target is { } to && to != here.CalendarId && origin.Read.CalendarId == here.CalendarId && wish.SourceId is not null;
        if (isMoved)
            here = here with { CalendarId = target!.Value, Facts = here.Facts.Checked(target.Value) };
        Event At(Event state) => state with { Id = here.Id, Uid = here.Uid, CalendarId = here.CalendarId, RelatedTo = here.RelatedTo, DeletedAt = null };
        var merged = EventMerge.Of(At(origin.Read), At(e.State), here, now, days, out var own);
        if (ReferenceEquals(merged, here))
            merged = isMoved || isBack ? here.After(current, now) : current;
        IReadOnlyList<string> parts = [.. own.Union(merged.SaysAs(At(e.State)) ? [] : origin.Own)];
        var after = OriginOf(e, current.Id, wish, parts) with { Read = e.State with { CalendarId = origin.Read.CalendarId == current.CalendarId ? merged.CalendarId : origin.Read.CalendarId } };
        var isSame = ReferenceEquals(merged, current) && own.Count == 0;
        return new IntakeRow(isSame ? IntakeKind.Same : isBack ? IntakeKind.New : IntakeKind.Changed, e.Key, e, merged.CalendarId, current, ReferenceEquals(merged, current) ? null : merged, isSame && after.SaysAs(origin) ? null : after, own, e.Notes);
    }

    private static IntakeRow? Missing(Origin origin, Event current, IntakeWish wish, Instant now)
    {
        if (current.DeletedAt is not null || origin.IsKept)
            return null;
        if (!wish.LetsGo || wish.Leaves.Contains(origin.Key))
            return wish.SourceId is not null ? null : new IntakeRow(IntakeKind.Gone, origin.Key, null, current.CalendarId, current, null, null, [], []);
        return origin.HasOwn(current)
            ? new IntakeRow(IntakeKind.Kept, origin.Key, null, current.CalendarId, current, null, origin with { IsKept = true }, [], [])
            : new IntakeRow(IntakeKind.Gone, origin.Key, null, current.CalendarId, current, current.Delete(now), origin with { IsKept = true }, [], []);
    }

    private static Origin OriginOf(SourceEvent e, Guid eventId, IntakeWish wish, IReadOnlyList<string> own) => new()
    {
        EventId = eventId,
        SourceId = wish.SourceId,
        Key = e.Key,
        Name = wish.Name,
        Read = e.State with { CalendarId = wish.CalendarOf(e) ?? Guid.Empty },
        Own = own,
    };
}
