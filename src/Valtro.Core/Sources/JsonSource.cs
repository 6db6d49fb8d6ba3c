using System.Globalization;
using System.Text.Json;

namespace Valtro.Core.Sources;

/// <summary>Components from jCal (RFC 7265), so that the reader knows one form only.</summary>
internal static class JsonSource
{
    private const int MaxDepth = 24;

    /// <summary>The components of a document, under one without a name; null when it is no jCal.</summary>
    /// <param name="bytes">The document.</param>
    /// <param name="most">How many components at most.</param>
    /// <param name="unread">How many properties cannot be read.</param>
    /// <exception cref="InvalidInputException"><c>too_many_components</c>, <c>nested_too_deep</c>.</exception>
    public static SourceComponent? Read(ReadOnlyMemory<byte> bytes, int most, out int unread)
    {
        unread = 0;
        try
        {
            using var document = JsonDocument.Parse(bytes, new JsonDocumentOptions { MaxDepth = MaxDepth * 3, AllowTrailingCommas = true });
            var (root, count) = (new SourceComponent(""), 0);
            var top = document.RootElement;
            if (top.ValueKind != JsonValueKind.Array || top.GetArrayLength() == 0)
                return null;
            // One calendar, or several.
            foreach (var one in top[0].ValueKind == JsonValueKind.Array ? [.. top.EnumerateArray()] : new[] { top })
                Component(one, root, 0, most, ref count, ref unread);
            return root;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static void Component(JsonElement json, SourceComponent into, int depth, int most, ref int count, ref int unread)
    {
        if (json.ValueKind != JsonValueKind.Array || json.GetArrayLength() < 3 || json[0].ValueKind != JsonValueKind.String)
        {
            unread++;
            return;
        }
        if (++count > most)
            throw new InvalidInputException("too_many_components", "", $"A file holds {most} events at most.");
        if (depth >= MaxDepth)
            throw new InvalidInputException("nested_too_deep", "", $"Things stand in each other more than {MaxDepth} deep in this file.");
        var component = new SourceComponent(json[0].GetString()!.ToUpperInvariant());
        into.Components.Add(component);
        IEnumerable<JsonElement> Items(JsonElement list) => list.ValueKind == JsonValueKind.Array ? list.EnumerateArray() : [];
        foreach (var property in Items(json[1]))
        {
            if (Property(property) is { } read)
                component.Properties.Add(read);
            else
                unread++;
        }
        foreach (var child in Items(json[2]))
            Component(child, component, depth + 1, most, ref count, ref unread);
    }

    private static SourceProperty? Property(JsonElement json)
    {
        if (json.ValueKind != JsonValueKind.Array || json.GetArrayLength() < 4 || json[0].ValueKind != JsonValueKind.String || json[2].ValueKind != JsonValueKind.String)
            return null;
        var (name, type) = (json[0].GetString()!.ToUpperInvariant(), json[2].GetString()!.ToLowerInvariant());
        var parameters = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        if (json[1].ValueKind == JsonValueKind.Object)
        {
            foreach (var parameter in json[1].EnumerateObject())
                parameters.TryAdd(parameter.Name, parameter.Value.ValueKind == JsonValueKind.Array ? string.Join(',', parameter.Value.EnumerateArray()) : parameter.Value.ToString());
        }
        if (type is "date" or "period")
            parameters["VALUE"] = type.ToUpperInvariant();
        var isText = type is "text" or "unknown";
        return new SourceProperty(name, parameters, string.Join(isText && name != "CATEGORIES" && name != "RESOURCES" ? " " : ",", json.EnumerateArray().Skip(3).Select(v => Value(v, isText))));
    }

    private static string Value(JsonElement value, bool isText) => value.ValueKind switch
    {
        JsonValueKind.Object => string.Join(';', value.EnumerateObject().Select(part => $"{part.Name.ToUpperInvariant()}={Bare(part.Value)}")),
        JsonValueKind.Array => string.Join(isText ? ";" : "/", value.EnumerateArray().Select(v => Value(v, isText))),
        JsonValueKind.String when isText => value.GetString()!.Replace("\\", "\\\\", StringComparison.Ordinal).Replace(",", "\\,", StringComparison.Ordinal).Replace(";", "\\;", StringComparison.Ordinal).ReplaceLineEndings("\\n"),
        JsonValueKind.String => value.GetString()!,
        _ => value.GetRawText(),
    };

    // Dates within rules have no dashes in a line.
    private static string Bare(JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.Array => string.Join(',', value.EnumerateArray().Select(Bare)),
        JsonValueKind.String => value.GetString()! is var text && text.Length >= 10 && char.IsAsciiDigit(text[0]) ? text.Replace("-", "", StringComparison.Ordinal).Replace(":", "", StringComparison.Ordinal) : text,
        JsonValueKind.Number => value.TryGetInt64(out var number) ? number.ToString(CultureInfo.InvariantCulture) : value.GetRawText(),
        _ => value.GetRawText(),
    };
}
