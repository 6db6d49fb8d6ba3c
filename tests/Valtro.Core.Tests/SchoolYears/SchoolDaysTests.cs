using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.SchoolYears;

public class SchoolDaysTests
{
    private static readonly SchoolYear Year = new()
    {
        First = Day("2026-08-01"),
        Last = Day("2027-07-31"),
        Terms = [new Term("Autumn", Day("2026-09-07"), Day("2026-12-18")), new Term("Winter", Day("2027-01-04"), Day("2027-03-12"))],
        Closures = [new Closure("Harvest", Day("2026-09-16"), Day("2026-09-16")), new Closure("Half-term", Day("2026-09-21"), Day("2026-09-25"))],
        CycleLength = 6,
        WeekLetters = ["A", "B"],
    };

    private static readonly SchoolDays Days = new([Year]);

    private static SchoolDay On(string day, SchoolYear? year = null) => (year is null ? Days : new SchoolDays([year])).Day(Day(day));

    [Fact]
    public void A_school_day_knows_its_week_and_its_day_of_the_rotation()
    {
        var first = On("2026-09-07");
        Assert.Equal(("Autumn", 1, 1, "A", 1), (first.Term?.Name, first.TeachingWeek, first.AlternateWeek, first.WeekLetter, first.CycleDay));
        var monday = On("2026-09-14");
        Assert.Equal((2, "B", 6), (monday.TeachingWeek, monday.WeekLetter, monday.CycleDay));
    }

    [Fact]
    public void A_closure_does_not_count_in_the_rotation()
    {
        Assert.Equal(1, On("2026-09-15").CycleDay);
        var closed = On("2026-09-16");
        Assert.Equal(("Harvest", null, true), (closed.Closure?.Name, closed.CycleDay, closed.IsSchoolDay));
        Assert.Equal(2, On("2026-09-17").CycleDay);
    }

    [Fact]
    public void A_week_without_a_school_day_is_no_teaching_week()
    {
        Assert.Null(On("2026-09-23").TeachingWeek);
        var after = On("2026-09-28");
        Assert.Equal((3, "A"), (after.TeachingWeek, after.WeekLetter));
    }

    [Fact]
    public void A_taught_week_is_one_from_its_first_day_on()
    {
        var year = Year with { Closures = [new Closure("Bank holiday", Day("2026-09-14"), Day("2026-09-14"))] };
        Assert.Equal((2, "B", "Bank holiday"), (On("2026-09-14", year).TeachingWeek, On("2026-09-14", year).WeekLetter, On("2026-09-14", year).Closure?.Name));
        Assert.Equal(1, On("2026-09-13", year).TeachingWeek);
    }

    [Fact]
    public void Weeks_start_anew_with_a_term_and_letters_and_rotation_run_on_or_start_anew_too()
    {
        Assert.Equal((14, "B"), (On("2026-12-18").TeachingWeek, On("2026-12-18").WeekLetter));
        Assert.Equal((1, "A"), (On("2027-01-04").TeachingWeek, On("2027-01-04").WeekLetter));
        // 69 open days in the autumn: the rotation stands at 3 then.
        Assert.Equal((3, 4), (On("2026-12-18").CycleDay, On("2027-01-04").CycleDay));
        Assert.Equal(1, On("2027-01-04", Year with { CycleRestarts = true }).CycleDay);

        var odd = Year with { Closures = Year.Closures.Add(new Closure("Ice", Day("2026-11-02"), Day("2026-11-06"))) };
        Assert.Equal("B", On("2027-01-04", odd).WeekLetter);
        Assert.Equal("A", On("2027-01-04", odd with { LettersRestart = true }).WeekLetter);
    }

    [Fact]
    public void Three_weeks_can_alternate()
    {
        var year = Year with { WeekLetters = ["Red", "Green", "Blue"] };
        Assert.Equal(["Red", "Green", "Blue", "Red"], new[] { "2026-09-07", "2026-09-14", "2026-09-28", "2026-10-05" }.Select(d => On(d, year).WeekLetter));
        Assert.Equal(3, On("2026-09-28", year).AlternateWeek);
    }

