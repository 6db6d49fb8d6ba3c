using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>A day as it was written: a whole one, or what of it was said.</summary>
internal readonly record struct DaySaid(int End)
{
    /// <summary>The day itself, where nothing has to be found out.</summary>
    public LocalDate? Fixed { get; init; }

    public IsoDayOfWeek Weekday { get; init; }

    /// <summary>The day of the month, or 0.</summary>
    public int Day { get; init; }

    /// <summary>The month, or 0.</summary>
    public int Month { get; init; }

    /// <summary>The year, or 0.</summary>
    public int Year { get; init; }

    /// <summary>What else is meant by it as often: the Friday of this week by "next Friday".</summary>
    public LocalDate? Rival { get; init; }

    /// <summary>Whether it is an ordinal or follows an article, and so a day without its month: the 11th.</summary>
    public bool IsOrdinal { get; init; }

    /// <summary>Whether it was written with strokes, so that day and month may stand the other way round.</summary>
    public bool HasStrokes { get; init; }

    /// <summary>Whether only one order of its two numbers makes a date, and the month stands first in that.</summary>
    public bool? IsMonthFirst { get; init; }

    /// <summary>Whether it may as well be a time: 5.12.</summary>
    public bool MayBeTime { get; init; }

    /// <summary>Whether nothing but a number was written.</summary>
    public bool IsBare => Day > 0 && Month == 0 && Weekday == IsoDayOfWeek.None && !IsOrdinal;

    /// <summary>Whether the month has to come from a day beside it.</summary>
    public bool NeedsMonth => Day > 0 && Month == 0;

    /// <summary>Whether a weekday is all that was written.</summary>
    public bool IsWeekday => Weekday != IsoDayOfWeek.None && Day == 0 && Fixed is null;
}

/// <summary>A day as it is understood.</summary>
/// <param name="Date">The day; null when there is none such.</param>
/// <param name="Disagrees">The day the weekday would have, when it contradicts the date.</param>
/// <param name="Rival">Another day that may be meant.</param>
/// <param name="Swapped">The day it is with day and month the other way round, when that is much nearer.</param>
internal readonly record struct DayRead(LocalDate? Date, LocalDate? Disagrees = null, LocalDate? Rival = null, LocalDate? Swapped = null);

internal sealed partial class LineGrammar
{
    // How long ago a day without its year may be and still be thought of.
    private const int RecentDays = 31;

    /// <summary>A day at a position: "fri", "Fri 4 Dec", "December 4th, 2026", "5/12", "in 2 weeks", "the 11th".</summary>
    private DaySaid? Day(int at)
    {
        if (at >= tokens.Length)
            return null;
        if (Relative(at) is { } relative)
            return relative;
        var i = at;
        var isNext = After(words.Next, i) is { } next && WeekdayAt(next) is not null;
        if (isNext)
            i = After(words.Next, i)!.Value;
        var isThis = !isNext && After(words.This, i) is { } these && WeekdayAt(these) is not null;
        if (isThis)
            i = After(words.This, i)!.Value;
        if (WeekdayAt(i) is not var (weekday, end))
            return isNext || isThis ? null : Core(i) is { } core ? WithWeekdayAfter(core) : null;
        if (After(words.NextWeek, end) is { } inNextWeek)
            return new DaySaid(inNextWeek) { Fixed = Monday(Today).PlusWeeks(1).PlusDays((int)weekday - 1), Weekday = weekday };
        if (After(words.NextAfter, end) is { } after)
            (isNext, end) = (true, after);
        if (WeekNumbered(end) is null && After(words.WeekAfter, end) is { } inEight && EndsAt(inEight))
            return new DaySaid(inEight) { Fixed = Coming(Today, weekday).PlusWeeks(1) };
        if (isNext)
        {
            var (meant, coming) = (Monday(NextFrom).PlusWeeks(1).PlusDays((int)weekday - 1), Coming(Today.PlusDays(1), weekday));
            return new DaySaid(end) { Fixed = meant, Rival = meant != coming ? coming : null, Weekday = weekday };
        }
        if (isThis)
            return new DaySaid(end) { Fixed = Coming(Today, weekday), Weekday = weekday };
        // "Friday, 4 December", "Fri the 4th", "Wed week 6".
        var p = end < tokens.Length && tokens[end].Text is "," or "." ? end + 1 : end;
        if (WeekNumbered(p) is { Fixed: { } monday } week)
            return week with { Fixed = monday.PlusDays((int)weekday - 1) };
        if (Core(After(words.On, p) ?? p) is { } dated)
            return dated with { Weekday = weekday };
        return new DaySaid(end) { Weekday = weekday };
    }

