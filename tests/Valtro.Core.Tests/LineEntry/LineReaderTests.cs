using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.LineEntry;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.LineEntry;

public class LineReaderTests
{
    private static readonly LocalDate Tuesday = Day("2026-09-01");

    private static LineReading Read(string text, string language = "en") =>
        LineReader.Read(text, new LineContext(Tuesday, Halifax, language));

    [Theory]
    [InlineData("Thursday's quiz", "Thursday's", LineDoubtKind.MayBeWhen)]
    [InlineData("Morning coffee 10", "10", LineDoubtKind.MayBeWhen)]
    [InlineData("Parents' evening in March", "in March", LineDoubtKind.LeftInTitle)]
    [InlineData("Yearly concert every March", "every March", LineDoubtKind.LeftInTitle)]
    [InlineData("Choir twice a week", "twice a week", LineDoubtKind.LeftInTitle)]
    [InlineData("JV 4:15/Varsity 6", "4:15", LineDoubtKind.LeftInTitle)]
    public void What_a_title_keeps_and_may_as_well_be_a_time_is_in_doubt(string text, string part, LineDoubtKind kind)
    {
        var doubt = Assert.Single(Read(text).Doubts, d => d.Kind == kind);
        Assert.Equal(part, text.Substring(doubt.Start, doubt.Length));
    }

    [Theory]
    [InlineData("Rigging 2 test")]
    [InlineData("Boatbuilding 1")]
    [InlineData("Room 12")]
    [InlineData("May ball")]
    [InlineData("March past rehearsal")]
    public void What_is_nothing_but_a_title_is_in_no_doubt(string text) => Assert.Empty(Read(text).Doubts);

    [Fact]
    public void A_whole_line_is_understood_part_by_part()
    {
        var read = Read("Rigging test 9:30-11 @Loft 2 every tue until 12 dec");
        Assert.Equal("Rigging test", read.Draft.Title);
        Assert.Equal("Loft 2", read.Draft.Place);
        Assert.Equal((At("2026-09-01 09:30"), At("2026-09-01 11:00")), (read.Draft.Timing.Start, read.Draft.Timing.End));
        Assert.Equal("FREQ=WEEKLY;BYDAY=TU;UNTIL=20261212", read.Draft.Rule!.ToString());
        Assert.Equal(
            [LinePartKind.Title, LinePartKind.Time, LinePartKind.Place, LinePartKind.Repeat, LinePartKind.End],
            read.Parts.Select(p => p.Kind));
    }

    [Theory]
    [InlineData("9:30-11", "09:30", "11:00")]
    [InlineData("9.30–11", "09:30", "11:00")]
    [InlineData("9:30", "09:30", "10:30")]
    [InlineData("9am", "09:00", "10:00")]
    [InlineData("12am-1am", "00:00", "01:00")]
    [InlineData("2-4pm", "14:00", "16:00")]
    [InlineData("11-2pm", "11:00", "14:00")]
    [InlineData("9h15-10h", "09:15", "10:00")]
    [InlineData("8-12", "08:00", "12:00")]
    public void Times_are_read_as_people_write_them(string text, string from, string to)
    {
        var timing = Read("Test " + text).Draft.Timing;
        Assert.Equal((from, to), (timing.Start.ToString("HH:mm", null), timing.End.ToString("HH:mm", null)));
    }

    [Fact]
    public void A_span_over_midnight_ends_on_the_next_day()
    {
        var timing = Read("Night row 21:30-0:30").Draft.Timing;
        Assert.Equal(At("2026-09-02 00:30"), timing.End);
        Assert.Equal(At("2026-09-02 00:00"), Read("Vigil 22-24").Draft.Timing.End);
    }

    [Theory]
    [InlineData("Room 4")]
    [InlineData("Class of 2027")]
    [InlineData("Unit 25:99")]
    [InlineData("Chapters 1-99")]
    [InlineData("Every body welcome")]
    [InlineData("The last times")]
    [InlineData("Until dawn")]
    [InlineData("9:")]
    [InlineData("@")]
    public void What_is_no_time_and_no_repeat_stays_in_the_title(string text)
    {
        var read = Read(text);
        Assert.Equal(text, read.Draft.Title);
        Assert.Equal(TimeKind.AllDay, read.Draft.Timing.Kind);
        Assert.Null(read.Draft.Rule);
    }

