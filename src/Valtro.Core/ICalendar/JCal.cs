using System.Buffers;
using System.Globalization;
using System.Text.Json;
using Valtro.Core.Publishing;

namespace Valtro.Core.ICalendar;

/// <summary>A calendar as JSON (jCal, RFC 7265): the other sink of what a feed says, so that the two never say different things.</summary>
public static class JCal
{
    /// <summary>The media type (RFC 7265, 6).</summary>
    public const string ContentType = "application/calendar+json";

    /// <summary>Writes what goes out as jCal.</summary>
    /// <param name="head">What it says of itself.</param>
    /// <param name="projection">What goes out.</param>
    public static byte[] Write(FeedHead head, Projection projection)
    {
        using var lines = new JsonCalendar();
        FeedWriter.Write(lines, head, projection);
        return lines.Finish();
    }
}

/// <summary>Components as arrays of their name, their properties and their components (RFC 7265, 3).</summary>
internal sealed class JsonCalendar : CalendarSink, IDisposable
{
    // Values whose default type is not text (RFC 5545, 3.8; RFC 7986, 5).
    private static readonly Dictionary<string, string> Types = new(StringComparer.Ordinal)
    {
        ["CREATED"] = "date-time",
        ["DTSTAMP"] = "date-time",
        ["LAST-MODIFIED"] = "date-time",
        ["DTSTART"] = "date-time",
        ["DTEND"] = "date-time",
        ["RDATE"] = "date-time",
        ["EXDATE"] = "date-time",
        ["RECURRENCE-ID"] = "date-time",
        ["RRULE"] = "recur",
        ["SEQUENCE"] = "integer",
        ["TRIGGER"] = "duration",
        ["REFRESH-INTERVAL"] = "duration",
        ["TZOFFSETFROM"] = "utc-offset",
        ["TZOFFSETTO"] = "utc-offset",
        ["URL"] = "uri",
        ["SOURCE"] = "uri",
        ["ATTACH"] = "uri",
        ["IMAGE"] = "uri",
        ["CONFERENCE"] = "uri",
        ["GEO"] = "float",
        ["FREEBUSY"] = "period",
    };

    private static readonly HashSet<string> RuleNumbers = ["INTERVAL", "COUNT", "BYSECOND", "BYMINUTE", "BYHOUR", "BYMONTHDAY", "BYYEARDAY", "BYWEEKNO", "BYMONTH", "BYSETPOS"];

    private const string Unknown = "unknown";

    private readonly ArrayBufferWriter<byte> output = new(64 * 1024);
    private readonly Utf8JsonWriter json;

    // Of each open component whether its own components have begun.
    private readonly Stack<bool> open = [];

