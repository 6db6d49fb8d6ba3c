using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core.Limits;
using Valtro.Core.People;

namespace Valtro.Store;

/// <summary>A way into a school that was sent to somebody.</summary>
public sealed record Invitation(Guid Id, Guid SchoolId, string Email, SchoolRole Role, Instant CreatedAt, Instant ExpiresAt, Instant? UsedAt);

/// <summary>Invitations and forgotten passwords: secrets sent by mail, kept as their hashes.</summary>
public sealed class Invitations(Connections db)
{
    /// <summary>How long an invitation holds.</summary>
    public static readonly Duration Lifetime = Duration.FromDays(7);

    /// <summary>How long a way to a new password holds.</summary>
    public static readonly Duration ResetLifetime = Duration.FromHours(2);

    /// <summary>The invitations of a school that nobody has used, the newest first.</summary>
    public async Task<IReadOnlyList<Invitation>> OpenAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. (await connection.QueryAsync<Row>(
            "select id, school_id, email, role, created_at, expires_at, used_at from invitation where school_id = @schoolId and used_at is null order by created_at desc limit 500",
            new { schoolId })).Select(r => r.ToInvitation())];
    }

    /// <summary>Invites somebody, with the mail that tells them unless they are told otherwise; an earlier invitation of the same address no longer holds.</summary>
    /// <exception cref="TakenException">Somebody has signed up with the address.</exception>
    public async Task<Invitation> AddAsync(string email, SchoolRole role, byte[] tokenHash, string? subject, string? body, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        if (await write.Connection.ExecuteScalarAsync<bool>("select exists (select from person_by_email(@email))", new { email }))
            throw new TakenException();
        var made = new Invitation(Guid.CreateVersion7(), author.SchoolId, email, role, author.Now, author.Now + Lifetime, null);
        await write.Connection.ExecuteAsync(
            """
            delete from invitation where school_id = @SchoolId and lower(email) = lower(@Email) and used_at is null;
            insert into invitation (id, school_id, email, role, token_hash, invited_by, created_at, expires_at)
            values (@Id, @SchoolId, @Email, @role, @tokenHash, @PersonId, @CreatedAt, @ExpiresAt)
            """,
            new { made.Id, author.SchoolId, made.Email, role = (short)role, tokenHash, author.PersonId, made.CreatedAt, made.ExpiresAt });
        if (subject is not null && body is not null)
        {
            write.Grows(Limited.Mails);
            await Mails.AddAsync(write.Connection, author.SchoolId, email, subject, body, author.Now);
        }
        write.Record("invitation", made.Id, "invite", null, new { email, role = role.ToString() });
        await write.CommitAsync();
        return made;
    }

    public async Task<bool> RemoveAsync(Guid id, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var isGone = await write.Connection.ExecuteAsync("delete from invitation where school_id = @SchoolId and id = @id and used_at is null", new { author.SchoolId, id }) > 0;
        await write.CommitAsync();
        return isGone;
    }

    /// <summary>The invitation a secret belongs to; null when there is none, or it was used or has run out.</summary>
    public async Task<Invitation?> FindAsync(byte[] tokenHash, Instant now)
    {
        if (await db.SchoolOfSecretAsync(tokenHash) is not { } schoolId)
            return null;
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QuerySingleOrDefaultAsync<Row>(
            "select id, school_id, email, role, created_at, expires_at, used_at from invitation where token_hash = @tokenHash and used_at is null and expires_at > @now",
            new { tokenHash, now }))?.ToInvitation();
    }

    /// <summary>Uses an invitation: the person is of the school then. Of two who use it at once one does.</summary>
    /// <returns>Whether it could be used.</returns>
    /// <exception cref="TakenException">Somebody has signed up with the address.</exception>
    public async Task<bool> UseAsync(byte[] tokenHash, Person person, Instant now)
    {
        await using var write = await WriteTransaction.BeginAsync(db, new Author(person.SchoolId, person.Id, now));
        if (await write.Connection.ExecuteAsync("update invitation set used_at = @now where token_hash = @tokenHash and used_at is null and expires_at > @now", new { tokenHash, now }) == 0)
            return false;
        try
        {
            // Who left gives the address free.
            await write.Connection.ExecuteAsync(
                """
                select email_release(@Email);
                insert into person (id, school_id, name, email, password_hash, role, created_at)
                values (@Id, @SchoolId, @Name, @Email, @PasswordHash, @role, @now)
                """,
                new { person.Id, person.SchoolId, person.Name, person.Email, person.PasswordHash, role = (short)person.Role, now });
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
        write.Record("person", person.Id, "join", null, new { person.Name });
        await write.CommitAsync();
        return true;
    }

    /// <summary>Keeps a way to a new password, with the mail that holds it unless it is told otherwise.</summary>
    public async Task AddResetAsync(Person person, byte[] tokenHash, string? subject, string? body, Instant now)
    {
        await using var connection = await db.OpenAsync(person.SchoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        await connection.ExecuteAsync(
            """
            delete from password_reset where person_id = @Id or expires_at <= @now;
            insert into password_reset (token_hash, school_id, person_id, expires_at) values (@tokenHash, @SchoolId, @Id, @expires)
            """,
            new { person.Id, person.SchoolId, tokenHash, now, expires = now + ResetLifetime });
        if (subject is not null && body is not null)
            await Mails.AddAsync(connection, person.SchoolId, person.Email, subject, body, now);
        await transaction.CommitAsync();
    }

    /// <summary>Who has a way to a new password by its secret; null when there is none, or it has run out.</summary>
    public async Task<(Guid SchoolId, string Name, string Email)?> FindResetAsync(byte[] tokenHash, Instant now)
    {
        if (await db.SchoolOfSecretAsync(tokenHash) is not { } schoolId)
            return null;
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleOrDefaultAsync<(Guid, string, string)?>(
            "select p.school_id, p.name, p.email from password_reset r join person p on p.id = r.person_id where r.token_hash = @tokenHash and r.expires_at > @now and p.left_at is null",
            new { tokenHash, now });
    }

    /// <summary>Sets a new password by its secret; the person is signed out everywhere.</summary>
    /// <returns>Whether the secret held.</returns>
    public async Task<bool> ResetAsync(Guid schoolId, byte[] tokenHash, string passwordHash, Instant now)
    {
        await using var write = await WriteTransaction.BeginAsync(db, new Author(schoolId, null, now));
        var personId = await write.Connection.ExecuteScalarAsync<Guid?>("delete from password_reset where token_hash = @tokenHash and expires_at > @now returning person_id", new { tokenHash, now });
        if (personId is null)
            return false;
        await write.Connection.ExecuteAsync("update person set password_hash = @passwordHash where id = @personId", new { personId, passwordHash });
        await Accounts.RevokeAsync(write, personId.Value, Here.Nowhere);
        await write.CommitAsync();
        return true;
    }

    private sealed class Row
    {
        public Guid Id { get; init; }
        public Guid SchoolId { get; init; }
        public string Email { get; init; } = "";
        public short Role { get; init; }
        public Instant CreatedAt { get; init; }
        public Instant ExpiresAt { get; init; }
        public Instant? UsedAt { get; init; }

        public Invitation ToInvitation() => new(Id, SchoolId, Email, (SchoolRole)Role, CreatedAt, ExpiresAt, UsedAt);
    }
}
