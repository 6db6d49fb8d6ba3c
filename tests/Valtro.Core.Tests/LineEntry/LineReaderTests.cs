using FsCheck.Xunit;
using Valtro.Core.LineEntry;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.LineEntry;

public class LineReaderTests
{
    private static readonly LocalDate Tuesday = Day("2026-09-01");

    private static LineReading Read(string text, string language = "en") =>
        LineReader.Read(text, new LineContext(Tuesday, Halifax, language));

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
        Assert.Equal("text_too_long", Code(() => Read(new string('x', 501))));
        Assert.Equal("rule_never_happens", Code(() => Read("Choir every tue until 2026-08-01")));
    }

    [Property(MaxTest = 300)]
    public void Nothing_typed_is_ever_lost(byte[] picks)
    {
        string[] words = ["Rigging", "test", "9:30-11", "9", "@Loft", "2", "every", "tue", "until", "12", "dec", "8", "times", "and", "all", "day", "@", "é🚣", "#tag", "11pm"];
        var text = string.Join(' ', picks.Select(p => words[p % words.Length]));
        LineReading read;
        try
        {
            read = Read(text);
        }
        catch (InvalidInputException e)
        {
            Assert.Contains(e.Code, new[] { "text_too_long", "rule_never_happens" });
            return;
        }
        // Every character that is no blank lies in exactly one part, in order.
        var covered = string.Concat(read.Parts.Select(p => text.Substring(p.Start, p.Length)));
        Assert.Equal(text.Replace(" ", ""), covered.Replace(" ", ""));
        var titles = read.Parts.Where(p => p.Kind == LinePartKind.Title).Select(p => text.Substring(p.Start, p.Length));
        Assert.Equal(string.Join(' ', titles), read.Draft.Title);
    }
}
