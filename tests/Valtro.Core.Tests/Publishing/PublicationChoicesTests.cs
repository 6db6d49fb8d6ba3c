using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Publishing;

/// <summary>What a publication's choices take away from what reach gives, and that they give nothing.</summary>
public sealed class PublicationChoicesTests
{
    private static readonly Guid Sports = new("55555555-0000-0000-0000-000000000000");
    private static readonly SchoolLists Lists = SchoolLists.Empty with { Categories = [new Category(Sports, "Sports", null, false)] };
    private readonly Calendar open = Calendar(title: "Rigging 2");

    private Event At(string title, string start = "2026-09-10 09:00", string? rule = null, EventFacts? facts = null)
    {
        var from = Sample.At(start);
        var e = Event(Core.Time.EventTiming.Zoned(from, from.PlusHours(1), Halifax), rule, title, open.Id);
        return e with { Place = "Loft 2", Facts = facts ?? EventFacts.None };
    }

    private string[] Sent(PublicationChoices choices, params Event[] events) => Sent(choices, open, events);

    private static string[] Sent(PublicationChoices choices, Calendar calendar, params Event[] events) =>
        [.. Project(choices, calendar, events).Events.Select(e => e.Title ?? "busy").Order()];

    private static Projection Project(PublicationChoices choices, Calendar calendar, params Event[] events) =>
        Projection.Of(Core.Publishing.Publication.New(Guid.NewGuid(), "lantern", Settings(calendar) with { Choices = choices }, Now), Halifax, [calendar], events, Now, Lists);

    [Fact]
    public void Only_what_is_chosen_goes_out()
    {
        var row = At("Row", facts: new EventFacts { CategoryId = Sports, Tags = ["water"] });
        var knots = At("Knots", rule: "FREQ=WEEKLY;COUNT=3", facts: new EventFacts { Tags = ["rope", "Loft"] });
        var talk = At("Talk") with { Description = "<p>Of water</p>" };
        Assert.Equal(["Knots", "Row", "Talk"], Sent(PublicationChoices.None, row, knots, talk));
        Assert.Equal(["Row"], Sent(new PublicationChoices { CategoryIds = [Sports] }, row, knots, talk));
        Assert.Equal(["Knots", "Row"], Sent(new PublicationChoices { Tags = ["LOFT", "water"] }, row, knots, talk));
        Assert.Equal(["Talk"], Sent(new PublicationChoices { Text = "WATER" }, row, knots, talk));
        Assert.Equal(["Knots"], Sent(new PublicationChoices { Kinds = EventKinds.Series }, row, knots, talk));
        Assert.Equal(["Row", "Talk"], Sent(new PublicationChoices { Kinds = EventKinds.OneTime }, row, knots, talk));
        Assert.Empty(Sent(new PublicationChoices { CategoryIds = [Sports], Text = "knots" }, row, knots, talk));
    }

    [Fact]
    public void What_an_audience_does_not_get_chooses_nothing()
    {
        var times = open with { Reach = new ReachTable(Detail.Everything, Detail.TimesOnly, Detail.TimesOnly) };
        var row = At("Row", facts: new EventFacts { CategoryId = Sports, Tags = ["water"] });
        Assert.Equal(["busy"], Sent(PublicationChoices.None, times, row));
        // Otherwise being there would say that it has the tag.
        Assert.Empty(Sent(new PublicationChoices { Tags = ["water"] }, times, row));
        Assert.Empty(Sent(new PublicationChoices { CategoryIds = [Sports] }, times, row));
        Assert.Empty(Sent(new PublicationChoices { Text = "row" }, times, row));
        Assert.Empty(Sent(new PublicationChoices { Calendars = [new CalendarChoice(open.Id, Detail.TimesOnly)], Text = "row" }, row));
    }

    [Fact]
    public void A_calendar_shows_less_where_less_is_chosen_and_never_more()
    {
        var row = At("Row");
        foreach (var reach in new[] { Detail.TimesOnly, Detail.Headlines, Detail.Everything })
        {
            foreach (var most in new[] { Detail.TimesOnly, Detail.Headlines, Detail.Everything })
            {
                var calendar = open with { Reach = new ReachTable(Detail.Everything, reach, reach) };
                var sent = Project(new PublicationChoices { Calendars = [new CalendarChoice(open.Id, most, "R2")] }, calendar, row).Events.Single();
                Assert.Equal(reach < most ? reach : most, sent.Detail);
                Assert.Equal(("R2", sent.Detail), (sent.Calendar.Tag, sent.Calendar.Detail));
            }
        }
    }