    /// <summary>A weekday with the dot of its short form.</summary>
    private (IsoDayOfWeek Day, int End)? WeekdayAt(int at)
    {
        if (at >= tokens.Length || tokens[at].Kind != TokenKind.Word)
            return null;
        var day = words.Weekday(tokens[at].Text);
        if (day == IsoDayOfWeek.None)
            return Code(at) is var code && code != IsoDayOfWeek.None && ((IsGlued(at + 1) && tokens[at + 1].Is("/") && Code(at + 2) != IsoDayOfWeek.None) || (at > 1 && IsGlued(at) && tokens[at - 1].Is("/") && Code(at - 2) != IsoDayOfWeek.None)) ? (code, at + 1) : null;
        return (day, IsGlued(at + 1) && tokens[at + 1].Is(".") && !words.Weekdays.Contains(tokens[at].Text) ? at + 2 : at + 1);
    }

    private IsoDayOfWeek Code(int at) => at < tokens.Length ? (IsoDayOfWeek)(Array.FindIndex(words.WeekdayCodes, codes => codes.Has(tokens[at].Text)) + 1) : IsoDayOfWeek.None;

    private (int Month, int End)? MonthAt(int at)
    {
        if (at >= tokens.Length || tokens[at].Kind != TokenKind.Word || words.Month(tokens[at].Text) is not (> 0 and var month))
            return null;
        return (month, IsGlued(at + 1) && tokens[at + 1].Is(".") && !words.Months.Contains(tokens[at].Text) ? at + 2 : at + 1);
    }

    private DaySaid? Relative(int at)
    {
        if (After(words.DayAfterTomorrow, at) is { } later)
            return new DaySaid(later) { Fixed = Today.PlusDays(2) };
        if (After(words.Tomorrow, at) is { } tomorrow)
            return new DaySaid(tomorrow) { Fixed = Today.PlusDays(1) };
        if ((After(words.Today, at) ?? After(words.Tonight, at)) is { } today)
            return new DaySaid(today) { Fixed = Today };
        if (After(words.Yesterday, at) is { } yesterday)
            return new DaySaid(yesterday) { Fixed = Today.PlusDays(-1) };
        if (After(words.NextWeek, at) is { } nextWeek)
            return InWeek(Monday(Today).PlusWeeks(1), nextWeek);
        if (After(words.ThisWeek, at) is { } thisWeek)
            return InWeek(Monday(Today), thisWeek);
        if (After(words.AWeekOn, at) is { } on)
            return WeekdayAt(on) is var (day, end) ? new DaySaid(end) { Fixed = Coming(Today, day).PlusWeeks(1) } : Relative(on) is { Fixed: { } from } counted ? counted with { Fixed = from.PlusWeeks(1) } : null;
        // "two weeks from Friday"
        if (CountAt(at) is var (weeks, afterCount) && weeks <= 52 && After(words.WeekUnit, afterCount) is { } unit && (After(words.From, unit) ?? After(words.On, unit)) is { } then && WeekdayAt(then) is var (thatDay, thatEnd))
            return new DaySaid(thatEnd) { Fixed = Coming(Today, thatDay).PlusWeeks(weeks) };
        if (After(words.InSoMany, at) is { } many && InSome(many) is { } some)
            return some;
        return WeekNumbered(at) ?? InTerm(at) ?? NthOfMonth(at);

        DaySaid InWeek(LocalDate monday, int end) => WeekdayAt(end) is var (day, after)
            ? new DaySaid(after) { Fixed = monday.PlusDays((int)day - 1), Weekday = day }
            : new DaySaid(end) { Fixed = monday };
    }

