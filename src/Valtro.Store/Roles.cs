using System.Data.Common;
using Dapper;
using Valtro.Core;
using Valtro.Core.People;

namespace Valtro.Store;

/// <summary>What a person or a group is to a calendar.</summary>
/// <param name="PersonId">The person; null for a group.</param>
/// <param name="GroupId">The group; null for a person.</param>
/// <param name="Name">What people call them.</param>
/// <param name="Role">What they are.</param>
public sealed record Share(Guid? PersonId, Guid? GroupId, string Name, CalendarRole Role);

/// <summary>Who may do what.</summary>
public sealed class Roles(Connections db)
{
    /// <summary>The most persons and groups a calendar is shared with.</summary>
    public const int MaxShares = 200;

    /// <summary>What a person may do, in three results.</summary>
    internal const string Selected =
        """
        select role from person where school_id = @SchoolId and id = @PersonId and left_at is null;
        select calendar_id, max(role)::smallint as role from calendar_role
        where school_id = @SchoolId
          and (person_id = @PersonId or group_id in (select group_id from group_member where person_id = @PersonId and school_id = @SchoolId))
        group by calendar_id;
        select id from calendar where school_id = @SchoolId and is_followed;
        """;

    internal static async Task<Access?> ReadAsync(SqlMapper.GridReader result)
    {
        var role = await result.ReadSingleOrDefaultAsync<short?>();
        var roles = await result.ReadAsync<(Guid CalendarId, short Role)>();
        var followed = await result.ReadAsync<Guid>();
        return role is null ? null : new Access((SchoolRole)role, roles.ToDictionary(r => r.CalendarId, r => (CalendarRole)r.Role)) { Followed = followed.ToHashSet() };
    }

    /// <summary>What a person may do; null when they are not, or no longer, of the school.</summary>
    public async Task<Access?> AccessAsync(Guid schoolId, Guid personId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        using var result = await connection.QueryMultipleAsync(Selected, new { SchoolId = schoolId, PersonId = personId });
        return await ReadAsync(result);
    }

    /// <summary>With whom a calendar is shared: keepers first, then by name.</summary>
    public async Task<IReadOnlyList<Share>> SharesAsync(Guid schoolId, Guid calendarId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await SharesAsync(connection, schoolId, calendarId);
    }

