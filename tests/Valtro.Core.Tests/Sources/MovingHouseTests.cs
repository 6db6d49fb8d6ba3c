using System.Text;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.SchoolYears;
using Valtro.Core.Sources;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Sources;

/// <summary>A calendar taken out, brought into an empty school and taken out again is the same file.</summary>
public class MovingHouseTests
{
    private static readonly string[] Rules = ["FREQ=DAILY;COUNT=9", "FREQ=WEEKLY;BYDAY=MO,TH;UNTIL=20270901", "FREQ=MONTHLY;BYDAY=-1FR;COUNT=7", "FREQ=YEARLY;COUNT=3", "FREQ=WEEKLY;INTERVAL=2;WKST=SU;BYDAY=SU,TU;COUNT=12", "FREQ=WEEKLY"];
    private static readonly string[] Words = ["Knots", "Tide table", "Fête, à l'école; \\ \"oui\"", "🪢 Ropes", "Line\none"];

    public static IEnumerable<TheoryDataRow<int>> Seeds() => Enumerable.Range(0, 120).Select(i => new TheoryDataRow<int>(i));

    private static Event Random(Random random, int number)
    {
        string Word() => Words[random.Next(Words.Length)].Replace('\n', ' ');
        var day = Day("2026-09-01").PlusDays(random.Next(200));
        var zone = random.Next(4) switch { 0 => Halifax, 1 => Zones.Get("Europe/Oslo"), 2 => Zones.Get("UTC"), _ => Zones.Get("Australia/Lord_Howe") };
        var start = day.At(new LocalTime(random.Next(24), random.Next(4) * 15));
        var timing = random.Next(3) switch
        {
            0 => EventTiming.AllDay(day, day.PlusDays(random.Next(3))),
            1 => EventTiming.Floating(start, start.PlusMinutes(random.Next(200))),
            _ => EventTiming.Zoned(start, start.PlusMinutes(random.Next(600)), zone),
        };
        var facts = new EventFacts
        {
            Subtitle = random.Next(3) == 0 ? Word() : "",
            Tags = random.Next(3) == 0 ? ["knots", "late"] : [],
            Mark = random.Next(4) == 0 ? 5 : null,
            Size = random.Next(4) == 0 ? 30 : null,
            IsDraft = random.Next(5) == 0,
            IsFree = random.Next(4) == 0,
            Reminder = random.Next(3) == 0 ? random.Next(3) * 60 : null,
            Links = random.Next(2) == 0 ? [] : [new EventLink(LinkKind.Video, "By video", "https://meet.example/7"), new EventLink(LinkKind.Tickets, "", "https://lanternfell.example/t")],
        };
        var description = random.Next(3) switch { 0 => "", 1 => Word(), _ => "<p>Bring <strong>two</strong> ropes</p><ul><li>a knife</li></ul>" };
        var rule = random.Next(2) == 0 ? null : Rule(Rules[random.Next(Rules.Length)], timing.Zone);
        var e = Core.Events.Event.Create(new Guid(number, 0, 0, new byte[8]), Guid.Empty, new EventDraft(Word(), random.Next(2) == 0 ? "" : "Loft 2", description, timing, rule, Facts: facts), Now);
        var dates = e.All.In(new TimeWindow(Day("2026-08-01"), Day("2027-06-01"), Halifax)).Select(d => d.Date).Distinct().ToList();
        foreach (var date in dates.Where(_ => random.Next(4) == 0).Take(4))
        {
            var added = date.PlusDays(3).PlusMinutes(timing.Kind == TimeKind.AllDay ? 0 : 7);
            e = (e.Rule is null, random.Next(4)) switch
            {
                (true, _) => e.CallOff(date, true, Now),
                (_, 0) when dates.Count > 5 => e.Skip(date, Now),
                (_, 1) when !e.Dates.Makes(added) => e.AddDate(added, Now),
                (_, 2) => SeriesEditor.Plan(e, new SeriesEdit(EditScope.ThisDate, date, SeriesEditor.DraftOf(e, date) with { Title = "Moved " + Word(), Place = random.Next(2) == 0 ? "" : "Slip 1", Description = random.Next(2) == 0 ? description : "<p>Other <em>text</em></p>", Facts = Other(random, e.Facts), Timing = e.Timing.At(timing.Kind == TimeKind.AllDay ? date.PlusDays(1) : date.PlusMinutes(90)) }, Guid.Empty), new Dictionary<LocalDateTime, MisfitChoice>(), Now, Guid.NewGuid).After,
                _ => e.CallOff(date, true, Now),
            };
        }
        return e with { CreatedAt = Now - Duration.FromDays(random.Next(90)), RelatedTo = random.Next(6) == 0 ? "another@school" : null };
    }

    private static EventFacts Other(Random random, EventFacts facts) => facts with
    {
        Subtitle = random.Next(2) == 0 ? facts.Subtitle : "Only this once",
        Tags = random.Next(2) == 0 ? facts.Tags : [.. facts.Tags.Skip(1), "once"],
        Links = random.Next(2) == 0 ? facts.Links : [.. facts.Links.Skip(1), new EventLink(LinkKind.More, "Worksheet", "https://lanternfell.example/sheet")],
    };

    private static byte[] TakenOut(IEnumerable<Event> events) => FeedWriter.WriteKept("Rigging 2", "For the class", Halifax, events.Select(e => e.Seen()));

    [Theory]
    [MemberData(nameof(Seeds))]
    public void The_file_is_the_same(int seed)
    {
        var random = new Random(seed);
        var first = TakenOut(Enumerable.Range(1, 6).Select(i => Random(random, i)).ToList());
        var read = SourceFile.Read(first, new TableContext(Halifax, Day("2026-09-01")));
        var number = 0;
        var rows = Intake.Plan(
            SourceEvent.Of(read.Calendar.Events, Halifax), [], new Dictionary<Guid, Event>(), new IntakeWish { CalendarOf = _ => Guid.Empty, Zone = Halifax }, Now + Duration.FromDays(200), SchoolDays.None, () => new Guid(++number, 1, 1, new byte[8]), e => e.Key);
        Assert.All(rows, r => Assert.Equal((IntakeKind.New, ""), (r.Kind, string.Join(' ', r.Notes.Select(n => n.Code)))));
        Assert.Equal(Encoding.UTF8.GetString(first), Encoding.UTF8.GetString(TakenOut(rows.Select(r => r.After!))));
    }

    [Fact]
    public void A_file_that_only_looks_like_ours_is_read_as_any_other()
    {
        var e = Assert.Single(SourceEvent.Of(OddFilesTests.Read("BEGIN:VEVENT\nUID:a\nSUMMARY:x\nDTSTART:20261103\nX-VALTRO-KEPT:{\"form\":99\\,\"isDraft\":true}\nEND:VEVENT").Events, Halifax));
        Assert.False(e.State.Facts.IsDraft);
        var other = Assert.Single(SourceEvent.Of(OddFilesTests.Read("BEGIN:VEVENT\nUID:a\nSUMMARY:x\nDTSTART:20261103\nX-VALTRO-KEPT:{\"form\":1\\,\"mark\":99\\,\"size\":-4\\,\"links\":[{\"kind\":\"more\"\\,\"address\":\"javascript:x\"}]\\,\"description\":\"<p>x<script>y</script></p>\"}\nEND:VEVENT").Events, Halifax));
        Assert.Equal((null, null, 0, "<p>x</p>"), (other.State.Facts.Mark, other.State.Facts.Size, other.State.Facts.Links.Length, other.State.Description));
    }
}
