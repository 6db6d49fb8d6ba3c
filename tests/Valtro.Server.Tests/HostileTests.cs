using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>
/// Every operation of the API document with bodies nobody would send: made from its schemas, with anything missing, null, of
/// another kind, without measure or out of all bounds. No answer is a fault of ours, and each refusal has a code.
/// </summary>
public sealed class HostileTests(Cluster cluster, ITestOutputHelper output)
{
    // What a connection is cut by or waits for stands apart: it never ends, or ends the session everything is sent with.
    private static readonly string[] Apart = ["GET /api/changes", "DELETE /api/session", "POST /api/me/sign-out"];

    private static readonly string[] Texts =
    [
        "", " ", "\0", "a\0b", "\ud800", "\u202e", new('x', 300), new('ä', 5000), "-9998-01-01", "9999-12-31", "-9998-01-01T00:00:00", "9999-12-31T23:59:59", "0001-01-01", "0000-00-00",
        "2046-02-30", "2046-13-01T25:61:61", "1e999", "null", "{}", "../../etc/passwd", "javascript:alert(1)", "http://[::1", "FREQ=SECONDLY", "FREQ=YEARLY;INTERVAL=2147483647",
        "FREQ=DAILY;UNTIL=99991231T235959Z", "FREQ=DAILY;COUNT=2147483647;BYDAY=-53MO", "Europe/Nowhere", "UTC+99", "00000000-0000-0000-0000-000000000000", "%", "' or 1=1 --", "<script>x</script>",
        "fr 25:99 every 31.2. until 99.99.99999", "mo di mi 0-24 except 1.1.-1", "<b>" + new string('<', 400),
        // What cannot be packed: an index takes only so much of it.
        "https://ropes.example/" + Unlike('a', 26, 1_970), Unlike('一', 20_000, 290), Unlike('a', 26, 4_000), Unlike('一', 20_000, 9_000),
    ];

    private static string Unlike(char first, int count, int length)
    {
        var drawn = new Random(length);
        return string.Concat(Enumerable.Range(0, length).Select(_ => (char)(first + drawn.Next(count))));
    }

    // The first and the last days there are, and those of what is taken.
    private static readonly string[] Edges = ["-9998-01-01", "9999-12-31", "0001-01-01", "0999-12-31", "1000-01-01", "1900-01-01", "2199-12-31", "2999-12-31"];

    private static readonly JsonNode?[] Numbers = [.. new object[] { 0, -1, 1, 31, 32, 367, 1000, int.MaxValue, int.MinValue, long.MaxValue, 1.5, 1e308, -1e308 }.Select(n => JsonValue.Create(n))];

    private readonly Random random = new(Number("VALTRO_HOSTILE_SEED", 20261128));
    private JsonObject document = null!;
    private Dictionary<string, List<string>> known = [];

    /// <summary>More of them, and others, when somebody asks (bench/hostile).</summary>
    private static readonly int Count = Number("VALTRO_HOSTILE_REQUESTS", 5_000);

