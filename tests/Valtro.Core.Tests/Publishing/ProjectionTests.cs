using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Publishing;

public class ProjectionTests
{
    private static readonly Instant Later = Now + Duration.FromDays(1);

    private static Projection Of(Publication publication, Calendar calendar, params Event[] events) =>
        Projection.Of(publication, Halifax, [calendar], events, Later);

    [Fact]
    public void A_wider_audience_cannot_be_given_more()
    {
        Assert.Equal("reach_widens", Code(() => new ReachTable(Detail.Nothing, Detail.Nothing, Detail.TimesOnly)));
        Assert.Equal("reach_widens", Code(() => new ReachTable(Detail.Headlines, Detail.Everything, Detail.Nothing)));
    }

    [Theory]
    [InlineData(Detail.TimesOnly, null, null, null)]
    [InlineData(Detail.Headlines, "Rigging test", "Loft 2", null)]
    [InlineData(Detail.Everything, "Rigging test", "Loft 2", "<p>Bring a knife; no phones, please</p>")]
    public void Visitors_get_what_the_reach_gives_and_no_field_more(Detail detail, string? title, string? place, string? description)
    {
        var calendar = Calendar(new ReachTable(Detail.Everything, detail, detail));
        var shown = Assert.Single(Of(Publication(calendar), calendar, Event(AllDay("2026-09-01"), calendar: calendar.Id)).Events);
        Assert.Equal((title, place, description), (shown.Title, shown.Place, shown.Description));
    }

    [Fact]
    public void What_is_held_back_is_named_with_its_reason()
    {
        var closed = Calendar(ReachTable.MembersOnly);
        var e = Event(AllDay("2026-09-01"), calendar: closed.Id);
        var projection = Of(Publication(closed), closed, e, e with { Id = Guid.NewGuid(), DeletedAt = Now });
        Assert.Empty(projection.Events);
        Assert.Equal(new HeldBack(closed.Id, "Rigging 2", ReachReason.CalendarClosed, 1), Assert.Single(projection.Held));

        var binned = Calendar() with { DeletedAt = Now };
        Assert.Equal(ReachReason.CalendarInBin, Assert.Single(Of(Publication(binned), binned).Held).Reason);
        Assert.Equal(Detail.Everything, ReachDecision.For(binned, Audience.Team).Detail);
    }

    [Fact]
    public void A_deleted_event_goes_out_to_nobody_in_no_form()
    {
        var calendar = Calendar();
        var e = Event(AllDay("2026-09-01"), calendar: calendar.Id).Delete(Now);
        var projection = Of(Publication(calendar), calendar, e);
        Assert.Empty(projection.Events);
        Assert.Null(projection.ValidUntil);
        // Nor to a keeper who looks with the team's eyes.
        Assert.Empty(Projection.Of(Publication(calendar), Halifax, [calendar], [e], Now, audienceOf: _ => Audience.Team).Events);
    }

    [Fact]
    public void The_order_of_events_does_not_hang_on_the_order_they_came_in()
    {
        var calendar = Calendar();
        var events = Enumerable.Range(1, 6).Select(i => Event(AllDay($"2026-09-0{i}"), calendar: calendar.Id)).ToArray();
        var forward = Of(Publication(calendar), calendar, events);
        var backward = Of(Publication(calendar), calendar, [.. events.Reverse()]);
        Assert.Equal(forward.Events.Select(e => e.Uid), backward.Events.Select(e => e.Uid));
    }

    [Fact]
    public void A_day_lists_whole_days_first_and_then_by_the_clock()
    {
        var calendar = Calendar();
        var projection = Of(
            Publication(calendar),
            calendar,
            Event(Timed("2026-09-01 14:00", "2026-09-01 15:00"), title: "Late", calendar: calendar.Id),
            Event(Timed("2026-09-01 09:00", "2026-09-01 10:00"), title: "Early", calendar: calendar.Id),
            Event(AllDay("2026-09-01"), title: "Whole", calendar: calendar.Id));
        var listed = projection.In(new TimeWindow(Day("2026-09-01"), Day("2026-09-02"), Halifax));
        Assert.Equal(["Whole", "Early", "Late"], listed.Select(o => o.Event.Title));
    }

