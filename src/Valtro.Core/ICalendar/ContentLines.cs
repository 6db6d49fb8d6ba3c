using System.Buffers;
using System.Globalization;
using System.Text;
using NodaTime;

namespace Valtro.Core.ICalendar;

/// <summary>
/// Content lines in UTF-8: CRLF, folded at 75 octets and never inside a character (RFC 5545, 3.1), text escaped
/// (3.3.11), parameter values encoded (RFC 6868).
/// </summary>
internal sealed class ContentLines(int capacity = 32 * 1024) : CalendarSink
{
    private const int MaxOctets = 75;

    // What is escaped, and control characters, which no line may hold (RFC 5545, 3.1).
    private static readonly SearchValues<char> Escaped = SearchValues.Create([.. "\\;,\u007f", .. Enumerable.Range(0, 32).Select(c => (char)c).Where(c => c != '\t')]);

    private readonly LineText line = new();
    private byte[] output = ArrayPool<byte>.Shared.Rent(capacity);
    private int written;

    public override byte[] Finish()
    {
        var all = output.AsSpan(0, written).ToArray();
        ArrayPool<byte>.Shared.Return(output);
        output = [];
        return all;
    }

    public static string Date(LocalDate date) => string.Create(8, date, static (text, d) => Digits(text, d));

    public static string Local(LocalDateTime time) => string.Create(15, time, static (text, t) => Digits(text, t));

    public static string Utc(Instant instant) => string.Create(16, instant, static (text, at) =>
    {
        Digits(text, at.InUtc().LocalDateTime);
        text[15] = 'Z';
    });

    // Written a million times over: the general patterns take ten times as long.
    private static void Digits(Span<char> text, LocalDate date)
    {
        Two(text, date.Year / 100);
        Two(text[2..], date.Year % 100);
        Two(text[4..], date.Month);
        Two(text[6..], date.Day);
    }

    private static void Digits(Span<char> text, LocalDateTime time)
    {
        Digits(text, time.Date);
        text[8] = 'T';
        Two(text[9..], time.Hour);
        Two(text[11..], time.Minute);
        Two(text[13..], time.Second);
    }

    private static void Two(Span<char> text, int number)
    {
        text[0] = (char)('0' + number / 10);
        text[1] = (char)('0' + number % 10);
    }

    /// <summary>A UTC offset (RFC 5545, 3.3.14).</summary>
    public static string Offset(Offset offset)
    {
        var seconds = Math.Abs(offset.Seconds);
        var text = string.Create(CultureInfo.InvariantCulture, $"{(offset.Seconds < 0 ? '-' : '+')}{seconds / 3600:00}{seconds / 60 % 60:00}");
        return seconds % 60 == 0 ? text : text + (seconds % 60).ToString("00", CultureInfo.InvariantCulture);
    }

    public override void Begin(string component) => Property("BEGIN", [], component);

    public override void End(string component) => Property("END", [], component);

    public override void Values(string name, (string Name, string Value)? parameter, IReadOnlyList<string> values)
    {
        Head(name, parameter is { } p ? [p] : []);
        for (var i = 0; i < values.Count; i++)
        {
            if (i > 0)
                line.Append(',');
            line.Append(values[i]);
        }
        Flush();
    }

    public override void Texts(string name, IReadOnlyList<string> values)
    {
        Head(name, []);
        for (var i = 0; i < values.Count; i++)
        {
            if (i > 0)
                line.Append(',');
            AppendText(values[i]);
        }
        Flush();
    }

    protected override void Property(string name, ReadOnlySpan<(string Name, string Value)> parameters, string value)
    {
        Head(name, parameters);
        line.Append(value);
        Flush();
    }

    protected override void Text(string name, ReadOnlySpan<(string Name, string Value)> parameters, string value)
    {
        Head(name, parameters);
        AppendText(value);
        Flush();
    }

    private void Head(string name, ReadOnlySpan<(string Name, string Value)> parameters)
    {
        line.Clear().Append(name);
        foreach (var (parameter, value) in parameters)
        {
            line.Append(';').Append(parameter).Append('=');
            AppendParameter(value);
        }
        line.Append(':');
    }

    /// <summary>A text as it is written in a line.</summary>
    public static string Escape(string value)
    {
        var text = new LineText();
        AppendText(text, value);
        return text.Written.ToString();
    }

    private void AppendText(string value) => AppendText(line, value);

    private static void AppendText(LineText line, string value)
    {
        var rest = value.AsSpan();
        for (int at; (at = rest.IndexOfAny(Escaped)) >= 0; rest = rest[(at + 1)..])
        {
            line.Append(rest[..at]);
            if (rest[at] == '\n')
                line.Append("\\n");
            else if (!char.IsControl(rest[at]))
                line.Append('\\').Append(rest[at]);
        }
        line.Append(rest);
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
        Fold(line.Written);
        Write("\r\n"u8);
    }

    private void Fold(ReadOnlySpan<char> text)
    {
        if (Ascii.IsValid(text))
        {
            for (var room = MaxOctets; text.Length > room; room = MaxOctets - 1)
            {
                WriteAscii(text[..room]);
                Write("\r\n "u8);
                text = text[room..];
            }
            WriteAscii(text);
            return;
        }
        var left = MaxOctets;
        foreach (var rune in text.EnumerateRunes())
        {
            var length = rune.Utf8SequenceLength;
            if (length > left)
            {
                Write("\r\n "u8);
                left = MaxOctets - 1;
            }
            written += rune.EncodeToUtf8(Room(4));
            left -= length;
        }
    }

    private void WriteAscii(ReadOnlySpan<char> text)
    {
        Ascii.FromUtf16(text, Room(text.Length), out var count);
        written += count;
    }

    private void Write(ReadOnlySpan<byte> bytes)
    {
        bytes.CopyTo(Room(bytes.Length));
        written += bytes.Length;
    }

    private Span<byte> Room(int length)
    {
        if (output.Length - written < length)
        {
            var larger = ArrayPool<byte>.Shared.Rent(Math.Max(output.Length * 2, written + length));
            output.AsSpan(0, written).CopyTo(larger);
            ArrayPool<byte>.Shared.Return(output);
            output = larger;
        }
        return output.AsSpan(written);
    }

    /// <summary>A line before it is folded, in one piece.</summary>
    private sealed class LineText
    {
        private char[] text = new char[512];
        private int length;

        public ReadOnlySpan<char> Written => text.AsSpan(0, length);

        public LineText Clear()
        {
            length = 0;
            return this;
        }

        public LineText Append(char c)
        {
            if (length == text.Length)
                Array.Resize(ref text, length * 2);
            text[length++] = c;
            return this;
        }

        public LineText Append(ReadOnlySpan<char> more)
        {
            if (text.Length - length < more.Length)
                Array.Resize(ref text, Math.Max(text.Length * 2, length + more.Length));
            more.CopyTo(text.AsSpan(length));
            length += more.Length;
            return this;
        }
    }
}
