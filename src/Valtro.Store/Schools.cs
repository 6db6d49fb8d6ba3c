using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>The organisation that owns everything below it.</summary>
public sealed record School(Guid Id, string Name, string ShortName, DateTimeZone Zone, string Language);

/// <summary>Schools and their years.</summary>
public sealed class Schools(NpgsqlDataSource db)
{
    public async Task<bool> AnyAsync()
    {
        await using var connection = await db.OpenConnectionAsync();
        return await connection.ExecuteScalarAsync<bool>("select exists (select from school)");
    }

    public async Task<School> GetAsync(Guid schoolId)
    {
        await using var connection = await db.OpenConnectionAsync();
        var row = await connection.QuerySingleAsync<SchoolRow>(
            "select id, name, short_name, zone, language from school where id = @schoolId", new { schoolId });
        return new School(row.Id, row.Name, row.ShortName, Zones.Get(row.Zone), row.Language);
    }

    public async Task AddAsync(School school, Instant now)
    {
        await using var connection = await db.OpenConnectionAsync();
        await connection.ExecuteAsync(
            """
            insert into school (id, name, short_name, zone, language, created_at)
            values (@Id, @Name, @ShortName, @Zone, @Language, @now)
            """,
            new { school.Id, school.Name, school.ShortName, Zone = school.Zone.Id, school.Language, now });
    }

    /// <summary>The school year around a date; a plain one when the school has kept none.</summary>
    public async Task<SchoolYear> YearAsync(Guid schoolId, LocalDate date)
    {
        await using var connection = await db.OpenConnectionAsync();
        using var result = await connection.QueryMultipleAsync(
            """
            select id, first_day, last_day, cycle_length, week_letters from school_year
            where school_id = @schoolId and @date between first_day and last_day limit 1;
            select name, first_day, last_day from term t
            where school_id = @schoolId and school_year_id in
                (select id from school_year where school_id = @schoolId and @date between first_day and last_day limit 1)
            order by first_day;
            select name, first_day, last_day from closure
            where school_id = @schoolId and school_year_id in
                (select id from school_year where school_id = @schoolId and @date between first_day and last_day limit 1)
            order by first_day;
            """,
            new { schoolId, date });
        var year = await result.ReadSingleOrDefaultAsync<YearRow>();
        if (year is null)
            return SchoolYear.Plain(date);
        var terms = (await result.ReadAsync<SpanRow>()).Select(t => new Term(t.Name, t.FirstDay, t.LastDay)).ToList();
        var closures = (await result.ReadAsync<SpanRow>()).Select(c => new Closure(c.Name, c.FirstDay, c.LastDay)).ToList();
        return new SchoolYear(year.FirstDay, year.LastDay, terms, closures, year.CycleLength, year.WeekLetters);
    }

    public async Task AddYearAsync(Guid schoolId, SchoolYear year, int cycleLength, IReadOnlyList<string> weekLetters)
    {
        await using var connection = await db.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        var yearId = Guid.CreateVersion7();
        await connection.ExecuteAsync(
            """
            insert into school_year (id, school_id, first_day, last_day, cycle_length, week_letters)
            values (@yearId, @schoolId, @First, @Last, @cycleLength, @letters)
            """,
            new { yearId, schoolId, year.First, year.Last, cycleLength, letters = weekLetters.ToArray() });
        await connection.ExecuteAsync(
            "insert into term (id, school_id, school_year_id, name, first_day, last_day) values (@id, @schoolId, @yearId, @Name, @First, @Last)",
            year.Terms.Select(t => new { id = Guid.CreateVersion7(), schoolId, yearId, t.Name, t.First, t.Last }));
        await connection.ExecuteAsync(
            "insert into closure (id, school_id, school_year_id, name, first_day, last_day) values (@id, @schoolId, @yearId, @Name, @First, @Last)",
            year.Closures.Select(c => new { id = Guid.CreateVersion7(), schoolId, yearId, c.Name, c.First, c.Last }));
        await transaction.CommitAsync();
    }

    private sealed class SchoolRow
    {
        public Guid Id { get; init; }
        public string Name { get; init; } = "";
        public string ShortName { get; init; } = "";
        public string Zone { get; init; } = "";
        public string Language { get; init; } = "";
    }

    private sealed class YearRow
    {
        public Guid Id { get; init; }
        public LocalDate FirstDay { get; init; }
        public LocalDate LastDay { get; init; }
        public int CycleLength { get; init; }
        public string[] WeekLetters { get; init; } = [];
    }

    private sealed class SpanRow
    {
        public string Name { get; init; } = "";
        public LocalDate FirstDay { get; init; }
        public LocalDate LastDay { get; init; }
    }
}
