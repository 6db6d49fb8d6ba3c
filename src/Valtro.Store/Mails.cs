using Dapper;
using NodaTime;
using Npgsql;

namespace Valtro.Store;

/// <summary>A mail on its way.</summary>
public sealed record Mail(Guid Id, string Recipient, string Subject, string Body, int Tries);

/// <summary>
/// Mail as a queue in the database: written in the transaction that gives reason to it, so that nothing is told that did not
/// happen, and nothing that did is not told.
/// </summary>
public sealed class Mails(Connections db)
{
    /// <summary>How long sent mail is kept.</summary>
    private static readonly Duration Kept = Duration.FromDays(30);

    /// <summary>Writes a mail.</summary>
    public async Task AddAsync(Guid? schoolId, string recipient, string subject, string body, Instant now)
    {
        await using var connection = await db.OpenForAllAsync();
        await AddAsync(connection, schoolId, recipient, subject, body, now);
    }

    /// <summary>
    /// Sends the next mail that is due; whoever sends holds it locked, so that it goes out once however many servers there
    /// are. A failed one waits, twice as long each time.
    /// </summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> SendNextAsync(Func<Mail, Task> send, Instant now)
    {
        await using var connection = await db.OpenForAllAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        var mail = await connection.QuerySingleOrDefaultAsync<Mail>(
            """
            select id, recipient, subject, body, tries from mail where sent_at is null and next_try_at <= @now
            order by next_try_at limit 1 for update skip locked
            """,
            new { now });
        if (mail is null)
            return false;
        string? problem = null;
        try
        {
            await send(mail);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            problem = e.Message;
        }
        var wait = Duration.FromSeconds(Math.Min(30 << Math.Min(mail.Tries, 10), 6 * 3600));
        await connection.ExecuteAsync(
            problem is null
                ? "update mail set sent_at = @now, tries = tries + 1, problem = null, body = '' where id = @Id"
                : "update mail set next_try_at = @next, tries = tries + 1, problem = @problem where id = @Id",
            new { mail.Id, now, next = now + wait, problem });
        await connection.ExecuteAsync("delete from mail where sent_at < @before", new { before = now - Kept });
        await transaction.CommitAsync();
        return true;
    }

    internal static Task AddAsync(NpgsqlConnection connection, Guid? schoolId, string recipient, string subject, string body, Instant now) =>
        connection.ExecuteAsync(
            "insert into mail (id, school_id, recipient, subject, body, created_at, next_try_at) values (@Id, @schoolId, @recipient, @subject, @body, @now, @now)",
            new { Id = Guid.CreateVersion7(), schoolId, recipient, subject, body, now });
}