    /// <summary>"2 weeks", "a fortnight", "10 days".</summary>
    private DaySaid? InSome(int at)
    {
        if (CountAt(at) is not var (number, i) || number > 400)
            return null;
        if (After(words.Days, i) is { } days)
            return new DaySaid(days) { Fixed = Today.PlusDays(number) };
        if (After(words.WeekUnit, i) is { } weeks)
            return new DaySaid(weeks) { Fixed = Today.PlusWeeks(number) };
        if (After(words.Fortnight, i) is { } fortnights)
            return new DaySaid(fortnights) { Fixed = Today.PlusWeeks(2 * number) };
        return After(words.MonthUnit, i) is { } months ? new DaySaid(months) { Fixed = Today.PlusMonths(number) } : null;
    }

    private (int Number, int End)? CountAt(int at)
    {
        if (at >= tokens.Length)
            return null;
        if (tokens[at].Number is > 0 and <= 9999 and var digits)
            return (digits, at + 1);
        if (words.NumberWord(tokens[at].Text) is > 0 and var said)
            return (said, at + 1);
        return After(words.A, at) is { } one ? (1, one) : null;
    }

    /// <summary>"week 6" by the school's count.</summary>
    private DaySaid? WeekNumbered(int at) =>
        After(words.WeekNumber, at) is { } i && i < tokens.Length && tokens[i].Number is > 0 and <= 60 and var number && EndsAt(i + 1) && context.WeekOf(number) is { } monday
            ? WeekdayAt(i + 1) is var (day, end) ? new DaySaid(end) { Fixed = monday.PlusDays((int)day - 1), Weekday = day } : new DaySaid(i + 1) { Fixed = monday }
            : null;

    /// <summary>"end of term", "first day of term".</summary>
    private DaySaid? InTerm(int at)
    {
        var isStart = After(words.TermStart, at) is not null;
        if ((After(words.TermStart, at) ?? After(words.TermEnd, at)) is not { } i || After(words.OfTerm, i) is not { } end)
            return null;
        var ends = context.Terms.Select(t => isStart ? t.First : t.Last).Where(d => d >= context.Day).ToList();
        return ends.Count > 0 ? new DaySaid(end) { Fixed = ends.Min() } : null;
    }

    /// <summary>"first Monday of October", "last Friday in May 2027".</summary>
    private DaySaid? NthOfMonth(int at)
    {
        if (OrdinalAt(at) is not var (number, i) || number > 5 || WeekdayAt(i) is not var (day, j) || After(words.Of, j) is not { } k || MonthAt(k) is not var (month, end))
            return null;
        var year = YearAt(end);
        LocalDate? In(int y)
        {
            var first = new LocalDate(y, month, 1);
            var found = number < 0 ? new LocalDate(y, month, CalendarSystem.Iso.GetDaysInMonth(y, month)).PlusDays(1).Previous(day) : Coming(first, day).PlusWeeks(number - 1);
            return found.Month == month ? found : null;
        }
        var date = year is var (said, after) ? In(said) : In(context.Day.Year) is { } here && here >= context.Day ? here : In(context.Day.Year + 1);
        return date is null ? null : new DaySaid(year?.End ?? end) { Fixed = date };
    }

