using System.IO.Compression;
using System.Text;
using Valtro.Core.Sources;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Sources;

/// <summary>Tables as offices write them: what is read of each is worked out by hand.</summary>
public class TableTests
{
    private static readonly TableContext Context = new(Halifax, Day("2026-09-01"));

    private static SourceFile Read(string text, TableContext? context = null, params TableColumn[] columns) => SourceFile.Read(Encoding.UTF8.GetBytes(text), context ?? Context, columns.Length == 0 ? null : columns);

    private static string Told(ReadEvent e) => e.Timing.Kind == TimeKind.AllDay
        ? $"{e.Title} {e.Timing.Start:MMdd}{(e.Timing.Days > 1 ? $"-{e.Timing.End.PlusDays(-1):MMdd}" : "")}"
        : $"{e.Title} {e.Timing.Start:MMdd'T'HHmm}-{e.Timing.End:HHmm}";

    private static string All(SourceFile file) => string.Join(" | ", file.Calendar.Events.Select(Told));

    [Theory]
    // Signs between the cells, quotes, and the school's two languages.
    [InlineData("Date,Title,Start,End,Place\n2026-12-05,Concert,19:00,21:00,Hall", "Concert 1205T1900-2100")]
    [InlineData("Date;Titre;Début;Fin;Lieu\n05.12.2026;Concert;19h;21h30;Salle", "Concert 1205T1900-2130")]
    [InlineData("Title\tWhen\nConcert\t5 Dec", "Concert 1205")]
    [InlineData("Title|Date|Time\nConcert|5 Dec 2026|7pm", "Concert 1205T1900-1900")]
    [InlineData("\"Title\",\"Date\"\n\"Concert, with \"\"choir\"\"\",\"5 December 2026\"", "Concert, with \"choir\" 1205")]
    [InlineData("sep=;\nTitle;Date\nConcert;5 Dec", "Concert 1205")]
    // Dates of every form.
    [InlineData("Title,Date\nA,5/12/2026\nB,25/12/2026", "A 1205 | B 1225")]
    [InlineData("Title,Date\nA,5/12/2026\nB,12/25/2026", "A 0512 | B 1225")]
    [InlineData("Title,Date\nA,2026-12-05 09:30\nB,5 Dec 2026 2pm", "A 1205T0930-0930 | B 1205T1400-1400")]
    [InlineData("Title,Start,End\nA,2026-12-05 09:30,2026-12-05 11:00", "A 1205T0930-1100")]
    [InlineData("Title,From,To\nA,5 Dec,7 Dec", "A 1205-1207")]
    [InlineData("Title,Start date,End date\nHalf term,2026-10-12,2026-10-16", "Half term 1012-1016")]
    [InlineData("Title,Date\nTrip,14–16 Dec", "Trip 1214-1216")]
    // Times in one cell.
    [InlineData("Title,Date,Time\nA,5 Dec,9:30-11:00\nB,5 Dec,9 to 11\nC,5 Dec,all day", "A 1205T0930-1100 | B 1205T0900-1100 | C 1205")]
    // Without a header.
    [InlineData("2026-12-05,Concert,Hall\n2026-12-06,Rehearsal,Hall", "Concert 1205 | Rehearsal 1206")]
    [InlineData("5 Dec\t19:00\t21:00\tConcert", "Concert 1205T1900-2100")]
    public void A_table_is_read(string text, string expected)
    {
        var file = Read(text);
        Assert.Equal((SourceForm.Table, expected), (file.Form, All(file)));
    }

    [Fact]
    public void Beside_title_and_date_all_columns_with_a_meaning_are_kept()
    {
        var e = Assert.Single(Read("Date,Title,Room,Category,Class,Notes,Repeats,Link\n3 Nov,Row,Loft 2,Test,Rigging 2,Bring a rope,every tue until 12 dec,https://a.example/x").Calendar.Events);
        Assert.Equal(("Loft 2", "Test", "Rigging 2", "Bring a rope", "https://a.example/x"), (e.Place, Assert.Single(e.Categories), e.Others.Single().Value, e.Description, e.Links.Single().Address));
        Assert.StartsWith("FREQ=WEEKLY", e.Rule!.ToString());
    }

    [Theory]
    [InlineData("Title,Date\nA,5/6/2026\nB,13/5/2026\nC,5/13/2026", "date_ambiguous")]
    [InlineData("Title,Date,Start,End\nA,5 Dec,11:00,9:00", "end_before_start")]
    [InlineData("Title,Date,Start\nA,5 Dec,later", "time_unreadable")]
    [InlineData("Title,Date,Repeats\nA,5 Dec,when the tide is right", "repeat_unreadable")]
    [InlineData("Title,Date\n,5 Dec", "title_missing")]
    public void What_cannot_be_told_for_sure_is_noted(string text, string code) => Assert.Contains(Read(text).Calendar.Events[0].Notes, n => n.Code == code);

    [Fact]
    public void A_row_without_a_date_is_told_and_never_falls_on_today()
    {
        var file = Read("Title,Date\nConcert,5 Dec\nSome day,soon\nNone,");
        Assert.Equal(("Concert 1205", 2), (All(file), file.Calendar.Left.Single().Count));
    }

    [Fact]
    public void What_a_column_says_can_be_said_otherwise_and_the_same_shape_is_known()
    {
        var text = "A,B,C\nChoir,2026-12-05,2026-12-06\nOther,2026-12-07,2026-12-08";
        var guessed = Read(text);
        Assert.Equal("Choir 1205 | Other 1207", All(guessed));
        Assert.Equal("Choir 1206 | Other 1208", All(Read(text, null, TableColumn.Title, TableColumn.Nothing, TableColumn.Date)));
        Assert.Equal(guessed.Columns!.Shape, Read("a,b,c\nX,2027-01-01,2027-01-02").Columns!.Shape);
    }

