using System.Security.Cryptography;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;

namespace Valtro.Store;

/// <summary>A person's second factor.</summary>
/// <param name="Secret">What their device and we share.</param>
/// <param name="IsOn">Whether it is asked for; else it is only being set up.</param>
public sealed record SecondFactor(byte[] Secret, bool IsOn);

/// <summary>What a person has of their account beside their name.</summary>
/// <param name="HasSecondFactor">Whether a code is asked for.</param>
/// <param name="RecoveryCodes">How many recovery codes are left.</param>
/// <param name="Sessions">At how many places they are signed in.</param>
public sealed record Account(bool HasSecondFactor, int RecoveryCodes, int Sessions);

/// <summary>Where somebody changes what guards their account: the session and the device that stay when all others end.</summary>
/// <param name="Session">What the session is known by; null when there is none.</param>
/// <param name="Device">What the device is known by; null when there is none.</param>
public sealed record Here(byte[]? Session, byte[]? Device)
{
    /// <summary>Nothing stays.</summary>
    public static Here Nowhere { get; } = new(null, null);
}

/// <summary>What people keep of their own account.</summary>
public sealed class Accounts(Connections db)
{
    /// <summary>
    /// After a change of password, address or second factor: takes back every way in that was given out before, sessions and
    /// links, and lets whatever is open in them know.
    /// </summary>
    internal static async Task RevokeAsync(WriteTransaction write, Guid personId, Here but)
    {
        await write.Connection.ExecuteAsync(
            """
            delete from session where person_id = @personId and token_hash is distinct from @Session;
            delete from known_device where person_id = @personId and token_hash is distinct from @Device;
            delete from password_reset where person_id = @personId;
            delete from email_change where person_id = @personId
            """,
            new { personId, but.Session, but.Device });
        write.Concerns([personId]);
    }

    /// <summary>How long the link to a new address holds.</summary>
    public static readonly Duration EmailLifetime = Duration.FromHours(24);

    public async Task<Account> GetAsync(Guid schoolId, Guid personId, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleAsync<Account>(
            """
            select p.factor_since is not null as has_second_factor,
                (select count(*)::int from recovery_code c where c.person_id = p.id) as recovery_codes,
                (select count(*)::int from session s where s.person_id = p.id and s.expires_at > @now) as sessions
            from person p where p.id = @personId
            """,
            new { personId, now });
    }

    /// <summary>A person's settings as they were kept; null when they never set anything.</summary>
    public async Task<string?> SettingsAsync(Guid schoolId, Guid personId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteScalarAsync<string?>("select settings::text from person where id = @personId", new { personId });
    }

