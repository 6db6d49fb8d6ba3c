using System.Collections.Immutable;
using System.Numerics;
using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>
/// A rule made ready for a start: its parts as bit masks, its times of day as a sorted list, its end as local seconds.
/// The rule's periods (days, weeks, months, years, or hours and shorter) are numbered from the start's on, so the one
/// at any moment is computed, never counted up to. A period's days are a bit set; its times are the same everywhere.
/// </summary>
internal sealed class CompiledRule
{
    /// <summary>Far past any date an event may have.</summary>
    private static readonly long Horizon = (long)Civil.Day(3000, 1, 1) * Civil.SecondsPerDay;

    /// <summary>The most steps without a date; a rule that needs more is refused, not waited for.</summary>
    internal const int MaxBarren = 2_000_000;

    // 1 + 2⁷ + 2¹⁴ + …: repeats a week's seven bits over a month.
    private const ulong EveryWeek = 0x8_1020_4081ul;

    private readonly Frequency frequency;
    private readonly int interval;
    private readonly int startDay;
    private readonly int startYear;
    private readonly int startMonth;
    private readonly int startMonthDay;
    private readonly int weekStart;
    private readonly int months;
    private readonly uint monthDays;
    private readonly uint monthDaysBack;
    private readonly bool hasMonthDays;
    private readonly int weekdays;
    private readonly ImmutableArray<NumberedDay> numbered;
    private readonly ImmutableArray<int> yearDays;
    private readonly ImmutableArray<int> weeks;
    private readonly uint hours;
    private readonly ulong minutes;
    private readonly ulong seconds;
    private readonly int[] times;
    private readonly ulong[]? positions;
    private readonly ulong[]? positionsBack;
    private readonly bool hasDayFilter;
    private readonly bool isImpossible;
    private readonly int unit;
    private readonly ulong weekMask;

    public CompiledRule(RecurrenceRule rule, LocalDateTime start, bool isAllDay)
    {
        var by = rule.By;
        frequency = rule.Frequency;
        interval = rule.Interval;
        Start = Civil.Seconds(start);
        startDay = Civil.DayOf(start.Date);
        (startYear, startMonth, startMonthDay) = (start.Year, start.Month, start.Day);
        weekStart = (int)rule.WeekStart - 1;
        months = Mask(by.Months);
        foreach (var day in by.MonthDays)
        {
            if (day > 0)
                monthDays |= 1u << (day - 1);
            else
                monthDaysBack |= 1u << (-day - 1);
        }
        hasMonthDays = !by.MonthDays.IsEmpty;
        foreach (var day in rule.Days.InOrder())
            weekdays |= 1 << ((int)day - 1);
        numbered = by.NumberedDays;
        yearDays = by.YearDays;
        weeks = by.Weeks;
        unit = frequency switch { Frequency.Hourly => 3600, Frequency.Minutely => 60, Frequency.Secondly => 1, _ => Civil.SecondsPerDay };
        if (isAllDay && unit < Civil.SecondsPerDay)
            throw new InvalidInputException("rule_contradiction", "rule", "An event of whole days repeats by days, weeks, months or years (RFC 5545, 3.3.10).");

        // A date has no hours: such parts are ignored (RFC 5545, 3.3.10).
        var (byHours, byMinutes, bySeconds) = isAllDay
            ? (ImmutableArray<int>.Empty, ImmutableArray<int>.Empty, ImmutableArray<int>.Empty)
            : (by.Hours, by.Minutes, by.Seconds.Select(s => Math.Min(s, 59)).Distinct().ToImmutableArray());
        hours = byHours.IsEmpty ? 0xFF_FFFF : byHours.Aggregate(0u, (mask, h) => mask | 1u << h);
        minutes = byMinutes.IsEmpty ? ulong.MaxValue : byMinutes.Aggregate(0ul, (mask, m) => mask | 1ul << m);
        seconds = bySeconds.IsEmpty ? ulong.MaxValue : bySeconds.Aggregate(0ul, (mask, s) => mask | 1ul << s);
        times = TimesWithin(byHours, byMinutes, bySeconds, start);
        isImpossible = unit < Civil.SecondsPerDay && IsNeverInStep(byHours, byMinutes, bySeconds, start);
        hasDayFilter = months != 0 || hasMonthDays || weekdays != 0 || !yearDays.IsEmpty;

        for (var i = 0; i < 7; i++)
        {
            if ((weekdays >> ((weekStart + i) % 7) & 1) != 0)
                weekMask |= 1ul << i;
        }
        if (weekMask == 0)
            weekMask = 1ul << ((Civil.Weekday(startDay) - weekStart + 7) % 7);

        if (!by.Positions.IsEmpty)
        {
            (positions, positionsBack) = (new ulong[DayBits.Words], new ulong[DayBits.Words]);
            foreach (var position in by.Positions)
            {
                var (set, bit) = position > 0 ? (positions, position - 1) : (positionsBack, -position - 1);
                set[bit >> 6] |= 1ul << bit;
            }
            if (unit < Civil.SecondsPerDay)
            {
                // The times within an hour or a minute are always the same, and so are the chosen ones.
                times = [.. times.Where((_, i) => IsChosen(i, times.Length))];
                positions = positionsBack = null;
                isImpossible |= times.Length == 0;
            }
        }

        End = rule.Until is { } until ? LastSecond(until) : Horizon;
        if (rule.Count is { } count && !isImpossible)
            End = Math.Min(End, LastOf(count));
    }

