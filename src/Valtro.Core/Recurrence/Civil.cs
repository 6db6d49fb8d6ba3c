using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>
/// Dates as day numbers (days since 1970-01-01 in the Gregorian calendar) and local times as seconds since that
/// midnight: expansion is integer arithmetic, and NodaTime's values are made only for what is asked for.
/// </summary>
internal static class Civil
{
    public const int SecondsPerDay = 86_400;

    private static readonly LocalDate Epoch = new(1970, 1, 1);

    // Days before each month of a year that begins in March, so that the leap day comes last.
    private static ReadOnlySpan<short> BeforeMonth => [0, 31, 61, 92, 122, 153, 184, 214, 245, 275, 306, 337];

    private static ReadOnlySpan<byte> MonthLengths => [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

    public static bool IsLeap(int year) => (year & 3) == 0 && (year % 100 != 0 || year % 400 == 0);

    public static int YearLength(int year) => IsLeap(year) ? 366 : 365;

    public static int MonthLength(int year, int month) => month == 2 && IsLeap(year) ? 29 : MonthLengths[month - 1];

    /// <summary>The day number of a date; the day may lie outside its month.</summary>
    public static int Day(int year, int month, int day)
    {
        var shifted = month <= 2 ? year - 1 : year;
        var era = Math.DivRem(shifted, 400, out var yearOfEra);
        if (yearOfEra < 0)
        {
            era--;
            yearOfEra += 400;
        }
        var dayOfYear = BeforeMonth[month > 2 ? month - 3 : month + 9] + day - 1;
        return era * 146_097 + yearOfEra * 365 + yearOfEra / 4 - yearOfEra / 100 + dayOfYear - 719_468;
    }

    /// <summary>The date of a day number.</summary>
    public static (int Year, int Month, int Day) Date(int day)
    {
        var shifted = day + 719_468;
        var era = (shifted >= 0 ? shifted : shifted - 146_096) / 146_097;
        var dayOfEra = shifted - era * 146_097;
        var yearOfEra = (dayOfEra - dayOfEra / 1460 + dayOfEra / 36_524 - dayOfEra / 146_096) / 365;
        var dayOfYear = dayOfEra - (365 * yearOfEra + yearOfEra / 4 - yearOfEra / 100);
        var shiftedMonth = (5 * dayOfYear + 2) / 153;
        var month = shiftedMonth < 10 ? shiftedMonth + 3 : shiftedMonth - 9;
        return (yearOfEra + era * 400 + (month <= 2 ? 1 : 0), month, dayOfYear - BeforeMonth[shiftedMonth] + 1);
    }

    /// <summary>The weekday of a day number, 0 for Monday to 6 for Sunday.</summary>
    public static int Weekday(int day)
    {
        var weekday = (day + 3) % 7;
        return weekday < 0 ? weekday + 7 : weekday;
    }

    public static int DayOf(LocalDate date) => Day(date.Year, date.Month, date.Day);

    /// <summary>Seconds since the epoch's midnight on the same clock.</summary>
    public static long Seconds(LocalDateTime time) =>
        (long)DayOf(time.Date) * SecondsPerDay + (time.Hour * 60 + time.Minute) * 60 + time.Second;

    public static LocalDate ToDate(int day) => Epoch.PlusDays(day);

    public static LocalDateTime ToLocal(long seconds)
    {
        var day = Floor(seconds, SecondsPerDay);
        return ToDate((int)day).AtMidnight().PlusSeconds(seconds - day * SecondsPerDay);
    }

    /// <summary>Division that rounds down, for values before the epoch too.</summary>
    public static long Floor(long value, long divisor)
    {
        var quotient = Math.DivRem(value, divisor, out var rest);
        return rest < 0 ? quotient - 1 : quotient;
    }
}