    /// <summary>"2nd", "second", "last" (−1), "1er".</summary>
    private (int Number, int End)? OrdinalAt(int at)
    {
        if (at >= tokens.Length)
            return null;
        if (After(words.Last, at) is { } last)
            return (-1, last);
        if (Array.IndexOf(words.Ordinals, tokens[at].Text) is >= 0 and var index)
            return (index + 1, at + 1);
        return tokens[at].Number is > 0 and <= 31 and var number && IsGlued(at + 1) && words.OrdinalEndings.At(tokens, at + 1) is >= 0 and var end ? (number, end) : null;
    }

    /// <summary>The date without its weekday.</summary>
    private DaySaid? Core(int at)
    {
        if (at >= tokens.Length)
            return null;
        var article = After(words.The, at) ?? at;
        if (MonthAt(at) is var (month, i))
        {
            // "11 Dec 9" has the 11th.
            var before = at > 1 && words.OrdinalEndings.At(tokens, at - 1) == at && IsGlued(at - 1) ? at - 2 : at - 1;
            if (before >= 0 && tokens[before] is { Kind: TokenKind.Number, Text.Length: <= 2, Number: <= 31 } && StartsAt(before))
                return null;
            if (i < tokens.Length && tokens[i].Is("-") && IsGlued(i))
                i++;
            if (DayNumberAt(i) is not var (day, end, _))
                return null;
            return WithYear(new DaySaid(end) { Day = day, Month = month });
        }
        if (article >= tokens.Length || tokens[article].Kind != TokenKind.Number || (article > 0 && IsGlued(article) && tokens[article - 1].Kind != TokenKind.Sign))
            return null;
        if (Numeric(article) is { } numeric)
            return numeric;
        if (DayNumberAt(article) is not var (number, j, isOrdinal))
            return null;
        var k = j < tokens.Length && tokens[j].Text is "-" or "." && IsGlued(j) ? j + 1 : After(words.Of, j) ?? j;
        if (MonthAt(k) is var (named, after))
        {
            if (after < tokens.Length && tokens[after].Is("-") && IsGlued(after) && YearAt(after + 1) is var (written, wholly))
                return new DaySaid(wholly) { Day = number, Month = named, Year = written };
            return WithYear(new DaySaid(after) { Day = number, Month = named });
        }
        return new DaySaid(j) { Day = number, IsOrdinal = isOrdinal || article > at };
    }

    private (int Day, int End, bool IsOrdinal)? DayNumberAt(int at)
    {
        if (at >= tokens.Length || tokens[at] is not { Kind: TokenKind.Number, Text.Length: <= 2 } || tokens[at].Number is not (>= 1 and <= 31 and var day))
            return null;
        return IsGlued(at + 1) && words.OrdinalEndings.At(tokens, at + 1) is >= 0 and var end ? (day, end, true) : (day, at + 1, false);
    }

