using System.Text.Json;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>
/// An event as it lies in the history and in proposals: a form of its own, with a number, so that neither tables nor the
/// core's types can change what was written long ago. The columns of the table are another form (<see cref="EventColumns"/>).
/// </summary>
internal sealed record StoredEvent
{
    // 1: the columns as they were, dates and facts as texts within the text.
    private const int CurrentForm = 2;

    public int Form { get; init; } = CurrentForm;
    public Guid Id { get; init; }
    public string Uid { get; init; } = "";
    public Guid CalendarId { get; init; }
    public string Title { get; init; } = "";
    public string Place { get; init; } = "";
    public string Description { get; init; } = "";
    public int TimeKind { get; init; }
    public LocalDateTime StartLocal { get; init; }
    public long LengthSeconds { get; init; }
    public string? Zone { get; init; }
    public string? Rule { get; init; }
    public JsonElement? Follows { get; init; }
    public JsonElement? BySchoolDays { get; init; }
    public JsonElement Facts { get; init; }
    public Guid[] AlsoIn { get; init; } = [];
    public Instant TimedAt { get; init; }
    public LocalDateTime[] Skips { get; init; } = [];
    public LocalDateTime[] Extras { get; init; } = [];
    public JsonElement Changes { get; init; }
    public JsonElement? Names { get; init; }
    public string? RelatedTo { get; init; }
    public int Sequence { get; init; }
    public int Version { get; init; }
    public Instant CreatedAt { get; init; }
    public Instant ChangedAt { get; init; }
    public Instant? DeletedAt { get; init; }
    public Instant[]? SeenAt { get; init; }
    public int[]? SeenNo { get; init; }

    public static string Write(Event e)
    {
        var columns = new EventColumns(e);
        static JsonElement Part(string text) => JsonDocument.Parse(text).RootElement;
        static JsonElement? Maybe(string? text) => text is null ? null : Part(text);
        return JsonSerializer.Serialize(
            new StoredEvent
            {
                Id = columns.Id,
                Uid = columns.Uid,
                CalendarId = columns.CalendarId,
                Title = columns.Title,
                Place = columns.Place,
                Description = columns.Description,
                TimeKind = columns.TimeKind,
                StartLocal = columns.StartLocal,
                LengthSeconds = columns.LengthSeconds,
                Zone = columns.Zone,
                Rule = columns.Rule,
                Follows = Maybe(columns.Follows),
                BySchoolDays = Maybe(columns.BySchoolDays),
                Facts = Part(columns.Facts),
                AlsoIn = columns.AlsoIn,
                TimedAt = columns.TimedAt,
                Skips = columns.Skips,
                Extras = columns.Extras,
                Changes = Part(columns.Changes),
                Names = Part(columns.Names),
                RelatedTo = columns.RelatedTo,
                Sequence = columns.Sequence,
                Version = columns.Version,
                CreatedAt = columns.CreatedAt,
                ChangedAt = columns.ChangedAt,
                DeletedAt = columns.DeletedAt,
                SeenAt = columns.SeenAt,
                SeenNo = columns.SeenNo,
            },
            StoredJson.Options);
    }

    /// <summary>Reads what was written, in whatever form that was.</summary>
    public static Event Read(string text)
    {
        using var document = JsonDocument.Parse(text);
        // Before forms had numbers, parts were texts within the text.
        var form = document.RootElement.TryGetProperty("form", out var number) ? number.GetInt32() : 1;
        if (form > CurrentForm)
            throw new InvalidOperationException($"A state was stored in form {form}, by a newer version of the program.");
        var s = document.RootElement.Deserialize<StoredEvent>(StoredJson.Options)!;
        string? Part(JsonElement? part) => part is not { } p || p.ValueKind is JsonValueKind.Null or JsonValueKind.Undefined ? null : p.ValueKind == JsonValueKind.String ? p.GetString() : p.GetRawText();
        return new EventColumns
        {
            Id = s.Id,
            Uid = s.Uid,
            CalendarId = s.CalendarId,
            Title = s.Title,
            Place = s.Place,
            Description = s.Description,
            TimeKind = (short)s.TimeKind,
            StartLocal = s.StartLocal,
            LengthSeconds = s.LengthSeconds,
            Zone = s.Zone,
            Rule = s.Rule,
            Follows = Part(s.Follows),
            BySchoolDays = Part(s.BySchoolDays),
            Facts = Part(s.Facts) ?? "{}",
            AlsoIn = s.AlsoIn,
            TimedAt = s.TimedAt,
            Skips = s.Skips,
            Extras = s.Extras,
            Changes = Part(s.Changes) ?? "[]",
            Names = Part(s.Names) ?? "[]",
            RelatedTo = s.RelatedTo,
            Sequence = s.Sequence,
            Version = s.Version,
            CreatedAt = s.CreatedAt,
            ChangedAt = s.ChangedAt,
            DeletedAt = s.DeletedAt,
            SeenAt = s.SeenAt ?? [s.ChangedAt, s.ChangedAt, s.ChangedAt],
            SeenNo = s.SeenNo ?? [s.Version, s.Version, s.Version],
        }.ToEvent();
    }
}
