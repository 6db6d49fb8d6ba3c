using System.Collections.Immutable;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
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

    /// <summary>The day or days.</summary>
    Date,

    /// <summary>How long it is.</summary>
    Length,

    /// <summary>A tag.</summary>
    Tag,

    /// <summary>The category.</summary>
    Category,

    /// <summary>Another calendar it stands in.</summary>
    Calendar,
}

/// <summary>Something of the school's that a line can name.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Name">What people call it.</param>
public readonly record struct LineName(Guid Id, string Name);

/// <summary>A part of a line, by its position in the text.</summary>
/// <param name="Kind">What it was taken for.</param>
/// <param name="Start">Index of its first character.</param>
/// <param name="Length">How many characters.</param>
public readonly record struct LinePart(LinePartKind Kind, int Start, int Length);

/// <summary>Where and by whom a line is typed.</summary>
/// <param name="Day">The day it is typed on.</param>
/// <param name="Zone">The calendar's zone.</param>
/// <param name="Language">The person's language, such as "en".</param>
/// <param name="CycleLength">Days in the school's rotation; 0 when it has none, and "day 3" is no repeat then.</param>
public sealed record LineContext(LocalDate Day, DateTimeZone Zone, string Language, int CycleLength = 0)
{
    /// <summary>Today, for "tomorrow" and "next week"; the day it is typed on when nobody says.</summary>
    public LocalDate Today { get; init; } = Day;

    /// <summary>Whether "5/12" is the fifth month.</summary>
    public bool MonthFirst { get; init; }

    /// <summary>The categories a line can name.</summary>
    public IReadOnlyList<LineName> Categories { get; init; } = [];