    /// <summary>The start, in local seconds. It is a date of the rule only when the rule gives it.</summary>
    public long Start { get; }

    /// <summary>The last local second a date may have.</summary>
    public long End { get; }

    /// <summary>The dates from one local second through another.</summary>
    public Cursor Between(long from, long through) => new(this, Math.Max(from, Start), Math.Min(through, End));

    /// <summary>The last date, or null when there is none.</summary>
    public long? Last()
    {
        if (isImpossible || End < Start)
            return null;
        // A stretch before the end, and longer ones while it holds no date.
        for (var stretch = 2 * RoughLength; ; stretch *= 4)
        {
            var from = Math.Max(Start, End - stretch);
            long? last = null;
            for (var cursor = Between(from, End); cursor.MoveNext();)
                last = cursor.Current;
            if (last is not null || from == Start)
                return last;
        }
    }

    /// <summary>About how many seconds lie between the beginnings of two periods.</summary>
    private long RoughLength => (long)interval * frequency switch
    {
        Frequency.Weekly => 7L * Civil.SecondsPerDay,
        Frequency.Monthly => 31L * Civil.SecondsPerDay,
        Frequency.Yearly => 366L * Civil.SecondsPerDay,
        _ => unit,
    };

    private static int Mask(ImmutableArray<int> values)
    {
        var mask = 0;
        foreach (var value in values)
            mask |= 1 << value;
        return mask;
    }

    private static long LastSecond(RuleEnd until)
    {
        var day = (long)Civil.DayOf(until.Date) * Civil.SecondsPerDay;
        return Math.Min(Horizon, until.Time is { } time ? day + (time.Hour * 60 + time.Minute) * 60 + time.Second : day + Civil.SecondsPerDay - 1);
    }

    /// <summary>The offsets within a period at which it can have dates: BYHOUR, BYMINUTE, BYSECOND where they expand.</summary>
    private int[] TimesWithin(ImmutableArray<int> byHours, ImmutableArray<int> byMinutes, ImmutableArray<int> bySeconds, LocalDateTime start)
    {
        ReadOnlySpan<int> hourList = unit < Civil.SecondsPerDay ? [0] : byHours.IsEmpty ? [start.Hour] : byHours.AsSpan();
        ReadOnlySpan<int> minuteList = unit < 3600 ? [0] : byMinutes.IsEmpty ? [start.Minute] : byMinutes.AsSpan();
        ReadOnlySpan<int> secondList = unit < 60 ? [0] : bySeconds.IsEmpty ? [start.Second] : bySeconds.AsSpan();
        var list = new int[hourList.Length * minuteList.Length * secondList.Length];
        var next = 0;
        foreach (var hour in hourList)
        {
            foreach (var minute in minuteList)
            {
                foreach (var second in secondList)
                    list[next++] = (hour * 60 + minute) * 60 + second;
            }
        }
        return list;
    }