    [Fact]
    public void The_same_row_is_known_again_when_its_notes_change()
    {
        ReadEvent One(string notes) => Assert.Single(Read($"Date,Title,Notes\n5 Dec,Concert,{notes}").Calendar.Events);
        Assert.Equal(One("a").Uid, One("b").Uid);
    }

    private static byte[] Zip(params (string Name, string Content)[] files)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create))
        {
            foreach (var (name, content) in files)
            {
                using var entry = new StreamWriter(zip.CreateEntry(name).Open());
                entry.Write(content);
            }
        }
        return bytes.ToArray();
    }

    [Fact]
    public void Spreadsheets_are_read_by_their_values()
    {
        // Text, a date as the number of its day, a time as a part of it, and a formula with its last value.
        var xlsx = Zip(
            ("[Content_Types].xml", """<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/><Override PartName="/xl/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/></Types>"""),
            ("_rels/.rels", """<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>"""),
            ("xl/workbook.xml", """<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Year" sheetId="1" r:id="r1"/></sheets></workbook>"""),
            ("xl/_rels/workbook.xml.rels", """<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/></Relationships>"""),
            ("xl/styles.xml", """<?xml version="1.0"?><styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><cellXfs count="3"><xf numFmtId="0"/><xf numFmtId="14" applyNumberFormat="1"/><xf numFmtId="20" applyNumberFormat="1"/></cellXfs></styleSheet>"""),
            ("xl/worksheets/sheet1.xml", """<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>Title</t></is></c><c r="B1" t="inlineStr"><is><t>Date</t></is></c><c r="C1" t="inlineStr"><is><t>Start</t></is></c></row><row r="2"><c r="A2" t="str"><f>CONCATENATE("Con","cert")</f><v>Concert</v></c><c r="B2" s="1"><v>46361</v></c><c r="C2" s="2"><v>0.8125</v></c></row></sheetData></worksheet>"""));
        Assert.Equal("Concert 1205T1930-1930", All(SourceFile.Read(xlsx, Context)));
        var ods = Zip(
            ("mimetype", "application/vnd.oasis.opendocument.spreadsheet"),
            ("content.xml", """<?xml version="1.0"?><office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet><table:table><table:table-row><table:table-cell office:value-type="string"><text:p>Title</text:p></table:table-cell><table:table-cell><text:p>Date</text:p></table:table-cell><table:table-cell><text:p>Time</text:p></table:table-cell></table:table-row><table:table-row><table:table-cell><text:p>Concert</text:p></table:table-cell><table:table-cell office:value-type="date" office:date-value="2026-12-05"><text:p>12/05/26</text:p></table:table-cell><table:table-cell office:value-type="time" office:time-value="PT19H30M00S"><text:p>07:30 PM</text:p></table:table-cell></table:table-row><table:table-row table:number-rows-repeated="1048574"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table></office:spreadsheet></office:body></office:document-content>"""));
        Assert.Equal("Concert 1205T1930-1930", All(SourceFile.Read(ods, Context)));
    }

    [Fact]
    public void Packed_files_are_read_together_and_bombs_end_by_a_limit()
    {
        const string One = "BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nSUMMARY:Open day\nDTSTART:20261205\nEND:VEVENT\nEND:VCALENDAR";
        var both = SourceFile.Read(Zip(("a.ics", One), ("b.csv", "Title,Date\nConcert,6 Dec"), ("readme.pdf", "%PDF-1.7")), Context);
        Assert.Equal((SourceForm.Packed, "Open day 1205 | Concert 1206"), (both.Form, All(both)));
        Assert.Contains(both.Calendar.Left, l => l.What.StartsWith("readme.pdf", StringComparison.Ordinal));
        Assert.Equal("zip_too_large", Code(() => SourceFile.Read(Zip(("bomb.txt", new string('x', 60_000_000))), Context)));
        Assert.Equal("zip_too_large", Code(() => SourceFile.Read(Zip([.. Enumerable.Range(0, 101).Select(i => ($"{i}.ics", ""))]), Context)));
        Assert.Equal("zip_empty", Code(() => SourceFile.Read(Zip(("a.txt", "nothing here")), Context)));
        Assert.Equal("file_damaged", Code(() => SourceFile.Read("PK\u0003\u0004 and no more"u8, Context)));
    }

    [Theory]
    [InlineData("<!DOCTYPE html><html><body>A calendar</body></html>", "web_page")]
    [InlineData("%PDF-1.7 binary", "not_a_calendar")]
    [InlineData("Just a letter without any table.", "not_a_calendar")]
    [InlineData("", "file_empty")]
    [InlineData("{\"not\":\"a calendar\"}", "not_a_calendar")]
    public void What_is_neither_is_told(string text, string code) => Assert.Equal(code, Code(() => Read(text)));

    [Fact]
    public void A_spreadsheet_with_a_password_says_so()
    {
        var manifest = """<manifest:encryption-data xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>""";
        Assert.Equal("file_protected", Code(() => SourceFile.Read(Zip(("META-INF/manifest.xml", manifest), ("content.xml", "not to be read")), Context)));
        Assert.Equal("file_damaged", Code(() => SourceFile.Read(Zip(("content.xml", "not to be read")), Context)));
    }

    [Fact]
    public void Letters_of_old_programs_are_read()
    {
        var bytes = Encoding.Latin1.GetBytes("Titre;Date\nFête à l'école;5 déc 2026");
        Assert.Equal("Fête à l'école 1205", All(SourceFile.Read(bytes, Context)));
    }
}
