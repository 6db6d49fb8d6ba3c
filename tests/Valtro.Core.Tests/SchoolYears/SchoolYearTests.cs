using Valtro.Core.SchoolYears;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.SchoolYears;

public class SchoolYearTests
{
    private static readonly SchoolYear Year = new(
        Day("2026-08-01"),
        Day("2027-07-31"),
        [new Term("Autumn", Day("2026-09-07"), Day("2026-12-18")), new Term("Winter", Day("2027-01-04"), Day("2027-03-12"))],
        [new Closure("Harvest", Day("2026-09-16"), Day("2026-09-16")), new Closure("Half-term", Day("2026-09-21"), Day("2026-09-25"))],
        6,
        ["A", "B"]);

    [Fact]
    public void A_school_day_knows_its_week_and_its_day_of_the_rotation()
    {
        var first = Year.Day(Day("2026-09-07"));
        Assert.Equal(("Autumn", 1, "A", 1), (first.Term?.Name, first.TeachingWeek, first.WeekLetter, first.CycleDay));
        var monday = Year.Day(Day("2026-09-14"));
        Assert.Equal((2, "B", 6), (monday.TeachingWeek, monday.WeekLetter, monday.CycleDay));
    }

    [Fact]
    public void A_closure_does_not_count_in_the_rotation()
    {
        Assert.Equal(1, Year.Day(Day("2026-09-15")).CycleDay);
        var closed = Year.Day(Day("2026-09-16"));
        Assert.Equal(("Harvest", null), (closed.Closure?.Name, closed.CycleDay));
        Assert.Equal(2, Year.Day(Day("2026-09-17")).CycleDay);
    }

    [Fact]
    public void A_week_without_a_school_day_is_no_teaching_week()
    {
        Assert.Null(Year.Day(Day("2026-09-23")).TeachingWeek);
        var after = Year.Day(Day("2026-09-28"));
        Assert.Equal((3, "A"), (after.TeachingWeek, after.WeekLetter));
    }

    [Fact]
    public void Weeks_start_anew_with_a_term_and_letters_run_on()
    {
        var before = Year.Day(Day("2026-12-18"));
        var after = Year.Day(Day("2027-01-04"));
        Assert.Equal((14, "B"), (before.TeachingWeek, before.WeekLetter));
        Assert.Equal((1, "A"), (after.TeachingWeek, after.WeekLetter));
    }

    [Fact]
    public void Weekends_and_days_outside_are_no_school_days()
    {
        Assert.Null(Year.Day(Day("2026-09-12")).CycleDay);
        Assert.Null(Year.Day(Day("2026-12-25")).Term);
        Assert.Null(Year.Day(Day("2030-01-01")).Term);
        Assert.Null(SchoolYear.Plain(Day("2026-11-23")).Day(Day("2026-11-23")).Term);
    }

    [Fact]
    public void A_year_runs_from_August_and_bad_ones_are_refused()
    {
        Assert.Equal(Day("2026-08-01"), SchoolYear.StartOfYear(Day("2027-07-31")));
        Assert.Equal(Day("2027-08-01"), SchoolYear.StartOfYear(Day("2027-08-01")));
        Assert.Equal("school_year_dates", Code(() => new SchoolYear(Day("2026-08-01"), Day("2026-07-01"), [], [], 0, [])));
        Assert.Equal("cycle_length", Code(() => new SchoolYear(Day("2026-08-01"), Day("2027-07-31"), [], [], 11, [])));
    }
}
