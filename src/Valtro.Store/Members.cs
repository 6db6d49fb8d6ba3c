using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.People;

namespace Valtro.Store;

/// <summary>Somebody of a school, as its members know them.</summary>
public sealed record Member(Guid Id, string Name, string Email, SchoolRole Role, Instant CreatedAt);

/// <summary>Who is of a school.</summary>
public sealed class Members(Connections db)
{
    public async Task<IReadOnlyList<Member>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. (await connection.QueryAsync<(Guid Id, string Name, string Email, short Role, Instant CreatedAt)>(
            "select id, name, email, role, created_at from person where school_id = @schoolId and left_at is null order by lower(name), id limit 5000",
            new { schoolId })).Select(p => new Member(p.Id, p.Name, p.Email, (SchoolRole)p.Role, p.CreatedAt))];
    }

    /// <summary>Who left the school and is not erased, the last first.</summary>
    public async Task<IReadOnlyList<(Guid Id, string Name, Instant LeftAt)>> LeftAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. await connection.QueryAsync<(Guid, string, Instant)>(
            "select id, name, left_at from person where school_id = @schoolId and left_at is not null order by left_at desc, id limit 500", new { schoolId })];
    }

    /// <summary>The names of persons, also of those who left.</summary>
    public async Task<IReadOnlyDictionary<Guid, string>> NamesAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid Id, string Name)>("select id, name from person where school_id = @schoolId", new { schoolId })).ToDictionary(p => p.Id, p => p.Name);
    }

    /// <summary>Sets what somebody is in the school.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_person</c>; <c>last_administrator</c>: nobody would administer the school.</exception>
    public async Task SetRoleAsync(Guid id, SchoolRole role, Author author)
    {
        await using var write = await BeginAsync(author);
        await ChangeAsync(write, id, "update person set role = @role where school_id = @SchoolId and id = @id and left_at is null", new { author.SchoolId, id, role = (short)role });
        write.Record("person", id, "role", null, new { role = role.ToString() });
        await write.CommitAsync();
    }

    /// <summary>
    /// Takes somebody out of the school: they keep no role, no group and no session. A calendar only they kept is kept by
    /// the administrators from then on.
    /// </summary>
    /// <exception cref="InvalidInputException"><c>no_such_person</c>, <c>last_administrator</c>.</exception>
    public async Task RemoveAsync(Guid id, Author author)
    {
        await using var write = await BeginAsync(author);
        await ChangeAsync(write, id, "update person set left_at = @Now, board = null where school_id = @SchoolId and id = @id and left_at is null", new { author.SchoolId, author.Now, id });
        await write.Connection.ExecuteAsync(
            """
            delete from calendar_role where school_id = @SchoolId and person_id = @id;
            delete from group_member where school_id = @SchoolId and person_id = @id
            """,
            new { author.SchoolId, id });
        await Accounts.RevokeAsync(write, id, Here.Nowhere);
        write.ConcernsMembers();
        write.Record("person", id, "leave", null, null);
        await write.CommitAsync();
    }

    /// <summary>Signs somebody out everywhere.</summary>
    /// <param name="butTokenHash">The session that stays; null for none.</param>
    /// <param name="author">Whose sessions.</param>
    public async Task SignOutAsync(byte[]? butTokenHash, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await write.Connection.ExecuteAsync("delete from session where person_id = @PersonId and token_hash is distinct from @butTokenHash", new { author.PersonId, butTokenHash });
        write.Concerns([author.PersonId ?? Guid.Empty]);
        await write.CommitAsync();
    }

    private async Task<WriteTransaction> BeginAsync(Author author)
    {
        var write = await WriteTransaction.BeginAsync(db, author);
        // Two administrators who take each other out take turns.
        await write.Connection.ExecuteAsync("select from school where id = @SchoolId for update", new { author.SchoolId });
        return write;
    }

    private static async Task ChangeAsync(WriteTransaction write, Guid id, string sql, object parameters)
    {
        if (await write.Connection.ExecuteAsync(sql, parameters) == 0)
            throw new InvalidInputException("no_such_person", "person", "There is nobody of this name in the school any more.");
        if (!await write.Connection.ExecuteScalarAsync<bool>($"select exists (select from person where school_id = @SchoolId and role = {Numbers.Administrator} and left_at is null)", new { write.Author.SchoolId }))
            throw new InvalidInputException("last_administrator", "role", "Somebody has to administer the school. Make somebody else an administrator first.");
    }
}
