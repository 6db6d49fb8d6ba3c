using System.Buffers;
using System.IO.Compression;
using System.Security.Cryptography;
using Microsoft.Extensions.Caching.Memory;
using Microsoft.Extensions.Primitives;
using NodaTime;
using NodaTime.Text;
using Valtro.Server.Files;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>How the bytes of a representation are coded (RFC 9110, 8.4).</summary>
internal enum Coding
{
    Plain,
    Gzip,
    Brotli,
}

/// <summary>
/// An outlet's bytes with what HTTP says of them. Kept compressed alone (Brotli; RFC 7932); whoever takes another coding gets it
/// from there, which is kept beside while it is asked for often. Of a large file there is what is said of it alone: its bytes are
/// read where they lie.
/// </summary>
internal sealed class Rendered
{
    // The first time in a hurry, for somebody may wait; what stays is made smaller when there is nothing else to do.
    private const int QuickQuality = 3;
    private const int BestQuality = 9;
    private const int Window = 18;

    // In bytes: what is larger is not held in memory.
    private const long LargestHeld = 4L << 20;

    private static readonly InstantPattern HttpDate = InstantPattern.CreateWithInvariantCulture("ddd, dd MMM uuuu HH:mm:ss 'GMT'");

    private readonly StringValues[] tags;
    private volatile Packed packed;
    private StringValues policy;

    /// <param name="plain">The bytes.</param>
    /// <param name="contentType">What they are.</param>
    /// <param name="lastModified">When they last became different.</param>
    /// <param name="revision">The publication's revision they show.</param>
    /// <param name="on">The day they are right on; null for with every day.</param>
    /// <param name="isCompact">Whether they are compressed already, as pictures are.</param>
    public Rendered(byte[] plain, string contentType, Instant lastModified, long revision, SchoolDay? on, bool isCompact = false)
        // HTTP's dates know whole seconds; rounded up, a reader never takes an older state for this one.
        : this(contentType, Instant.FromUnixTimeSeconds((long)Math.Ceiling((lastModified - NodaConstants.UnixEpoch).TotalSeconds)), revision, isCompact, plain.Length,
            // From the bytes alone, so that every server gives the same.
            Convert.ToHexStringLower(SHA256.HashData(plain).AsSpan(0, 12)))
    {
        (FreshFrom, FreshUntil) = (on?.Begins, on?.Ends);
        packed = isCompact ? new Packed(plain, IsBest: true) : Pack(plain, QuickQuality);
    }

    /// <summary>What was kept on disk.</summary>
    /// <param name="head">What was said of it.</param>
    /// <param name="bytes">Its bytes, compressed.</param>
    public Rendered(RenderedHead head, byte[] bytes)
        : this(head.ContentType, head.LastModified, head.Revision, head.IsCompact, head.PlainLength, head.Hash)
    {
        (FreshFrom, FreshUntil, IsOutOfSearch, IsPrivate, RevisedAt) = (head.FreshFrom, head.FreshUntil, head.IsOutOfSearch, head.IsPrivate, head.RevisedAt);
        (FrameAncestors, StyleHash, FileName, IsForPrograms, Status, ContentId) = (head.FrameAncestors, head.StyleHash, head.FileName, head.IsForPrograms, head.Status, head.ContentId);
        packed = new Packed(bytes, IsBest: head.IsCompact);
    }

    /// <summary>A file somebody brought that is too large to be held in memory.</summary>
    /// <param name="content">Its contents, whose bytes never change.</param>
    /// <param name="contentType">What they are.</param>
    /// <param name="name">What it is called.</param>
    /// <param name="lastModified">When it last became different.</param>
    /// <param name="revision">The publication's revision it goes out with.</param>
    /// <param name="isOutOfSearch">Whether search engines are asked to leave it out.</param>
    public static Rendered OfLarge(StoredContent content, string contentType, string name, Instant lastModified, long revision, bool isOutOfSearch) =>
        new(contentType, lastModified, revision, isCompact: true, (int)content.Size, content.Id.ToString("N")) { packed = new Packed([], IsBest: true), FileName = name, ContentId = content.Id, IsOutOfSearch = isOutOfSearch };

    /// <summary>Whether so many bytes are too large to be held in memory.</summary>
    public static bool IsLargeOf(long size) => size > LargestHeld;

    private Rendered(string contentType, Instant lastModified, long revision, bool isCompact, int plainLength, string hash)
    {
        (ContentType, LastModified, Revision, IsCompact, PlainLength, Hash) = (contentType, lastModified, revision, isCompact, plainLength, hash);
        LastModifiedText = HttpDate.Format(lastModified);
        packed = null!;
        // Each coding is a representation of its own (RFC 9110, 8.8.3.3).
        tags = [$"\"{hash}\"", $"\"{hash}-gzip\"", $"\"{hash}-br\""];
    }

