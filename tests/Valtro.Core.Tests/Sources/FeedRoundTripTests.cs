using System.Text;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Sources;
using Valtro.Core.Tests.ICalendar;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Sources;

/// <summary>What our feeds say is read back as it was; and another library finds the same events in it.</summary>
public class FeedRoundTripTests
{
    private static readonly string[] Rules =
        ["FREQ=DAILY;COUNT=9", "FREQ=WEEKLY;BYDAY=MO,TH;UNTIL=20270301", "FREQ=MONTHLY;BYDAY=-1FR;COUNT=7", "FREQ=MONTHLY;BYMONTHDAY=15;INTERVAL=2", "FREQ=YEARLY;COUNT=3", "FREQ=WEEKLY;INTERVAL=2;WKST=SU;BYDAY=SU,TU;COUNT=12"];

    public static IEnumerable<TheoryDataRow<int>> Seeds() => Enumerable.Range(0, 60).Select(i => new TheoryDataRow<int>(i));

    private static Event Random(Random random)
    {
        var day = Day("2026-09-01").PlusDays(random.Next(200));
        var zone = random.Next(3) switch { 0 => Halifax, 1 => Zones.Get("Europe/Oslo"), _ => Zones.Get("Australia/Lord_Howe") };
        var start = day.At(new LocalTime(random.Next(24), random.Next(4) * 15));
        var timing = random.Next(3) switch
        {
            0 => EventTiming.AllDay(day, day.PlusDays(random.Next(3))),
            1 => EventTiming.Floating(start, start.PlusMinutes(random.Next(200))),
            _ => EventTiming.Zoned(start, start.PlusMinutes(random.Next(600)), zone),
        };
        var e = Event(timing);
        if (random.Next(3) > 0)
            e = Core.Events.Event.Create(e.Id, e.CalendarId, new EventDraft("Row, \"sail\"; knots", "Loft 2", "Bring\na rope", timing, RecurrenceRuleOf(random, timing)), Now);
        var dates = e.Seen().Dates.In(new TimeWindow(Day("2026-08-01"), Day("2027-08-01"), Halifax)).Select(d => d.Date).Distinct().ToList();
        foreach (var date in dates.Where(_ => random.Next(5) == 0).Take(3))
            e = e.Rule is null || random.Next(2) == 0 ? e.CallOff(date, true, Now) : e.Skip(date, Now);
        return e;
    }

    private static RecurrenceRule RecurrenceRuleOf(Random random, EventTiming timing) => Rule(Rules[random.Next(Rules.Length)], timing.Zone);

    [Theory]
    [MemberData(nameof(Seeds))]
    public void A_feed_is_read_back_date_by_date(int seed)
    {
        var random = new Random(seed);
        var events = Enumerable.Range(0, 5).Select(_ => Random(random)).ToArray();
        var ics = Ics.Of(events);
        var read = CalendarReader.Read(ics.Bytes, Halifax);
        Assert.Equal(events.Length, read.Events.Count);
        foreach (var e in events)
        {
            var back = Assert.Single(read.Events, r => r.Uid == e.Seen().Uid);
            Assert.Equal((e.Title, e.Timing.Kind), (back.Title, back.Timing.Kind));
            var expected = e.Seen().Dates.In(new TimeWindow(Day("2026-08-01"), Day("2027-08-01"), e.Timing.Zone ?? Halifax))
                .Select(d => (Start: (d.Change?.Timing ?? e.Timing.At(d.Date)).Start, IsCalledOff: d.Change is { IsCalledOff: true }))
                .Where(d => d.Start.Date >= Day("2026-08-01") && d.Start.Date < Day("2027-08-01")).Order();
            Assert.Equal(expected, back.Dates(Day("2026-08-01"), Day("2027-08-01")).Select(d => (d.Timing.Start, d.IsCalledOff)).Order());
        }
        // A library that had no part in it finds the same events.
        var other = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(ics.Bytes))!;
        Assert.Equal(read.Events.Select(e => e.Uid).Order(StringComparer.Ordinal), other.Events.Select(e => e.Uid!).Distinct().Order(StringComparer.Ordinal));
    }
}
