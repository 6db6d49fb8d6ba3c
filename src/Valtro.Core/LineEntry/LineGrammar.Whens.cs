using System.Collections.Immutable;
using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>Days with their times, where those are said with them.</summary>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day.</param>
internal sealed record WhenItem(LocalDate First, LocalDate Last)
{
    /// <summary>The times said with it.</summary>
    public TimesSaid? Times { get; init; }

    /// <summary>When it begins on its first day, for what goes on to a time of its last.</summary>
    public LocalTime? From { get; init; }

    /// <summary>When it ends on its last day.</summary>
    public LocalTime? To { get; init; }
}

/// <summary>Some words of a line that say when, or several times when.</summary>
internal sealed record WhenSaid(ImmutableArray<WhenItem> Items, int Strength, int DaysEnd, int End)
{
    public LocalDate? Disagrees { get; init; }

    public ImmutableArray<LocalDate> Rivals { get; init; } = [];

    /// <summary>How the words are written as something else than a day.</summary>
    public string? AsTime { get; init; }

    /// <summary>Whether the words may as well be title.</summary>
    public bool MayBeTitle { get; init; }

    /// <summary>How every one of the weekdays would be said.</summary>
    public string? Habit { get; init; }

    /// <summary>Whether it is a date that its month does not have.</summary>
    public bool IsNoDay { get; init; }

    /// <summary>Whether it is a limit: by Friday.</summary>
    public bool IsBy { get; init; }
}

internal sealed partial class LineGrammar
{
    private const int LongestSpan = 400;

    /// <summary>What the words at a position may say of when, longest first.</summary>
    private IEnumerable<WhenSaid> Whens(int at)
    {
        foreach (var (prefix, isBy) in Prefixes(at))
        {
            var isSettled = false;
            // "week of 7 Dec": its days from that one on.
            if (After(words.WeekOfDay, prefix) is { } weekOf && Day(weekOf) is { IsBare: false } begins && EndsAt(begins.End) && Resolve(begins) is { Date: { } from, Disagrees: null })
                yield return new WhenSaid([new WhenItem(from, from.PlusDays(4))], Sure + Likely, begins.End, begins.End);
            foreach (var first in DayVariants(prefix))
            {
                // "Thu 10 & Fri 11 Dec" has the 10th, and no time.
                if (isSettled)
                    break;
                if (first.IsBare && IsCounted(prefix))
                    continue;
                if ((Span(at, prefix, first) ?? List(at, prefix, first)) is { } several)
                {
                    isSettled = first.NeedsMonth;
                    yield return several with { IsBy = isBy };
                }

                if (Single(at, prefix, first) is not { } one)
                    continue;
                one = one with { IsBy = isBy };
                if (!one.IsNoDay && TimesAfter(first.End) is { } times)
                    yield return one with { End = times.End, Strength = Math.Max(one.Strength, Likely) + (one.Strength == Weak ? 0 : times.Strength) + 1, MayBeTitle = false, Items = [one.Items[0] with { Times = times }] };
                if (EndsAt(first.End))
                    yield return one;
            }
        }
    }

    private IEnumerable<(int At, bool IsBy)> Prefixes(int at)
    {
        if (After(words.By, at) is { } by)
        {
            yield return (by, true);
            // "avant le 18" has its day by the article.
            if (by > at + 1 && words.The.At(tokens, by - 1) == by)
                yield return (by - 1, true);
        }
        if (After(words.Starting, at) is { } starting)
            yield return (starting, false);
        if ((After(words.Between, at) ?? After(words.From, at)) is { } from)
            yield return (from, false);
        if (After(words.On, at) is { } on)
            yield return (on, false);
        yield return (at, false);
    }

    // "Fri 9" may be a day of the month, and a weekday before a time.
    private IEnumerable<DaySaid> DayVariants(int at)
    {
        if (Day(at) is not { } day)
            yield break;
        yield return day;
        if (day is { Weekday: not IsoDayOfWeek.None, Fixed: null, Day: > 0, Month: 0 } && WeekdayAt(at) is var (weekday, end))
            yield return new DaySaid(end) { Weekday = weekday };
        // "4 Dec 2030" with the hour, "4 Dec Fri".
        if (day is { Weekday: not IsoDayOfWeek.None, Day: > 0, Month: > 0 } && Core(at) is { } core && core.End < day.End)
            yield return core;
    }

    private TimesSaid? TimesAfter(int at)
    {
        var i = at < tokens.Length && tokens[at].Text is "," or ":" or "-" or "–" or "—" or "(" or ";" ? at + 1 : at;
        if (i < tokens.Length && IsTimeMark(i))
            i++;
        if (i >= tokens.Length)
            return null;
        // After a sign a number alone is no time.
        if (i > at && Clock(i) is { Form: ClockForm.Bare } clock && Follower(clock) is null)
            return null;
        // "Fri evening 7".
        if ((After(words.MorningWords, i) ?? After(words.EveningWords, i) ?? After(words.Noon, i)) is { } half && Clock(half) is not null && StartsAt(half))
            return Times(half, isAfterDay: true);
        return Times(i, isAfterDay: true);
    }

