using System.Security.Cryptography;
using Valtro.Core.Events;
using Valtro.Core.Files;
using Valtro.Core.Sources;
using Valtro.Store;

namespace Valtro.Server.Commands;

/// <summary>
/// Files that stand within a calendar file: checked like every other file, and known by what they hold, so that the same file
/// read again is the same.
/// </summary>
/// <param name="schoolId">The school: contents are each school's own.</param>
/// <param name="mostBytes">The largest that is kept.</param>
internal sealed class InlineFiles(Guid schoolId, long mostBytes)
{
    // A file without a name is called by what it is.
    private static readonly string[] Guesses = [".pdf", ".png", ".jpg", ".gif", ".webp", ".docx", ".xlsx", ".pptx", ".txt"];

    private readonly Dictionary<Guid, (EventFile File, ReadOnlyMemory<byte> Bytes)> kept = [];

    /// <summary>A file as it is kept; null where it is too large, or none of the kinds we keep.</summary>
    public EventFile? Keep(InlineFile file)
    {
        if (file.Bytes.Length > mostBytes)
            return null;
        var id = new Guid(HMACSHA256.HashData(schoolId.ToByteArray(), file.Bytes.Span).AsSpan(0, 16));
        if (kept.TryGetValue(id, out var known))
            return known.File;
        foreach (var name in file.Name.Length > 0 ? [file.Name] : Guesses.Select(g => "file" + g))
        {
            try
            {
                using var contents = new MemoryStream(file.Bytes.ToArray(), writable: false);
                var clean = FileKind.CleanName(name);
                var made = new EventFile(id, id, clean, FileKind.Of(clean, contents).MediaType, file.Bytes.Length);
                kept.Add(id, (made, file.Bytes));
                return made;
            }
            catch (InvalidInputException)
            {
                // Not under this name.
            }
        }
        return null;
    }

    /// <summary>Puts those there that are not yet.</summary>
    public async Task StoreAsync(Contents contents, Author author)
    {
        foreach (var (file, bytes) in kept.Values)
        {
            if (!await contents.TakeAsync(file.ContentId, author))
                await contents.AddAsync(new StoredContent(file.ContentId, author.PersonId, file.MediaType, file.Size), author, new MemoryStream(bytes.ToArray(), writable: false));
        }
    }
}
