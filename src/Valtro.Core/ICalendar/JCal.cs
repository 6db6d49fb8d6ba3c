using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Valtro.Core.ICalendar;

/// <summary>
/// The same calendar as JSON (jCal, RFC 7265). It is made from the iCalendar text, so that the two never say different
/// things.
/// </summary>
public static partial class JCal
{
    /// <summary>The media type (RFC 7265, 6).</summary>
    public const string ContentType = "application/calendar+json";

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

    private static readonly HashSet<string> Several = ["CATEGORIES", "RDATE", "EXDATE", "FREEBUSY"];
    private static readonly HashSet<string> RuleNumbers = ["INTERVAL", "COUNT", "BYSECOND", "BYMINUTE", "BYHOUR", "BYMONTHDAY", "BYYEARDAY", "BYWEEKNO", "BYMONTH", "BYSETPOS"];

    /// <summary>Turns an iCalendar file of ours into jCal.</summary>
    /// <param name="calendar">The file, in UTF-8.</param>
    public static byte[] Of(ReadOnlySpan<byte> calendar)
    {
        var lines = Encoding.UTF8.GetString(calendar).Replace("\r\n ", "", StringComparison.Ordinal).Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        var output = new ArrayBufferWriter<byte>(calendar.Length * 2);
        using (var json = new Utf8JsonWriter(output, new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
        {
            var at = 0;
            Component(json, lines, ref at);
        }
        return output.WrittenSpan.ToArray();
    }

    private static void Component(Utf8JsonWriter json, string[] lines, ref int at)
    {
        json.WriteStartArray();
        json.WriteStringValue(lines[at++]["BEGIN:".Length..].ToLowerInvariant());
        json.WriteStartArray();
        while (!lines[at].StartsWith("BEGIN:", StringComparison.Ordinal) && !lines[at].StartsWith("END:", StringComparison.Ordinal))
            Property(json, lines[at++]);
        json.WriteEndArray();
        json.WriteStartArray();
        while (lines[at].StartsWith("BEGIN:", StringComparison.Ordinal))
            Component(json, lines, ref at);
        at++;
        json.WriteEndArray();
        json.WriteEndArray();
    }

    private static void Property(Utf8JsonWriter json, string line)
    {
        var head = Head().Match(line);
        var name = head.Groups[1].Value;
        var value = line[head.Length..];
        var type = Types.GetValueOrDefault(name, name.StartsWith("X-", StringComparison.Ordinal) ? "unknown" : "text");
        json.WriteStartArray();
        json.WriteStringValue(name.ToLowerInvariant());
        json.WriteStartObject();
        foreach (Match parameter in Parameter().Matches(head.Groups[2].Value))
        {
            var given = parameter.Groups[2].Success ? parameter.Groups[2].Value : parameter.Groups[3].Value;
            given = given.Replace("^n", "\n", StringComparison.Ordinal).Replace("^'", "\"", StringComparison.Ordinal).Replace("^^", "^", StringComparison.Ordinal);
            if (parameter.Groups[1].Value == "VALUE")
                type = given.ToLowerInvariant();
            else
                json.WriteString(parameter.Groups[1].Value.ToLowerInvariant(), given);
        }
        json.WriteEndObject();
        json.WriteStringValue(type);
        if (name == "GEO")
        {
            // One value of two parts is an array of its own (RFC 7265, 3.4.1.2).
            json.WriteStartArray();
            foreach (var part in value.Split(';'))
                json.WriteNumberValue(decimal.Parse(part, CultureInfo.InvariantCulture));
            json.WriteEndArray();
        }
        else if (Several.Contains(name))
        {
            foreach (var part in Comma().Split(value))
                Value(json, type, part);
        }
        else
        {
            Value(json, type, value);
        }
        json.WriteEndArray();
    }

    private static void Value(Utf8JsonWriter json, string type, string value)
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
                Rule(json, value);
                break;
            // What is of no known type stays as it is written (RFC 7265, 5.1), by the default case.
            case "text":
                json.WriteStringValue(Escape().Replace(value, m => m.Value is @"\n" or @"\N" ? "\n" : m.Value[1..]));
                break;
            default:
                json.WriteStringValue(value);
                break;
        }
    }

    private static void Rule(Utf8JsonWriter json, string value)
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

    [GeneratedRegex("""^([A-Z0-9-]+)((?:;[A-Z0-9-]+=(?:"[^"]*"|[^";:,]*))*):""")]
    private static partial Regex Head();

    [GeneratedRegex("""([A-Z0-9-]+)=(?:"([^"]*)"|([^";:,]*))""")]
    private static partial Regex Parameter();

    [GeneratedRegex(@"(?<!\\),")]
    private static partial Regex Comma();

    [GeneratedRegex(@"\\[\\;,nN]")]
    private static partial Regex Escape();
}