    public async Task KeepSettingsAsync(Guid schoolId, Guid personId, string settings)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync("update person set settings = @settings::jsonb where id = @personId", new { personId, settings });
    }

    public async Task RenameAsync(string name, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var connection = write.Connection;
        await connection.ExecuteAsync("update person set name = @name where id = @PersonId", new { author.PersonId, name });
        await write.CommitAsync();
    }

    /// <summary>Sets a new password; every other session ends.</summary>
    public async Task SetPasswordAsync(string passwordHash, Here but, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await write.Connection.ExecuteAsync("update person set password_hash = @passwordHash where id = @PersonId", new { author.PersonId, passwordHash });
        await RevokeAsync(write, author.PersonId ?? Guid.Empty, but);
        await write.CommitAsync();
    }

    /// <summary>Keeps the wish for another address, with the mails to the new one and to the old one.</summary>
    /// <param name="person">Whose address it shall be.</param>
    /// <param name="email">The address.</param>
    /// <param name="tokenHash">Of the secret that is sent there; null when the address is somebody's already: then its owner is told, and nothing is wished.</param>
    /// <param name="toNew">The mail to the address.</param>
    /// <param name="toOld">The mail to the present address.</param>
    /// <param name="author">Who wishes it.</param>
    public async Task WishEmailAsync(Person person, string email, byte[]? tokenHash, (string Subject, string Body) toNew, (string Subject, string Body) toOld, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var connection = write.Connection;
        var now = author.Now;
        await connection.ExecuteAsync(
            """
            delete from email_change where person_id = @Id or expires_at <= @now;
            insert into email_change (token_hash, school_id, person_id, email, expires_at) select @tokenHash, @SchoolId, @Id, @email, @expires where @tokenHash::bytea is not null
            """,
            new { person.Id, person.SchoolId, tokenHash, email, now, expires = now + EmailLifetime });
        await Mails.AddAsync(connection, person.SchoolId, email, toNew.Subject, toNew.Body, now);
        await Mails.AddAsync(connection, person.SchoolId, person.Email, toOld.Subject, toOld.Body, now);
        write.Concerns([author.PersonId ?? Guid.Empty]);
        await write.CommitAsync();
    }

    /// <summary>Gives somebody the address they wished for.</summary>
    /// <returns>Whose it is; null when the secret does not hold.</returns>
    /// <exception cref="TakenException">Somebody else has the address by now.</exception>
    public async Task<(Guid SchoolId, Guid PersonId)?> TakeEmailAsync(byte[] tokenHash, Here but, Instant now)
    {
        if (await db.SchoolOfSecretAsync(tokenHash) is not { } schoolId)
            return null;
        await using var write = await WriteTransaction.BeginAsync(db, new Author(schoolId, null, now));
        var wish = await write.Connection.QuerySingleOrDefaultAsync<(Guid PersonId, string Email)?>(
            "delete from email_change where token_hash = @tokenHash and expires_at > @now returning person_id, email", new { tokenHash, now });
        if (wish is not { } wished)
            return null;
        try
        {
            await write.Connection.ExecuteAsync(
                "select email_release(@Email); update person set email = @Email where id = @PersonId and left_at is null", new { wished.Email, wished.PersonId });
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
        await RevokeAsync(write, wished.PersonId, but);
        await write.CommitAsync();
        return (schoolId, wished.PersonId);
    }

    /// <summary>Puts other values in the place of secrets of second factors that have a length.</summary>
    /// <returns>How many.</returns>
    public Task<int> ReplaceFactorsAsync(int length, Func<Guid, byte[], byte[]> replaced) => db.InEachSchoolAsync(async (_, connection) =>
    {
        var old = (await connection.QueryAsync<(Guid Id, byte[] Secret)>("select id, factor_secret from person where length(factor_secret) = @length", new { length })).AsList();
        foreach (var (id, secret) in old)
            await connection.ExecuteAsync("update person set factor_secret = @after where id = @id and factor_secret = @secret", new { id, secret, after = replaced(id, secret) });
        return old.Count;
    });

    public async Task<SecondFactor?> FactorAsync(Guid schoolId, Guid personId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var row = await connection.QuerySingleOrDefaultAsync<(byte[]? Secret, Instant? Since)>("select factor_secret, factor_since from person where id = @personId", new { personId });
        return row.Secret is null ? null : new SecondFactor(row.Secret, row.Since is not null);
    }

    /// <summary>Begins to set a second factor up; nothing is asked for before its first code was given.</summary>
    /// <exception cref="InvalidInputException"><c>factor_on</c>: there is one.</exception>
    public async Task BeginFactorAsync(byte[] secret, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var connection = write.Connection;
        if (await connection.ExecuteAsync("update person set factor_secret = @secret where id = @PersonId and factor_since is null", new { author.PersonId, secret }) == 0)
            throw new InvalidInputException("factor_on", "code", "A second factor is on already. Turn it off first.");
        write.Concerns([author.PersonId ?? Guid.Empty]);
        await write.CommitAsync();
    }

    /// <summary>Turns the second factor on, with recovery codes; those from before no longer hold.</summary>
    public async Task TurnFactorOnAsync(IReadOnlyList<byte[]> codeHashes, Here but, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var connection = write.Connection;
        var (schoolId, personId, now) = (author.SchoolId, author.PersonId, author.Now);
        await connection.ExecuteAsync("update person set factor_since = coalesce(factor_since, @now) where id = @personId", new { personId, now });
        await connection.ExecuteAsync("delete from recovery_code where person_id = @personId", new { personId });
        await connection.ExecuteAsync(
            "insert into recovery_code (person_id, school_id, code_hash) select @personId, @schoolId, unnest(@codes)", new { personId, schoolId, codes = codeHashes.ToArray() });
        await RevokeAsync(write, author.PersonId ?? Guid.Empty, but);
        await write.CommitAsync();
    }

    /// <returns>Whether there was one.</returns>
    public async Task<bool> TurnFactorOffAsync(Guid personId, Here but, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var connection = write.Connection;
        var wasOn = await connection.ExecuteAsync(
            """
            delete from recovery_code where person_id = @personId;
            update person set factor_secret = null, factor_since = null, factor_step = 0 where id = @personId and factor_secret is not null
            """,
            new { personId }) > 0;
        if (wasOn)
            await RevokeAsync(write, personId, but);
        write.Concerns([personId]);
        await write.CommitAsync();
        return wasOn;
    }

    /// <summary>Takes a time step's code, once.</summary>
    /// <returns>Whether it had not been taken before, nor a later one.</returns>
    public async Task<bool> TakeStepAsync(Guid schoolId, Guid personId, long step)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteAsync("update person set factor_step = @step where id = @personId and factor_step < @step", new { personId, step }) > 0;
    }

    /// <summary>Takes a recovery code, once.</summary>
    public async Task<bool> TakeRecoveryAsync(Guid schoolId, Guid personId, byte[] codeHash)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteAsync("delete from recovery_code where person_id = @personId and code_hash = @codeHash", new { personId, codeHash }) > 0;
    }

    /// <summary>All that is kept of a person, as it is kept.</summary>
    /// <returns>As JSON; null when there is nobody.</returns>
    public async Task<string?> DataAsync(Guid schoolId, Guid personId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteScalarAsync<string?>(
            $"""
            select jsonb_pretty(jsonb_build_object(
                'person', (select jsonb_build_object('id', p.id, 'name', p.name, 'email', p.email, 'role', case p.role when {Numbers.Administrator} then 'administrator' else 'member' end,
                    'since', p.created_at, 'left', p.left_at, 'settings', p.settings, 'board', p.board, 'secondFactorSince', p.factor_since)),
                'groups', coalesce((select jsonb_agg(g.name order by g.name) from group_member m join person_group g on g.id = m.group_id where m.person_id = p.id), '[]'),
                'roles', coalesce((select jsonb_agg(jsonb_build_object('calendar', c.title, 'role', (array['reader', 'proposer', 'editor', 'keeper'])[r.role + 1]) order by c.title)
                    from calendar_role r join calendar c on c.id = r.calendar_id where r.person_id = p.id), '[]'),
                'sessions', coalesce((select jsonb_agg(jsonb_build_object('since', s.created_at, 'until', s.expires_at) order by s.created_at) from session s where s.person_id = p.id), '[]'),
                'devices', coalesce((select jsonb_agg(jsonb_build_object('usedAt', d.used_at) order by d.used_at) from known_device d where d.person_id = p.id), '[]'),
                'did', coalesce((select jsonb_agg(jsonb_build_object('at', h.at, 'action', h.action, 'what', h.entity, 'id', h.entity_id, 'title', coalesce(h.after->>'title', h.before->>'title')) order by h.at)
                    from history h where h.person_id = p.id), '[]'),
                'log', coalesce((select jsonb_agg(jsonb_build_object('at', a.at, 'action', a.action, 'about', a.about_id, 'address', a.address) order by a.at) from audit a where a.person_id = p.id), '[]'),
                'proposals', coalesce((select jsonb_agg(jsonb_build_object('at', q.created_at, 'title', q.offered->>'title', 'remark', q.remark) order by q.created_at) from proposal q where q.person_id = p.id), '[]'),
                'answers', coalesce((select jsonb_agg(jsonb_build_object('at', a.answered_at, 'remark', a.remark) order by a.answered_at) from proposal_ask a where a.answered_by = p.id), '[]'),
                'acceptedClashes', coalesce((select jsonb_agg(jsonb_build_object('at', x.at, 'reason', x.reason) order by x.at) from accepted_clash x where x.person_id = p.id), '[]'),
                'mails', coalesce((select jsonb_agg(jsonb_build_object('at', m.created_at, 'subject', m.subject) order by m.created_at) from mail m where lower(m.recipient) = lower(p.email)), '[]')))
            from person p where p.id = @personId and p.school_id = @schoolId
            """,
            new { schoolId, personId });
    }

    /// <summary>
    /// Erases a person who has left: nothing of them stays, and what they did stays in the history without a name.
    /// </summary>
    /// <exception cref="InvalidInputException"><c>no_such_person</c>; <c>still_member</c>: they are of the school.</exception>
    public async Task EraseAsync(Guid personId, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var person = await write.Connection.QuerySingleOrDefaultAsync<(string Email, Instant? LeftAt)?>(
            "select email, left_at from person where id = @personId and school_id = @SchoolId for update", new { personId, author.SchoolId });
        if (person is not { } known)
            throw new InvalidInputException("no_such_person", "person", "There is nobody of this name in the school any more.");
        if (known.LeftAt is null)
            throw new InvalidInputException("still_member", "person", "Take them out of the school first; then their data can be erased.");
        // What refers to the person loses the name by its foreign key; what holds it in its text goes.
        await write.Connection.ExecuteAsync(
            """
            delete from history where school_id = @SchoolId and entity = 'person' and entity_id = @personId;
            update history set before = null, after = null where school_id = @SchoolId and entity in ('roles', 'proposal') and (before::text like @pattern or after::text like @pattern);
            delete from history where school_id = @SchoolId and entity = 'invitation' and lower(after->>'email') = lower(@Email);
            update audit set address = '' where school_id = @SchoolId and person_id = @personId;
            delete from invitation where school_id = @SchoolId and lower(email) = lower(@Email);
            delete from mail where school_id = @SchoolId and lower(recipient) = lower(@Email);
            delete from person where id = @personId
            """,
            new { author.SchoolId, personId, known.Email, pattern = $"%{personId}%" });
        write.Record("person", personId, "erase", null, null);
        await write.CommitAsync();
    }

    /// <summary>New recovery codes, and their hashes.</summary>
    public static (IReadOnlyList<string> Codes, IReadOnlyList<byte[]> Hashes) NewRecoveryCodes()
    {
        // Without letters and digits that are taken for each other.
        const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";
        var codes = Enumerable.Range(0, 10).Select(_ => RandomNumberGenerator.GetString(Letters, 5) + "-" + RandomNumberGenerator.GetString(Letters, 5)).ToList();
        return (codes, [.. codes.Select(HashOf)]);
    }

    /// <summary>The hash of a recovery code, however it is written.</summary>
    public static byte[] HashOf(string code) =>
        SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(new string([.. code.ToLowerInvariant().Where(char.IsAsciiLetterOrDigit)])));
}