    [Fact]
    public async Task Whatever_is_sent_to_any_operation_no_answer_is_a_fault_of_ours()
    {
        // Only what went wrong is kept of the log: memory is measured.
        await using var server = new Server(await cluster.CreateDatabaseAsync()) { Settings = { ["Logging:LogLevel:Default"] = "Warning", ["Logging:LogLevel:Microsoft.AspNetCore"] = "Warning" } };
        document = (JsonObject)JsonNode.Parse(await File.ReadAllTextAsync(Document(), TestContext.Current.CancellationToken))!;
        var operations = Operations().Where(o => !Apart.Contains(o.Method + " " + o.Path)).Concat(Outlets()).ToList();
        Assert.True(operations.Count > 100);
        var marit = await server.SignedInAsync();
        var statuses = new ConcurrentDictionary<int, int>();
        var faults = new List<string>();
        var (slowest, slowestName, most) = (TimeSpan.Zero, "", 0L);
        for (var i = 0; i < Count; i++)
        {
            if (i % 400 == 0)
                await LearnAsync(marit);
            var operation = operations[i % operations.Count];
            using var request = Make(operation);
            var said = $"{request.Method} {request.RequestUri} {(request.Content is null ? "" : await request.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))}";
            var begun = System.Diagnostics.Stopwatch.GetTimestamp();
            using var answer = await marit.SendAsync(request, TestContext.Current.CancellationToken);
            var text = await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
            if (System.Diagnostics.Stopwatch.GetElapsedTime(begun) is var took && took > slowest && i > 0)
                (slowest, slowestName) = (took, said);
            most = Math.Max(most, GC.GetTotalMemory(forceFullCollection: false));
            var status = (int)answer.StatusCode;
            statuses.AddOrUpdate(status, 1, (_, n) => n + 1);
            // A format that is not given is 501 by the standard of that operation (oEmbed 1.0, 2.3.4), and no fault.
            var isByStandard = status == 501 && operation.Path == "/oembed" && HasCode(answer, text);
            if ((status >= 500 && !isByStandard) || status is >= 300 and < 400 || (status >= 400 && operation.Path.StartsWith("/api", StringComparison.Ordinal) && !HasCode(answer, text)))
                faults.Add($"{status} {operation.Method} {operation.Path}: {said[..Math.Min(said.Length, 600)]}\n  {text[..Math.Min(text.Length, 200)]}");
            // An answer of this kind stops nothing that comes after it.
            if (status == 401 && operation.Path is not "/api/session")
                marit = await server.SignedInAsync();
        }
        output.WriteLine($"{Count} requests to {operations.Count} operations: {string.Join(", ", statuses.OrderBy(s => s.Key).Select(s => $"{s.Value} times {s.Key}"))}");
        output.WriteLine($"Slowest: {slowest.TotalMilliseconds:0} ms, {slowestName[..Math.Min(slowestName.Length, 300)]}. Most memory of the process's objects: {most / 1_000_000} MB, {GC.GetTotalMemory(forceFullCollection: true) / 1_000_000} MB after collecting.");
        var kinds = faults.GroupBy(f => f.Split('\n')[0].Split(": ")[0]).OrderByDescending(g => g.Count()).ToList();
        Assert.True(faults.Count == 0, $"{faults.Count} answers on {kinds.Count} operations:\n" + string.Join('\n', kinds.Select(k => $"{k.Count()} times {k.First()}")) + "\n" + Traces(server.Log.Text));
        // After all of it everything answers as before.
        Assert.Equal(HttpStatusCode.OK, (await marit.GetAsync("/api/board?from=2046-03-01&to=2046-03-08", TestContext.Current.CancellationToken)).StatusCode);
        // One in ten at least is what an operation does: hostility that is refused at the door looks at nothing behind it.
        Assert.True(statuses.Where(s => s.Key < 300).Sum(s => s.Value) > Count / 10);
    }