    [Fact]
    public void Dates_that_are_called_off_are_left_out_where_it_is_wanted()
    {
        var knots = At("Knots", rule: "FREQ=WEEKLY;COUNT=3").CallOff(Sample.At("2026-09-17 09:00"), true, Now);
        var once = At("Once").CallOff(Sample.At("2026-09-10 09:00"), true, Now);
        Assert.Equal(["Knots", "Once"], Sent(PublicationChoices.None, knots, once));
        var projection = Project(new PublicationChoices { HidesCalledOff = true }, open, knots, once);
        var sent = projection.Events.Single();
        Assert.Equal("Knots", sent.Title);
        Assert.Equal([Sample.At("2026-09-10 09:00"), Sample.At("2026-09-24 09:00")], projection.In(new Core.Time.TimeWindow(Day("2026-09-01"), Day("2026-10-01"), Halifax)).Select(o => o.LocalStart));
    }

    [Fact]
    public void Days_back_and_ahead_count_from_today_and_tell_when_they_move_on()
    {
        // Now is 1 September 2026, nine in the morning in Halifax.
        Event On(string day) => At(day, day + " 09:00");
        var events = new[] { On("2026-08-29"), On("2026-08-30"), On("2026-09-01"), On("2026-09-08"), On("2026-09-09"), At("series", "2026-01-01 09:00", "FREQ=DAILY") };
        Assert.Equal(["2026-08-30", "2026-09-01", "2026-09-08", "series"], Sent(new PublicationChoices { DaysBack = 2, DaysAhead = 7 }, events));
        Assert.Equal(["2026-09-01", "series"], Sent(new PublicationChoices { DaysBack = 0, DaysAhead = 0 }, events));
        Assert.Equal(["2026-09-01", "2026-09-08", "2026-09-09", "series"], Sent(new PublicationChoices { DaysBack = 0 }, events));
        var projection = Project(new PublicationChoices { DaysBack = 2 }, open, events);
        Assert.Equal(Instant.FromUtc(2026, 9, 2, 3, 0), projection.ValidUntil);
        Assert.True(projection.ChangedAt >= Instant.FromUtc(2026, 9, 1, 3, 0));
        Assert.Null(Project(PublicationChoices.None, open, events).ValidUntil);
    }

    [Fact]
    public void It_goes_out_from_when_until_when()
    {
        var choices = new PublicationChoices { From = Now, Until = Now + Duration.FromHours(1) };
        Assert.Equal([false, true, true, false], new[] { -1, 0, 59, 60 }.Select(m => choices.IsOut(Now + Duration.FromMinutes(m))));
        Assert.True(PublicationChoices.None.IsOut(Now));
    }

    [Theory]
    [InlineData("{title}", "Row")]
    [InlineData("{calendar}: {title}", "Rigging 2: Row")]
    [InlineData("[{tag}] {title} ({category})", "[R2] Row")]
    [InlineData("{title} – {place}", "Row – Loft 2")]
    [InlineData("{category} · {title}", "Row")]
    public void Titles_of_feeds_follow_a_pattern_and_leave_nothing_empty(string pattern, string expected)
    {
        var choices = new PublicationChoices { TitlePattern = pattern, Calendars = [new CalendarChoice(open.Id, Tag: "R2")] }.Checked();
        var projection = Project(choices, open, At("Row"));
        var feed = System.Text.Encoding.UTF8.GetString(FeedWriter.Write(new FeedHead("n", "", "https://p", "https://f", "Busy") { Choices = choices }, projection));
        Assert.Contains($"SUMMARY:{expected}\r\n", feed);
        // What shows its times only has no title that a pattern could add to.
        var times = Project(choices, open with { Reach = new ReachTable(Detail.Everything, Detail.TimesOnly, Detail.TimesOnly) }, At("Row"));
        Assert.Contains("SUMMARY:Busy\r\n", System.Text.Encoding.UTF8.GetString(FeedWriter.Write(new FeedHead("n", "", "https://p", "https://f", "Busy") { Choices = choices }, times)));
    }

    [Theory]
    [InlineData("{teacher} {title}", "{teacher} Row")]
    [InlineData("({category})", "Row")]
    [InlineData("", "Row")]
    public void A_pattern_that_is_still_typed_shows_what_it_makes_and_never_nothing(string pattern, string expected) =>
        Assert.Equal(expected, PublicationChoices.Filled(pattern, "Row", "Rigging 2", "R2", "Loft 2", ""));

