using Ical.Net.CalendarComponents;
using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using CalDateTime = Ical.Net.DataTypes.CalDateTime;

namespace Valtro.Bench;

/// <summary>
/// 2,000 series as schools have them: weekly on one to three weekdays, daily on weekdays, monthly on an n-th weekday,
/// yearly; begun over the last six years, half of them without an end. The same for everybody, parsed before.
/// </summary>
internal sealed class Workload
{
    public const int Series = 2000;
    public const string Zone = "America/Halifax";

    public static readonly LocalDate Year = new(2026, 8, 1);
    public static readonly LocalDate Month = new(2026, 11, 1);

    private static readonly string[] Days = ["MO", "TU", "WE", "TH", "FR"];

    public Workload()
    {
        var random = new Random(20_261_101);
        var zone = Zones.Get(Zone);
        for (var i = 0; i < Series; i++)
        {
            var first = new LocalDate(2020, 9, 1).PlusDays(random.Next(6 * 365));
            while (first.DayOfWeek > IsoDayOfWeek.Friday)
                first = first.PlusDays(1);
            var own = Days[(int)first.DayOfWeek - 1];
            var text = (i % 10) switch
            {
                < 6 => "FREQ=WEEKLY;BYDAY=" + string.Join(',', Days.Where(d => d == own || random.Next(4) == 0).Take(3)),
                6 or 7 => "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR",
                8 => $"FREQ=MONTHLY;BYDAY={Math.Min(4, (first.Day - 1) / 7 + 1)}{own}",
                _ => "FREQ=YEARLY",
            };
            if (i % 2 == 0)
                text += $";UNTIL={first.PlusDays(200 + random.Next(2000)):uuuuMMdd}T235959Z";
            var start = first.At(new LocalTime(8 + random.Next(8), 15 * random.Next(4)));
            var rule = RecurrenceRule.Parse(text, zone);
            Ours.Add(new SeriesDates(EventTiming.Zoned(start, start.PlusMinutes(45), zone), rule, []));
            Theirs.Add(new CalendarEvent
            {
                Start = new CalDateTime(start.ToDateTimeUnspecified(), Zone),
                End = new CalDateTime(start.PlusMinutes(45).ToDateTimeUnspecified(), Zone),
                RecurrenceRule = new Ical.Net.DataTypes.RecurrenceRule(text),
            });
        }
    }

    public List<SeriesDates> Ours { get; } = [];

    public List<CalendarEvent> Theirs { get; } = [];

    public static TimeWindow Window(bool year) =>
        year ? new TimeWindow(Year, Year.PlusYears(1), Zones.Get(Zone)) : new TimeWindow(Month, Month.PlusMonths(1), Zones.Get(Zone));
}
