using System.Text;
using FsCheck.Xunit;
using Valtro.Core.Publishing;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

public class FeedWriterTests
{
    [Fact]
    public void Every_line_ends_in_CRLF_and_holds_75_octets_at_most_without_splitting_a_character()
    {
        var title = string.Concat(Enumerable.Repeat("Bootsfahrt ⛵ für Ängstliche 🚣, ", 6)).Trim();
        var feed = Ics.Of(Event(AllDay("2026-09-01"), title: title));
        var text = new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(feed.Bytes);
        Assert.EndsWith("END:VCALENDAR\r\n", text);
        Assert.DoesNotContain('\n', text.Replace("\r\n", ""));
        Assert.All(text.Split("\r\n"), l => Assert.InRange(Encoding.UTF8.GetByteCount(l), 0, 75));
        // A character cut in two would come out as U+FFFD when each folded line is read alone.
        Assert.DoesNotContain('\uFFFD', text);
        Assert.Equal("SUMMARY:" + title.Replace(",", "\\,"), feed.Line("SUMMARY"));
    }

    [Fact]
    public void Texts_are_escaped()
    {
        var e = Event(AllDay("2026-09-01"), title: "a;b,c\\d") with { Description = "one\ntwo" };
        var feed = Ics.Of(e);
        Assert.Equal("SUMMARY:a\\;b\\,c\\\\d", feed.Line("SUMMARY"));
        Assert.Equal("DESCRIPTION:one\\ntwo", feed.Line("DESCRIPTION"));
    }

    [Fact]
    public void The_head_names_the_feed_in_the_standard_s_words_and_the_older_ones()
    {
        var calendar = Calendar();
        var projection = Projection.Of(Publication(calendar), Halifax, [calendar], [], Now);
        var feed = Ics.Of(projection, Ics.Head with { Description = "All, for all" });
        Assert.Equal(["BEGIN:VCALENDAR", "VERSION:2.0"], feed.Lines[..2]);
        Assert.Contains("NAME:What is on", feed.Lines);
        Assert.Contains("X-WR-CALNAME:What is on", feed.Lines);
        Assert.Contains("X-WR-TIMEZONE:America/Halifax", feed.Lines);
        Assert.Contains("DESCRIPTION:All\\, for all", feed.Lines);
        Assert.Contains("SOURCE;VALUE=URI:https://a.example/p/k/feed.ics", feed.Lines);
        Assert.Contains("REFRESH-INTERVAL;VALUE=DURATION:PT1H", feed.Lines);
    }

    [Fact]
    public void A_zoned_event_names_its_zone_and_the_zone_is_described()
    {
        var feed = Ics.Of(Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;UNTIL=20261208"));
        Assert.Contains("DTSTART;TZID=America/Halifax:20260901T093000", feed.Lines);
        Assert.Contains("DTEND;TZID=America/Halifax:20260901T110000", feed.Lines);
        Assert.Equal("RRULE:FREQ=WEEKLY;UNTIL=20261208T133000Z", feed.Lines.Last(l => l.StartsWith("RRULE")));
        Assert.Single(feed.Lines, "TZID:America/Halifax");
    }

    [Fact]
    public void Other_kinds_of_time_take_their_own_form()
    {
        var utc = Ics.Of(Event(Timed("2026-09-01 09:30", "2026-09-01 11:00", DateTimeZone.Utc)));
        Assert.Equal("DTSTART:20260901T093000Z", utc.Line("DTSTART"));
        Assert.False(utc.Has("TZID"));
        var floating = Ics.Of(Event(EventTiming.Floating(At("2026-09-01 09:30"), At("2026-09-01 11:00"))));
        Assert.Equal("DTEND:20260901T110000", floating.Line("DTEND"));
        var days = Ics.Of(Event(AllDay("2026-09-04", "2026-09-06")));
        Assert.Equal(("DTSTART;VALUE=DATE:20260904", "DTEND;VALUE=DATE:20260907"), (days.Line("DTSTART"), days.Line("DTEND")));
        Assert.Equal("TRANSP:TRANSPARENT", days.Line("TRANSP"));
    }

    [Fact]
    public void An_event_without_length_has_no_end() =>
        Assert.False(Ics.Of(Event(Timed("2026-09-01 09:30", "2026-09-01 09:30"))).Has("DTEND"));

    [Fact]
    public void Skips_go_out_as_exceptions_in_the_form_of_the_start()
    {
        var timed = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY").Skip(At("2026-09-08 09:30"), Now).Skip(At("2026-09-22 09:30"), Now);
        Assert.Equal("EXDATE;TZID=America/Halifax:20260908T093000,20260922T093000", Ics.Of(timed).Line("EXDATE"));
        var days = Event(AllDay("2026-09-01"), "FREQ=WEEKLY").Skip(At("2026-09-08 00:00"), Now);
        Assert.Equal("EXDATE;VALUE=DATE:20260908", Ics.Of(days).Line("EXDATE"));
    }

    [Fact]
    public void A_removed_event_is_not_in_it() => Assert.False(Ics.Of(Event(AllDay("2026-09-01")).Delete(Now)).Has("UID"));

    [Fact]
    public void Stamps_come_from_the_event_s_own_history()
    {
        var e = Event(AllDay("2026-09-01"));
        e = (e with { Description = "Bring two ropes" }).After(e, Instant.FromUtc(2026, 9, 2, 8, 0));
        var feed = Ics.Of(e);
        Assert.Equal("DTSTAMP:20260902T080000Z", feed.Line("DTSTAMP"));
        Assert.Equal("LAST-MODIFIED:20260902T080000Z", feed.Line("LAST-MODIFIED"));
        Assert.Equal("CREATED:20260901T120000Z", feed.Line("CREATED"));
        Assert.Equal("UID:" + e.Uid, feed.Line("UID"));
    }

    [Property(MaxTest = 100)]
    public void An_independent_reader_gets_every_text_back(string text)
    {
        var title = "T" + text;
        var e = Event(AllDay("2026-09-01"), title: title.Length > 200 ? title[..200] : title);
        // A lone half of a surrogate pair is no text and comes out as the replacement character.
        var expected = Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(e.Title));
        var read = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(Ics.Of(e).Bytes));
        Assert.Equal(expected, Assert.Single(read!.Events).Summary);
    }
}
