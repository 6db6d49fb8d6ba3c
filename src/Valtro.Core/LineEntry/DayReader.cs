using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>What a typed day is read by.</summary>
/// <param name="Near">The day it stands in for: without a year the nearest date is meant, without a date the weekday on or after it.</param>
/// <param name="Today">Today where it is typed.</param>
public sealed record DayContext(LocalDate Near, LocalDate Today)
{
    /// <summary>Whether 5/12 is the twelfth of May.</summary>
    public bool MonthFirst { get; init; }

    /// <summary>The first day of a teaching week by its number; null where weeks are not counted so.</summary>
    public Func<int, LocalDate?> WeekOf { get; init; } = _ => null;
}

/// <summary>Some days with what they are called.</summary>
/// <param name="Name">Empty where nothing but days was typed.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day, which belongs to it.</param>
public sealed record NamedDays(string Name, LocalDate First, LocalDate Last);

/// <summary>
/// Reads days, spans of days and times of day as people type them, in English and French whatever the interface speaks. What
/// cannot be told is not guessed.
/// </summary>
public static partial class DayReader
{
    /// <summary>The longest text that is looked at.</summary>
    public const int MaxLength = 200;

    private static readonly LineWords[] Languages = [LineWords.English, LineWords.French];

    [GeneratedRegex(@"^(?<day>\d{1,2})(?:er|st|nd|rd|th)?(?<between>[\s./-]+)(?:of\s+)?(?<month>\p{L}+|\d{1,2})\.?(?:[\s./,-]+(?<year>\d{4}|\d{2}))?$")]
    private static partial Regex DayMonth { get; }

    [GeneratedRegex(@"^(?<month>\p{L}+)\.?\s+(?<day>\d{1,2})(?:st|nd|rd|th)?(?:,?\s+(?<year>\d{4}))?$")]
    private static partial Regex MonthDay { get; }

    [GeneratedRegex(@"^(?:week|semaine|w|s)\s*(\d{1,2})$")]
    private static partial Regex Week { get; }

    [GeneratedRegex(@"^(?<weekday>\p{L}+)\.?,?\s+(?<rest>(?:\d|\p{L}+\.?\s+\d).*)$")]
    private static partial Regex WeekdayBefore { get; }

    [GeneratedRegex(@"\s+(?:–|—|-|to|until|till|through|au|à|jusqu['’]au)\s+|(?<=\d)\s*[–—-]\s*(?=\d{1,2}\s+\p{L})", RegexOptions.IgnoreCase)]
    private static partial Regex Between { get; }

    [GeneratedRegex(@"(?:\s+(?:on|from|du|le|de)|\s*:)$", RegexOptions.IgnoreCase)]
    private static partial Regex LeadingIn { get; }

    [GeneratedRegex(@"^(?<hour>\d{1,2})(?:\s*[:.h]\s*(?<minute>\d{2})?|(?<minute>\d{2}))?\s*(?:(?<half>[ap])(?:\.?m\.?)?)?$")]
    private static partial Regex Clock { get; }

    /// <summary>
    /// The day that is meant by "12 May", "may 12", "5/12", "fri", "next week", "week 6" or "2026-05-12"; null when it cannot be
    /// told, as when a weekday is named that the date does not fall on.
    /// </summary>
    public static LocalDate? Read(string text, DayContext context)
    {
        if (text.Length > MaxLength)
            return null;
        var plain = Plain(text);
        if (NodaTime.Text.LocalDatePattern.Iso.Parse(plain) is { Success: true, Value: var iso })
            return iso;
        var monday = Monday(context.Today);
        foreach (var words in Languages)
        {
            if (words.Today.Contains(plain) || plain is "now" or "maintenant")
                return context.Today;
            if (words.Tomorrow.Contains(plain))
                return context.Today.PlusDays(1);
            if (words.NextWeek.Any(w => string.Join(' ', w) == plain))
                return monday.PlusWeeks(1);
        }
        if (plain is "yesterday" or "hier")
            return context.Today.PlusDays(-1);
        if (plain is "this week" or "cette semaine")
            return monday;
        if (Week.Match(plain) is { Success: true } week)
            return context.WeekOf(Number(week.Groups[1].Value));
        if (OnWeekday(plain, context) is { } named)
            return named;
        if (WeekdayBefore.Match(plain) is { Success: true } both && Weekday(both.Groups["weekday"].Value) is not IsoDayOfWeek.None and var weekday)
            return Date(both.Groups["rest"].Value, context, weekday) ?? Date(plain, context, null);
        return Date(plain, context, null);
    }

