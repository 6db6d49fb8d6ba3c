using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Recurrence;

namespace Valtro.Core.Events;

/// <summary>The name of a date: which of its event's dates it was when it came to be. It stays, whatever becomes of the date.</summary>
/// <param name="Uid">The event it came to be with.</param>
/// <param name="Start">Its local start then.</param>
public readonly record struct DateName(string Uid, LocalDateTime Start);

/// <summary>
/// Dates of one weekday and time of day that lie elsewhere than they did when they got their names: all by as much.
/// </summary>
/// <param name="First">The first of them, as it lies now; it says which weekday and time of day.</param>
/// <param name="Last">The last; of a series without end the last there can be.</param>
/// <param name="Shift">By how many seconds they lie later than their names say.</param>
/// <param name="Uid">The event they came to be with, where that is another one.</param>
/// <param name="IsAll">Whether it holds dates of every weekday and time: where the second part of a split has the names.</param>
public sealed record NamedDates(LocalDateTime First, LocalDateTime Last, long Shift, string? Uid = null, bool IsAll = false)
{
    /// <summary>Whether a date, as it lies now, is among them.</summary>
    public bool Holds(LocalDateTime date) => First <= date && date <= Last && (IsAll || (date.DayOfWeek, date.TimeOfDay) == (First.DayOfWeek, First.TimeOfDay));
}

/// <summary>
/// Follows the names of dates through every change of an event: a date that is moved with its series, that goes into the second
/// part of a split or becomes an event of its own keeps its name, and with it its address. Pure functions.
/// </summary>
public static class DateNames
{
    // A series is followed this far; what holds there of an endless one holds for ever.
    private const int MaxDates = 1_500;
    private const int YearsAhead = 12;
    private const int EndDays = 400;

    private static readonly LocalDateTime Never = new(9998, 12, 31, 0, 0);

    /// <summary>The name of a date.</summary>
    /// <param name="uid">The event's own identity.</param>
    /// <param name="names">Where its dates got other names.</param>
    /// <param name="date">The local start the series gives.</param>
    public static DateName Of(string uid, ImmutableArray<NamedDates> names, LocalDateTime date)
    {
        foreach (var run in names)
        {
            if (run.Holds(date))
                return new DateName(run.Uid ?? uid, date.PlusSeconds(-run.Shift));
        }
        return new DateName(uid, date);
    }

    /// <summary>The dates that may have a name, the likelier first; that the series makes them is for the caller to see.</summary>
    /// <param name="uid">The event's own identity.</param>
    /// <param name="names">Where its dates got other names.</param>
    /// <param name="name">The name.</param>
    public static IEnumerable<LocalDateTime> Named(string uid, ImmutableArray<NamedDates> names, DateName name) =>
        names.Where(r => (r.Uid ?? uid) == name.Uid).Select(r => name.Start.PlusSeconds(r.Shift)).Append(name.Start)
            .Where(d => Of(uid, names, d) == name).Distinct();

    /// <summary>The names of an event's dates after a change of its times: the very same as before where it has none.</summary>
    /// <param name="before">The event before.</param>
    /// <param name="after">The event after, which may be another one that takes over its dates.</param>
    /// <param name="from">From which date on they are taken over; null for all.</param>
    internal static ImmutableArray<NamedDates> After(Event before, Event after, LocalDateTime? from = null)
    {
        var (old, current) = (before.Dates, after.Dates);
        if (before.Uid == after.Uid && before.Plain == after.Plain)
            return before.Names;
        var (match, found) = (new DateMatch(before, after, current), new SortedDictionary<LocalDateTime, DateName>());
        var pairs = new List<(LocalDateTime From, LocalDateTime To)>();
        LocalDateTime? ends = null;
        foreach (var date in old.From(from ?? LocalDateTime.MinIsoValue).Take(MaxDates))
        {
            ends ??= date.PlusYears(YearsAhead);
            if (date > ends)
                break;
            if (match.Find(date) is { } to)
                pairs.Add((date, to));
        }
        // Whoever stays on its day comes before whoever is only in its place.
        foreach (var (date, to) in pairs.OrderByDescending(p => p.From.Date == p.To.Date))
            found.TryAdd(to, Of(before.Uid, before.Names, date));
        ImmutableArray<NamedDates> apart = before.Uid == after.Uid ? [.. before.Names.Where(n => n.IsAll)] : [];
        ImmutableArray<NamedDates> names = [.. Runs(after.Uid, found, old.IsEndless && current.IsEndless, isExplicit: apart.Length > 0), .. apart];
        return names.IsEmpty ? names : Apart(after.Uid, $"{after.Uid}~{before.Version + 1}", names, found, current);
    }

