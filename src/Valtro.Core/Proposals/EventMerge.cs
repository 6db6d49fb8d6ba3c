using System.Collections;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.Proposals;

/// <summary>
/// Puts what somebody changed in an older state of an event onto the event as it is now: field by field, and its dates one
/// by one. What only the others changed stays as they left it.
/// </summary>
public static class EventMerge
{
    /// <summary>What an event has beside, part by part: the name, how it is read, and how it is taken from another.</summary>
    internal static readonly (string Name, Func<EventFacts, object?> Get, Func<EventFacts, EventFacts, EventFacts> Take)[] FactFields =
    [
        Fact("subtitle", f => f.Subtitle, (f, o) => f with { Subtitle = o.Subtitle }),
        Fact("categoryId", f => f.CategoryId, (f, o) => f with { CategoryId = o.CategoryId }),
        Fact("tags", f => f.Tags, (f, o) => f with { Tags = o.Tags }),
        Fact("mark", f => f.Mark, (f, o) => f with { Mark = o.Mark }),
        Fact("isFree", f => f.IsFree, (f, o) => f with { IsFree = o.IsFree }),
        Fact("reminder", f => f.Reminder, (f, o) => f with { Reminder = o.Reminder }),
        Fact("isDraft", f => f.IsDraft, (f, o) => f with { IsDraft = o.IsDraft }),
        Fact("links", f => f.Links, (f, o) => f with { Links = o.Links }),
        Fact("alsoIn", f => f.AlsoIn, (f, o) => f with { AlsoIn = o.AlsoIn }),
        Fact("size", f => f.Size, (f, o) => f with { Size = o.Size }),
        Fact("files", f => f.Files, (f, o) => f with { Files = o.Files }),
        Fact("picture", f => f.Picture, (f, o) => f with { Picture = o.Picture }),
        Fact("reach", f => f.Reach, (f, o) => f with { Reach = o.Reach }),
        Fact("limits", f => f.Limits, (f, o) => f with { Limits = o.Limits }),
    ];

    // Home and placements are not among them: those have an answer of each calendar.
    private static readonly (string Name, Func<Event, object?> Get, Func<Event, Event, Event> Take)[] Fields =
    [
        ("title", e => e.Title, (e, o) => e with { Title = o.Title }),
        ("place", e => e.Place, (e, o) => e with { Place = o.Place }),
        ("description", e => e.Description, (e, o) => e with { Description = o.Description }),
        ("when", e => (e.Timing, e.Rule, e.Follows), (e, o) => e with { Timing = o.Timing, Rule = o.Rule, Follows = o.Follows, TimedAt = o.TimedAt }),
        .. FactFields.Select(fact => (fact.Name, (Func<Event, object?>)(e => fact.Get(e.Facts)), (Func<Event, Event, Event>)((e, o) => e with { Facts = fact.Take(e.Facts, o.Facts) }))),
    ];

    /// <summary>Merges.</summary>
    /// <param name="origin">The state the change was made from.</param>
    /// <param name="changed">That state with the change.</param>
    /// <param name="current">The event as it is now.</param>
    /// <param name="now">The moment.</param>
    /// <param name="days">The school's days, for a series that follows them.</param>
    /// <param name="conflicts">The fields both changed, to different ends; the current state's is kept for these.</param>
    /// <returns>The event with the change; the very same value when it is in it already.</returns>
    public static Event Of(Event origin, Event changed, Event current, Instant now, SchoolDays days, out IReadOnlyList<string> conflicts)
    {
        var found = new List<string>();
        var merged = current;
        foreach (var (name, get, take) in Fields)
        {
            var (was, will, isNow) = (get(origin), get(changed), get(current));
            if (Same(was, will) || Same(will, isNow))
                continue;
            if (Same(was, isNow))
                merged = take(merged, changed);
            else
                found.Add(name);
        }
        var isMoved = !Same(When(merged), When(current));
        merged = Dates(origin, changed, current, merged, found);
        if (changed.DeletedAt is not null && origin.DeletedAt is null && current.DeletedAt is null)
            merged = merged with { DeletedAt = now };
        else if (changed.DeletedAt is null && origin.DeletedAt is not null)
            merged = merged with { DeletedAt = null };
        conflicts = found;
        if (ReferenceEquals(merged, current))
            return current;
        if (isMoved)
            merged = merged with { TimedAt = now };
        return merged.OnSchoolDays(days).After(current, now);
    }

    // Left out, added and changed dates, one by one: two who change different dates of a series do not meet.
    private static Event Dates(Event origin, Event changed, Event current, Event merged, List<string> conflicts)
    {
        var dates = new[] { origin, changed, current }.SelectMany(e => e.Skips.Concat(e.Extras).Concat(e.Changes.Select(c => c.Date))).Distinct().Order().ToList();
        if (dates.Count == 0)
            return merged;
        var theirs = dates.Where(d => !At(origin, d).Equals(At(changed, d)) && !At(changed, d).Equals(At(current, d))).ToList();
        if (theirs.Count == 0)
            return merged;
        // What was done on dates of the series as it was says nothing of a series with other dates.
        if (theirs.Any(d => !At(origin, d).Equals(At(current, d))) || !Same(When(changed), When(merged)))
        {
            conflicts.Add("dates");
            return merged;
        }
        (bool Skip, bool Extra, EventChange? Change) Chosen(LocalDateTime d) => theirs.Contains(d) ? At(changed, d) : At(current, d);
        return merged with
        {
            Skips = [.. dates.Where(d => Chosen(d).Skip)],
            Extras = [.. dates.Where(d => Chosen(d).Extra)],
            Changes = [.. dates.Select(d => Chosen(d).Change).OfType<EventChange>()],
        };
    }

    private static (bool Skip, bool Extra, EventChange? Change) At(Event e, LocalDateTime date) =>
        (e.Skips.Contains(date), e.Extras.Contains(date), e.Changes.FirstOrDefault(c => c.Date == date));

    private static object When(Event e) => (e.Timing, e.Rule, e.Follows);

    /// <summary>Whether two values say the same, lists by what is in them.</summary>
    internal static bool Same(object? a, object? b) => a is IStructuralEquatable all ? all.Equals(b, EqualityComparer<object>.Default) : Equals(a, b);

    private static (string, Func<EventFacts, object?>, Func<EventFacts, EventFacts, EventFacts>) Fact<T>(string name, Func<EventFacts, T> get, Func<EventFacts, EventFacts, EventFacts> take) =>
        ("facts." + name, f => get(f), take);
}
