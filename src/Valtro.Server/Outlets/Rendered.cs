using System.IO.Compression;
using System.Security.Cryptography;
using Microsoft.Extensions.Primitives;
using NodaTime;
using NodaTime.Text;

namespace Valtro.Server.Outlets;

/// <summary>How the bytes of a representation are coded (RFC 9110, 8.4).</summary>
internal enum Coding
{
    Plain,
    Gzip,
    Brotli,
}

/// <summary>An outlet's bytes, compressed ahead, with what HTTP says of them.</summary>
internal sealed class Rendered
{
    private static readonly InstantPattern HttpDate = InstantPattern.CreateWithInvariantCulture("ddd, dd MMM uuuu HH:mm:ss 'GMT'");

    private readonly byte[][] bodies;
    private readonly StringValues[] tags;
    private StringValues policy;

    /// <param name="plain">The bytes.</param>
    /// <param name="contentType">What they are.</param>
    /// <param name="lastModified">When they last became different.</param>
    /// <param name="validUntil">When they have to be made anew; null for with the next change.</param>
    /// <param name="isCompact">Whether they are compressed already, as pictures are.</param>
    public Rendered(byte[] plain, string contentType, Instant lastModified, Instant? validUntil, bool isCompact = false)
    {
        bodies = isCompact
            ? [plain]
            : [plain, Compress(plain, s => new GZipStream(s, CompressionLevel.Optimal)), Compress(plain, s => new BrotliStream(s, CompressionLevel.Optimal))];
        ContentType = contentType;
        // HTTP's dates know whole seconds; rounded up, a reader never takes an older state for this one.
        LastModified = Instant.FromUnixTimeSeconds((long)Math.Ceiling((lastModified - NodaConstants.UnixEpoch).TotalSeconds));
        LastModifiedText = HttpDate.Format(LastModified);
        ValidUntil = validUntil;
        // From the bytes alone, so that every server gives the same.
        var hash = Convert.ToHexStringLower(SHA256.HashData(plain).AsSpan(0, 12));
        // Each coding is a representation of its own (RFC 9110, 8.8.3.3).
        tags = [$"\"{hash}\"", $"\"{hash}-gzip\"", $"\"{hash}-br\""];
    }

    /// <summary>The bytes as they are.</summary>
    public byte[] Plain => bodies[0];

    public string ContentType { get; }

    /// <summary>Whether a browser shows it by itself, and needs to be told what it may do.</summary>
    public bool IsShown => ContentType.StartsWith("text/html", StringComparison.Ordinal) || ContentType == "image/svg+xml";

    /// <summary>Its Content-Security-Policy; nothing for what no browser shows.</summary>
    public StringValues Policy => IsShown && policy.Count == 0 ? policy = OutletPolicy.Of(this) : policy;

    /// <summary>Whether search engines are asked to leave it out.</summary>
    public bool IsOutOfSearch { get; init; }

    /// <summary>Whether it is one member's, and no cache on the way may keep it.</summary>
    public bool IsPrivate { get; set; }

    /// <summary>The part of its Content-Security-Policy that says which sites may frame it.</summary>
    public string FrameAncestors { get; init; } = "'self'";

    /// <summary>The hash of the style in it, as the policy names it; null without one.</summary>
    public string? StyleHash { get; init; }

    /// <summary>The name it is saved under; null for what is read in place.</summary>
    public string? FileName { get; init; }

    /// <summary>Whether anybody's script may read it: what is made for programs.</summary>
    public bool IsForPrograms { get; init; }

    /// <summary>The status it goes out with: of a date that is no longer planned there is a page, too.</summary>
    public int Status { get; init; } = StatusCodes.Status200OK;

    public Instant LastModified { get; }

    public StringValues LastModifiedText { get; }

    public Instant? ValidUntil { get; }

    /// <summary>Whether it is still kept in memory.</summary>
    public bool IsKept { get; set; } = true;

    public long Size => bodies.Sum(b => (long)b.Length) + 1_000;

    public byte[] Body(Coding coding) => bodies[(int)coding];

    public StringValues Tag(Coding coding) => tags[(int)coding];

    /// <summary>The coding a request gets.</summary>
    public Coding Coded(StringValues accepted) => bodies.Length == 1 ? Coding.Plain : Accepted(accepted);

    /// <summary>
    /// Whether a conditional request has it already. If-None-Match goes before If-Modified-Since (RFC 9110, 13.1.3); any
    /// coding of the same bytes will do, for the reader only asks whether they changed.
    /// </summary>
    public bool IsKnown(StringValues ifNoneMatch, StringValues ifModifiedSince)
    {
        // Conditions are for what is there (RFC 9110, 13.2.1).
        if (Status != StatusCodes.Status200OK)
            return false;
        // As readers send it, in one piece.
        if (ifNoneMatch.Count == 1 && (ifNoneMatch == tags[0] || ifNoneMatch == tags[1] || ifNoneMatch == tags[2]))
            return true;
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
        foreach (var own in tags)
        {
            if (tag.SequenceEqual(own.ToString()))
                return true;
        }
        return false;
    }

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

    private static byte[] Compress(byte[] plain, Func<Stream, Stream> compressor)
    {
        using var output = new MemoryStream();
        using (var stream = compressor(output))
            stream.Write(plain);
        return output.ToArray();
    }
}
