using System.Collections.Immutable;
using System.IO.Compression;

namespace Valtro.Core.Sources;

/// <summary>What form a file is of.</summary>
public enum SourceForm
{
    /// <summary>iCalendar, as text or JSON.</summary>
    Calendar,

    /// <summary>A table.</summary>
    Table,

    /// <summary>Several of them, packed.</summary>
    Packed,
}

/// <summary>A table's columns as they were read.</summary>
/// <param name="Header">The first row, where it names them; else numbers.</param>
/// <param name="Meanings">What each says.</param>
/// <param name="Samples">The first cells of each.</param>
/// <param name="Shape">What tells another file of the same shape.</param>
public sealed record TableColumns(ImmutableArray<string> Header, ImmutableArray<TableColumn> Meanings, ImmutableArray<ImmutableArray<string>> Samples, string Shape);

/// <summary>A file that can be brought in, read: any form, told by what is in it.</summary>
/// <param name="Form">What form it is of.</param>
/// <param name="Calendar">What it says.</param>
/// <param name="Columns">For a table its columns; null for others.</param>
public sealed record SourceFile(SourceForm Form, ReadCalendar Calendar, TableColumns? Columns)
{
    /// <summary>The most files packed in one.</summary>
    public const int MaxPacked = 100;

    private const int Samples = 4;

    /// <summary>Reads it.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="context">What it is read by.</param>
    /// <param name="columns">For a table what its columns say; null or of another number to guess.</param>
    /// <exception cref="InvalidInputException">
    /// A code of <see cref="CalendarReader.Read"/> or <see cref="Table.Read"/>; <c>zip_too_large</c>, <c>zip_empty</c>: nothing in it can be read.
    /// </exception>
    public static SourceFile Read(ReadOnlySpan<byte> bytes, TableContext context, IReadOnlyList<TableColumn>? columns = null)
    {
        if (bytes.Length > CalendarReader.MaxBytes)
            throw new InvalidInputException("file_too_large", "", $"A file has {CalendarReader.MaxBytes / 1_000_000} MB at most.");
        if (Table.IsSpreadsheet(bytes))
            return OfTable(Table.Read(bytes), context, columns);
        if (bytes.StartsWith("PK"u8))
            return Packed(bytes, context);
        try
        {
            return new SourceFile(SourceForm.Calendar, CalendarReader.Read(bytes, context.Zone), null);
        }
        catch (InvalidInputException e) when (e.Code == "not_a_calendar" && IsText(bytes))
        {
            var table = Table.Read(bytes);
            // One column of words is no table of events, but a text.
            var read = OfTable(table, context, columns);
            if (columns is not null || read.Calendar.Events.Count > 0 || table.Rows[0].Count > 1)
                return read;
            throw;
        }
    }

    private static SourceFile OfTable(Table table, TableContext context, IReadOnlyList<TableColumn>? columns)
    {
        var hasHeader = TableEvents.HasHeader(table, context);
        var width = table.Rows[0].Count;
        ImmutableArray<TableColumn> meanings = columns is not null && columns.Count == width ? [.. columns] : TableEvents.Guess(table, context);
        return new SourceFile(
            SourceForm.Table,
            TableEvents.Read(table, meanings, context, hasHeader),
            new TableColumns(
                [.. hasHeader ? table.Rows[0] : Enumerable.Range(1, width).Select(i => i.ToString(System.Globalization.CultureInfo.InvariantCulture))],
                meanings,
                [.. Enumerable.Range(0, width).Select(i => table.Rows.Skip(hasHeader ? 1 : 0).Select(r => r[i]).Where(c => c.Length > 0).Take(Samples).Select(c => c.Length > 60 ? c[..59] + "…" : c).ToImmutableArray())],
                table.Shape));
    }

    private static SourceFile Packed(ReadOnlySpan<byte> bytes, TableContext context)
    {
        var (events, left, name, unpacked) = (new List<ReadEvent>(), new List<LeftOut>(), "", 0L);
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes.ToArray(), writable: false));
            if (zip.Entries.Count > MaxPacked)
                throw new InvalidInputException("zip_too_large", "", $"At most {MaxPacked} files are read of one that is packed.");
            foreach (var entry in zip.Entries.Where(e => e.Name.Length > 0))
            {
                // What it says of its size is not believed.
                using var content = new MemoryStream();
                using (var stream = entry.Open())
                {
                    var buffer = new byte[1 << 16];
                    for (int length; (length = stream.Read(buffer)) > 0;)
                    {
                        if ((unpacked += length) > CalendarReader.MaxBytes)
                            throw new InvalidInputException("zip_too_large", "", $"Unpacked it has more than {CalendarReader.MaxBytes / 1_000_000} MB.");
                        content.Write(buffer, 0, length);
                    }
                }
                try
                {
                    var own = content.GetBuffer().AsSpan(0, (int)content.Length);
                    // Nothing packed within something packed.
                    var read = own.StartsWith("PK"u8) && !Table.IsSpreadsheet(own) ? throw new InvalidInputException("zip_too_large", "", "It is packed twice.") : Read(own, context);
                    events.AddRange(read.Calendar.Events);
                    left.AddRange(read.Calendar.Left);
                    name = name.Length > 0 ? name : read.Calendar.Name;
                }
                catch (InvalidInputException e)
                {
                    left.Add(new LeftOut($"{entry.FullName}: {e.Message}", 1));
                }
            }
        }
        catch (InvalidDataException)
        {
            throw new InvalidInputException("file_damaged", "", "The file is packed, and cannot be unpacked: it is damaged.");
        }
        if (events.Count == 0)
            throw new InvalidInputException("zip_empty", "", "In the packed file there is nothing that can be read as a calendar or a table.");
        return new SourceFile(SourceForm.Packed, new ReadCalendar(name, events, left), null);
    }

    private static bool IsText(ReadOnlySpan<byte> bytes)
    {
        if (bytes is [0xFF, 0xFE, ..] or [0xFE, 0xFF, ..])
            return true;
        var head = bytes[..Math.Min(bytes.Length, 4_000)];
        return !head.Contains((byte)0) && !head.StartsWith("%PDF"u8);
    }
}
