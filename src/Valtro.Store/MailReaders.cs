using System.Data.Common;
using System.Text.Json;
using Dapper;
using NodaTime;
using Valtro.Core.Publishing;

namespace Valtro.Store;

/// <summary>A visitor who is written to.</summary>
/// <param name="Id">Identity.</param>
/// <param name="SchoolId">The school.</param>
/// <param name="PublicationId">What they read.</param>
/// <param name="Address">Where they are written to, encrypted.</param>
/// <param name="Wish">What they want.</param>
/// <param name="Choice">What of the publication, as the part of an address.</param>
/// <param name="Language">The language they read.</param>
/// <param name="LinkKey">The link they asked by.</param>
/// <param name="IsConfirmed">Whether they said that it is theirs.</param>
public sealed record MailReader(Guid Id, Guid SchoolId, Guid PublicationId, byte[] Address, ReaderWish Wish, string Choice, string Language, string LinkKey, bool IsConfirmed);

/// <summary>A mail to a visitor.</summary>
/// <param name="ReaderId">Who it is for.</param>
/// <param name="Subject">What about.</param>
/// <param name="Body">What it says.</param>
/// <param name="EndsAt">Where it is made the last one.</param>
public sealed record ReaderMail(Guid ReaderId, string Subject, string Body, string EndsAt);

/// <summary>What became of somebody's wish to be written to.</summary>
public enum ReaderAsk
{
    /// <summary>A link to confirm is on its way.</summary>
    Asked,

    /// <summary>They get it already, or were just asked: nothing is sent.</summary>
    Known,

    /// <summary>Too many asked today, or too many are written to.</summary>
    Full,
}

/// <summary>Visitors who are written to.</summary>
public sealed class MailReaders(Connections db)
{
    /// <summary>How many addresses one publication writes to.</summary>
    public const int MaxReaders = 5_000;

    /// <summary>How many addresses can be given for one publication within a day.</summary>
    public const int MaxAsksADay = 200;

    /// <summary>How long a link to confirm works.</summary>
    public static readonly Duration Confirmable = Duration.FromDays(1);

    /// <summary>How many links to confirm one address gets within a day, whatever is asked for it: nobody's mailbox is filled by others.</summary>
    public const int MaxLinksADay = 3;

    // Somebody who presses twice gets one mail; one that was lost is sent again.
    private static readonly Duration Again = Duration.FromHours(6);

    private const string Columns = "id, school_id, publication_id, address, wants::int as wish, choice, language, link_key, confirmed_at is not null as is_confirmed";

    /// <summary>Whether a school writes to readers, and the key of their addresses' hashes.</summary>
    public async Task<(bool IsOn, byte[]? Key)> SettingsAsync(Guid schoolId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleAsync<(bool, byte[]?)>("select writes_to_readers, reader_key from school where id = @schoolId", new { schoolId });
    }

