using System.Text;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

/// <summary>A feed as the tests look at it: the bytes, and its lines unfolded.</summary>
internal sealed class Ics
{
    public static readonly FeedHead Head = new("What is on", "", "https://a.example/p/k", "https://a.example/p/k/feed.ics", "Busy");

    public Ics(byte[] bytes)
    {
        Bytes = bytes;
        Lines = Encoding.UTF8.GetString(bytes).Replace("\r\n ", "").Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
    }

    public byte[] Bytes { get; }

    public string[] Lines { get; }

    /// <summary>The feed of one open calendar with these events.</summary>
    public static Ics Of(params Event[] events)
    {
        var calendar = Calendar() with { Id = events.Length > 0 ? events[0].CalendarId : Guid.NewGuid() };
        return Of(Projection.Of(Publication(calendar), Halifax, [calendar], events.Select(e => e with { CalendarId = calendar.Id }), Now));
    }

    public static Ics Of(Projection projection, FeedHead? head = null) => new(FeedWriter.Write(head ?? Head, projection));

    /// <summary>The same as jCal.</summary>
    public static byte[] JsonOf(params Event[] events)
    {
        var calendar = Calendar() with { Id = events[0].CalendarId };
        return JCal.Write(Head, Projection.Of(Publication(calendar), Halifax, [calendar], events.Select(e => e with { CalendarId = calendar.Id }), Now));
    }

    /// <summary>The one line of a property.</summary>
    public string Line(string name) => Assert.Single(Lines, l => l.StartsWith(name + ":", StringComparison.Ordinal) || l.StartsWith(name + ";", StringComparison.Ordinal));

    public bool Has(string name) => Lines.Any(l => l.StartsWith(name + ":", StringComparison.Ordinal) || l.StartsWith(name + ";", StringComparison.Ordinal));
}
