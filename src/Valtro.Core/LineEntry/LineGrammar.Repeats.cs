using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;

namespace Valtro.Core.LineEntry;

/// <summary>A repeat as it stands in a line.</summary>
internal sealed record RepeatSaid(Frequency Frequency, int End)
{
    public int Interval { get; init; } = 1;

    public WeekdaySet Days { get; init; } = WeekdaySet.Empty;

    public ByParts By { get; init; } = ByParts.None;

    public SchoolDayRule? Follows { get; init; }

    /// <summary>The days it is said to lie within.</summary>
    public (LocalDate First, LocalDate Last)? Window { get; init; }

    /// <summary>How the other thing it may mean is written.</summary>
    public string? Rival { get; init; }

    /// <summary>A day of the month is as sure as a day and a repeat beside each other.</summary>
    public int Strength => By.IsEmpty && Window is null ? LineGrammar.Sure + (Days.IsEmpty ? 0 : 2) : 2 * LineGrammar.Sure + 6 * By.NumberedDays.Length;
}

/// <summary>The end of a repeat as it stands in a line.</summary>
internal sealed record EndSaid(int End)
{
    public int? Count { get; init; }

    public LocalDate? Until { get; init; }

    /// <summary>Whether its year was written.</summary>
    public bool HasYear { get; init; }

    /// <summary>How long it goes on from its start.</summary>
    public Period? During { get; init; }

    public LocalDate? Rival { get; init; }

    /// <summary>Whether it is a date that its month does not have.</summary>
    public bool IsNoDay { get; init; }
}

internal sealed partial class LineGrammar
{
    private static readonly WeekdaySet WorkWeek = WeekdaySet.Of(IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday);
    private static readonly WeekdaySet WeekEnd = WeekdaySet.Of(IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday);

    private RepeatSaid? Repeat(int at)
    {
        if (RepeatCore(at) is not { } said)
            return null;
        if (said is { Frequency: Frequency.Weekly, Days.IsEmpty: true, Follows: null } && Weekdays(After(words.On, said.End) ?? After(words.Plural, said.End) ?? said.End, isListed: true) is var (days, end))
            said = said with { Days = days, End = end };
        if (said is { Frequency: Frequency.Monthly, By.IsEmpty: true } && InMonth(said.End) is var (by, after))
            said = said with { By = by, End = after };
        // "every day this week"
        if ((After(words.ThisWeek, said.End) ?? After(words.NextWeek, said.End)) is { } week)
        {
            var monday = Monday(context.Today).PlusWeeks(After(words.NextWeek, said.End) is null ? 0 : 1);
            said = said with { Window = (LocalDate.Max(monday, After(words.NextWeek, said.End) is null ? context.Day : monday), monday.PlusDays(6)), End = week };
        }
        // "in January", "in May and June", "Jan–Mar".
        if (MonthAt(After(words.In, said.End) ?? said.End) is var (month, i))
        {
            var until = (After(words.And, i) ?? After(words.To, i)) is { } more && MonthAt(more) is var (lastMonth, afterLast) ? (Month: lastMonth, End: afterLast) : (Month: month, End: i);
            var (year, ended) = YearAt(until.End) is var (written, whole) ? (written, whole) : ((until.Month >= month ? until.Month : month) < context.Day.Month ? context.Day.Year + 1 : context.Day.Year, until.End);
            var first = new LocalDate(year, month, 1);
            if ((After(words.In, said.End) is not null || until.End > i) && EndsAt(ended))
                said = said with { Window = (first < context.Day && month == context.Day.Month && year == context.Day.Year ? context.Day : first, new LocalDate(until.Month < month ? year + 1 : year, until.Month, 1).PlusMonths(1).PlusDays(-1)), End = ended };
        }
        return EndsAt(said.End) ? said : null;
    }