    /// <summary>Lets a school write to readers, or no longer: then nobody is written to, and nobody is forgotten.</summary>
    public async Task SetAsync(bool isOn, Author author)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        await write.Connection.ExecuteAsync("update school set writes_to_readers = @isOn where id = @SchoolId", new { isOn, author.SchoolId });
        // What pages offer is another thing.
        await write.TouchAllAsync();
        await write.CommitAsync();
    }

    /// <summary>Keeps the key, if there is none yet.</summary>
    /// <returns>The key that is kept.</returns>
    public async Task<byte[]> KeepKeyAsync(Guid schoolId, byte[] key)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleAsync<byte[]>("update school set reader_key = coalesce(reader_key, @key) where id = @schoolId returning reader_key", new { schoolId, key });
    }

    /// <summary>Notes a wish and writes the mail to confirm it. Nothing else is sent before that.</summary>
    /// <param name="reader">Who, and what they want.</param>
    /// <param name="addressHash">Tells whether the address is there already.</param>
    /// <param name="confirmHash">Of what stands in the link to confirm.</param>
    /// <param name="mail">The mail.</param>
    /// <param name="now">The moment.</param>
    public async Task<ReaderAsk> AskAsync(MailReader reader, byte[] addressHash, byte[] confirmHash, ReaderMail mail, Instant now)
    {
        await using var connection = await db.OpenAsync(reader.SchoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        // One after the other for a publication, so that the limits hold.
        await connection.ExecuteAsync("select from publication where id = @PublicationId for no key update", new { reader.PublicationId });
        var (asked, all) = await connection.QuerySingleAsync<(int, int)>(
            "select count(*) filter (where asked_at > @day)::int, count(*)::int from mail_reader where publication_id = @PublicationId", new { reader.PublicationId, day = now - Confirmable });
        if (asked >= MaxAsksADay || all >= MaxReaders)
            return ReaderAsk.Full;
        var links = await connection.ExecuteScalarAsync<int>(
            "select count(*)::int from mail_reader where address_hash = @addressHash and confirmed_at is null and asked_at > @day", new { addressHash, day = now - Confirmable });
        if (links >= MaxLinksADay)
            return ReaderAsk.Known;
        var id = await connection.ExecuteScalarAsync<Guid?>(
            """
            insert into mail_reader as r (id, school_id, publication_id, address, address_hash, wants, choice, language, link_key, asked_at, confirm_hash)
            values (@Id, @SchoolId, @PublicationId, @Address, @addressHash, @wants, @Choice, @Language, @LinkKey, @now, @confirmHash)
            on conflict (publication_id, address_hash, wants, choice) do update set confirm_hash = excluded.confirm_hash, asked_at = excluded.asked_at, language = excluded.language
                where r.confirmed_at is null and r.asked_at < @again
            returning id
            """,
            new { reader.Id, reader.SchoolId, reader.PublicationId, reader.Address, addressHash, wants = (short)reader.Wish, reader.Choice, reader.Language, reader.LinkKey, now, confirmHash, again = now - Again });
        if (id is null)
            return ReaderAsk.Known;
        await AddAsync(connection, reader.SchoolId, mail with { ReaderId = id.Value }, now);
        await transaction.CommitAsync();
        return ReaderAsk.Asked;
    }

    /// <summary>Who a link to confirm is for; null when it was used, or is too old.</summary>
    public async Task<MailReader?> ToConfirmAsync(byte[] confirmHash, Instant now)
    {
        Guid? schoolId;
        await using (var none = await db.OpenForNoneAsync())
            schoolId = await none.ExecuteScalarAsync<Guid?>("select school_of_confirmation(@confirmHash)", new { confirmHash });
        if (schoolId is null)
            return null;
        await using var connection = await db.OpenAsync(schoolId.Value);
        return await connection.QuerySingleOrDefaultAsync<MailReader>($"select {Columns} from mail_reader where confirm_hash = @confirmHash and asked_at > @oldest", new { confirmHash, oldest = now - Confirmable });
    }

    /// <summary>Begins to write to somebody; what they are told of begins with what goes out now.</summary>
    public async Task ConfirmAsync(MailReader reader, ToldDates told, LocalDate today, Instant now)
    {
        await using var connection = await db.OpenAsync(reader.SchoolId);
        await connection.ExecuteAsync(
            """
            update mail_reader set confirmed_at = @now, confirm_hash = null, told_on = @today where id = @Id and confirmed_at is null;
            insert into mail_told (publication_id, school_id, told, at) values (@PublicationId, @SchoolId, @told::jsonb, @now) on conflict do nothing
            """,
            new { reader.Id, reader.PublicationId, reader.SchoolId, today, now, told = JsonSerializer.Serialize(told, StoredJson.Options) });
    }

    /// <summary>The reader with an identity; null when they ended it.</summary>
    public async Task<MailReader?> FindAsync(Guid id)
    {
        Guid? schoolId;
        await using (var none = await db.OpenForNoneAsync())
            schoolId = await none.ExecuteScalarAsync<Guid?>("select school_of_mail_reader(@id)", new { id });
        if (schoolId is null)
            return null;
        await using var connection = await db.OpenAsync(schoolId.Value);
        return await connection.QuerySingleOrDefaultAsync<MailReader>($"select {Columns} from mail_reader where id = @id", new { id });
    }

    /// <summary>Forgets a reader, with every mail that is still to go to them.</summary>
    public async Task EndAsync(MailReader reader)
    {
        await using var connection = await db.OpenAsync(reader.SchoolId);
        await connection.ExecuteAsync("delete from mail_reader where id = @Id", new { reader.Id });
    }

    /// <summary>How many a publication writes to.</summary>
    public async Task<int> CountAsync(Guid schoolId, Guid publicationId)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.ExecuteScalarAsync<int>("select count(*)::int from mail_reader where publication_id = @publicationId and confirmed_at is not null", new { publicationId });
    }

    /// <summary>Forgets who did not confirm within their time.</summary>
    public Task<int> ForgetAsync(Instant now) => db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync(
        "delete from mail_reader where confirmed_at is null and asked_at <= @oldest", new { oldest = now - Confirmable }));

    /// <summary>The publications of a school that have something to write to somebody who was not written to on a day.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="today">The day.</param>
    /// <param name="plan">The plan whose time has come; null for none.</param>
    /// <param name="dayBegan">When the day began: changes are told once on it.</param>
    /// <param name="quietSince">What changed later is not told yet.</param>
    /// <param name="longAgo">What was told before is told anew, so that what came into sight is known.</param>
    public async Task<IReadOnlyList<Guid>> DueAsync(Guid schoolId, LocalDate today, ReaderWish? plan, Instant dayBegan, Instant quietSince, Instant longAgo)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return [.. await connection.QueryAsync<Guid>(
            """
            select p.id from publication p join school s on s.id = p.school_id join mail_told t on t.publication_id = p.id
            where p.school_id = @schoolId and s.writes_to_readers and p.published_at is not null and p.taken_down_at is null
                and exists (select from mail_reader r where r.publication_id = p.id and r.confirmed_at is not null and r.told_on < @today
                    and (r.wants = @plan or (r.wants = @changes and t.at < @dayBegan and p.changed_at <= @quietSince and (p.changed_at >= t.at - interval '10 minutes' or t.at < @longAgo))))
            """,
            new { schoolId, today, plan = (short?)plan, changes = (short)ReaderWish.Changes, dayBegan, quietSince, longAgo })];
    }

    /// <summary>
    /// Writes to a publication's readers of one wish who were not written to on a day. One server does it; another finds it done.
    /// </summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="publicationId">The publication.</param>
    /// <param name="wish">What those want who are written to.</param>
    /// <param name="today">The day.</param>
    /// <param name="write">(what they were told of, who) → the mail; null for none.</param>
    /// <param name="dayBegan">When the day began: changes are told once on it.</param>
    /// <param name="tell">What they are told of from now on, by what they were; null to leave that as it is.</param>
    /// <param name="now">The moment.</param>
    /// <returns>How many mails.</returns>
    public async Task<int> WriteAsync(Guid schoolId, Guid publicationId, ReaderWish wish, LocalDate today, Func<ToldDates?, MailReader, ReaderMail?> write, Instant dayBegan, Func<ToldDates, ToldDates?>? tell, Instant now)
    {
        await using var connection = await db.OpenAsync(schoolId);
        await using var transaction = await connection.BeginTransactionAsync();
        if (!await connection.ExecuteScalarAsync<bool>("select pg_try_advisory_xact_lock(hashtext('readers ' || @publication))", new { publication = publicationId.ToString() }))
            return 0;
        var (text, at) = await connection.QuerySingleOrDefaultAsync<(string?, Instant)>("select told::text, at from mail_told where publication_id = @publicationId", new { publicationId });
        var before = text is null ? null : JsonSerializer.Deserialize<ToldDates>(text, StoredJson.Options);
        if (tell is not null && (before is null || at >= dayBegan))
            return 0;
        var readers = (await connection.QueryAsync<MailReader>(
            $"select {Columns} from mail_reader where publication_id = @publicationId and wants = @wish and confirmed_at is not null and (told_on is null or told_on < @today) order by id limit {MaxReaders}",
            new { publicationId, wish = (short)wish, today })).AsList();
        var mails = readers.Select(r => write(before, r)).OfType<ReaderMail>().ToList();
        foreach (var mail in mails)
            await AddAsync(connection, schoolId, mail, now);
        await connection.ExecuteAsync(
            "update mail_reader set told_on = @today where id = any(@ids)",
            new { today, ids = (wish == ReaderWish.Changes ? mails.Select(m => m.ReaderId) : readers.Select(r => r.Id)).ToArray() });
        if (tell is not null)
        {
            var told = tell(before!) is { } next ? JsonSerializer.Serialize(next, StoredJson.Options) : null;
            await connection.ExecuteAsync("update mail_told set told = coalesce(@told::jsonb, told), at = @now where publication_id = @publicationId", new { publicationId, now, told });
        }
        await transaction.CommitAsync();
        return mails.Count;
    }

    private static Task<int> AddAsync(DbConnection connection, Guid schoolId, ReaderMail mail, Instant now) => connection.ExecuteAsync(
        "insert into mail (id, school_id, recipient, subject, body, created_at, next_try_at, reader_id, ends_at) values (@Id, @schoolId, '', @Subject, @Body, @now, @now, @ReaderId, @EndsAt)",
        new { Id = Guid.CreateVersion7(), schoolId, mail.Subject, mail.Body, mail.ReaderId, mail.EndsAt, now });
}
