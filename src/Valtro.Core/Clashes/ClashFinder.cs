using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.Clashes;

/// <summary>What does not go together.</summary>
public enum ClashKind
{
    /// <summary>Two events have one place at one time.</summary>
    PlaceTaken,

    /// <summary>An event is for more people than its place holds.</summary>
    OverCapacity,

    /// <summary>Something at a time of day lies on a closure of its calendar.</summary>
    OnClosure,

    /// <summary>A test lies outside of all terms.</summary>
    OutsideTerm,

    /// <summary>A calendar has more tests on a day than the school allows.</summary>
    TooManyTests,

    /// <summary>Two events have one title and one time.</summary>
    Twice,

    /// <summary>A link of an event cannot be opened by outsiders.</summary>
    LinkClosed,

    /// <summary>A series has more dates than anybody is shown, and is left out everywhere.</summary>
    TooDense,

    /// <summary>
    /// Nothing to mend: a test in a place and time of a lesson of the same calendar was taken for a test in that lesson, and
    /// says so.
    /// </summary>
    TestInLesson,
}

/// <summary>Something that does not go together, on one day.</summary>
/// <param name="Kind">What.</param>
/// <param name="Event">The event; of two the one that was there first.</param>
/// <param name="Date">Its date.</param>
/// <param name="Span">When that is, in the window's zone; of two events the time they share.</param>
/// <param name="Other">The other event; null where there is none.</param>
/// <param name="OtherDate">The other's date.</param>
/// <param name="About">The place's, or the closure's name, or the link's address; empty for others.</param>
/// <param name="CalendarId">For tests the calendar that has too many.</param>
public sealed record Clash(
    ClashKind Kind, EventView Event, LocalDateTime Date, SeenSpan Span, EventView? Other, LocalDateTime? OtherDate, string About, Guid? CalendarId)
{
    /// <summary>
    /// What stays the same while the same things clash: two events that share a place each week are one matter, a series
    /// on a closure is one, a day with too many tests is one for itself.
    /// </summary>
    public string Key => Kind switch
    {
        ClashKind.PlaceTaken or ClashKind.Twice or ClashKind.TestInLesson => $"{Kind} {Pair(Event.Id, Other!.Id)}",
        ClashKind.OverCapacity or ClashKind.TooDense => $"{Kind} {Event.Id}",
        // Addresses can be long.
        ClashKind.LinkClosed => $"{Kind} {Event.Id} {Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(About)))[..16]}",
        ClashKind.OnClosure => $"{Kind} {Event.Id} {About}",
        ClashKind.TooManyTests => $"{Kind} {CalendarId} {Span.FirstDay:uuuu-MM-dd}",
        _ => $"{Kind} {Event.Id} {Date.Date:uuuu-MM-dd}",
    };

    /// <summary>
    /// What everything of this kind about one of its series is accepted by at once; empty for what is not about series, as a
    /// day with too many tests.
    /// </summary>
    public IEnumerable<(string Key, EventView Series)> WideKeys =>
        Kind is ClashKind.TooManyTests or ClashKind.TestInLesson or ClashKind.TooDense
            ? []
            : new[] { Event, Other }.OfType<EventView>().Where(e => e.Rule is not null).Select(e => ($"every {Kind} {e.Id}", e));

    private static string Pair(Guid a, Guid b) => a.CompareTo(b) < 0 ? $"{a} {b}" : $"{b} {a}";
}

/// <summary>
/// Finds what does not go together among the events of a window. Called-off dates clash with nothing; an event that
/// leaves the time free takes no place. A pure function, in n log n of the dates plus what it finds.
/// </summary>
public static class ClashFinder
{
    /// <summary>The most clashes found; there are more then.</summary>
    public const int MaxFound = 2_000;

