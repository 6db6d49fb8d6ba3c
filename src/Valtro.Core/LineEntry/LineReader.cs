using System.Text;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.LineEntry;

/// <summary>What a part of a line was taken for.</summary>
public enum LinePartKind
{
    /// <summary>The title: all that is nothing else.</summary>
    Title,

    /// <summary>The time of day, or that it is all day.</summary>
    Time,

    /// <summary>The place.</summary>
    Place,

    /// <summary>How it repeats.</summary>
    Repeat,

    /// <summary>How the repeat ends.</summary>
    End,
}

/// <summary>A part of a line, by its position in the text.</summary>
/// <param name="Kind">What it was taken for.</param>
/// <param name="Start">Index of its first character.</param>
/// <param name="Length">How many characters.</param>
public readonly record struct LinePart(LinePartKind Kind, int Start, int Length);

/// <summary>Where and by whom a line is typed.</summary>
/// <param name="Day">The day it is typed on.</param>
/// <param name="Zone">The calendar's zone.</param>
/// <param name="Language">The person's language, such as "en".</param>
public sealed record LineContext(LocalDate Day, DateTimeZone Zone, string Language);

/// <summary>A line as it was understood.</summary>
/// <param name="Draft">The event it makes; the start already in step with the repeat.</param>
/// <param name="Parts">The parts, in the order of the text; every character that is no blank belongs to one.</param>
public sealed record LineReading(EventDraft Draft, IReadOnlyList<LinePart> Parts);

/// <summary>
/// Reads one line of text as an event: <c>Rigging test 9:30-11 @Loft 2 every tue until 12 dec</c>. Whatever is not
/// understood is the title, so nothing typed is ever lost.
/// </summary>
public static partial class LineReader
{
    /// <summary>The longest line read.</summary>
    public const int MaxLength = 500;

    /// <summary>How long a timed event is when only its start was typed.</summary>
    public static readonly Period DefaultLength = Period.FromHours(1);

    /// <summary>Reads a line.</summary>
    /// <exception cref="InvalidInputException"><c>text_too_long</c>, <c>rule_never_happens</c>, <c>date_out_of_range</c>.</exception>
    public static LineReading Read(string text, LineContext context)
    {
        if (text.Length > MaxLength)
            throw new InvalidInputException("text_too_long", "text", $"The line has {text.Length} characters; {MaxLength} fit.");
        return new Reader(text, context).Read();
    }

    [GeneratedRegex(@"^(?<h>\d{1,2})(?:(?<sep>[:.h])(?<m>\d{2})?)?(?<ap>[ap]m)?(?:[-–](?<h2>\d{1,2})(?:(?<sep2>[:.h])(?<m2>\d{2})?)?(?<ap2>[ap]m)?)?$")]
    private static partial Regex TimeForm();

    [GeneratedRegex(@"\S+")]
    private static partial Regex WordForm();

    private readonly record struct Word(string Text, int Start, int Length)
    {
        public int End => Start + Length;
    }

    private sealed class Reader
    {
        private readonly LineContext context;
        private readonly LineWords words;
        private readonly Word[] line;
        private readonly string text;
        private readonly List<LinePart> parts = [];
        private readonly List<string> title = [];
        private int next;

        private LocalTime? start;
        private LocalTime? end;
        private bool allDay;
        private string? place;
        private (Frequency Frequency, int Interval, WeekdaySet Days)? repeat;
        private int? count;
        private RuleEnd? until;

        public Reader(string text, LineContext context)
        {
            this.text = text;
            this.context = context;
            words = LineWords.For(context.Language);
            line = [.. WordForm().Matches(text).Select(m => new Word(Plain(m.Value), m.Index, m.Length))];
        }

        public LineReading Read()
        {
            while (next < line.Length)
            {
                var from = next;
                if (TryPart() is { } kind)
                {
                    Add(kind, from);
                }
                else
                {
                    next = from + 1;
                    title.Add(text.Substring(line[from].Start, line[from].Length));
                    Add(LinePartKind.Title, from);
                }
            }
            return Reading();
        }

