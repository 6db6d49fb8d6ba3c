using Dapper;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>A group of people, for sharing with all of them.</summary>
public sealed record PersonGroup(Guid Id, string Name, IReadOnlyList<Guid> PersonIds);

/// <summary>A change of a group; what is not said stays as it is, whoever else changes it at the same moment.</summary>
/// <param name="Name">Its name from now on; null for the one it has.</param>
/// <param name="People">All who are in it from now on; null for those who are.</param>
/// <param name="Comes">Who comes in beside.</param>
/// <param name="Goes">Who is in it no longer.</param>
public sealed record GroupChange(string? Name, IReadOnlyList<Guid>? People, IReadOnlyList<Guid> Comes, IReadOnlyList<Guid> Goes);

/// <summary>Groups of people.</summary>
public sealed class Groups(Connections db)
{
    /// <summary>The most groups of a school.</summary>
    public const int Max = 200;

    private const int MaxName = 100;

    public async Task<IReadOnlyList<PersonGroup>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. (await connection.QueryAsync<(Guid Id, string Name, Guid[] People)>(
            """
            select g.id, g.name, array(select person_id from group_member m where m.group_id = g.id order by person_id)
            from person_group g where g.school_id = @schoolId order by lower(g.name), g.id
            """,
            new { schoolId })).Select(g => new PersonGroup(g.Id, g.Name, g.People))];
    }

    /// <summary>Makes a group.</summary>
    /// <exception cref="TakenException">Another one has the name.</exception>
    /// <exception cref="InvalidInputException"><c>title_missing</c>, <c>too_many_groups</c>.</exception>
    public async Task<Guid> AddAsync(string? name, IReadOnlyList<Guid> people, Author author)
    {
        var (id, clean) = (Guid.CreateVersion7(), Texts.Title(name, "name", MaxName));
        await using var write = await WriteTransaction.BeginAsync(db, author);
        const string Sql = "insert into person_group (id, school_id, name) select @id, @SchoolId, @clean where (select count(*) from person_group where school_id = @SchoolId) < @Max returning name";
        if (await NamedAsync(write, Sql, new { id, author.SchoolId, clean, Max }) is null)
            throw new InvalidInputException("too_many_groups", "name", $"A school has {Max} groups at most.");
        await KeepAsync(write, id, clean, new GroupChange(null, null, people, []), "create");
        return id;
    }

    /// <summary>Changes a group.</summary>
    /// <returns>Whether it is there.</returns>
    /// <exception cref="TakenException">Another one has the name.</exception>
    /// <exception cref="InvalidInputException"><c>title_missing</c>.</exception>
    public async Task<bool> ChangeAsync(Guid id, GroupChange change, Author author)
    {
        var clean = change.Name is null ? null : Texts.Title(change.Name, "name", MaxName);
        await using var write = await WriteTransaction.BeginAsync(db, author);
        // Whoever changes it at the same moment waits here.
        if (await NamedAsync(write, "update person_group set name = coalesce(@clean, name) where school_id = @SchoolId and id = @id returning name", new { id, author.SchoolId, clean }) is not { } name)
            return false;
        await KeepAsync(write, id, name, change, "change");
        return true;
    }

    /// <summary>Removes a group; what was shared with it no longer is.</summary>
    public async Task<bool> RemoveAsync(Guid id, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var removed = await write.Connection.ExecuteAsync("delete from person_group where school_id = @SchoolId and id = @id", new { author.SchoolId, id });
        write.Record("group", id, "remove", null, null);
        await write.CommitAsync();
        return removed > 0;
    }

    private static async Task<string?> NamedAsync(WriteTransaction write, string sql, object parameters)
    {
        try
        {
            return await write.Connection.ExecuteScalarAsync<string?>(sql, parameters);
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
    }

    private static async Task KeepAsync(WriteTransaction write, Guid id, string name, GroupChange change, string action)
    {
        var people = await write.Connection.QueryAsync<Guid>(
            """
            delete from group_member where group_id = @id and school_id = @SchoolId and (person_id <> all(@whole::uuid[]) or person_id = any(@goes));
            insert into group_member (group_id, person_id, school_id)
            select @id, p.id, @SchoolId from person p where p.school_id = @SchoolId and p.id = any(@comes) and p.id <> all(@goes) and p.left_at is null
            on conflict do nothing;
            select person_id from group_member where group_id = @id and school_id = @SchoolId order by person_id
            """,
            new { id, write.Author.SchoolId, whole = change.People?.ToArray(), goes = change.Goes.ToArray(), comes = change.Comes.Concat(change.People ?? []).ToArray() });
        write.Record("group", id, action, null, new { name, people = people.AsList() });
        await write.CommitAsync();
    }
}
