using Dapper;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>A group of people, for sharing with all of them.</summary>
public sealed record PersonGroup(Guid Id, string Name, IReadOnlyList<Guid> PersonIds);

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
        var id = Guid.CreateVersion7();
        await SaveAsync(id, name, people, author, isNew: true);
        return id;
    }

    /// <summary>Changes a group's name and who is in it.</summary>
    /// <returns>Whether it is there.</returns>
    /// <exception cref="TakenException">Another one has the name.</exception>
    /// <exception cref="InvalidInputException"><c>title_missing</c>.</exception>
    public Task<bool> ChangeAsync(Guid id, string? name, IReadOnlyList<Guid> people, Author author) => SaveAsync(id, name, people, author, isNew: false);

    /// <summary>Removes a group; what was shared with it no longer is.</summary>
    public async Task<bool> RemoveAsync(Guid id, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var removed = await write.Connection.ExecuteAsync("delete from person_group where school_id = @SchoolId and id = @id", new { author.SchoolId, id });
        write.Record("group", id, "remove", null, null);
        await write.CommitAsync();
        return removed > 0;
    }

    private async Task<bool> SaveAsync(Guid id, string? name, IReadOnlyList<Guid> people, Author author, bool isNew)
    {
        var clean = Texts.Title(name, "name", MaxName);
        await using var write = await WriteTransaction.BeginAsync(db, author);
        try
        {
            var sql = isNew
                ? "insert into person_group (id, school_id, name) select @id, @SchoolId, @clean where (select count(*) from person_group where school_id = @SchoolId) < @Max"
                : "update person_group set name = @clean where school_id = @SchoolId and id = @id";
            if (await write.Connection.ExecuteAsync(sql, new { id, author.SchoolId, clean, Max }) == 0)
                return isNew ? throw new InvalidInputException("too_many_groups", "name", $"A school has {Max} groups at most.") : false;
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            throw new TakenException();
        }
        await write.Connection.ExecuteAsync(
            """
            delete from group_member where group_id = @id and school_id = @SchoolId;
            insert into group_member (group_id, person_id, school_id)
            select @id, p.id, @SchoolId from person p where p.school_id = @SchoolId and p.id = any(@people) and p.left_at is null
            """,
            new { id, author.SchoolId, people = people.Distinct().ToArray() });
        write.Record("group", id, isNew ? "create" : "change", null, new { name = clean, people });
        await write.CommitAsync();
        return true;
    }
}
