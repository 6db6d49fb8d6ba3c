using System.Text;
using BenchmarkDotNet.Attributes;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Bench;

/// <summary>A publication of 1,000 events rendered cold, beside a library that writes the same feed read back.</summary>
[MemoryDiagnoser]
public class Feeds
{
    private readonly FeedHead head = new("School: all of it", "", "https://school.example/p/all", "https://school.example/p/all/feed.ics", "Taken");
    private readonly Ical.Net.Serialization.CalendarSerializer serializer = new();
    private Projection projection = null!;
    private Publication publication = null!;
    private List<Event> events = null!;
    private Calendar calendar = null!;
    private Ical.Net.Calendar theirs = null!;

    [GlobalSetup]
    public void Setup()
    {
        var random = new Random(20_261_101);
        var now = Instant.FromUtc(2026, 11, 1, 12, 0);
        calendar = Calendar.Apply(null, Guid.NewGuid(), "All of it", "", "", Workload.Zone, 1) with { Reach = ReachTable.Open };
        events =
        [
            .. Enumerable.Range(0, 1_000).Select(i =>
            {
                var start = new LocalDate(2026, 9, 1).PlusDays(random.Next(300)).At(new LocalTime(8 + random.Next(8), 15 * random.Next(4)));
                var rule = i % 3 == 0 ? RecurrenceRule.Parse("FREQ=WEEKLY;COUNT=12", calendar.Zone) : null;
                var text = string.Join(' ', Enumerable.Range(0, 60).Select(k => "word" + (i * k) % 97));
                return Event.Create(Guid.NewGuid(), calendar.Id, new EventDraft($"Event {i}", $"Room {i % 40}", text, EventTiming.Zoned(start, start.PlusMinutes(45), calendar.Zone), rule), now);
            }),
        ];
        publication = Publication.New(Guid.NewGuid(), "all", new PublicationSettings { Title = "All of it", CalendarIds = [calendar.Id] }, now);
        projection = Project();
        var feed = Encoding.UTF8.GetString(Valtro());
        theirs = Ical.Net.Calendar.Load(feed)!;
        if (theirs.Events.Count != 1_000)
            throw new InvalidOperationException($"{theirs.Events.Count} events were read back.");
        Console.WriteLine($"{feed.Length / 1024} KB");
    }

    [Benchmark(Baseline = true)]
    public int IcalNet() => serializer.SerializeToString(theirs)!.Length;

    [Benchmark]
    public byte[] Valtro() => FeedWriter.Write(head, projection);

    /// <summary>The same with what comes before it: whose reach gives what of each event.</summary>
    [Benchmark]
    public byte[] ValtroWithProjection() => FeedWriter.Write(head, Project());

    private Projection Project() => Projection.Of(publication, calendar.Zone, [calendar], events, Instant.FromUtc(2026, 11, 2, 12, 0));
}
