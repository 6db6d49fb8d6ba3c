using System.Text;
using System.Text.Json.Nodes;
using System.Xml.Linq;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Demo;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

/// <summary>The same calendar as JSON, as taken times, as news, as one date; feeds that leave something out.</summary>
public class OtherFormsTests
{
    private static readonly DemoSchool School = new(Day("2026-11-23"));

    private static Projection Of(params Event[] events) => Of(Settings, events);

    private static PublicationSettings Settings(Calendar calendar) => Sample.Settings(calendar);

    private static Projection Of(Func<Calendar, PublicationSettings> settings, params Event[] events)
    {
        var calendar = Calendar() with { Id = events[0].CalendarId };
        return Projection.Of(Core.Publishing.Publication.New(Guid.NewGuid(), "k", settings(calendar), Now), Halifax, [calendar], events.Select(e => e with { CalendarId = calendar.Id }), Now);
    }

    private static JsonArray Component(JsonNode jcal, string name) => jcal[2]!.AsArray().Select(c => c!.AsArray()).First(c => c[0]!.GetValue<string>() == name);

    private static JsonArray Property(JsonArray component, string name) => component[1]!.AsArray().Select(p => p!.AsArray()).Single(p => p[0]!.GetValue<string>() == name);

    [Fact]
    public void A_calendar_as_json_says_what_the_file_says()
    {
        var e = Event(Timed("2026-09-03 09:00", "2026-09-03 10:30"), "FREQ=WEEKLY;BYDAY=TU,TH;UNTIL=20261001T120000Z", "Knots, \"bends\"; more") with { Place = "Loft 2\\3" };
        var jcal = JsonNode.Parse(JCal.Write(Ics.Head, Of(e)))!;
        Assert.Equal("vcalendar", jcal[0]!.GetValue<string>());
        var shown = Component(jcal, "vevent");
        Assert.Equal("""["dtstart",{"tzid":"America/Halifax"},"date-time","2026-09-03T09:00:00"]""", Property(shown, "dtstart").ToJsonString());
        Assert.Equal("Knots, \"bends\"; more", Property(shown, "summary")[3]!.GetValue<string>());
        Assert.Equal("Loft 2\\3", Property(shown, "location")[3]!.GetValue<string>());
        Assert.Equal("""["sequence",{},"integer",0]""", Property(shown, "sequence").ToJsonString());
        var rule = Property(shown, "rrule")[3]!;
        Assert.Equal(("WEEKLY", "TU,TH"), (rule["freq"]!.GetValue<string>(), string.Join(',', rule["byday"]!.AsArray().Select(d => d!.GetValue<string>()))));
        Assert.Equal("2026-10-01T12:00:00Z", rule["until"]!.GetValue<string>());
        var standard = Component(jcal, "vtimezone")[2]!.AsArray()[0]!.AsArray();
        Assert.Matches("^[+-][0-9]{2}:[0-9]{2}$", Property(standard, "tzoffsetto")[3]!.GetValue<string>());
        Assert.Equal("""["refresh-interval",{},"duration","PT1H"]""", jcal[1]!.AsArray().Select(p => p!.ToJsonString()).Single(p => p.Contains("refresh-interval", StringComparison.Ordinal)));
    }

    [Fact]
    public void Skips_all_days_files_and_places_have_their_own_types()
    {
        var e = Event(AllDay("2026-09-03"), "FREQ=DAILY;COUNT=5").Skip(At("2026-09-04 00:00"), Now).Skip(At("2026-09-05 00:00"), Now);
        var jcal = JsonNode.Parse(JCal.Write(Ics.Head, Of(e with
        {
            Facts = new EventFacts { Reminder = 30, Files = [new EventFile(Guid.NewGuid(), Guid.NewGuid(), "a \"b\".pdf", "application/pdf", 5)] },
        })))!;
        var shown = Component(jcal, "vevent");
        Assert.Equal("""["exdate",{},"date","2026-09-04","2026-09-05"]""", Property(shown, "exdate").ToJsonString());
        Assert.Equal("""{"freq":"DAILY","count":5}""", Property(shown, "rrule")[3]!.ToJsonString());
        Assert.Equal("a \"b\".pdf", Property(shown, "attach")[1]!["filename"]!.GetValue<string>());
        Assert.Equal("duration", Property(shown[2]!.AsArray()[0]!.AsArray(), "trigger")[2]!.GetValue<string>());
    }