    /// <summary>Whether the steps of an hourly or shorter rule never meet what limits them: every 2 hours, but at odd ones.</summary>
    private bool IsNeverInStep(ImmutableArray<int> byHours, ImmutableArray<int> byMinutes, ImmutableArray<int> bySeconds, LocalDateTime start)
    {
        var (limits, round, first) = frequency switch
        {
            Frequency.Hourly => (byHours, 24, start.Hour),
            Frequency.Minutely => (byMinutes, 60, start.Minute),
            _ => (bySeconds, 60, start.Second),
        };
        var step = (int)BigInteger.GreatestCommonDivisor(interval, round);
        return !limits.IsEmpty && !limits.Any(limit => (limit - first) % step == 0);
    }

    /// <summary>The number of the period a local second lies in; may be negative.</summary>
    private long PeriodAt(long local)
    {
        if (unit < Civil.SecondsPerDay)
            return Civil.Floor(Civil.Floor(local, unit) - Civil.Floor(Start, unit), interval);
        var day = (int)Civil.Floor(local, Civil.SecondsPerDay);
        switch (frequency)
        {
            case Frequency.Daily:
                return Civil.Floor(day - startDay, interval);
            case Frequency.Weekly:
                return Civil.Floor(day - FirstWeek, 7L * interval);
            default:
                var (year, month, _) = Civil.Date(day);
                return frequency == Frequency.Monthly
                    ? Civil.Floor((year - startYear) * 12 + month - startMonth, interval)
                    : Civil.Floor(year - startYear, interval);
        }
    }

    private int FirstWeek => startDay - (Civil.Weekday(startDay) - weekStart + 7) % 7;

    private bool IsChosen(int index, int total) =>
        IsIn(positions!, index) || IsIn(positionsBack!, total - 1 - index);

    private static bool IsIn(ulong[] set, int bit) => bit < 64 * DayBits.Words && (set[bit >> 6] >> (bit & 63) & 1) != 0;

    // --- the days of a period ---------------------------------------------------------------------------------------

    /// <summary>Fills in the days of a daily or longer period; says how many words of the set are in use.</summary>
    private int Fill(long period, ref DayBits bits)
    {
        switch (frequency)
        {
            case Frequency.Daily:
                var day = startDay + (int)(period * interval);
                bits.Set(day, !hasDayFilter || IsDayIn(day) ? 1ul : 0ul);
                return 1;
            case Frequency.Weekly:
                var week = FirstWeek + (int)(period * interval * 7);
                bits.Set(week, months == 0 ? weekMask : WithinMonths(week, weekMask));
                return 1;
            case Frequency.Monthly:
                var index = startYear * 12 + startMonth - 1 + (int)(period * interval);
                var (year, month) = (index / 12, index % 12 + 1);
                if (months != 0 && (months >> month & 1) == 0)
                {
                    bits.Set(Civil.Day(year, month, 1), 0);
                    return 1;
                }
                var first = Civil.Day(year, month, 1);
                bits.Set(first, InMonth(first, Civil.MonthLength(year, month)));
                return 1;
            default:
                FillYear(startYear + (int)(period * interval), ref bits);
                return DayBits.Words;
        }
    }

    private ulong WithinMonths(int week, ulong mask)
    {
        for (var i = 0; i < 7; i++)
        {
            if ((mask >> i & 1) != 0 && (months >> Civil.Date(week + i).Month & 1) == 0)
                mask &= ~(1ul << i);
        }
        return mask;
    }

    /// <summary>The days of a month as bits: BYMONTHDAY and BYDAY, each limiting the other; else the start's day.</summary>
    private ulong InMonth(int first, int length)
    {
        var all = (1ul << length) - 1;
        var hasDays = weekdays != 0 || !numbered.IsEmpty;
        if (!hasMonthDays && !hasDays)
            return 1ul << (startMonthDay - 1) & all;
        var mask = all;
        if (hasMonthDays)
        {
            ulong listed = monthDays;
            // Day −1 is the last: its bit 0 belongs at the month's end.
            for (var back = monthDaysBack; back != 0; back &= back - 1)
            {
                var fromEnd = BitOperations.TrailingZeroCount(back);
                if (fromEnd < length)
                    listed |= 1ul << (length - 1 - fromEnd);
            }
            mask &= listed;
        }
        if (hasDays)
            mask &= Weekdays(first, length) | Numbered(first, length);
        return mask;
    }

