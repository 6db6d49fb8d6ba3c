using Dapper;
using NodaTime;
using Valtro.Core.People;

namespace Valtro.Store;

/// <summary>Somebody who can sign in.</summary>
public sealed record Person(Guid Id, Guid SchoolId, string Name, string Email, string PasswordHash, SchoolRole Role = SchoolRole.Member);

/// <summary>People and their sessions.</summary>
public sealed class People(Connections db)
{
    private const string Columns = "p.id, p.school_id, p.name, p.email, p.password_hash, p.role";

    public async Task<Person?> FindByEmailAsync(string email)
    {
        await using var connection = await db.OpenForAllAsync();
        return (await connection.QuerySingleOrDefaultAsync<PersonRow>(
            $"select {Columns} from person p where lower(p.email) = lower(@email) and p.left_at is null", new { email }))?.ToPerson();
    }

    public async Task<Person?> FindBySessionAsync(byte[] tokenHash, Instant now)
    {
        await using var connection = await db.OpenForAllAsync();
        return (await connection.QuerySingleOrDefaultAsync<PersonRow>(
            $"""
            select {Columns} from session s join person p on p.id = s.person_id and p.school_id = s.school_id
            where s.token_hash = @tokenHash and s.expires_at > @now and p.left_at is null
            """,
            new { tokenHash, now }))?.ToPerson();
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

    /// <summary>Keeps a new session and clears away those that have run out.</summary>
    public async Task AddSessionAsync(Person person, byte[] tokenHash, Instant now, Instant expires)
    {
        await using var connection = await db.OpenAsync(person.SchoolId);
        await connection.ExecuteAsync(
            """
            delete from session where expires_at <= @now;
            insert into session (token_hash, school_id, person_id, created_at, expires_at)
            values (@tokenHash, @SchoolId, @Id, @now, @expires)
            """,
            new { tokenHash, person.SchoolId, person.Id, now, expires });
    }

    /// <summary>How a person keeps the board, as it was kept; null when they never set anything.</summary>
    public async Task<string?> BoardAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteScalarAsync<string?>("select board::text from person where id = @id", new { id });
    }

    public async Task KeepBoardAsync(Guid schoolId, Guid id, string board)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await connection.ExecuteAsync("update person set board = @board::jsonb where id = @id", new { id, board });
    }

    public async Task RemoveSessionAsync(byte[] tokenHash)
    {
        await using var connection = await db.OpenForAllAsync();
        await connection.ExecuteAsync("delete from session where token_hash = @tokenHash", new { tokenHash });
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
