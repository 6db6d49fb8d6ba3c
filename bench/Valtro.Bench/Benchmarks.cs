using BenchmarkDotNet.Attributes;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.LineEntry;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Demo;
using CalDateTime = Ical.Net.DataTypes.CalDateTime;

namespace Valtro.Bench;

/// <summary>The dates of 2,000 series in a window, instants included; each beside the other in one run.</summary>
[MemoryDiagnoser]
public class Expansion
{
    private readonly Workload work = new();
    private TimeWindow window = null!;
    private CalDateTime from = null!;
    private DateTime to;

    [Params("month", "year")]
    public string Window { get; set; } = "month";

    [GlobalSetup]
    public void Setup()
    {
        window = Workload.Window(Window == "year");
        from = new CalDateTime(window.From.ToDateTimeUnspecified(), Workload.Zone);
        to = window.End.ToDateTimeUtc();
        if (Valtro() != IcalNet())
            throw new InvalidOperationException($"The two do not agree: {Valtro()} and {IcalNet()} dates.");
    }

    [Benchmark(Baseline = true)]
    public int IcalNet()
    {
        var count = 0;
        foreach (var series in work.Theirs)
        {
            foreach (var occurrence in series.GetOccurrences(from))
            {
                if (occurrence.Period.StartTime.AsUtc >= to)
                    break;
                count++;
            }
        }
        return count;
    }

    [Benchmark]
    public int Valtro()
    {
        var count = 0;
        var sum = 0L;
        foreach (var series in work.Ours)
        {
            foreach (var occurrence in series.In(window))
            {
                sum += occurrence.Start.ToUnixTimeSeconds();
                count++;
            }
        }
        return sum == 0 ? 0 : count;
    }
}

/// <summary>One month of a series that began long before.</summary>
[MemoryDiagnoser]
public class Distance
{
    private readonly TimeWindow window = Workload.Window(year: false);
    private SeriesDates[] series = null!;

    [Params(1, 10, 50)]
    public int YearsFromStart { get; set; }

    [GlobalSetup]
    public void Setup()
    {
        var zone = Zones.Get(Workload.Zone);
        var start = Workload.Month.PlusYears(-YearsFromStart).At(new LocalTime(9, 0));
        string[] rules =
        [
            "FREQ=WEEKLY;BYDAY=TU,TH", "FREQ=DAILY;INTERVAL=3", "FREQ=MONTHLY;BYDAY=2TU", "FREQ=YEARLY;BYMONTH=11",
            "FREQ=WEEKLY;BYDAY=TU,TH;COUNT=9999", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1",
        ];
        series = [.. rules.Select(r => new SeriesDates(EventTiming.Zoned(start, start.PlusHours(1), zone), RecurrenceRule.Parse(r, zone), []))];
    }

    [Benchmark]
    public int OneMonth()
    {
        var count = 0;
        foreach (var one in series)
        {
            foreach (var _ in one.In(window))
                count++;
        }
        return count;
    }
}

/// <summary>School years, and series that follow them.</summary>
[MemoryDiagnoser]
public class SchoolYears
{
    private readonly SchoolYear year = new DemoYear(Workload.Month).Year;
    private readonly SchoolDays days = new DemoYear(Workload.Month).Days;

    /// <summary>A school year's table of days.</summary>
    [Benchmark]
    public int YearTable() => new SchoolDays([year]).Day(Workload.Month).CycleDay ?? 0;

    /// <summary>The shortest plain form of a series on every school day of a year.</summary>
    [Benchmark]
    public int EverySchoolDay() => Plain(SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, [], [])!).LeftOut.Length;

    /// <summary>The shortest plain form of a series on every Day 3 of a year.</summary>
    [Benchmark]
    public int EveryDayThree() => Plain(SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, [3], [])!).Added.Length;

    private PlainDates Plain(SchoolDayRule follows)
    {
        var start = year.First.At(new LocalTime(9, 0));
        return new SchoolDayDates(EventTiming.Zoned(start, start.PlusHours(1), Zones.Get(Workload.Zone)), new RecurrenceRule(Frequency.Daily), follows, days, Guid.Empty).Plain();
    }
}

/// <summary>The plan of an edit of every date: a lesson twice a week for five years, with forty changes, moved to another hour.</summary>
[MemoryDiagnoser]
public class Plans
{
    private static readonly Dictionary<LocalDateTime, MisfitChoice> NoChoices = [];
    private Event series = null!;
    private SeriesEdit edit = null!;

    [GlobalSetup]
    public void Setup()
    {
        var zone = Zones.Get(Workload.Zone);
        var start = new LocalDateTime(2021, 9, 7, 9, 30);
        var timing = EventTiming.Zoned(start, start.PlusHours(1), zone);
        var rule = RecurrenceRule.Parse("FREQ=WEEKLY;BYDAY=TU,TH;UNTIL=20260901", zone);
        series = Event.Create(Guid.NewGuid(), Guid.NewGuid(), new EventDraft("Splicing", "Loft 2", "", timing, rule), NodaConstants.UnixEpoch);
        foreach (var date in series.Dates.From(start).Where((_, i) => i % 13 == 0).Take(40))
            series = series.CallOff(date, true, NodaConstants.UnixEpoch);
        var later = EventTiming.Zoned(start.PlusHours(2), start.PlusHours(3), zone);
        edit = new SeriesEdit(EditScope.EveryDate, start, new EventDraft("Splicing", "Loft 2", "", later, rule), series.CalendarId);
    }

    [Benchmark]
    public int EveryDate() => SeriesEditor.Plan(series, edit, NoChoices, NodaConstants.UnixEpoch, Guid.NewGuid).Moved.Count;
}

/// <summary>Reading typed lines: the line of the handbook, and all the lines of the test's set one after the other.</summary>
[MemoryDiagnoser]
public class Lines
{
    private readonly LineContext context = new(new LocalDate(2026, 11, 30), Zones.Get(Workload.Zone), "en");
    private string[] lines = [];

    [GlobalSetup]
    public void Setup() => lines = [.. File.ReadLines(Path.Combine(AppContext.BaseDirectory, "lines.tsv")).Where(l => l.StartsWith("en\t", StringComparison.Ordinal)).Select(l => l.Split('\t')[1])];

    [Benchmark]
    public int OneLine() => LineReader.Read("Rigging test fri 9:30-11 @Loft 2 #rope every week until 12 dec", context).Parts.Length;

    [Benchmark]
    public int TheSet() => lines.Sum(l => LineReader.Read(l, context).Parts.Length);

    [Benchmark]
    public int FiveHundredCharacters() => LineReader.Read(string.Concat(Enumerable.Repeat("Fri 4 Dec 9-11 & ", 29)), context).Parts.Length;
}