    [Fact]
    public void A_pinned_day_sets_the_rotation_which_goes_on_from_there()
    {
        var year = Year with { Pins = [new PinnedDay(Day("2026-09-09"), 5)] };
        Assert.Equal(
            [(1, false), (2, false), (5, true), (6, false), (1, false)],
            new[] { "2026-09-07", "2026-09-08", "2026-09-09", "2026-09-10", "2026-09-11" }.Select(d => (On(d, year).CycleDay!.Value, On(d, year).IsPinned)));
        // On a shut day a pin says nothing.
        var shut = year with { Pins = [new PinnedDay(Day("2026-09-16"), 5)] };
        Assert.Null(On("2026-09-16", shut).CycleDay);
        Assert.Equal(2, On("2026-09-17", shut).CycleDay);
    }

    [Fact]
    public void The_school_says_on_which_weekdays_it_teaches()
    {
        var year = Year with { Week = WeekdaySet.Of(IsoDayOfWeek.Sunday, IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday), Closures = [] };
        Assert.Equal((1, 1), (On("2026-09-07", year).TeachingWeek, On("2026-09-07", year).CycleDay));
        // Its week begins on Sunday.
        Assert.Equal((2, 3), (On("2026-09-13", year).TeachingWeek, On("2026-09-13", year).CycleDay));
        Assert.False(On("2026-09-09", year).IsSchoolDay);
    }

    [Fact]
    public void A_closure_for_some_calendars_shuts_these_only_and_counts_in_the_rotation()
    {
        var (mine, other) = (Guid.NewGuid(), Guid.NewGuid());
        var days = new SchoolDays([Year with { Closures = [new Closure("Camp", Day("2026-09-08"), Day("2026-09-09")) { CalendarIds = [mine] }] }]);
        Assert.Equal("Camp", days.ClosureOf(Day("2026-09-09"), mine)?.Name);
        Assert.Null(days.ClosureOf(Day("2026-09-09"), other));
        Assert.Equal((2, null), (days.Day(Day("2026-09-08")).CycleDay, days.Day(Day("2026-09-08")).Closure));
        Assert.Equal((false, true), (days.IsOpen(Day("2026-09-08"), mine, true), days.IsOpen(Day("2026-09-08"), other, true)));
        Assert.Equal("Camp", Assert.Single(days.PartClosures(Day("2026-09-08"))).Name);
        Assert.Empty(days.PartClosures(Day("2026-09-10")));
    }

    [Fact]
    public void Open_days_lie_in_terms_where_there_are_terms()
    {
        var any = Guid.NewGuid();
        Assert.Equal((false, true), (Days.IsOpen(Day("2026-08-20"), any, true), Days.IsOpen(Day("2026-08-20"), any, false)));
        Assert.True(new SchoolDays([Year with { Terms = [] }]).IsOpen(Day("2026-08-20"), any, true));
        Assert.Equal((true, false), (SchoolDays.None.IsOpen(Day("2026-08-20"), any, true), SchoolDays.None.IsOpen(Day("2026-08-22"), any, true)));
    }

    [Fact]
    public void Several_years_stand_beside_each_other_and_days_between_them_are_plain()
    {
        var later = Year with { First = Day("2028-08-01"), Last = Day("2029-07-31"), Terms = [new Term("Autumn", Day("2028-09-04"), Day("2028-12-15"))], Closures = [] };
        var days = new SchoolDays([later, Year]);
        Assert.Equal(Day("2029-07-31"), days.KnownUntil);
        Assert.Equal(("Autumn", 1), (days.Day(Day("2028-09-04")).Term?.Name, days.Day(Day("2028-09-04")).CycleDay));
        Assert.Equal(1, days.Day(Day("2026-09-07")).CycleDay);
        Assert.Equal((false, true, false), (days.Knows(Day("2028-01-10")), days.Knows(Day("2027-07-31")), days.Knows(Day("2030-01-01"))));
        Assert.Null(days.Day(Day("2028-01-10")).Term);
        Assert.Equal(Day("2027-08-01"), days.Year(Day("2028-01-10")).First);
        Assert.Null(SchoolDays.None.KnownUntil);
    }

