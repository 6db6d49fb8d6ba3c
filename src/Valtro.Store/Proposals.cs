using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Valtro.Core;
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
    private static readonly string Untold =
        $"a.answer = {Numbers.Open} and a.told_at is null and not (a.kind <> {Numbers.Contents} and exists (select from proposal_ask h where h.proposal_id = a.proposal_id and h.kind = {Numbers.Contents} and h.answer <> {Numbers.Approved}))";

    private const string AskColumns = "proposal_id, calendar_id, kind, answer, remark, answered_by, answered_at, event_version";

    private const string Columns =
        "p.id, p.person_id, p.event_id, p.is_new, p.base::text as base, p.offered::text as offered, p.added::text as added, p.remark, p.created_at, p.changed_at, p.version";

    /// <summary>The proposals of a person, and those to calendars: what waits, and for a while what was decided; the oldest first.</summary>
    public async Task<IReadOnlyList<Proposal>> ListAsync(Guid schoolId, Guid personId, Guid[] calendarIds, Instant now, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        return await ListAsync(
            connection,
            $"""
            p.school_id = @schoolId
              and (p.person_id = @personId or exists (select from proposal_ask a where a.proposal_id = p.id and a.calendar_id = any(@calendarIds)))
              and exists (select from proposal_ask a where a.proposal_id = p.id and (a.answer in {Numbers.Undecided} or a.answered_at > @since))
            """,
            new { schoolId, personId, calendarIds, since = now - Told });
    }

    public async Task<Proposal?> FindAsync(Guid schoolId, Guid id, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        return (await ListAsync(connection, "p.school_id = @schoolId and p.id = @id", new { schoolId, id })).SingleOrDefault();
    }

    /// <summary>The proposals that have contents.</summary>
    public async Task<IReadOnlyList<Proposal>> WithContentAsync(Guid schoolId, Guid contentId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await ListAsync(
            connection, "p.school_id = @schoolId and p.id in (select proposal_id from proposal_content where content_id = @contentId)", new { schoolId, contentId });
    }

    // Those that are asked for, and the changes of an event that the same person has proposed and nobody has answered.
    private const string Wanted =
        "p.school_id = @SchoolId and (p.id = any(@proposals) or (p.person_id = @PersonId and p.event_id = @ChangesOf and p.base is not null))";

    /// <summary>Proposals that are held, in two results.</summary>
    internal const string SelectedFor =
        $"""
        select {Columns} from proposal p where {Wanted} order by p.created_at, p.id for update;
        select {AskColumns} from proposal_ask where proposal_id in (select p.id from proposal p where {Wanted}) order by kind desc, calendar_id;
        """;

    internal static async Task<IReadOnlyList<Proposal>> ReadAsync(SqlMapper.GridReader result)
    {
        var rows = (await result.ReadAsync<Row>()).AsList();
        var asks = (await result.ReadAsync<AskRow>()).ToLookup(a => a.ProposalId);
        return [.. rows.Select(r => r.ToProposal(asks[r.Id]))];
    }

    /// <summary>Keeps a new or a changed proposal within a write that does more.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_proposals</c>, <c>no_such_file</c>.</exception>
    internal static async Task KeepAsync(WriteTransaction write, Proposal? before, Proposal after, string action)
    {
        var author = write.Author;
        if (before is null && after.Asks.All(a => a.IsUndecided))
        {
            var open = await write.Connection.ExecuteScalarAsync<int>(
                $"select count(*)::int from proposal p where school_id = @SchoolId and person_id = @PersonId and exists (select from proposal_ask a where a.proposal_id = p.id and a.answer in {Numbers.Undecided})",
                new { author.SchoolId, author.PersonId });
            if (open >= MaxOpen)
                throw new InvalidInputException("too_many_proposals", "proposal", $"{MaxOpen} of your proposals wait already. Withdraw some, or ask a keeper to decide.");
        }
        await write.Connection.ExecuteAsync(
            """
            insert into proposal (id, school_id, person_id, event_id, is_new, base, offered, added, remark, created_at, changed_at, version)
            values (@Id, @SchoolId, @PersonId, @EventId, @IsNew, @Base::jsonb, @Offered::jsonb, @Added::jsonb, @Remark, @CreatedAt, @ChangedAt, @Version)
            on conflict (id) do update set offered = excluded.offered, remark = excluded.remark, changed_at = excluded.changed_at, version = excluded.version;
            delete from proposal_ask where proposal_id = @Id and school_id = @SchoolId and calendar_id <> all(@Calendars)
            """,
            Parameters(after, author.SchoolId));
        await KeepAsksAsync(write.Connection, author.SchoolId, after, isRevised: before is not null && before.Version != after.Version);
        foreach (var e in after.Added.Prepend(after.Offered))
            await Contents.TieAsync(write.Connection, author.SchoolId, author.PersonId, after.Id, e);
        write.Record("proposal", after.Id, before is null ? "propose" : action, before is null ? null : StoredProposal.Write(before), StoredProposal.Write(after));
        Tell(write, after);
    }

    /// <summary>Takes proposals away within a write that does more.</summary>
    internal static async Task RemoveAsync(WriteTransaction write, IReadOnlyList<Proposal> gone)
    {
        await write.Connection.ExecuteAsync(
            "delete from proposal where school_id = @SchoolId and id = any(@ids)", new { write.Author.SchoolId, ids = gone.Select(p => p.Id).ToArray() });
        foreach (var proposal in gone)
        {
            write.Record("proposal", proposal.Id, "withdraw", StoredProposal.Write(proposal), null);
            Tell(write, proposal);
        }
    }

    private static void Tell(WriteTransaction write, Proposal p) =>
        write.Concerns([.. p.Asks.Select(a => a.CalendarId), .. p.PersonId is { } person ? [person] : Array.Empty<Guid>()]);

    /// <summary>Removes what was decided long ago.</summary>
    /// <returns>How many.</returns>
    public Task<int> RemoveOldAsync(Instant now) => db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync(
        $"delete from proposal p where not exists (select from proposal_ask a where a.proposal_id = p.id and (a.answer in {Numbers.Undecided} or a.answered_at > @before))", new { before = now - Kept }));

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
        return await db.InEachSchoolAsync(async (school, connection) =>
        {
            var mails = 0;
            var isDue = await connection.ExecuteScalarAsync<bool>(
                $"""
                select exists (select from proposal_ask a join proposal p on p.id = a.proposal_id
                    where ({Untold} and p.changed_at <= @before) or (a.answer <> {Numbers.Open} and a.told_back_at is null and a.answered_at <= @before))
                """,
                new { before = now - pause });
            if (!isDue)
                return 0;
            // One snapshot: what comes in meanwhile is neither told nor taken for told.
            await using var transaction = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
            // One server does it; another finds it done.
            if (!await connection.ExecuteScalarAsync<bool>("select pg_try_advisory_xact_lock(hashtext('proposals ' || @school))", new { school = school.ToString() }))
                return 0;
            var waiting = (await connection.QueryAsync<NewsRow>(
                $"""
                with keeper as (
                    select r.calendar_id, coalesce(m.person_id, r.person_id) as person_id
                    from calendar_role r left join group_member m on m.group_id = r.group_id where r.role = @Keeper
                    union
                    select c.id, p.id from calendar c join person p on p.school_id = c.school_id and p.role = {Numbers.Administrator}
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
                $"""
                select w.id as person_id, w.email, w.name, p.offered->>'title' as title, c.title as calendar, k.name as who, a.answer, a.remark
                from proposal_ask a join proposal p on p.id = a.proposal_id join calendar c on c.id = a.calendar_id
                join person w on w.id = p.person_id and w.left_at is null left join person k on k.id = a.answered_by
                where a.answer <> {Numbers.Open} and a.told_back_at is null and a.answered_by is distinct from p.person_id
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
                update proposal_ask set told_back_at = @now where answer <> {Numbers.Open} and told_back_at is null
                """,
                new { now });
            await transaction.CommitAsync();
            return mails;
        });
    }

    private static async Task<IReadOnlyList<Proposal>> ListAsync(DbConnection connection, string where, object parameters)
    {
        var rows = (await connection.QueryAsync<Row>($"select {Columns} from proposal p where {where} order by p.created_at, p.id limit {MaxListed}", parameters)).AsList();
        var asks = (await connection.QueryAsync<AskRow>(
            $"select {AskColumns} from proposal_ask where proposal_id = any(@ids) order by kind desc, calendar_id",
            new { ids = rows.Select(r => r.Id).ToArray() })).ToLookup(a => a.ProposalId);
        return [.. rows.Select(r => r.ToProposal(asks[r.Id]))];
    }

    private static async Task KeepAsksAsync(DbConnection connection, Guid schoolId, Proposal proposal, bool isRevised)
    {
        foreach (var ask in proposal.Asks)
        {
            await connection.ExecuteAsync(
                $"""
                insert into proposal_ask (proposal_id, school_id, calendar_id, kind, answer, remark, answered_by, answered_at, event_version)
                values (@Id, @schoolId, @CalendarId, @kind, @answer, @Remark, @By, @At, @EventVersion)
                on conflict (proposal_id, calendar_id, kind) do update set
                    answer = excluded.answer, remark = excluded.remark, answered_by = excluded.answered_by, answered_at = excluded.answered_at, event_version = excluded.event_version,
                    told_at = case when @isRevised and excluded.answer = {Numbers.Open} and proposal_ask.answer <> {Numbers.Open} then null else proposal_ask.told_at end,
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
            Base = p.Base is null ? null : StoredEvent.Write(p.Base),
            Offered = StoredEvent.Write(p.Offered),
            Added = "[" + string.Join(',', p.Added.Select(StoredEvent.Write)) + "]",
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
            Base = Base is null ? null : StoredEvent.Read(Base),
            Offered = StoredEvent.Read(Offered),
            Added = [.. JsonSerializer.Deserialize<JsonElement[]>(Added)!.Select(e => StoredEvent.Read(e.GetRawText()))],
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