    /// <summary>All that is said of its bytes.</summary>
    public RenderedHead Head => new(
        ContentType, LastModified, Revision, FreshFrom, FreshUntil, IsCompact, PlainLength, Hash, IsOutOfSearch, IsPrivate, FrameAncestors, StyleHash, FileName, IsForPrograms, Status, ContentId, RevisedAt);

    /// <summary>Whether its bytes are read where they lie, for they are too large to be held in memory.</summary>
    public bool IsLarge => IsCompact && FileName is not null && IsLargeOf(PlainLength);

    /// <summary>The bytes as they are kept; none of what is large.</summary>
    public byte[] Kept => packed.Bytes;

    /// <summary>The publication's revision it shows.</summary>
    public long Revision { get; }

    /// <summary>From when on it is right; null for always.</summary>
    public Instant? FreshFrom { get; private init; }

    /// <summary>When it has to be made anew by itself; null for never.</summary>
    public Instant? FreshUntil { get; private init; }

    /// <summary>Whether it is compressed already, as pictures are.</summary>
    public bool IsCompact { get; }

    public string ContentType { get; }

    /// <summary>Whether a browser shows it by itself, and needs to be told what it may do.</summary>
    public bool IsShown => ContentType.StartsWith("text/html", StringComparison.Ordinal) || ContentType == "image/svg+xml";

    /// <summary>Its Content-Security-Policy; of what somebody brought a browser runs nothing, and nothing is said of what none shows.</summary>
    public StringValues Policy => IsShown && policy.Count == 0 ? policy = OutletPolicy.Of(this) : IsCompact && FileName is not null ? FileEndpoints.Policy : policy;

    /// <summary>Whether search engines are asked to leave it out.</summary>
    public bool IsOutOfSearch { get; init; }

    /// <summary>The publication it is of: a link may lead to another one later.</summary>
    public Guid PublicationId { get; set; }

    /// <summary>
    /// When the publication's revision that it shows was made: after a restored backup another one can get its number. Null where
    /// nobody knows.
    /// </summary>
    public Instant? RevisedAt { get; set; }

    /// <summary>When what it was made of began to be read, as the machine counts; 0 for what was kept on disk.</summary>
    public long ReadAt { get; set; }

    /// <summary>Whether it is one member's, and no cache on the way may keep it.</summary>
    public bool IsPrivate { get; set; }

    /// <summary>How many bytes they are as they are.</summary>
    public int PlainLength { get; }

    /// <summary>The hash of the bytes as they are, in part: their tag.</summary>
    public string Hash { get; }

    /// <summary>The part of its Content-Security-Policy that says which sites may frame it.</summary>
    public string FrameAncestors { get; init; } = "'self'";

    /// <summary>The hash of the style in it, as the policy names it; null without one.</summary>
    public string? StyleHash { get; init; }

    /// <summary>The name it is saved under; null for what is read in place.</summary>
    public string? FileName { get; init; }

    /// <summary>Whether anybody's script may read it: what is made for programs.</summary>
    public bool IsForPrograms { get; init; }

    /// <summary>The contents it is, where somebody brought them; null for what is made.</summary>
    public Guid? ContentId { get; init; }

    /// <summary>The same bytes as an answer of another revision.</summary>
    public Rendered At(long revision, bool isOutOfSearch) => new(Head with { Revision = revision, IsOutOfSearch = isOutOfSearch }, Kept);

    /// <summary>The status it goes out with: of a date that is no longer planned there is a page, too.</summary>
    public int Status { get; init; } = StatusCodes.Status200OK;

    public Instant LastModified { get; }

    public StringValues LastModifiedText { get; }

    /// <summary>What it takes in memory, about.</summary>
    public int Size => packed.Bytes.Length + 1_000;

    /// <summary>Whether it is right on a moment.</summary>
    public bool IsFresh(Instant now) => !(FreshUntil <= now) && !(FreshFrom > now);

    /// <summary>The bytes in a coding.</summary>
    /// <param name="coding">The coding; of what is compact there is one.</param>
    /// <param name="beside">Keeps what was made from them.</param>
    public byte[] Body(Coding coding, IMemoryCache? beside = null)
    {
        if (IsCompact || coding == Coding.Brotli)
            return packed.Bytes;
        if (beside?.TryGetValue((this, coding), out byte[]? known) == true)
            return known!;
        var plain = Unpack(packed.Bytes);
        var made = coding == Coding.Plain ? plain : Gzip(plain);
        beside?.Set((this, coding), made, new MemoryCacheEntryOptions { Size = made.Length + 200 });
        return made;
    }

    /// <summary>The tag of a coding.</summary>
    public StringValues Tag(Coding coding) => tags[(int)coding];

    /// <summary>
    /// Makes it as small as it gets: for what stays and is asked for. Its tag stays: the same bytes come out of it, and no parts of it
    /// are served that could be put together with parts of another making.
    /// </summary>
    /// <returns>How many bytes that spares.</returns>
    public int Polish()
    {
        var before = packed;
        if (before.IsBest)
            return 0;
        var best = Pack(Unpack(before.Bytes), BestQuality);
        packed = best.Bytes.Length < before.Bytes.Length ? best : before with { IsBest = true };
        return before.Bytes.Length - packed.Bytes.Length;
    }