    private WhenSaid? Single(int at, int day, DaySaid said)
    {
        if (said.IsBare || (!EndsAt(said.End) && TimesAfter(said.End) is null))
            return null;
        var isPrefixed = day > at;
        var isLast = said.End >= tokens.Length || !EndsInWord(said.End);
        if (said.NeedsMonth)
        {
            // "Fri 11" is the 11th when that is a Friday soon; "the 11th hour" is none.
            var soon = Resolve(said);
            if (soon.Date is not { } found)
                return new WhenSaid([], Weak, said.End, said.End) { IsNoDay = true };
            if (said is { Weekday: not IsoDayOfWeek.None, IsOrdinal: false } && !EndsAt(said.End))
                return null;
            if (said.Weekday != IsoDayOfWeek.None && (soon.Disagrees is not null || Period.DaysBetween(context.Day, found) > 35) && !said.IsOrdinal)
                return null;
            if (said.Weekday == IsoDayOfWeek.None && !isPrefixed && words.The.At(tokens, day) < 0 && !isLast)
                return null;
            var asTime = said is { Weekday: not IsoDayOfWeek.None, IsOrdinal: false } && Times(said.End - 1, isAfterDay: true) is { } clock && clock.End == said.End ? $"{words.Spell(Coming(context.Day, said.Weekday))} {clock.Readings[0].Spelled}" : null;
            return new WhenSaid([new WhenItem(found, found)], said.Weekday != IsoDayOfWeek.None ? Sure + Likely + 1 : isPrefixed || isLast ? Likely : Weak, said.End, said.End) { AsTime = asTime, Disagrees = soon.Disagrees, MayBeTitle = !isLast && said.Weekday == IsoDayOfWeek.None };
        }
        var read = Resolve(said);
        if (read.Date is not { } date)
            return said.Month > 0 ? new WhenSaid([], Likely, said.End, said.End) { IsNoDay = true } : null;
        var one = new WhenSaid([new WhenItem(date, date)], Sure, said.End, said.End) { Disagrees = read.Disagrees, Rivals = [.. new[] { read.Swapped, read.Rival }.OfType<LocalDate>()] };
        if (said.MayBeTime && Times(day, isAfterDay: false) is { } dotted)
            one = one with { Strength = Likely, AsTime = dotted.Readings[0].Spelled };
        if (said.IsWeekday)
            return Named(one, at, day, said, isPrefixed, isLast);
        // "End of term party", "Week 6 quiz": a title as well as a day.
        if (said is { Fixed: not null, Weekday: IsoDayOfWeek.None } && !isLast && !isPrefixed && tokens[day].Kind == TokenKind.Word && (WeekNumbered(day) is not null || InTerm(day) is not null))
            return at == 0 ? one with { Strength = 0, MayBeTitle = true } : one with { Strength = Weak, MayBeTitle = true };
        return one;
    }

    /// <summary>A weekday alone: "Friday concert" is a title, "concert Friday" is not, and in the middle it may be either.</summary>
    private WhenSaid? Named(WhenSaid one, int at, int day, DaySaid said, bool isPrefixed, bool isLast)
    {
        var before = at - 1;
        if (isPrefixed && tokens[at].Is("the"))
            return null;
        if (before >= 0 && !isPrefixed && (words.Articles.Has(tokens[before].Text) || words.NotADay.Has(tokens[before].Text)) && tokens[at].SpaceBefore)
            return null;
        var isHabit = isPrefixed && words.Habitual.At(tokens, at) == day;
        var full = words.Weekdays[(int)said.Weekday - 1];
        if (isHabit)
            one = one with { Habit = $"{words.SaysEvery} {full}" };
        if (isPrefixed || isLast || StartsPart(said.End) || EndsTime(at))
            return one;
        if (at > 0)
            return one with { Strength = Weak, MayBeTitle = true };
        // Nothing is read of it, and that is said.
        return one with { Strength = 0, MayBeTitle = true };
    }

    // Whether a time ends at a position.
    private bool EndsTime(int at) => Enumerable.Range(Math.Max(0, at - 8), Math.Min(8, at)).Any(i => StartsAt(i) && Times(i, isAfterDay: false)?.End == at);

    // Whether title words go on at a position, after signs.
    private bool EndsInWord(int at) => at < tokens.Length && tokens[at].Kind != TokenKind.Sign;

