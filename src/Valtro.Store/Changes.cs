namespace Valtro.Store;

/// <summary>What is told through PostgreSQL (NOTIFY) with every change: the school and who made it.</summary>
public static class Changes
{
    /// <summary>The channel.</summary>
    public const string Channel = "valtro_changes";

    internal static string Write(Author author) => $"{author.SchoolId:N}{author.PersonId ?? Guid.Empty:N}";

    /// <summary>Reads what was told; false when it is nothing of ours.</summary>
    public static bool TryRead(string payload, out Guid schoolId, out Guid personId)
    {
        personId = Guid.Empty;
        schoolId = Guid.Empty;
        return payload.Length == 64 && Guid.TryParseExact(payload[..32], "N", out schoolId) && Guid.TryParseExact(payload[32..], "N", out personId);
    }
}