    /// <summary>The coding a request gets.</summary>
    public Coding Coded(StringValues accepted) => IsCompact ? Coding.Plain : Accepted(accepted);

    /// <summary>
    /// Whether a conditional request has it already. If-None-Match goes before If-Modified-Since (RFC 9110, 13.1.3); any
    /// coding of the same bytes will do, for the reader only asks whether they changed.
    /// </summary>
    public bool IsKnown(StringValues ifNoneMatch, StringValues ifModifiedSince)
    {
        // Conditions are for what is there (RFC 9110, 13.2.1).
        if (Status != StatusCodes.Status200OK)
            return false;
        // Nearly all send back the one tag they got.
        foreach (var tag in tags)
        {
            if (tag == ifNoneMatch)
                return true;
        }
        if (ifNoneMatch.Count > 0)
            return ifNoneMatch.Any(line => line is not null && line.Split(',').Any(IsOwn));
        return ifModifiedSince.Count == 1 && HttpDate.Parse(ifModifiedSince[0]!) is { Success: true, Value: var since } && LastModified <= since;
    }

    private bool IsOwn(string part)
    {
        var tag = part.AsSpan().Trim();
        if (tag is "*")
            return true;
        // Weak comparison (RFC 9110, 8.8.3.2): proxies that compress make tags weak.
        if (tag.StartsWith("W/", StringComparison.Ordinal))
            tag = tag[2..];
        // Any coding of the same bytes: what follows the hash.
        return tag.Length > Hash.Length + 1 && tag[0] == '"' && tag[^1] == '"' && tag[1..].StartsWith(Hash, StringComparison.Ordinal)
            && tag[(Hash.Length + 1)..^1] is "" or "-gzip" or "-br";
    }

    /// <summary>A moment as HTTP writes it (RFC 9110, 5.6.7).</summary>
    public static string DateOf(Instant at) => HttpDate.Format(at);

    /// <summary>The smallest coding of ours that a reader takes (RFC 9110, 12.5.3).</summary>
    public static Coding Accepted(StringValues accepted)
    {
        // The whole field may come in several lines (RFC 9110, 5.3).
        var (brotli, gzip) = (false, false);
        foreach (var line in accepted)
        {
            foreach (var range in line.AsSpan().Split(','))
            {
                var part = line.AsSpan()[range].Trim();
                var cut = part.IndexOf(';');
                var name = cut < 0 ? part : part[..cut].TrimEnd();
                if (cut >= 0 && IsNone(part[(cut + 1)..]))
                    continue;
                brotli |= name.Equals("br", StringComparison.OrdinalIgnoreCase);
                gzip |= name.Equals("gzip", StringComparison.OrdinalIgnoreCase) || name.Equals("x-gzip", StringComparison.OrdinalIgnoreCase);
            }
        }
        return brotli ? Coding.Brotli : gzip ? Coding.Gzip : Coding.Plain;
    }

    // A weight of nothing says that it is not wanted (RFC 9110, 12.4.2).
    private static bool IsNone(ReadOnlySpan<char> parameter)
    {
        var text = parameter.Trim();
        return text.StartsWith("q=", StringComparison.OrdinalIgnoreCase) && text[2..].Trim("0.") is "";
    }

    private static Packed Pack(byte[] plain, int quality)
    {
        var room = ArrayPool<byte>.Shared.Rent(BrotliEncoder.GetMaxCompressedLength(plain.Length));
        try
        {
            if (!BrotliEncoder.TryCompress(plain, room, out var length, quality, Window))
                throw new InvalidOperationException("What is rendered could not be compressed.");
            return new Packed(room.AsSpan(0, length).ToArray(), quality == BestQuality);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(room);
        }
    }

    private byte[] Unpack(byte[] bytes)
    {
        var plain = new byte[PlainLength];
        return BrotliDecoder.TryDecompress(bytes, plain, out var length) && length == PlainLength ? plain : throw new InvalidDataException("What was kept cannot be read.");
    }

    private static byte[] Gzip(byte[] plain)
    {
        using var output = new MemoryStream();
        using (var stream = new GZipStream(output, CompressionLevel.Fastest))
            stream.Write(plain);
        return output.ToArray();
    }

    private sealed record Packed(byte[] Bytes, bool IsBest);
}

/// <summary>What is said of rendered bytes, as it lies on disk beside them. The members are those of <see cref="Rendered"/>.</summary>
internal sealed record RenderedHead(
    string ContentType, Instant LastModified, long Revision, Instant? FreshFrom, Instant? FreshUntil, bool IsCompact, int PlainLength, string Hash, bool IsOutOfSearch, bool IsPrivate,
    string FrameAncestors, string? StyleHash, string? FileName, bool IsForPrograms, int Status, Guid? ContentId = null, Instant? RevisedAt = null);