        private LineReading Reading()
        {
            EventTiming timing;
            if (start is { } time && !allDay)
            {
                var from = context.Day.At(time);
                var to = end is null ? from + DefaultLength : context.Day.At(end.Value);
                timing = EventTiming.Zoned(from, to < from ? to.PlusDays(1) : to, context.Zone);
            }
            else
            {
                timing = EventTiming.AllDay(context.Day, context.Day);
            }
            var rule = repeat is { } r ? new RecurrenceRule(r.Frequency, r.Interval, r.Days, count, until) : null;
            var draft = new EventDraft(string.Join(' ', title), place, "", timing, rule);
            return new LineReading(draft with { Timing = Event.InStep(draft).Timing }, parts);
        }

        private LinePartKind? TryPart()
        {
            if (place is null && Peek().StartsWith('@') && Peek().Length > 1)
            {
                var from = next++;
                while (next < line.Length && !StartsPart())
                    next++;
                place = text[(line[from].Start + 1)..line[next - 1].End];
                return LinePartKind.Place;
            }
            if (!allDay && start is null && (TryTime() || TryAllDay()))
                return LinePartKind.Time;
            if (repeat is null && TryRepeat())
                return LinePartKind.Repeat;
            if (repeat is not null && count is null && until is null && TryEnd())
                return LinePartKind.End;
            return null;
        }

        /// <summary>Whether a part other than the title begins at the next word; reads nothing.</summary>
        private bool StartsPart()
        {
            var (oldNext, oldStart, oldEnd, oldAllDay, oldRepeat, oldCount, oldUntil) = (next, start, end, allDay, repeat, count, until);
            var starts = Peek()[0] is '@' or '#'
                || (start is null && !allDay && (TryTime() || TryAllDay()))
                || (repeat is null && TryRepeat())
                || (repeat is not null && TryEnd());
            (next, start, end, allDay, repeat, count, until) = (oldNext, oldStart, oldEnd, oldAllDay, oldRepeat, oldCount, oldUntil);
            return starts;
        }

        private bool TryTime()
        {
            var match = TimeForm().Match(Peek());
            if (!match.Success)
                return false;
            // A bare number is not a time; a pair of them is.
            var clear = match.Groups["sep"].Success || match.Groups["ap"].Success || match.Groups["h2"].Success;
            var half2 = match.Groups["ap2"].Value;
            var half1 = match.Groups["ap"].Success ? match.Groups["ap"].Value : half2;
            if (!clear || (match.Groups["sep"].Value is ":" or "." && !match.Groups["m"].Success))
                return false;
            if (Clock(match.Groups["h"].Value, match.Groups["m"].Value, half1) is not { } from)
                return false;
            LocalTime? to = null;
            if (match.Groups["h2"].Success)
            {
                to = Clock(match.Groups["h2"].Value, match.Groups["m2"].Value, half2);
                if (to is null)
                    return false;
                // "11-2pm" begins in the morning.
                if (half1 == "pm" && !match.Groups["ap"].Success && from > to)
                    from = from.PlusHours(-12);
            }
            (start, end) = (from, to);
            next++;
            return true;
        }

        private static LocalTime? Clock(string hours, string minutes, string half)
        {
            var h = int.Parse(hours);
            var m = minutes.Length == 0 ? 0 : int.Parse(minutes);
            if (half.Length > 0)
            {
                if (h is < 1 or > 12)
                    return null;
                h = h % 12 + (half == "pm" ? 12 : 0);
            }
            return h == 24 && m == 0 ? LocalTime.Midnight : h < 24 && m < 60 ? new LocalTime(h, m) : null;
        }

        private bool TryAllDay()
        {
            foreach (var phrase in words.AllDay)
            {
                if (phrase.Length <= line.Length - next && phrase.Select((word, i) => line[next + i].Text == word).All(same => same))
                {
                    next += phrase.Length;
                    return allDay = true;
                }
            }
            return false;
        }

        private bool TryRepeat()
        {
            var from = next;
            if (Take(words.Daily))
                repeat = (Frequency.Daily, 1, WeekdaySet.Empty);
            else if (Take(words.Weekly))
                repeat = (Frequency.Weekly, 1, TakeWeekdays());
            else if (Take(words.Every))
                repeat = AfterEvery();
            if (repeat is null)
                next = from;
            return repeat is not null;
        }

