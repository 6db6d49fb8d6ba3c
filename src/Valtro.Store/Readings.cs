using System.Buffers.Binary;
using System.Data.Common;
using System.Security.Cryptography;
using Dapper;
using NodaTime;
using Valtro.Core.Publishing;

namespace Valtro.Store;

/// <summary>What is read of one outlet by one kind of program on one day.</summary>
/// <param name="PublicationId">The publication.</param>
/// <param name="Day">The day, in UTC.</param>
/// <param name="Outlet">The outlet's number.</param>
/// <param name="Kind">What kind of program.</param>
/// <param name="Family">Its name for itself.</param>
public readonly record struct ReadingKey(Guid PublicationId, LocalDate Day, short Outlet, short Kind, string Family);

/// <summary>How much that was, added up.</summary>
public sealed class ReadingTally
{
    /// <summary>How often.</summary>
    public long Fetches { get; set; }

    /// <summary>How often they had the newest already.</summary>
    public long Unchanged { get; set; }

    /// <summary>Who; a reader is a hash that means something on this day only.</summary>
    public ReadersByRevision Readers { get; init; } = new();

    /// <summary>When the last one came.</summary>
    public Instant At { get; set; }

    /// <summary>Adds what was read elsewhere, or before.</summary>
    public void Add(ReadingTally other)
    {
        (Fetches, Unchanged, At) = (Fetches + other.Fetches, Unchanged + other.Unchanged, Instant.Max(At, other.At));
        Readers.Add(other.Readers);
    }
}

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

    /// <summary>Adds what was read since the last time.</summary>
    public async Task AddAsync(Guid schoolId, IReadOnlyDictionary<ReadingKey, ReadingTally> read)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        await AddAsync(connection, schoolId, read);
        await transaction.CommitAsync();
    }

    /// <summary>What was read of a publication since a day, by day and kind of program.</summary>
    public async Task<IReadOnlyList<ReadingSum>> SumsAsync(Guid schoolId, Guid publicationId, LocalDate since, long revision)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            "select publication_id, day, outlet, kind, family, fetches, unchanged, readers, at from readings_of_day where school_id = @schoolId and publication_id = @publicationId and day >= @since order by day desc, fetches desc limit 2000",
            new { schoolId, publicationId, since });
        return [.. rows.Select(r =>
        {
            var readers = ReadersByRevision.Read(r.Readers);
            return new ReadingSum(r.Day, r.Outlet, (ReaderKind)r.Kind, r.Family, (int)Math.Min(r.Fetches, int.MaxValue), (int)Math.Min(r.Unchanged, int.MaxValue), readers.CountFrom(), readers.CountFrom(revision), r.At);
        })];
    }

    /// <summary>Moves what was kept a row a reader, a day of a publication at a time, until none is left.</summary>
    /// <returns>How many rows were moved.</returns>
    public Task<int> MoveOldAsync() => db.InEachSchoolAsync(async (schoolId, connection) =>
    {
        for (var moved = 0; ;)
        {
            await using var transaction = await connection.BeginTransactionAsync();
            // Another server that does the same finds it done, or has another day.
            var old = (await connection.QueryAsync<OldRow>(
                """
                with first as (select publication_id, day from reading where school_id = @schoolId limit 1)
                delete from reading r using first f where r.publication_id = f.publication_id and r.day = f.day
                returning r.publication_id, r.day, r.reader, r.outlet, r.kind, r.family, r.fetches, r.unchanged, r.revision, r.at
                """,
                new { schoolId })).AsList();
            if (old.Count == 0)
                return moved;
            var read = new Dictionary<ReadingKey, ReadingTally>();
            foreach (var row in old)
            {
                var tally = TallyOf(read, new ReadingKey(row.PublicationId, row.Day, row.Outlet, row.Kind, row.Family));
                (tally.Fetches, tally.Unchanged, tally.At) = (tally.Fetches + row.Fetches, tally.Unchanged + row.Unchanged, Instant.Max(tally.At, row.At));
                tally.Readers.Add(row.Revision, BinaryPrimitives.ReadUInt64BigEndian(row.Reader));
            }
            await AddAsync(connection, schoolId, read);
            await transaction.CommitAsync();
            moved += old.Count;
        }
    });

    /// <summary>The tally of something that is read.</summary>
    public static ReadingTally TallyOf(Dictionary<ReadingKey, ReadingTally> read, ReadingKey key) => read.TryGetValue(key, out var tally) ? tally : read[key] = new ReadingTally();

    // Rows are held in one order, so that two servers that write at once wait for each other and not in a circle.
    private static async Task AddAsync(DbConnection connection, Guid schoolId, IReadOnlyDictionary<ReadingKey, ReadingTally> read)
    {
        var rows = read.OrderBy(r => r.Key.PublicationId).ThenBy(r => r.Key.Day).ThenBy(r => r.Key.Outlet).ThenBy(r => r.Key.Kind).ThenBy(r => r.Key.Family, StringComparer.Ordinal).ToList();
        var keys = new
        {
            schoolId,
            publications = rows.Select(r => r.Key.PublicationId).ToArray(),
            days = rows.Select(r => r.Key.Day).ToArray(),
            outlets = rows.Select(r => r.Key.Outlet).ToArray(),
            kinds = rows.Select(r => r.Key.Kind).ToArray(),
            families = rows.Select(r => r.Key.Family).ToArray(),
        };
        const string Wanted = "unnest(@publications, @days, @outlets, @kinds, @families) with ordinality w (publication_id, day, outlet, kind, family, n)";
        var known = await connection.QueryAsync<Row>(
            $"""
            insert into readings_of_day (publication_id, school_id, day, outlet, kind, family, fetches, unchanged, readers, at)
            select w.publication_id, @schoolId, w.day, w.outlet, w.kind, w.family, 0, 0, '', '-infinity'
            from {Wanted} where exists (select from publication p where p.id = w.publication_id and p.school_id = @schoolId) order by w.n
            on conflict do nothing;
            select r.publication_id, r.day, r.outlet, r.kind, r.family, r.readers from readings_of_day r
            join {Wanted} using (publication_id, day, outlet, kind, family) where r.school_id = @schoolId order by w.n for update of r
            """,
            keys);
        var all = known.Select(r =>
        {
            var readers = ReadersByRevision.Read(r.Readers);
            var tally = read[r.Key];
            readers.Add(tally.Readers);
            return (r.Key, Tally: tally, Readers: readers.Write());
        }).ToList();
        await connection.ExecuteAsync(
            """
            update readings_of_day r set fetches = r.fetches + u.fetches, unchanged = r.unchanged + u.unchanged, readers = u.readers, at = greatest(r.at, u.at)
            from unnest(@publications, @days, @outlets, @kinds, @families, @fetches, @unchanged, @readers, @ats) u (publication_id, day, outlet, kind, family, fetches, unchanged, readers, at)
            where (r.publication_id, r.day, r.outlet, r.kind, r.family) = (u.publication_id, u.day, u.outlet, u.kind, u.family)
            """,
            new
            {
                publications = all.Select(r => r.Key.PublicationId).ToArray(),
                days = all.Select(r => r.Key.Day).ToArray(),
                outlets = all.Select(r => r.Key.Outlet).ToArray(),
                kinds = all.Select(r => r.Key.Kind).ToArray(),
                families = all.Select(r => r.Key.Family).ToArray(),
                fetches = all.Select(r => r.Tally.Fetches).ToArray(),
                unchanged = all.Select(r => r.Tally.Unchanged).ToArray(),
                readers = all.Select(r => r.Readers).ToArray(),
                ats = all.Select(r => r.Tally.At).ToArray(),
            });
    }

    /// <summary>Forgets salts of days that are over, and what is older than is kept.</summary>
    public Task ForgetAsync(LocalDate today) => db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync(
        "delete from reading_salt where day < @yesterday; delete from readings_of_day where day < @oldest", new { yesterday = today.PlusDays(-1), oldest = today - KeptFor }));

    private sealed class Row
    {
        public Guid PublicationId { get; init; }
        public LocalDate Day { get; init; }
        public short Outlet { get; init; }
        public short Kind { get; init; }
        public string Family { get; init; } = "";
        public long Fetches { get; init; }
        public long Unchanged { get; init; }
        public byte[] Readers { get; init; } = [];
        public Instant At { get; init; }

        public ReadingKey Key => new(PublicationId, Day, Outlet, Kind, Family);
    }

    private sealed class OldRow
    {
        public Guid PublicationId { get; init; }
        public LocalDate Day { get; init; }
        public byte[] Reader { get; init; } = [];
        public short Outlet { get; init; }
        public short Kind { get; init; }
        public string Family { get; init; } = "";
        public int Fetches { get; init; }
        public int Unchanged { get; init; }
        public long Revision { get; init; }
        public Instant At { get; init; }
    }
}