    private ulong Weekdays(int first, int length)
    {
        var shift = Civil.Weekday(first);
        var turned = (ulong)((weekdays >> shift | weekdays << (7 - shift)) & 0x7F);
        return turned * EveryWeek & ((1ul << length) - 1);
    }

    private ulong Numbered(int first, int length)
    {
        var mask = 0ul;
        foreach (var day in numbered)
        {
            var offset = OffsetOf(day, first, length);
            if (offset >= 0)
                mask |= 1ul << offset;
        }
        return mask;
    }

    /// <summary>Where a numbered weekday falls in a stretch of days; −1 when it does not.</summary>
    private static int OffsetOf(NumberedDay day, int first, int length)
    {
        var offset = ((int)day.Day - 1 - Civil.Weekday(first) + 7) % 7;
        if (day.Number > 0)
            offset += 7 * (day.Number - 1);
        else
            offset += 7 * ((length - 1 - offset) / 7 + day.Number + 1);
        return offset >= 0 && offset < length ? offset : -1;
    }

    private void FillYear(int year, ref DayBits bits)
    {
        if (!yearDays.IsEmpty || !weeks.IsEmpty || (!numbered.IsEmpty && months == 0))
        {
            FillYearByDay(year, ref bits);
            return;
        }
        var first = Civil.Day(year, 1, 1);
        bits.Clear(first);
        var wanted = months != 0 ? months : hasMonthDays || weekdays != 0 ? 0x1FFE : 1 << startMonth;
        for (; wanted != 0; wanted &= wanted - 1)
        {
            var month = BitOperations.TrailingZeroCount(wanted);
            var begins = Civil.Day(year, month, 1);
            bits.Add(begins - first, InMonth(begins, Civil.MonthLength(year, month)));
        }
    }

    /// <summary>A year with BYYEARDAY, BYWEEKNO or weekdays numbered in the year: every part limits the others.</summary>
    private void FillYearByDay(int year, ref DayBits bits)
    {
        var (first, length) = (Civil.Day(year, 1, 1), Civil.YearLength(year));
        // The year's first and last week may reach into its neighbours.
        var from = weeks.IsEmpty ? first : first - 6;
        var to = weeks.IsEmpty ? first + length : first + length + 6;
        bits.Clear(from);
        for (var day = from; day < to; day++)
        {
            if (IsDayInYear(day, first, length))
                bits.Add(day - from, 1);
        }
    }

    private bool IsDayInYear(int day, int first, int length)
    {
        if (!weeks.IsEmpty && !IsInWeeks(day, first, length))
            return false;
        if (!yearDays.IsEmpty && !IsYearDay(day))
            return false;
        var (year, month, monthDay) = Civil.Date(day);
        if (months != 0 && (months >> month & 1) == 0)
            return false;
        if (hasMonthDays && !IsMonthDay(monthDay, Civil.MonthLength(year, month)))
            return false;
        var weekday = Civil.Weekday(day);
        if (weekdays == 0 && numbered.IsEmpty)
            // Weeks alone take the start's weekday.
            return weeks.IsEmpty || !yearDays.IsEmpty || hasMonthDays || weekday == Civil.Weekday(startDay);
        if ((weekdays >> weekday & 1) != 0)
            return true;
        foreach (var wanted in numbered)
        {
            var (within, size) = months != 0 ? (Civil.Day(year, month, 1), Civil.MonthLength(year, month)) : (first, length);
            if (OffsetOf(wanted, within, size) == day - within)
                return true;
        }
        return false;
    }

    private bool IsInWeeks(int day, int first, int length)
    {
        var begins = FirstWeekOf(first);
        var count = (FirstWeekOf(first + length) - begins) / 7;
        var week = (int)Civil.Floor(day - begins, 7) + 1;
        return week >= 1 && week <= count && (weeks.Contains(week) || weeks.Contains(week - count - 1));
    }

    /// <summary>Where week 1 begins: the first week with at least four days in the year (RFC 5545, 3.3.10).</summary>
    private int FirstWeekOf(int newYear)
    {
        var into = (Civil.Weekday(newYear) - weekStart + 7) % 7;
        return newYear - into + (into > 3 ? 7 : 0);
    }