    private RepeatSaid? RepeatCore(int at)
    {
        if (After(words.Fortnightly, at) is { } fortnightly)
            return new RepeatSaid(Frequency.Weekly, fortnightly) { Interval = 2 };
        if (After(words.Daily, at) is { } daily)
            return new RepeatSaid(Frequency.Daily, daily);
        if (After(words.Weekly, at) is { } weekly)
            return new RepeatSaid(Frequency.Weekly, weekly);
        if (After(words.Quarterly, at) is { } quarterly)
            return new RepeatSaid(Frequency.Monthly, quarterly) { Interval = 3 };
        if (After(words.Yearly, at) is { } yearly)
            return new RepeatSaid(Frequency.Yearly, yearly);
        if (After(words.TwiceOrEveryTwo, at) is { } twice)
            return new RepeatSaid(Frequency.Weekly, twice) { Interval = 2 };
        if (After(words.A, at) is { } one && OneOutOfTwo(one) is { } alternate)
            return alternate;
        if (After(words.WeekdayPacks, at) is { } pack)
            return new RepeatSaid(Frequency.Weekly, pack) { Days = PackOf(tokens[at].Text) };
        if (After(words.Bimonthly, at) is { } bimonthly)
            return new RepeatSaid(Frequency.Monthly, bimonthly) { Interval = 2 };
        if (After(words.Alternate, After(words.On, at) ?? at) is { } other)
            return AfterEvery(other, 2);
        if (After(words.Every, at) is { } every)
            return AfterEvery(every, 1) ?? (words.The.At(tokens, every) is >= 0 and var the ? AfterEvery(the, 1) : null);
        if (InMonthOfAll(at) is { } nth)
            return nth;
        if (After(words.Monthly, at) is { } monthly)
            return new RepeatSaid(Frequency.Monthly, monthly);
        if (CycleDays(at) is { } cycle)
            return cycle;
        var from = After(words.Plural, at) ?? at;
        if ((After(words.WorkDays, from) ?? After(words.SchoolDays, from)) is { } work && (tokens[work - 1].Text.EndsWith('s') || tokens[from].Is("en") || IsGlued(from + 1)))
            return words.SchoolDays.At(tokens, from) >= 0 ? SchoolDaysOnly(work) : new RepeatSaid(Frequency.Weekly, work) { Days = WorkWeek };
        if (After(words.Weekends, from) is { } ends && tokens[ends - 1].Text.EndsWith('s'))
            return new RepeatSaid(Frequency.Weekly, ends) { Days = WeekEnd };
        // "Mondays and Thursdays"; in French "les mardi et jeudi" says it by its article.
        if (from < tokens.Length && (words.WeekdayOfAll(tokens[from].Text) != IsoDayOfWeek.None || (from > at && !words.TwelveHours && WeekdayAt(from) is not null)) && Weekdays(from, isListed: true) is var (days, end))
            return new RepeatSaid(Frequency.Weekly, end) { Days = days };
        return null;
    }

    // The letters of weekdays in a row: MWF, TTh.
    private WeekdaySet PackOf(string pack)
    {
        var days = WeekdaySet.Empty;
        for (var i = 0; i < pack.Length;)
        {
            var length = i + 1 < pack.Length && Array.FindIndex(words.WeekdayCodes, c => c.Has(pack.Substring(i, 2))) >= 0 ? 2 : 1;
            if (Array.FindIndex(words.WeekdayCodes, c => c.Has(pack.Substring(i, length))) is >= 0 and var day)
                days = days.With((IsoDayOfWeek)(day + 1));
            i += length;
        }
        return days;
    }

