using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

/// <summary>The examples of RFC 5545, 3.8.5.3, all in America/New_York at nine in the morning.</summary>
public class StandardExamplesTests
{
    private static readonly DateTimeZone NewYork = Zones.Get("America/New_York");

    /// <summary>Rule, start, and the dates it gives; after … there are more.</summary>
    public static TheoryData<string, string, string> Examples => new()
    {
        { "FREQ=DAILY;COUNT=10", "1997-09-02", "1997 9/2,3,4,5,6,7,8,9,10,11" },
        { "FREQ=DAILY;INTERVAL=2", "1997-09-02", "1997 9/2,4,6,8,10,12,14,16,18,20,22,24,26,28,30 10/2,4 …" },
        { "FREQ=DAILY;INTERVAL=10;COUNT=5", "1997-09-02", "1997 9/2,12,22 10/2,12" },
        { "FREQ=WEEKLY;COUNT=10", "1997-09-02", "1997 9/2,9,16,23,30 10/7,14,21,28 11/4" },
        { "FREQ=WEEKLY;UNTIL=19971224T000000Z", "1997-09-02", "1997 9/2,9,16,23,30 10/7,14,21,28 11/4,11,18,25 12/2,9,16,23" },
        { "FREQ=WEEKLY;INTERVAL=2;WKST=SU", "1997-09-02", "1997 9/2,16,30 10/14,28 11/11,25 12/9,23 1998 1/6,20 2/3,17 …" },
        { "FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", "1997-09-02", "1997 9/2,4,9,11,16,18,23,25,30 10/2" },
        { "FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH", "1997-09-02", "1997 9/2,4,9,11,16,18,23,25,30 10/2" },
        {
            "FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR",
            "1997-09-01",
            "1997 9/1,3,5,15,17,19,29 10/1,3,13,15,17,27,29,31 11/10,12,14,24,26,28 12/8,10,12,22"
        },
        { "FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "1997-09-02", "1997 9/2,4,16,18,30 10/2,14,16" },
        { "FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "1997-09-05", "1997 9/5 10/3 11/7 12/5 1998 1/2 2/6 3/6 4/3 5/1 6/5" },
        { "FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR", "1997-09-05", "1997 9/5 10/3 11/7 12/5" },
        { "FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU", "1997-09-07", "1997 9/7,28 11/2,30 1998 1/4,25 3/1,29 5/3,31" },
        { "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "1997-09-22", "1997 9/22 10/20 11/17 12/22 1998 1/19 2/16" },
        { "FREQ=MONTHLY;BYMONTHDAY=-3", "1997-09-28", "1997 9/28 10/29 11/28 12/29 1998 1/29 2/26 …" },
        { "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", "1997-09-02", "1997 9/2,15 10/2,15 11/2,15 12/2,15 1998 1/2,15" },
        { "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1", "1997-09-30", "1997 9/30 10/1,31 11/1,30 12/1,31 1998 1/1,31 2/1" },
        { "FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15", "1997-09-10", "1997 9/10,11,12,13,14,15 1999 3/10,11,12,13" },
        { "FREQ=MONTHLY;INTERVAL=2;BYDAY=TU", "1997-09-02", "1997 9/2,9,16,23,30 11/4,11,18,25 1998 1/6,13,20,27 3/3,10,17,24,31 …" },
        { "FREQ=YEARLY;COUNT=10;BYMONTH=6,7", "1997-06-10", "1997 6/10 7/10 1998 6/10 7/10 1999 6/10 7/10 2000 6/10 7/10 2001 6/10 7/10" },
        {
            "FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3",
            "1997-03-10",
            "1997 3/10 1999 1/10 2/10 3/10 2001 1/10 2/10 3/10 2003 1/10 2/10 3/10"
        },
        {
            "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200",
            "1997-01-01",
            "1997 1/1 4/10 7/19 2000 1/1 4/9 7/18 2003 1/1 4/10 7/19 2006 1/1"
        },
        { "FREQ=YEARLY;BYDAY=20MO", "1997-05-19", "1997 5/19 1998 5/18 1999 5/17 …" },
        { "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "1997-05-12", "1997 5/12 1998 5/11 1999 5/17 …" },
        { "FREQ=YEARLY;BYMONTH=3;BYDAY=TH", "1997-03-13", "1997 3/13,20,27 1998 3/5,12,19,26 1999 3/4,11,18,25 …" },
        {
            "FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8",
            "1997-06-05",
            "1997 6/5,12,19,26 7/3,10,17,24,31 8/7,14,21,28 1998 6/4,11,18,25 7/2,9,16,23,30 8/6,13,20,27 …"
        },
        // The start is no Friday the 13th, and so no date; the standard's example leaves it out by EXDATE.
        { "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "1997-09-02", "1998 2/13 3/13 11/13 1999 8/13 2000 10/13 …" },
        {
            "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13",
            "1997-09-13",
            "1997 9/13 10/11 11/8 12/13 1998 1/10 2/7 3/7 4/11 5/9 6/13 …"
        },
        { "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", "1996-11-05", "1996 11/5 2000 11/7 2004 11/2 …" },
        { "FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "1997-09-04", "1997 9/4 10/7 11/6" },
        { "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", "1997-09-29", "1997 9/29 10/30 11/27 12/30 1998 1/29 2/26 3/30 …" },
        { "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "1997-08-05", "1997 8/5,10,19,24" },
        { "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", "1997-08-05", "1997 8/5,17,19,31" },
        { "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", "2007-01-15", "2007 1/15,30 2/15 3/15,30" },
    };

    [Theory]
    [MemberData(nameof(Examples))]
    public void The_standard_s_example_comes_out_as_it_says(string rule, string start, string expected)
    {
        var dates = DatesOf(expected);
        var more = expected.EndsWith('…');
        var found = Set(rule, start + " 09:00").StartsFrom(At(start + " 09:00")).Take(dates.Count + (more ? 0 : 1));
        Assert.Equal(dates.Select(d => d.At(new LocalTime(9, 0))), found);
    }

    [Theory]
    [InlineData("FREQ=DAILY;UNTIL=19971224T000000Z", "1997-09-02", 113)]
    [InlineData("FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1", "1998-01-01", 93)]
    [InlineData("FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA", "1998-01-01", 93)]
    public void The_standard_s_long_examples_have_as_many_dates(string rule, string start, int count) =>
        Assert.Equal(count, Set(rule, start + " 09:00").StartsFrom(At(start + " 09:00")).Count());

    [Theory]
    // The standard prints 17:00 as UTC; its dates want it local (erratum 3883).
    [InlineData("FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z", "09:00 12:00 15:00")]
    [InlineData("FREQ=MINUTELY;INTERVAL=15;COUNT=6", "09:00 09:15 09:30 09:45 10:00 10:15")]
    [InlineData("FREQ=MINUTELY;INTERVAL=90;COUNT=4", "09:00 10:30 12:00 13:30")]
    public void The_standard_s_examples_within_a_day(string rule, string times) =>
        Assert.Equal(
            times.Split(' ').Select(t => At("1997-09-02 " + t)),
            Set(rule, "1997-09-02 09:00").StartsFrom(At("1997-09-02 09:00")));

    [Fact]
    public void Two_ways_to_say_every_twenty_minutes_in_working_hours_are_the_same()
    {
        var daily = Set("FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40", "1997-09-02 09:00").StartsFrom(At("1997-09-02 09:00")).Take(72).ToArray();
        var minutely = Set("FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16", "1997-09-02 09:00").StartsFrom(At("1997-09-02 09:00")).Take(72);
        Assert.Equal(daily, minutely);
        Assert.Equal((At("1997-09-02 16:40"), At("1997-09-04 16:40")), (daily[23], daily[^1]));
    }

    private static RecurrenceSet Set(string rule, string start) => new(At(start), false, [Rule(rule, NewYork)]);

    private static List<LocalDate> DatesOf(string text)
    {
        var dates = new List<LocalDate>();
        var year = 0;
        foreach (var word in text.Split(' ').Where(w => w != "…"))
        {
            if (!word.Contains('/'))
            {
                year = int.Parse(word);
                continue;
            }
            var (month, days) = (word.Split('/')[0], word.Split('/')[1]);
            dates.AddRange(days.Split(',').Select(day => new LocalDate(year, int.Parse(month), int.Parse(day))));
        }
        return dates;
    }
}
