using System.Data;
using System.Globalization;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using System.Xml;
using CsvHelper;
using CsvHelper.Configuration;
using ExcelDataReader;
using ExcelDataReader.Exceptions;

namespace Valtro.Core.Sources;

/// <summary>A table as it was found: rows of texts. Dates and times of spreadsheets are told as <c>2026-12-05</c> and <c>09:30</c>; of formulas the values.</summary>
/// <param name="Rows">Its rows, each as long as the longest; empty ones are left out.</param>
public sealed record Table(IReadOnlyList<IReadOnlyList<string>> Rows)
{
    /// <summary>The most rows.</summary>
    public const int MaxRows = 20_000;

    /// <summary>The most columns; more are left out.</summary>
    public const int MaxColumns = 60;

    /// <summary>The longest text of a cell; more is cut off.</summary>
    public const int MaxCell = 20_000;

    // A spreadsheet of this size unpacked is no list of events.
    private const long MaxUnpacked = 200_000_000;

    private static readonly byte[] Ole = [0xD0, 0xCF, 0x11, 0xE0];

    static Table() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>What tells that another file is of the same shape: its first row.</summary>
    public string Shape => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Rows.Count == 0 ? "" : string.Join('\t', Rows[0].Select(c => c.ToLowerInvariant())))));

    /// <summary>Whether bytes are those of a spreadsheet.</summary>
    public static bool IsSpreadsheet(ReadOnlySpan<byte> bytes) => bytes.StartsWith(Ole) || (bytes.StartsWith("PK"u8) && Entries(bytes) is { } names && (names.Contains("xl/workbook.xml") || names.Contains("content.xml")));

    /// <summary>Reads a spreadsheet (the first sheet that holds something) or a table as text.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>file_protected</c>: it needs a password; <c>file_damaged</c>; <c>too_many_rows</c>; <c>zip_too_large</c>; <c>file_empty</c>.
    /// </exception>
    public static Table Read(ReadOnlySpan<byte> bytes)
    {
        List<string[]> rows;
        if (bytes.StartsWith(Ole) || bytes.StartsWith("PK"u8))
            rows = Sheet(bytes.ToArray());
        else
            rows = Text(bytes);
        rows = [.. rows.Where(r => r.Any(c => c.Length > 0))];
        if (rows.Count == 0)
            throw new InvalidInputException("file_empty", "", "The file is empty.");
        var width = Math.Min(MaxColumns, rows.Max(r => Array.FindLastIndex(r, c => c.Length > 0) + 1));
        return new Table([.. rows.Select(r => (IReadOnlyList<string>)[.. r.Concat(Enumerable.Repeat("", Math.Max(0, width - r.Length))).Take(width)])]);
    }

    private static List<string[]> Text(ReadOnlySpan<byte> bytes)
    {
        var text = Decoded(bytes);
        var delimiter = DelimiterOf(text);
        var configuration = new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = delimiter.ToString(),
            HasHeaderRecord = false,
            BadDataFound = null,
            MissingFieldFound = null,
            TrimOptions = TrimOptions.Trim,
            LineBreakInQuotedFieldIsBadData = false,
        };
        using var parser = new CsvParser(new StringReader(text), configuration);
        var rows = new List<string[]>();
        while (parser.Read())
            Add(rows, parser.Record ?? []);
        if (text.StartsWith("sep=", StringComparison.OrdinalIgnoreCase) && rows.Count > 0)
            rows.RemoveAt(0);
        return rows;
    }

    private static void Add(List<string[]> rows, string[] row)
    {
        if (rows.Count >= MaxRows)
            throw new InvalidInputException("too_many_rows", "", $"A table has {MaxRows} rows at most.");
        rows.Add([.. row.Select(c => (c.Length > MaxCell ? c[..MaxCell] : c).Replace('\0', ' ').Trim())]);
    }

    private static string Decoded(ReadOnlySpan<byte> bytes)
    {
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]))
            return Encoding.Unicode.GetString(bytes[2..]);
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]))
            return Encoding.BigEndianUnicode.GetString(bytes[2..]);
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]))
            bytes = bytes[3..];
        try
        {
            return new UTF8Encoding(false, true).GetString(bytes);
        }
        catch (DecoderFallbackException)
        {
            return Encoding.GetEncoding(1252).GetString(bytes);
        }
    }

    // The sign that parts most lines into as many cells as the first, outside of quotes.
    private static char DelimiterOf(string text)
    {
        var first = text.AsSpan().TrimStart();
        // Some say it themselves.
        if (first.StartsWith("sep=") && first.Length > 5)
            return first[4];
        var lines = text.Split('\n').Where(l => l.Trim().Length > 0).Take(30).ToList();
        int Count(string line, char sign)
        {
            var (count, isQuoted) = (0, false);
            foreach (var c in line)
            {
                if (c == '"')
                    isQuoted = !isQuoted;
                else if (c == sign && !isQuoted)
                    count++;
            }
            return count;
        }
        return new[] { '\t', ';', ',', '|' }
            .Select(sign => (Sign: sign, Counts: lines.Select(l => Count(l, sign)).ToList()))
            .Where(s => s.Counts.Count > 0 && s.Counts.Max() > 0)
            .OrderByDescending(s => s.Counts.Count(c => c > 0 && c == s.Counts[0])).ThenByDescending(s => s.Counts[0])
            .Select(s => s.Sign).FirstOrDefault(',');
    }

    private static List<string[]> Sheet(byte[] bytes)
    {
        CheckUnpacked(bytes);
        if (Entries(bytes)?.Contains("content.xml") == true)
            return OpenSheet(bytes);
        try
        {
            using var reader = ExcelReaderFactory.CreateReader(new MemoryStream(bytes, writable: false), new ExcelReaderConfiguration { FallbackEncoding = Encoding.GetEncoding(1252) });
            do
            {
                var rows = new List<string[]>();
                while (reader.Read())
                    Add(rows, [.. Enumerable.Range(0, Math.Min(reader.FieldCount, MaxColumns)).Select(i => Cell(reader.GetValue(i)))]);
                if (rows.Exists(r => r.Any(c => c.Length > 0)))
                    return rows;
            }
            while (reader.NextResult());
            return [];
        }
        catch (InvalidPasswordException)
        {
            throw new InvalidInputException("file_protected", "", "The spreadsheet is protected by a password. Save it without one and bring it in again.");
        }
        catch (Exception e) when (e is ExcelReaderException or InvalidDataException or XmlException or IOException or FormatException or ArgumentException or IndexOutOfRangeException or NotSupportedException or InvalidOperationException or NullReferenceException or KeyNotFoundException or OverflowException)
        {
            throw new InvalidInputException("file_damaged", "", "The spreadsheet cannot be read: it is damaged, or of another kind than its name says.");
        }
    }

    private static string Cell(object? value) => value switch
    {
        null or DBNull => "",
        // A time alone lies on the day spreadsheets count from.
        DateTime { Year: < 1901 } time => time.ToString(time.Second == 0 ? "HH:mm" : "HH:mm:ss", CultureInfo.InvariantCulture),
        DateTime date when date.TimeOfDay == TimeSpan.Zero => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        DateTime date => date.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture),
        TimeSpan { TotalDays: < 1 } time => time.ToString(@"hh\:mm", CultureInfo.InvariantCulture),
        bool said => said ? "yes" : "no",
        IFormattable other => other.ToString(null, CultureInfo.InvariantCulture),
        _ => value.ToString() ?? "",
    };

    // OpenDocument (ISO/IEC 26300): cells of the first table; what a cell is stands in its attributes.
    private static List<string[]> OpenSheet(byte[] bytes)
    {
        const string Tables = "urn:oasis:names:tc:opendocument:xmlns:table:1.0";
        const string Office = "urn:oasis:names:tc:opendocument:xmlns:office:1.0";
        const string Texts = "urn:oasis:names:tc:opendocument:xmlns:text:1.0";
        var rows = new List<string[]>();
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes, writable: false));
            if (zip.GetEntry("META-INF/manifest.xml") is { } manifest)
            {
                using var text = new StreamReader(manifest.Open());
                if (text.ReadToEnd().Contains("encryption-data", StringComparison.Ordinal))
                    throw new InvalidInputException("file_protected", "", "The spreadsheet is protected by a password. Save it without one and bring it in again.");
            }
            using var xml = XmlReader.Create(zip.GetEntry("content.xml")!.Open(), new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null });
            var (row, cell, said, repeated, times) = (new List<string>(), new StringBuilder(), (string?)null, 1, 1);
            void EndCell()
            {
                var value = (said ?? cell.ToString()).Trim();
                for (var i = 0; i < repeated && row.Count < MaxColumns; i++)
                    row.Add(value);
                (said, repeated) = (null, 1);
                cell.Clear();
            }
            void EndRow()
            {
                // Thousands of empty rows end many sheets.
                for (var i = 0; i < (row.Exists(c => c.Length > 0) ? Math.Min(times, MaxRows) : 1); i++)
                    Add(rows, [.. row]);
                row.Clear();
            }
            while (xml.Read())
            {
                if (xml.NodeType == XmlNodeType.EndElement && xml.NamespaceURI == Tables && xml.LocalName == "table" && rows.Exists(r => r.Any(c => c.Length > 0)))
                    return rows;
                if (xml.NodeType == XmlNodeType.Element && xml.NamespaceURI == Tables && xml.LocalName == "table-row")
                {
                    times = int.TryParse(xml.GetAttribute("number-rows-repeated", Tables), out var n) ? n : 1;
                    if (xml.IsEmptyElement)
                        EndRow();
                }
                else if (xml.NodeType == XmlNodeType.Element && xml.NamespaceURI == Tables && xml.LocalName is "table-cell" or "covered-table-cell")
                {
                    repeated = int.TryParse(xml.GetAttribute("number-columns-repeated", Tables), out var n) ? n : 1;
                    said = xml.GetAttribute("value-type", Office) switch
                    {
                        "date" => xml.GetAttribute("date-value", Office)?.Replace('T', ' ') is { } date ? date.Length > 16 ? date[..16] : date : null,
                        "time" when XmlConvert.ToTimeSpan(xml.GetAttribute("time-value", Office) ?? "PT0S") is { TotalDays: < 1 } time => time.ToString(@"hh\:mm", CultureInfo.InvariantCulture),
                        _ => null,
                    };
                    if (xml.IsEmptyElement)
                        EndCell();
                }
                else if (xml.NodeType == XmlNodeType.EndElement && xml.NamespaceURI == Tables && xml.LocalName is "table-cell" or "covered-table-cell")
                {
                    EndCell();
                }
                else if (xml.NodeType == XmlNodeType.EndElement && xml.NamespaceURI == Tables && xml.LocalName == "table-row")
                {
                    EndRow();
                }
                else if (xml.NodeType == XmlNodeType.Element && xml.NamespaceURI == Texts && xml.LocalName == "p" && cell.Length > 0)
                {
                    cell.Append('\n');
                }
                else if (xml.NodeType is XmlNodeType.Text or XmlNodeType.SignificantWhitespace && cell.Length < MaxCell)
                {
                    cell.Append(xml.Value);
                }
            }
            return rows;
        }
        catch (Exception e) when (e is XmlException or InvalidDataException or IOException or FormatException or NullReferenceException)
        {
            throw new InvalidInputException("file_damaged", "", "The spreadsheet cannot be read: it is damaged, or of another kind than its name says.");
        }
    }

    private static void CheckUnpacked(byte[] bytes)
    {
        if (!bytes.AsSpan().StartsWith("PK"u8))
            return;
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes, writable: false));
            if (zip.Entries.Count > 5_000 || zip.Entries.Sum(e => e.Length) > MaxUnpacked)
                throw new InvalidInputException("zip_too_large", "", "Unpacked it would be too large to be read.");
        }
        catch (InvalidDataException)
        {
            throw new InvalidInputException("file_damaged", "", "The spreadsheet cannot be read: it is damaged, or of another kind than its name says.");
        }
    }

    private static HashSet<string>? Entries(ReadOnlySpan<byte> bytes)
    {
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes.ToArray(), writable: false));
            return [.. zip.Entries.Take(5_000).Select(e => e.FullName)];
        }
        catch (InvalidDataException)
        {
            return null;
        }
    }
}
