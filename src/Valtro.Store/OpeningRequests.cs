using System.Data.Common;
using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Publishing;

namespace Valtro.Store;

/// <summary>A request with the names of what it is about, for who may know of it.</summary>
public sealed record NamedRequest(OpeningRequest Request, string Publication, string Calendar, string? Person, string? AnsweredBy);

/// <summary>Somebody a mail goes to.</summary>
public sealed record Addressee(Guid Id, string Name, string Email);

/// <summary>What keepers are asked to open.</summary>
public sealed class OpeningRequests(Connections db)
{
    private const int MaxListed = 500;

    private const string Selected =
        """
        select r.id, r.publication_id, r.calendar_id, r.person_id, r.audience, r.detail, r.remark, r.asked_at, r.given, r.answer_remark, r.answered_by, r.answered_at,
            coalesce(p.draft->>'title', p.title) as publication, c.title as calendar, w.name as person, k.name as answerer
        from opening_request r join publication p on p.id = r.publication_id join calendar c on c.id = r.calendar_id and c.deleted_at is null
            left join person w on w.id = r.person_id left join person k on k.id = r.answered_by
        """;

    /// <summary>Those that are not answered, and what was answered lately.</summary>
    public async Task<IReadOnlyList<NamedRequest>> ListAsync(Guid schoolId, Instant since)
    {
        await using var connection = await db.OpenAsync(schoolId);
        var rows = await connection.QueryAsync<Row>(
            Selected + " where r.school_id = @schoolId and (r.answered_at is null or r.answered_at >= @since) order by r.answered_at desc nulls first, r.asked_at, r.id limit @MaxListed", new { schoolId, since, MaxListed });
        return [.. rows.OrderBy(r => r.AskedAt).ThenBy(r => r.Id).Select(r => r.ToRequest())];
    }

    public async Task<NamedRequest?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return (await connection.QuerySingleOrDefaultAsync<Row>(Selected + " where r.school_id = @schoolId and r.id = @id", new { schoolId, id }))?.ToRequest();
    }

    /// <summary>Keeps a request and writes to the calendar's keepers. One that waits for the same already takes its place.</summary>
    /// <param name="request">The request.</param>
    /// <param name="write">The mail to each keeper.</param>
    /// <param name="author">Who asks.</param>
    public async Task AddAsync(OpeningRequest request, Func<Addressee, (string Subject, string Body)> write, Author author)
    {
        await using var transaction = await WriteTransaction.BeginAsync(db, author);
        var (connection, schoolId) = (transaction.Connection, author.SchoolId);
        var isNew = await connection.ExecuteScalarAsync<bool>(
            """
            insert into opening_request (id, school_id, publication_id, calendar_id, person_id, audience, detail, remark, asked_at)
            values (@Id, @schoolId, @PublicationId, @CalendarId, @PersonId, @audience, @detail, @Remark, @AskedAt)
            on conflict (publication_id, calendar_id, audience) where answered_at is null
                do update set detail = excluded.detail, remark = excluded.remark, person_id = excluded.person_id
            returning id = @Id
            """,
            new { request.Id, schoolId, request.PublicationId, request.CalendarId, request.PersonId, audience = (short)request.Audience, detail = (short)request.Detail, request.Remark, request.AskedAt });
        if (isNew)
        {
            foreach (var keeper in (await KeepersAsync(connection, request.CalendarId)).Where(k => k.Id != request.PersonId))
            {
                var (subject, body) = write(keeper);
                await Mails.AddAsync(connection, schoolId, keeper.Email, subject, body, author.Now);
            }
        }
        transaction.Concerns([request.CalendarId]);
        await transaction.CommitAsync();
    }

    /// <summary>Keeps an answer with the calendar it opens, and writes to who asked: both or neither.</summary>
    /// <exception cref="StaleWriteException">The calendar was changed meanwhile.</exception>
    /// <exception cref="TakenException">Somebody answered meanwhile.</exception>
    public async Task AnswerAsync(OpeningRequest request, Calendar before, Calendar? opened, Func<Addressee, (string Subject, string Body)> write, Author author)
    {
        await using var transaction = await WriteTransaction.BeginAsync(db, author);
        if (opened is not null)
            await Calendars.SaveAsync(transaction, before, opened, "reach");
        var (connection, answer) = (transaction.Connection, request.Answer!);
        var kept = await connection.ExecuteAsync(
            "update opening_request set given = @given, answer_remark = @Remark, answered_by = @By, answered_at = @At where id = @Id and answered_at is null",
            new { request.Id, given = (short)answer.Given, answer.Remark, answer.By, answer.At });
        if (kept == 0)
            throw new TakenException();
        var asker = await connection.QuerySingleOrDefaultAsync<Addressee>("select id, name, email from person where id = @PersonId and left_at is null and id <> @By", new { request.PersonId, answer.By });
        if (asker is not null)
        {
            var (subject, body) = write(asker);
            await Mails.AddAsync(connection, author.SchoolId, asker.Email, subject, body, author.Now);
        }
        transaction.Concerns([request.CalendarId, .. request.PersonId is { } person ? [person] : Array.Empty<Guid>()]);
        await transaction.CommitAsync();
    }

    // Where nobody keeps a calendar the administrators do.
    private static async Task<IEnumerable<Addressee>> KeepersAsync(DbConnection connection, Guid calendarId) => await connection.QueryAsync<Addressee>(
        $"""
        with keeper as (
            select coalesce(m.person_id, r.person_id) as id from calendar_role r left join group_member m on m.group_id = r.group_id
            where r.calendar_id = @calendarId and r.role = @keeper)
        select p.id, p.name, p.email from person p join calendar c on c.id = @calendarId and c.school_id = p.school_id
        where p.left_at is null and (p.id in (select id from keeper) or (p.role = {Numbers.Administrator} and not exists (select from keeper)))
        """,
        new { calendarId, keeper = (short)CalendarRole.Keeper });

    private sealed class Row
    {
        public Guid Id { get; init; }
        public Guid PublicationId { get; init; }
        public Guid CalendarId { get; init; }
        public Guid? PersonId { get; init; }
        public short Audience { get; init; }
        public short Detail { get; init; }
        public string Remark { get; init; } = "";
        public Instant AskedAt { get; init; }
        public short? Given { get; init; }
        public string AnswerRemark { get; init; } = "";
        public Guid? AnsweredBy { get; init; }
        public Instant? AnsweredAt { get; init; }
        public string Publication { get; init; } = "";
        public string Calendar { get; init; } = "";
        public string? Person { get; init; }
        public string? Answerer { get; init; }

        public NamedRequest ToRequest() => new(
            new OpeningRequest(
                Id, PublicationId, CalendarId, PersonId, (Core.Reach.Audience)Audience, (Core.Reach.Detail)Detail, Remark, AskedAt,
                AnsweredAt is { } at ? new OpeningAnswer((Core.Reach.Detail)(Given ?? 0), AnswerRemark, AnsweredBy, at) : null),
            Publication, Calendar, Person, Answerer);
    }
}
