using Dapper;
using Valtro.Core.People;

namespace Valtro.Store;

/// <summary>How much of a calendar is where, for who answers for privacy.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Events">Its events that are not in the bin.</param>
/// <param name="Narrowed">Of these, those that allow less than it gives.</param>
/// <param name="Drafts">Of these, the drafts.</param>
/// <param name="Files">Files of these.</param>
/// <param name="Publications">The titles of publications it is in that are up.</param>
public sealed record CalendarOverview(Guid CalendarId, int Events, int Narrowed, int Drafts, int Files, string[] Publications);

/// <summary>What is open to whom in a whole school.</summary>
public sealed class Overview(Connections db)
{
    public async Task<IReadOnlyDictionary<Guid, CalendarOverview>> CalendarsAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid CalendarId, int Events, int Narrowed, int Drafts, int Files, string[] Publications)>(
            """
            select c.id as calendar_id, count(e.id)::int as events,
              count(e.id) filter (where jsonb_typeof(e.facts->'reach') = 'object')::int as narrowed,
              count(e.id) filter (where e.facts->'isDraft' = 'true'::jsonb)::int as drafts,
              coalesce(sum(jsonb_array_length(case when jsonb_typeof(e.facts->'files') = 'array' then e.facts->'files' else '[]'::jsonb end)
                + jsonb_array_length(jsonb_path_query_array(e.changes, '$[*].facts.files[*]'))), 0)::int as files,
              array(select p.title from publication p join publication_calendar pc on pc.publication_id = p.id
                    where pc.calendar_id = c.id and p.taken_down_at is null and p.published_at is not null order by p.title) as publications
            from calendar c left join event e on e.calendar_id = c.id and e.deleted_at is null
            where c.school_id = @schoolId and c.deleted_at is null
            group by c.id
            """,
            new { schoolId })).ToDictionary(o => o.CalendarId, o => new CalendarOverview(o.CalendarId, o.Events, o.Narrowed, o.Drafts, o.Files, o.Publications));
    }

    /// <summary>Who has a role on each calendar, groups as themselves.</summary>
    public async Task<ILookup<Guid, Share>> SharesAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<(Guid CalendarId, Guid? PersonId, Guid? GroupId, string Name, short Role)>(
            """
            select r.calendar_id, r.person_id, r.group_id, coalesce(p.name, g.name), r.role
            from calendar_role r left join person p on p.id = r.person_id left join person_group g on g.id = r.group_id
            where r.school_id = @schoolId order by r.role desc, lower(coalesce(p.name, g.name))
            """,
            new { schoolId })).ToLookup(r => r.CalendarId, r => new Share(r.PersonId, r.GroupId, r.Name, (CalendarRole)r.Role));
    }
}
