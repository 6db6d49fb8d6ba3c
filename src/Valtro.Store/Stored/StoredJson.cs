using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;

namespace Valtro.Store;

/// <summary>How states are written as JSON, whoever reads them.</summary>
internal static class StoredJson
{
    public static readonly JsonSerializerOptions Options = new JsonSerializerOptions(JsonSerializerDefaults.Web).ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    /// <summary>A document that is text already, as a part of another one.</summary>
    public static JsonNode? Part(string? text) => text is null ? null : JsonNode.Parse(text);

    public static string Rows(IEnumerable<Dictionary<string, object?>> rows) => JsonSerializer.Serialize(rows, Options);
}

/// <summary>The numbers that stand for words of the core in the database: their one place.</summary>
internal static class Numbers
{
    public static readonly short Administrator = (short)Core.People.SchoolRole.Administrator;
    public static readonly short Keeper = (short)Core.People.CalendarRole.Keeper;
    public static readonly short Open = (short)Core.Proposals.Answer.Open;
    public static readonly short Approved = (short)Core.Proposals.Answer.Approved;
    public static readonly short SentBack = (short)Core.Proposals.Answer.SentBack;
    public static readonly short Declined = (short)Core.Proposals.Answer.Declined;
    public static readonly short Contents = (short)Core.Proposals.AskKind.Contents;
    public static readonly short Members = (short)Core.Reach.Audience.Members;

    /// <summary>What can still be answered.</summary>
    public static readonly string Undecided = $"({Open}, {SentBack})";

    /// <summary>What was decided.</summary>
    public static readonly string Decided = $"({Approved}, {Declined})";
}
