using System.Collections.Immutable;
using System.Text.Json;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;

namespace Valtro.Store;

/// <summary>A school's years at a moment.</summary>
/// <param name="Days">What each day is.</param>
/// <param name="Revision">Which state of the years this is; dates are saved only while it is the current one.</param>
public sealed record KnownYears(SchoolDays Days, int Revision);

/// <summary>The school's years changed while dates were computed by them. Computing again mends it.</summary>
public sealed class StaleYearsException() : Exception("The school year changed meanwhile.");

/// <summary>School years, and the series that follow them.</summary>
public sealed class SchoolYears(Connections db)
{
    /// <summary>All years of a school.</summary>
    public async Task<KnownYears> GetAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await GetAsync(connection, schoolId);
    }

    /// <summary>What keeping a year, or giving one up, would do to the series that follow school days; nothing is saved.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="id">Which year; a new one's own.</param>
    /// <param name="year">The year as it shall be; null to give one up.</param>
    /// <param name="now">The moment.</param>
    /// <exception cref="InvalidInputException"><c>school_years_overlap</c>.</exception>
    public async Task<(SchoolDays Days, IReadOnlyList<(Event Before, Event After)> Series)> PlanAsync(Guid schoolId, Guid id, SchoolYear? year, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var known = await GetAsync(connection, schoolId);
        var days = With(known.Days, id, year);
        return (days, Recomputed(await Events.ListFollowingAsync(connection, schoolId), days, now));
    }

    /// <summary>Keeps a year, or gives one up, and computes the dates of the series that follow school days anew.</summary>
    /// <param name="before">The year as it was; null for a new one.</param>
    /// <param name="after">The year as it shall be; null to give it up.</param>
    /// <param name="author">Who does it.</param>
    /// <returns>The series whose dates changed.</returns>
    /// <exception cref="InvalidInputException"><c>school_years_overlap</c>.</exception>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    public async Task<IReadOnlyList<Event>> SaveAsync(SchoolYear? before, SchoolYear? after, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        // The row is held to the end: nobody saves dates by the old years meanwhile.
        await write.Connection.ExecuteAsync("update school set years_revision = years_revision + 1 where id = @SchoolId", new { author.SchoolId });
        var known = await GetAsync(write.Connection, author.SchoolId);
        var id = (after ?? before)!.Id;
        var stored = known.Days.Years.FirstOrDefault(y => y.Id == id);
        if (stored?.Version != before?.Version)
            throw new StaleWriteException(stored ?? before!);
        var days = With(known.Days, id, after);

        await write.Connection.ExecuteAsync("delete from school_year where id = @id and school_id = @SchoolId", new { id, author.SchoolId });
        if (after is not null)
            await InsertAsync(write.Connection, author.SchoolId, after);
        await write.RecordAsync(
            "school_year", id, before is null ? "create" : after is null ? "remove" : "change", before is null ? null : new YearRow(before), after is null ? null : new YearRow(after));

        var changed = Recomputed(await Events.ListFollowingAsync(write.Connection, author.SchoolId), days, author.Now);
        foreach (var (was, now) in changed)
            await Events.UpdateAsync(write, was, now, "school year");
        await write.TouchPublicationsAsync([.. changed.Select(e => e.After.CalendarId).Distinct()]);
        await write.CommitAsync();
        return [.. changed.Select(e => e.After)];
    }

    /// <summary>Holds the years as they are until a transaction ends.</summary>
    /// <exception cref="StaleYearsException">They are other ones already.</exception>
    internal static async Task HoldAsync(WriteTransaction write, int revision)
    {
        var current = await write.Connection.ExecuteScalarAsync<int>("select years_revision from school where id = @SchoolId for share", new { write.Author.SchoolId });
        if (current != revision)
            throw new StaleYearsException();
    }

    private static SchoolDays With(SchoolDays days, Guid id, SchoolYear? year)
    {
        var others = days.Years.Where(y => y.Id != id);
        if (year is not null && others.FirstOrDefault(y => y.First <= year.Last && year.First <= y.Last) is { } other)
            throw new InvalidInputException("school_years_overlap", "first", $"It overlaps the school year {other.First.Year}–{other.Last.Year}. A day lies in one school year.");
        return new SchoolDays(year is null ? others : others.Append(year));
    }

    private static IReadOnlyList<(Event Before, Event After)> Recomputed(IEnumerable<Event> events, SchoolDays days, Instant now) =>
        [.. events.Select(e => (Before: e, After: e.Recomputed(days, now))).Where(e => !ReferenceEquals(e.Before, e.After))];

    private static async Task<KnownYears> GetAsync(NpgsqlConnection connection, Guid schoolId)
    {
        using var result = await connection.QueryMultipleAsync(
            """
            select years_revision from school where id = @schoolId;
            select id, first_day, last_day, week, cycle_length, cycle_restarts, pins::text as pins, week_letters, letters_restart, version
            from school_year where school_id = @schoolId;
            select school_year_id, name, first_day, last_day from term where school_id = @schoolId;
            select school_year_id, name, first_day, last_day, calendar_ids from closure where school_id = @schoolId;
            """,
            new { schoolId });
        var revision = await result.ReadSingleAsync<int>();
        var years = (await result.ReadAsync<YearRow>()).AsList();
        var terms = (await result.ReadAsync<SpanRow>()).ToLookup(t => t.SchoolYearId);
        var closures = (await result.ReadAsync<SpanRow>()).ToLookup(c => c.SchoolYearId);
        return new KnownYears(new SchoolDays(years.Select(y => y.ToYear(terms[y.Id], closures[y.Id]).Checked())), revision);
    }

    private static async Task InsertAsync(NpgsqlConnection connection, Guid schoolId, SchoolYear year)
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