    /// <summary>"2026-12-05", "5/12", "05.12.2026", "5-12-2026".</summary>
    private DaySaid? Numeric(int at)
    {
        if (!IsGlued(at + 1) || !IsGlued(at + 2) || tokens[at + 1].Text is not ("-" or "/" or ".") || tokens[at + 2].Number < 0)
            return null;
        var (separator, first, second) = (tokens[at + 1].Text, tokens[at], tokens[at + 2]);
        var third = IsGlued(at + 3) && tokens[at + 3].Is(separator) && IsGlued(at + 4) && tokens[at + 4].Number >= 0 ? tokens[at + 4] : default;
        if (first.Text.Length == 4)
            return third.Text is null ? null : new DaySaid(at + 5) { Year = first.Number, Month = second.Number, Day = third.Number };
        if (first.Text.Length > 2 || second.Text.Length > 2 || (third.Text is { Length: not (2 or 4) }))
            return null;
        var year = third.Text is null ? 0 : third.Text.Length == 2 ? 2000 + third.Number : third.Number;
        var end = third.Text is null ? at + 3 : at + 5;
        var mayBeTime = false;
        if (year == 0)
        {
            if (separator == "-" || first.Number == 0 || second.Number == 0)
                return null;
            // A point at the end says that it is no time: 5.12.
            if (separator == ".")
            {
                var hasPoint = IsGlued(at + 3) && tokens[at + 3].Is(".");
                if (!hasPoint && !context.IsField && (second.Number > 12 || second.Text.Length < 2))
                    return null;
                mayBeTime = !hasPoint && !context.IsField;
                end += hasPoint ? 1 : 0;
            }
            else if (!context.IsField && (IsCounted(at) || (first.Number, second.Number) is (24, 7) || ((first.Number, second.Number) is (1, 2) or (3, 4) or (1, 4) or (2, 3) or (1, 3) && end < tokens.Length && tokens[end].Kind == TokenKind.Word && words.Weekday(tokens[end].Text) == IsoDayOfWeek.None && After(words.At, end) is null && After(words.To, end) is null)))
            {
                return null;
            }
        }
        // With points the day stands first everywhere; with strokes it is as one writes it, unless only one way is a date.
        var isMonthFirst = context.MonthFirst && separator != "." ? first.Number <= 12 : second.Number > 12;
        var (day, month) = isMonthFirst ? (second.Number, first.Number) : (first.Number, second.Number);
        return month is < 1 or > 12 || day is < 1 or > 31 ? null : new DaySaid(end) { Day = day, Month = month, Year = year, HasStrokes = separator == "/" && first.Number <= 12 && second.Number <= 12, IsMonthFirst = separator != "/" ? null : second.Number > 12 ? true : first.Number > 12 ? false : null, MayBeTime = mayBeTime };
    }

    private DaySaid WithYear(DaySaid said)
    {
        var i = said.End < tokens.Length && tokens[said.End].Is(",") ? said.End + 1 : said.End;
        if (YearAt(i) is not var (year, end))
            return said;
        // "Fri 4 Dec 2030" has the hour when the year would be far.
        if (!context.IsField && tokens[i].Text.Length == 4 && Math.Abs(year - context.Day.Year) > 3 && year % 100 < 60 && year / 100 < 24 && year % 5 == 0)
            return said;
        return said with { Year = year, End = end };
    }

    private (int Year, int End)? YearAt(int at)
    {
        if (at >= tokens.Length || tokens[at].Kind != TokenKind.Number || !EndsAt(at + 1, orDash: true))
            return null;
        if (tokens[at].Text.Length == 4 && tokens[at].Number is >= 1950 and < 2200 and var year)
            return (year, at + 1);
        return context.IsField && tokens[at].Text.Length == 2 && at + 1 == tokens.Length ? (2000 + tokens[at].Number, at + 1) : null;
    }

    /// <summary>"4 Dec (Fri)", "4 December, Friday".</summary>
    private DaySaid WithWeekdayAfter(DaySaid said)
    {
        if (said.NeedsMonth || said.End >= tokens.Length)
            return said;
        var hasBracket = tokens[said.End].Text is "(";
        var i = hasBracket || tokens[said.End].Is(",") ? said.End + 1 : said.End;
        if (WeekdayAt(i) is not var (weekday, end))
            return said;
        if (hasBracket)
            return end < tokens.Length && tokens[end].Is(")") ? said with { Weekday = weekday, End = end + 1 } : said;
        // "12 Dec Friday concert" goes on with its title.
        var named = said with { Weekday = weekday, End = end };
        return Resolve(named) is { Date: not null, Disagrees: null } || end == tokens.Length ? named : said;
    }

