namespace Valtro.Store;

/// <summary>A change as it is told: never what changed, only whom it concerns.</summary>
/// <param name="SchoolId">The school.</param>
/// <param name="PersonId">Who made it; nobody for the program.</param>
/// <param name="IsOfTeams">Whether members without a part in it see nothing of it.</param>
/// <param name="Concerns">The calendars and persons it concerns then.</param>
public sealed record ChangeNotice(Guid SchoolId, Guid PersonId, bool IsOfTeams, IReadOnlySet<Guid> Concerns);

/// <summary>What is told through PostgreSQL (NOTIFY) with every change.</summary>
public static class Changes
{
    /// <summary>The channel.</summary>
    public const string Channel = "valtro_changes";

    // A payload has less than 8000 bytes.
    private const int MaxIds = 200;

    /// <param name="author">Who made it.</param>
    /// <param name="isForMembers">Whether every member may see something of it.</param>
    /// <param name="concerns">The calendars and persons it concerns beside, or alone.</param>
    internal static string[] Write(Author author, bool isForMembers, IReadOnlyCollection<Guid> concerns)
    {
        var head = $"{author.SchoolId:N}{author.PersonId ?? Guid.Empty:N}";
        IEnumerable<string> ofTeams = concerns.Order().Chunk(MaxIds).Select(ids => head + 't' + string.Concat(ids.Select(id => id.ToString("N")))).DefaultIfEmpty(head + 't');
        return isForMembers ? concerns.Count == 0 ? [head + 'm'] : [head + 'm', .. ofTeams] : [.. ofTeams];
    }

    /// <summary>Reads what was told; null when it is nothing of ours.</summary>
    public static ChangeNotice? Read(string payload)
    {
        if (payload.Length < 65 || (payload.Length - 65) % 32 != 0 || !Guid.TryParseExact(payload[..32], "N", out var schoolId) || !Guid.TryParseExact(payload[32..64], "N", out var personId))
            return null;
        var concerns = new HashSet<Guid>();
        for (var i = 65; i < payload.Length; i += 32)
        {
            if (!Guid.TryParseExact(payload.AsSpan(i, 32), "N", out var id))
                return null;
            concerns.Add(id);
        }
        return new ChangeNotice(schoolId, personId, payload[64] == 't', concerns);
    }
}