    private static RepeatSaid SchoolDaysOnly(int end) =>
        new(Frequency.Daily, end) { Follows = SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, [], []) };

    /// <summary>"un mardi sur deux".</summary>
    private RepeatSaid? OneOutOfTwo(int at)
    {
        if (WeekdayAt(at) is var (day, i) && After(words.OutOfTwo, i) is { } end)
            return new RepeatSaid(Frequency.Weekly, end) { Interval = 2, Days = WeekdaySet.Of(day) };
        return After(words.Days, at) is { } j && After(words.OutOfTwo, j) is { } days ? new RepeatSaid(Frequency.Daily, days) { Interval = 2 } : null;
    }

    private RepeatSaid? AfterEvery(int at, int interval)
    {
        if (interval == 1)
        {
            if (After(words.SchoolDays, at) is { } school)
                return SchoolDaysOnly(school);
            if (After(words.WorkDays, at) is { } work)
                return new RepeatSaid(Frequency.Weekly, work) { Days = WorkWeek };
            if (After(words.Weekends, at) is { } ends)
                return new RepeatSaid(Frequency.Weekly, ends) { Days = WeekEnd };
            if (CycleDays(at) is { } cycle)
                return cycle;
        }
        var (isSecond, isTwo) = (false, false);
        var i = at;
        if (interval == 1 && i < tokens.Length)
        {
            if (After(words.Other, i) is { } other)
                (interval, isSecond, isTwo, i) = (2, tokens[i].Is("second") || tokens[i].Kind == TokenKind.Number, true, other);
            else if (tokens[i].Number is > 0 and <= RecurrenceRule.MaxInterval and var number && !IsGlued(i + 1))
                (interval, i) = (number, i + 1);
            else if (words.NumberWord(tokens[i].Text) is > 0 and var said)
                (interval, i) = (said, i + 1);
        }
        if (i >= tokens.Length)
            return null;
        if (!(isSecond && tokens[at].Kind == TokenKind.Number))
        {
            if (After(words.Days, i) is { } days)
                return new RepeatSaid(Frequency.Daily, days) { Interval = interval };
            if (After(words.WeekUnit, i) is { } weeks)
                return new RepeatSaid(Frequency.Weekly, weeks) { Interval = interval };
            if (After(words.MonthUnit, i) is { } months)
                return new RepeatSaid(Frequency.Monthly, months) { Interval = interval };
            if (After(words.YearUnit, i) is { } years)
                return new RepeatSaid(Frequency.Yearly, years) { Interval = interval };
        }
        // "every 2nd Friday" is one of a month and "every second Friday" every other, but either may mean the other.
        if (OrdinalsOfMonth(at, needsMonth: false) is var (by, end, isOfMonth))
        {
            var (nth, day) = by.NumberedDays.Length == 1 ? (by.NumberedDays[0].Number, by.NumberedDays[0].Day) : (0, IsoDayOfWeek.None);
            if (nth != 2 || isOfMonth)
                return new RepeatSaid(Frequency.Monthly, end) { By = by };
            var name = words.Weekdays[(int)day - 1];
            return tokens[at].Kind == TokenKind.Number
                ? new RepeatSaid(Frequency.Monthly, end) { By = by, Rival = $"{words.SaysEvery} {words.SaysOther} {name}" }
                : new RepeatSaid(Frequency.Weekly, end) { Interval = 2, Days = WeekdaySet.Of(day), Rival = $"{words.SaysSecondOfMonth.Before} {name} {words.SaysSecondOfMonth.After}" };
        }
        if (!isTwo && OrdinalAt(at) is var (nthDay, after) && tokens[at].Kind == TokenKind.Number)
            return new RepeatSaid(Frequency.Monthly, After(words.OfTheMonth, after) ?? after) { By = new ByParts { MonthDays = [nthDay] } };
        if (!words.TwelveHours && tokens[at].Number is >= 1 and <= 31 and var monthDay && After(words.OfTheMonth, at + 1) is { } ofMonth)
            return new RepeatSaid(Frequency.Monthly, ofMonth) { By = new ByParts { MonthDays = [monthDay] } };
        if (interval <= 2 && Weekdays(i, isListed: true) is var (set, last))
            return new RepeatSaid(Frequency.Weekly, last) { Interval = interval, Days = set };
        if (interval == 1 && (After(words.MorningWords, i) ?? After(words.EveningWords, i)) is { } half)
            return new RepeatSaid(Frequency.Daily, half);
        return null;
    }

    /// <summary>"on the 2nd fri", "on the 15th", "on the last day", after monthly.</summary>
    private (ByParts By, int End)? InMonth(int at)
    {
        var i = After(words.On, at) ?? at;
        if (OrdinalsOfMonth(i, needsMonth: false) is var (by, end, _))
            return (by, end);
        if (OrdinalAt(i) is var (number, after))
        {
            if (number == -1)
                return After(words.Days, after) is { } days ? (new ByParts { MonthDays = [-1] }, days) : null;
            return (new ByParts { MonthDays = [number] }, after);
        }
        return i > at && tokens.Length > i && tokens[i].Number is >= 1 and <= 31 and var day && EndsAt(i + 1) && !words.TwelveHours ? (new ByParts { MonthDays = [day] }, i + 1) : null;
    }

    /// <summary>"first Monday of the month", "2nd &amp; 4th Wed", "the 15th of every month", "last day of the month".</summary>
    private RepeatSaid? InMonthOfAll(int at)
    {
        var i = After(words.On, at) ?? at;
        if (OrdinalsOfMonth(i, needsMonth: true) is var (by, end, _))
            return new RepeatSaid(Frequency.Monthly, end) { By = by };
        if (OrdinalAt(i) is var (number, j))
        {
            if (number == -1)
                return After(words.Days, j) is { } day && After(words.OfTheMonth, day) is { } whole ? new RepeatSaid(Frequency.Monthly, whole) { By = new ByParts { MonthDays = [-1] } } : null;
            if (After(words.OfTheMonth, j) is { } month)
                return new RepeatSaid(Frequency.Monthly, month) { By = new ByParts { MonthDays = [number] } };
        }
        return i > at && tokens.Length > i && tokens[i].Number is >= 1 and <= 31 and var said && After(words.OfTheMonth, i + 1) is { } ends ? new RepeatSaid(Frequency.Monthly, ends) { By = new ByParts { MonthDays = [said] } } : null;
    }

    private (ByParts By, int End, bool IsOfMonth)? OrdinalsOfMonth(int at, bool needsMonth)
    {
        var numbers = new List<int>();
        var i = at;
        while (OrdinalAt(After(words.The, i) ?? i) is var (number, end) && number <= 5)
        {
            numbers.Add(number);
            i = end;
            if (After(words.And, i) is not { } and || OrdinalAt(After(words.The, and) ?? and) is null)
                break;
            i = and;
        }
        if (numbers.Count == 0 || i >= tokens.Length || WeekdayOrAll(i) is not var (day, last))
            return null;
        var days = new List<IsoDayOfWeek> { day };
        while (After(words.And, last) is { } more && WeekdayOrAll(more) is var (another, after) && OfMonthAfter(after))
        {
            days.Add(another);
            last = after;
        }
        var isOfMonth = After(words.OfTheMonth, last) is not null;
        if (needsMonth && !isOfMonth && numbers.Count < 2)
            return null;
        return (new ByParts { NumberedDays = [.. from n in numbers from d in days select new NumberedDay(n, d)] }, After(words.OfTheMonth, last) ?? last, isOfMonth);

        bool OfMonthAfter(int index) => words.OfTheMonth.At(tokens, index) >= 0;
    }

    private (IsoDayOfWeek Day, int End)? WeekdayOrAll(int at) =>
        at < tokens.Length && words.WeekdayOfAll(tokens[at].Text) is not IsoDayOfWeek.None and var all ? (all, at + 1) : WeekdayAt(at);

    /// <summary>"day 3", "day 2 and 5": places in the school's rotation, but not the days of a camp.</summary>
    private RepeatSaid? CycleDays(int at)
    {
        if (After(words.Days, at) is not { } i || (at > 0 && tokens[at].Text.Length == 1))
            return null;
        var days = new List<int>();
        var end = i;
        while (i < tokens.Length && tokens[i].Number is >= 1 and var number && number <= context.CycleLength && (EndsAt(i + 1) || tokens[i + 1].Is(",")))
        {
            days.Add(number);
            end = i + 1;
            if (After(words.And, end) is not { } and)
                break;
            i = After(words.Days, and) ?? and;
        }
        if (days.Count == 0 || words.Of.At(tokens, end) >= 0)
            return null;
        return new RepeatSaid(Frequency.Daily, end) { Follows = SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, days, []) };
    }

    /// <summary>"Mon, Wed and Fri", "Tuesdays", "Mon-Fri".</summary>
    private (WeekdaySet Days, int End)? Weekdays(int at, bool isListed)
    {
        if (WeekdayOrAll(at) is not var (first, i))
            return null;
        var days = WeekdaySet.Of(first);
        var isSpan = false;
        while (isListed)
        {
            if (!isSpan && days.Count == 1 && After(words.To, i) is { } to && WeekdayOrAll(to) is var (last, end))
            {
                for (var day = first; day != last; day = day == IsoDayOfWeek.Sunday ? IsoDayOfWeek.Monday : day + 1)
                    days = days.With(day);
                (days, i, isSpan) = (days.With(last), end, true);
                continue;
            }
            var next = After(words.And, i) is { } and ? After(words.And, and) ?? and : WeekdayAt(i) is not null ? i : -1;
            if (next < 0 || WeekdayOrAll(After(words.On, next) ?? next) is not var (another, after))
                break;
            (days, i) = (days.With(another), after);
        }
        return (days, i);
    }

    /// <summary>"until 12 dec", "until end of term", "8 times", "for 6 weeks".</summary>
    private EndSaid? EndOfRepeat(int at)
    {
        if (at >= tokens.Length)
            return null;
        if (After(words.Until, at) is { } until)
        {
            if ((Day(until) ?? (After(words.On, until) is { } on ? Day(on) : null)) is { IsBare: false } day && EndsAt(day.End))
                return Resolve(day) is { Date: { } date } read ? new EndSaid(day.End) { Until = date, HasYear = day.Year > 0, Rival = read.Disagrees } : new EndSaid(day.End) { IsNoDay = true };
            // "until the end of January", "until June".
            var isWhole = After(words.EndOf, until) is not null;
            if (MonthAt(After(words.EndOf, until) ?? until) is var (month, i) && EndsAt(i))
            {
                var (year, end) = YearAt(i) is var (written, after) ? (written, after) : (month < context.Day.Month ? context.Day.Year + 1 : context.Day.Year, i);
                var first = new LocalDate(year, month, 1);
                return new EndSaid(end) { Until = first.PlusMonths(1).PlusDays(-1), HasYear = end > i, Rival = isWhole ? null : first.PlusDays(-1) };
            }
        }
        if (tokens[at].Number is > 0 and var number && (at == 0 || tokens[at].SpaceBefore || tokens[at - 1].Kind == TokenKind.Sign) && After(words.Times, at + 1) is { } times && EndsAt(times) && !(times < tokens.Length && tokens[times].Kind == TokenKind.Number))
            return new EndSaid(times) { Count = number };
        if (words.NumberWord(tokens[at].Text) is > 1 and var said && After(words.Times, at + 1) is { } saidTimes)
            return new EndSaid(saidTimes) { Count = said };
        if (tokens[at].Text is "x" or "×" && IsGlued(at + 1) && tokens[at + 1].Number is > 0 and var by && EndsAt(at + 2))
            return new EndSaid(at + 2) { Count = by };
        if (After(words.For, at) is { } during && CountAt(during) is var (count, unit) && count <= 520)
        {
            if (After(words.WeekUnit, unit) is { } weeks)
                return new EndSaid(weeks) { During = Period.FromWeeks(count) };
            if (After(words.MonthUnit, unit) is { } months)
                return new EndSaid(months) { During = Period.FromMonths(count) };
            if (After(words.Days, unit) is { } days)
                return new EndSaid(days) { During = Period.FromDays(count) };
            if (After(words.YearUnit, unit) is { } years && count <= 20)
                return new EndSaid(years) { During = Period.FromYears(count) };
            if (After(words.Times, unit) is { } forTimes)
                return new EndSaid(forTimes) { Count = count };
        }
        return null;
    }
}
