using Dapper;
using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>The organisation that owns everything below it.</summary>
public sealed record School(Guid Id, string Name, string ShortName, DateTimeZone Zone, string Language);

/// <summary>Schools.</summary>
public sealed class Schools(Connections db)
{
    public async Task<bool> AnyAsync()
    {
        await using var connection = await db.OpenForNoneAsync();
        return await connection.ExecuteScalarAsync<bool>("select exists (select from school_all())");
    }

    public async Task<School> GetAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var row = await connection.QuerySingleAsync<SchoolRow>(
            Selected, new { SchoolId = schoolId });
        return row.ToSchool();
    }

    /// <summary>One school (@SchoolId).</summary>
    internal const string Selected = "select id, name, short_name, zone, language from school where id = @SchoolId;";

    internal static async Task<School> ReadAsync(SqlMapper.GridReader result) => (await result.ReadSingleAsync<SchoolRow>()).ToSchool();

    public async Task<IReadOnlyList<School>> ListAsync()
    {
        await using var connection = await db.OpenForNoneAsync();
        var rows = await connection.QueryAsync<SchoolRow>("select id, name, short_name, zone, language from school_all()");
        return [.. rows.Select(r => r.ToSchool())];
    }

    public async Task AddAsync(School school, Instant now)
    {
        await using var connection = await db.OpenAsync(school.Id);
        await connection.ExecuteAsync(
            """
            insert into school (id, name, short_name, zone, language, created_at)
            values (@Id, @Name, @ShortName, @Zone, @Language, @now)
            """,
            new { school.Id, school.Name, school.ShortName, Zone = school.Zone.Id, school.Language, now });
    }

    /// <summary>Makes the first school with its administrator. Of two who do at once one does.</summary>
    /// <returns>Whether there was none.</returns>
    public async Task<bool> AddFirstAsync(School school, Person administrator, Instant now)
    {
        await using var write = await WriteTransaction.BeginAsync(db, new Author(school.Id, administrator.Id, now));
        await write.Connection.ExecuteAsync("select pg_advisory_xact_lock(hashtext('first school'))");
        var added = await write.Connection.ExecuteAsync(
            """
            insert into school (id, name, short_name, zone, language, created_at)
            select @Id, @Name, @ShortName, @Zone, @Language, @now where not exists (select from school_all())
            """,
            new { school.Id, school.Name, school.ShortName, Zone = school.Zone.Id, school.Language, now });
        if (added == 0)
            return false;
        await write.Connection.ExecuteAsync(
            "insert into person (id, school_id, name, email, password_hash, role, created_at) values (@Id, @SchoolId, @Name, @Email, @PasswordHash, @role, @now)",
            new { administrator.Id, administrator.SchoolId, administrator.Name, administrator.Email, administrator.PasswordHash, role = (short)administrator.Role, now });
        await write.CommitAsync();
        return true;
    }

    private sealed class SchoolRow
    {
        public Guid Id { get; init; }
        public string Name { get; init; } = "";
        public string ShortName { get; init; } = "";
        public string Zone { get; init; } = "";
        public string Language { get; init; } = "";

        public School ToSchool() => new(Id, Name, ShortName, Zones.Get(Zone), Language);
    }
}
