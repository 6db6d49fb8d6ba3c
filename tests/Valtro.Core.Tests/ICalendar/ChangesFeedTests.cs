using System.Text;
using Ical.Net.DataTypes;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

public class ChangesFeedTests
{
    /// <summary>Tuesdays from 1 September: one left out, one added, one moved and renamed, one called off.</summary>
    private static Event Series()
    {
        var e = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;COUNT=6")
            .Skip(At("2026-09-15 09:30"), Now)
            .AddDate(At("2026-09-05 10:00"), Now)
            .CallOff(At("2026-09-22 09:30"), true, Now);
        var draft = SeriesEditor.DraftOf(e, At("2026-09-08 09:30")) with { Title = "Rope exam", Timing = Timed("2026-09-09 14:00", "2026-09-09 15:00") };
        return SeriesEditor.Plan(
            e, new SeriesEdit(EditScope.ThisDate, At("2026-09-08 09:30"), draft, e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>(), Now, Guid.NewGuid).After;
    }

    [Fact]
    public void An_independent_reader_finds_the_same_dates_with_what_differs_on_them()
    {
        var read = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(Ics.Of(Series()).Bytes))!;
        var theirs = read.GetOccurrences(new CalDateTime(2026, 8, 1))
            .TakeWhile(o => o.Period.StartTime.Value < new DateTime(2027, 1, 1))
            .Select(o => (LocalDateTime.FromDateTime(o.Period.StartTime.Value), ((Ical.Net.CalendarComponents.CalendarEvent)o.Source).Summary!, ((Ical.Net.CalendarComponents.CalendarEvent)o.Source).Status == "CANCELLED"))
            .Order();
        var ours = Series().All.In(new TimeWindow(Day("2026-08-01"), Day("2027-01-01"), Halifax))
            .Select(d => (d.Span.Start, d.Change?.Title ?? "Rigging test", d.Change?.IsCalledOff ?? false))
            .Order();
        Assert.Equal(theirs, ours);
        Assert.Equal(6, ours.Count());
    }

    [Fact]
    public void Each_change_is_a_component_with_the_date_it_stands_for()
    {
        var feed = Ics.Of(Series());
        Assert.Contains("RECURRENCE-ID;TZID=America/Halifax:20260908T093000", feed.Lines);
        Assert.Contains("DTSTART;TZID=America/Halifax:20260909T140000", feed.Lines);
        Assert.Contains("RDATE;TZID=America/Halifax:20260905T100000", feed.Lines);
        Assert.Single(feed.Lines, "STATUS:CANCELLED");
        Assert.Single(feed.Lines.Distinct(), l => l.StartsWith("UID:", StringComparison.Ordinal));
    }

    [Fact]
    public void A_split_off_series_names_the_one_it_came_from()
    {
        var feed = Ics.Of(Event(AllDay("2026-09-01"), "FREQ=WEEKLY") with { RelatedTo = "first@lanternfell.example" });
        Assert.Equal("RELATED-TO:first@lanternfell.example", feed.Line("RELATED-TO"));
    }

    [Theory]
    [InlineData(Detail.TimesOnly)]
    [InlineData(Detail.Headlines)]
    public void A_change_tells_no_word_more_than_the_reach_gives(Detail detail)
    {
        var calendar = Calendar(new ReachTable(Detail.Everything, detail, detail));
        var e = Series() with { CalendarId = calendar.Id };
        e = e with { Changes = [.. e.Changes.Select(c => c with { Place = "Cellar", Description = "Password: knot" })] };
        var text = string.Join('\n', Ics.Of(Projection.Of(Publication(calendar), Halifax, [calendar], [e], Now)).Lines);
        Assert.DoesNotContain("Password", text);
        Assert.Equal(detail == Detail.Headlines, text.Contains("Rope exam"));
        Assert.Equal(detail == Detail.Headlines, text.Contains("Cellar"));
        // The times are told either way.
        Assert.Contains("20260909T140000", text);
    }
}
