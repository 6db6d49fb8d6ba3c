using Dapper;
using NodaTime;

namespace Valtro.Store;

/// <summary>
/// What becomes of old history: of each thing one state a day stays, in the school's days. Who made the last change of the day stands
/// for the day, with the state before its first.
/// </summary>
public sealed class HistoryKeeping(Connections db)
{
    /// <summary>How much is looked at in one go.</summary>
    private static readonly Duration Slice = Duration.FromDays(31);

    /// <summary>Less than this is left for later: a school is looked at once a week.</summary>
    private static readonly Duration Least = Duration.FromDays(7);

    /// <summary>How many goes one run has for a school: the rest has time until the next.</summary>
    private const int MaxSlices = 24;

    /// <summary>Thins what is older.</summary>
    /// <param name="before">Younger history stays as it is.</param>
    /// <returns>How many entries went.</returns>
    public Task<int> ThinAsync(Instant before) => db.InEachSchoolAsync(async (schoolId, connection) =>
    {
        var thinned = 0;
        var from = await connection.ExecuteScalarAsync<Instant?>("select coalesce(s.thinned_to, (select min(at) from history where school_id = s.id)) from school s where s.id = @schoolId", new { schoolId });
        if (!(before - from >= Least))
            return 0;
        // A zone that the database has no data of is left to its own days.
        var zone = await connection.ExecuteScalarAsync<string>("select coalesce((select z.name from pg_timezone_names z where z.name = s.zone), 'UTC') from school s where s.id = @schoolId", new { schoolId });
        for (var slice = 0; slice < MaxSlices && from is { } begin && begin < before; slice++)
        {
            // Whole days, so that none is cut in two.
            var end = await connection.ExecuteScalarAsync<Instant>(
                "select date_trunc('day', least(@to, @before) at time zone @zone) at time zone @zone", new { to = begin + Slice, before, zone });
            if (end <= begin)
                break;
            thinned += await connection.ExecuteAsync(
                """
                with entry as (
                    select id, first_value(id) over day as first_id, last_value(id) over day as last_id,
                           first_value(before is null) over day and last_value(after is null) over day as is_nothing
                    from history where school_id = @schoolId and at >= @begin and at < @end and (before is not null or after is not null)
                    window day as (partition by entity, entity_id, (at at time zone @zone)::date order by place rows between unbounded preceding and unbounded following)
                ),
                state as (
                    update history h set before = f.before, action = case when f.before is null then f.action else h.action end
                    from entry e join history f on f.id = e.first_id
                    where e.id = h.id and e.id = e.last_id and e.first_id <> e.last_id and not e.is_nothing
                ),
                marked as (update school set thinned_to = @end where id = @schoolId)
                delete from history h using entry e where e.id = h.id and (e.id <> e.last_id or e.is_nothing)
                """,
                new { schoolId, begin, end, zone });
            from = end;
        }
        return thinned;
    });
}
