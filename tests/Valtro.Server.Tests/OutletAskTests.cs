using System.IO.Compression;
using System.Text;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.WebUtilities;
using Valtro.Server.Outlets;

namespace Valtro.Server.Tests;

/// <summary>What is asked of outlets, and what is kept of answers.</summary>
public sealed class OutletAskTests
{
    private static readonly string[] Paths =
    [
        "", "embed", "Feed.ICS", "found.json", "events.json", "wall", "term", "snapshot.ics", "busy.ifb", "feed.json", "atom.xml", "dates.json", "dates.csv",
        "qr.svg", "qr.png", "qr-page.svg", "qr-page.png", "e/abc-20261201T0900", "e/abc-20261201T0900.ics", "e/abc-20261201T0900/embed", "files/0197a5b4-0000-7000-8000-000000000001/small", "Files/0197A5B400007000800000000000000A/LARGE", "nothing", "e/a/b", "files/1/small", "files/0197a5b4-0000-7000-8000-000000000001/plan.pdf",
    ];

    private static readonly string[] Parts =
    [
        "view=month", "view=LIST", "view=7", "view=upcoming", "count=5", "count=-1", "count=999", "theme=dark", "theme=reader", "theme=x", "date=2026-12-01", "date=none", "lang=fr", "lang=AR", "lang=xx",
        "off=0123abcd,89abcdef", "off=zz", "category=Sports%20%26%20games", "category=Fêtes", "q=lantern%20walk", "q=%C3%89t%C3%A9", "utm_source=mail", "from=2026-11-23", "to=2026-12-24",
    ];

    [Fact]
    public void Every_address_is_read_again_as_what_it_was_and_what_names_no_words_or_days_is_one_of_few()
    {
        var (read, plain) = (0, new HashSet<string>());
        for (var seed = 0; seed < 20_000; seed++)
        {
            var random = new Random(seed);
            var path = Paths[random.Next(Paths.Length)];
            var query = new QueryCollection(QueryHelpers.ParseQuery(string.Join('&', Parts.Where(_ => random.Next(6) == 0))));
            OutletAsk? ask;
            try
            {
                ask = OutletAsk.Read(path, query);
            }
            catch (BadHttpRequestException)
            {
                Assert.Equal("events.json", path);
                continue;
            }
            if (path is "nothing" or "e/a/b" or "files/1/small")
            {
                Assert.Null(ask);
                continue;
            }
            Assert.NotNull(ask);
            var again = OutletAsk.Read(ask.Address);
            Assert.Equal((seed, ask), (seed, again));
            Assert.Equal((ask.GetHashCode(), ask.Address), (again!.GetHashCode(), again.Address));
            read++;
            if (ask.IsPlain)
                plain.Add(ask.Address);
            Assert.True(!ask.IsPlain || !(ask.Address.Contains("date=", StringComparison.Ordinal) || ask.Address.Contains("q=", StringComparison.Ordinal)));
            // Nothing is made ahead that is not kept, and nothing that somebody sought is.
            Assert.True(ask.IsKept ? !ask.Address.Contains("q=", StringComparison.Ordinal) : !ask.IsPlain);
        }
        Assert.True(read > 10_000 && plain.Count > 100, $"{read} {plain.Count}");
    }

    [Fact]
    public void The_same_bytes_come_out_of_every_coding_and_every_tag_of_them_is_known()
    {
        for (var seed = 0; seed < 200; seed++)
        {
            var random = new Random(seed);
            var plain = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Range(0, random.Next(3_000)).Select(_ => (char)('a' + random.Next(26)))));
            var rendered = new Rendered(plain, "text/calendar", Instant.FromUtc(2026, 11, 23, 15, 0), 4, null, isCompact: seed % 7 == 0);
            var hash = rendered.Hash;
            for (var round = 0; round < 2; round++)
            {
                Assert.Equal(plain, rendered.Body(Coding.Plain));
                if (!rendered.IsCompact)
                {
                    Assert.Equal(plain, Unpacked(new GZipStream(new MemoryStream(rendered.Body(Coding.Gzip)), CompressionMode.Decompress)));
                    Assert.Equal(plain, Unpacked(new BrotliStream(new MemoryStream(rendered.Body(Coding.Brotli)), CompressionMode.Decompress)));
                }
                foreach (var coding in Enum.GetValues<Coding>())
                {
                    Assert.True(rendered.IsKnown("\"other\", W/" + rendered.Tag(coding), default));
                    Assert.False(rendered.IsKnown(rendered.Tag(coding).ToString().Replace(hash[..3], "zzz", StringComparison.Ordinal), default));
                }
                Assert.False(rendered.IsKnown($"\"{hash}-other\"", default));
                // As it comes back from disk, and packed better.
                rendered = new Rendered(rendered.Head, rendered.Kept);
                Assert.True(rendered.Polish() >= 0);
                Assert.Equal((hash, plain.Length, 4), (rendered.Hash, rendered.PlainLength, (int)rendered.Revision));
            }
        }
    }

    private static byte[] Unpacked(Stream packed)
    {
        using var output = new MemoryStream();
        using (packed)
            packed.CopyTo(output);
        return output.ToArray();
    }
}
