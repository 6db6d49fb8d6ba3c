using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>What a calendar holds, for telling what opening or binning it means.</summary>
/// <param name="Events">Events that are not in the bin.</param>
/// <param name="First">The earliest instant one of them can touch, about; null without events.</param>
/// <param name="Files">How many files its events have.</param>
public sealed record CalendarContents(int Events, Instant? First, int Files);

/// <summary>Calendars.</summary>
public sealed class Calendars(Connections db)
{
    private const string Columns =
        "id, title, description, lane_group, zone, mark, reach_members, reach_link_holders, reach_everyone, is_out_of_search, is_followed, version, deleted_at";

    /// <summary>All calendars, those in the bin too, in order.</summary>
    internal const string SelectedAll = $"select {Columns} from calendar where school_id = @SchoolId order by position;";

    internal static async Task<(IReadOnlyDictionary<Guid, Calendar> There, IReadOnlySet<Guid> Binned)> ReadAsync(SqlMapper.GridReader result)
    {
        var all = (await result.ReadAsync<Row>()).Select(r => r.ToCalendar()).ToList();
        return (all.Where(c => c.DeletedAt is null).ToDictionary(c => c.Id), all.Where(c => c.DeletedAt is not null).Select(c => c.Id).ToHashSet());
    }

    /// <summary>All calendars that are not in the bin, in order.</summary>
    public async Task<IReadOnlyList<Calendar>> ListAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from calendar where school_id = @schoolId and deleted_at is null order by position limit 1000",
            new { schoolId });
        return [.. rows.Select(r => r.ToCalendar())];
    }

    /// <summary>The calendars in the bin, the one that came into it last first.</summary>
    public async Task<IReadOnlyList<Calendar>> BinAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            $"select {Columns} from calendar where school_id = @schoolId and deleted_at is not null order by deleted_at desc, id limit 1000",
            new { schoolId });
        return [.. rows.Select(r => r.ToCalendar())];
    }

    public async Task<Calendar?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await FindAsync(connection, schoolId, id);
    }

    /// <summary>How many events are at home in calendars and not in the bin themselves; nothing of those with none.</summary>
    public async Task<IReadOnlyDictionary<Guid, int>> EventsInAsync(Guid schoolId, Guid[] calendarIds)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid Id, int Count)>(
            "select calendar_id, count(*)::int from event where school_id = @schoolId and calendar_id = any(@calendarIds) and deleted_at is null group by calendar_id",
            new { schoolId, calendarIds })).ToDictionary(r => r.Id, r => r.Count);
    }

    public async Task<CalendarContents> ContentsAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var (count, first, files) = await connection.QuerySingleAsync<(int, Instant?, int)>(
            """
            select count(*)::int, min(bounds_from) + interval '2 days', coalesce(sum(jsonb_array_length(coalesce(facts->'files', '[]')) + jsonb_array_length(jsonb_path_query_array(changes, '$[*].facts.files[*]'))), 0)::int
            from event where school_id = @schoolId and calendar_id = @id and deleted_at is null
            """,
            new { schoolId, id });
        return new CalendarContents(count, first, files);
    }

    /// <summary>Keeps a new or a changed calendar.</summary>
    /// <param name="before">What the change was made from; null for a new one.</param>
    /// <param name="after">The new state.</param>
    /// <param name="action">What was done, for the history.</param>
    /// <param name="author">Who did it.</param>
    /// <param name="cancellation">Gives up.</param>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    public async Task SaveAsync(Calendar? before, Calendar after, string action, Author author, CancellationToken cancellation = default)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author, cancellation: cancellation);
        await SaveAsync(write, before, after, action);
        await write.CommitAsync(cancellation);
    }

    /// <summary>Keeps a calendar within a write that does more.</summary>
    internal static async Task SaveAsync(WriteTransaction write, Calendar? before, Calendar after, string action)
    {
        var author = write.Author;
        await write.HoldSchoolAsync();
        var row = new Row(after);
        var parameters = new DynamicParameters(row);
        parameters.AddDynamicParams(new { author.SchoolId, author.Now, Expected = before?.Version });
        var sql = before is null
            ? """
              insert into calendar (id, school_id, title, description, lane_group, zone, mark, reach_members,
                  reach_link_holders, reach_everyone, is_out_of_search, is_followed, version, created_at, changed_at, deleted_at)
              values (@Id, @SchoolId, @Title, @Description, @LaneGroup, @Zone, @Mark, @ReachMembers,
                  @ReachLinkHolders, @ReachEveryone, @IsOutOfSearch, @IsFollowed, @Version, @Now, @Now, @DeletedAt)
              """
            : """
              update calendar set title = @Title, description = @Description, lane_group = @LaneGroup, zone = @Zone,
                  mark = @Mark, reach_members = @ReachMembers, reach_link_holders = @ReachLinkHolders,
                  reach_everyone = @ReachEveryone, is_out_of_search = @IsOutOfSearch, is_followed = @IsFollowed, version = @Version, changed_at = @Now, deleted_at = @DeletedAt
              where id = @Id and school_id = @SchoolId and version = @Expected
              """;
        if (await write.Connection.ExecuteAsync(sql, parameters) == 0)
            throw new StaleWriteException((await FindAsync(write.Connection, author.SchoolId, after.Id))!);
        if (before is null && author.PersonId is { } maker)
            await Roles.KeepAsync(write.Connection, author.SchoolId, after.Id, maker);
        write.Record("calendar", after.Id, action, before is null ? null : new Row(before), row);
        var publications = await Publications.ShowingAsync(write.Connection, author.SchoolId, [after.Id]);
        write.Touch(publications.Where(p => Outgoing.IsAltered(p, before, after)).Select(p => p.Id));
        // With their home in the bin its events are nowhere, and back with it.
        if (before is not null && before.DeletedAt is null != after.DeletedAt is null)
        {
            write.Touch(await write.Connection.QueryAsync<Guid>(
                """
                select distinct pc.publication_id from event e join publication_calendar pc on pc.calendar_id = any(e.also_in)
                where e.school_id = @SchoolId and e.calendar_id = @Id and e.deleted_at is null and e.also_in <> '{}'
                """,
                new { author.SchoolId, after.Id }));
        }
        // Who sees nothing of it, before and after, hears nothing of it.
        if ((before is not null && Core.People.Access.Nobody.Sees(before)) || Core.People.Access.Nobody.Sees(after))
            write.ConcernsMembers();
        write.Concerns([after.Id]);
    }

    /// <summary>A calendar as it lies in the history.</summary>
    internal static Calendar OfHistory(string text) => JsonSerializer.Deserialize<Row>(text, StoredJson.Options)!.ToCalendar();

    /// <summary>Calendars of a school (@SchoolId), for publications.</summary>
    /// <param name="ids">Which, in the database's words.</param>
    internal static string SelectedFor(string ids) => $"select {Columns} from calendar where school_id = @SchoolId and id = any({ids});";

    internal static async Task<IReadOnlyList<Calendar>> ReadForAsync(SqlMapper.GridReader result) => [.. (await result.ReadAsync<Row>()).Select(r => r.ToCalendar())];

    internal static async Task<IReadOnlyList<Calendar>> ListForPublicationAsync(DbConnection connection, Guid schoolId, Guid[] ids)
    {
        using var result = await connection.QueryMultipleAsync(SelectedFor("@ids"), new { SchoolId = schoolId, ids });
        return await ReadForAsync(result);
    }

    internal static async Task<Calendar?> FindAsync(DbConnection connection, Guid schoolId, Guid id)
    {
        var row = await connection.QuerySingleOrDefaultAsync<Row>(
            $"select {Columns} from calendar where school_id = @schoolId and id = @id", new { schoolId, id });
        return row?.ToCalendar();
    }

    private sealed class Row
    {
        public Row()
        {
        }

        public Row(Calendar calendar)
        {
            Id = calendar.Id;
            Title = calendar.Title;
            Description = calendar.Description;
            LaneGroup = calendar.Group;
            Zone = calendar.Zone.Id;
            Mark = (short)calendar.Mark;
            ReachMembers = (short)calendar.Reach.Members;
            ReachLinkHolders = (short)calendar.Reach.LinkHolders;
            ReachEveryone = (short)calendar.Reach.Everyone;
            IsOutOfSearch = calendar.IsOutOfSearch;
            IsFollowed = calendar.IsFollowed;
            Version = calendar.Version;
            DeletedAt = calendar.DeletedAt;
        }

        public Guid Id { get; init; }
        public string Title { get; init; } = "";
        public string Description { get; init; } = "";
        public string LaneGroup { get; init; } = "";
        public string Zone { get; init; } = "";
        public short Mark { get; init; }
        public short ReachMembers { get; init; }
        public short ReachLinkHolders { get; init; }
        public short ReachEveryone { get; init; }
        public bool IsOutOfSearch { get; init; }
        public bool IsFollowed { get; init; }
        public int Version { get; init; }
        public Instant? DeletedAt { get; init; }

        public Calendar ToCalendar() => new()
        {
            Id = Id,
            Title = Title,
            Description = Description,
            Group = LaneGroup,
            Zone = Zones.Get(Zone),
            Mark = Mark,
            Reach = new ReachTable((Detail)ReachMembers, (Detail)ReachLinkHolders, (Detail)ReachEveryone),
            IsOutOfSearch = IsOutOfSearch,
            IsFollowed = IsFollowed,
            Version = Version,
            DeletedAt = DeletedAt,
        };
    }
}
