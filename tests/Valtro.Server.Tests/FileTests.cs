using System.Net.Http.Headers;
using Microsoft.Extensions.DependencyInjection;
using SkiaSharp;
using Valtro.Core.Events;
using Valtro.Server.Files;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>Files and pictures: taken in by their contents, read by exactly those who read the event in full.</summary>
public sealed class FileTests(ServerFixture fixture) : IClassFixture<ServerFixture>
{
    private static readonly byte[] Slip = [.. "%PDF-1.7 permission slip"u8];

    private readonly Server server = fixture.Server;

    private static ByteArrayContent Bytes(byte[] bytes) => new(bytes) { Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") } };

    private static async Task<JsonNode> UploadAsync(HttpClient client, string name, byte[] bytes) =>
        await (await client.PostAsync($"/api/files?name={Uri.EscapeDataString(name)}", Bytes(bytes))).JsonAsync();

    private static Dictionary<string, object?> Body(JsonNode calendar, object facts, int? version = null) => new()
    {
        ["calendarId"] = calendar.Text("id"),
        ["title"] = "Visit to the lighthouse",
        ["place"] = "",
        ["description"] = "",
        ["timing"] = AllDay("2026-12-10", "2026-12-10"),
        ["facts"] = facts,
        ["version"] = version,
    };

    private static async Task<string> PublishAsync(HttpClient client, JsonNode calendar)
    {
        var key = "f" + Guid.NewGuid().ToString("n")[..12];
        await client.PostAsync("/api/publications", new { key, title = "Files", introduction = "", calendarIds = new[] { calendar.Text("id") }, firstView = "list", language = "en" });
        return key;
    }

    [Fact]
    public async Task A_file_is_read_by_those_who_read_the_event_in_full_and_by_nobody_else()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Trips");
        var file = await UploadAsync(client, "Slip é.pdf", Slip);
        Assert.Equal(("Slip é.pdf", "application/pdf", Slip.Length), (file.Text("name"), file.Text("mediaType"), file.Number("size")));
        var made = await client.PostAsync("/api/events", Body(calendar, new { files = new[] { file } }));
        var own = $"/api/events/{made.Text("id")}/files/{file.Text("id")}";

        var answer = await client.GetAsync(own);
        Assert.Equal(Slip, await answer.Content.ReadAsByteArrayAsync());
        Assert.Equal(("attachment", "Slip é.pdf"), (answer.Content.Headers.ContentDisposition!.DispositionType, answer.Content.Headers.ContentDisposition.FileNameStar));
        Assert.Contains("sandbox", answer.Headers.GetValues("Content-Security-Policy").Single());
        Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
        Assert.Equal(HttpStatusCode.Unauthorized, (await server.Visitor().GetAsync(own)).StatusCode);

        var key = await PublishAsync(client, calendar);
        var link = $"/p/{key}/files/{file.Text("id")}/slip.pdf";
        await server.Visitor().GetAsync(link).ProblemAsync(404, "no_such_file");
        calendar = await client.OpenAsync(calendar, "headlines");
        await server.Visitor().GetAsync(link).ProblemAsync(404, "no_such_file");
        var feed = await server.Visitor().GetStringAsync($"/p/{key}/feed.ics");
        Assert.DoesNotContain("ATTACH", feed);
        calendar = await client.OpenAsync(calendar);
        Assert.Equal(Slip, await server.Visitor().GetByteArrayAsync(link));
        Assert.Contains($"{Server.Address}/p/{key}/files/{file.Text("id")}/", (await server.Visitor().GetStringAsync($"/p/{key}/feed.ics")).Replace("\r\n ", ""));
        Assert.Contains("download>Slip &#xE9;.pdf", await server.Visitor().GetStringAsync($"/p/{key}"));

        // The event itself allows less.
        var narrow = await client.PutAsync($"/api/events/{made.Text("id")}", Body(calendar, new { files = new[] { file }, reach = new { members = "everything", linkHolders = "headlines", everyone = "headlines" } }, 1));
        await server.Visitor().GetAsync(link).ProblemAsync(404, "no_such_file");
        await client.PutAsync($"/api/events/{made.Text("id")}", Body(calendar, new { files = new[] { file } }, narrow["event"]!.Number("version")));
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().GetAsync(link)).StatusCode);
        await client.DeleteAsync($"/api/events/{made.Text("id")}?version=3");
        await server.Visitor().GetAsync(link).ProblemAsync(404, "no_such_file");
    }

    [Fact]
    public async Task A_file_replaced_in_place_keeps_its_link_and_can_be_put_back()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Letters"));
        var key = await PublishAsync(client, calendar);
        var file = await UploadAsync(client, "letter.txt", "first"u8.ToArray());
        var made = await client.PostAsync("/api/events", Body(calendar, new { files = new[] { file } }));
        var link = $"/p/{key}/files/{file.Text("id")}/letter.txt";
        var first = await server.Visitor().GetAsync(link);
        var next = await UploadAsync(client, "letter 2.txt", "second"u8.ToArray());
        next["id"] = file.Text("id");
        await client.PutAsync($"/api/events/{made.Text("id")}", Body(calendar, new { files = new[] { next } }, 1));
        Assert.Equal("second", await server.Visitor().GetStringAsync(link));
        var asked = new HttpRequestMessage(HttpMethod.Get, link) { Headers = { IfNoneMatch = { first.Headers.ETag! } } };
        Assert.Equal(HttpStatusCode.OK, (await server.Visitor().SendAsync(asked)).StatusCode);
        await client.PostAsync($"/api/events/{made.Text("id")}/undo", new { state = made, version = 2 });
        Assert.Equal("first", await server.Visitor().GetStringAsync(link));
    }

    [Fact]
    public async Task What_is_no_file_of_ours_is_refused_with_its_reason()
    {
        var client = await server.SignedInAsync();
        await client.PostAsync("/api/files?name=page.html", Bytes([.. "<html><script>"u8])).ProblemAsync(422, "file_type");
        await client.PostAsync("/api/files?name=slip.pdf", Bytes([0x4D, 0x5A, 0, 0])).ProblemAsync(422, "file_type");
        await client.PostAsync("/api/files?name=a.txt", Bytes([])).ProblemAsync(422, "file_empty");
        await client.PostAsync("/api/files", Bytes(Slip)).ProblemAsync(422, "file_name");
        Assert.Equal(HttpStatusCode.Unauthorized, (await server.Visitor().PostAsync("/api/files?name=a.pdf", Bytes(Slip))).StatusCode);

        var lists = (await client.GetJsonAsync("/api/lists")).AsObject();
        lists["maxFileMegabytes"] = 1;
        await client.PutAsync("/api/lists", lists);
        var large = new byte[1_000_001];
        Slip.CopyTo(large, 0);
        var problem = await client.PostAsync("/api/files?name=large.pdf", Bytes(large)).ProblemAsync(413, "file_too_large");
        Assert.Contains("1 MB", problem.Text("detail"));
        // Also when nobody said how long it will be.
        var streamed = new HttpRequestMessage(HttpMethod.Post, "/api/files?name=large.pdf") { Content = new StreamContent(new MemoryStream(large)), Headers = { TransferEncodingChunked = true } };
        await client.SendAsync(streamed).ProblemAsync(413, "file_too_large");
        Assert.Equal(1_000_000, (await UploadAsync(client, "just.pdf", large[..1_000_000])).Number("size"));
    }

    [Fact]
    public async Task An_event_takes_only_files_that_are_there_as_they_are_there()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Trust");
        var file = await UploadAsync(client, "slip.pdf", Slip);
        var wrong = JsonNode.Parse(file.ToJsonString())!;
        wrong["mediaType"] = "text/html";
        await client.PostAsJsonAsync("/api/events", Body(calendar, new { files = new[] { wrong } })).ProblemAsync(422, "no_such_file");
        wrong = JsonNode.Parse(file.ToJsonString())!;
        wrong["contentId"] = Guid.NewGuid().ToString();
        await client.PostAsJsonAsync("/api/events", Body(calendar, new { files = new[] { wrong } })).ProblemAsync(422, "no_such_file");
        // What somebody else has brought and put nowhere yet is theirs.
        var owen = await server.SignedInAsync("owen.tarbell@lanternfell.example");
        var owens = await owen.NewCalendarAsync("Trust too");
        await owen.PostAsJsonAsync("/api/events", Body(owens, new { files = new[] { file } })).ProblemAsync(422, "no_such_file");
    }

    [Fact]
    public async Task Files_go_with_the_last_event_that_had_them()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Gone");
        var file = await UploadAsync(client, "slip.pdf", Slip);
        var made = await client.PostAsync("/api/events", Body(calendar, new { files = new[] { file } }));
        var loose = await UploadAsync(client, "loose.pdf", Slip);
        await client.PutAsync($"/api/events/{made.Text("id")}", Body(calendar, new { }, 1));
        await client.DeleteAsync($"/api/events/{made.Text("id")}?version=2");
        var contents = server.Services.GetRequiredService<Store.Contents>();
        var school = Guid.Parse((await client.GetJsonAsync("/api/session"))["school"]!.Text("id"));
        async Task<bool> HasAsync(JsonNode f) => await contents.FindAsync(school, Guid.Parse(f.Text("contentId"))) is not null;

        var later = server.Clock.Now + Duration.FromDays(3);
        await contents.RemoveLooseAsync(later);
        // What was can still be put back.
        Assert.Equal((true, false), (await HasAsync(file), await HasAsync(loose)));
        await Store.CommandWork.EmptyBinAsync(server.Services.GetRequiredService<Store.Connections>(), school, later + Event.BinTime);
        await contents.RemoveLooseAsync(later);
        Assert.False(await HasAsync(file));
    }

    private static byte[] Photo(int width, int height)
    {
        using var surface = SKSurface.Create(new SKImageInfo(width, height));
        surface.Canvas.Clear(SKColors.Red);
        surface.Canvas.DrawRect(width / 2f, 0, width / 2f, height, new SKPaint { Color = SKColors.Blue });
        using var image = surface.Snapshot();
        var jpeg = image.Encode(SKEncodedImageFormat.Jpeg, 90).ToArray();
        // A camera's note of place and person, as APP1 and COM segments after the start of the image.
        byte[] exif = [0xFF, 0xE1, 0x00, 0x12, .. "Exif\0\0GPS 44.64N"u8];
        byte[] comment = [0xFF, 0xFE, 0x00, 0x0D, .. "Marit Quill"u8];
        return [.. jpeg[..2], .. exif, .. comment, .. jpeg[2..]];
    }

    [Fact]
    public async Task A_picture_becomes_a_banner_of_what_was_chosen_and_nothing_else_of_it_is_left()
    {
        var (large, small) = await Pictures.BannerAsync(new MemoryStream(Photo(2000, 1000)), new Crop(0.5, 0, 0.5, 1));
        using var banner = SKBitmap.Decode(large);
        using var little = SKBitmap.Decode(small);
        Assert.Equal((1000, 400, 640, 256), (banner.Width, banner.Height, little.Width, little.Height));
        Assert.True(banner.GetPixel(20, 20) is { Blue: > 200, Red: < 60 });
        var text = System.Text.Encoding.Latin1.GetString(large);
        Assert.DoesNotContain("Exif", text);
        Assert.DoesNotContain("Marit", text);
    }

    private static readonly Lazy<byte[]> LargePhoto = new(() => Photo(8000, 4000));

    // Read at a part of its size: the part that was chosen is still the same, also of a picture that lies on its side.
    [Theory]
    [InlineData(0, 3, false)]
    [InlineData(0.8, 3, true)]
    [InlineData(0, 6, true)]
    [InlineData(0.8, 6, false)]
    [InlineData(0, 8, false)]
    [InlineData(0.8, 8, true)]
    public async Task A_large_picture_is_turned_as_it_was_held(double at, byte held, bool isRed)
    {
        var photo = LargePhoto.Value;
        byte[] exif = [0xFF, 0xE1, 0x00, 0x22, .. "Exif\0\0MM\0*"u8, 0, 0, 0, 8, 0, 1, 1, 0x12, 0, 3, 0, 0, 0, 1, 0, held, 0, 0, 0, 0, 0, 0];
        var crop = held == 3 ? new Crop(at, 0, 0.2, 1) : new Crop(0, at, 1, 0.2);
        var (large, _) = await Pictures.BannerAsync(new MemoryStream([.. photo[..2], .. exif, .. photo[2..]]), crop);
        using var banner = SKBitmap.Decode(large);
        // Read at six eighths, and a fifth of the width is chosen of what does not lie on its side.
        Assert.Equal(held == 3 ? (1200, 480) : (1600, 640), (banner.Width, banner.Height));
        foreach (var (x, y) in new[] { (10, 10), (banner.Width - 10, 10), (10, banner.Height - 10), (banner.Width - 10, banner.Height - 10) })
            Assert.Equal(isRed, banner.GetPixel(x, y) is { Red: > 200, Blue: < 60 });
    }

    [Theory]
    [InlineData(8900, 8900)]
    [InlineData(50_000, 1_000)]
    [InlineData(65_000, 65_000)]
    public async Task A_picture_of_few_bytes_and_many_dots_is_refused_before_it_is_read(int width, int height)
    {
        var client = await server.SignedInAsync();
        var bomb = Png(width, height);
        Assert.True(bomb.Length < 100_000);
        var answers = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => client.PostAsync("/api/pictures?x=0&y=0&width=1&height=1", Bytes(bomb))));
        foreach (var answer in answers)
            await Task.FromResult(answer).ProblemAsync(422, "picture_too_large");
    }

    // A picture of one colour with one bit a dot.
    private static byte[] Png(int width, int height)
    {
        var dots = new MemoryStream();
        using (var packed = new System.IO.Compression.ZLibStream(dots, System.IO.Compression.CompressionLevel.Optimal, leaveOpen: true))
        {
            // What stands after the first lines is never read.
            packed.Write(new byte[(1 + (width + 7) / 8) * Math.Min(height, 1000)]);
        }
        byte[] head = [.. Number(width), .. Number(height), 1, 0, 0, 0, 0];
        return [0x89, .. "PNG\r\n\u001a\n"u8, .. Chunk("IHDR", head), .. Chunk("IDAT", dots.ToArray()), .. Chunk("IEND", [])];

        static byte[] Number(int n) => [(byte)(n >> 24), (byte)(n >> 16), (byte)(n >> 8), (byte)n];

        static byte[] Chunk(string name, byte[] contents)
        {
            byte[] named = [.. System.Text.Encoding.ASCII.GetBytes(name), .. contents];
            var sum = ~0u;
            foreach (var b in named)
            {
                sum ^= b;
                for (var i = 0; i < 8; i++)
                    sum = (sum >> 1) ^ (0xEDB88320u & (0u - (sum & 1)));
            }
            return [.. Number(contents.Length), .. named, .. Number((int)~sum)];
        }
    }

    [Fact]
    public async Task A_picture_is_kept_with_its_words_and_shown_to_readers()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Pictures"));
        var key = await PublishAsync(client, calendar);
        async Task<HttpResponseMessage> SendAsync(byte[] bytes, string crop) => await client.PostAsync("/api/pictures?" + crop, Bytes(bytes));
        await SendAsync([.. "no picture"u8], "x=0&y=0&width=1&height=1").ProblemAsync(422, "picture_broken");
        await SendAsync(Photo(100, 50), "x=0.5&y=0&width=0.9&height=1").ProblemAsync(422, "picture_crop");
        var picture = await (await SendAsync(Photo(1000, 500), "x=0&y=0&width=1&height=1")).JsonAsync();
        var small = $"/api/pictures/{picture.Text("id")}/small";
        Assert.Equal("image/jpeg", (await client.GetAsync(small)).Content.Headers.ContentType!.MediaType);
        var owen = await server.SignedInAsync("owen.tarbell@lanternfell.example");
        await owen.GetAsync(small).ProblemAsync(404, "no_such_file");

        picture["alt"] = "The lighthouse at dusk";
        await client.PostAsync("/api/events", Body(calendar, new { picture }));
        Assert.Equal(HttpStatusCode.OK, (await owen.GetAsync(small)).StatusCode);
        var window = await server.Visitor().GetJsonAsync($"/p/{key}/events.json?from=2026-12-07&to=2026-12-20");
        var shown = window["events"]![0]!["picture"]!;
        Assert.Equal("The lighthouse at dusk", shown.Text("alt"));
        Assert.Equal("image/jpeg", (await server.Visitor().GetAsync(shown.Text("address"))).Content.Headers.ContentType!.MediaType);
        Assert.Contains("IMAGE;VALUE=URI", await server.Visitor().GetStringAsync($"/p/{key}/feed.ics"));
    }
}