    /// <summary>The calendars a line can name.</summary>
    public IReadOnlyList<LineName> Calendars { get; init; } = [];
}

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

    [GeneratedRegex(@"^(?<n>\d{1,4})(?:(?<unit>h|hrs?|hours?|heures?|m|min|minutes?|d|days?|j|jours?)(?<m>[0-5]\d)?)?$")]
    private static partial Regex LengthForm();

    [GeneratedRegex(@"^(?<a>\d{1,2})[-–](?<b>\d{1,2})$")]
    private static partial Regex DayPairForm();

    [GeneratedRegex(@"^(?<a>\d{1,2})/(?<b>\d{1,2})(?:/(?<y>(?:19|20|21)\d\d))?$")]
    private static partial Regex SlashForm();

    [GeneratedRegex(@"^(?<n>\d{1,2})(?:st|nd|rd|th|er|e|eme)$")]
    private static partial Regex OrdinalForm();

    [GeneratedRegex(@"\S+")]
    private static partial Regex WordForm();

    private readonly record struct Word(string Text, int Start, int Length)
    {
        public int End => Start + Length;
    }

    /// <summary>What was understood so far; a value, so that looking ahead leaves no trace.</summary>
    private struct Understood
    {
        public LocalTime? Start;
        public LocalTime? End;
        public Period? Length;
        public bool AllDay;
        public LocalDate? Day;
        public LocalDate? LastDay;
        public string? Place;
        public (Frequency Frequency, int Interval, WeekdaySet Days, ByParts By)? Repeat;
        public SchoolDayRule? Follows;
        public int? Count;
        public RuleEnd? Until;
        public Guid? Category;
        public ImmutableList<string> Tags;
        public ImmutableList<Guid> Calendars;
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
        private Understood it;

        public Reader(string text, LineContext context)
        {
            this.text = text;
            this.context = context;
            words = LineWords.For(context.Language);
            (it.Tags, it.Calendars) = ([], []);
            line = [.. WordForm().Matches(text).Select(m => new Word(LineWords.Plain(m.Value), m.Index, m.Length))];
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
            var day = it.Day ?? context.Day;
            var lastDay = it.LastDay ?? day;
            EventTiming timing;
            if (it.Start is { } time && !it.AllDay)
            {
                var from = day.At(time);
                var to = it.End is { } end ? lastDay.At(end) : from + (it.Length ?? DefaultLength);
                timing = EventTiming.Zoned(from, to < from ? to.PlusDays(1) : to, context.Zone);
            }
            else
            {
                timing = EventTiming.AllDay(day, it.Length is { Days: > 0 } days ? day.PlusDays(days.Days - 1) : lastDay);
            }
            var rule = it.Repeat is { } r ? new RecurrenceRule(r.Frequency, r.Interval, r.Days, it.Count, it.Until, by: r.By) : null;
            var facts = new EventFacts { Tags = [.. it.Tags], CategoryId = it.Category, AlsoIn = [.. it.Calendars] };
            var draft = new EventDraft(string.Join(' ', title), it.Place, "", timing, rule, it.Follows, facts);
            return new LineReading(draft with { Timing = Event.InStep(draft).Timing }, parts);
        }

        private LinePartKind? TryPart()
        {
            if (it.Place is null && Peek().StartsWith('@') && Peek().Length > 1)
            {
                var from = next++;
                while (next < line.Length && !StartsPart())
                    next++;
                it.Place = text[(line[from].Start + 1)..line[next - 1].End];
                return LinePartKind.Place;
            }
            return TryPlainPart() ?? (TryRepeated() ? LinePartKind.Repeat : null);

            bool TryRepeated() => it.Repeat is null && TryRepeat();
        }

        private LinePartKind? TryPlainPart()
        {
            if (TryTag())
                return LinePartKind.Tag;
            if (it.Category is null && TakeNamed('!', context.Categories) is { } category)
            {
                it.Category = category;
                return LinePartKind.Category;
            }
            if (TakeNamed('+', context.Calendars) is { } calendar)
            {
                it.Calendars = it.Calendars.Add(calendar);
                return LinePartKind.Calendar;
            }
            if (!it.AllDay && it.Start is null && (TryTime() || TryAllDay()))
                return LinePartKind.Time;
            if (it.Repeat is not null && it.Count is null && it.Until is null && TryEnd())
                return LinePartKind.End;
            if (it.Length is null && TryLength())
                return LinePartKind.Length;
            if (it.Day is null && TryDate())
                return LinePartKind.Date;
            return null;
        }

        /// <summary>Whether a part other than the title begins at the next word; reads nothing.</summary>
        private bool StartsPart()
        {
            var (oldNext, old) = (next, it);
            var starts = Peek()[0] == '@' || TryPlainPart() is not null || (it.Repeat is null && TryRepeat());
            (next, it) = (oldNext, old);
            return starts;
        }

        private bool TryTag()
        {
            var word = text.Substring(line[next].Start, line[next].Length);
            if (word.Length < 2 || word[0] != '#' || !char.IsLetter(word[1]) || it.Tags.Count >= EventFacts.MaxTags)
                return false;
            it.Tags = it.Tags.Add(word[1..].TrimEnd(',', '.', ';'));
            next++;
            return true;
        }

        /// <summary>"!test", "+Rigging 2": the longest name that stands there whole, else the only one that begins so.</summary>
        private Guid? TakeNamed(char sign, IReadOnlyList<LineName> names)
        {
            if (Peek()[0] != sign || Peek().Length < 2)
                return null;
            for (var count = Math.Min(8, line.Length - next); count > 0; count--)
            {
                var said = string.Join(' ', line.Skip(next).Take(count).Select(w => w.Text))[1..];
                foreach (var (id, name) in names)
                {
                    if (LineWords.Plain(name) == said)
                    {
                        next += count;
                        return id;
                    }
                }
            }
            var begins = names.Where(n => LineWords.Plain(n.Name).StartsWith(Peek()[1..], StringComparison.Ordinal)).ToList();
            if (begins.Count != 1 || Peek().Length < 3)
                return null;
            next++;
            return begins[0].Id;
        }

        /// <summary>"for 2h", "for 90 min", "for 3 days".</summary>
        private bool TryLength()
        {
            var from = next;
            if (Take(words.During) && next < line.Length)
            {
                var match = LengthForm().Match(Peek());
                var unit = match.Groups["unit"].Value;
                if (match.Success && unit.Length == 0 && next + 1 < line.Length)
                    unit = line[++next].Text;
                var number = match.Success ? int.Parse(match.Groups["n"].Value) : 0;
                var length = words.Hours.Contains(unit) && number <= 24 ? Period.FromMinutes(number * 60 + (match.Groups["m"].Success ? int.Parse(match.Groups["m"].Value) : 0))
                    : words.Minutes.Contains(unit) && number <= 1440 ? Period.FromMinutes(number)
                    : words.Day.Contains(unit) && number <= 60 ? Period.FromDays(number)
                    : null;
                if (number > 0 && length is not null && (length.Days > 0 ? it.Start is null : !it.AllDay))
                {
                    it.Length = length;
                    next++;
                    return true;
                }
            }
            next = from;
            return false;
        }

        /// <summary>"12 may", "12–14 may", "5/12", "tomorrow", "next week wed", "fri".</summary>
        private bool TryDate()
        {
            var from = next;
            Take(words.On);
            var isSaid = next > from;
            if (next < line.Length && TakeDays() is var (first, last))
            {
                (it.Day, it.LastDay) = (first, last);
                return true;
            }
            if (next < line.Length && words.Weekday(Peek()) is not IsoDayOfWeek.None and var day)
            {
                next++;
                // "Friday concert" is a title; "concert friday" is not.
                if (isSaid || next >= line.Length || StartsPart() || Number(Peek()) is > 0 and <= 24)
                {
                    it.Day = context.Day.PlusDays(((int)day - (int)context.Day.DayOfWeek + 7) % 7);
                    return true;
                }
            }
            next = from;
            return false;
        }

        private (LocalDate First, LocalDate? Last)? TakeDays()
        {
            if (Take(words.Today))
                return (context.Today, null);
            if (Take(words.Tomorrow))
                return (context.Today.PlusDays(1), null);
            if (TakePhrase(words.NextWeek))
            {
                var monday = context.Today.PlusDays(8 - (int)context.Today.DayOfWeek);
                var weekday = next < line.Length ? words.Weekday(Peek()) : IsoDayOfWeek.None;
                if (weekday == IsoDayOfWeek.None)
                    return (monday, null);
                next++;
                return (monday.PlusDays((int)weekday - 1), null);
            }
            if (Take(words.Next))
            {
                if (next < line.Length && words.Weekday(Peek()) is not IsoDayOfWeek.None and var weekday)
                {
                    next++;
                    return (context.Today.PlusDays(7 + (int)weekday - (int)context.Today.DayOfWeek), null);
                }
                return null;
            }
            // "12–14 may": the first has the month of the second.
            var pair = DayPairForm().Match(Peek());
            if (pair.Success && next + 1 < line.Length && words.Month(line[next + 1].Text.TrimEnd(',', '.')) > 0)
            {
                var (day, month) = (int.Parse(pair.Groups["a"].Value), words.Month(line[next + 1].Text.TrimEnd(',', '.')));
                if (day is >= 1 and <= 31 && Dated(day, month, 2) is { } first)
                {
                    var last = new LocalDate(first.Year, first.Month, Math.Min(int.Parse(pair.Groups["b"].Value), CalendarSystem.Iso.GetDaysInMonth(first.Year, first.Month)));
                    return last >= first ? (first, last) : null;
                }
                return null;
            }
            if (TakeDate() is not { } date)
                return null;
            var before = next;
            if (Take(words.To) && next < line.Length && TakeDate() is { } end && end >= date)
                return (date, end);
            next = before;
            return (date, null);
        }

        private bool TryTime()
        {
            var begin = next;
            var isSaid = Take(words.At) || (begin > 0 && parts.Count > 0 && parts[^1].Kind == LinePartKind.Date && parts[^1].Start + parts[^1].Length == line[begin - 1].End);
            if (next < line.Length && TryClock(isSaid))
                return true;
            next = begin;
            return false;
        }

        private bool TryClock(bool isSaid)
        {
            var match = TimeForm().Match(Peek());
            if (!match.Success || (DayPairForm().IsMatch(Peek()) && next + 1 < line.Length && words.Month(line[next + 1].Text.TrimEnd(',', '.')) > 0))
                return false;
            var half = next + 1 < line.Length && line[next + 1].Text.Replace(".", "", StringComparison.Ordinal) is "am" or "pm" ? line[next + 1].Text.Replace(".", "", StringComparison.Ordinal) : "";
            // A bare number is not a time, unless it is said to be one; a pair of them is.
            var clear = isSaid || half.Length > 0 || match.Groups["sep"].Success || match.Groups["ap"].Success || match.Groups["h2"].Success;
            var half2 = match.Groups["ap2"].Success ? match.Groups["ap2"].Value : match.Groups["h2"].Success ? half : "";
            var half1 = match.Groups["ap"].Success ? match.Groups["ap"].Value : half2.Length > 0 ? half2 : half;
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
            (it.Start, it.End) = (from, to);
            next += half.Length > 0 && !match.Groups["ap"].Success && !match.Groups["ap2"].Success ? 2 : 1;
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

        private bool TryAllDay() => TakePhrase(words.AllDay) && (it.AllDay = true);

        private bool TryRepeat()
        {
            var from = next;
            if (Take(words.Daily))
                it.Repeat = (Frequency.Daily, 1, WeekdaySet.Empty, ByParts.None);
            else if (Take(words.Weekly))
                it.Repeat = (Frequency.Weekly, 1, TakeWeekdays(), ByParts.None);
            else if (Take(words.Monthly))
                it.Repeat = (Frequency.Monthly, 1, WeekdaySet.Empty, TakeInMonth());
            else if (Take(words.Yearly))
                it.Repeat = (Frequency.Yearly, 1, WeekdaySet.Empty, ByParts.None);
            else if (TryCycleDays())
                it.Repeat = (Frequency.Daily, 1, WeekdaySet.Empty, ByParts.None);
            else if (Take(words.Every))
                it.Repeat = AfterEvery();
            if (it.Repeat is null)
                next = from;
            return it.Repeat is not null;
        }

        /// <summary>"day 3", "every day 2 and 5": places in the school's rotation.</summary>
        private bool TryCycleDays()
        {
            var from = next;
            Take(words.Every);
            var days = new List<int>();
            if (Take(words.Day))
            {
                var after = next;
                while (next < line.Length && TakeCycleNumbers(days))
                {
                    after = next;
                    if (!Take(words.And))
                        break;
                    Take(words.Day);
                }
                next = after;
            }
            if (days.Count > 0)
                it.Follows = SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, days, []);
            else
                next = from;
            return days.Count > 0;
        }

        private bool TakeCycleNumbers(List<int> days)
        {
            var numbers = Peek().Split(',', StringSplitOptions.RemoveEmptyEntries).Select(Number).ToList();
            if (numbers.Count == 0 || numbers.Any(n => n < 1 || n > context.CycleLength))
                return false;
            days.AddRange(numbers);
            next++;
            return true;
        }

        private bool TakePhrase(string[][] phrases)
        {
            foreach (var phrase in phrases)
            {
                if (phrase.Length <= line.Length - next && phrase.Select((word, i) => line[next + i].Text == word).All(same => same))
                {
                    next += phrase.Length;
                    return true;
                }
            }
            return false;
        }

        private (Frequency, int, WeekdaySet, ByParts)? AfterEvery()
        {
            if (TakePhrase(words.SchoolDay))
            {
                it.Follows = SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, [], []);
                return (Frequency.Daily, 1, WeekdaySet.Empty, ByParts.None);
            }
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
                return (Frequency.Daily, interval, WeekdaySet.Empty, ByParts.None);
            if (Take(words.Week))
                return (Frequency.Weekly, interval, TakeWeekdays(), ByParts.None);
            if (Take(words.MonthUnit))
                return (Frequency.Monthly, interval, WeekdaySet.Empty, TakeInMonth());
            if (Take(words.Year))
                return (Frequency.Yearly, interval, WeekdaySet.Empty, ByParts.None);
            // "every 2nd fri" is one of a month; "every second week" was read above.
            var before = next;
            if (interval == 1 && TakeOrdinal() is { } nth && next < line.Length && words.Weekday(Peek()) is not IsoDayOfWeek.None and var weekday)
            {
                next++;
                TakePhrase(words.OfTheMonth);
                return (Frequency.Monthly, 1, WeekdaySet.Empty, new ByParts { NumberedDays = [new NumberedDay(nth, weekday)] });
            }
            next = before;
            var days = TakeWeekdays();
            return days.IsEmpty ? null : (Frequency.Weekly, interval, days, ByParts.None);
        }

        /// <summary>"on the 2nd fri", "on the 15th", "last fri"; nothing is the day of the start.</summary>
        private ByParts TakeInMonth()
        {
            var from = next;
            Take(words.On);
            Take(words.The);
            if (TakeOrdinal() is { } number)
            {
                if (next < line.Length && words.Weekday(Peek()) is not IsoDayOfWeek.None and var day && number is >= -1 and <= 5)
                {
                    next++;
                    TakePhrase(words.OfTheMonth);
                    return new ByParts { NumberedDays = [new NumberedDay(number, day)] };
                }
                if (number is -1 or (> 0 and <= 31))
                {
                    if (number == -1)
                        Take(words.Day);
                    return new ByParts { MonthDays = [number] };
                }
            }
            next = from;
            return ByParts.None;
        }

        /// <summary>"2nd", "second", "last" (-1).</summary>
        private int? TakeOrdinal()
        {
            if (next >= line.Length)
                return null;
            if (Take(words.Last))
                return -1;
            var named = Array.IndexOf(words.Ordinals, Peek());
            var match = OrdinalForm().Match(Peek());
            if (named < 0 && !match.Success)
                return null;
            next++;
            return named >= 0 ? named + 1 : int.Parse(match.Groups["n"].Value);
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
                it.Until = new RuleEnd(date);
                return true;
            }
            next = from;
            if (int.TryParse(Peek(), out var number) && number is > 0 and <= RecurrenceRule.MaxCount)
            {
                next++;
                if (Take(words.Times))
                {
                    it.Count = number;
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
            var slashed = SlashForm().Match(Peek());
            if (slashed.Success)
            {
                var (one, two) = (int.Parse(slashed.Groups["a"].Value), int.Parse(slashed.Groups["b"].Value));
                var (numberOfDay, numberOfMonth) = context.MonthFirst ? (two, one) : (one, two);
                if (numberOfMonth is < 1 or > 12 || numberOfDay < 1 || numberOfDay > CalendarSystem.Iso.GetDaysInMonth(2024, numberOfMonth))
                    return null;
                next++;
                var said = slashed.Groups["y"].Success ? int.Parse(slashed.Groups["y"].Value) : YearOf(numberOfDay, numberOfMonth);
                return new LocalDate(said, numberOfMonth, Math.Min(numberOfDay, CalendarSystem.Iso.GetDaysInMonth(said, numberOfMonth)));
            }
            if (next + 1 >= line.Length)
                return null;
            var (first, second) = (Peek().TrimEnd(',', '.'), line[next + 1].Text.TrimEnd(',', '.'));
            if (first == "1er")
                first = "1";
            var (day, month) = (Number(first), words.Month(second));
            if (month == 0)
                (day, month) = (Number(second), words.Month(first));
            return month == 0 || day is < 1 or > 31 ? null : Dated(day, month, 2);
        }

        /// <summary>A day of a month with the year that may follow some words on; else its next one.</summary>
        private LocalDate? Dated(int day, int month, int wordsTaken)
        {
            next += wordsTaken;
            if (next < line.Length && Peek().Length == 4 && int.TryParse(Peek(), out var year) && year is >= 1900 and < 2200)
                next++;
            else
                year = YearOf(day, month);
            return new LocalDate(year, month, Math.Min(day, CalendarSystem.Iso.GetDaysInMonth(year, month)));
        }

        private int YearOf(int day, int month) =>
            month < context.Day.Month || (month == context.Day.Month && day < context.Day.Day) ? context.Day.Year + 1 : context.Day.Year;

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
    }
}
