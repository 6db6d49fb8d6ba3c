using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>
/// The dates of a rule as arithmetic: a period of days and the offsets within it, numbered from the first date on.
/// Every daily and weekly rule has this shape, so the date with number n, and the number of the first date after any
/// day, are computed directly however far away they lie.
/// </summary>
internal readonly struct DayPattern
{
    // Far past any date an event may have, and far from where the calendar's arithmetic ends.
    private static readonly LocalDate Horizon = new(3000, 1, 1);

    private readonly LocalDate anchor;
    private readonly int period;
    private readonly int[] offsets;
    private readonly int skipped;
    private readonly long count;

    private DayPattern(LocalDate anchor, int period, int[] offsets, int skipped, long count)
    {
        this.anchor = anchor;
        this.period = period;
        this.offsets = offsets;
        this.skipped = skipped;
        this.count = count;
    }

    /// <summary>How many dates there are, up to the year 3000 for an endless rule.</summary>
    public long Count => count;

    /// <summary>The pattern of a rule for a series that starts at a local time.</summary>
    public static DayPattern Of(RecurrenceRule rule, LocalDateTime start)
    {
        var (anchor, period, offsets) = rule.Frequency == Frequency.Weekly ? Weekly(rule, start.Date) : Daily(rule, start.Date);
        var startOffset = Period.DaysBetween(anchor, start.Date);
        var skipped = 0;
        while (skipped < offsets.Length && offsets[skipped] < startOffset)
            skipped++;

        var unbounded = new DayPattern(anchor, period, offsets, skipped, 0);
        if (offsets.Length == 0)
            return unbounded;
        var last = Horizon;
        if (rule.Until is { } end && end.Date < Horizon)
            last = end.Time is { } time && start.TimeOfDay > time ? end.Date.PlusDays(-1) : end.Date;
        var count = Math.Min(rule.Count ?? long.MaxValue, unbounded.NumberAtOrAfter(last.PlusDays(1)));
        return new DayPattern(anchor, period, offsets, skipped, count);
    }

    /// <summary>The date with a number, from 0; the number has to be below <see cref="Count"/>.</summary>
    public LocalDate At(long number)
    {
        var position = number + skipped;
        return anchor.PlusDays((int)(position / offsets.Length * period + offsets[position % offsets.Length]));
    }

    /// <summary>The number of the first date on or after a day, as if the rule had no end.</summary>
    public long NumberAtOrAfter(LocalDate day)
    {
        var distance = Period.DaysBetween(anchor, day);
        if (distance <= offsets[skipped % offsets.Length] && skipped < offsets.Length)
            return 0;
        var round = Math.DivRem(distance, period, out var within);
        var index = 0;
        while (index < offsets.Length && offsets[index] < within)
            index++;
        return Math.Max(0, (long)round * offsets.Length + index - skipped);
    }

    private static (LocalDate Anchor, int Period, int[] Offsets) Weekly(RecurrenceRule rule, LocalDate start)
    {
        var days = rule.Days.IsEmpty ? WeekdaySet.Of(start.DayOfWeek) : rule.Days;
        var intoWeek = ((int)start.DayOfWeek - (int)rule.WeekStart + 7) % 7;
        var offsets = new int[days.Count];
        var next = 0;
        foreach (var day in days.InOrder(rule.WeekStart))
            offsets[next++] = ((int)day - (int)rule.WeekStart + 7) % 7;
        return (start.PlusDays(-intoWeek), 7 * rule.Interval, offsets);
    }

    private static (LocalDate Anchor, int Period, int[] Offsets) Daily(RecurrenceRule rule, LocalDate start)
    {
        if (rule.Days.IsEmpty)
            return (start, rule.Interval, [0]);
        // Weekdays repeat after seven steps, whatever the interval.
        var offsets = new List<int>(7);
        for (var step = 0; step < 7; step++)
        {
            if (rule.Days.Contains(start.PlusDays(step * rule.Interval).DayOfWeek))
                offsets.Add(step * rule.Interval);
        }
        return (start, 7 * rule.Interval, [.. offsets]);
    }
}
