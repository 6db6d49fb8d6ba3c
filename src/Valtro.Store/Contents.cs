using System.Data.Common;
using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Limits;
using Valtro.Core.Publishing;

namespace Valtro.Store;

/// <summary>The contents of a file or a picture.</summary>
/// <param name="Id">Identity.</param>
/// <param name="PersonId">Who brought it; null when they are gone.</param>
/// <param name="MediaType">What it is.</param>
/// <param name="Size">Bytes, of the first variant.</param>
public sealed record StoredContent(Guid Id, Guid? PersonId, string MediaType, long Size);

/// <summary>Contents of files, kept in parts and streamed.</summary>
public sealed class Contents(Connections db)
{
    private const int PartSize = 256 * 1024;

    /// <summary>How long contents that no event ever had are kept: for what is being typed.</summary>
    private static readonly Duration LooseTime = Duration.FromDays(2);

    /// <summary>Keeps contents.</summary>
    /// <param name="content">What it is.</param>
    /// <param name="author">Who brings it.</param>
    /// <param name="variants">Its bytes, and those of its smaller variant.</param>
    public async Task AddAsync(StoredContent content, Author author, params Stream[] variants)
    {
        await using var write = await WriteTransaction.BeginAsync(db, author);
        var connection = write.Connection;
        await connection.ExecuteAsync(
            "insert into content (id, school_id, person_id, media_type, size, created_at) values (@Id, @SchoolId, @PersonId, @MediaType, @Size, @Now)",
            new { content.Id, author.SchoolId, content.PersonId, content.MediaType, content.Size, author.Now });
        write.Grows(Limited.Storage);
        var buffer = new byte[PartSize];
        for (var variant = 0; variant < variants.Length; variant++)
        {
            for (var part = 0; await variants[variant].ReadAtLeastAsync(buffer, PartSize, throwOnEndOfStream: false) is var length and > 0; part++)
            {
                await connection.ExecuteAsync(
                    "insert into content_part (content_id, school_id, variant, part, bytes) values (@Id, @SchoolId, @variant, @part, @bytes)",
                    new { content.Id, author.SchoolId, variant = (short)variant, part, bytes = buffer.AsSpan(0, length).ToArray() });
            }
        }
        write.Concerns([]);
        await write.CommitAsync();
    }

    /// <summary>Makes contents that are there already somebody's, who has brought the same: they are kept as if they had just come.</summary>
    /// <returns>Whether they are there.</returns>
    public async Task<bool> TakeAsync(Guid id, Author author)
    {
        await using var connection = await db.OpenAsync(author.SchoolId);
        return await connection.ExecuteAsync(
            "update content set person_id = @PersonId, created_at = @Now where school_id = @SchoolId and id = @id", new { id, author.SchoolId, author.PersonId, author.Now }) > 0;
    }

    /// <summary>What contents are; null when the school has none of this identity.</summary>
    public async Task<StoredContent?> FindAsync(Guid schoolId, Guid id)
    {
        await using var connection = await db.OpenAsync(schoolId);
        return await connection.QuerySingleOrDefaultAsync<StoredContent>(
            "select id, person_id, media_type, size from content where school_id = @schoolId and id = @id", new { schoolId, id });
    }

    /// <summary>
    /// The bytes of contents, part after part; the first variant where there is no other. Between two parts no connection is
    /// held: who reads slowly keeps nobody else waiting.
    /// </summary>
    public async IAsyncEnumerable<byte[]> ReadAsync(Guid schoolId, Guid id, int variant)
    {
        for (var part = 0; ; part++)
        {
            byte[]? bytes;
            await using (var connection = await db.OpenAsync(schoolId))
            {
                bytes = await connection.ExecuteScalarAsync<byte[]?>(
                    "select bytes from content_part where content_id = @id and part = @part and variant <= @variant order by variant desc limit 1", new { id, part, variant });
            }
            if (bytes is null)
                yield break;
            yield return bytes;
            if (bytes.Length < PartSize)
                yield break;
        }
    }

    /// <summary>Removes contents that no event has, after a while.</summary>
    /// <returns>How many.</returns>
    public Task<int> RemoveLooseAsync(Instant now) => db.InEachSchoolAsync((_, connection) => connection.ExecuteAsync(
        """
        delete from content c where created_at < @before and not exists (select from event_content e where e.content_id = c.id)
            and not exists (select from proposal_content p where p.content_id = c.id) and not exists (select from publication_content u where u.content_id = c.id)
            and not exists (select from template_content t where t.content_id = c.id)
        """,
        new { before = now - LooseTime }));