    /// <summary>The names of who keeps calendars, groups by theirs.</summary>
    public async Task<ILookup<Guid, string>> KeepersAsync(Guid schoolId, Guid[] calendarIds)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid CalendarId, string Name)>(
            """
            select r.calendar_id, coalesce(p.name, g.name)
            from calendar_role r
              left join person p on p.id = r.person_id and p.school_id = @schoolId and p.left_at is null
              left join person_group g on g.id = r.group_id and g.school_id = @schoolId
            where r.school_id = @schoolId and r.calendar_id = any(@calendarIds) and r.role = @keeper and coalesce(p.name, g.name) is not null
            order by lower(coalesce(p.name, g.name))
            """,
            new { schoolId, calendarIds, keeper = (short)CalendarRole.Keeper })).ToLookup(r => r.CalendarId, r => r.Name);
    }

    /// <summary>Sets what a person or a group is to a calendar.</summary>
    /// <param name="calendarId">The calendar.</param>
    /// <param name="personId">The person; null for a group.</param>
    /// <param name="groupId">The group; null for a person.</param>
    /// <param name="role">What they become; null for nothing.</param>
    /// <param name="author">Who decides.</param>
    /// <exception cref="InvalidInputException">
    /// <c>no_such_person</c>: nobody of this school; <c>last_keeper</c>: nobody would keep the calendar; <c>too_many_shares</c>.
    /// </exception>
    public async Task SetAsync(Guid calendarId, Guid? personId, Guid? groupId, CalendarRole? role, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await SetAsync(write, calendarId, [(personId, groupId, role)]);
        await write.CommitAsync();
    }

    /// <summary>Makes somebody else a calendar's keeper, and a keeper by their own role its editor: at once, or not at all.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_person</c>, <c>too_many_shares</c>.</exception>
    public async Task HandOverAsync(Guid calendarId, Guid toPersonId, Guid fromPersonId, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var shares = await SharesAsync(write.Connection, author.SchoolId, calendarId);
        var isOwn = toPersonId != fromPersonId && shares.Any(s => s.PersonId == fromPersonId && s.Role == CalendarRole.Keeper);
        await SetAsync(write, calendarId, isOwn
            ? [(toPersonId, null, CalendarRole.Keeper), (fromPersonId, null, CalendarRole.Editor)]
            : [(toPersonId, null, CalendarRole.Keeper)]);
        await write.CommitAsync();
    }

    private static async Task SetAsync(WriteTransaction write, Guid calendarId, IReadOnlyList<(Guid? PersonId, Guid? GroupId, CalendarRole? Role)> wanted)
    {
        var author = write.Author;
        // Two who decide at once take turns, so that not both take away the last keeper but one.
        await write.Connection.ExecuteAsync("select from calendar where id = @calendarId and school_id = @SchoolId for update", new { calendarId, author.SchoolId });
        var before = await SharesAsync(write.Connection, author.SchoolId, calendarId);
        foreach (var (personId, groupId, role) in wanted)
        {
            await write.Connection.ExecuteAsync(
                "delete from calendar_role where school_id = @SchoolId and calendar_id = @calendarId and person_id is not distinct from @personId and group_id is not distinct from @groupId",
                new { author.SchoolId, calendarId, personId, groupId });
            if (role is { } given)
            {
                var added = await write.Connection.ExecuteAsync(
                    """
                    insert into calendar_role (id, school_id, calendar_id, person_id, group_id, role)
                    select @Id, @SchoolId, @calendarId, @personId, @groupId, @role
                    where exists (select from person where id = @personId and school_id = @SchoolId and left_at is null)
                       or exists (select from person_group where id = @groupId and school_id = @SchoolId)
                    """,
                    new { Id = Guid.CreateVersion7(), author.SchoolId, calendarId, personId, groupId, role = (short)given });
                if (added == 0)
                    throw new InvalidInputException("no_such_person", "person", "There is nobody of this name in the school any more.");
            }
        }
        var after = await SharesAsync(write.Connection, author.SchoolId, calendarId);
        if (after.Count > MaxShares)
            throw new InvalidInputException("too_many_shares", "person", $"A calendar is shared with {MaxShares} people and groups at most. Make a group of them.");
        if (before.Any(s => s.Role == CalendarRole.Keeper) && !after.Any(s => s.Role == CalendarRole.Keeper))
            throw new InvalidInputException("last_keeper", "role", "Somebody has to keep the calendar. Make somebody else its keeper first.");
        write.Record("roles", calendarId, "share", before, after);
    }

    /// <summary>Makes somebody a calendar's keeper as it is made.</summary>
    internal static Task KeepAsync(DbConnection connection, Guid schoolId, Guid calendarId, Guid personId) =>
        connection.ExecuteAsync(
            "insert into calendar_role (id, school_id, calendar_id, person_id, role) values (@Id, @schoolId, @calendarId, @personId, @role)",
            new { Id = Guid.CreateVersion7(), schoolId, calendarId, personId, role = (short)CalendarRole.Keeper });

    private static async Task<IReadOnlyList<Share>> SharesAsync(DbConnection connection, Guid schoolId, Guid calendarId) =>
        [.. (await connection.QueryAsync<(Guid? PersonId, Guid? GroupId, string Name, short Role)>(
            """
            select r.person_id, r.group_id, coalesce(p.name, g.name), r.role
            from calendar_role r left join person p on p.id = r.person_id left join person_group g on g.id = r.group_id
            where r.school_id = @schoolId and r.calendar_id = @calendarId
            order by r.role desc, lower(coalesce(p.name, g.name)), r.id
            """,
            new { schoolId, calendarId })).Select(r => new Share(r.PersonId, r.GroupId, r.Name, (CalendarRole)r.Role))];
}