    public JsonCalendar()
    {
        json = new Utf8JsonWriter(output, new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping });
    }

    public override void Begin(string component)
    {
        if (open.Count > 0)
            CloseProperties();
        open.Push(false);
        json.WriteStartArray();
        json.WriteStringValue(component.ToLowerInvariant());
        json.WriteStartArray();
    }

    public override void End(string component)
    {
        CloseProperties();
        open.Pop();
        json.WriteEndArray();
        json.WriteEndArray();
    }

    public override void Values(string name, (string Name, string Value)? parameter, IReadOnlyList<string> values)
    {
        var type = Head(name, parameter is { } p ? [p] : []);
        foreach (var value in values)
            Value(type, value);
        json.WriteEndArray();
    }

    public override void Texts(string name, IReadOnlyList<string> values)
    {
        Head(name, []);
        foreach (var value in values)
            json.WriteStringValue(Printable(value));
        json.WriteEndArray();
    }

    public override byte[] Finish()
    {
        json.Flush();
        return output.WrittenSpan.ToArray();
    }

    public void Dispose() => json.Dispose();

    protected override void Property(string name, ReadOnlySpan<(string Name, string Value)> parameters, string value)
    {
        var type = Head(name, parameters);
        if (name == "GEO")
        {
            // One value of two parts is an array of its own (RFC 7265, 3.4.1.2).
            json.WriteStartArray();
            foreach (var part in value.Split(';'))
                json.WriteNumberValue(decimal.Parse(part, CultureInfo.InvariantCulture));
            json.WriteEndArray();
        }
        else
        {
            Value(type, value);
        }
        json.WriteEndArray();
    }

    protected override void Text(string name, ReadOnlySpan<(string Name, string Value)> parameters, string value)
    {
        // What is of no known type stays as it is written in a line (RFC 7265, 5.1).
        json.WriteStringValue(Head(name, parameters) == Unknown ? ContentLines.Escape(value) : Printable(value));
        json.WriteEndArray();
    }

    // The beginning of a property: its name, its parameters, its type.
    private string Head(string name, ReadOnlySpan<(string Name, string Value)> parameters)
    {
        var type = Types.GetValueOrDefault(name, name.StartsWith("X-", StringComparison.Ordinal) ? Unknown : "text");
        json.WriteStartArray();
        json.WriteStringValue(name.ToLowerInvariant());
        json.WriteStartObject();
        foreach (var (parameter, value) in parameters)
        {
            if (parameter == "VALUE")
                type = value.ToLowerInvariant();
            else
                json.WriteString(parameter.ToLowerInvariant(), value);
        }
        json.WriteEndObject();
        json.WriteStringValue(type);
        return type;
    }

    private void CloseProperties()
    {
        if (open.Peek())
            return;
        open.Pop();
        open.Push(true);
        json.WriteEndArray();
        json.WriteStartArray();
    }

    // The same characters as in lines: those that control nothing are left out there too.
    private static string Printable(string text) => text.Any(c => char.IsControl(c) && c is not ('\n' or '\t')) ? string.Concat(text.Where(c => !char.IsControl(c) || c is '\n' or '\t')) : text;

    private void Value(string type, string value)
    {
        switch (type)
        {
            case "integer":
                json.WriteNumberValue(long.Parse(value, CultureInfo.InvariantCulture));
                break;
            case "date" or "date-time":
                json.WriteStringValue(Moment(value));
                break;
            case "period":
                var ends = value.Split('/');
                json.WriteStartArray();
                json.WriteStringValue(Moment(ends[0]));
                json.WriteStringValue(ends[1].StartsWith('P') ? ends[1] : Moment(ends[1]));
                json.WriteEndArray();
                break;
            case "utc-offset":
                // +hhmm[ss] with colons between (RFC 7265, 3.6.14).
                json.WriteStringValue(value.Length == 7 ? $"{value[..3]}:{value[3..5]}:{value[5..]}" : $"{value[..3]}:{value[3..]}");
                break;
            case "recur":
                Rule(value);
                break;
            default:
                json.WriteStringValue(value);
                break;
        }
    }

    private void Rule(string value)
    {
        json.WriteStartObject();
        foreach (var part in value.Split(';'))
        {
            var (name, given) = (part[..part.IndexOf('=')], part[(part.IndexOf('=') + 1)..].Split(','));
            json.WritePropertyName(name.ToLowerInvariant());
            if (given.Length > 1)
                json.WriteStartArray();
            foreach (var one in given)
            {
                if (RuleNumbers.Contains(name))
                    json.WriteNumberValue(int.Parse(one, CultureInfo.InvariantCulture));
                else
                    json.WriteStringValue(name == "UNTIL" ? Moment(one) : one);
            }
            if (given.Length > 1)
                json.WriteEndArray();
        }
        json.WriteEndObject();
    }

    // 20261124T180000Z as 2026-11-24T18:00:00Z (RFC 7265, 3.6.4 and 3.6.5).
    private static string Moment(string value)
    {
        var date = $"{value[..4]}-{value[4..6]}-{value[6..8]}";
        return value.Length == 8 ? date : $"{date}T{value[9..11]}:{value[11..13]}:{value[13..15]}{value[15..]}";
    }
}