        private (Frequency, int, WeekdaySet)? AfterEvery()
        {
            Take(words.On);
            var interval = 1;
            if (next < line.Length && int.TryParse(Peek(), out var number) && number is > 0 and <= RecurrenceRule.MaxInterval)
            {
                interval = number;
                next++;
            }
            else if (Take(words.Other))
            {
                interval = 2;
            }
            if (Take(words.Day))
                return (Frequency.Daily, interval, WeekdaySet.Empty);
            if (Take(words.Week))
                return (Frequency.Weekly, interval, TakeWeekdays());
            var days = TakeWeekdays();
            return days.IsEmpty ? null : (Frequency.Weekly, interval, days);
        }

        private WeekdaySet TakeWeekdays()
        {
            var days = WeekdaySet.Empty;
            var after = next;
            while (next < line.Length)
            {
                if (days.IsEmpty ? Take(words.On) : Take(words.And))
                    continue;
                var names = Peek().Split([',', '/'], StringSplitOptions.RemoveEmptyEntries);
                var read = names.Select(words.Weekday).ToArray();
                if (read.Length == 0 || read.Contains(IsoDayOfWeek.None))
                    break;
                foreach (var day in read)
                    days = days.With(day);
                after = ++next;
            }
            next = after;
            return days;
        }

        private bool TryEnd()
        {
            var from = next;
            if (Take(words.Until) && TakeDate() is { } date)
            {
                until = new RuleEnd(date);
                return true;
            }
            next = from;
            if (int.TryParse(Peek(), out var number) && number is > 0 and <= RecurrenceRule.MaxCount)
            {
                next++;
                if (Take(words.Times))
                {
                    count = number;
                    return true;
                }
            }
            next = from;
            return false;
        }

        private LocalDate? TakeDate()
        {
            if (next >= line.Length)
                return null;
            if (LocalDatePattern.Iso.Parse(Peek()) is { Success: true } iso)
            {
                next++;
                return iso.Value;
            }
            if (next + 1 >= line.Length)
                return null;
            var (first, second) = (Peek().TrimEnd(',', '.'), line[next + 1].Text.TrimEnd(',', '.'));
            if (first == "1er")
                first = "1";
            var (day, month) = (Number(first), words.Month(second));
            if (month == 0)
                (day, month) = (Number(second), words.Month(first));
            if (month == 0 || day is < 1 or > 31)
                return null;
            next += 2;
            if (next < line.Length && Peek().Length == 4 && int.TryParse(Peek(), out var year) && year is >= 1900 and < 2200)
                next++;
            else
                year = month < context.Day.Month || (month == context.Day.Month && day < context.Day.Day) ? context.Day.Year + 1 : context.Day.Year;
            return new LocalDate(year, month, Math.Min(day, CalendarSystem.Iso.GetDaysInMonth(year, month)));
        }

        private static int Number(string word) => int.TryParse(word, out var number) ? number : 0;

        private string Peek() => line[next].Text;

        private bool Take(string[] choices)
        {
            if (next >= line.Length || !choices.Contains(Peek()))
                return false;
            next++;
            return true;
        }

        private void Add(LinePartKind kind, int from)
        {
            var part = new LinePart(kind, line[from].Start, line[next - 1].End - line[from].Start);
            if (parts.Count > 0 && parts[^1].Kind == kind && kind == LinePartKind.Title)
                parts[^1] = new LinePart(kind, parts[^1].Start, part.Start + part.Length - parts[^1].Start);
            else
                parts.Add(part);
        }

        private static string Plain(string word)
        {
            var plain = new StringBuilder(word.Length);
            foreach (var c in word.ToLowerInvariant())
            {
                plain.Append(c switch
                {
                    'à' or 'â' => 'a',
                    'ç' => 'c',
                    'é' or 'è' or 'ê' or 'ë' => 'e',
                    'î' or 'ï' => 'i',
                    'ô' => 'o',
                    'ù' or 'û' => 'u',
                    _ => c,
                });
            }
            return plain.ToString();
        }
    }
}