    private static int Number(string name, int otherwise) => int.TryParse(Environment.GetEnvironmentVariable(name), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : otherwise;

    private static string Document([CallerFilePath] string here = "") => Path.Combine(Path.GetDirectoryName(here)!, "../../web/src/shared/api/openapi.json");

    private static bool HasCode(HttpResponseMessage answer, string text) =>
        answer.Content.Headers.ContentType?.MediaType == "application/problem+json" && JsonNode.Parse(text)?["code"]?.GetValue<string>() is { Length: > 0 };

    // What the server's log says of faults, each kind once.
    private static string Traces(string log) =>
        string.Join('\n', log.Split('\n').Select((line, i) => (line, i)).Where(l => l.line.Contains(" failed", StringComparison.Ordinal) && l.line.Contains("Exception", StringComparison.Ordinal))
            .Select(l => string.Join('\n', log.Split('\n').Skip(l.i).Take(5))).DistinctBy(t => string.Join('\n', t.Split('\n').Skip(1))).Take(40));

    private IEnumerable<(string Method, string Path, JsonObject Operation)> Operations() =>
        document["paths"]!.AsObject().SelectMany(p => p.Value!.AsObject().Select(o => (o.Key.ToUpperInvariant(), p.Key, o.Value!.AsObject())));

    /// <summary>The public side, which the document does not have: its answers to people are pages.</summary>
    private static IEnumerable<(string Method, string Path, JsonObject Operation)> Outlets()
    {
        static JsonObject With(params string[] query) => new()
        {
            ["parameters"] = new JsonArray([.. query.Select(name => new JsonObject { ["name"] = name, ["in"] = "query", ["schema"] = new JsonObject { ["type"] = "string" } }), Key()]),
        };
        static JsonObject Key() => new() { ["name"] = "key", ["in"] = "path", ["schema"] = new JsonObject { ["type"] = "string" } };
        foreach (var outlet in new[] { "", "/feed.ics", "/snapshot.ics", "/busy.ifb", "/feed.json", "/atom.xml", "/dates.json", "/dates.csv", "/qr.svg", "/qr-page.png", "/e/x-20460301T0900", "/e/-9998", "/files/x/y" })
            yield return ("GET", "/p/{key}" + outlet, With());
        yield return ("GET", "/p/{key}/embed", With("view", "count", "theme"));
        yield return ("GET", "/p/{key}/events.json", With("from", "to"));
        yield return ("GET", "/oembed", With("url", "format", "maxwidth", "maxheight"));
    }

    /// <summary>Takes up what there is, so that requests concern something.</summary>
    private async Task LearnAsync(HttpClient marit)
    {
        foreach (var before in known.GetValueOrDefault("calendar", []))
        {
            var version = (await marit.GetJsonAsync("/api/board?from=2046-03-01&to=2046-03-02"))["calendars"]!.AsArray().FirstOrDefault(c => c!.Text("id") == before)?.Number("version");
            await marit.DeleteAsync($"/api/calendars/{before}?version={version ?? 1}");
        }
        var calendar = await marit.NewCalendarAsync("Hostile " + random.Next());
        var events = new List<string>();
        for (var i = 0; i < 3; i++)
            events.Add((await marit.PostAsync("/api/events", EventBody(calendar, "Knot " + i, Timed("2046-03-01T09:00:00", "2046-03-01T10:00:00"), i == 0 ? Weekly("thursday") : null))).Text("id"));
        var publication = await marit.PublishAsync("hostile-" + random.Next(), calendar);
        var proposals = await marit.GetJsonAsync("/api/proposals");
        known = new()
        {
            ["calendar"] = [calendar.Text("id")],
            ["event"] = events,
            ["publication"] = [publication.Text("id")],
            ["proposal"] = [.. Ids(proposals).Take(5), Guid.NewGuid().ToString()],
            ["template"] = [.. Ids(await marit.GetJsonAsync("/api/templates")), Guid.NewGuid().ToString()],
            ["school-year"] = [.. Ids(await marit.GetJsonAsync("/api/school-years")), Guid.NewGuid().ToString()],
            ["group"] = [.. Ids((await marit.GetJsonAsync("/api/people"))["groups"]!), Guid.NewGuid().ToString()],
            ["key"] = [publication.Text("key"), "lanternfell", "nothing"],
            ["other"] = [Guid.NewGuid().ToString(), Guid.Empty.ToString()],
        };
    }

    private static IEnumerable<string> Ids(JsonNode? node) => node switch
    {
        JsonArray list => list.SelectMany(Ids),
        JsonObject o => (o["id"] is JsonValue id ? [id.ToString()] : Array.Empty<string>()).Concat(o.SelectMany(p => Ids(p.Value))),
        _ => [],
    };

    private T Any<T>(IReadOnlyList<T> list) => list[random.Next(list.Count)];

    private HttpRequestMessage Make((string Method, string Path, JsonObject Operation) operation)
    {
        var (method, path, described) = operation;
        var query = new List<string>();
        foreach (var parameter in (described["parameters"]?.AsArray() ?? []).OfType<JsonObject>())
        {
            var (name, place) = (parameter.Text("name"), parameter.Text("in"));
            if (place == "path")
                path = path.Replace($"{{{name}}}", Uri.EscapeDataString(Safe(random.Next(12) == 0 ? Any(Texts) : Id(path, name)).Replace("\0", "nul", StringComparison.Ordinal)), StringComparison.Ordinal);
            else if (random.Next(8) > 0)
                query.Add($"{name}={Uri.EscapeDataString(Safe(random.Next(3) == 0 ? Any(Texts) : Right(parameter["schema"]!, name, 0)?.ToString() ?? ""))}");
        }
        var request = new HttpRequestMessage(new HttpMethod(method), path + (query.Count > 0 ? "?" + string.Join('&', query) : ""));
        if (described["requestBody"]?["content"]?["application/json"]?["schema"] is { } schema)
        {
            var body = Right(schema, path, 0);
            for (var changes = random.Next(4); changes > 0; changes--)
                body = Spoil(body);
            request.Content = new StringContent(Written(body), Encoding.UTF8, "application/json");
        }
        else if (path.StartsWith("/api/files", StringComparison.Ordinal) || path.StartsWith("/api/pictures", StringComparison.Ordinal))
        {
            var bytes = new byte[random.Next(200)];
            random.NextBytes(bytes);
            request.Content = method == "POST" ? new ByteArrayContent([.. random.Next(2) == 0 ? "\u0089PNG\r\n"u8 : "%PDF"u8, .. bytes]) : null;
        }
        return request;
    }

    // An address has no half of a character; one with a NUL in its path is refused before there is a request.
    private static string Safe(string text) => text.Contains('\ud800', StringComparison.Ordinal) ? "half" : text.Length > 3000 ? text[..3000] : text;

    // JSON may name half a character, though no writer does.
    private static string Written(JsonNode? body) => body?.ToJsonString().Replace("\\uFFFD", "\\ud800", StringComparison.OrdinalIgnoreCase) ?? "null";

    private string Id(string path, string name)
    {
        var kind = known.Keys.FirstOrDefault(k => name.StartsWith(k, StringComparison.Ordinal)) ?? known.Keys.FirstOrDefault(k => path.Contains($"/{k}s", StringComparison.Ordinal)) ?? "other";
        return Any(known[kind]);
    }

    /// <summary>A value an operation could want.</summary>
    private JsonNode? Right(JsonNode schema, string name, int depth)
    {
        if (schema["$ref"] is { } reference)
            schema = document["components"]!["schemas"]![reference.GetValue<string>().Split('/')[^1]]!;
        var choices = (schema["oneOf"] ?? schema["anyOf"])?.AsArray();
        if (choices is not null)
            return depth > 6 ? null : Right(Any([.. choices])!, name, depth + 1);
        if (schema["enum"] is JsonArray values)
            return Any([.. values])?.DeepClone();
        var types = schema["type"] is JsonArray several ? several.Select(t => t!.GetValue<string>()).ToList() : [schema["type"]?.GetValue<string>() ?? "null"];
        switch (Any(types))
        {
            case "object":
                var made = new JsonObject();
                foreach (var (property, inner) in schema["properties"]?.AsObject() ?? [])
                    made[property] = depth > 8 ? null : Right(inner!, property, depth + 1);
                return made;
            case "array":
                return new JsonArray([.. Enumerable.Range(0, depth > 6 ? 0 : random.Next(3)).Select(_ => Right(schema["items"]!, name, depth + 1))]);
            case "integer":
                return name switch { "version" => random.Next(1, 4), "interval" or "mark" => random.Next(1, 5), _ => random.Next(0, 40) };
            case "number":
                return Math.Round(random.NextDouble(), 3);
            case "boolean":
                return random.Next(2) == 0;
            case "string":
                var format = schema["format"]?.GetValue<string>();
                var day = $"2046-{random.Next(1, 13):00}-{random.Next(1, 29):00}";
                return format switch
                {
                    "uuid" => Id("", name),
                    "date" => random.Next(30) == 0 ? Any(Edges) : day,
                    "local-date-time" => (random.Next(30) == 0 ? Any(Edges) : day) + "T09:00:00",
                    "date-time" => day + "T09:00:00Z",
                    _ => name switch
                    {
                        "zone" => "America/Halifax",
                        "language" => "en",
                        "from" or "to" or "date" or "day" => day,
                        "text" => "Tue 9:00 Knots every week",
                        "look" => "everyone",
                        "key" => "hostile-key-" + random.Next(),
                        _ => "Words " + random.Next(100),
                    },
                };
            default:
                return null;
        }
    }

    /// <summary>The same with something wrong somewhere.</summary>
    private JsonNode? Spoil(JsonNode? node)
    {
        var here = random.Next(4) == 0;
        switch (node)
        {
            case JsonObject o when o.Count > 0 && !here:
                var name = Any([.. o.Select(p => p.Key)]);
                if (random.Next(5) == 0)
                    o.Remove(name);
                else
                    o[name] = Spoil(o[name]?.DeepClone());
                return o;
            case JsonArray list when list.Count > 0 && !here:
                var at = random.Next(list.Count);
                list[at] = Spoil(list[at]?.DeepClone());
                return list;
            case JsonArray list when random.Next(3) == 0:
                for (var i = 0; i < 300; i++)
                    list.Add(list.Count > 0 ? list[0]?.DeepClone() : null);
                return list;
            default:
                return random.Next(8) switch
                {
                    0 => null,
                    1 => new JsonObject(),
                    2 => new JsonArray(),
                    3 => new JsonArray((JsonNode?)null),
                    4 => Any(Numbers)?.DeepClone(),
                    5 => new JsonArray(new JsonObject()),
                    _ => Any(Texts),
                };
        }
    }
}