    /// <summary>The names of the first part of a split: what it comes to have beyond is named apart from the dates it gave away.</summary>
    /// <param name="first">The first part.</param>
    /// <param name="second">The second one, with the names it took over.</param>
    internal static ImmutableArray<NamedDates> WithoutRest(Event first, Event second)
    {
        var given = second.Dates.From(LocalDateTime.MinIsoValue).Take(MaxDates).Select(d => Of(second.Uid, second.Names, d)).Where(n => n.Uid != second.Uid).Select(n => n.Start).ToList();
        if (given.Count == 0)
            return first.Names;
        var own = new SortedDictionary<LocalDateTime, DateName>();
        foreach (var date in first.Dates.From(LocalDateTime.MinIsoValue).Take(MaxDates))
            own[date] = Of(first.Uid, first.Names, date);
        return
        [
            .. Runs(first.Uid, own, isEndless: false, isExplicit: true),
            new NamedDates(given.Min(), Never, 0, $"{first.Uid}~r{first.Version}", IsAll: true),
            .. first.Names.Where(n => n.IsAll),
        ];
    }

    private static ImmutableArray<NamedDates> Runs(string uid, SortedDictionary<LocalDateTime, DateName> found, bool isEndless, bool isExplicit = false)
    {
        var all = new List<NamedDates>();
        foreach (var group in found.GroupBy(f => (f.Key.DayOfWeek, f.Key.TimeOfDay)))
        {
            var runs = new List<NamedDates>();
            foreach (var (date, name) in group)
            {
                var (shift, origin) = (Period.Between(name.Start, date, PeriodUnits.Seconds).Seconds, name.Uid == uid ? null : name.Uid);
                if (runs.Count > 0 && runs[^1] is var last && last.Shift == shift && last.Uid == origin)
                    runs[^1] = last with { Last = date };
                else
                    runs.Add(new NamedDates(date, date, shift, origin));
            }
            if (isEndless && runs[^1].First < runs[^1].Last && runs[^1].Last.PlusDays(EndDays) > found.Keys.Last())
                runs[^1] = runs[^1] with { Last = Never };
            all.AddRange(runs.Where(r => isExplicit || r.Shift != 0 || r.Uid is not null));
        }
        return [.. all.OrderBy(r => r.First)];
    }

    /// <summary>Dates that are new where others got their names from take names of their own.</summary>
    private static ImmutableArray<NamedDates> Apart(string uid, string fresh, ImmutableArray<NamedDates> names, SortedDictionary<LocalDateTime, DateName> found, SeriesDates current)
    {
        var taken = found.Values.ToHashSet();
        var until = found.Count == 0 ? LocalDateTime.MinIsoValue : found.Keys.Last().PlusDays(EndDays);
        var clashing = new SortedDictionary<LocalDateTime, DateName>();
        foreach (var date in current.From(LocalDateTime.MinIsoValue).TakeWhile(d => d <= until))
        {
            if (!found.ContainsKey(date) && !taken.Add(Of(uid, names, date)))
                clashing.Add(date, new DateName(fresh, date));
        }
        if (clashing.Count == 0)
            return names;
        var own = Runs(uid, clashing, current.IsEndless);
        // A stretch that would take in dates which have names is told date by date.
        own = own.Any(r => found.Keys.Any(r.Holds)) ? [.. clashing.Select(c => new NamedDates(c.Key, c.Key, 0, fresh))] : own;
        return [.. own, .. names];
    }
}
