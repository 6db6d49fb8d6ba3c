using System.IO.Compression;
using System.Text;

namespace Valtro.Core.Files;

/// <summary>What a file is, found by its contents. A name alone proves nothing, but it has to go with them.</summary>
/// <param name="MediaType">Its media type (RFC 6838).</param>
/// <param name="Endings">The endings of names that go with it; the first is the usual one.</param>
public sealed record FileKind(string MediaType, params string[] Endings)
{
    /// <summary>The longest name.</summary>
    public const int MaxName = 150;

    /// <summary>How many bytes from the start are enough to tell; of archives the whole is needed.</summary>
    public const int HeadLength = 4096;

    private static readonly FileKind Pdf = new("application/pdf", ".pdf");
    private static readonly FileKind Png = new("image/png", ".png");
    private static readonly FileKind Jpeg = new("image/jpeg", ".jpg", ".jpeg");
    private static readonly FileKind Gif = new("image/gif", ".gif");
    private static readonly FileKind Webp = new("image/webp", ".webp");
    private static readonly FileKind Rtf = new("application/rtf", ".rtf");
    private static readonly FileKind Csv = new("text/csv", ".csv");
    private static readonly FileKind Calendar = new("text/calendar", ".ics");
    private static readonly FileKind Text = new("text/plain", ".txt", ".md", ".log", ".tsv");

    // A compound file says only which program made it; the name has to say which kind.
    private static readonly FileKind[] Compound =
    [
        new("application/msword", ".doc"), new("application/vnd.ms-excel", ".xls"), new("application/vnd.ms-powerpoint", ".ppt"),
    ];

    private static readonly (string Part, FileKind Kind)[] OpenXml =
    [
        ("word/", new("application/vnd.openxmlformats-officedocument.wordprocessingml.document", ".docx")),
        ("xl/", new("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", ".xlsx")),
        ("ppt/", new("application/vnd.openxmlformats-officedocument.presentationml.presentation", ".pptx")),
    ];

    private static readonly FileKind[] OpenDocument =
    [
        new("application/vnd.oasis.opendocument.text", ".odt"),
        new("application/vnd.oasis.opendocument.spreadsheet", ".ods"),
        new("application/vnd.oasis.opendocument.presentation", ".odp"),
    ];

    /// <summary>Whether it is a picture that browsers draw.</summary>
    public bool IsPicture => MediaType.StartsWith("image/", StringComparison.Ordinal);

    /// <summary>A name to download a file with: one line, without a path, without signs that file systems refuse.</summary>
    /// <exception cref="InvalidInputException"><c>file_name</c>.</exception>
    public static string CleanName(string? name)
    {
        var last = (name ?? "").Replace('\\', '/').Split('/')[^1];
        var clean = new StringBuilder(last.Length);
        foreach (var c in last)
            clean.Append(char.IsControl(c) || c is ':' or '*' or '?' or '"' or '<' or '>' or '|' or '\u202E' or '\u202D' ? ' ' : c);
        var text = string.Join(' ', clean.ToString().Split(' ', StringSplitOptions.RemoveEmptyEntries)).Trim('.', ' ');
        return text.Length is > 0 and <= MaxName
            ? text
            : throw new InvalidInputException("file_name", "name", $"A file needs a name of 1 to {MaxName} characters.");
    }

    /// <summary>Finds what a file is.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="contents">Its contents; read from the start, and left wherever.</param>
    /// <exception cref="InvalidInputException"><c>file_type</c>: it is none of the kinds we keep, or its name says another kind.</exception>
    public static FileKind Of(string name, Stream contents)
    {
        var head = new byte[HeadLength];
        contents.Position = 0;
        var length = contents.ReadAtLeast(head, head.Length, throwOnEndOfStream: false);
        var ending = Path.GetExtension(name).ToLowerInvariant();
        var kinds = Candidates(head.AsSpan(0, length), contents, ending);
        if (kinds.Length == 0)
            throw new InvalidInputException("file_type", "name", $"“{name}” is none of the files we keep: PDF, office documents, pictures (PNG, JPEG, GIF, WebP), text and CSV.");
        return kinds.FirstOrDefault(k => k.Endings.Contains(ending))
            ?? throw new InvalidInputException("file_type", "name", $"“{name}” does not hold what its name says. By its contents its name should end in {kinds[0].Endings[0]}.");
    }

    private static FileKind[] Candidates(ReadOnlySpan<byte> head, Stream contents, string ending)
    {
        if (head.StartsWith("%PDF-"u8))
            return [Pdf];
        if (head.StartsWith(new byte[] { 0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A }))
            return [Png];
        if (head.StartsWith(new byte[] { 0xFF, 0xD8, 0xFF }))
            return [Jpeg];
        if (head.StartsWith("GIF87a"u8) || head.StartsWith("GIF89a"u8))
            return [Gif];
        if (head.Length > 12 && head.StartsWith("RIFF"u8) && head[8..12].SequenceEqual("WEBP"u8))
            return [Webp];
        if (head.StartsWith("{\\rtf"u8))
            return [Rtf];
        if (head.StartsWith(new byte[] { 0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1 }))
            return Compound;
        if (head.StartsWith("PK\x03\x04"u8))
            return Archive(contents);
        return IsText(head) ? ending switch { ".csv" => [Csv], ".ics" => [Calendar], _ => [Text] } : [];
    }

    private static FileKind[] Archive(Stream contents)
    {
        try
        {
            contents.Position = 0;
            using var zip = new ZipArchive(contents, ZipArchiveMode.Read, leaveOpen: true);
            if (zip.GetEntry("mimetype") is { Length: < 100 } entry)
            {
                using var reader = new StreamReader(entry.Open(), Encoding.ASCII);
                var type = reader.ReadToEnd().Trim();
                return [.. OpenDocument.Where(k => k.MediaType == type)];
            }
            // With macros it is a program, not a document.
            if (zip.GetEntry("[Content_Types].xml") is null || zip.Entries.Any(e => e.Name.Equals("vbaProject.bin", StringComparison.OrdinalIgnoreCase)))
                return [];
            return [.. OpenXml.Where(o => zip.Entries.Any(e => e.FullName.StartsWith(o.Part, StringComparison.Ordinal))).Select(o => o.Kind)];
        }
        catch (InvalidDataException)
        {
            return [];
        }
    }

    /// <summary>UTF-8 without control characters; the last character may be cut off.</summary>
    private static bool IsText(ReadOnlySpan<byte> head)
    {
        foreach (var b in head)
        {
            if (b < 0x20 && b is not (0x09 or 0x0A or 0x0D or 0x0C))
                return false;
        }
        while (!head.IsEmpty)
        {
            if (Rune.DecodeFromUtf8(head, out _, out var used) != System.Buffers.OperationStatus.Done)
                return head.Length < 4 && used == head.Length;
            head = head[used..];
        }
        return true;
    }
}
