using System.Text.Json;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;

namespace Valtro.Store;

/// <summary>Events and changes that wait for keepers.</summary>
public sealed class Proposals(Connections db)
{
    /// <summary>The most that wait of one person.</summary>
    public const int MaxOpen = 200;

    private const int MaxListed = 500;

    /// <summary>How long a decided one is told of to its proposer.</summary>
    private static readonly Duration Told = Duration.FromDays(30);

    /// <summary>How long a decided one is kept.</summary>
    private static readonly Duration Kept = Duration.FromDays(90);

    // What waits for the keepers and they were not written of: not before the event's home has agreed to it.
    private const string Untold =
        "a.answer = 0 and a.told_at is null and not (a.kind = 0 and exists (select from proposal_ask h where h.proposal_id = a.proposal_id and h.kind = 1 and h.answer <> 1))";

    private const string Columns =
        "p.id, p.person_id, p.event_id, p.is_new, p.base::text as base, p.offered::text as offered, p.added::text as added, p.remark, p.created_at, p.changed_at, p.version";

    /// <summary>The proposals of a person, and those to calendars: what waits, and for a while what was decided; the oldest first.</summary>
    public async Task<IReadOnlyList<Proposal>> ListAsync(Guid schoolId, Guid personId, Guid[] calendarIds, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await ListAsync(
            connection,
            """
            p.school_id = @schoolId
              and (p.person_id = @personId or exists (select from proposal_ask a where a.proposal_id = p.id and a.calendar_id = any(@calendarIds)))
              and exists (select from proposal_ask a where a.proposal_id = p.id and (a.answer in (0, 2) or a.answered_at > @since))
            """,
            new { schoolId, personId, calendarIds, since = now - Told });
    }