    /// <summary>The day that is meant.</summary>
    private DayRead Resolve(DaySaid said)
    {
        var read = AsWritten(said);
        if (!said.HasStrokes || context.IsField || read.Date is not { } date)
            return read;
        // A weekday tells which of two numbers is the month; else the other way round is told when it is much nearer.
        var other = AsWritten(said with { Day = said.Month, Month = said.Day });
        if (read.Disagrees is not null && other is { Date: not null, Disagrees: null })
            return other;
        return read.Disagrees is null && other is { Date: { } swapped, Disagrees: null } && Period.DaysBetween(context.Day, date) is > 200 or < 0 && Period.DaysBetween(context.Day, swapped) is >= 0 and < 60
            ? read with { Swapped = swapped } : read;
    }

    private DayRead AsWritten(DaySaid said)
    {
        if (said.Fixed is { } known)
            return new DayRead(known, Rival: said.Rival);
        if (said.IsWeekday)
            return new DayRead(Coming(context.Day, said.Weekday));
        if (said.Month == 0)
        {
            // "the 11th": of this month, or of the next that has one.
            var month = new LocalDate(context.Day.Year, context.Day.Month, 1);
            var coming = Enumerable.Range(0, 3).Select(i => Make(month.PlusMonths(i).Year, month.PlusMonths(i).Month, said.Day)).OfType<LocalDate>().Where(d => d >= context.Day).Take(2).ToList();
            return coming.Count == 0 ? default : Checked(coming.Any(d => d.DayOfWeek == said.Weekday) ? coming.First(d => d.DayOfWeek == said.Weekday) : coming[0], said.Weekday);
        }
        if (said.Year > 0)
            return Make(said.Year, said.Month, said.Day) is { } written ? Checked(written, said.Weekday) : default;
        var near = Enumerable.Range(context.Day.Year - 1, 3).Select(y => Make(y, said.Month, said.Day)).OfType<LocalDate>().ToList();
        if (context.IsField)
        {
            var fitting = near.Where(d => said.Weekday == IsoDayOfWeek.None || d.DayOfWeek == said.Weekday).OrderBy(d => Math.Abs(Period.DaysBetween(context.Day, d))).ToList();
            return fitting.Count > 0 ? new DayRead(fitting[0]) : default;
        }
        if (Make(YearOf(said.Day, said.Month), said.Month, said.Day) is not { } next)
            return default;
        var recent = near.Where(d => d < context.Day && Period.DaysBetween(d, context.Day) <= RecentDays).Select(d => (LocalDate?)d).FirstOrDefault();
        // The weekday tells which year is meant, when it is this one's or the last's.
        if (said.Weekday != IsoDayOfWeek.None && next.DayOfWeek != said.Weekday && recent is { } past && past.DayOfWeek == said.Weekday)
            return new DayRead(past);
        var read = Checked(next, said.Weekday);
        return read.Disagrees is null && said.Weekday == IsoDayOfWeek.None && recent is not null ? read with { Rival = recent } : read;
    }

    private static DayRead Checked(LocalDate date, IsoDayOfWeek weekday) =>
        weekday == IsoDayOfWeek.None || date.DayOfWeek == weekday
            ? new DayRead(date)
            : new DayRead(date, Enumerable.Range(-3, 7).Select(date.PlusDays).First(d => d.DayOfWeek == weekday));

    private int YearOf(int day, int month) =>
        month < context.Day.Month || (month == context.Day.Month && day < context.Day.Day) ? context.Day.Year + 1 : context.Day.Year;

    private LocalDate Today => context.Today;

    // In a field "next Friday" is counted from the day it stands in for.
    private LocalDate NextFrom => context.IsField ? context.Day : context.Today;

    private static LocalDate? Make(int year, int month, int day) =>
        year is >= 1 and <= 9998 && month is >= 1 and <= 12 && day >= 1 && day <= CalendarSystem.Iso.GetDaysInMonth(year, month) ? new LocalDate(year, month, day) : null;

    private static LocalDate Monday(LocalDate day) => day.PlusDays(1).Previous(IsoDayOfWeek.Monday);

    private static LocalDate Coming(LocalDate from, IsoDayOfWeek weekday) => from.PlusDays(-1).Next(weekday);
}
