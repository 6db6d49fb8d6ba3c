using Dapper;
using NodaTime;
using Valtro.Core.People;

namespace Valtro.Store;

/// <summary>Somebody who can sign in.</summary>
public sealed record Person(Guid Id, Guid SchoolId, string Name, string Email, string PasswordHash, SchoolRole Role = SchoolRole.Member);

/// <summary>People and their sessions.</summary>
public sealed class People(Connections db)
{
    public async Task<Person?> FindByEmailAsync(string email)
    {
        await using var connection = await db.OpenForNoneAsync();
        return (await connection.QuerySingleOrDefaultAsync<PersonRow>("select id, school_id, name, email, password_hash, role from person_by_email(@email)", new { email }))?.ToPerson();
    }

    public async Task<Person?> FindBySessionAsync(byte[] tokenHash, Instant now)
    {
        await using var connection = await db.OpenForNoneAsync();
        return (await connection.QuerySingleOrDefaultAsync<PersonRow>("select id, school_id, name, email, password_hash, role from person_by_session(@tokenHash, @now)", new { tokenHash, now }))?.ToPerson();
    }

    public async Task AddAsync(Person person, Instant now)
    {
        await using var connection = await db.OpenAsync(person.SchoolId);
        await connection.ExecuteAsync(
            """
            insert into person (id, school_id, name, email, password_hash, role, created_at)
            values (@Id, @SchoolId, @Name, @Email, @PasswordHash, @role, @now)
            """,
            new { person.Id, person.SchoolId, person.Name, person.Email, person.PasswordHash, role = (short)person.Role, now });
    }

    /// <summary>How long a device is known that was not signed in from.</summary>
    public static readonly Duration DeviceLifetime = Duration.FromDays(180);

    private const int MaxDevices = 20;

    /// <summary>Keeps a new session and the device it is on, and clears away those that have run out.</summary>
    /// <param name="person">Whose.</param>
    /// <param name="tokenHash">What the session is known by.</param>
    /// <param name="oldDevice">What the device was known by before.</param>
    /// <param name="device">What it is known by from now on.</param>
    /// <param name="now">The moment.</param>
    /// <param name="expires">When the session ends.</param>
    public async Task AddSessionAsync(Person person, byte[] tokenHash, byte[]? oldDevice, byte[] device, Instant now, Instant expires)
    {
        await using var connection = await db.OpenAsync(person.SchoolId);
        await connection.ExecuteAsync(
            """
            delete from session where expires_at <= @now;
            insert into session (token_hash, school_id, person_id, created_at, expires_at)
            values (@tokenHash, @SchoolId, @Id, @now, @expires);
            delete from known_device where person_id = @Id and token_hash = @oldDevice;
            insert into known_device (token_hash, school_id, person_id, used_at) values (@device, @SchoolId, @Id, @now);
            delete from known_device where used_at <= @forgotten
                or token_hash in (select token_hash from known_device where person_id = @Id order by used_at desc offset @MaxDevices)
            """,
            new { tokenHash, person.SchoolId, person.Id, oldDevice, device, now, expires, forgotten = now - DeviceLifetime, MaxDevices });
    }

    /// <summary>Whether somebody has signed in from a device before.</summary>
    public async Task<bool> KnowsDeviceAsync(Person person, byte[] device)
    {
        await using var connection = await db.OpenAsync(person.SchoolId);
        return await connection.ExecuteScalarAsync<bool>("select exists (select from known_device where token_hash = @device and person_id = @Id)", new { person.Id, device });
    }

    /// <summary>How a person keeps the board, as it was kept; null when they never set anything.</summary>
    public async Task<string?> BoardAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteScalarAsync<string?>("select board::text from person where id = @id", new { id });
    }

    /// <summary>Keeps how somebody has the board, part by part: what is not said stays.</summary>
    public async Task KeepBoardAsync(Guid schoolId, Guid id, string board)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync("update person set board = coalesce(board, '{}') || @board::jsonb where id = @id", new { id, board });
    }

    /// <summary>Ends a session; what is open in it hears of that.</summary>
    public async Task RemoveSessionAsync(byte[] tokenHash, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await write.Connection.ExecuteAsync("delete from session where token_hash = @tokenHash", new { tokenHash });
        write.Concerns([author.PersonId ?? Guid.Empty]);
        await write.CommitAsync();
    }

    private sealed class PersonRow
    {
        public Guid Id { get; init; }
        public Guid SchoolId { get; init; }
        public string Name { get; init; } = "";
        public string Email { get; init; } = "";
        public string PasswordHash { get; init; } = "";
        public short Role { get; init; }

        public Person ToPerson() => new(Id, SchoolId, Name, Email, PasswordHash, (SchoolRole)Role);
    }
}