    public async Task<Proposal?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await ListAsync(connection, "p.school_id = @schoolId and p.id = @id", new { schoolId, id })).SingleOrDefault();
    }

    /// <summary>The changes of an event that somebody has proposed and nobody has answered, or that were sent back.</summary>
    public async Task<IReadOnlyList<Proposal>> ChangesOfAsync(Guid schoolId, Guid personId, Guid eventId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await ListAsync(
            connection,
            """
            p.school_id = @schoolId and p.person_id = @personId and p.event_id = @eventId and p.base is not null
              and not exists (select from proposal_ask a where a.proposal_id = p.id and a.answer in (1, 3))
            """,
            new { schoolId, personId, eventId });
    }

    /// <summary>The proposals that have contents.</summary>
    public async Task<IReadOnlyList<Proposal>> WithContentAsync(Guid schoolId, Guid contentId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await ListAsync(
            connection, "p.school_id = @schoolId and p.id in (select proposal_id from proposal_content where content_id = @contentId)", new { schoolId, contentId });
    }

    /// <summary>Keeps a new proposal, with what its proposer may do at once.</summary>
    /// <param name="proposal">The proposal; null when nothing has to be asked.</param>
    /// <param name="edits">What is done at once.</param>
    /// <param name="replaced">Earlier ones of the same author that are part of it now.</param>
    /// <param name="author">Who proposes.</param>
    /// <param name="years">The school's years the dates were computed by.</param>
    /// <exception cref="InvalidInputException"><c>too_many_proposals</c>, <c>no_such_file</c>.</exception>
    public async Task OfferAsync(Proposal? proposal, IReadOnlyList<(Event? Before, Event After)> edits, IReadOnlyList<Guid> replaced, Author author, KnownYears years)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await SchoolYears.HoldAsync(write, years.Revision);
        foreach (var id in replaced)
            await write.Connection.ExecuteAsync("delete from proposal where id = @id and school_id = @SchoolId and person_id = @PersonId", new { id, author.SchoolId, author.PersonId });
        if (edits.Count > 0)
            await Events.SaveAsync(write, edits, edits[0].Before is null ? "create" : "change");
        if (proposal is not null)
        {
            var open = await write.Connection.ExecuteScalarAsync<int>(
                "select count(*)::int from proposal p where school_id = @SchoolId and person_id = @PersonId and exists (select from proposal_ask a where a.proposal_id = p.id and a.answer in (0, 2))",
                new { author.SchoolId, author.PersonId });
            if (open >= MaxOpen)
                throw new InvalidInputException("too_many_proposals", "proposal", $"{MaxOpen} of your proposals wait already. Withdraw some, or ask a keeper to decide.");
            await write.Connection.ExecuteAsync(
                """
                insert into proposal (id, school_id, person_id, event_id, is_new, base, offered, added, remark, created_at, changed_at, version)
                values (@Id, @SchoolId, @PersonId, @EventId, @IsNew, @Base::jsonb, @Offered::jsonb, @Added::jsonb, @Remark, @CreatedAt, @ChangedAt, @Version)
                """,
                Parameters(proposal, author.SchoolId));
            await KeepAsksAsync(write.Connection, author.SchoolId, proposal, isRevised: false);
            await TieAsync(write, proposal);
            await write.RecordAsync("proposal", proposal.Id, "propose", null, null);
        }
        await write.CommitAsync();
    }

    /// <summary>Keeps a proposal as its proposer has changed it.</summary>
    /// <exception cref="StaleWriteException">It is another one by now.</exception>
    public async Task<Proposal> ReviseAsync(Guid id, int version, Func<Proposal, Proposal> revise, Author author, KnownYears years, Func<Proposal, Task> allow)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await SchoolYears.HoldAsync(write, years.Revision);
        var before = await HoldAsync(write, id);
        if (before is null || before.Version != version)
            throw new StaleWriteException((object?)before ?? id);
        var after = revise(before);
        await allow(after);
        await write.Connection.ExecuteAsync(
            """
            update proposal set offered = @Offered::jsonb, remark = @Remark, changed_at = @ChangedAt, version = @Version where id = @Id and school_id = @SchoolId;
            delete from proposal_ask where proposal_id = @Id and school_id = @SchoolId and calendar_id <> all(@Calendars)
            """,
            Parameters(after, author.SchoolId));
        await KeepAsksAsync(write.Connection, author.SchoolId, after, isRevised: true);
        await TieAsync(write, after);
        await write.CommitAsync();
        return after;
    }

    /// <summary>Takes a proposal back. What was approved of it stays.</summary>
    /// <returns>Whether it was there.</returns>
    public async Task<bool> WithdrawAsync(Guid id, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var gone = await write.Connection.ExecuteAsync("delete from proposal where id = @id and school_id = @SchoolId", new { id, author.SchoolId }) > 0;
        if (gone)
            await write.CommitAsync();
        return gone;
    }

    /// <summary>Answers a proposal, or takes an answer back. Of two who answer at once the second sees what the first said.</summary>
    /// <param name="id">Which.</param>
    /// <param name="decide">(proposal, its event as it is now, the events that came with it) → what the answer does.</param>
    /// <param name="action">What is done, for the history.</param>
    /// <param name="author">Who answers.</param>
    /// <param name="years">The school's years the dates are computed by.</param>
    /// <returns>The proposal with the answer; null when there is none any more.</returns>
    public async Task<Proposal?> AnswerAsync(Guid id, Func<Proposal, Event?, IReadOnlyList<Event>, Decision> decide, string action, Author author, KnownYears years)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await SchoolYears.HoldAsync(write, years.Revision);
        if (await HoldAsync(write, id) is not { } proposal)
            return null;
        var current = await Events.FindAsync(write.Connection, author.SchoolId, proposal.EventId);
        var added = new List<Event>();
        foreach (var e in proposal.Added)
        {
            if (await Events.FindAsync(write.Connection, author.SchoolId, e.Id) is { } known)
                added.Add(known);
        }
        var (after, edits) = decide(proposal, current, added);
        // What came with an approval that was taken back lies in the bin and is taken out again.
        var binned = added.ToDictionary(e => e.Id);
        edits = [.. edits.Select(e => e.Before is null && binned.TryGetValue(e.After.Id, out var was) ? (was, e.After with { Version = was.Version + 1, Sequence = was.Sequence + 1 }) : e)];
        if (edits.Count > 0)
            await Events.SaveAsync(write, edits, action);
        await KeepAsksAsync(write.Connection, author.SchoolId, after, isRevised: false);
        await write.RecordAsync("proposal", id, action, null, null);
        await write.CommitAsync();
        return after;
    }

    /// <summary>Removes what was decided long ago.</summary>
    /// <returns>How many.</returns>
    public async Task<int> RemoveOldAsync(Instant now)
    {
        await using var connection = await db.OpenForAllAsync();
        return await connection.ExecuteAsync(
            "delete from proposal p where not exists (select from proposal_ask a where a.proposal_id = p.id and (a.answer in (0, 2) or a.answered_at > @before))", new { before = now - Kept });
    }

    /// <summary>
    /// Writes to keepers what waits for them, and to proposers what was answered: one mail for all of it. Nothing is written
    /// while what came last is younger than a pause, unless the first has waited for it.
    /// </summary>
    /// <param name="write">(school, to whom, the lines for them, whether they are answers) → the mail.</param>
    /// <param name="now">The moment.</param>
    /// <param name="pause">How long is gathered.</param>
    /// <returns>How many mails.</returns>
    public async Task<int> TellAsync(Func<Guid, string, IReadOnlyList<ProposalNews>, bool, (string Subject, string Body)> write, Instant now, Duration pause)
    {
        var mails = 0;
        IReadOnlyList<Guid> schools;
        await using (var all = await db.OpenForAllAsync())
        {
            schools = (await all.QueryAsync<Guid>(
                $"""
                select distinct a.school_id from proposal_ask a join proposal p on p.id = a.proposal_id
                where ({Untold} and p.changed_at <= @before) or (a.answer <> 0 and a.told_back_at is null and a.answered_at <= @before)
                """,
                new { before = now - pause })).AsList();
        }
        foreach (var school in schools)
        {
            await using var connection = await db.OpenAsync(school);
            // One snapshot: what comes in meanwhile is neither told nor taken for told.
            await using var transaction = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
            // One server does it; another finds it done.
            if (!await connection.ExecuteScalarAsync<bool>("select pg_try_advisory_xact_lock(hashtext('proposals ' || @school))", new { school = school.ToString() }))
                continue;
            var waiting = (await connection.QueryAsync<NewsRow>(
                $"""
                with keeper as (
                    select r.calendar_id, coalesce(m.person_id, r.person_id) as person_id
                    from calendar_role r left join group_member m on m.group_id = r.group_id where r.role = @Keeper
                    union
                    select c.id, p.id from calendar c join person p on p.school_id = c.school_id and p.role = 1
                    where not exists (select from calendar_role r where r.calendar_id = c.id and r.role = @Keeper))
                select k.id as person_id, k.email, k.name, p.offered->>'title' as title, c.title as calendar, w.name as who, a.answer, a.remark
                from proposal_ask a join proposal p on p.id = a.proposal_id join calendar c on c.id = a.calendar_id
                join keeper on keeper.calendar_id = a.calendar_id join person k on k.id = keeper.person_id and k.left_at is null
                left join person w on w.id = p.person_id
                where {Untold} and k.id is distinct from p.person_id
                order by p.created_at, p.id
                """,
                new { Keeper = (short)CalendarRole.Keeper })).ToLookup(r => r.PersonId);
            var answers = (await connection.QueryAsync<NewsRow>(
                """
                select w.id as person_id, w.email, w.name, p.offered->>'title' as title, c.title as calendar, k.name as who, a.answer, a.remark
                from proposal_ask a join proposal p on p.id = a.proposal_id join calendar c on c.id = a.calendar_id
                join person w on w.id = p.person_id and w.left_at is null left join person k on k.id = a.answered_by
                where a.answer <> 0 and a.told_back_at is null and a.answered_by is distinct from p.person_id
                order by a.answered_at, p.id
                """)).ToLookup(r => r.PersonId);
            foreach (var (news, isAnswer) in waiting.Select(g => (g, false)).Concat(answers.Select(g => (g, true))))
            {
                var first = news.First();
                var (subject, body) = write(school, first.Name, [.. news.Select(n => new ProposalNews(n.Title, n.Calendar, n.Who, (Answer)n.Answer, n.Remark))], isAnswer);
                await Mails.AddAsync(connection, school, first.Email, subject, body, now);
                mails++;
            }
            await connection.ExecuteAsync(
                $"""
                update proposal_ask a set told_at = @now where {Untold};
                update proposal_ask set told_back_at = @now where answer <> 0 and told_back_at is null
                """,
                new { now });
            await transaction.CommitAsync();
        }
        return mails;
    }

    private static async Task TieAsync(WriteTransaction write, Proposal proposal)
    {
        foreach (var e in proposal.Added.Prepend(proposal.Offered))
            await Contents.TieAsync(write.Connection, write.Author.SchoolId, write.Author.PersonId, proposal.Id, e);
    }

    private static async Task<Proposal?> HoldAsync(WriteTransaction write, Guid id)
    {
        await write.Connection.ExecuteAsync("select from proposal where id = @id and school_id = @SchoolId for update", new { id, write.Author.SchoolId });
        return (await ListAsync(write.Connection, "p.school_id = @SchoolId and p.id = @id", new { write.Author.SchoolId, id })).SingleOrDefault();
    }

    private static async Task<IReadOnlyList<Proposal>> ListAsync(NpgsqlConnection connection, string where, object parameters)
    {
        var rows = (await connection.QueryAsync<Row>($"select {Columns} from proposal p where {where} order by p.created_at, p.id limit {MaxListed}", parameters)).AsList();
        var asks = (await connection.QueryAsync<AskRow>(
            """
            select proposal_id, calendar_id, kind, answer, remark, answered_by, answered_at, event_version from proposal_ask
            where proposal_id = any(@ids) order by kind desc, calendar_id
            """,
            new { ids = rows.Select(r => r.Id).ToArray() })).ToLookup(a => a.ProposalId);
        return [.. rows.Select(r => r.ToProposal(asks[r.Id]))];
    }

    private static async Task KeepAsksAsync(NpgsqlConnection connection, Guid schoolId, Proposal proposal, bool isRevised)
    {
        foreach (var ask in proposal.Asks)
        {
            await connection.ExecuteAsync(
                """
                insert into proposal_ask (proposal_id, school_id, calendar_id, kind, answer, remark, answered_by, answered_at, event_version)
                values (@Id, @schoolId, @CalendarId, @kind, @answer, @Remark, @By, @At, @EventVersion)
                on conflict (proposal_id, calendar_id, kind) do update set
                    answer = excluded.answer, remark = excluded.remark, answered_by = excluded.answered_by, answered_at = excluded.answered_at, event_version = excluded.event_version,
                    told_at = case when @isRevised and excluded.answer = 0 and proposal_ask.answer <> 0 then null else proposal_ask.told_at end,
                    told_back_at = case when excluded.answer <> proposal_ask.answer then null else proposal_ask.told_back_at end
                """,
                new { proposal.Id, schoolId, ask.CalendarId, kind = (short)ask.Kind, answer = (short)ask.Answer, ask.Remark, ask.By, ask.At, ask.EventVersion, isRevised });
        }
    }

    private static DynamicParameters Parameters(Proposal p, Guid schoolId)
    {
        var parameters = new DynamicParameters();
        parameters.AddDynamicParams(new
        {
            p.Id,
            SchoolId = schoolId,
            p.PersonId,
            p.EventId,
            p.IsNew,
            Base = p.Base is null ? null : Events.ToHistory(p.Base),
            Offered = Events.ToHistory(p.Offered),
            Added = "[" + string.Join(',', p.Added.Select(Events.ToHistory)) + "]",
            p.Remark,
            p.CreatedAt,
            p.ChangedAt,
            p.Version,
            Calendars = p.Asks.Select(a => a.CalendarId).ToArray(),
        });
        return parameters;
    }

    private sealed class NewsRow
    {
        public Guid PersonId { get; init; }
        public string Email { get; init; } = "";
        public string Name { get; init; } = "";
        public string Title { get; init; } = "";
        public string Calendar { get; init; } = "";
        public string? Who { get; init; }
        public short Answer { get; init; }
        public string Remark { get; init; } = "";
    }

    private sealed class AskRow
    {
        public Guid ProposalId { get; init; }
        public Guid CalendarId { get; init; }
        public short Kind { get; init; }
        public short Answer { get; init; }
        public string Remark { get; init; } = "";
        public Guid? AnsweredBy { get; init; }
        public Instant? AnsweredAt { get; init; }
        public int? EventVersion { get; init; }

        public Ask ToAsk() => new(CalendarId, (AskKind)Kind) { Answer = (Answer)Answer, Remark = Remark, By = AnsweredBy, At = AnsweredAt, EventVersion = EventVersion };
    }

    private sealed class Row
    {
        public Guid Id { get; init; }
        public Guid? PersonId { get; init; }
        public Guid EventId { get; init; }
        public bool IsNew { get; init; }
        public string? Base { get; init; }
        public string Offered { get; init; } = "";
        public string Added { get; init; } = "[]";
        public string Remark { get; init; } = "";
        public Instant CreatedAt { get; init; }
        public Instant ChangedAt { get; init; }
        public int Version { get; init; }

        public Proposal ToProposal(IEnumerable<AskRow> asks) => new()
        {
            Id = Id,
            PersonId = PersonId,
            EventId = EventId,
            IsNew = IsNew,
            Base = Base is null ? null : Events.OfHistory(Base),
            Offered = Events.OfHistory(Offered),
            Added = [.. JsonSerializer.Deserialize<JsonElement[]>(Added)!.Select(e => Events.OfHistory(e.GetRawText()))],
            Remark = Remark,
            Asks = [.. asks.Select(a => a.ToAsk())],
            CreatedAt = CreatedAt,
            ChangedAt = ChangedAt,
            Version = Version,
        };
    }
}

/// <summary>What there is to tell of a proposal.</summary>
/// <param name="Title">The event's title.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Who">Who offered it, or who answered; null when they are gone.</param>
/// <param name="Answer">What was said.</param>
/// <param name="Remark">With which words.</param>
public sealed record ProposalNews(string Title, string Calendar, string? Who, Answer Answer, string Remark);