    [Fact]
    public void Every_line_of_the_school_is_there_in_json_too()
    {
        foreach (var publication in School.Publications)
        {
            var projection = Projection.Of(publication, DemoSchool.Zone, School.Calendars, School.Events, Now, School.Lists);
            var feed = Ics.Of(projection);
            static int Properties(JsonArray component) => component[1]!.AsArray().Count + component[2]!.AsArray().Sum(c => Properties(c!.AsArray()));
            Assert.Equal(feed.Lines.Count(l => !l.StartsWith("BEGIN:", StringComparison.Ordinal) && !l.StartsWith("END:", StringComparison.Ordinal)), Properties(JsonNode.Parse(JCal.Write(Ics.Head, projection))!.AsArray()));
        }
    }

    [Fact]
    public void Taken_times_are_joined_and_say_nothing_else()
    {
        var a = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00"), title: "Secret one");
        Event At(string from, string to, Func<Event, Event>? change = null) => (change ?? (e => e))(Event(Timed(from, to), title: "Secret two"));
        var projection = Of(
            a,
            At("2026-09-03 10:00", "2026-09-03 11:00"),
            At("2026-09-03 10:30", "2026-09-03 12:00"),
            At("2026-09-04 09:00", "2026-09-04 10:00", e => e.CallOff(Sample.At("2026-09-04 09:00"), true, Now)),
            At("2026-09-05 09:00", "2026-09-05 10:00", e => e with { Facts = new EventFacts { IsFree = true } }),
            At("2026-09-06 09:00", "2026-09-06 09:00"),
            Event(AllDay("2026-09-07")),
            At("2026-08-31 23:00", "2026-09-01 02:00"));
        var feed = new Ics(BusyWriter.Write(Ics.Head, projection, Day("2026-09-01")));
        // What began the day before is taken from where the file begins.
        Assert.Equal(["FREEBUSY;FBTYPE=BUSY:20260901T030000Z/20260901T050000Z", "FREEBUSY;FBTYPE=BUSY:20260903T120000Z/20260903T150000Z"], feed.Lines.Where(l => l.StartsWith("FREEBUSY", StringComparison.Ordinal)));
        Assert.DoesNotContain("Secret", Encoding.UTF8.GetString(feed.Bytes));
        Assert.Equal("DTSTART:20260901T030000Z", feed.Line("DTSTART"));
    }

    [Fact]
    public void Taken_times_are_those_that_are_taken_whatever_the_events()
    {
        var random = new Random(20261129);
        for (var run = 0; run < 200; run++)
        {
            var events = Enumerable.Range(0, random.Next(1, 9)).Select(_ =>
            {
                var start = Sample.At("2026-10-28 00:00").PlusMinutes(random.Next(0, 8 * 96) * 15);
                return Event(EventTiming.Zoned(start, start.PlusMinutes(random.Next(1, 20) * 15), Halifax), random.Next(3) == 0 ? "FREQ=DAILY;COUNT=3" : null);
            }).ToArray();
            var projection = Of(events);
            var taken = BusyWriter.Taken(projection, new TimeWindow(Day("2026-10-20"), Day("2026-12-01"), Halifax));
            Assert.All(taken.Zip(taken.Skip(1)), p => Assert.True(p.First.To < p.Second.From));
            var dates = projection.In(new TimeWindow(Day("2026-10-20"), Day("2026-12-01"), Halifax)).Select(d => d.InstantsIn(Halifax)).ToList();
            for (var at = Instant.FromUtc(2026, 10, 28, 0, 7); at < Instant.FromUtc(2026, 11, 9, 0, 0); at += Duration.FromMinutes(45))
                Assert.Equal(dates.Any(d => d.From <= at && at < d.To), taken.Any(t => t.From <= at && at < t.To));
        }
    }

