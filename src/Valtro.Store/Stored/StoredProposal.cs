using System.Text.Json;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Proposals;

namespace Valtro.Store;

/// <summary>A proposal as it lies in the history, for taking steps on it back; events within in their own form.</summary>
internal sealed record StoredProposal(
    int Form, Guid Id, Guid? PersonId, Guid EventId, bool IsNew, JsonElement? Base, JsonElement Offered, JsonElement[] Added, string Remark, Ask[] Asks, Instant CreatedAt, Instant ChangedAt, int Version)
{
    public static string Write(Proposal p)
    {
        static JsonElement Part(Event e) => JsonDocument.Parse(StoredEvent.Write(e)).RootElement;
        return JsonSerializer.Serialize(
            new StoredProposal(
                1, p.Id, p.PersonId, p.EventId, p.IsNew, p.Base is null ? null : Part(p.Base), Part(p.Offered), [.. p.Added.Select(Part)], p.Remark, [.. p.Asks], p.CreatedAt, p.ChangedAt, p.Version),
            StoredJson.Options);
    }

    public static Proposal Read(string text)
    {
        var s = JsonSerializer.Deserialize<StoredProposal>(text, StoredJson.Options)!;
        static Event Part(JsonElement e) => StoredEvent.Read(e.GetRawText());
        return new Proposal
        {
            Id = s.Id,
            PersonId = s.PersonId,
            EventId = s.EventId,
            IsNew = s.IsNew,
            Base = s.Base is { ValueKind: JsonValueKind.Object } b ? Part(b) : null,
            Offered = Part(s.Offered),
            Added = [.. s.Added.Select(Part)],
            Remark = s.Remark,
            Asks = [.. s.Asks],
            CreatedAt = s.CreatedAt,
            ChangedAt = s.ChangedAt,
            Version = s.Version,
        };
    }
}
