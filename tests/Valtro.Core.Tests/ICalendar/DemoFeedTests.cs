using System.Text;
using Ical.Net.DataTypes;
using Valtro.Core.Publishing;
using Valtro.Core.Time;
using Valtro.Demo;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

public class DemoFeedTests
{
    private static readonly DemoSchool School = new(Day("2026-11-23"));

    public static TheoryData<string> Keys => [.. School.Publications.Where(p => p.Choices.Kinds == EventKinds.All).Select(p => p.Key)];

    [Theory]
    [MemberData(nameof(Keys))]
    public void An_independent_reader_finds_the_same_occurrences_over_both_clock_changes(string key)
    {
        var projection = Projected(School, key);
        var year = new TimeWindow(Day("2026-08-01"), Day("2027-08-01"), DemoSchool.Zone);

        var ours = projection.In(year)
            .Select(o => (o.Event.Uid, Start: o.LocalStart, End: o.Event.Timing.Kind == TimeKind.Zoned ? o.Span.End : o.LocalStart.PlusNanoseconds(o.Event.Timing.Length.ToInt64Nanoseconds())))
            .Order().ToArray();
        var theirs = Read(Ics.Of(projection).Bytes, year).Order().ToArray();

        Assert.True(ours.Length > 50, $"only {ours.Length} occurrences");
        Assert.Equal(theirs, ours);
        // The year holds lessons on either side of both changes of the clock.
        foreach (var change in new[] { Day("2026-11-01"), Day("2027-03-14") })
        {
            Assert.Contains(ours, o => o.Start.Date < change && o.Start.Date >= change.PlusDays(-14));
            Assert.Contains(ours, o => o.Start.Date > change && o.Start.Date <= change.PlusDays(14));
        }
    }

    [Fact]
    public void The_same_day_gives_the_same_school_down_to_the_last_byte()
    {
        foreach (var publication in School.Publications)
            Assert.Equal(Ics.Of(Projected(School, publication.Key)).Bytes, Ics.Of(Projected(new DemoSchool(Day("2026-11-23")), publication.Key)).Bytes);
    }

    [Theory]
    [InlineData("2026-08-01")]
    [InlineData("2026-12-31")]
    [InlineData("2027-02-28")]
    [InlineData("2027-07-31")]
    [InlineData("2028-02-29")]
    public void Whatever_the_day_there_is_life(string day)
    {
        var school = new DemoSchool(Day(day));
        Assert.True(school.Calendars.Count >= 9);
        Assert.True(school.Events.Count >= 150, $"{school.Events.Count} events");
        Assert.InRange(Day(day), school.Year.Year.First, school.Year.Year.Last);
        var weeks = new TimeWindow(Day(day).PlusDays(-14), Day(day).PlusDays(28), DemoSchool.Zone);
        Assert.True(school.Events.Sum(e => e.Dates.In(weeks).Count()) >= 12);
        Assert.NotEmpty(Projected(school, "lanternfell").In(new TimeWindow(Day(day), Day(day).PlusDays(90), DemoSchool.Zone)));
    }

    private static Projection Projected(DemoSchool school, string key)
    {
        var publication = school.Publications.Single(p => p.Key == key);
        return Projection.Of(publication, DemoSchool.Zone, school.Calendars, school.Events, Now);
    }

    private static IEnumerable<(string Uid, LocalDateTime Start, LocalDateTime End)> Read(byte[] feed, TimeWindow window)
    {
        var calendar = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(feed))!;
        foreach (var e in calendar.Events)
        {
            foreach (var occurrence in e.GetOccurrences(new CalDateTime(2026, 7, 1)).TakeWhile(o => o.Period.StartTime.Value < new DateTime(2027, 9, 1)))
            {
                var start = LocalDateTime.FromDateTime(occurrence.Period.StartTime.Value);
                var end = LocalDateTime.FromDateTime((occurrence.Period.EffectiveEndTime ?? occurrence.Period.StartTime).Value);
                if (start < window.To.AtMidnight() && end > window.From.AtMidnight())
                    yield return (e.Uid!, start, end);
            }
        }
    }
}
