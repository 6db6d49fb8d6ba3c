using Dapper;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>What a step did to one thing.</summary>
/// <typeparam name="T">What it is.</typeparam>
/// <param name="Id">Its identity.</param>
/// <param name="Before">Its state before; null when it was made.</param>
/// <param name="After">Its state after.</param>
public sealed record StepPart<T>(Guid Id, T? Before, T After)
    where T : class;

/// <summary>Something a person did at once; one of the three kinds has parts.</summary>
public sealed record Step(string Action, IReadOnlyList<StepPart<Event>> Events, IReadOnlyList<StepPart<Calendar>> Calendars, IReadOnlyList<StepPart<SchoolLists>> Lists);

/// <summary>What persons did, for taking it back.</summary>
public sealed class Steps(Connections db)
{
    private const int MaxRead = 2_000;

    /// <summary>
    /// The last step of a person since a moment that is not undone yet; null when there is none. An undo takes the step
    /// before it away.
    /// </summary>
    public async Task<Step?> LastAsync(Guid schoolId, Guid personId, Instant since)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = (await connection.QueryAsync<Row>(
            """
            select h.change_id, h.entity, h.entity_id, h.action, h.before::text as before, h.after::text as after
            from history h
            where h.school_id = @schoolId and h.person_id = @personId and h.entity in ('event', 'calendar', 'lists') and h.at >= @since
              -- What a school year did to its series is undone with the year, and an answer with its proposal.
              and h.action not in ('school year', 'approve', 'reopen')
            order by h.at desc, h.id desc limit @MaxRead
            """,
            new { schoolId, personId, since, MaxRead })).AsList();
        var undone = 0;
        foreach (var change in rows.GroupBy(r => r.ChangeId))
        {
            if (change.First().Action == "undo")
                undone++;
            else if (undone > 0)
                undone--;
            else
                return new Step(change.First().Action, Parts(change, "event", Events.OfHistory), Parts(change, "calendar", Calendars.OfHistory), Parts(change, "lists", Lists.OfHistory));
        }
        return null;
    }

    private static List<StepPart<T>> Parts<T>(IEnumerable<Row> rows, string entity, Func<string, T> read)
        where T : class =>
        [.. rows.Where(r => r.Entity == entity && r.After is not null).Select(r => new StepPart<T>(r.EntityId, r.Before is null ? null : read(r.Before), read(r.After!)))];

    private sealed class Row
    {
        public Guid ChangeId { get; init; }
        public string Entity { get; init; } = "";
        public Guid EntityId { get; init; }
        public string Action { get; init; } = "";
        public string? Before { get; init; }
        public string? After { get; init; }
    }
}