    [Fact]
    public void A_publication_needs_a_calendar_a_title_and_a_language_we_have()
    {
        Assert.Equal("no_calendars", Code(() => Publication()));
        var calendar = Calendar();
        Assert.Equal("title_missing", Code(() => (Settings(calendar) with { Title = " " }).Checked()));
        Assert.Equal("language_unknown", Code(() => (Settings(calendar) with { Language = "tlh" }).Checked()));
        Assert.Equal(
            "too_many_calendars",
            Code(() => (Settings() with { CalendarIds = [.. Enumerable.Range(0, 201).Select(_ => Guid.NewGuid())] }).Checked()));
    }

    [Property(MaxTest = 200)]
    public void No_reach_lets_the_feed_say_more_than_it_gives(byte members, byte links, byte everyone, bool inBin)
    {
        var levels = new[] { members % 4, links % 4, everyone % 4 }.OrderDescending().Select(n => (Detail)n).ToArray();
        var calendar = Calendar(new ReachTable(levels[0], levels[1], levels[2]), "Secret society") with { DeletedAt = inBin ? Now : null };
        var e = Event(Timed("2026-09-01 09:00", "2026-09-01 10:00"), "FREQ=WEEKLY", "Hidden meeting", calendar.Id);
        var allowed = inBin ? Detail.Nothing : levels[2];

        var projection = Of(Publication(calendar), calendar, e);
        var feed = System.Text.Encoding.UTF8.GetString(FeedWriter.Write(new FeedHead("What is on", "", "https://a.example/p/k", "https://a.example/p/k/feed.ics", "Busy"), projection));
        // Unfolded, so that a fold cannot hide a word.
        feed = feed.Replace("\r\n ", "");

        Assert.Equal(allowed >= Detail.TimesOnly, feed.Contains("BEGIN:VEVENT"));
        Assert.Equal(allowed >= Detail.Headlines, feed.Contains("Hidden meeting"));
        Assert.Equal(allowed >= Detail.Headlines, feed.Contains("Loft 2"));
        Assert.Equal(allowed >= Detail.Headlines, feed.Contains("Secret society"));
        Assert.Equal(allowed >= Detail.Everything, feed.Contains("Bring a knife"));
        Assert.Equal(allowed == Detail.TimesOnly, feed.Contains("SUMMARY:Busy"));
    }

    /// <summary>What comes and what was is told in order, once each, and nothing of it is left out on the way.</summary>
    [FsCheck.Xunit.Property(MaxTest = 60)]
    public void What_comes_and_what_was_is_what_every_window_shows(byte[] days, FsCheck.PositiveInt count)
    {
        var calendar = Calendar();
        var events = days.Take(12).Select((d, i) => Event(i % 3 == 0 ? AllDay($"20{20 + d % 12}-0{1 + d % 9}-10", $"20{20 + d % 12}-0{1 + d % 9}-{10 + d % 15}") : Timed($"20{20 + d % 12}-1{d % 3}-0{1 + d % 9} 23:00", $"20{20 + d % 12}-1{d % 3}-0{1 + d % 9} 23:30"), i % 4 == 1 ? "FREQ=YEARLY" : null, calendar: calendar.Id)).ToList();
        var projection = Projection.Of(Publication(calendar), Halifax, [calendar], events, Now);
        var (today, most) = (Day("2026-09-01"), 1 + count.Get % 40);
        var all = new List<PublishedOccurrence>();
        for (var i = 0; i < 3_900; i += 100)
            all.AddRange(projection.In(new TimeWindow(today.PlusDays(i), today.PlusDays(i + 100), Halifax)).Where(o => i == 0 || o.Span.FirstDay >= today.PlusDays(i)));
        Assert.Equal(all.Take(most).Select(o => o.Key), projection.Coming(today, most).Select(o => o.Key));
        var past = projection.Past(today, 1_000);
        Assert.All(past, o => Assert.True(o.Span.LastDay < today));
        Assert.Equal(past.Count, past.Select(o => o.Key).Distinct().Count());
        Assert.Equal(past.Select(o => o.Span.FirstDay).OrderDescending().Take(1), past.Select(o => o.Span.FirstDay).Take(1));
    }
}