    /// <summary>Finds the clashes of a window.</summary>
    /// <param name="events">
    /// What the one who asks gets of the events that can touch it; those in the bin are passed over. What they are not told
    /// of clashes with nothing: a guess at a title or a place finds no more than they could read.
    /// </param>
    /// <param name="window">The window, in the school's zone.</param>
    /// <param name="lists">The school's places, categories and limits.</param>
    /// <param name="days">The school's days.</param>
    /// <param name="closedLinks">Addresses that outsiders cannot open; null when nobody tried.</param>
    /// <param name="about">Only clashes that concern one of the events with these identities; null for all.</param>
    public static IReadOnlyList<Clash> Find(IEnumerable<EventView> events, TimeWindow window, SchoolLists lists, SchoolDays days, IReadOnlySet<Guid>? about = null, IReadOnlySet<string>? closedLinks = null)
    {
        var dates = new List<Dated>();
        var found = new List<Clash>();
        foreach (var e in events)
        {
            if (e.DeletedAt is not null)
                continue;
            if (e.Dates.IsTooDense)
            {
                if (found.Count < MaxFound && about?.Contains(e.Id) != false)
                    found.Add(LeftOut(e));
                continue;
            }
            bool IsTest(EventChange? change) => lists.Category(e.FactsOn(change).CategoryId) is { IsAssessment: true };
            var title = Place.NameKey(e.Title ?? "");
            foreach (var d in e.Dates.In(window))
            {
                if (d.Change is not { IsCalledOff: true })
                    dates.Add(new Dated(e, d, Place.NameKey(d.Change?.Place ?? e.Place ?? ""), d.Change?.Title is { } own ? Place.NameKey(own) : title, IsTest(d.Change)));
            }
        }
        // By time, then by age: of two events the older one was there first.
        dates.Sort((a, b) =>
        {
            var order = a.Seen.Span.Start.CompareTo(b.Seen.Span.Start);
            return order != 0 ? order : a.Event.CreatedAt != b.Event.CreatedAt ? a.Event.CreatedAt.CompareTo(b.Event.CreatedAt) : a.Event.Id.CompareTo(b.Event.Id);
        });

        bool Concerns(EventView e) => about?.Contains(e.Id) != false;
        Places(dates, found, Concerns);
        Twice(dates, found, Concerns);
        Tests(dates, lists, found, Concerns);
        if (closedLinks is not null)
            Links(dates, closedLinks, found, Concerns);
        foreach (var date in dates)
        {
            if (found.Count >= MaxFound)
                break;
            if (Concerns(date.Event))
                Alone(date, lists, days, found);
        }
        return found.Count <= MaxFound ? found : found[..MaxFound];
    }

    private static Clash LeftOut(EventView e)
    {
        var start = e.Timing.Start;
        return new Clash(ClashKind.TooDense, e, start, new SeenSpan(start, start, start.Date, start.Date), null, null, "", null);
    }

    private static void Places(List<Dated> dates, List<Clash> found, Func<EventView, bool> concerns)
    {
        // Those still going on, by place; what has ended makes room as the next one comes.
        var going = new Dictionary<string, List<Dated>>();
        foreach (var date in dates)
        {
            if (date.Place.Length == 0 || date.Event.Facts.IsFree)
                continue;
            if (!going.TryGetValue(date.Place, out var there))
                going.Add(date.Place, there = []);
            there.RemoveAll(d => d.Seen.Span.End <= date.Seen.Span.Start);
            foreach (var other in there)
            {
                if (found.Count < MaxFound && other.Event.Id != date.Event.Id && (concerns(date.Event) || concerns(other.Event)) && date.Seen.Span.End > date.Seen.Span.Start)
                    found.Add(InLesson(other, date) ?? InLesson(date, other) ?? Between(ClashKind.PlaceTaken, other, date, date.PlaceAsWritten));
            }
            there.Add(date);
        }
    }

    // A class writes its test in its own lesson: one calendar, one place, within its time.
    private static Clash? InLesson(Dated lesson, Dated test) =>
        test.IsTest && !lesson.IsTest
        && lesson.Seen.Span.Start <= test.Seen.Span.Start && test.Seen.Span.End <= lesson.Seen.Span.End
        && lesson.Event.StandsIn.Intersect(test.Event.StandsIn).Any()
            ? Between(ClashKind.TestInLesson, test, lesson, test.PlaceAsWritten)
            : null;

