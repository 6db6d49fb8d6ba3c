using System.Security.Cryptography;
using Dapper;
using NodaTime;
using Valtro.Core.Publishing;

namespace Valtro.Store;

/// <summary>One reader's fetches of one outlet on one day, added up.</summary>
/// <param name="SchoolId">The school.</param>
/// <param name="PublicationId">The publication.</param>
/// <param name="Day">The day, in UTC.</param>
/// <param name="Reader">A hash that means something on this day only.</param>
/// <param name="Outlet">The outlet's number.</param>
/// <param name="Kind">What kind of program.</param>
/// <param name="Family">Its name for itself.</param>
/// <param name="Fetches">How often.</param>
/// <param name="Unchanged">How often it had the newest already.</param>
/// <param name="Revision">The newest revision it got.</param>
/// <param name="At">When it last came.</param>
public sealed record Reading(
    Guid SchoolId, Guid PublicationId, LocalDate Day, byte[] Reader, short Outlet, short Kind, string Family, int Fetches, int Unchanged, long Revision, Instant At);

/// <summary>What was read of a publication by one kind of program on one day.</summary>
/// <param name="Day">The day, in UTC.</param>
/// <param name="Outlet">The outlet's number.</param>
/// <param name="Kind">What kind of program.</param>
/// <param name="Family">Its name for itself.</param>
/// <param name="Fetches">How often.</param>
/// <param name="Unchanged">How often it had the newest already.</param>
/// <param name="Readers">How many.</param>
/// <param name="Newest">How many of these have what is out now.</param>
/// <param name="At">When the last one came.</param>
public sealed record ReadingSum(LocalDate Day, short Outlet, ReaderKind Kind, string Family, int Fetches, int Unchanged, int Readers, int Newest, Instant At);

/// <summary>The reading log. Nobody can be found in it: a reader's hash cannot be made again once the day's salt is gone.</summary>
public sealed class Readings(Connections db)
{
    /// <summary>How long sums are kept.</summary>
    public static readonly Period KeptFor = Period.FromDays(92);

    /// <summary>The school's salt of a day, the same on every server.</summary>
    public async Task<byte[]> SaltAsync(Guid schoolId, LocalDate day)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.ExecuteScalarAsync<byte[]>(
            """
            insert into reading_salt (school_id, day, salt) values (@schoolId, @day, @salt)
            on conflict (school_id, day) do update set salt = reading_salt.salt
            returning salt
            """,
            new { schoolId, day, salt = RandomNumberGenerator.GetBytes(32) }))!;
    }

    /// <summary>Adds what was read since the last time, in one statement a school.</summary>
    public async Task AddAsync(IReadOnlyList<Reading> all)
    {
        foreach (var ofSchool in all.GroupBy(r => r.SchoolId))
            await AddAsync(ofSchool.Key, [.. ofSchool]);
    }

    private async Task AddAsync(Guid schoolId, IReadOnlyList<Reading> readings)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync(
            """
            insert into reading as r (school_id, publication_id, day, reader, outlet, kind, family, fetches, unchanged, revision, at)
            select u.* from unnest(@schools, @publications, @days, @readers, @outlets, @kinds, @families, @fetches, @unchanged, @revisions, @ats) u (school_id, publication_id, day, reader, outlet, kind, family, fetches, unchanged, revision, at)
            where exists (select from publication p where p.id = u.publication_id)
            on conflict (publication_id, day, reader, outlet) do update set
                fetches = r.fetches + excluded.fetches, unchanged = r.unchanged + excluded.unchanged,
                revision = greatest(r.revision, excluded.revision), at = greatest(r.at, excluded.at)
            """,
            new
            {
                schools = readings.Select(r => r.SchoolId).ToArray(),
                publications = readings.Select(r => r.PublicationId).ToArray(),
                days = readings.Select(r => r.Day).ToArray(),
                readers = readings.Select(r => r.Reader).ToArray(),
                outlets = readings.Select(r => r.Outlet).ToArray(),
                kinds = readings.Select(r => r.Kind).ToArray(),
                families = readings.Select(r => r.Family).ToArray(),
                fetches = readings.Select(r => r.Fetches).ToArray(),
                unchanged = readings.Select(r => r.Unchanged).ToArray(),
                revisions = readings.Select(r => r.Revision).ToArray(),
                ats = readings.Select(r => r.At).ToArray(),
            });
    }

    /// <summary>What was read of a publication since a day, by day and kind of program.</summary>
    public async Task<IReadOnlyList<ReadingSum>> SumsAsync(Guid schoolId, Guid publicationId, LocalDate since, long revision)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. (await connection.QueryAsync<(LocalDate Day, short Outlet, short Kind, string Family, int Fetches, int Unchanged, int Readers, int Newest, Instant At)>(
            """
            select day, outlet, kind, family, sum(fetches)::int, sum(unchanged)::int, count(*)::int,
                count(*) filter (where revision >= @revision)::int, max(at)
            from reading where school_id = @schoolId and publication_id = @publicationId and day >= @since
            group by day, outlet, kind, family order by day desc, sum(fetches) desc limit 2000
            """,
            new { schoolId, publicationId, since, revision }))
            .Select(r => new ReadingSum(r.Day, r.Outlet, (ReaderKind)r.Kind, r.Family, r.Fetches, r.Unchanged, r.Readers, r.Newest, r.At))];
    }

    /// <summary>Forgets salts of days that are over, and what is older than is kept.</summary>
    public Task ForgetAsync(LocalDate today) => db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync(
        "delete from reading_salt where day < @yesterday; delete from reading where day < @oldest", new { yesterday = today.PlusDays(-1), oldest = today - KeptFor }));
}
