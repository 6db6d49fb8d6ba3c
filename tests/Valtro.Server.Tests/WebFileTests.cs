using System.IO.Compression;
using System.Text;

namespace Valtro.Server.Tests;

public sealed class WebFileTests(Cluster cluster)
{
    private const string Script = "console.log('Lanternfell')";

    private static void Write(string path, string text)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllText(path, text);
        using (var gzip = new GZipStream(File.Create(path + ".gz"), CompressionLevel.SmallestSize))
            gzip.Write(Encoding.UTF8.GetBytes(text));
        using var brotli = new BrotliStream(File.Create(path + ".br"), CompressionLevel.SmallestSize);
        brotli.Write(Encoding.UTF8.GetBytes(text));
    }

    private static async Task<string> ReadAsync(HttpResponseMessage answer)
    {
        await using var body = await answer.Content.ReadAsStreamAsync();
        Stream plain = answer.Content.Headers.ContentEncoding.SingleOrDefault() switch
        {
            "br" => new BrotliStream(body, CompressionMode.Decompress),
            "gzip" => new GZipStream(body, CompressionMode.Decompress),
            _ => body,
        };
        return await new StreamReader(plain).ReadToEndAsync();
    }

    [Theory]
    [InlineData("br, gzip", "br")]
    [InlineData("gzip", "gzip")]
    [InlineData("br;q=0, gzip;q=0.5", "gzip")]
    [InlineData("identity", null)]
    [InlineData("", null)]
    public async Task Files_go_out_as_they_were_compressed_at_the_build_to_who_takes_it(string accepted, string? coding)
    {
        var web = Scratch.Folder("web");
        Write(Path.Combine(web, "workspace/assets/board-x.js"), Script);
        Write(Path.Combine(web, "workspace/index.html"), "<title>Valtro</title>");
        Write(Path.Combine(web, "outlet/frame.js"), Script);
        File.WriteAllText(Path.Combine(web, "workspace/assets/face.woff2"), "no smaller");
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["WEB"] = web } };
        async Task<HttpResponseMessage> AskAsync(string path)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, path);
            if (accepted.Length > 0)
                request.Headers.AcceptEncoding.ParseAdd(accepted);
            return await server.Visitor().SendAsync(request);
        }
        foreach (var (path, type, text) in new[] { ("/assets/board-x.js", "text/javascript", Script), ("/outlet/frame.js", "text/javascript", Script), ("/people", "text/html", "<title>Valtro</title>") })
        {
            var answer = await AskAsync(path);
            Assert.Equal((HttpStatusCode.OK, type, coding), (answer.StatusCode, answer.Content.Headers.ContentType!.MediaType, answer.Content.Headers.ContentEncoding.SingleOrDefault()));
            Assert.Equal(text, await ReadAsync(answer));
            Assert.Contains("Accept-Encoding", answer.Headers.Vary);
        }
        Assert.Equal("no smaller", await ReadAsync(await AskAsync("/assets/face.woff2")));
        Assert.DoesNotContain("Lanternfell", await ReadAsync(await AskAsync("/assets/board-y.js")));
        Directory.Delete(web, recursive: true);
    }

    [Fact]
    public async Task Who_is_signed_in_is_known_without_a_refusal()
    {
        await using var server = new Server(await cluster.CreateDatabaseAsync());
        async Task<bool> IsInAsync(HttpClient client) => (await client.GetJsonAsync("/api/installation"))["isSignedIn"]!.GetValue<bool>();
        Assert.False(await IsInAsync(server.Visitor()));
        var marit = await server.SignedInAsync();
        Assert.True(await IsInAsync(marit));
        await marit.DeleteAsync("/api/session");
        Assert.False(await IsInAsync(marit));
    }
}