    [Theory]
    [InlineData("every day", "FREQ=DAILY")]
    [InlineData("daily", "FREQ=DAILY")]
    [InlineData("every 3 days", "FREQ=DAILY;INTERVAL=3")]
    [InlineData("every other week", "FREQ=WEEKLY;INTERVAL=2")]
    [InlineData("every tue and thu", "FREQ=WEEKLY;BYDAY=TU,TH")]
    [InlineData("every Tuesday, Thursday", "FREQ=WEEKLY;BYDAY=TU,TH")]
    [InlineData("every tue/thu 8 times", "FREQ=WEEKLY;BYDAY=TU,TH;COUNT=8")]
    [InlineData("weekly on tuesdays until 2026-12-12", "FREQ=WEEKLY;BYDAY=TU;UNTIL=20261212")]
    [InlineData("every 2 weeks on tue until dec 12", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU;UNTIL=20261212")]
    [InlineData("every tue until 12 may", "FREQ=WEEKLY;BYDAY=TU;UNTIL=20270512")]
    [InlineData("every tue until 12 may 2028", "FREQ=WEEKLY;BYDAY=TU;UNTIL=20280512")]
    public void Repeats_are_read_in_English(string text, string rule) =>
        Assert.Equal(rule, Read("Choir 9-10 " + text).Draft.Rule!.ToString());

    [Theory]
    [InlineData("chaque mardi", "FREQ=WEEKLY;BYDAY=TU")]
    [InlineData("tous les mardis et jeudis jusqu'au 12 décembre", "FREQ=WEEKLY;BYDAY=TU,TH;UNTIL=20261212")]
    [InlineData("toutes les 2 semaines le mardi 8 fois", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU;COUNT=8")]
    [InlineData("tous les jours", "FREQ=DAILY")]
    public void Repeats_are_read_in_French(string text, string rule)
    {
        var read = Read("Chorale 9h-10h " + text, "fr");
        Assert.Equal("Chorale", read.Draft.Title);
        Assert.Equal(rule, read.Draft.Rule!.ToString());
    }

    [Fact]
    public void All_day_can_be_said()
    {
        Assert.Equal("Head race", Read("Head race all day").Draft.Title);
        Assert.Equal("Régate", Read("Régate toute la journée", "fr").Draft.Title);
    }

    [Fact]
    public void A_place_runs_up_to_the_next_part()
    {
        Assert.Equal("Old quay", Read("Singing @Old quay 19:00 every wed").Draft.Place);
        Assert.Equal("Chapel", Read("19:00 Singing @Chapel").Draft.Place);
    }

    [Fact]
    public void A_second_time_or_place_is_not_swallowed()
    {
        var read = Read("Meet 9:30 or 10:30 @Quay @Loft");
        Assert.Equal("Meet or 10:30 @Loft", read.Draft.Title);
    }

    [Fact]
    public void The_start_falls_in_step_with_the_repeat() =>
        Assert.Equal(Day("2026-09-04"), Read("Choir 9-10 every fri").Draft.Timing.Start.Date);

    [Fact]
    public void Too_long_a_line_and_a_repeat_that_never_happens_are_refused()
    {
        Assert.Equal("text_too_long", Read(new string('x', 501)).Problem?.Code);
        Assert.Equal("rule_never_happens", Read("Choir every tue until 2026-08-01").Problem?.Code);
    }

    [Property(MaxTest = 300)]
    public void Nothing_typed_is_ever_lost(byte[] picks)
    {
        string[] words = ["Rigging", "test", "9:30-11", "9", "@Loft", "2", "every", "tue", "until", "12", "dec", "8", "times", "and", "all", "day", "@", "é🚣", "#tag", "11pm", "tomorrow", "next", "week", "fri", "for", "2h", "monthly", "the", "2nd", "last", "5/12", "12–14", "!ex", "+Rig", "at", "pm", "to"];
        var text = string.Join(' ', picks.Select(p => words[p % words.Length]));
        var read = LineReader.Read(text, Named);
        if (read.Problem is { } problem)
            Assert.Contains(problem.Code, new[] { "text_too_long", "rule_never_happens", "no_such_day" });
        // Every character that is no blank lies in exactly one part, in order.
        var covered = string.Concat(read.Parts.Select(p => text.Substring(p.Start, p.Length)));
        Assert.Equal(text.Replace(" ", ""), covered.Replace(" ", ""));
        var titles = read.Parts.Where(p => p.Kind == LinePartKind.Title).Select(p => text.Substring(p.Start, p.Length));
        Assert.Equal(string.Join(' ', titles), read.Draft.Title);
    }

    [Theory]
    [InlineData("Watch 8:15 every school day until 18 dec", "en", "", "Watch")]
    [InlineData("Quart 8:15 chaque jour de classe", "fr", "", "Quart")]
    [InlineData("Count day 3", "en", "3", "Count")]
    [InlineData("Count every day 2 and 5 @Shed B", "en", "2,5", "Count")]
    [InlineData("Count day 1,4 and day 6", "en", "1,4,6", "Count")]
    [InlineData("Inventaire jour 3", "fr", "3", "Inventaire")]
    public void Repeats_by_school_days_are_understood(string text, string language, string cycle, string title)
    {
        var draft = LineReader.Read(text, new LineContext(Tuesday, Halifax, language, 6)).Draft;
        Assert.Equal(title, draft.Title);
        Assert.Equal("FREQ=DAILY", draft.Rule!.WithEnd(null, null).ToString());
        Assert.Equal((SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, cycle), (draft.Follows!.Days, draft.Follows.Closures, string.Join(',', draft.Follows.CycleDays)));
    }

    [Theory]
    [InlineData("Open day 2", 0, "Open day 2")]
    [InlineData("Open day 7", 6, "Open day 7")]
    [InlineData("Day out", 6, "Day out")]
    [InlineData("Day 3 and a bit", 6, "and a bit")]
    public void Only_a_place_in_the_school_s_rotation_is_one(string text, int length, string title)
    {
        Assert.Equal(title, LineReader.Read(text, new LineContext(Tuesday, Halifax, "en", length)).Draft.Title);
    }

    private static readonly Guid Exam = Guid.NewGuid();
    private static readonly Guid Evening = Guid.NewGuid();
    private static readonly Guid Rigging = Guid.NewGuid();
    private static readonly Guid RiggingTwo = Guid.NewGuid();

    // The line is typed on a Tuesday, a week after today.
    private static readonly LineContext Named = new(Tuesday, Halifax, "en")
    {
        Today = Day("2026-08-26"),
        Categories = [new LineName(Exam, "Exam"), new LineName(Evening, "Parents’ evening")],
        Calendars = [new LineName(Rigging, "Rigging"), new LineName(RiggingTwo, "Rigging 2"), new LineName(Guid.NewGuid(), "Navigation 2A"), new LineName(Guid.NewGuid(), "Navigation 2B")],
    };

    [Theory]
    [InlineData("Launch fri", "Launch", "2026-09-04", "2026-09-04")]
    [InlineData("Launch tue", "Launch", "2026-09-01", "2026-09-01")]
    [InlineData("Launch on friday evening", "Launch evening", "2026-09-04", "2026-09-04")]
    [InlineData("Launch 12 may", "Launch", "2027-05-12", "2027-05-12")]
    [InlineData("may 12 launch", "launch", "2027-05-12", "2027-05-12")]
    [InlineData("Launch 5/12", "Launch", "2026-12-05", "2026-12-05")]
    [InlineData("Launch 5/12/2028", "Launch", "2028-12-05", "2028-12-05")]
    [InlineData("Launch tomorrow", "Launch", "2026-08-27", "2026-08-27")]
    [InlineData("Launch next week", "Launch", "2026-08-31", "2026-08-31")]
    [InlineData("Launch next week wed", "Launch", "2026-09-02", "2026-09-02")]
    [InlineData("Launch next wed", "Launch", "2026-09-02", "2026-09-02")]
    [InlineData("Camp 12–14 sept", "Camp", "2026-09-12", "2026-09-14")]
    [InlineData("Camp 30 sept to 2 oct", "Camp", "2026-09-30", "2026-10-02")]
    [InlineData("Camp 28 dec - 3 jan", "Camp", "2026-12-28", "2027-01-03")]
    [InlineData("Camp for 3 days", "Camp", "2026-09-01", "2026-09-03")]
    [InlineData("Camp 12 sept for 2 days", "Camp", "2026-09-12", "2026-09-13")]
    public void Days_are_read_as_people_write_them(string text, string title, string first, string last)
    {
        var draft = LineReader.Read(text, Named).Draft;
        Assert.Equal(title, draft.Title);
        Assert.Equal(EventTiming.AllDay(Day(first), Day(last)), draft.Timing);
    }

    [Fact]
    public void The_school_s_order_decides_what_5_12_is() =>
        Assert.Equal(Day("2027-05-12"), LineReader.Read("Launch 5/12", Named with { MonthFirst = true }).Draft.Timing.Start.Date);

    [Theory]
    [InlineData("Friday concert")]
    [InlineData("Sun and rain")]
    [InlineData("March past")]
    [InlineData("Unit 13/14")]
    [InlineData("For 2 voices")]
    [InlineData("Next steps")]
    [InlineData("The last straw")]
    [InlineData("#1 prize")]
    [InlineData("!nonsense")]
    [InlineData("+Navigation")]
    public void What_is_no_day_and_no_name_stays_in_the_title(string text)
    {
        var read = LineReader.Read(text, Named);
        Assert.Equal(text, read.Draft.Title);
        Assert.Equal(EventTiming.AllDay(Tuesday, Tuesday), read.Draft.Timing);
        Assert.Equal(EventFacts.None, read.Draft.Facts);
    }

    [Theory]
    [InlineData("Choir at 9", "09:00", "10:00")]
    [InlineData("Choir 9 pm", "21:00", "22:00")]
    [InlineData("Choir 9 - 10", "09:00", "10:00")]
    [InlineData("Choir 9.30pm", "21:30", "22:30")]
    [InlineData("Choir 7-8 pm", "19:00", "20:00")]
    [InlineData("Choir 9-10:30", "09:00", "10:30")]
    [InlineData("Choir at 9 for 2h", "09:00", "11:00")]
    [InlineData("Choir at 9 for 1h30", "09:00", "10:30")]
    [InlineData("Choir 9:15 for 45 min", "09:15", "10:00")]
    [InlineData("Choir for 90min at 9", "09:00", "10:30")]
    public void Times_and_lengths_can_be_said(string text, string from, string to)
    {
        var timing = LineReader.Read(text, Named).Draft.Timing;
        Assert.Equal((from, to), (timing.Start.ToString("HH:mm", null), timing.End.ToString("HH:mm", null)));
    }

    [Fact]
    public void After_a_day_a_number_is_a_time()
    {
        Assert.Equal(At("2026-09-04 09:00"), LineReader.Read("Choir fri 9", Named).Draft.Timing.Start);
        Assert.Equal("Room 9", LineReader.Read("Room 9", Named).Draft.Title);
    }

    [Theory]
    [InlineData("monthly", "FREQ=MONTHLY")]
    [InlineData("monthly on the 2nd fri", "FREQ=MONTHLY;BYDAY=2FR")]
    [InlineData("every month on the last friday", "FREQ=MONTHLY;BYDAY=-1FR")]
    [InlineData("every 2 months on the 15th", "FREQ=MONTHLY;INTERVAL=2;BYMONTHDAY=15")]
    [InlineData("every 3rd tue of the month", "FREQ=MONTHLY;BYDAY=3TU")]
    [InlineData("monthly on the last day", "FREQ=MONTHLY;BYMONTHDAY=-1")]
    [InlineData("every year", "FREQ=YEARLY")]
    [InlineData("every second week", "FREQ=WEEKLY;INTERVAL=2")]
    [InlineData("monthly on the 1st mon 4 times", "FREQ=MONTHLY;BYDAY=1MO;COUNT=4")]
    public void Monthly_repeats_are_read(string text, string rule)
    {
        var draft = LineReader.Read("Choir 9-10 " + text, Named).Draft;
        Assert.Equal(("Choir", rule), (draft.Title, draft.Rule!.ToString()));
    }

    [Theory]
    [InlineData("mensuel le 2e vendredi", "FREQ=MONTHLY;BYDAY=2FR")]
    [InlineData("tous les mois le dernier jour", "FREQ=MONTHLY;BYMONTHDAY=-1")]
    [InlineData("chaque année", "FREQ=YEARLY")]
    public void Monthly_repeats_are_read_in_French(string text, string rule) =>
        Assert.Equal(("Chorale", rule), (Read("Chorale 9h-10h " + text, "fr").Draft.Title, Read("Chorale 9h-10h " + text, "fr").Draft.Rule!.ToString()));

    [Fact]
    public void Tags_a_category_and_other_calendars_are_named_by_their_signs()
    {
        var read = LineReader.Read("Knots #Test #rope-work !parents’ evening +Rigging 2 +rigg 9:30-11 @Loft 2 #late", Named);
        Assert.Equal(("Knots +rigg", "Loft 2"), (read.Draft.Title, read.Draft.Place));
        Assert.Equal(["Test", "rope-work", "late"], read.Draft.Facts!.Tags);
        Assert.Equal(Evening, read.Draft.Facts.CategoryId);
        Assert.Equal([RiggingTwo], read.Draft.Facts.AlsoIn);
        Assert.Equal(
            [LinePartKind.Title, LinePartKind.Tag, LinePartKind.Tag, LinePartKind.Category, LinePartKind.Calendar, LinePartKind.Title, LinePartKind.Time, LinePartKind.Place, LinePartKind.Tag],
            read.Parts.Select(p => p.Kind));
        Assert.Equal(Exam, LineReader.Read("Knots !exa", Named).Draft.Facts!.CategoryId);
        Assert.Equal([Rigging], LineReader.Read("Knots +rigging", Named).Draft.Facts!.AlsoIn);
    }

    private static readonly LineContext AtSchool = new(Day("2026-11-30"), Halifax, "en")
    {
        Terms = [(Day("2026-09-08"), Day("2026-12-18")), (Day("2027-01-05"), Day("2027-03-26"))],
        WeekOf = week => week == 6 ? Day("2026-10-12") : null,
        LeavesOutClosures = true,
    };

    [Theory]
    [InlineData("Choir every tue until end of term", "FREQ=WEEKLY;BYDAY=TU;UNTIL=20261218", true)]
    [InlineData("Choir every tue until end of term even on closures", "FREQ=WEEKLY;BYDAY=TU;UNTIL=20261218", false)]
    [InlineData("Choir Mondays not on closures", "FREQ=WEEKLY;BYDAY=MO", true)]
    // A birthday is one on a closure too.
    [InlineData("Founders' day every year", "FREQ=YEARLY", false)]
    public void What_repeats_leaves_closures_out_unless_it_is_said_otherwise(string text, string rule, bool leavesOut)
    {
        var draft = LineReader.Read(text, AtSchool).Draft;
        Assert.Equal((rule, leavesOut), (draft.Rule!.ToString(), draft.Follows is { Closures: ClosureChoice.LeaveOut, Days: SchoolDayChoice.AnyDay }));
        Assert.Null(LineReader.Read("Choir every tue", AtSchool with { LeavesOutClosures = false }).Draft.Follows);
    }

    [Theory]
    [InlineData("Party end of term", "2026-12-18")]
    [InlineData("Assembly first day of term", "2027-01-05")]
    [InlineData("Science fair week 6", "2026-10-12")]
    [InlineData("Science fair Wed week 6", "2026-10-14")]
    public void The_school_s_year_names_days(string text, string day) => Assert.Equal(Day(day), LineReader.Read(text, AtSchool).Draft.Timing.Start.Date);

    [Theory]
    [InlineData("Party 31 Nov")]
    [InlineData("Party 30 Feb 2027")]
    [InlineData("Choir every tue until 31 Apr")]
    public void A_day_that_its_month_does_not_have_is_an_error_and_moved_nowhere(string text)
    {
        var read = LineReader.Read(text, AtSchool);
        Assert.Equal("no_such_day", read.Problem?.Code);
        Assert.Contains(text.Split(' ')[^1], read.Problem!.Message);
    }

    [Property(MaxTest = 500)]
    public void Times_with_minutes_and_halves_are_read_as_they_stand(int from, int length)
    {
        var start = (int)((uint)from % 1440);
        var end = start + 5 + (int)((uint)length % 700);
        static string Said(int minutes) => LocalTime.FromMinutesSinceMidnight(minutes % 1440).ToString("h':'mmtt", System.Globalization.CultureInfo.InvariantCulture);
        foreach (var text in new[] { $"Test {Said(start)}-{Said(end)}", $"Test from {Said(start)} until {Said(end)}", $"{Said(start)} to {Said(end)} Test" })
        {
            var read = LineReader.Read(text, AtSchool);
            var midnight = Day("2026-11-30").AtMidnight();
            Assert.Equal((midnight.PlusMinutes(start), midnight.PlusMinutes(end), "Test"), (read.Draft.Timing.Start, read.Draft.Timing.End, read.Draft.Title));
            Assert.Empty(read.Doubts);
        }
    }
}
