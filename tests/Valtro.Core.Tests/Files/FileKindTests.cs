using System.IO.Compression;
using System.Text;
using Valtro.Core.Files;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Files;

public class FileKindTests
{
    private static string Type(string name, byte[] contents) => FileKind.Of(name, new MemoryStream(contents)).MediaType;

    private static byte[] Zip(params (string Name, string Text)[] entries)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, text) in entries)
            {
                using var writer = new StreamWriter(zip.CreateEntry(name).Open());
                writer.Write(text);
            }
        }
        return stream.ToArray();
    }

    [Fact]
    public void Files_are_known_by_their_contents()
    {
        Assert.Equal("application/pdf", Type("Slip.PDF", "%PDF-1.7 …"u8.ToArray()));
        Assert.Equal("image/jpeg", Type("quay.jpeg", [0xFF, 0xD8, 0xFF, 0xE0]));
        Assert.Equal("image/webp", Type("quay.webp", "RIFF....WEBPVP8 "u8.ToArray()));
        Assert.Equal("text/csv", Type("crew.csv", "name,boat\nInès,Dory\n"u8.ToArray()));
        Assert.Equal("text/plain", Type("notes.md", "# Notes"u8.ToArray()));
        Assert.Equal("application/vnd.ms-excel", Type("old.xls", [0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1]));
        Assert.EndsWith("wordprocessingml.document", Type("letter.docx", Zip(("[Content_Types].xml", "<Types/>"), ("word/document.xml", "<w/>"))));
        Assert.EndsWith("opendocument.text", Type("letter.odt", Zip(("mimetype", "application/vnd.oasis.opendocument.text"))));
    }

    [Fact]
    public void A_name_that_says_something_else_is_refused_and_so_is_what_nobody_should_open()
    {
        foreach (var (name, contents) in new (string, byte[])[]
        {
            ("slip.pdf", "<html>"u8.ToArray()),
            ("page.html", "<html>"u8.ToArray()),
            ("drawing.svg", "<svg xmlns='http://www.w3.org/2000/svg'/>"u8.ToArray()),
            ("run.exe", "MZ\0\0"u8.ToArray()),
            ("quay.png", [0xFF, 0xD8, 0xFF, 0xE0]),
            ("any.zip", Zip(("a.txt", "a"))),
            ("letter.xlsx", Zip(("[Content_Types].xml", "<Types/>"), ("word/document.xml", "<w/>"))),
            ("macro.docx", Zip(("[Content_Types].xml", "<Types/>"), ("word/document.xml", "<w/>"), ("word/vbaProject.bin", "x"))),
            ("broken.docx", "PK\x03\x04 and nothing more"u8.ToArray()),
            ("text.txt", [0x41, 0xC3, 0x28, 0x41, 0x41, 0x41]),
            ("noending", "%PDF-1.7"u8.ToArray()),
        })
        {
            Assert.Equal("file_type", Code(() => Type(name, contents)));
        }
    }

    [Fact]
    public void A_text_may_be_cut_within_a_character_where_the_look_at_it_ends()
    {
        var text = Encoding.UTF8.GetBytes(new string('a', FileKind.HeadLength - 1) + "é and on");
        Assert.Equal("text/plain", Type("long.txt", text));
    }

    [Theory]
    [InlineData("C:\\papers\\Slip: one?.pdf", "Slip one .pdf")]
    [InlineData("../../etc/passwd", "passwd")]
    [InlineData("  .hidden. ", "hidden")]
    [InlineData("cod\u202Efdp.exe", "cod fdp.exe")]
    public void Names_are_names_and_nothing_else(string given, string clean) => Assert.Equal(clean, FileKind.CleanName(given));

    [Theory]
    [InlineData("")]
    [InlineData("///")]
    [InlineData(null)]
    public void Without_a_name_there_is_no_file(string? name) => Assert.Equal("file_name", Code(() => FileKind.CleanName(name)));
}
