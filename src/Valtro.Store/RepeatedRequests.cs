using Dapper;
using NodaTime;

namespace Valtro.Store;

/// <summary>A request that was done already.</summary>
/// <param name="RequestHash">Of all that it asked.</param>
/// <param name="Status">The status of its answer; null when the answer is not known, or not yet.</param>
/// <param name="ContentType">What its answer is.</param>
/// <param name="Answer">Its answer.</param>
public sealed record RepeatedRequest(byte[] RequestHash, int? Status, string? ContentType, byte[]? Answer);

/// <summary>
/// Requests that may come again because their answers can be lost. That one was done is written with what it changed
/// (<see cref="Repeatable"/>).
/// </summary>
public sealed class RepeatedRequests(Connections db)
{
    /// <summary>How long the same request gives the first answer.</summary>
    public static readonly Duration Kept = Duration.FromHours(24);

    public async Task<RepeatedRequest?> FindAsync(Guid schoolId, Guid personId, string key, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        // One that is too old is forgotten here: its name is free again.
        return await connection.QuerySingleOrDefaultAsync<RepeatedRequest>(
            """
            delete from repeated where person_id = @personId and key = @key and at <= @before;
            select request_hash, status, content_type, answer from repeated where school_id = @schoolId and person_id = @personId and key = @key
            """,
            new { schoolId, personId, key, before = now - Kept });
    }

    /// <summary>Keeps the answer to a request that was done.</summary>
    public async Task AnswerAsync(Guid schoolId, Guid personId, string key, int status, string? contentType, byte[] answer)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync(
            "update repeated set status = @status, content_type = @contentType, answer = @answer where school_id = @schoolId and person_id = @personId and key = @key and status is null",
            new { schoolId, personId, key, status, contentType, answer });
    }

    /// <summary>Forgets those that are too old.</summary>
    public Task<int> RemoveOldAsync(Instant now) =>
        db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync("delete from repeated where at <= @before", new { before = now - Kept }));
}
