using System.Text;
using Valtro.Core.Events;
using Valtro.Core.Sources;
using Valtro.Core.Tests.ICalendar;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Sources;

/// <summary>What was read as it would stand here: the same dates, and a note for all our events cannot say.</summary>
public class SourceEventTests
{
    private static IReadOnlyList<SourceEvent> Of(string body, SchoolLists? lists = null) => SourceEvent.Of(OddFilesTests.Read(body).Events, Halifax, lists ?? SchoolLists.Empty);

    private static IEnumerable<string> Dates(SourceEvent e) => e.State.All.In(new TimeWindow(Day("2026-08-01"), Day("2027-08-01"), Halifax))
        .Select(d => $"{(d.Change?.Timing ?? e.State.Timing.At(d.Date)).Start:uuuu-MM-dd'T'HH:mm}{(d.Change is { IsCalledOff: true } ? "!" : "")}").Order();

    public static IEnumerable<TheoryDataRow<int>> Seeds() => Enumerable.Range(0, 120).Select(i => new TheoryDataRow<int>(i));

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Whatever_is_read_stands_here_on_the_same_dates(int seed)
    {
        var random = new Random(seed);
        var body = new StringBuilder();
        for (var i = 0; i < 6; i++)
        {
            var start = new LocalDateTime(2026, 9, 1, random.Next(24), random.Next(4) * 15).PlusDays(random.Next(120));
            var isAllDay = random.Next(4) == 0;
            var zone = new[] { "America/Halifax", "Europe/Oslo", "Australia/Lord_Howe" }[random.Next(3)];
            string At(LocalDateTime t, string name) => isAllDay ? $"{name};VALUE=DATE:{t:uuuuMMdd}" : $"{name};TZID={zone}:{t:uuuuMMdd'T'HHmmss}";
            body.Append($"BEGIN:VEVENT\nUID:e{i}\nSUMMARY:Event {i}\n{At(start, "DTSTART")}\n");
            var days = new[] { 1, 7, 14 }[random.Next(3)];
            if (random.Next(3) > 0)
            {
                body.Append($"RRULE:FREQ={(days == 1 ? "DAILY" : "WEEKLY")}{(days == 14 ? ";INTERVAL=2" : "")};COUNT={random.Next(2, 20)}\n");
                if (random.Next(2) == 0)
                    body.Append(At(start.PlusDays(days), "EXDATE")).Append('\n');
                if (random.Next(2) == 0)
                    body.Append(At(start.PlusDays(3 + random.Next(2)), "RDATE")).Append('\n');
            }
            body.Append("END:VEVENT\n");
            if (random.Next(3) == 0)
                body.Append($"BEGIN:VEVENT\nUID:e{i}\nSUMMARY:Moved {i}\n{At(start, "RECURRENCE-ID")}\n{At(start.PlusDays(1).PlusMinutes(isAllDay ? 0 : 30), "DTSTART")}\n{(random.Next(3) == 0 ? "STATUS:CANCELLED\n" : "")}END:VEVENT\n");
        }
        var read = OddFilesTests.Read(body.ToString()).Events;
        foreach (var e in read)
        {
            var expected = e.Dates(Day("2026-08-01"), Day("2027-08-01")).Select(d => $"{d.Timing.Start:uuuu-MM-dd'T'HH:mm}{(d.IsCalledOff ? "!" : "")}").Order();
            var here = SourceEvent.Of([e], Halifax);
            Assert.Equal(expected, here.SelectMany(Dates).Order());
            // Made twice it is the same: else each reading would change it.
            Assert.True(SourceEvent.Of([e], Halifax).Zip(here).All(p => p.First.Key == p.Second.Key && p.First.State.SaysAs(p.Second.State)));
        }
    }

    [Fact]
    public void From_one_date_on_it_goes_on_as_a_series_of_its_own()
    {
        var made = Of("""
            BEGIN:VEVENT
            UID:s
            SUMMARY:Row
            DTSTART;TZID=America/Halifax:20261102T090000
            DURATION:PT1H
            RRULE:FREQ=WEEKLY;COUNT=6
            END:VEVENT
            BEGIN:VEVENT
            UID:s
            SUMMARY:Row, later
            RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=America/Halifax:20261123T090000
            DTSTART;TZID=America/Halifax:20261124T100000
            DURATION:PT2H
            END:VEVENT
            """);
        Assert.Equal(["s", "s#1"], made.Select(m => m.Key));
        Assert.Equal(["2026-11-02T09:00", "2026-11-09T09:00", "2026-11-16T09:00"], Dates(made[0]));
        Assert.Equal(["2026-11-24T10:00", "2026-12-01T10:00", "2026-12-08T10:00"], Dates(made[1]));
        Assert.Equal("Row, later", made[1].State.Title);
    }

    [Fact]
    public void A_whole_day_of_a_timed_series_stands_for_itself()
    {
        var made = Of("""
            BEGIN:VEVENT
            UID:s
            SUMMARY:Row
            DTSTART;TZID=America/Halifax:20261102T090000
            RRULE:FREQ=WEEKLY;COUNT=3
            END:VEVENT
            BEGIN:VEVENT
            UID:s
            SUMMARY:Regatta
            RECURRENCE-ID;TZID=America/Halifax:20261109T090000
            DTSTART;VALUE=DATE:20261109
            END:VEVENT
            """);
        Assert.Equal(["2026-11-02T09:00", "2026-11-16T09:00"], Dates(made[0]));
        Assert.Equal(["2026-11-09T00:00"], Dates(made[1]));
        Assert.Contains(made[0].Notes, n => n.Code == "date_of_other_kind");
    }