    /// <summary>
    /// A name with its days: "Storm closure 27 Nov", "Ice break 15–17 feb", "Winter term 4 jan to 12 mar"; null when no days can
    /// be told.
    /// </summary>
    public static NamedDays? ReadSpan(string text, DayContext context)
    {
        if (text.Length > MaxLength)
            return null;
        var words = text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        // The longest text that is days: what stands before it is the name.
        for (var i = 0; i < words.Length; i++)
        {
            var parts = Between.Split(string.Join(' ', words[i..]));
            if (parts.Length > 2 || Read(parts[^1], context) is not { } last)
                continue;
            // "15–17 feb": the first day has the month of the second.
            var first = parts.Length == 2 && parts[0].Trim() is { Length: <= 2 } number && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var day)
                ? Make(last.Year, last.Month, day)
                : Read(parts[0], context);
            if (first is { } from)
                return new NamedDays(LeadingIn.Replace(string.Join(' ', words[..i]), ""), from, last);
        }
        return null;
    }

    /// <summary>A time of day: "9", "9:30", "930", "9h30", "9.30 pm"; null when it is none.</summary>
    public static LocalTime? ReadClock(string text)
    {
        if (text.Length > MaxLength || Clock.Match(Plain(text)) is not { Success: true } match)
            return null;
        var hour = Number(match.Groups["hour"].Value);
        var minute = match.Groups["minute"] is { Success: true } said ? Number(said.Value) : 0;
        if (match.Groups["half"] is { Success: true } half)
        {
            if (hour is < 1 or > 12)
                return null;
            hour = hour % 12 + (half.Value == "p" ? 12 : 0);
        }
        return hour < 24 && minute < 60 ? new LocalTime(hour, minute) : null;
    }

    private static LocalDate? OnWeekday(string plain, DayContext context)
    {
        var (isNext, word) = plain switch
        {
            ['n', 'e', 'x', 't', ' ', .. var rest] => (true, rest),
            _ when plain.EndsWith(" prochain", StringComparison.Ordinal) => (true, plain[..^" prochain".Length]),
            _ => (false, plain),
        };
        if (Weekday(word.TrimEnd('.')) is not IsoDayOfWeek.None and var weekday)
            return isNext ? Monday(context.Near).PlusWeeks(1).PlusDays((int)weekday - 1) : context.Near.PlusDays(-1).Next(weekday);
        return null;
    }

    private static LocalDate? Date(string plain, DayContext context, IsoDayOfWeek? weekday)
    {
        var match = DayMonth.Match(plain);
        if (!match.Success)
            match = MonthDay.Match(plain);
        if (!match.Success)
            return null;
        var (day, month) = (Number(match.Groups["day"].Value), 0);
        if (int.TryParse(match.Groups["month"].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var second))
        {
            // With dots the day stands first everywhere; with strokes it is as one writes it, unless only one way is a date.
            var isMonthFirst = context.MonthFirst && !match.Groups["between"].Value.Contains('.') ? day <= 12 : second > 12;
            (day, month) = isMonthFirst ? (second, day) : (day, second);
        }
        else
        {
            month = Languages.Max(words => words.Month(match.Groups["month"].Value));
        }
        bool Fits(LocalDate? made) => made is { } there && (weekday is null || there.DayOfWeek == weekday);
        if (match.Groups["year"] is { Success: true } typed)
        {
            var year = Number(typed.Value);
            var made = Make(year < 100 ? 2000 + year : year, month, day);
            return Fits(made) ? made : null;
        }
        return Enumerable.Range(context.Near.Year - 1, 3)
            .Select(year => Make(year, month, day))
            .Where(Fits)
            .OrderBy(made => Math.Abs(Period.DaysBetween(context.Near, made!.Value)))
            .FirstOrDefault();
    }

    private static LocalDate? Make(int year, int month, int day) =>
        year is >= 1 and <= 9999 && month is >= 1 and <= 12 && day >= 1 && day <= CalendarSystem.Iso.GetDaysInMonth(year, month) ? new LocalDate(year, month, day) : null;

    private static IsoDayOfWeek Weekday(string word) =>
        Languages.Select(words => words.Weekday(word)).FirstOrDefault(found => found != IsoDayOfWeek.None);

    private static LocalDate Monday(LocalDate day) => day.PlusDays(1).Previous(IsoDayOfWeek.Monday);

    private static int Number(string digits) => int.Parse(digits, CultureInfo.InvariantCulture);

    private static string Plain(string text) => string.Join(' ', LineWords.Plain(text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
}