    /// <summary>Ties events to their contents, which have to be the school's, and their author's own or another event's already.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_file</c>.</exception>
    internal static async Task TieAsync(DbConnection connection, Guid schoolId, Guid? personId, IReadOnlyList<Event> events)
    {
        foreach (var e in events.Where(e => e.Files.Any() || e.Facts.Picture is not null))
        {
            var ids = await CheckedAsync(connection, schoolId, personId, e);
            await connection.ExecuteAsync(
                "insert into event_content (event_id, school_id, content_id) select @Id, @schoolId, unnest(@ids) on conflict do nothing", new { e.Id, schoolId, ids });
        }
    }

    /// <summary>Ties a proposal to the contents of an event it offers.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_file</c>.</exception>
    internal static async Task TieAsync(DbConnection connection, Guid schoolId, Guid? personId, Guid proposalId, Event e)
    {
        if (await CheckedAsync(connection, schoolId, personId, e) is { Length: > 0 } ids)
        {
            await connection.ExecuteAsync(
                "insert into proposal_content (proposal_id, school_id, content_id) select @proposalId, @schoolId, unnest(@ids) on conflict do nothing", new { proposalId, schoolId, ids });
        }
    }

    /// <summary>Ties a publication to the pictures at the head of its page, and to no others.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_file</c>.</exception>
    internal static async Task TieAsync(DbConnection connection, Guid schoolId, Guid? personId, Publication publication)
    {
        Guid[] pictures = [.. new[] { publication.Look.Picture, publication.Draft?.Look.Picture }.OfType<EventPicture>().Select(p => p.Id).Distinct()];
        var ids = await CheckedAsync(connection, schoolId, personId, [], pictures);
        await connection.ExecuteAsync(
            """
            delete from publication_content where publication_id = @Id and content_id <> all(@ids);
            insert into publication_content (publication_id, school_id, content_id) select @Id, @schoolId, unnest(@ids) on conflict do nothing
            """,
            new { publication.Id, schoolId, ids });
    }

    /// <summary>Ties a template to the files and the picture that events started from it begin with, and to no others.</summary>
    /// <exception cref="InvalidInputException"><c>no_such_file</c>.</exception>
    internal static async Task TieAsync(DbConnection connection, Guid schoolId, Guid? personId, Guid templateId, EventFacts facts)
    {
        var ids = await CheckedAsync(connection, schoolId, personId, facts.Files, facts.Picture);
        await connection.ExecuteAsync(
            """
            delete from template_content where template_id = @templateId and content_id <> all(@ids);
            insert into template_content (template_id, school_id, content_id) select @templateId, @schoolId, unnest(@ids) on conflict do nothing
            """,
            new { templateId, schoolId, ids });
    }

    private static Task<Guid[]> CheckedAsync(DbConnection connection, Guid schoolId, Guid? personId, Event e) =>
        CheckedAsync(connection, schoolId, personId, e.Files, e.Facts.Picture);

    private static Task<Guid[]> CheckedAsync(DbConnection connection, Guid schoolId, Guid? personId, IEnumerable<EventFile> files, EventPicture? picture) =>
        CheckedAsync(connection, schoolId, personId, [.. files.Select(f => (f.ContentId, f.MediaType, f.Size))], picture is null ? [] : [picture.Id]);

    private static async Task<Guid[]> CheckedAsync(DbConnection connection, Guid schoolId, Guid? personId, (Guid Id, string MediaType, long Size)[] wanted, Guid[] pictures)
    {
        Guid[] ids = [.. wanted.Select(w => w.Id).Concat(pictures).Distinct()];
        if (ids.Length == 0)
            return ids;
        var known = (await connection.QueryAsync<StoredContent>(
            """
            select id, person_id, media_type, size from content c
            where school_id = @schoolId and id = any(@ids)
              and (@personId is null or person_id = @personId
                or exists (select from event_content e where e.content_id = c.id)
                or exists (select from proposal_content p where p.content_id = c.id)
                or exists (select from publication_content u where u.content_id = c.id)
                or exists (select from template_content t where t.content_id = c.id))
            """,
            new { schoolId, ids, personId })).ToDictionary(c => c.Id);
        if (known.Count < ids.Length || wanted.Any(w => (known[w.Id].MediaType, known[w.Id].Size) != (w.MediaType, w.Size)))
            throw new InvalidInputException("no_such_file", "facts.files", "One of the files is not there any more. Add it again.");
        return ids;
    }
}