    [Fact]
    public void Weekends_and_days_outside_are_no_school_days()
    {
        Assert.Null(On("2026-09-12").CycleDay);
        Assert.Null(On("2026-12-25").Term);
        Assert.Null(On("2030-01-01").Term);
        Assert.Null(On("2026-11-23", SchoolYear.Plain(Day("2026-11-23"))).Term);
    }

    [Fact]
    public void A_year_runs_from_August_when_nothing_is_said()
    {
        Assert.Equal(Day("2026-08-01"), SchoolYear.StartOfYear(Day("2027-07-31")));
        Assert.Equal(Day("2027-08-01"), SchoolYear.StartOfYear(Day("2027-08-01")));
    }

    public static TheoryData<string, string?, SchoolYear> Wrong => new()
    {
        { "school_year_dates", "last", Year with { Last = Day("2026-07-01") } },
        { "school_year_dates", "last", Year with { Last = Day("2028-12-31") } },
        { "cycle_length", "cycleLength", Year with { CycleLength = 11 } },
        { "cycle_length", "cycleLength", Year with { CycleLength = 1 } },
        { "week_letters", "weekLetters", Year with { WeekLetters = ["A"] } },
        { "title_missing", "weekLetters.1", Year with { WeekLetters = ["A", " "] } },
        { "school_week", "week", Year with { Week = WeekdaySet.Empty } },
        { "term_dates", "terms.0.last", Year with { Terms = [new Term("Autumn", Day("2026-09-07"), Day("2026-09-01"))] } },
        { "term_dates", "terms.0.last", Year with { Terms = [new Term("Autumn", Day("2026-07-07"), Day("2026-09-01"))] } },
        { "terms_overlap", "terms.1.first", Year with { Terms = [Year.Terms[0], new Term("Late", Day("2026-12-18"), Day("2026-12-20"))] } },
        { "title_missing", "terms.0.name", Year with { Terms = [Year.Terms[0] with { Name = "" }] } },
        { "closure_dates", "closures.0.last", Year with { Closures = [new Closure("Summer", Day("2027-07-20"), Day("2027-08-20"))] } },
        { "title_missing", "closures.0.name", Year with { Closures = [new Closure(" ", Day("2026-09-20"), Day("2026-09-20"))] } },
        { "cycle_pin", "pins.0", Year with { Pins = [new PinnedDay(Day("2026-09-09"), 7)] } },
        { "cycle_pin", "pins.0", Year with { Pins = [new PinnedDay(Day("2025-09-09"), 2)] } },
        { "too_many_parts", null, Year with { Closures = [.. Enumerable.Repeat(new Closure("Ice", Day("2026-11-02"), Day("2026-11-02")), 201)] } },
    };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void What_cannot_be_a_year_is_named_at_its_field(string code, string? field, SchoolYear year)
    {
        var error = Assert.Throws<InvalidInputException>(() => year.Checked());
        Assert.Equal((code, field), (error.Code, error.Field));
    }

    [Fact]
    public void A_checked_year_has_its_parts_in_order()
    {
        var year = (Year with
        {
            Terms = [Year.Terms[1], Year.Terms[0] with { Name = " Autumn " }],
            Closures = [.. Year.Closures.Reverse()],
            Pins = [new PinnedDay(Day("2026-10-09"), 2), new PinnedDay(Day("2026-09-09"), 5)],
        }).Checked();
        Assert.Equal(["Autumn", "Winter"], year.Terms.Select(t => t.Name));
        Assert.Equal(["Harvest", "Half-term"], year.Closures.Select(c => c.Name));
        Assert.Equal([Day("2026-09-09"), Day("2026-10-09")], year.Pins.Select(p => p.Date));
    }
}
