using Valtro.Core.SchoolYears;

namespace Valtro.Core.Tests.SchoolYears;

/// <summary>Makes school years and series that follow them, the same ones for the same seed.</summary>
internal sealed class SchoolMaker(int seed)
{
    private static readonly string[] Days = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];
    private readonly Random random = new(seed);

    public SchoolYear Year(int start, Guid calendar)
    {
        var first = new LocalDate(start, 8, 1);
        var autumn = new Term("Autumn", first.PlusDays(random.Next(25, 50)), first.PlusDays(random.Next(120, 150)));
        var winter = new Term("Winter", autumn.Last.PlusDays(random.Next(1, 25)), first.PlusDays(random.Next(200, 240)));
        var spring = new Term("Spring", winter.Last.PlusDays(random.Next(1, 20)), first.PlusDays(random.Next(290, 340)));
        return new SchoolYear
        {
            First = first,
            Last = first.PlusYears(1).PlusDays(-1),
            Terms = [autumn, winter, spring],
            Closures = [.. Enumerable.Range(0, random.Next(12)).Select(_ => Closure(first, calendar))],
            CycleLength = Chance(4) ? 0 : random.Next(2, 11),
            CycleRestarts = Chance(3),
            Pins = [],
            WeekLetters = Chance(4) ? [] : Chance(3) ? ["A", "B", "C"] : ["A", "B"],
            LettersRestart = Chance(3),
            Week = Chance(6) ? SchoolYear.UsualWeek.With(IsoDayOfWeek.Saturday) : SchoolYear.UsualWeek,
        }.Checked();
    }

    public SchoolDayRule? Follows() => SchoolDayRule.Of(
        (SchoolDayChoice)random.Next(3),
        (ClosureChoice)random.Next(4),
        Chance(3) ? Enumerable.Range(0, random.Next(1, 3)).Select(_ => random.Next(1, 7)) : [],
        Chance(4) ? [random.Next(1, 3)] : []);

    /// <summary>A rule as schools have them, and where it starts.</summary>
    public (LocalDateTime Start, string Rule) Rule(int year)
    {
        var start = new LocalDate(year, 8, 1).PlusDays(random.Next(300)).At(new LocalTime(9, 30));
        var rule = random.Next(4) switch
        {
            0 => "FREQ=DAILY" + (Chance(4) ? ";INTERVAL=" + random.Next(2, 5) : ""),
            1 => $"FREQ=MONTHLY;BYDAY={random.Next(1, 5)}{Days[random.Next(5)]}",
            _ => "FREQ=WEEKLY" + (Chance(4) ? ";INTERVAL=2" : "") + ";BYDAY=" + string.Join(',', Days.Where(_ => Chance(3)).DefaultIfEmpty(Days[random.Next(7)])),
        };
        return (start, rule + random.Next(4) switch
        {
            0 => ";COUNT=" + random.Next(1, 80),
            1 => ";UNTIL=" + start.Date.PlusDays(random.Next(20, 400)).ToString("uuuuMMdd", null),
            _ => "",
        });
    }

    private Closure Closure(LocalDate first, Guid calendar)
    {
        var day = first.PlusDays(random.Next(330));
        return new Closure("Shut", day, day.PlusDays(Chance(2) ? 0 : random.Next(1, 12))) { CalendarIds = Chance(4) ? [Chance(2) ? calendar : Guid.NewGuid()] : [] };
    }

    private bool Chance(int oneIn) => random.Next(oneIn) == 0;

    /// <summary>Where a date comes to lie, by walking day after day through the year as a person with a pencil would.</summary>
    public static LocalDateTime? Placed(LocalDateTime date, SchoolDayRule follows, SchoolYear year, Guid calendar, LocalDate? until)
    {
        bool Known(LocalDate d) => year.First <= d && d <= year.Last;
        Term? TermOf(LocalDate d) => Known(d) ? year.Terms.SingleOrDefault(t => t.First <= d && d <= t.Last) : null;
        bool Shut(LocalDate d, bool all) => Known(d) && year.Closures.Any(c => c.First <= d && d <= c.Last && (c.IsForAll || (!all && c.CalendarIds.Contains(calendar))));
        bool Weekday(LocalDate d) => (Known(d) ? year.Week : SchoolYear.UsualWeek).Contains(d.DayOfWeek);
        bool Taught(LocalDate d) => TermOf(d) is not null && Weekday(d) && !Shut(d, true);
        bool Open(LocalDate d) => Weekday(d) && !Shut(d, false) && (follows.Days == SchoolDayChoice.AnyDay || !Known(d) || TermOf(d) is not null);
        LocalDate Monday(LocalDate d) => d.PlusDays(1 - (int)d.DayOfWeek);

        var day = date.Date;
        if (follows.Days != SchoolDayChoice.AnyDay && TermOf(day) is null)
            return null;
        if (follows.Days == SchoolDayChoice.OnSchoolDays && !Weekday(day))
            return null;
        var before = Enumerable.Range(0, 400).Select(i => year.First.PlusDays(i)).TakeWhile(d => d <= day).Where(Taught).ToList();
        if (!follows.CycleDays.IsEmpty)
        {
            var counted = before.Count(d => !year.CycleRestarts || TermOf(d) == TermOf(day));
            if (year.CycleLength == 0 || !Taught(day) || !follows.CycleDays.Contains((counted - 1) % year.CycleLength + 1))
                return null;
        }
        if (!follows.Weeks.IsEmpty)
        {
            var week = Enumerable.Range(0, 7).Select(i => Monday(day).PlusDays(i)).Where(d => Taught(d) && TermOf(d) == TermOf(day)).ToList();
            if (year.WeekLetters.IsEmpty || week.Count == 0)
                return null;
            var weeks = Enumerable.Range(0, 400).Select(i => year.First.PlusDays(i)).TakeWhile(d => d <= week[0]).Where(Taught)
                .Where(d => !year.LettersRestart || TermOf(d) == TermOf(day)).Select(Monday).Distinct().Count();
            if (!follows.Weeks.Contains((weeks - 1) % year.WeekLetters.Length + 1))
                return null;
        }
        if (follows.Closures == ClosureChoice.Keep || !Shut(day, false))
            return date;
        if (follows.Closures == ClosureChoice.LeaveOut)
            return null;
        for (var i = 1; i <= SchoolDayDates.MaxMove; i++)
        {
            var other = day.PlusDays(follows.Closures == ClosureChoice.NextOpenDay ? i : -i);
            if (Open(other))
                return other > until ? null : other.At(date.TimeOfDay);
        }
        return null;
    }
}