    private bool IsYearDay(int day)
    {
        var (year, _, _) = Civil.Date(day);
        var number = day - Civil.Day(year, 1, 1) + 1;
        return yearDays.Contains(number) || yearDays.Contains(number - Civil.YearLength(year) - 1);
    }

    private bool IsMonthDay(int monthDay, int length) =>
        (monthDays >> (monthDay - 1) & 1) != 0 || (monthDaysBack >> (length - monthDay) & 1) != 0;

    /// <summary>Whether the parts that limit days let one through: for daily and shorter periods.</summary>
    private bool IsDayIn(int day)
    {
        if (weekdays != 0 && (weekdays >> Civil.Weekday(day) & 1) == 0)
            return false;
        if (months == 0 && !hasMonthDays && yearDays.IsEmpty)
            return true;
        var (year, month, monthDay) = Civil.Date(day);
        return (months == 0 || (months >> month & 1) != 0)
            && (!hasMonthDays || IsMonthDay(monthDay, Civil.MonthLength(year, month)))
            && (yearDays.IsEmpty || IsYearDay(day));
    }

    // --- COUNT ------------------------------------------------------------------------------------------------------

    /// <summary>The local second of the n-th date: by formula where every few periods hold the same number of dates.</summary>
    private long LastOf(int count)
    {
        var cycle = Cycle;
        var period = 0L;
        if (cycle > 0)
        {
            var (perCycle, before) = (0L, 0L);
            for (var i = 0; i < cycle; i++)
            {
                var cursor = new Cursor(this, long.MinValue, Horizon, i);
                while (cursor.MoveNext() && cursor.Period == i)
                {
                    perCycle++;
                    if (cursor.Current < Start)
                        before++;
                }
            }
            if (perCycle == 0)
                return Start - 1;
            var rounds = (count + before - 1) / perCycle;
            // Anything past the horizon is past the horizon.
            if (rounds > int.MaxValue / cycle)
                return Horizon;
            period = rounds * cycle;
            count = (int)(count + before - rounds * perCycle);
        }
        return Walk(period, count);
    }

    /// <summary>The n-th date from a period on; before the start they count only when whole cycles were left out.</summary>
    private long Walk(long period, int count)
    {
        var cursor = new Cursor(this, period == 0 && Cycle == 0 ? Start : long.MinValue, Horizon, period);
        var steps = 0;
        while (cursor.MoveNext())
        {
            if (--count == 0)
                return cursor.Current;
            if (++steps > RecurrenceRule.MaxCount)
                throw TooSparse();
        }
        return Horizon;
    }

    /// <summary>After how many periods the number of dates repeats; 0 when that is not known.</summary>
    private int Cycle => frequency switch
    {
        Frequency.Weekly => months == 0 ? 1 : 0,
        Frequency.Daily => months != 0 || hasMonthDays ? 0 : weekdays != 0 ? 7 : 1,
        Frequency.Monthly when months == 0 && weekdays == 0 =>
            numbered.IsEmpty
                ? (hasMonthDays ? (monthDays | monthDaysBack) < 1u << 28 : startMonthDay <= 28) ? 1 : 0
                : !hasMonthDays && numbered.All(n => Math.Abs(n.Number) <= 4) && numbered.Select(n => Math.Sign(n.Number)).Distinct().Count() == 1 ? 1 : 0,
        Frequency.Yearly => months == 0 && !hasMonthDays && weekdays == 0 && numbered.IsEmpty && yearDays.IsEmpty && weeks.IsEmpty
            && !(startMonth == 2 && startMonthDay == 29) ? 1 : 0,
        Frequency.Hourly => hasDayFilter || hours != 0xFF_FFFF ? 0 : 1,
        Frequency.Minutely => hasDayFilter || hours != 0xFF_FFFF || minutes != ulong.MaxValue ? 0 : 1,
        Frequency.Secondly => hasDayFilter || hours != 0xFF_FFFF || minutes != ulong.MaxValue || seconds != ulong.MaxValue ? 0 : 1,
        _ => 0,
    };