    [Fact]
    public void Choices_that_make_no_sense_are_refused()
    {
        static string Wrong(PublicationChoices choices) => Code(() => choices.Checked());
        Assert.Equal("choice_nothing", Wrong(new PublicationChoices { Calendars = [new CalendarChoice(Guid.NewGuid(), Detail.Nothing)] }));
        Assert.Equal("choice_nothing", Wrong(new PublicationChoices { Calendars = [new CalendarChoice(Guid.NewGuid(), (Detail)9)] }));
        Assert.Equal("text_too_long", Wrong(new PublicationChoices { Calendars = [new CalendarChoice(Guid.NewGuid(), Tag: new string('x', 13))] }));
        Assert.Equal("days_range", Wrong(new PublicationChoices { DaysBack = -1 }));
        Assert.Equal("days_range", Wrong(new PublicationChoices { DaysAhead = 4000 }));
        Assert.Equal("schedule_order", Wrong(new PublicationChoices { From = Now, Until = Now }));
        Assert.Equal("mark_unknown", Wrong(new PublicationChoices { Calendars = [new CalendarChoice(Guid.NewGuid(), Mark: 13)] }));
        Assert.Equal("field_unknown", Wrong(new PublicationChoices { LeftOut = [(FeedField)99] }));
        Assert.Equal("pattern_field", Wrong(new PublicationChoices { TitlePattern = "{title} {teacher}" }));
        Assert.Equal("pattern_title", Wrong(new PublicationChoices { TitlePattern = "{calendar}" }));
        Assert.Equal("too_many_parts", Wrong(new PublicationChoices { Tags = [.. Enumerable.Range(0, 51).Select(i => "t" + i)] }));
        Assert.Equal("audience_unknown", Code(() => (Settings(open) with { Audience = Audience.Team }).Checked()));
        // What is as it would be anyway is not kept.
        Assert.Empty(new PublicationChoices { Calendars = [new CalendarChoice(open.Id)] }.Checked().Calendars);
    }

    // Whatever is chosen, of any event no more goes out than without a choice.
    [Fact]
    public void No_choice_lets_out_more_than_reach_does()
    {
        var random = new Random(20261127);
        for (var run = 0; run < 1_500; run++)
        {
            Detail Any() => (Detail)random.Next(0, 4);
            var reach = new[] { Any(), Any(), Any() }.OrderDescending().ToArray();
            var calendar = open with { Reach = new ReachTable(reach[0], reach[1], reach[2]) };
            var events = Enumerable.Range(0, 6).Select(i => At("Event " + i, $"2026-09-{random.Next(1, 28):00} 09:00", random.Next(2) == 0 ? null : "FREQ=WEEKLY;COUNT=4", new EventFacts
            {
                CategoryId = random.Next(2) == 0 ? Sports : null,
                Tags = random.Next(2) == 0 ? ["water"] : [],
                IsDraft = random.Next(5) == 0,
            })).ToArray();
            var choices = new PublicationChoices
            {
                Calendars = [new CalendarChoice(open.Id, (Detail)random.Next(1, 4), random.Next(2) == 0 ? "R2" : "")],
                CategoryIds = random.Next(3) == 0 ? [Sports] : [],
                Tags = random.Next(3) == 0 ? ["water"] : [],
                Text = random.Next(4) == 0 ? "event" : "",
                Kinds = (EventKinds)random.Next(3),
                DaysAhead = random.Next(3) == 0 ? random.Next(40) : null,
            };
            foreach (var sent in Project(choices, calendar, events).Events)
            {
                Assert.True(sent.Detail <= calendar.Reach.Everyone);
                Assert.True(sent.Detail >= Detail.Headlines || sent is { Title: null, Place: null, Description: null, Category: null, Facts.Tags.Length: 0 });
                Assert.True(sent.Detail >= Detail.Everything || sent is { Description: null, Facts.Tags.Length: 0 });
            }
            Assert.True(Project(choices, calendar, events).Events.Count <= Project(PublicationChoices.None, calendar, events).Events.Count);
        }
    }

    [Fact]
    public void A_side_without_a_bound_is_as_one_far_away()
    {
        var random = new Random(20261128);
        for (var run = 0; run < 400; run++)
        {
            var start = Day("2026-01-01").PlusDays(random.Next(300));
            var rule = random.Next(4) switch { 0 => null, 1 => "FREQ=WEEKLY;INTERVAL=3;COUNT=5", 2 => "FREQ=MONTHLY;COUNT=4", _ => "FREQ=DAILY;COUNT=9" };
            var e = At("E", start.ToString("uuuu-MM-dd", null) + " 09:00", rule);
            var all = e.All.In(new Core.Time.TimeWindow(start, start.PlusDays(700), Halifax)).ToList();
            if (rule is not null)
                e = e.Skip(all[random.Next(all.Count)].Date, Now);
            var (low, high) = (start.PlusDays(-500), start.PlusDays(500));
            for (var i = 0; i < 6; i++)
            {
                var day = start.PlusDays(random.Next(-5, 130));
                Assert.Equal(e.All.Touches(day, high, Halifax), e.All.Touches(day, null, Halifax));
                Assert.Equal(e.All.Touches(low, day, Halifax), e.All.Touches(null, day, Halifax));
                Assert.Equal(e.All.In(new Core.Time.TimeWindow(day, day.PlusDays(3), Halifax)).Any(), e.All.Touches(day, day.PlusDays(3), Halifax));
            }
            Assert.True(e.All.Touches(null, null, Halifax));
        }
    }
}
