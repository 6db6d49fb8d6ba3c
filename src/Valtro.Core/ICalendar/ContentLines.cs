using System.Buffers;
using System.Globalization;
using System.Text;
using NodaTime;
using NodaTime.Text;

namespace Valtro.Core.ICalendar;

/// <summary>
/// Content lines in UTF-8: CRLF, folded at 75 octets and never inside a character (RFC 5545, 3.1), text escaped
/// (3.3.11), parameter values encoded (RFC 6868).
/// </summary>
internal sealed class ContentLines
{
    private const int MaxOctets = 75;

    private static readonly LocalDatePattern DateForm = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");
    private static readonly LocalDateTimePattern DateTimeForm = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmmss");
    private static readonly SearchValues<char> Escaped = SearchValues.Create("\\;,\n");

    private readonly ArrayBufferWriter<byte> output = new(32 * 1024);
    private readonly StringBuilder line = new(256);
    private char[] piece = new char[512];

    /// <summary>All that was written.</summary>
    public byte[] ToArray() => output.WrittenSpan.ToArray();

    public static string Date(LocalDate date) => DateForm.Format(date);

    public static string Local(LocalDateTime time) => DateTimeForm.Format(time);

    public static string Utc(Instant instant) => DateTimeForm.Format(instant.InUtc().LocalDateTime) + "Z";

    /// <summary>A UTC offset (RFC 5545, 3.3.14).</summary>
    public static string Offset(Offset offset)
    {
        var seconds = Math.Abs(offset.Seconds);
        var text = string.Create(CultureInfo.InvariantCulture, $"{(offset.Seconds < 0 ? '-' : '+')}{seconds / 3600:00}{seconds / 60 % 60:00}");
        return seconds % 60 == 0 ? text : text + (seconds % 60).ToString("00", CultureInfo.InvariantCulture);
    }

    /// <summary>Writes a property whose value needs no escaping.</summary>
    public void Raw(string name, string value)
    {
        line.Clear().Append(name).Append(':').Append(value);
        Flush();
    }

    /// <summary>Writes a property with one parameter and a value that needs no escaping.</summary>
    public void Raw(string name, string parameter, string parameterValue, string value)
    {
        line.Clear().Append(name).Append(';').Append(parameter).Append('=');
        AppendParameter(parameterValue);
        line.Append(':').Append(value);
        Flush();
    }

    /// <summary>Writes a property with several text values (RFC 5545, 3.1.1).</summary>
    public void Texts(string name, IReadOnlyList<string> values)
    {
        line.Clear().Append(name).Append(':');
        for (var i = 0; i < values.Count; i++)
        {
            if (i > 0)
                line.Append(',');
            AppendText(values[i]);
        }
        Flush();
    }

    /// <summary>Writes where to take part by video (RFC 7986, 5.11).</summary>
    public void Conference(string address, string label)
    {
        line.Clear().Append("CONFERENCE;VALUE=URI;FEATURE=VIDEO");
        if (label.Length > 0)
        {
            line.Append(";LABEL=");
            AppendParameter(label);
        }
        line.Append(':').Append(address);
        Flush();
    }

    /// <summary>Writes a file that belongs to an event (RFC 5545, 3.8.1.1; its name and size as RFC 8607, 4, has them).</summary>
    public void Attachment(string address, string name, string mediaType, long size)
    {
        line.Clear().Append("ATTACH;FMTTYPE=").Append(mediaType).Append(";FILENAME=");
        AppendParameter(name);
        line.Append(";SIZE=").Append(size.ToString(CultureInfo.InvariantCulture)).Append(':').Append(address);
        Flush();
    }

    /// <summary>Writes an event's picture (RFC 7986, 5.10).</summary>
    public void Image(string address)
    {
        line.Clear().Append("IMAGE;VALUE=URI;DISPLAY=BADGE;FMTTYPE=image/jpeg:").Append(address);
        Flush();
    }

    /// <summary>Writes a property with one parameter and a text value.</summary>
    public void Text(string name, string parameter, string parameterValue, string value)
    {
        line.Clear().Append(name).Append(';').Append(parameter).Append('=');
        AppendParameter(parameterValue);
        line.Append(':');
        AppendText(value);
        Flush();
    }

    /// <summary>Writes a property with a text value.</summary>
    public void Text(string name, string value)
    {
        line.Clear().Append(name).Append(':');
        AppendText(value);
        Flush();
    }

    private void AppendText(string value)
    {
        if (value.AsSpan().IndexOfAny(Escaped) < 0 && !value.Contains('\r'))
        {
            line.Append(value);
            return;
        }
        foreach (var c in value)
        {
            switch (c)
            {
                case '\\' or ';' or ',':
                    line.Append('\\').Append(c);
                    break;
                case '\n':
                    line.Append("\\n");
                    break;
                case '\r':
                    break;
                default:
                    line.Append(c);
                    break;
            }
        }
    }

    private void AppendParameter(string value)
    {
        var quoted = value.AsSpan().IndexOfAny(':', ';', ',') >= 0;
        if (quoted)
            line.Append('"');
        foreach (var c in value)
        {
            _ = c switch
            {
                '^' => line.Append("^^"),
                '\n' => line.Append("^n"),
                '"' => line.Append("^'"),
                _ => line.Append(c),
            };
        }
        if (quoted)
            line.Append('"');
    }

    private void Flush()
    {
        // In one piece: between two chunks of the builder a character could be cut in half.
        if (piece.Length < line.Length)
            piece = new char[line.Length * 2];
        line.CopyTo(0, piece, line.Length);
        Fold(piece.AsSpan(0, line.Length));
        output.Write("\r\n"u8);
    }

    private void Fold(ReadOnlySpan<char> text)
    {
        var room = MaxOctets;
        foreach (var rune in text.EnumerateRunes())
        {
            var length = rune.Utf8SequenceLength;
            if (length > room)
            {
                output.Write("\r\n "u8);
                room = MaxOctets - 1;
            }
            output.Advance(rune.EncodeToUtf8(output.GetSpan(4)));
            room -= length;
        }
    }
}
