using Valtro.Server.Files;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>The bytes of files that are too large to be held in memory: from disk where they are kept, else from the database.</summary>
internal sealed class LargeFiles(KeptFiles files, Contents contents)
{
    private const int PartSize = 256 * 1024;

    /// <summary>Reads the bytes of a large file, part after part; each is right until the next is asked for.</summary>
    /// <param name="kept">Where its answer is kept.</param>
    /// <param name="rendered">The answer.</param>
    /// <exception cref="Api.DatabaseAwayException">It is not on disk, and the database cannot be asked.</exception>
    /// <exception cref="NotFoundException">It is not there any more.</exception>
    public async IAsyncEnumerable<ReadOnlyMemory<byte>> ReadAsync(Kept kept, Rendered rendered)
    {
        if (kept.Standing.State is not { } state || rendered.ContentId is not { } id)
            yield break;
        await using var onDisk = await files.OpenAsync(kept.Standing.Key, state, kept.Ask, rendered);
        if (onDisk is not null)
        {
            var part = new byte[PartSize];
            for (int length; (length = await onDisk.ReadAsync(part)) > 0;)
                yield return part.AsMemory(0, length);
            yield break;
        }
        // Not written yet, or found damaged.
        kept.IsOnDisk = false;
        files.Write(kept);
        var isThere = false;
        await foreach (var part in contents.ReadAsync(state.SchoolId, id, 0))
        {
            isThere = true;
            yield return part;
        }
        if (!isThere)
            throw FileEndpoints.Missing();
    }
}