    private static void Twice(List<Dated> dates, List<Clash> found, Func<EventView, bool> concerns)
    {
        foreach (var same in dates.Where(d => d.Title.Length > 0).GroupBy(d => (d.Title, d.Seen.Span.Start, d.Seen.Span.End)).Where(g => g.Skip(1).Any()))
        {
            var first = same.First();
            foreach (var other in same.Skip(1))
            {
                if (found.Count < MaxFound && other.Event.Id != first.Event.Id && (concerns(first.Event) || concerns(other.Event)))
                    found.Add(Between(ClashKind.Twice, first, other, ""));
            }
        }
    }

    private static void Tests(List<Dated> dates, SchoolLists lists, List<Clash> found, Func<EventView, bool> concerns)
    {
        if (lists.TestsADay == 0)
            return;
        var tests = dates.Where(d => d.IsTest).SelectMany(d => d.Event.StandsIn, (d, calendar) => (Date: d, Calendar: calendar));
        foreach (var day in tests.GroupBy(t => (t.Calendar, t.Date.Seen.Span.FirstDay)))
        {
            var ofDay = day.Select(t => t.Date).DistinctBy(d => d.Event.Id).ToList();
            if (ofDay.Count <= lists.TestsADay || found.Count >= MaxFound || !ofDay.Any(d => concerns(d.Event)))
                continue;
            var (first, last) = (ofDay[0], ofDay.LastOrDefault(d => d.Event.Id != ofDay[0].Event.Id && concerns(d.Event)) ?? ofDay[^1]);
            found.Add(Between(ClashKind.TooManyTests, first, last, "") with { CalendarId = day.Key.Calendar });
        }
    }

    private static void Links(List<Dated> dates, IReadOnlySet<string> closed, List<Clash> found, Func<EventView, bool> concerns)
    {
        // One matter for all its dates: the first one tells it.
        var told = new HashSet<(Guid, string)>();
        foreach (var date in dates.Where(d => concerns(d.Event)))
        {
            foreach (var link in date.Event.FactsOn(date.Seen.Change).Links)
            {
                if (found.Count < MaxFound && closed.Contains(link.Address) && told.Add((date.Event.Id, link.Address)))
                    found.Add(new Clash(ClashKind.LinkClosed, date.Event, date.Seen.Date, date.Seen.Span, null, null, link.Address, null));
            }
        }
    }

    private static void Alone(Dated date, SchoolLists lists, SchoolDays days, List<Clash> found)
    {
        var (e, day) = (date.Event, date.Seen.Span.FirstDay);
        void Add(ClashKind kind, string about) => found.Add(new Clash(kind, e, date.Seen.Date, date.Seen.Span, null, null, about, null));
        if (e.Facts.Size is { } size && lists.Place(date.PlaceAsWritten) is { Capacity: { } holds } place && size > holds)
            Add(ClashKind.OverCapacity, place.Name);
        // Whole days on a closure are the closure itself, or a camp in the holidays.
        if (date.Seen.Timing.Kind != TimeKind.AllDay && !e.Facts.IsFree && days.ClosureOf(day, e.StandsIn[0]) is { } closure)
            Add(ClashKind.OnClosure, closure.Name);
        if (date.IsTest && days.Knows(day) && !days.Year(day).Terms.IsEmpty && days.Day(day).Term is null)
            Add(ClashKind.OutsideTerm, "");
    }

    private static Clash Between(ClashKind kind, Dated first, Dated other, string about) =>
        new(kind, first.Event, first.Seen.Date, Both(first.Seen.Span, other.Seen.Span), other.Event, other.Seen.Date, about, null);

    private static SeenSpan Both(SeenSpan a, SeenSpan b) => new(
        a.Start > b.Start ? a.Start : b.Start,
        a.End < b.End ? a.End : b.End,
        LocalDate.Max(a.FirstDay, b.FirstDay),
        LocalDate.Min(a.LastDay, b.LastDay));

    private sealed record Dated(EventView Event, EventDate Seen, string Place, string Title, bool IsTest)
    {
        public string PlaceAsWritten => Seen.Change?.Place ?? Event.Place ?? "";
    }
}
