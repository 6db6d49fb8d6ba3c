using System.Text;

namespace Valtro.Core.Sources;

/// <summary>The lines of a calendar file, whatever wrote it: any line ends, any of the usual encodings, folded anywhere.</summary>
internal static class SourceText
{
    private static readonly UTF8Encoding Strict = new(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true);

    /// <summary>The unfolded lines (RFC 5545, 3.1), without empty ones.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="wasForeign">Whether the bytes were no UTF-8, and were read as Western European ones.</param>
    public static List<string> Lines(ReadOnlySpan<byte> bytes, out bool wasForeign)
    {
        wasForeign = false;
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]))
            bytes = Encoding.UTF8.GetBytes(Encoding.Unicode.GetString(bytes[2..]));
        else if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]))
            bytes = Encoding.UTF8.GetBytes(Encoding.BigEndianUnicode.GetString(bytes[2..]));
        else if (bytes.StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]))
            bytes = bytes[3..];

        var lines = new List<string>();
        // Folds may lie within a character, so lines are joined before they are text.
        var line = new List<byte>(256);
        foreach (var range in Physical(bytes))
        {
            var piece = bytes[range];
            if (piece.Length > 0 && piece[0] is (byte)' ' or (byte)'\t' && line.Count > 0)
            {
                line.AddRange(piece[1..]);
                continue;
            }
            Add(line, lines, ref wasForeign);
            line.AddRange(piece);
        }
        Add(line, lines, ref wasForeign);
        return lines;
    }

    private static void Add(List<byte> line, List<string> lines, ref bool wasForeign)
    {
        var bytes = System.Runtime.InteropServices.CollectionsMarshal.AsSpan(line);
        if (bytes.Length > 0)
        {
            string text;
            try
            {
                text = Strict.GetString(bytes);
            }
            catch (DecoderFallbackException)
            {
                text = Encoding.Latin1.GetString(bytes);
                wasForeign = true;
            }
            text = text.Replace("\0", "", StringComparison.Ordinal);
            if (!string.IsNullOrWhiteSpace(text))
                lines.Add(text);
        }
        line.Clear();
    }

    // CRLF, LF and CR, also mixed.
    private static List<Range> Physical(ReadOnlySpan<byte> bytes)
    {
        var (found, begin) = (new List<Range>(), 0);
        for (var i = 0; i < bytes.Length; i++)
        {
            if (bytes[i] is not ((byte)'\n' or (byte)'\r'))
                continue;
            found.Add(begin..i);
            if (bytes[i] == '\r' && i + 1 < bytes.Length && bytes[i + 1] == '\n')
                i++;
            begin = i + 1;
        }
        found.Add(begin..bytes.Length);
        return found;
    }
}