    // Whether something other than title begins there.
    private bool StartsPart(int at) =>
        at >= tokens.Length || tokens[at].Kind == TokenKind.Sign || Times(at, isAfterDay: false) is { Strength: > Weak } || Repeat(at) is not null || EndOfRepeat(at) is not null || Length(at) is not null || After(words.AllDay, at) is not null
        || (tokens[at].Kind == TokenKind.Number && Day(at) is { IsBare: false }) || TimesAfter(at) is not null;

    /// <summary>"14–16 Dec", "30 Sept to 2 Oct", "Mon–Wed", "Fri 6pm to Sun 2pm".</summary>
    private WhenSaid? Span(int at, int day, DaySaid first)
    {
        var timed = first.NeedsMonth ? null : TimesAfter(first.End);
        foreach (var (end, isTimed) in new[] { (timed?.End ?? -1, true), (first.End, false) })
        {
            if (end < 0 || (isTimed && timed is not { Readings: [{ To: null }, ..] }))
                continue;
            if (After(words.To, end) is not { } to)
                continue;
            // "Mon–Wed 7–9 Dec" says the same twice.
            if (!isTimed && first.IsWeekday && WeekdayAt(to) is var (lastDay, afterDays) && DayVariants(afterDays).Select(d => d.IsWeekday ? null : Span(afterDays, afterDays, d)).FirstOrDefault(s => s is not null) is { } dates)
            {
                var isSame = dates.Items[0].First.DayOfWeek == first.Weekday && dates.Items[0].Last.DayOfWeek == lastDay;
                return dates with { Disagrees = isSame ? null : Coming(dates.Items[0].First.PlusDays(-3), first.Weekday), Strength = dates.Strength + 1 };
            }
            foreach (var named in DayVariants(After(words.On, to) ?? to))
            {
                // "June 3-6, 2027"
                var second = named.IsBare && first.Month > 0 ? WithYear(named) : named;
                if (second.IsBare && ((first.Month == 0 && words.DatedFrom.At(tokens, at) != day) || !EndsAt(second.End)))
                    continue;
                if (!EndsAt(second.End) && !isTimed && TimesAfter(second.End) is null)
                    continue;
                if (SpanOf(first, second, isDated: words.DatedFrom.At(tokens, at) == day) is not var (from, last, disagrees))
                    continue;
                if (last < from || Period.DaysBetween(from, last) > LongestSpan)
                    continue;
                if (!isTimed)
                    return new WhenSaid([new WhenItem(from, last)], Sure + Sure + 1, second.End, second.End) { Disagrees = disagrees, Habit = first.IsWeekday && second.IsWeekday ? $"{words.SaysEvery} {words.Weekdays[(int)first.Weekday - 1]}-{words.Weekdays[(int)second.Weekday - 1]}" : null };
                if (TimesAfter(second.End) is { Readings: [{ To: null } ends, ..] } closing && (timed!.Strength == Sure || closing.Strength == Sure))
                    return new WhenSaid([new WhenItem(from, last) { From = timed.Readings[0].Start, To = ends.Start }], 3 * Sure + 1, closing.End, closing.End) { Disagrees = disagrees };
            }
        }
        return null;
    }

    private (LocalDate First, LocalDate Last, LocalDate? Disagrees)? SpanOf(DaySaid first, DaySaid second, bool isDated)
    {
        // What cannot be a month in one tells the order of the other: 8/10-8/14.
        if (first.HasStrokes && (second.IsMonthFirst ?? context.MonthFirst) != context.MonthFirst)
            first = first with { Day = first.Month, Month = first.Day };
        if (second.HasStrokes && (first.IsMonthFirst ?? context.MonthFirst) != context.MonthFirst)
            second = second with { Day = second.Month, Month = second.Day };
        // The month of one is the other's.
        if (first.NeedsMonth && second.Month > 0)
            first = first with { Month = second.Month, Year = second.Year };
        else if (second.NeedsMonth && first.Month > 0)
            second = second with { Month = first.Month, Year = first.Year };
        // "du 14 au 18": of this month or the next.
        else if (first is { NeedsMonth: true, Weekday: IsoDayOfWeek.None } && second is { NeedsMonth: true, Weekday: IsoDayOfWeek.None } && (isDated || (first.IsOrdinal && second.IsOrdinal)))
            return Resolve(first).Date is { } one && Make(one.Year, one.Month, second.Day) is { } other && other > one ? (one, other, null) : null;
        else if (first.NeedsMonth || second.NeedsMonth)
            return null;
        if (second.Year > 0 && first.Year == 0)
            first = first with { Year = first.Month > second.Month ? second.Year - 1 : second.Year };
        var (from, to) = (Resolve(first), Resolve(second));
        if (from.Date is not { } start || to.Date is not { } end)
            return null;
        if (second.IsWeekday)
            end = Coming(start, second.Weekday);
        // "Mon–Fri next week", "Mon – Wed 9 Dec": the first is the one before the last.
        else if (first.IsWeekday && second.Weekday != IsoDayOfWeek.None)
            start = end.PlusDays(-(((int)second.Weekday - (int)first.Weekday + 7) % 7));
        else if (end < start && second is { Year: 0, Month: > 0 } && Make(end.Year + 1, end.Month, end.Day) is { } later)
            end = later;
        return (start, end, from.Disagrees ?? (end.DayOfWeek == second.Weekday ? null : to.Disagrees));
    }

