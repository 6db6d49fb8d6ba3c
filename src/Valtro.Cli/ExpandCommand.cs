using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Valtro.Core;

namespace Valtro.Cli;

/// <summary>Expands one set of dates a line. A line that cannot be read gives an error line, and the rest goes on.</summary>
internal static class ExpandCommand
{
    private static readonly JsonWriterOptions Plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    public static void Run(TextReader input, TextWriter output)
    {
        using var buffer = new MemoryStream();
        while (input.ReadLine() is { } line)
        {
            if (string.IsNullOrWhiteSpace(line))
                continue;
            buffer.SetLength(0);
            using (var json = new Utf8JsonWriter(buffer, Plain))
                Answer(line, json);
            output.WriteLine(System.Text.Encoding.UTF8.GetString(buffer.GetBuffer(), 0, (int)buffer.Length));
        }
        output.Flush();
    }

    private static void Answer(string line, Utf8JsonWriter json)
    {
        JsonNode? id = null;
        List<string>? starts = null;
        InvalidInputException? problem = null;
        try
        {
            var request = JsonNode.Parse(line) as JsonObject
                ?? throw new InvalidInputException("line_malformed", "", "The line has to hold one JSON object.");
            id = request["id"];
            starts = Expansion.Of(request);
        }
        catch (JsonException e)
        {
            problem = new InvalidInputException("line_malformed", "", "The line is not JSON: " + e.Message);
        }
        catch (InvalidInputException e)
        {
            problem = e;
        }
        json.WriteStartObject();
        json.WritePropertyName("id");
        if (id is null)
            json.WriteNullValue();
        else
            id.WriteTo(json);
        if (problem is null)
        {
            json.WriteStartArray("starts");
            foreach (var start in starts!)
                json.WriteStringValue(start);
            json.WriteEndArray();
        }
        else
        {
            json.WriteStartObject("error");
            json.WriteString("code", problem.Code);
            json.WriteString("message", problem.Message);
            json.WriteEndObject();
        }
        json.WriteEndObject();
    }
}
