using Dapper;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Core.Publishing;
using Valtro.Core.SchoolYears;
using Valtro.Core.Sources;

namespace Valtro.Store;

/// <summary>What a step did to one thing.</summary>
/// <typeparam name="T">What it is.</typeparam>
/// <param name="Id">Its identity.</param>
/// <param name="Before">Its state before; null when it was made.</param>
/// <param name="After">Its state after; null when it went.</param>
public sealed record StepPart<T>(Guid Id, T? Before, T? After)
    where T : class
{
    /// <summary>The other way round: what doing it again does.</summary>
    public StepPart<T> Turned => new(Id, After, Before);
}

/// <summary>Something a person did at once.</summary>
public sealed record Step(
    Guid Id,
    string Action,
    IReadOnlyList<StepPart<Event>> Events,
    IReadOnlyList<StepPart<Calendar>> Calendars,
    IReadOnlyList<StepPart<SchoolLists>> Lists,
    IReadOnlyList<StepPart<SchoolYear>> Years,
    IReadOnlyList<StepPart<Publication>> Publications,
    IReadOnlyList<StepPart<Proposal>> Proposals,
    IReadOnlyList<StepPart<Origin>> Origins)
{
    /// <summary>The other way round.</summary>
    public Step Turned => this with
    {
        Events = [.. Events.Select(p => p.Turned)],
        Calendars = [.. Calendars.Select(p => p.Turned)],
        Lists = [.. Lists.Select(p => p.Turned)],
        Years = [.. Years.Select(p => p.Turned)],
        Publications = [.. Publications.Select(p => p.Turned)],
        Proposals = [.. Proposals.Select(p => p.Turned)],
        Origins = [.. Origins.Select(p => p.Turned)],
    };
}

/// <summary>Taking steps back, and doing them again, within a command's work. Steps are ordered by the database.</summary>
internal static class Steps
{
    /// <summary>
    /// The last step of a person since a moment that stands, or the last one they took back and may do again: until they do
    /// something else. Or that of an identity, if it is theirs and so. Held.
    /// </summary>
    /// <param name="write">The write that takes it back.</param>
    /// <param name="isRedo">Whether it shall be done again.</param>
    /// <param name="id">Which; null for the last.</param>
    /// <param name="since">From when on.</param>
    public static async Task<Step?> FindAsync(WriteTransaction write, bool isRedo, Guid? id, Instant since)
    {
        var author = write.Author;
        var found = await write.Connection.QuerySingleOrDefaultAsync<(Guid Id, string Action)?>(
            isRedo
                ? """
                  select id, action from step
                  where school_id = @SchoolId and person_id = @PersonId and at >= @since and (@id::uuid is null or id = @id)
                    and undone_place > coalesce((select max(place) from step where person_id = @PersonId and undone_place is null), 0)
                  order by undone_place desc limit 1 for update
                  """
                : """
                  select id, action from step
                  where school_id = @SchoolId and person_id = @PersonId and at >= @since and (@id::uuid is null or id = @id) and undone_place is null
                  order by place desc limit 1 for update
                  """,
            new { author.SchoolId, author.PersonId, since, id });
        if (found is not { } step)
            return null;
        var rows = (await write.Connection.QueryAsync<Row>(
            """
            select entity, entity_id, before::text as before, after::text as after from history
            where school_id = @SchoolId and change_id = @Id order by place
            """,
            new { author.SchoolId, step.Id })).AsList();
        return new Step(
            step.Id,
            step.Action,
            Parts(rows, "event", StoredEvent.Read),
            Parts(rows, "calendar", Store.Calendars.OfHistory),
            Parts(rows, "lists", Store.Lists.OfHistory),
            Parts(rows, "school_year", SchoolYears.OfHistory),
            Parts(rows, "publication", Store.Publications.OfHistory),
            Parts(rows, "proposal", StoredProposal.Read),
            Parts(rows, "origin", OriginRow.OfHistory));
    }

    /// <summary>Says that a step is taken back, or stands again.</summary>
    public static Task MarkAsync(WriteTransaction write, Guid id, bool isRedo) => write.Connection.ExecuteAsync(
        "update step set undone_place = case when @isRedo then null else nextval('step_place') end where id = @id and person_id = @PersonId",
        new { id, isRedo, write.Author.PersonId });

    private static List<StepPart<T>> Parts<T>(IEnumerable<Row> rows, string entity, Func<string, T> read)
        where T : class =>
        [.. rows.Where(r => r.Entity == entity && (r.Before is not null || r.After is not null)).Select(r => new StepPart<T>(r.EntityId, r.Before is null ? null : read(r.Before), r.After is null ? null : read(r.After)))];

    private sealed class Row
    {
        public string Entity { get; init; } = "";
        public Guid EntityId { get; init; }
        public string? Before { get; init; }
        public string? After { get; init; }
    }
}
