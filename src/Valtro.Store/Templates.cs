using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;

namespace Valtro.Store;

/// <summary>What events can be started from.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Event">The event as the API speaks of it (JSON).</param>
public sealed record StoredTemplate(Guid Id, string Name, string Event);

/// <summary>A school's templates.</summary>
public sealed class Templates(Connections db)
{
    /// <summary>The most a school has.</summary>
    public const int Max = 200;

    public async Task<IReadOnlyList<StoredTemplate>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<StoredTemplate>(
            "select id, name, event::text as event from template where school_id = @schoolId order by lower(name), id", new { schoolId })).AsList();
    }

    /// <summary>Keeps a new template, or one with its identity anew.</summary>
    /// <exception cref="TakenException">Another one has the name.</exception>
    /// <exception cref="InvalidInputException"><c>too_many_templates</c>.</exception>
    public async Task SaveAsync(Guid schoolId, StoredTemplate template, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        try
        {
            var kept = await connection.ExecuteAsync(
                """
                insert into template (id, school_id, name, event, created_at)
                select @Id, @schoolId, @Name, @Event::jsonb, @now
                where (select count(*) from template where school_id = @schoolId and id <> @Id) < @Max
                on conflict (id) do update set name = excluded.name, event = excluded.event where template.school_id = @schoolId
                """,
                new { template.Id, schoolId, template.Name, template.Event, now, Max });
            if (kept == 0)
                throw new InvalidInputException("too_many_templates", "name", $"A school keeps {Max} templates at most. Delete one that nobody uses.");
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
    }

    public async Task<bool> RemoveAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteAsync("delete from template where school_id = @schoolId and id = @id", new { schoolId, id }) > 0;
    }
}
