using System.Data.Common;
using System.Text.Json;
using Dapper;
using Valtro.Core;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>What a school keeps for all its calendars: categories, places, limits.</summary>
public sealed class Lists(Connections db)
{
    // Everything is written: a zero says something else than nothing.
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    /// <summary>The lists of a school; empty ones when it has set nothing.</summary>
    public async Task<SchoolLists> GetAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await GetAsync(connection, schoolId);
    }

    /// <summary>Keeps the lists; what goes out by them gets a new revision.</summary>
    /// <exception cref="StaleWriteException">The stored version is no longer the one before <paramref name="after"/>'s.</exception>
    public async Task SaveAsync(SchoolLists after, Author author, string action = "change", CancellationToken cancellation = default)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author, cancellation: cancellation);
        await SaveAsync(write, after, action);
        await write.CommitAsync(cancellation);
    }

    /// <summary>Keeps the lists within a write that does more.</summary>
    internal static async Task SaveAsync(WriteTransaction write, SchoolLists after, string action)
    {
        var author = write.Author;
        await write.HoldSchoolAsync();
        var before = await GetAsync(write.Connection, author.SchoolId);
        var kept = await write.Connection.ExecuteAsync(
            """
            insert into school_lists (school_id, lists, version) values (@SchoolId, @lists::jsonb, @Version)
            on conflict (school_id) do update set lists = excluded.lists, version = excluded.version
            where school_lists.version = excluded.version - 1
            """,
            new { author.SchoolId, lists = JsonSerializer.Serialize(after, Json), after.Version });
        if (kept == 0 || before.Version != after.Version - 1)
            throw new StaleWriteException(await GetAsync(write.Connection, author.SchoolId));
        write.Record("lists", author.SchoolId, action, before, after);
        write.Touch(await Publications.AlteredAsync(write.Connection, author, before, after));
    }

    internal const string Selected = "select lists::text from school_lists where school_id = @SchoolId;";

    internal static async Task<SchoolLists> ReadAsync(SqlMapper.GridReader result) =>
        await result.ReadSingleOrDefaultAsync<string?>() is { } text ? JsonSerializer.Deserialize<SchoolLists>(text, Json)! : SchoolLists.Empty;

    /// <summary>Lists as they lie in the history.</summary>
    internal static SchoolLists OfHistory(string text) => JsonSerializer.Deserialize<SchoolLists>(text, Json)!;

    internal static async Task<SchoolLists> GetAsync(DbConnection connection, Guid schoolId) =>
        await connection.ExecuteScalarAsync<string?>("select lists::text from school_lists where school_id = @schoolId", new { schoolId }) is { } text
            ? JsonSerializer.Deserialize<SchoolLists>(text, Json)!
            : SchoolLists.Empty;
}
