using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.Tests;

/// <summary>Short ways to the values the tests talk about.</summary>
internal static class Sample
{
    public static readonly DateTimeZone Halifax = Zones.Get("America/Halifax");
    public static readonly Instant Now = Instant.FromUtc(2026, 9, 1, 12, 0);

    public static LocalDate Day(string text) => NodaTime.Text.LocalDatePattern.Iso.Parse(text).Value;

    public static LocalDateTime At(string text) =>
        NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd HH:mm").Parse(text).Value;

    public static EventTiming Timed(string start, string end, DateTimeZone? zone = null) =>
        EventTiming.Zoned(At(start), At(end), zone ?? Halifax);

    public static EventTiming AllDay(string first, string? last = null) => EventTiming.AllDay(Day(first), Day(last ?? first));

    public static RecurrenceRule Rule(string text, DateTimeZone? zone = null) => RecurrenceRule.Parse(text, zone ?? Halifax);

    public static Event Event(EventTiming timing, string? rule = null, string title = "Rigging test", Guid? calendar = null) =>
        Core.Events.Event.Create(
            Guid.NewGuid(),
            calendar ?? Guid.NewGuid(),
            new EventDraft(title, "Loft 2", "Bring a knife; no phones, please", timing, rule is null ? null : Rule(rule)),
            Now);

    public static Calendar Calendar(ReachTable? reach = null, string title = "Rigging 2") =>
        Core.Events.Calendar.Apply(null, Guid.NewGuid(), title, "", "", Halifax.Id, 3) with { Reach = reach ?? ReachTable.Open };

    public static Publication Publication(params Calendar[] calendars) =>
        Core.Publishing.Publication.New(Guid.NewGuid(), "lantern", Settings(calendars), Now);

    public static PublicationSettings Settings(params Calendar[] calendars) => new() { Title = "What is on", CalendarIds = [.. calendars.Select(c => c.Id)] };

    /// <summary>An event as somebody gets it who sees all of every calendar it stands in.</summary>
    public static EventView Seen(this Event e, SchoolLists? lists = null) =>
        Eyes.Of(new Access(SchoolRole.Administrator, new Dictionary<Guid, CalendarRole>()), e.CalendarIds.ToDictionary(id => id, id => Calendar() with { Id = id }), lists ?? SchoolLists.Empty, Guid.Empty).View(e)!;

    public static string Code(Func<object?> act) => Assert.Throws<InvalidInputException>(act).Code;

    public static string[] Dates(this SeriesDates dates, string from, string to) =>
        [.. dates.In(new TimeWindow(Day(from), Day(to), Halifax)).Select(o => o.LocalStart.ToString("uuuu-MM-dd", null))];
}