    [Fact]
    public void News_of_dates_are_well_formed_and_link_to_their_pages()
    {
        var series = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00"), "FREQ=WEEKLY;COUNT=3", "Bends & <knots>\u0007").CallOff(At("2026-09-10 09:00"), true, Now);
        var projection = Of(series);
        var lines = OtherForms.Lines(projection, Day("2026-09-01"), "Taken");
        Assert.Equal(["2026-09-03T09:00:00-03:00", "2026-09-10T09:00:00-03:00", "2026-09-17T09:00:00-03:00"], lines.Select(l => l.Start));
        Assert.Equal([false, true, false], lines.Select(l => l.IsCalledOff));
        XNamespace atom = "http://www.w3.org/2005/Atom";
        var feed = XDocument.Parse(Encoding.UTF8.GetString(OtherForms.Atom(Ics.Head, projection, lines, "Lanternfell", "called off"))).Root!;
        Assert.Equal(3, feed.Elements(atom + "entry").Count());
        Assert.NotNull(feed.Element(atom + "updated"));
        Assert.Equal("Lanternfell", feed.Element(atom + "author")!.Element(atom + "name")!.Value);
        var second = feed.Elements(atom + "entry").ElementAt(1);
        Assert.EndsWith("(called off)", second.Element(atom + "title")!.Value);
        Assert.Contains("Bends & <knots>", second.Element(atom + "title")!.Value);
        Assert.StartsWith("https://a.example/p/k/e/", second.Element(atom + "id")!.Value);
        Assert.Equal(3, feed.Elements(atom + "entry").Select(e => e.Element(atom + "id")!.Value).Distinct().Count());
    }

    [Fact]
    public void A_date_is_found_by_its_name_wherever_it_was_moved()
    {
        var series = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00"), "FREQ=WEEKLY;COUNT=4", "Knots");
        series = series with { Changes = [new EventChange { Date = At("2026-09-10 09:00"), Timing = Timed("2026-11-20 18:00", "2026-11-20 19:00"), Title = "Knots by night", At = Now }] };
        var projection = Of(series);
        var all = projection.In(new TimeWindow(Day("2026-09-01"), Day("2026-12-31"), Halifax));
        Assert.Equal(4, all.Count);
        Assert.All(all, date => Assert.Equal(date, projection.Find(date.Key)));
        Assert.Equal("Knots by night", projection.Find($"{series.Uid}-20260910T0900")!.Title);
        foreach (var none in new[] { "", "-", "x", series.Uid, $"{series.Uid}-20260911T0900", $"{series.Uid}-20260910", "other-20260910T0900", $"{series.Uid}-00010101T0000", $"{series.Uid}-99991231T2359" })
            Assert.Null(projection.Find(none));
        // Of what shows its times only there is nothing to tell.
        var calendar = Calendar(new ReachTable(Detail.Everything, Detail.TimesOnly, Detail.TimesOnly)) with { Id = series.CalendarId };
        var times = Projection.Of(Publication(calendar), Halifax, [calendar], [series], Now);
        Assert.Equal(4, times.In(new TimeWindow(Day("2026-09-01"), Day("2026-12-31"), Halifax)).Count);
        Assert.All(times.In(new TimeWindow(Day("2026-09-01"), Day("2026-12-31"), Halifax)), date => Assert.Null(times.Find(date.Key)));
    }

