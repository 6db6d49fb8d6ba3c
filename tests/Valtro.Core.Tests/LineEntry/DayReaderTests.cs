using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Valtro.Core.LineEntry;

namespace Valtro.Core.Tests.LineEntry;

public sealed class DayReaderTests
{
    // A Monday.
    private static readonly LocalDate Near = new(2026, 11, 23);
    private static readonly DayContext Context = new(Near, Near) { WeekOf = week => week == 6 ? new LocalDate(2026, 10, 19) : null };
    private static readonly DayContext MonthFirst = Context with { MonthFirst = true };

    private static string? Read(string text, DayContext? context = null) => DayReader.Read(text, context ?? Context)?.ToString("yyyy-MM-dd", null);

    [Theory]
    [InlineData("2027-05-12", "2027-05-12")]
    [InlineData("today", "2026-11-23")]
    [InlineData("Demain", "2026-11-24")]
    [InlineData("hier", "2026-11-22")]
    [InlineData("next week", "2026-11-30")]
    [InlineData("la semaine prochaine", "2026-11-30")]
    [InlineData("week 6", "2026-10-19")]
    [InlineData("semaine 6", "2026-10-19")]
    [InlineData("week 60", null)]
    [InlineData("12 Dec", "2026-12-12")]
    [InlineData("dec 12", "2026-12-12")]
    [InlineData("December 12th, 2028", "2028-12-12")]
    [InlineData("1er février", "2027-02-01")]
    [InlineData("12.1.2028", "2028-01-12")]
    [InlineData("12.1.28", "2028-01-12")]
    [InlineData("mar 3", "2027-03-03")]
    [InlineData("mar 24 nov", "2026-11-24")]
    [InlineData("30 Aug", "2026-08-30")]
    [InlineData("30 Feb", null)]
    [InlineData("31.4.2027", null)]
    [InlineData("2026-02-30", null)]
    [InlineData("12 ju", null)]
    [InlineData("whenever", null)]
    [InlineData("", null)]
    [InlineData("fri", "2026-11-27")]
    [InlineData("Monday", "2026-11-23")]
    [InlineData("ven.", "2026-11-27")]
    [InlineData("next fri", "2026-12-04")]
    [InlineData("vendredi prochain", "2026-12-04")]
    [InlineData("Fri 27 Nov", "2026-11-27")]
    [InlineData("Fri, Nov 27 2026", "2026-11-27")]
    [InlineData("Thu 27 Nov 2026", null)]
    // Of the years nearby the one in which it falls on that day.
    [InlineData("Sat 27 Nov", "2027-11-27")]
    public void A_day_is_read_as_it_is_typed_or_not_at_all(string text, string? expected) => Assert.Equal(expected, Read(text));

    [Theory]
    [InlineData("5/12", "2026-12-05", "2027-05-12")]
    [InlineData("3/2", "2027-02-03", "2027-03-02")]
    [InlineData("5-12-2028", "2028-12-05", "2028-05-12")]
    [InlineData("5.12", "2026-12-05", "2026-12-05")]
    [InlineData("25/12", "2026-12-25", "2026-12-25")]
    [InlineData("12/25", "2026-12-25", "2026-12-25")]
    [InlineData("13/13", null, null)]
    public void Two_numbers_are_read_as_the_person_writes_them(string text, string? dayFirst, string? monthFirst) =>
        Assert.Equal((dayFirst, monthFirst), (Read(text), Read(text, MonthFirst)));

    [Theory]
    [InlineData("9", "09:00")]
    [InlineData("9:30", "09:30")]
    [InlineData("930", "09:30")]
    [InlineData("9h30", "09:30")]
    [InlineData("9 h 30", "09:30")]
    [InlineData("9.30 pm", "21:30")]
    [InlineData("2 h 30 p.m.", "14:30")]
    [InlineData("12:05 am", "00:05")]
    [InlineData("12:00 pm", "12:00")]
    [InlineData("1p", "13:00")]
    [InlineData("13 pm", null)]
    [InlineData("24", null)]
    [InlineData("9:75", null)]
    [InlineData("noonish", null)]
    public void A_time_of_day_is_read_as_it_is_typed_or_not_at_all(string text, string? expected) =>
        Assert.Equal(expected, DayReader.ReadClock(text)?.ToString("HH:mm", null));

