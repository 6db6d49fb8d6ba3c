using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;
using Valtro.Core.Events;
using Valtro.Core.Views;

namespace Valtro.Core.ICalendar;

/// <summary>A link as it is kept.</summary>
public sealed record KeptLink(LinkKind Kind, string Label, string Address);

/// <summary>
/// What an event has that iCalendar has no words for, as one property of our own in files that are written for keeping
/// (RFC 5545, 3.8.8.2): reading such a file gives the same event again.
/// </summary>
public sealed record KeptFields
{
    /// <summary>The property's name.</summary>
    public const string Name = "X-VALTRO-KEPT";

    /// <summary>The longest text that is read as such.</summary>
    public const int MaxLength = 200_000;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The number of this form.</summary>
    public int Form { get; init; } = 1;

    /// <summary>The line under the title.</summary>
    public string? Subtitle { get; init; }

    /// <summary>The description, as clean <see cref="RichText"/>.</summary>
    public string? Description { get; init; }

    /// <summary>Its links.</summary>
    public ImmutableArray<KeptLink>? Links { get; init; }

    /// <summary>A mark of its own.</summary>
    public int? Mark { get; init; }

    /// <summary>How many people it is for.</summary>
    public int? Size { get; init; }

    /// <summary>Whether it is a draft.</summary>
    public bool IsDraft { get; init; }

    /// <summary>Whether it leaves the time free.</summary>
    public bool IsFree { get; init; }

    /// <summary>Of an event, or of one of its dates.</summary>
    public static KeptFields Of(EventView e, EventChange? change)
    {
        var facts = e.FactsOn(change);
        return new KeptFields
        {
            Subtitle = facts.Subtitle.Length == 0 ? null : facts.Subtitle,
            Description = (change?.Description ?? e.Description) is { Length: > 0 } text ? text : null,
            Links = facts.Links.IsEmpty ? null : [.. facts.Links.Select(l => new KeptLink(l.Kind, l.Label, l.Address))],
            Mark = e.Facts.Mark,
            Size = e.Facts.Size,
            IsDraft = e.Facts.IsDraft,
            IsFree = e.Facts.IsFree,
        };
    }

    /// <summary>What a file says; null when it is none of ours, or of a form that is newer.</summary>
    public static KeptFields? Read(string? text)
    {
        if (string.IsNullOrEmpty(text) || text.Length > MaxLength)
            return null;
        try
        {
            return JsonSerializer.Deserialize<KeptFields>(text, Json) is { Form: 1 } read ? read : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>As it stands in a file.</summary>
    public override string ToString() => JsonSerializer.Serialize(this, Json);
}