    private static InvalidInputException TooSparse() =>
        new("rule_too_many_steps", "rule", "This rule looks at too many moments before it finds a date. Ask for a shorter time, or say it with longer steps.");

    // --- walking ----------------------------------------------------------------------------------------------------

    /// <summary>Walks the dates of a rule in order. Allocates nothing.</summary>
    internal struct Cursor
    {
        private readonly CompiledRule rule;
        private readonly long from;
        private readonly long through;
        private long period;
        private long begins;
        private DayBits bits;
        private ulong rest;
        private int word;
        private int words;
        private int time;
        private int index;
        private int total;
        private int knownDay;
        private bool isKnownDayIn;

        public Cursor(CompiledRule rule, long from, long through)
            : this(rule, from, through, through < from ? 0 : Math.Max(0, rule.PeriodAt(from) - (rule.weeks.IsEmpty ? 0 : 1)))
        {
        }

        public Cursor(CompiledRule rule, long from, long through, long period)
        {
            this.rule = rule;
            this.from = from;
            this.through = rule.isImpossible || through < from ? long.MinValue : through;
            this.period = period - 1;
            time = rule.times.Length;
            knownDay = int.MinValue;
        }

        /// <summary>The date, in local seconds.</summary>
        public long Current { get; private set; }

        /// <summary>The number of the period it lies in.</summary>
        public readonly long Period => period;

        public bool MoveNext()
        {
            // Ended before it begins, as a series of last year in this year's window.
            if (through == long.MinValue)
                return false;
            while (true)
            {
                var times = rule.times;
                while (time < times.Length)
                {
                    var local = begins + times[time++];
                    if (rule.positions is not null && !rule.IsChosen(index++, total))
                        continue;
                    if (local < from)
                        continue;
                    if (local > through)
                        return false;
                    Current = local;
                    return true;
                }
                if (rest != 0)
                {
                    begins = (long)(bits.Base + word * 64 + BitOperations.TrailingZeroCount(rest)) * Civil.SecondsPerDay;
                    rest &= rest - 1;
                    time = 0;
                }
                else if (word + 1 < words)
                {
                    rest = bits[++word];
                }
                else if (!(rule.unit < Civil.SecondsPerDay ? NextUnit() : NextPeriod()))
                {
                    return false;
                }
            }
        }

        private bool NextPeriod()
        {
            for (var barren = 0; barren < MaxBarren; barren++)
            {
                period++;
                words = rule.Fill(period, ref bits);
                if (bits.Base > Civil.Floor(through, Civil.SecondsPerDay))
                    return false;
                word = 0;
                rest = bits[0];
                if (rule.positions is not null)
                {
                    index = 0;
                    total = bits.Count * rule.times.Length;
                }
                for (; rest == 0 && word + 1 < words; rest = bits[word])
                    word++;
                if (rest != 0)
                    return true;
            }
            throw TooSparse();
        }

        /// <summary>The next hour, minute or second that its limits let through; days and hours that do not are jumped over.</summary>
        private bool NextUnit()
        {
            var (unit, first) = (rule.unit, Civil.Floor(rule.Start, rule.unit));
            period++;
            for (var barren = 0; barren < MaxBarren; barren++)
            {
                begins = (first + period * rule.interval) * unit;
                if (begins > through)
                    return false;
                var day = (int)Civil.Floor(begins, Civil.SecondsPerDay);
                var second = (int)(begins - (long)day * Civil.SecondsPerDay);
                if (day != knownDay)
                {
                    knownDay = day;
                    isKnownDayIn = !rule.hasDayFilter || rule.IsDayIn(day);
                }
                long next;
                if (!isKnownDayIn)
                    next = (day + 1L) * Civil.SecondsPerDay;
                else if ((rule.hours >> (second / 3600) & 1) == 0)
                    next = begins - second % 3600 + 3600;
                else if (unit < 3600 && (rule.minutes >> (second / 60 % 60) & 1) == 0)
                    next = begins - second % 60 + 60;
                else if (unit < 60 && (rule.seconds >> (second % 60) & 1) == 0)
                    next = begins + 1;
                else
                {
                    time = 0;
                    return true;
                }
                // The first step of the rule at or after that moment.
                period = -Civil.Floor(first - next / unit, rule.interval);
            }
            throw TooSparse();
        }
    }
}