    [Fact]
    public void One_date_is_a_file_of_its_own()
    {
        var series = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00"), "FREQ=WEEKLY;COUNT=4", "Knots").Skip(At("2026-09-17 09:00"), Now);
        series = series with { Changes = [new EventChange { Date = At("2026-09-10 09:00"), Place = "Slip 3" }] };
        var projection = Of(series);
        var date = projection.Find($"{series.Uid}-20260910T0900")!;
        var file = new Ics(FeedWriter.WriteOne(Ics.Head with { AsOf = Now }, projection, date));
        Assert.Single(file.Lines, "BEGIN:VEVENT");
        Assert.Equal($"UID:{date.Key}", file.Line("UID"));
        Assert.Equal("LOCATION:Slip 3", file.Line("LOCATION"));
        Assert.Contains("DTSTART;TZID=America/Halifax:20260910T090000", file.Lines);
        foreach (var none in new[] { "RRULE:FREQ=WEEKLY", "EXDATE", "RECURRENCE-ID", "SOURCE", "REFRESH-INTERVAL", "X-PUBLISHED-TTL" })
            Assert.DoesNotContain(file.Lines, l => l.StartsWith(none, StringComparison.Ordinal));
    }

    [Fact]
    public void A_snapshot_says_when_it_was_taken_and_asks_nobody_to_come_again()
    {
        var projection = Of(Event(Timed("2026-09-03 09:00", "2026-09-03 10:00")));
        var live = Ics.Of(projection);
        var snapshot = Ics.Of(projection, Ics.Head with { AsOf = Now });
        Assert.Contains("LAST-MODIFIED:20260901T120000Z", snapshot.Lines);
        Assert.False(snapshot.Has("REFRESH-INTERVAL") || snapshot.Has("SOURCE"));
        Assert.True(live.Has("REFRESH-INTERVAL") && live.Has("SOURCE"));
    }

    [Fact]
    public void A_feed_leaves_out_what_it_shall()
    {
        var full = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00")) with
        {
            Facts = new EventFacts
            {
                Subtitle = "Of ropes",
                Tags = ["rope"],
                Reminder = 10,
                Picture = new EventPicture(Guid.NewGuid(), "A rope"),
                Files = [new EventFile(Guid.NewGuid(), Guid.NewGuid(), "a.pdf", "application/pdf", 5)],
                Links = [new EventLink(LinkKind.More, "https://a.example/more", "More")],
            },
        };
        var all = Ics.Of(Of(full));
        foreach (var (field, name) in new[] { (FeedField.Place, "LOCATION"), (FeedField.Files, "ATTACH"), (FeedField.Pictures, "IMAGE"), (FeedField.Categories, "CATEGORIES"), (FeedField.Links, "URL"), (FeedField.Reminders, "TRIGGER") })
        {
            var less = Ics.Of(Of(full), Ics.Head with { Choices = new PublicationChoices { LeftOut = [field] }.Checked() });
            var before = all.Lines.Count(l => l.StartsWith(name, StringComparison.Ordinal));
            var after = less.Lines.Count(l => l.StartsWith(name, StringComparison.Ordinal));
            // The calendar's own address stays.
            Assert.Equal((before - 1, true), (after, before > 0));
        }
        string Body(params FeedField[] left) => string.Join("|", Ics.Of(Of(full), Ics.Head with { Choices = new PublicationChoices { LeftOut = [.. left] } }).Lines.Where(l => l.StartsWith("DESCRIPTION", StringComparison.Ordinal)));
        Assert.Contains("Of ropes", Body());
        Assert.Contains("https://a.example/more", Body());
        Assert.DoesNotContain("knife", Body(FeedField.Description));
        Assert.Contains("https://a.example/more", Body(FeedField.Description));
        Assert.DoesNotContain("https://a.example/more", Body(FeedField.Links));
    }

    [Fact]
    public void A_calendar_can_have_another_mark_in_a_publication()
    {
        var e = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00"));
        Assert.Equal(3, Of(e).Calendars[0].Mark);
        Assert.Equal(9, Of(c => Settings(c) with { Choices = new PublicationChoices { Calendars = [new CalendarChoice(c.Id, Mark: 9)] } }, e).Calendars[0].Mark);
    }

