using System.Data.Common;
using Dapper;
using NodaTime;

namespace Valtro.Store;

/// <summary>A mail on its way.</summary>
/// <param name="Id">Identity.</param>
/// <param name="SchoolId">Whose it is.</param>
/// <param name="Recipient">To whom; empty for a visitor, whose address lies elsewhere.</param>
/// <param name="Subject">What about.</param>
/// <param name="Body">What it says.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="ReaderId">The visitor; null for people of the school.</param>
/// <param name="EndsAt">Where a visitor makes it the last one (RFC 8058).</param>
public sealed record Mail(Guid Id, Guid SchoolId, string Recipient, string Subject, string Body, int Tries, Guid? ReaderId = null, string? EndsAt = null);

/// <summary>A mail as administrators see it.</summary>
/// <param name="Id">Identity.</param>
/// <param name="At">When it was written.</param>
/// <param name="Recipient">To whom.</param>
/// <param name="Subject">What about.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="Next">When it is tried again; null when it is not.</param>
/// <param name="Problem">Why it could not be sent.</param>
public sealed record WaitingMail(Guid Id, Instant At, string Recipient, string Subject, int Tries, Instant? Next, string Problem);

/// <summary>
/// Mail as a queue in the database: written in the transaction that gives reason to it, so that nothing is told that did not
/// happen, and nothing that did is not told. It is sent at least once: a server that dies between handing a mail over and saying
/// so has another one send it again, under the same Message-ID.
/// </summary>
public sealed class Mails(Connections db)
{
    /// <summary>How long sent mail is kept, and what was given up.</summary>
    private static readonly Duration Kept = Duration.FromDays(30);

    /// <summary>After which time one that was taken and not told of is taken again.</summary>
    private static readonly Duration Taken = Duration.FromMinutes(10);

    /// <summary>After how many tries it is given up: four days.</summary>
    private const int MaxTries = 24;

    /// <summary>
    /// Takes the next mail that is due: nobody else sends it meanwhile, however many servers there are, and nothing stays open in
    /// the database. Letters to readers wait where the school has sent all it may within a day.
    /// </summary>
    /// <returns>The mail; null when none is due.</returns>
    public async Task<Mail?> TakeAsync(Instant now)
    {
        IReadOnlyList<Guid> schools;
        await using (var none = await db.OpenForNoneAsync())
            schools = (await none.QueryAsync<Guid>("select school_with_mail(@now, @taken)", new { now, taken = now - Taken })).AsList();
        foreach (var schoolId in schools)
        {
            await using var connection = await db.OpenAsync(schoolId);
            var mail = await connection.QuerySingleOrDefaultAsync<Mail>(
                """
                update mail set taken_at = @now where id = (
                    select id from mail where sent_at is null and next_try_at <= @now and (taken_at is null or taken_at <= @taken)
                        and (reader_id is null or (select count(*) from mail where school_id = @schoolId and sent_at > @since)
                            < coalesce((select (limits->>'mailsADay')::int from school where id = @schoolId), @mostMails))
                    order by next_try_at limit 1 for update skip locked)
                returning id, school_id, recipient, subject, body, tries, reader_id, ends_at
                """,
                new { now, taken = now - Taken, schoolId, mostMails = db.Limits.MailsADay, since = Limits.CountedFrom(now) });
            if (mail is not null)
                return mail;
        }
        return null;
    }

    /// <summary>Says that a mail was handed over; its text goes.</summary>
    public async Task SentAsync(Mail mail, Instant now)
    {
        await using var connection = await db.OpenAsync(mail.SchoolId);
        await connection.ExecuteAsync(
            """
            update mail set sent_at = @now, tries = tries + 1, problem = null, body = '' where id = @Id;
            delete from mail where sent_at < @before or next_try_at = 'infinity' and created_at < @before
            """,
            new { mail.Id, now, before = now - Kept });
    }

    /// <summary>Says that a mail could not be handed over. It waits, twice as long each time; or it is given up.</summary>
    /// <param name="mail">The mail.</param>
    /// <param name="problem">Why, for administrators.</param>
    /// <param name="isFinal">Whether trying again would change nothing.</param>
    /// <param name="now">The moment.</param>
    /// <returns>When it is tried again; null for never.</returns>
    public async Task<Instant?> FailedAsync(Mail mail, string problem, bool isFinal, Instant now)
    {
        Instant? next = isFinal || mail.Tries + 1 >= MaxTries ? null : now + Duration.FromSeconds(Math.Min(30 << Math.Min(mail.Tries, 10), 6 * 3600));
        await using var connection = await db.OpenAsync(mail.SchoolId);
        await connection.ExecuteAsync(
            "update mail set next_try_at = coalesce(@next::timestamptz, 'infinity'), taken_at = null, tries = tries + 1, problem = @problem where id = @Id",
            new { mail.Id, next, problem = problem[..Math.Min(problem.Length, 300)] });
        return next;
    }

    /// <summary>The mails of a school that could not be sent, the newest first.</summary>
    public async Task<IReadOnlyList<WaitingMail>> ProblemsAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. await connection.QueryAsync<WaitingMail>(
            """
            select id, created_at as at, recipient, subject, tries, nullif(next_try_at, 'infinity') as next, problem
            from mail where school_id = @schoolId and sent_at is null and problem is not null and reader_id is null order by created_at desc limit 100
            """,
            new { schoolId })];
    }

    /// <summary>How many mails wait, and how long the oldest of those that are due has been waiting.</summary>
    public async Task<(int Waiting, Duration Oldest)> WaitingAsync(Instant now)
    {
        var oldest = now;
        var waiting = await db.InEachSchoolAsync(async (_, connection) =>
        {
            var (count, first) = await connection.QuerySingleAsync<(int, Instant?)>(
                "select count(*)::int, min(next_try_at) filter (where next_try_at <= @now) from mail where sent_at is null and next_try_at < 'infinity'", new { now });
            oldest = first is { } at ? Instant.Min(oldest, at) : oldest;
            return count;
        });
        return (waiting, now - oldest);
    }

    internal static Task AddAsync(DbConnection connection, Guid schoolId, string recipient, string subject, string body, Instant now) =>
        connection.ExecuteAsync(
            "insert into mail (id, school_id, recipient, subject, body, created_at, next_try_at) values (@Id, @schoolId, @recipient, @subject, @body, @now, @now)",
            new { Id = Guid.CreateVersion7(), schoolId, recipient, subject, body, now });
}