    [Fact]
    public void All_that_it_says_beside_is_kept_where_we_have_a_place_for_it()
    {
        var category = new Category(Guid.NewGuid(), "Test", null, true);
        var e = Assert.Single(Of(
            """
            BEGIN:VEVENT
            UID:a
            SUMMARY:Rigging test
            DTSTART:20261103T133000Z
            DTEND:20261103T143000Z
            CATEGORIES:TEST,Knots
            URL:https://lanternfell.example/test
            ATTACH;FILENAME=Plan.pdf:https://lanternfell.example/plan.pdf
            CONFERENCE;LABEL=By video:https://meet.example/7
            TRANSP:TRANSPARENT
            X-ALT-DESC;FMTTYPE=text/html:<p>Bring a <strong>rope</strong><script>x()</script></p>
            BEGIN:VALARM
            TRIGGER:-PT30M
            END:VALARM
            END:VEVENT
            """, SchoolLists.Empty with { Categories = [category] })).State;
        Assert.Equal((category.Id, "Knots", true, 30), (e.Facts.CategoryId, Assert.Single(e.Facts.Tags), e.Facts.IsFree, e.Facts.Reminder));
        Assert.Equal(["More https://lanternfell.example/test", "Video https://meet.example/7", "More https://lanternfell.example/plan.pdf"], e.Facts.Links.Select(l => $"{l.Kind} {l.Address}"));
        Assert.Equal("<p>Bring a <strong>rope</strong></p>", e.Description);
        // Given in UTC, told on the calendar's clock.
        Assert.Equal(("America/Halifax", "2026-11-03T09:30"), (e.Timing.Zone!.Id, $"{e.Timing.Start:uuuu-MM-dd'T'HH:mm}"));
    }

    [Theory]
    [InlineData("SUMMARY:", "title_missing")]
    [InlineData("SUMMARY:LONG", "title_cut")]
    [InlineData("SUMMARY:x\nURL:javascript:alert(1)", "link_left")]
    [InlineData("SUMMARY:x\nDESCRIPTION:LONG", "description_cut")]
    [InlineData("SUMMARY:x\nATTACH;ENCODING=BASE64;VALUE=BINARY:AAAA", "attachment_left")]
    [InlineData("SUMMARY:x\nGEO:44.6;-63.5", "position_left")]
    public void What_does_not_fit_is_noted(string line, string code)
    {
        var text = line.Replace("LONG", string.Concat(Enumerable.Repeat("Ropes and 🪢 ", 1200)), StringComparison.Ordinal);
        var e = Assert.Single(Of($"BEGIN:VEVENT\nUID:a\nDTSTART:20261103\n{text}\nEND:VEVENT"));
        Assert.Contains(e.Notes, n => n.Code == code);
        Assert.True(e.State.Title.Length is > 0 and <= Core.Events.Event.MaxTitle && RichText.Plain(e.State.Description).Length <= Core.Events.Event.MaxDescription);
        Assert.DoesNotContain('\uFFFD', new string(Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(e.State.Title))));
    }

    [Fact]
    public void A_series_called_off_as_a_whole_is_not_here_and_one_date_is_struck_through()
    {
        Assert.Empty(Of("BEGIN:VEVENT\nUID:a\nSUMMARY:x\nSTATUS:CANCELLED\nDTSTART:20261103\nRRULE:FREQ=DAILY;COUNT=3\nEND:VEVENT"));
        Assert.Equal(["2026-11-03T00:00!"], Dates(Assert.Single(Of("BEGIN:VEVENT\nUID:a\nSUMMARY:x\nSTATUS:CANCELLED\nDTSTART:20261103\nEND:VEVENT"))));
    }

    [Fact]
    public void A_zone_of_the_file_alone_becomes_one_with_the_same_clock()
    {
        const string Zone = """
            BEGIN:VTIMEZONE
            TZID:Harbour time
            BEGIN:STANDARD
            DTSTART:20061105T020000
            RRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=1SU
            TZOFFSETFROM:-0300
            TZOFFSETTO:-0400
            END:STANDARD
            BEGIN:DAYLIGHT
            DTSTART:20070311T020000
            RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=2SU
            TZOFFSETFROM:-0400
            TZOFFSETTO:-0300
            END:DAYLIGHT
            END:VTIMEZONE

            """;
        var e = Assert.Single(Of(Zone + "BEGIN:VEVENT\nUID:a\nSUMMARY:x\nDTSTART;TZID=Harbour time:20261103T093000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT"));
        Assert.Equal(("America/Halifax", "2026-11-03T09:30"), (e.State.Timing.Zone!.Id, $"{e.State.Timing.Start:uuuu-MM-dd'T'HH:mm}"));
    }

    [Fact]
    public void Our_own_feed_and_its_json_say_the_same()
    {
        var events = new[]
        {
            Event(Timed("2026-11-03 09:30", "2026-11-03 11:00"), title: "Rigging; test, \\ one"),
            Event(AllDay("2026-11-05", "2026-11-06"), title: "Open days"),
        };
        var text = CalendarReader.Read(Ics.Of(events).Bytes, Halifax);
        var json = CalendarReader.Read(Ics.JsonOf(events), Halifax);
        Assert.Equal(text.Events.Select(e => (e.Uid, e.Title, e.Timing)), json.Events.Select(e => (e.Uid, e.Title, e.Timing)));
    }
}
