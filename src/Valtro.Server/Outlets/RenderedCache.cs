using System.IO.Compression;
using System.Security.Cryptography;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;

namespace Valtro.Server.Outlets;

/// <summary>An outlet's bytes, compressed ahead, with what HTTP says of them.</summary>
internal sealed class Rendered
{
    public Rendered(byte[] plain, string contentType, Instant lastModified, Instant? validUntil)
    {
        Plain = plain;
        Gzip = Compress(plain, s => new GZipStream(s, CompressionLevel.Optimal));
        Brotli = Compress(plain, s => new BrotliStream(s, CompressionLevel.Optimal));
        ContentType = contentType;
        // HTTP's dates know whole seconds; rounded up, a reader never takes an older state for this one.
        LastModified = Instant.FromUnixTimeSeconds((long)Math.Ceiling((lastModified - NodaConstants.UnixEpoch).TotalSeconds));
        ValidUntil = validUntil;
        Hash = Convert.ToHexStringLower(SHA256.HashData(plain).AsSpan(0, 12));
    }

    public byte[] Plain { get; }

    public byte[] Gzip { get; }

    public byte[] Brotli { get; }

    public string ContentType { get; }

    /// <summary>Whether search engines are asked to leave it out.</summary>
    public bool IsOutOfSearch { get; init; }

    public Instant LastModified { get; }

    public Instant? ValidUntil { get; }

    /// <summary>From the bytes alone, so that every instance gives the same.</summary>
    public string Hash { get; }

    public long Size => Plain.Length + Gzip.Length + Brotli.Length;

    private static byte[] Compress(byte[] plain, Func<Stream, Stream> compressor)
    {
        using var output = new MemoryStream();
        using (var stream = compressor(output))
            stream.Write(plain);
        return output.ToArray();
    }
}

/// <summary>Rendered outlets by revision, bounded by size; the same one is never rendered twice at a time.</summary>
internal sealed class RenderedCache(IClock clock)
{
    private const long MaxBytes = 128L * 1024 * 1024;

    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MaxBytes });
    private readonly Dictionary<object, Task<Rendered>> rendering = [];
    private readonly Lock gate = new();

    public Task<Rendered> GetAsync(object key, Func<Task<Rendered>> render)
    {
        lock (gate)
        {
            if (cache.TryGetValue(key, out Rendered? known) && !(known!.ValidUntil <= clock.GetCurrentInstant()))
                return Task.FromResult(known);
            if (!rendering.TryGetValue(key, out var running))
                rendering[key] = running = RenderAsync(key, render);
            return running;
        }
    }

    private async Task<Rendered> RenderAsync(object key, Func<Task<Rendered>> render)
    {
        // Leaves the lock before any work is done.
        await Task.Yield();
        try
        {
            var rendered = await render();
            cache.Set(key, rendered, new MemoryCacheEntryOptions { Size = rendered.Size });
            return rendered;
        }
        finally
        {
            lock (gate)
                rendering.Remove(key);
        }
    }
}