    [Fact]
    public void Dates_are_marked_as_new_moved_or_called_off_while_it_is_news()
    {
        var (old, since) = (Now - Duration.FromDays(30), Now - Duration.FromDays(7));
        var still = Event(Timed("2026-09-03 09:00", "2026-09-03 10:00"), "FREQ=WEEKLY;COUNT=4") with { CreatedAt = old, TimedAt = old };
        DateNews[] News(Event e) => [.. Of(e).In(new TimeWindow(Day("2026-09-01"), Day("2026-10-01"), Halifax)).Select(d => d.NewsSince(since))];
        Assert.Equal([DateNews.None, DateNews.None, DateNews.None, DateNews.None], News(still));
        Assert.All(News(still with { CreatedAt = Now }), n => Assert.Equal(DateNews.New, n));
        Assert.All(News(still with { TimedAt = Now }), n => Assert.Equal(DateNews.Moved, n));
        EventChange Moved(Instant at) => new() { Date = At("2026-09-10 09:00"), Timing = Timed("2026-09-11 09:00", "2026-09-11 10:00"), At = at };
        Assert.Equal([DateNews.None, DateNews.Moved, DateNews.None, DateNews.None], News(still with { Changes = [Moved(Now)] }));
        Assert.Equal([DateNews.None, DateNews.None, DateNews.None, DateNews.None], News(still with { Changes = [Moved(old)] }));
        Assert.Equal([DateNews.None, DateNews.None, DateNews.CalledOff, DateNews.None], News(still.CallOff(At("2026-09-17 09:00"), true, Now)));
        Assert.Equal([DateNews.None, DateNews.None, DateNews.None, DateNews.None], News(still.CallOff(At("2026-09-17 09:00"), true, old)));
    }

    [Theory]
    [InlineData(null, ReaderKind.Unknown, "")]
    [InlineData("  ", ReaderKind.Unknown, "")]
    [InlineData("HarbourCal/3.1 (Android 14; Mobile)", ReaderKind.PhoneProgram, "HarbourCal")]
    [InlineData("PlannerD/12 iOS/19.1", ReaderKind.PhoneProgram, "PlannerD")]
    [InlineData("DeskDiary/8.0 (Linux)", ReaderKind.Program, "DeskDiary")]
    [InlineData("Quay-Calendar-Server/1.0", ReaderKind.Service, "Quay-Calendar-Server")]
    [InlineData("Mozilla/5.0 (compatible; Tide-Import; +https://tide.example)", ReaderKind.Service, "Tide-Import")]
    [InlineData("python-requests/2.31", ReaderKind.Service, "python-requests")]
    [InlineData("Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Version/1", ReaderKind.Browser, "")]
    [InlineData("Mozilla/5.0 (Linux; Android 14) AppleWebKit/537.36 Mobile Version/1", ReaderKind.PhoneBrowser, "")]
    [InlineData("Mozilla/5.0 (compatible; gullbot/2.1; +https://gull.example)", ReaderKind.Robot, "gullbot")]
    [InlineData("LinkPreview/1.0", ReaderKind.Robot, "LinkPreview")]
    [InlineData("<script>/1", ReaderKind.Unknown, "script")]
    [InlineData("Thing/2 (Mobile)", ReaderKind.Unknown, "Thing")]
    public void A_program_is_known_by_what_it_says_of_itself(string? agent, ReaderKind kind, string family) =>
        Assert.Equal(new ReaderFamily(kind, family), ReaderFamily.Of(agent));

    [Fact]
    public void A_program_with_a_long_name_does_not_fill_the_log() =>
        Assert.Equal(ReaderFamily.MaxFamily, ReaderFamily.Of(new string('a', 5_000)).Family.Length);
}
