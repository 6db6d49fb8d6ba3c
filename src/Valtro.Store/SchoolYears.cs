using System.Collections.Immutable;
using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;

namespace Valtro.Store;

/// <summary>A school's years at a moment.</summary>
/// <param name="Days">What each day is.</param>
public sealed record KnownYears(SchoolDays Days);

/// <summary>School years, and the series that follow them.</summary>
public sealed class SchoolYears(Connections db)
{
    /// <summary>All years of a school.</summary>
    public async Task<KnownYears> GetAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await GetAsync(connection, schoolId);
    }

    /// <summary>The years in four results.</summary>
    internal const string Selected =
        """
        select id, first_day, last_day, week, cycle_length, cycle_restarts, pins::text as pins, week_letters, letters_restart, version
        from school_year where school_id = @SchoolId;
        select school_year_id, name, first_day, last_day from term where school_id = @SchoolId;
        select school_year_id, name, first_day, last_day, calendar_ids from closure where school_id = @SchoolId;
        """;

    internal static async Task<KnownYears> ReadAsync(SqlMapper.GridReader result)
    {
        var years = (await result.ReadAsync<YearRow>()).AsList();
        var terms = (await result.ReadAsync<SpanRow>()).ToLookup(t => t.SchoolYearId);
        var closures = (await result.ReadAsync<SpanRow>()).ToLookup(c => c.SchoolYearId);
        return new KnownYears(new SchoolDays(years.Select(y => y.ToYear(terms[y.Id], closures[y.Id]).Checked())));
    }

    /// <summary>Keeps a year, or gives one up, within a write that computes the series that follow it.</summary>
    internal static async Task SaveAsync(WriteTransaction write, SchoolYear? before, SchoolYear? after, string action)
    {
        var (id, schoolId) = ((after ?? before)!.Id, write.Author.SchoolId);
        await write.Connection.ExecuteAsync("delete from school_year where id = @id and school_id = @schoolId", new { id, schoolId });
        if (after is not null)
            await InsertAsync(write.Connection, schoolId, after);
        write.Record("school_year", id, action, before is null ? null : new YearRow(before), after is null ? null : new YearRow(after));
        // A term's page is made of its weeks.
        await write.TouchAllAsync();
        write.ConcernsMembers();
    }

    /// <summary>A year as it lies in the history.</summary>
    internal static SchoolYear OfHistory(string text)
    {
        var row = JsonSerializer.Deserialize<YearRow>(text, StoredJson.Options)!;
        return row.ToYear([], []) with { Terms = [.. row.Terms], Closures = [.. row.Closures] };
    }

    /// <summary>The years with one kept otherwise, new, or given up.</summary>
    /// <exception cref="InvalidInputException"><c>school_years_overlap</c>.</exception>
    internal static SchoolDays With(SchoolDays days, Guid id, SchoolYear? year)
    {
        var others = days.Years.Where(y => y.Id != id);
        if (year is not null && others.FirstOrDefault(y => y.First <= year.Last && year.First <= y.Last) is { } other)
            throw new InvalidInputException("school_years_overlap", "first", $"It overlaps the school year {other.First.Year}–{other.Last.Year}. A day lies in one school year.");
        return new SchoolDays(year is null ? others : others.Append(year));
    }

    private static async Task<KnownYears> GetAsync(DbConnection connection, Guid schoolId)
    {
        using var result = await connection.QueryMultipleAsync(Selected, new { SchoolId = schoolId });
        return await ReadAsync(result);
    }

    private static async Task InsertAsync(DbConnection connection, Guid schoolId, SchoolYear year)
    {
        var parameters = new DynamicParameters(new YearRow(year));
        parameters.AddDynamicParams(new { schoolId });
        await connection.ExecuteAsync(
            """
            insert into school_year (id, school_id, first_day, last_day, week, cycle_length, cycle_restarts, pins, week_letters, letters_restart, version)
            values (@Id, @schoolId, @FirstDay, @LastDay, @Week, @CycleLength, @CycleRestarts, @Pins::jsonb, @WeekLetters, @LettersRestart, @Version)
            """,
            parameters);
        await connection.ExecuteAsync(
            "insert into term (id, school_id, school_year_id, name, first_day, last_day) values (@id, @schoolId, @yearId, @Name, @First, @Last)",
            year.Terms.Select(t => new { id = Guid.CreateVersion7(), schoolId, yearId = year.Id, t.Name, t.First, t.Last }));
        await connection.ExecuteAsync(
            """
            insert into closure (id, school_id, school_year_id, name, first_day, last_day, calendar_ids)
            values (@id, @schoolId, @yearId, @Name, @First, @Last, @calendarIds)
            """,
            year.Closures.Select(c => new { id = Guid.CreateVersion7(), schoolId, yearId = year.Id, c.Name, c.First, c.Last, calendarIds = c.CalendarIds.ToArray() }));
    }

    private sealed class YearRow
    {
        public YearRow()
        {
        }

        public YearRow(SchoolYear year)
        {
            Id = year.Id;
            FirstDay = year.First;
            LastDay = year.Last;
            Week = year.Week.ToString();
            CycleLength = year.CycleLength;
            CycleRestarts = year.CycleRestarts;
            Pins = JsonSerializer.Serialize(year.Pins, StoredChange.Json);
            WeekLetters = [.. year.WeekLetters];
            LettersRestart = year.LettersRestart;
            Version = year.Version;
            Terms = [.. year.Terms];
            Closures = [.. year.Closures];
        }

        public Guid Id { get; init; }
        public LocalDate FirstDay { get; init; }
        public LocalDate LastDay { get; init; }
        public string Week { get; init; } = "";
        public int CycleLength { get; init; }
        public bool CycleRestarts { get; init; }
        public string Pins { get; init; } = "[]";
        public string[] WeekLetters { get; init; } = [];
        public bool LettersRestart { get; init; }
        public int Version { get; init; }

        // For the history only; they have tables of their own.
        public Term[] Terms { get; init; } = [];
        public Closure[] Closures { get; init; } = [];

        public SchoolYear ToYear(IEnumerable<SpanRow> terms, IEnumerable<SpanRow> closures) => new()
        {
            Id = Id,
            First = FirstDay,
            Last = LastDay,
            Terms = [.. terms.Select(t => new Term(t.Name, t.FirstDay, t.LastDay))],
            Closures = [.. closures.Select(c => new Closure(c.Name, c.FirstDay, c.LastDay) { CalendarIds = [.. c.CalendarIds] })],
            Week = RecurrenceRule.Parse($"FREQ=WEEKLY;BYDAY={Week}", null).Days,
            CycleLength = CycleLength,
            CycleRestarts = CycleRestarts,
            Pins = JsonSerializer.Deserialize<ImmutableArray<PinnedDay>>(Pins, StoredChange.Json),
            WeekLetters = [.. WeekLetters],
            LettersRestart = LettersRestart,
            Version = Version,
        };
    }

    private sealed class SpanRow
    {
        public Guid SchoolYearId { get; init; }
        public string Name { get; init; } = "";
        public LocalDate FirstDay { get; init; }
        public LocalDate LastDay { get; init; }
        public Guid[] CalendarIds { get; init; } = [];
    }
}
