using Dapper;
using NodaTime;

namespace Valtro.Store;

/// <summary>What somebody without an account gets when opening a link.</summary>
public enum LinkOutcome
{
    /// <summary>A page.</summary>
    Open,

    /// <summary>A refusal, or a page that asks to sign in.</summary>
    SignIn,

    /// <summary>Nothing: there is no such page.</summary>
    Missing,

    /// <summary>No answer, or a broken one.</summary>
    NoAnswer,

    /// <summary>An address inside of a network, which nobody outside can reach.</summary>
    Inside,
}

/// <summary>What an outsider got from an address.</summary>
/// <param name="Address">The address.</param>
/// <param name="Outcome">What.</param>
/// <param name="Status">The answer's status; null without one.</param>
/// <param name="CheckedAt">When it was tried.</param>
public sealed record LinkCheck(string Address, LinkOutcome Outcome, int? Status, Instant CheckedAt);

/// <summary>What outsiders got when opening the links of events.</summary>
public sealed class LinkChecks(Connections db)
{
    /// <summary>Keeps results; an earlier one of the same address goes.</summary>
    public async Task SaveAsync(Guid schoolId, IEnumerable<LinkCheck> checks)
    {
        await using var connection = await db.OpenAsync(schoolId);
        foreach (var check in checks)
        {
            await connection.ExecuteAsync(
                """
                insert into link_check (school_id, address, outcome, status, checked_at) values (@schoolId, @Address, @outcome, @Status, @CheckedAt)
                on conflict (school_id, address) do update set outcome = excluded.outcome, status = excluded.status, checked_at = excluded.checked_at
                """,
                new { schoolId, check.Address, outcome = (short)check.Outcome, check.Status, check.CheckedAt });
        }
    }

    /// <summary>The addresses of a school that outsiders could not open when they were last tried.</summary>
    public async Task<IReadOnlySet<string>> ClosedAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QueryAsync<string>(
            "select address from link_check where school_id = @schoolId and outcome <> @open order by address limit 5000", new { schoolId, open = (short)LinkOutcome.Open })).ToHashSet();
    }

    // In bytes: more does not fit into the index.
    private const int LongestTried = 2_500;

    /// <summary>Addresses in events still to come that were not tried since a moment, each with its school.</summary>
    /// <param name="now">The moment.</param>
    /// <param name="triedBefore">Those tried later are left alone.</param>
    /// <param name="limit">How many of a school.</param>
    public async Task<IReadOnlyList<(Guid SchoolId, string Address)>> DueAsync(Instant now, Instant triedBefore, int limit)
    {
        var due = new List<(Guid, string)>();
        await db.InEachSchoolAsync(async (school, connection) =>
        {
            var addresses = await connection.QueryAsync<string>(
                """
                select distinct link->>'address'
                from event e cross join jsonb_path_query(jsonb_build_array(jsonb_build_object('facts', e.facts)) || e.changes, '$[*].facts.links[*]') link
                left join link_check c on c.school_id = e.school_id and c.address = link->>'address'
                where (e.facts ? 'links' or e.changes @? '$[*].facts.links') and e.deleted_at is null and (e.bounds_to is null or e.bounds_to > @now)
                  and (c.checked_at is null or c.checked_at < @triedBefore) and octet_length(link->>'address') <= @LongestTried
                limit @limit
                """,
                new { now, triedBefore, limit, LongestTried });
            due.AddRange(addresses.Select(a => (school, a)));
            return 0;
        });
        return due;
    }
}
