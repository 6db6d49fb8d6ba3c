using Dapper;
using NodaTime;

namespace Valtro.Store;

/// <summary>A clash that was accepted.</summary>
/// <param name="Key">What clashes.</param>
/// <param name="Reason">Why that is all right.</param>
/// <param name="Person">Who said so; null for somebody who is gone.</param>
/// <param name="At">When.</param>
public sealed record AcceptedClash(string Key, string Reason, string? Person, Instant At);

/// <summary>Clashes that somebody has accepted.</summary>
public sealed class AcceptedClashes(Connections db)
{
    /// <summary>The most a school keeps; the oldest go first.</summary>
    public const int Max = 5_000;

    /// <summary>All of a school, by what clashes.</summary>
    public async Task<IReadOnlyDictionary<string, AcceptedClash>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            """
            select a.key, a.reason, p.name as person, a.at from accepted_clash a left join person p on p.id = a.person_id
            where a.school_id = @schoolId order by a.at desc limit @Max
            """,
            new { schoolId, Max });
        return rows.ToDictionary(r => r.Key, r => new AcceptedClash(r.Key, r.Reason, r.Person, r.At));
    }

    /// <summary>Accepts one, or changes the reason.</summary>
    public async Task AcceptAsync(string key, string reason, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await write.Connection.ExecuteAsync(
            """
            insert into accepted_clash (school_id, key, reason, person_id, at) values (@SchoolId, @key, @reason, @PersonId, @Now)
            on conflict (school_id, key) do update set reason = excluded.reason, person_id = excluded.person_id, at = excluded.at
            """,
            new { author.SchoolId, author.PersonId, author.Now, key, reason });
        await write.CommitAsync();
    }

    /// <summary>Takes an acceptance back.</summary>
    public async Task TakeBackAsync(string key, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await write.Connection.ExecuteAsync("delete from accepted_clash where school_id = @SchoolId and key = @key", new { author.SchoolId, key });
        await write.CommitAsync();
    }

    private sealed class Row
    {
        public string Key { get; init; } = "";
        public string Reason { get; init; } = "";
        public string? Person { get; init; }
        public Instant At { get; init; }
    }
}
