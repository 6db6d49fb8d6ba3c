using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;

namespace Valtro.Server.Api;

/// <summary>A table to take along (RFC 4180).</summary>
internal static class CsvTable
{
    /// <param name="name">The file's name.</param>
    /// <param name="heads">What the columns are.</param>
    /// <param name="rows">The rows. No field of them is taken for a formula by a spreadsheet.</param>
    public static IResult Of(string name, IReadOnlyList<string> heads, IEnumerable<IReadOnlyList<object?>> rows) =>
        Results.File(Bytes(heads, rows), "text/csv; charset=utf-8", name);

    /// <summary>The same as bytes, with the mark of UTF-8 that programs ask for.</summary>
    public static byte[] Bytes(IReadOnlyList<string> heads, IEnumerable<IReadOnlyList<object?>> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\r\n" };
        using (var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\r\n", InjectionOptions = InjectionOptions.Escape }, leaveOpen: true))
        {
            foreach (var row in rows.Prepend(heads))
            {
                foreach (var field in row)
                    csv.WriteField(field);
                csv.NextRecord();
            }
        }
        return [0xEF, 0xBB, 0xBF, .. System.Text.Encoding.UTF8.GetBytes(text.ToString())];
    }
}
