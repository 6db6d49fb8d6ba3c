using System.Collections.Immutable;
using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>A weekday with its number in the month or the year (RFC 5545, 3.3.10, BYDAY).</summary>
/// <param name="Number">1 for the first, −1 for the last; never 0.</param>
/// <param name="Day">The weekday.</param>
public readonly record struct NumberedDay(int Number, IsoDayOfWeek Day)
{
    /// <summary>As in a rule: <c>2TU</c>, <c>-1FR</c>.</summary>
    public override string ToString() => $"{Number}{WeekdaySet.CodeOf(Day)}";
}

/// <summary>
/// The BY parts of a rule (RFC 5545, 3.3.10) but for plain weekdays. Each list is sorted and free of doubles; an empty
/// one stands for a part that is not there.
/// </summary>
public sealed record ByParts
{
    /// <summary>No part at all.</summary>
    public static ByParts None { get; } = new();

    /// <summary>BYSECOND, 0 to 60. A leap second is taken as the second before it.</summary>
    public ImmutableArray<int> Seconds { get; init => field = Sorted(value); } = [];

    /// <summary>BYMINUTE, 0 to 59.</summary>
    public ImmutableArray<int> Minutes { get; init => field = Sorted(value); } = [];

    /// <summary>BYHOUR, 0 to 23.</summary>
    public ImmutableArray<int> Hours { get; init => field = Sorted(value); } = [];

    /// <summary>BYDAY with numbers.</summary>
    public ImmutableArray<NumberedDay> NumberedDays
    {
        get;
        init => field = value.IsDefaultOrEmpty ? [] : [.. value.Distinct().OrderBy(d => d.Number).ThenBy(d => d.Day)];
    } = [];

    /// <summary>BYMONTHDAY, 1 to 31 or −31 to −1.</summary>
    public ImmutableArray<int> MonthDays { get; init => field = Sorted(value); } = [];

    /// <summary>BYYEARDAY, 1 to 366 or −366 to −1.</summary>
    public ImmutableArray<int> YearDays { get; init => field = Sorted(value); } = [];

    /// <summary>BYWEEKNO, 1 to 53 or −53 to −1.</summary>
    public ImmutableArray<int> Weeks { get; init => field = Sorted(value); } = [];

    /// <summary>BYMONTH, 1 to 12.</summary>
    public ImmutableArray<int> Months { get; init => field = Sorted(value); } = [];

    /// <summary>BYSETPOS, 1 to 366 or −366 to −1.</summary>
    public ImmutableArray<int> Positions { get; init => field = Sorted(value); } = [];

    /// <summary>Whether there is none.</summary>
    public bool IsEmpty =>
        Seconds.IsEmpty && Minutes.IsEmpty && Hours.IsEmpty && NumberedDays.IsEmpty && MonthDays.IsEmpty
        && YearDays.IsEmpty && Weeks.IsEmpty && Months.IsEmpty && Positions.IsEmpty;

    private static ImmutableArray<int> Sorted(ImmutableArray<int> values) =>
        values.IsDefaultOrEmpty ? [] : [.. values.Distinct().Order()];
}
