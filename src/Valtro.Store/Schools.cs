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
        await using var connection = await db.OpenForAllAsync();
        return await connection.ExecuteScalarAsync<bool>("select exists (select from school)");
    }

    public async Task<School> GetAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var row = await connection.QuerySingleAsync<SchoolRow>(
            "select id, name, short_name, zone, language from school where id = @schoolId", new { schoolId });
        return new School(row.Id, row.Name, row.ShortName, Zones.Get(row.Zone), row.Language);
    }

    public async Task<IReadOnlyList<School>> ListAsync()
    {
        await using var connection = await db.OpenForAllAsync();
        var rows = await connection.QueryAsync<SchoolRow>("select id, name, short_name, zone, language from school order by created_at, id");
        return [.. rows.Select(r => new School(r.Id, r.Name, r.ShortName, Zones.Get(r.Zone), r.Language))];
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

    private sealed class SchoolRow
    {
        public Guid Id { get; init; }
        public string Name { get; init; } = "";
        public string ShortName { get; init; } = "";
        public string Zone { get; init; } = "";
        public string Language { get; init; } = "";
    }
}
