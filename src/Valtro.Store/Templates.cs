using Dapper;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>What events can be started from.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Event">The event as the API speaks of it (JSON).</param>
public sealed record StoredTemplate(Guid Id, string Name, string Event);

/// <summary>A school's templates.</summary>
public sealed class Templates(Connections db)
{
    /// <summary>The most a calendar has.</summary>
    public const int Max = 200;

    public async Task<IReadOnlyList<StoredTemplate>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<StoredTemplate>(
            "select id, name, event::text as event from template where school_id = @schoolId order by lower(name), id", new { schoolId })).AsList();
    }

    /// <summary>Keeps a new template, or one with its identity anew.</summary>
    /// <exception cref="TakenException">Another one has the name.</exception>
    /// <exception cref="InvalidInputException"><c>too_many_templates</c>, <c>no_such_file</c>.</exception>
    /// <param name="template">The template.</param>
    /// <param name="calendarId">The calendar it makes events in: its team knows it, and nobody else is told of its name.</param>
    /// <param name="facts">What its event has beside: its files and its picture are kept with it.</param>
    /// <param name="author">Who keeps it.</param>
    public async Task SaveAsync(StoredTemplate template, Guid calendarId, EventFacts facts, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        try
        {
            var kept = await write.Connection.ExecuteAsync(
                """
                insert into template (id, school_id, name, event, created_at)
                select @Id, @SchoolId, @Name, @Event::jsonb, @Now
                where (select count(*) from template where school_id = @SchoolId and event->>'calendarId' = @calendar and id <> @Id) < @Max
                on conflict (id) do update set name = excluded.name, event = excluded.event where template.school_id = @SchoolId
                """,
                new { template.Id, author.SchoolId, template.Name, template.Event, author.Now, Max, calendar = calendarId.ToString() });
            if (kept == 0)
                throw new InvalidInputException("too_many_templates", "name", $"A calendar has {Max} templates at most. Delete one that nobody uses.");
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
        await Contents.TieAsync(write.Connection, author.SchoolId, author.PersonId, template.Id, facts);
        write.Concerns([calendarId]);
        await write.CommitAsync();
    }

    /// <param name="id">Which.</param>
    /// <param name="calendarId">The calendar it makes events in.</param>
    /// <param name="author">Who removes it.</param>
    public async Task<bool> RemoveAsync(Guid id, Guid calendarId, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var isGone = await write.Connection.ExecuteAsync("delete from template where school_id = @SchoolId and id = @id", new { author.SchoolId, id }) > 0;
        write.Concerns([calendarId]);
        await write.CommitAsync();
        return isGone;
    }
}
