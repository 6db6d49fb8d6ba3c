using Dapper;
using NodaTime;

namespace Valtro.Store;

/// <summary>Something that was done.</summary>
/// <param name="Id">Identity.</param>
/// <param name="At">When.</param>
/// <param name="Person">By whom; null when they were erased, or nobody was signed in.</param>
/// <param name="Action">What, as the endpoint it came through, or a word for what has none.</param>
/// <param name="About">The title or name of what it was done to; null when it has none any more.</param>
/// <param name="Address">From which network address.</param>
public sealed record AuditEntry(Guid Id, Instant At, string? Person, string Action, string? About, string Address);

/// <summary>Who did what, from where.</summary>
public sealed class AuditLog(Connections db)
{
    /// <summary>How long it is kept.</summary>
    public static readonly Duration Kept = Duration.FromDays(365);

    /// <summary>The most that is told at once.</summary>
    public const int Page = 200;

    public async Task AddAsync(Guid schoolId, Guid? personId, string action, Guid? aboutId, string address, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync(
            "insert into audit (id, school_id, person_id, at, action, about_id, address) values (@Id, @schoolId, @personId, @now, @action, @aboutId, @address)",
            new { Id = Guid.CreateVersion7(), schoolId, personId, now, action, aboutId, address });
    }

    /// <summary>The newest entries.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="personId">Only those of one person.</param>
    /// <param name="before">Only those before an entry.</param>
    /// <param name="limit">How many.</param>
    public async Task<IReadOnlyList<AuditEntry>> ListAsync(Guid schoolId, Guid? personId, Guid? before, int limit = Page)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. await connection.QueryAsync<AuditEntry>(
            """
            select a.id, a.at, p.name as person, a.action,
                coalesce(
                    (select c.title from calendar c where c.id = a.about_id), (select e.title from event e where e.id = a.about_id),
                    (select u.title from publication u where u.id = a.about_id), (select x.name from person x where x.id = a.about_id),
                    (select g.name from person_group g where g.id = a.about_id), (select q.offered->>'title' from proposal q where q.id = a.about_id)) as about,
                a.address
            from audit a left join person p on p.id = a.person_id
            where a.school_id = @schoolId and (@personId::uuid is null or a.person_id = @personId)
              and (@before::uuid is null or (a.at, a.id) < (select b.at, b.id from audit b where b.id = @before))
            order by a.at desc, a.id desc limit @limit
            """,
            new { schoolId, personId, before, limit })];
    }

    /// <summary>Removes what has been kept for its time.</summary>
    public Task<int> RemoveOldAsync(Instant now) =>
        db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync("delete from audit where at < @before", new { before = now - Kept }));
}
