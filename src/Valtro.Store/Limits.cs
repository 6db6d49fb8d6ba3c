using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Valtro.Core.Limits;

namespace Valtro.Store;

/// <summary>How much a school takes of the installation, and may.</summary>
public sealed class Limits(Connections db)
{
    private static readonly Duration Day = Duration.FromHours(24);

    /// <summary>The limits of a school, how much it takes, and how many letters to readers wait for tomorrow or their turn.</summary>
    public async Task<(SchoolLimits Limits, IReadOnlyDictionary<Limited, long> Taken, int Waiting)> GetAsync(Guid schoolId, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var limits = await OfAsync(db, connection, schoolId);
        var taken = new Dictionary<Limited, long>();
        foreach (var what in Enum.GetValues<Limited>())
            taken[what] = await TakenAsync(connection, schoolId, what, now);
        var waiting = await connection.ExecuteScalarAsync<int>("select count(*)::int from mail where school_id = @schoolId and sent_at is null and reader_id is not null and next_try_at <= @now", new { schoolId, now });
        return (limits, taken, waiting);
    }

    /// <summary>What is set for a school alone.</summary>
    public async Task<OwnLimits> GetOwnAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await OwnAsync(connection, schoolId);
    }

    /// <summary>Sets what holds for a school alone.</summary>
    public async Task SetOwnAsync(Guid schoolId, OwnLimits own)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync("update school set limits = @limits::jsonb where id = @schoolId", new { schoolId, limits = JsonSerializer.Serialize(own, StoredJson.Options) });
    }

    /// <summary>Refuses a write that was done and would be more than the school may have. Of several at once each knows of the others near the limit.</summary>
    /// <exception cref="Valtro.Core.InvalidInputException"><c>limit_…</c>.</exception>
    internal static async Task NeedAsync(Connections db, WriteTransaction write, Limited what)
    {
        var (connection, author) = (write.Connection, write.Author);
        var limits = await OfAsync(db, connection, author.SchoolId);
        var taken = await TakenAsync(connection, author.SchoolId, what, author.Now);
        if (limits.IsNear(what, taken))
        {
            await connection.ExecuteAsync("select pg_advisory_xact_lock(hashtext('limits ' || @school))", new { school = author.SchoolId.ToString() });
            taken = await TakenAsync(connection, author.SchoolId, what, author.Now);
        }
        limits.Need(what, taken);
    }

    /// <summary>The moment from which on what was sent counts.</summary>
    internal static Instant CountedFrom(Instant now) => now - Day;

    private static async Task<SchoolLimits> OfAsync(Connections db, DbConnection connection, Guid schoolId) => db.Limits.With(await OwnAsync(connection, schoolId));

    private static async Task<OwnLimits> OwnAsync(DbConnection connection, Guid schoolId) =>
        await connection.ExecuteScalarAsync<string?>("select limits::text from school where id = @schoolId", new { schoolId }) is { } text
            ? JsonSerializer.Deserialize<OwnLimits>(text, StoredJson.Options)!
            : new OwnLimits();

    private static Task<long> TakenAsync(DbConnection connection, Guid schoolId, Limited what, Instant now) => connection.ExecuteScalarAsync<long>(
        what switch
        {
            Limited.Events => "select count(*) from event where school_id = @schoolId and deleted_at is null",
            Limited.Publications => "select count(*) from publication where school_id = @schoolId",
            Limited.Storage => "select coalesce(sum(size), 0)::bigint from content where school_id = @schoolId",
            _ => "select count(*) from mail where school_id = @schoolId and (sent_at > @since or sent_at is null and reader_id is null and next_try_at < 'infinity')",
        },
        new { schoolId, since = CountedFrom(now) });
}
