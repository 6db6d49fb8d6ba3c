using System.Text;
using Valtro.Core.Sources;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Sources;

/// <summary>Calendar files as they are found: what is expected of each is worked out by hand from the standard.</summary>
public class OddFilesTests
{
    private static readonly string[] Ends = ["\r\n", "\n", "\r"];

    internal static ReadCalendar Read(string body, DateTimeZone? zone = null) => CalendarReader.Read(Encoding.UTF8.GetBytes($"BEGIN:VCALENDAR\r\n{body.Trim()}\r\nEND:VCALENDAR\r\n"), zone ?? Halifax);

    private static string Starts(ReadEvent e, string from = "2026-08-01", string to = "2027-08-01") => string.Join(' ', e.Dates(Day(from), Day(to)).Select(d =>
        (e.Timing.Kind, d.Timing.Start) switch
        {
            (TimeKind.AllDay, var s) => $"{s:MMdd}",
            (TimeKind.Zoned, var s) => $"{Zones.ToInstant(s, d.Timing.Zone!).InUtc().LocalDateTime:MMdd'T'HHmm}Z",
            (_, var s) => $"{s:MMdd'T'HHmm}",
        } + (d.IsCalledOff ? "!" : "")));

    // An event alone: its lines, where it stands, and what is noted.
    [Theory]
    // Kinds of time.
    [InlineData("DTSTART:20261103T093000Z", "1103T0930Z", "")]
    [InlineData("DTSTART:20261103T093000", "1103T0930", "")]
    [InlineData("DTSTART;TZID=America/Halifax:20261103T093000", "1103T1330Z", "")]
    [InlineData("DTSTART;TZID=\"America/Halifax\":20261103T093000", "1103T1330Z", "")]
    [InlineData("DTSTART;TZID=america/halifax:20261103T093000", "1103T1330Z", "")]
    [InlineData("DTSTART;TZID=/vendor.example/20240101/America/Halifax:20261103T093000", "1103T1330Z", "")]
    [InlineData("DTSTART;TZID=Atlantic Standard Time:20261103T093000", "1103T1330Z", "")]
    [InlineData("DTSTART;TZID=Nowhere/At-All:20261103T093000", "1103T1330Z", "zone_unknown")]
    [InlineData("DTSTART;VALUE=DATE:20261103", "1103", "")]
    [InlineData("DTSTART:20261103", "1103", "")]
    [InlineData("DTSTART;VALUE=DATE:20261103T000000", "1103", "")]
    [InlineData("DTSTART:2026-11-03T09:30:00Z", "1103T0930Z", "")]
    [InlineData("DTSTART:20261103T0930", "1103T0930", "")]
    [InlineData("DTSTART:20261103T240000", "1104T0000", "")]
    [InlineData("DTSTART:20261103T093060Z", "1103T0930Z", "")]
    [InlineData("dtstart;value=date:20261103", "1103", "")]
    // Ends.
    [InlineData("DTSTART;TZID=America/Halifax:20261103T093000\nDTEND;TZID=America/Halifax:20261103T083000", "1103T1330Z", "end_before_start")]
    [InlineData("DTSTART;TZID=America/Halifax:20261103T000000\nDTEND;TZID=America/Halifax:20261105T000000", "1103", "whole_days")]
    [InlineData("DTSTART;VALUE=DATE:20261103\nDTEND;VALUE=DATE:20261103", "1103", "")]
    [InlineData("DTSTART;VALUE=DATE:20261103\nDTEND;VALUE=DATE:20261101", "1103", "end_before_start")]
    [InlineData("DTSTART:20261103T093000Z\nDTEND;VALUE=DATE:20261104", "1103T0930Z", "end_of_other_kind")]
    [InlineData("DTSTART:20261103T093000Z\nDTEND:tomorrow", "1103T0930Z", "end_unreadable")]
    [InlineData("DTSTART:20261103T093000Z\nDTEND:20291103T093000Z", "1103T0930Z", "too_long")]
    // Rules.
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;COUNT=3", "1103T0930 1110T0930 1117T0930", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:freq=weekly;count=2;byday=tu", "1103T0930 1110T0930", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;UNTIL=20261110", "1103T0930 1110T0930", "")]
    [InlineData("DTSTART;VALUE=DATE:20261103\nRRULE:FREQ=WEEKLY;UNTIL=20261110T235959Z", "1103 1110", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;UNTIL=20261110T093000;COUNT=9", "1103T0930 1110T0930", "count_and_until")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;UNTIL=20271110T093000;COUNT=2", "1103T0930 1110T0930", "count_and_until")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;UNTIL=soon;COUNT=2", "1103T0930 1110T0930", "until_unreadable")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;COUNT=2;X-MOON=FULL", "1103T0930 1110T0930", "rule_part_unknown")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;INTERVAL=0;COUNT=2;", "1103T0930 1110T0930", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=SOMETIMES", "1103T0930", "rule_unreadable")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=SECONDLY", "1103T0930", "rule_too_dense")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;BYDAY=TH;COUNT=2", "1103T0930 1105T0930 1112T0930", "start_out_of_step")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=WEEKLY;COUNT=2\nRRULE:FREQ=MONTHLY;COUNT=2", "1103T0930 1110T0930 1203T0930", "several_rules")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=YEARLY;BYMONTHDAY=30;BYMONTH=2", "1103T0930", "rule_without_dates")]
    // The clocks go forward on 14 March 2027 at 2:00: half past two is half past three, 6:30 in UTC, which is after the end.
    [InlineData("DTSTART;TZID=America/Halifax:20270313T023000\nRRULE:FREQ=DAILY;UNTIL=20270314T061500Z", "0313T0630Z", "")]
    [InlineData("DTSTART;TZID=America/Halifax:20270313T023000\nRRULE:FREQ=DAILY;UNTIL=20270314T063000Z", "0313T0630Z 0314T0630Z", "")]
    // Added and left out.
    [InlineData("DTSTART:20261103T093000\nRDATE:20261105T100000,20261104T100000", "1103T0930 1104T1000 1105T1000", "")]
    [InlineData("DTSTART:20261103T093000\nRDATE;VALUE=DATE:20261105", "1103T0930 1105T0930", "")]
    [InlineData("DTSTART:20261103T093000\nRDATE;VALUE=PERIOD:20261105T100000/PT2H", "1103T0930 1105T1000", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=DAILY;COUNT=3\nEXDATE:20261104T093000", "1103T0930 1105T0930", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=DAILY;COUNT=3\nEXDATE;VALUE=DATE:20261104", "1103T0930 1105T0930", "")]
    [InlineData("DTSTART;TZID=America/Halifax:20261103T093000\nRRULE:FREQ=DAILY;COUNT=3\nEXDATE:20261104T133000Z", "1103T1330Z 1105T1330Z", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=DAILY;COUNT=3\nEXDATE:20261104T093000,20261103T093000", "1105T0930", "")]
    [InlineData("DTSTART:20261103T093000\nRRULE:FREQ=DAILY;COUNT=4\nEXRULE:FREQ=DAILY;INTERVAL=2;COUNT=2", "1104T0930 1106T0930", "leaving_rule")]
    // What becomes of it.
    [InlineData("DTSTART:20261103T093000\nSTATUS:CANCELLED", "1103T0930!", "")]
    [InlineData("DTSTART:20261103T093000\nATTENDEE:mailto:a@b.example", "1103T0930", "people_left")]
    [InlineData("DTSTART:20261103T093000\nBEGIN:VALARM\nTRIGGER:-PT5M\nEND:VALARM", "1103T0930", "")]
    [InlineData("DTSTART:20261103T093000\nBEGIN:VALARM\nTRIGGER;VALUE=DATE-TIME:20261103T080000Z\nEND:VALARM", "1103T0930", "reminder_left")]
    public void An_event_stands_where_its_lines_say(string lines, string starts, string notes)
    {
        var read = Read($"BEGIN:VEVENT\nUID:1\nSUMMARY:Row\n{lines}\nEND:VEVENT");
        var e = Assert.Single(read.Events);
        Assert.Equal(starts, Starts(e));
        Assert.Equal(notes, string.Join(' ', e.Notes.Select(n => n.Code)));
        Assert.All(e.Notes, n => Assert.EndsWith(".", n.Message));
    }

    private const string Weekly = "BEGIN:VEVENT\nUID:w\nSUMMARY:Row\nDTSTART;TZID=America/Halifax:20261103T093000\nDTEND;TZID=America/Halifax:20261103T103000\nRRULE:FREQ=WEEKLY;COUNT=4\nEND:VEVENT\n";

    private static string Change(string lines, string uid = "w") => $"BEGIN:VEVENT\nUID:{uid}\n{lines}\nEND:VEVENT\n";

    // A series of Tuesdays at half past nine, 13:30 in UTC, with changes.
    [Theory]
    [InlineData("RECURRENCE-ID;TZID=America/Halifax:20261110T093000\nDTSTART;TZID=America/Halifax:20261111T140000", "1103T1330Z 1111T1800Z 1117T1330Z 1124T1330Z", "")]
    [InlineData("RECURRENCE-ID:20261110T133000Z\nDTSTART:20261111T140000Z", "1103T1330Z 1111T1400Z 1117T1330Z 1124T1330Z", "")]
    [InlineData("RECURRENCE-ID;VALUE=DATE:20261110\nDTSTART;TZID=America/Halifax:20261111T140000", "1103T1330Z 1111T1800Z 1117T1330Z 1124T1330Z", "")]
    [InlineData("RECURRENCE-ID;TZID=America/Halifax:20261110T093000\nSTATUS:CANCELLED\nDTSTART;TZID=America/Halifax:20261110T093000", "1103T1330Z 1110T1330Z! 1117T1330Z 1124T1330Z", "")]
    [InlineData("RECURRENCE-ID;TZID=America/Halifax:20261110T093000\nSTATUS:CANCELLED", "1103T1330Z 1110T1330Z! 1117T1330Z 1124T1330Z", "")]
    [InlineData("RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=America/Halifax:20261117T093000\nDTSTART;TZID=America/Halifax:20261118T093000", "1103T1330Z 1110T1330Z 1118T1330Z 1125T1330Z", "changed_onwards")]
    [InlineData("RECURRENCE-ID;TZID=America/Halifax:20261112T093000\nDTSTART;TZID=America/Halifax:20261112T120000", "1103T1330Z 1110T1330Z 1112T1600Z 1117T1330Z 1124T1330Z", "change_without_date")]
    [InlineData("RECURRENCE-ID:never\nDTSTART;TZID=America/Halifax:20261112T120000", "1103T1330Z 1110T1330Z 1117T1330Z 1124T1330Z", "")]
    public void A_series_is_one_event_with_what_differs_on_its_dates(string lines, string starts, string notes)
    {
        foreach (var body in new[] { Weekly + Change(lines), Change(lines) + Weekly })
        {
            var e = Assert.Single(Read(body).Events);
            Assert.Equal(starts, Starts(e));
            Assert.Equal(notes, string.Join(' ', e.Notes.Select(n => n.Code)));
        }
    }

    [Fact]
    public void The_newest_of_the_same_counts()
    {
        string Said(string title, int sequence, string changed) => $"BEGIN:VEVENT\nUID:s\nSUMMARY:{title}\nSEQUENCE:{sequence}\nLAST-MODIFIED:{changed}\nDTSTART:20261103T093000Z\nEND:VEVENT\n";
        var e = Assert.Single(Read(Said("Second", 2, "20260101T000000Z") + Said("First", 1, "20260801T000000Z")).Events);
        Assert.Equal(("Second", "said_several_times"), (e.Title, Assert.Single(e.Notes).Code));
        Assert.Equal("Later", Assert.Single(Read(Said("Later", 1, "20260802T000000Z") + Said("Earlier", 1, "20260801T000000Z")).Events).Title);
        Assert.Equal("Last", Assert.Single(Read(Said("Before", 1, "20260801T000000Z") + Said("Last", 1, "20260801T000000Z")).Events).Title);
    }

    [Fact]
    public void A_change_without_its_series_stands_for_itself_and_an_event_without_a_name_gets_a_lasting_one()
    {
        var alone = Assert.Single(Read(Change("RECURRENCE-ID:20261110T133000Z\nSUMMARY:Alone\nDTSTART:20261111T140000Z")).Events);
        Assert.Equal(("1111T1400Z", "series_missing"), (Starts(alone), Assert.Single(alone.Notes).Code));
        string Nameless(string title) => Assert.Single(Read($"BEGIN:VEVENT\nSUMMARY:{title}\nDTSTART:20261103\nEND:VEVENT").Events).Uid;
        Assert.Equal(Nameless("Row"), Nameless("Row"));
        Assert.NotEqual(Nameless("Row"), Nameless("Sail"));
    }

    [Fact]
    public void What_is_due_has_a_moment_and_no_length()
    {
        var tasks = Read("BEGIN:VTODO\nUID:a\nSUMMARY:Essay\nDTSTART:20261101T090000Z\nDUE:20261210T235900Z\nEND:VTODO\nBEGIN:VTODO\nUID:b\nSUMMARY:Chart\nDUE;VALUE=DATE:20261211\nEND:VTODO\nBEGIN:VTODO\nUID:c\nSUMMARY:Some day\nEND:VTODO").Events;
        Assert.Equal(["1210T2359Z", "1211"], tasks.Select(t => Starts(t)));
        Assert.All(tasks, t => Assert.True(t.IsDue));
        Assert.Equal(Duration.Zero, tasks[0].Timing.Length);
    }

    [Fact]
    public void A_zone_nobody_knows_is_what_the_file_says_of_it()
    {
        // Half an hour beside Halifax, with its clock changes: 2:00 on the second Sunday of March and the first of November.
        const string Zone = "BEGIN:VTIMEZONE\nTZID:Harbour\nBEGIN:STANDARD\nDTSTART:20001105T020000\nRRULE:FREQ=YEARLY;BYDAY=1SU;BYMONTH=11\nTZOFFSETFROM:-0230\nTZOFFSETTO:-0330\nEND:STANDARD\n"
            + "BEGIN:DAYLIGHT\nDTSTART:20000312T020000\nRRULE:FREQ=YEARLY;BYDAY=2SU;BYMONTH=3\nTZOFFSETFROM:-0330\nTZOFFSETTO:-0230\nEND:DAYLIGHT\nEND:VTIMEZONE\n";
        var e = Assert.Single(Read("BEGIN:VEVENT\nUID:1\nSUMMARY:Row\nDTSTART;TZID=Harbour:20270313T100000\nRRULE:FREQ=DAILY;COUNT=2\nEND:VEVENT\n" + Zone).Events);
        Assert.Equal(("0313T1330Z 0314T1230Z", "zone_of_file"), (Starts(e), Assert.Single(e.Notes).Code));
        // A name that is known wins over rules that say otherwise; a place named beside the rules wins over these, too.
        Assert.Equal("0313T1400Z 0314T1300Z", Starts(Assert.Single(Read("BEGIN:VEVENT\nUID:1\nSUMMARY:Row\nDTSTART;TZID=America/Halifax:20270313T100000\nRRULE:FREQ=DAILY;COUNT=2\nEND:VEVENT\n" + Zone.Replace("TZID:Harbour", "TZID:America/Halifax")).Events)));
        Assert.Equal("0313T1400Z 0314T1300Z", Starts(Assert.Single(Read("BEGIN:VEVENT\nUID:1\nSUMMARY:Row\nDTSTART;TZID=Harbour:20270313T100000\nRRULE:FREQ=DAILY;COUNT=2\nEND:VEVENT\n" + Zone.Replace("TZID:Harbour", "TZID:Harbour\nX-LIC-LOCATION:America/Halifax")).Events)));
    }

    [Fact]
    public void Lines_are_read_however_they_end_fold_and_are_coded()
    {
        const string File = "BEGIN:VCALENDAR\nX-WR-CALNAME:Vööti\nBEGIN:VEVENT\nUID:1\nSUMMARY:Søndre brygge\\, naust\\nog båt\nLOCATION:Loft 2\nDESCRIPTION:A;B,C \\\\ D\nCATEGORIES:Row\\, sail,Knots\nDTSTART:20261103T093000Z\nEND:VEVENT\nEND:VCALENDAR";
        foreach (var end in Ends)
        {
            var text = File.Replace("\n", end, StringComparison.Ordinal);
            // Folded after every seventh byte, also within a letter.
            var bytes = Encoding.UTF8.GetBytes(text);
            var folded = new List<byte>();
            var run = 0;
            foreach (var b in bytes)
            {
                if (b is (byte)'\r' or (byte)'\n')
                {
                    run = 0;
                }
                else if (++run > 7)
                {
                    folded.AddRange(Encoding.ASCII.GetBytes(end + " "));
                    run = 1;
                }
                folded.Add(b);
            }
            foreach (var form in new[] { bytes, [.. folded], [0xEF, 0xBB, 0xBF, .. bytes], [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(text)], Encoding.Latin1.GetBytes(text) })
            {
                var read = CalendarReader.Read(form, Halifax);
                var e = Assert.Single(read.Events);
                Assert.Equal(("Vööti", "Søndre brygge, naust og båt", "A;B,C \\ D"), (read.Name, e.Title, e.Description));
                Assert.Equal(["Row, sail", "Knots"], e.Categories);
            }
        }
    }

    [Fact]
    public void What_is_broken_is_left_and_told_and_the_rest_is_read()
    {
        var read = Read("BEGIN:VEVENT\nUID:1\nSUMMARY:No start\nEND:VEVENT\nBEGIN:VEVENT\nUID:2\nDTSTART:20269903\nEND:VEVENT\nBEGIN:VJOURNAL\nEND:VJOURNAL\nnonsense\nBEGIN:VEVENT\nUID:3\nSUMMARY:Good\nDTSTART:20261103\nBEGIN:VEVENT\nUID:4\nDTSTART:20261104\nEND:VEVENT");
        // The last but one was not closed: what stands in it is not an event of the calendar, and it ends with it.
        Assert.Equal(["Good"], read.Events.Select(e => e.Title));
        Assert.Equal(["VEVENT without a readable date 2", "VJOURNAL 1", "line 1"], read.Left.Select(l => $"{l.What} {l.Count}"));
        Assert.Equal(2, CalendarReader.Read(Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:1\nDTSTART:20261103\nEND:VEVENT\nEND:VCALENDAR\nBEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:2\nDTSTART:20261103\nEND:VEVENT"), Halifax).Events.Count);
        Assert.True(Assert.Single(CalendarReader.Read(Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\nMETHOD:CANCEL\nBEGIN:VEVENT\nUID:1\nDTSTART:20261103\nEND:VEVENT\nEND:VCALENDAR"), Halifax).Events).IsCalledOff);
    }

    [Theory]
    [InlineData("", "file_empty")]
    [InlineData(" \r\n\t\r\n", "file_empty")]
    [InlineData("<!DOCTYPE html><html><p>Sign in", "web_page")]
    [InlineData("PK\u0003\u0004 something", "not_a_calendar")]
    [InlineData("Subject,Start Date\nRow,11/03/2026", "not_a_calendar")]
    public void A_file_that_is_no_calendar_is_refused_in_words(string text, string code) =>
        Assert.Equal(code, Code(() => CalendarReader.Read(Encoding.UTF8.GetBytes(text), Halifax)));

    [Fact]
    public void A_file_that_goes_too_deep_or_too_far_ends_by_a_limit()
    {
        var deep = Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\n" + string.Concat(Enumerable.Repeat("BEGIN:X\n", 100_000)));
        Assert.Equal("nested_too_deep", Code(() => CalendarReader.Read(deep, Halifax)));
        var many = Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\n" + string.Concat(Enumerable.Repeat("BEGIN:X\nEND:X\n", CalendarReader.MaxComponents + 1)));
        Assert.Equal("too_many_components", Code(() => CalendarReader.Read(many, Halifax)));
        Assert.Equal("file_too_large", Code(() => CalendarReader.Read(new byte[CalendarReader.MaxBytes + 1], Halifax)));
        var endless = string.Concat(Enumerable.Range(0, CalendarReader.MaxBadRules + 1).Select(i => $"BEGIN:VEVENT\nUID:{i}\nDTSTART:20261103T093000\nRRULE:FREQ=YEARLY;BYMONTHDAY=30;BYMONTH=2\nEND:VEVENT\n"));
        Assert.Equal("too_many_bad_rules", Code(() => Read(endless)));
        // More additions than anybody needs: the first are kept, and that is told.
        var added = Assert.Single(Read("BEGIN:VEVENT\nUID:1\nSUMMARY:Row\nDTSTART:20261103T000000\n" + string.Concat(Enumerable.Range(0, 6_000).Select(i => $"RDATE:{new LocalDateTime(2026, 11, 4, 0, 0).PlusMinutes(i):uuuuMMdd'T'HHmmss}\n")) + "END:VEVENT").Events);
        Assert.Equal((CalendarReader.MaxAdded + 1, "too_many_dates_named"), (added.Extras.Length, Assert.Single(added.Notes).Code));
        // A line of ten megabytes.
        var long1 = Read("BEGIN:VEVENT\nUID:1\nSUMMARY:" + new string('x', 10_000_000) + "\nDTSTART:20261103\nEND:VEVENT");
        Assert.Equal(10_000_000, Assert.Single(long1.Events).Title.Length);
    }

    // Whatever is done to a file: it is read, or refused with a code.
    [Fact]
    public void No_soup_of_bytes_breaks_the_reader()
    {
        var random = new Random(20261129);
        var whole = Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\r\n" + Weekly.Replace("\n", "\r\n") + Change("RECURRENCE-ID;RANGE=THISANDFUTURE:20261110T133000Z\nDTSTART:20261111T140000Z\nRDATE:20261201T100000/PT1H\nEXDATE;VALUE=DATE:20261117").Replace("\n", "\r\n") + "END:VCALENDAR\r\n");
        for (var run = 0; run < 3_000; run++)
        {
            var bytes = whole.ToList();
            for (var i = random.Next(1, 8); i > 0; i--)
            {
                var at = random.Next(bytes.Count);
                switch (random.Next(4))
                {
                    case 0:
                        bytes[at] = (byte)random.Next(256);
                        break;
                    case 1:
                        bytes.RemoveAt(at);
                        break;
                    case 2:
                        bytes.InsertRange(at, whole.Skip(random.Next(whole.Length)).Take(random.Next(40)));
                        break;
                    default:
                        bytes.RemoveRange(at, Math.Min(random.Next(60), bytes.Count - at));
                        break;
                }
                if (bytes.Count == 0)
                    bytes.Add((byte)'B');
            }
            try
            {
                foreach (var e in CalendarReader.Read([.. bytes], Halifax).Events)
                    _ = e.Dates(Day("2026-08-01"), Day("2027-08-01")).Take(5_000).Count();
            }
            catch (InvalidInputException e)
            {
                Assert.NotEmpty(e.Code);
            }
        }
    }
}