    [Theory]
    [InlineData("Storm closure 27 Nov", "Storm closure", "2026-11-27", "2026-11-27")]
    [InlineData("Storm closure on Fri 27 Nov", "Storm closure", "2026-11-27", "2026-11-27")]
    [InlineData("Ice break 15–17 feb", "Ice break", "2027-02-15", "2027-02-17")]
    [InlineData("Ice break: 15 - 17 feb", "Ice break", "2027-02-15", "2027-02-17")]
    [InlineData("Winter term 4 jan to 12 mar", "Winter term", "2027-01-04", "2027-03-12")]
    [InlineData("Winter break 2026-12-19 - 2027-01-03", "Winter break", "2026-12-19", "2027-01-03")]
    [InlineData("Relâche du 1er mars au 5 mars", "Relâche", "2027-03-01", "2027-03-05")]
    [InlineData("Storm tomorrow", "Storm", "2026-11-25", "2026-11-25")]
    [InlineData("27 nov", "", "2026-11-27", "2026-11-27")]
    [InlineData("Last day 31 july", "Last day", "2027-07-31", "2027-07-31")]
    [InlineData("Early day 1 aug", "Early day", "2026-08-01", "2026-08-01")]
    public void A_span_has_a_name_and_its_days(string text, string name, string first, string last)
    {
        // In the middle of the school year.
        var span = DayReader.ReadSpan(text, new DayContext(new LocalDate(2027, 1, 30), new LocalDate(2026, 11, 24)));
        Assert.Equal((name, first, last), (span?.Name, span?.First.ToString("yyyy-MM-dd", null), span?.Last.ToString("yyyy-MM-dd", null)));
    }

    [Theory]
    [InlineData("Storm closure")]
    [InlineData("Storm 31 feb")]
    [InlineData("")]
    [InlineData("Term 1 – 2 – 3")]
    public void What_names_no_days_is_no_span(string text) => Assert.Null(DayReader.ReadSpan(text, Context));

    [Property(MaxTest = 500)]
    public Property What_any_language_writes_of_a_day_is_read_as_that_day(int offset, bool monthFirst)
    {
        var day = Near.PlusDays(offset % 20_000);
        var context = Context with { MonthFirst = monthFirst };
        string[] french = ["janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre", "décembre"];
        string[] weekdays = ["lun.", "mar.", "mer.", "jeu.", "ven.", "sam.", "dim."];
        string[] forms =
        [
            .. new[] { "ddd d MMM yyyy", "dddd, d MMMM yyyy", "MMMM d, yyyy", "d.M.yyyy", "yyyy-MM-dd", monthFirst ? "M/d/yyyy" : "d/M/yyyy" }.Select(f => day.ToString(f, System.Globalization.CultureInfo.InvariantCulture)),
            $"{weekdays[(int)day.DayOfWeek - 1]} {day.Day} {french[day.Month - 1]} {day.Year}",
        ];
        return forms.All(f => DayReader.Read(f, context) == day).Label(string.Join(" | ", forms));
    }

    [Property(MaxTest = 500)]
    public void No_text_fails(NonNull<string> text)
    {
        foreach (var typed in new[] { text.Get, text.Get + " 12 may", "5/" + text.Get, new string('9', text.Get.Length) })
        {
            DayReader.Read(typed, Context);
            DayReader.ReadClock(typed);
            DayReader.ReadSpan(typed, Context);
        }
    }

    [Property(MaxTest = 300)]
    public Property Without_a_year_the_nearest_date_is_meant(PositiveInt month, PositiveInt date, int offset)
    {
        var near = Near.PlusDays(offset % 5_000);
        var (m, d) = (month.Get % 12 + 1, date.Get % 28 + 1);
        var read = DayReader.Read($"{d}.{m}", new DayContext(near, near))!.Value;
        return (read.Month == m && read.Day == d && Math.Abs(Period.DaysBetween(near, read)) <= 183).ToProperty();
    }
}
