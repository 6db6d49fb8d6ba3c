using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Store;

/// <summary>An event as it lies in the columns of its table.</summary>
internal class EventColumns
{
    /// <summary>The columns as they are read; what is a document comes as text.</summary>
    public const string Selected =
        "id, uid, calendar_id, title, place, description, time_kind, start_local, length_seconds, zone, rule, follows::text as follows, by_school_days::text as by_school_days, facts::text as facts, also_in, timed_at, skips, extras, changes::text as changes, names::text as names, related_to, sequence, version, created_at, changed_at, deleted_at, seen_at, seen_no";

    /// <summary>The columns that a change writes.</summary>
    public const string Written =
        "calendar_id, title, place, description, time_kind, start_local, length_seconds, zone, rule, follows, by_school_days, facts, also_in, timed_at, skips, extras, changes, names, related_to, sequence, version, changed_at, deleted_at, seen_at, seen_no, bounds_from, bounds_to, words";

    /// <summary>The columns of a new row.</summary>
    public const string Inserted = "id, school_id, uid, created_at, " + Written;

    public EventColumns()
    {
    }

    public EventColumns(Event e)
    {
        Id = e.Id;
        Uid = e.Uid;
        CalendarId = e.CalendarId;
        Title = e.Title;
        Place = e.Place;
        Description = e.Description;
        TimeKind = (short)e.Timing.Kind;
        StartLocal = e.Timing.Start;
        LengthSeconds = (long)e.Timing.Length.TotalSeconds;
        Zone = e.Timing.Zone?.Id;
        Rule = e.Rule?.ToString();
        Follows = StoredPattern.Write(e.Follows);
        BySchoolDays = StoredDates.Write(e.BySchoolDays);
        Facts = StoredFacts.Write(e.Facts);
        AlsoIn = [.. e.Facts.AlsoIn];
        TimedAt = e.TimedAt;
        Skips = [.. e.Skips];
        Extras = [.. e.Extras];
        Changes = StoredChange.Write(e.Changes);
        Names = StoredName.Write(e.Names);
        RelatedTo = e.RelatedTo;
        Sequence = e.Sequence;
        Version = e.Version;
        CreatedAt = e.CreatedAt;
        ChangedAt = e.ChangedAt;
        DeletedAt = e.DeletedAt;
        SeenAt = [e.Stamps.Times.At, e.Stamps.Headlines.At, e.Stamps.Everything.At];
        SeenNo = [e.Stamps.Times.Number, e.Stamps.Headlines.Number, e.Stamps.Everything.Number];
    }

    public Guid Id { get; init; }
    public string Uid { get; init; } = "";
    public Guid CalendarId { get; init; }
    public string Title { get; init; } = "";
    public string Place { get; init; } = "";
    public string Description { get; init; } = "";
    public short TimeKind { get; init; }
    public LocalDateTime StartLocal { get; init; }
    public long LengthSeconds { get; init; }
    public string? Zone { get; init; }
    public string? Rule { get; init; }
    public string? Follows { get; init; }
    public string? BySchoolDays { get; init; }
    public string Facts { get; init; } = "{}";
    public Guid[] AlsoIn { get; init; } = [];
    public Instant TimedAt { get; init; }
    public LocalDateTime[] Skips { get; init; } = [];
    public LocalDateTime[] Extras { get; init; } = [];
    public string Changes { get; init; } = "[]";
    public string Names { get; init; } = "[]";
    public string? RelatedTo { get; init; }
    public int Sequence { get; init; }
    public int Version { get; init; }
    public Instant CreatedAt { get; init; }
    public Instant ChangedAt { get; init; }
    public Instant? DeletedAt { get; init; }
    public Instant[] SeenAt { get; init; } = [];
    public int[] SeenNo { get; init; } = [];

    public Event ToEvent()
    {
        var zone = Zone is null ? null : Zones.Get(Zone);
        var timing = EventTiming.Restore((TimeKind)TimeKind, StartLocal, Duration.FromSeconds(LengthSeconds), zone);
        EventStamp Stamp(int i) => new(SeenAt[i], SeenNo[i]);
        return new Event
        {
            Id = Id,
            Uid = Uid,
            CalendarId = CalendarId,
            Title = Title,
            Place = Place,
            Description = RichText.Stored(Description),
            Timing = timing,
            Rule = Rule is null ? null : RecurrenceRule.Parse(Rule, zone),
            Follows = StoredPattern.Read(Follows),
            BySchoolDays = StoredDates.Read(BySchoolDays, timing),
            Facts = StoredFacts.Read(Facts, AlsoIn),
            TimedAt = TimedAt,
            Skips = ImmutableArray.Create(Skips),
            Extras = ImmutableArray.Create(Extras),
            Changes = StoredChange.Read(Changes, timing),
            Names = StoredName.Read(Names),
            RelatedTo = RelatedTo,
            Sequence = Sequence,
            Version = Version,
            CreatedAt = CreatedAt,
            ChangedAt = ChangedAt,
            DeletedAt = DeletedAt,
            Stamps = new EventStamps(Stamp(0), Stamp(1), Stamp(2)),
        };
    }

    /// <summary>Rows to be written, as one document: any number of events takes one statement.</summary>
    public static string RowsOf(IEnumerable<Event> events, Guid schoolId) => StoredJson.Rows(events.Select(e =>
    {
        var c = new EventColumns(e);
        var (from, to) = e.Bounds;
        return new Dictionary<string, object?>
        {
            ["id"] = c.Id,
            ["school_id"] = schoolId,
            ["uid"] = c.Uid,
            ["created_at"] = c.CreatedAt,
            ["calendar_id"] = c.CalendarId,
            ["title"] = c.Title,
            ["place"] = c.Place,
            ["description"] = c.Description,
            ["time_kind"] = c.TimeKind,
            ["start_local"] = c.StartLocal,
            ["length_seconds"] = c.LengthSeconds,
            ["zone"] = c.Zone,
            ["rule"] = c.Rule,
            ["follows"] = StoredJson.Part(c.Follows),
            ["by_school_days"] = StoredJson.Part(c.BySchoolDays),
            ["facts"] = StoredJson.Part(c.Facts),
            ["also_in"] = c.AlsoIn,
            ["timed_at"] = c.TimedAt,
            ["skips"] = c.Skips,
            ["extras"] = c.Extras,
            ["changes"] = StoredJson.Part(c.Changes),
            ["names"] = StoredJson.Part(c.Names),
            ["related_to"] = c.RelatedTo,
            ["sequence"] = c.Sequence,
            ["version"] = c.Version,
            ["changed_at"] = c.ChangedAt,
            ["deleted_at"] = c.DeletedAt,
            ["seen_at"] = c.SeenAt,
            ["seen_no"] = c.SeenNo,
            ["bounds_from"] = from,
            ["bounds_to"] = to,
            ["words"] = Words.Of(e),
        };
    }));
}