    /// <summary>"Thu 10 Dec 4-8pm &amp; Fri 11 Dec 9-12", "4, 11 and 18 Dec", "Fri and Sat 7pm".</summary>
    private WhenSaid? List(int at, int day, DaySaid first)
    {
        var items = new List<(DaySaid Day, TimesSaid? Times)>();
        var (said, end) = (first, 0);
        while (true)
        {
            var times = said.NeedsMonth && said.Weekday == IsoDayOfWeek.None ? null : TimesAfter(said.End);
            items.Add((said, times));
            end = times?.End ?? said.End;
            // Weekdays in a row need no word between them.
            var and = After(words.And, end) ?? (said.IsWeekday && times is null && WeekdayAt(end) is var (inRow, _) && items.All(i => i.Day.Weekday != inRow) ? end : -1);
            if (items.Count >= 60 || and < 0)
                break;
            and = After(words.And, and) ?? and;
            if (Next(After(words.On, and) ?? and, items[0].Day) is not { } next)
                break;
            said = next;
        }
        // What has no month takes it from the next that has one, else from the one before.
        while (items.Count > 1)
        {
            if (Filled(items) is { } whens && EndsAt(items[^1].Times?.End ?? items[^1].Day.End))
            {
                var last = items[^1].Times?.End ?? items[^1].Day.End;
                var weekdays = items.All(i => i.Day.IsWeekday) ? $"{words.SaysEvery} {string.Join($" {words.SaysAnd} ", items.Select(i => words.Weekdays[(int)i.Day.Weekday - 1]))}" : null;
                if (weekdays is not null && whens.Select(w => w.Times?.Readings[0].Spelled).Distinct().ToList() is [{ } clock])
                    weekdays += " " + clock;
                var isSure = weekdays is null || items.Any(i => i.Times is not null) || day > at || last >= tokens.Length;
                return new WhenSaid([.. whens], isSure ? (weekdays is null ? items.Count : 1) * Sure + 1 + (whens[0].Times is null ? 0 : Sure) : Weak, last, last) { Habit = weekdays, MayBeTitle = !isSure };
            }
            items.RemoveAt(items.Count - 1);
        }
        return null;
    }

    private DaySaid? Next(int at, DaySaid first)
    {
        if (Day(at) is not { } day)
            return null;
        if (day is { Weekday: not IsoDayOfWeek.None, NeedsMonth: true, IsOrdinal: false } && first.Month == 0 && !first.NeedsMonth && WeekdayAt(at) is var (weekday, end))
            return new DaySaid(end) { Weekday = weekday };
        // A number is a day only where it stands by itself, and before others or the end.
        return !day.IsBare || (EndsAt(day.End) && (first.Month > 0 || first.NeedsMonth) && (day.End >= tokens.Length || After(words.And, day.End) is not null || MonthAt(day.End) is not null || TimesAfter(day.End) is not null || tokens[day.End].Kind == TokenKind.Sign)) ? day : null;
    }

    private List<WhenItem>? Filled(List<(DaySaid Day, TimesSaid? Times)> items)
    {
        var found = new List<WhenItem>();
        for (var i = 0; i < items.Count; i++)
        {
            var day = items[i].Day;
            if (day.NeedsMonth)
            {
                var giver = items.Skip(i).Select(x => x.Day).Concat(items.Take(i).Reverse().Select(x => x.Day)).Where(d => d.Month > 0).Select(d => (DaySaid?)d).FirstOrDefault();
                if (giver is null)
                    return null;
                day = day with { Month = giver.Value.Month, Year = giver.Value.Year };
            }
            // "Thu & Fri next week"
            if (day.IsWeekday && items.Skip(i).Select(x => x.Day).FirstOrDefault(d => d is { Fixed: not null, Weekday: not IsoDayOfWeek.None }) is { Fixed: { } inWeek })
                day = day with { Fixed = Monday(inWeek).PlusDays((int)day.Weekday - 1) };
            if (Resolve(day) is not { Date: { } date, Disagrees: null })
                return null;
            // The times said last go for those before that have none, and those before for what follows.
            var times = items[i].Times ?? items.Skip(i).Select(x => x.Times).FirstOrDefault(t => t is not null) ?? items.Take(i).Select(x => x.Times).LastOrDefault(t => t is not null);
            found.Add(new WhenItem(date, date) { Times = times });
        }
        return found;
    }
}
