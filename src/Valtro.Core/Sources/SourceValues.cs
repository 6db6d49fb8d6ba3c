using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;

namespace Valtro.Core.Sources;

/// <summary>A date, or a time of a day, as a file gives it.</summary>
/// <param name="Local">The date and time as they stand there; midnight of a date.</param>
/// <param name="IsDate">Whether it is a date alone.</param>
/// <param name="IsUtc">Whether it is said to be UTC.</param>
/// <param name="Zone">The name of its zone; null without one.</param>
internal readonly record struct SourceMoment(LocalDateTime Local, bool IsDate, bool IsUtc, string? Zone);

/// <summary>Reads values as they are found, also those that are not written as the standard has them.</summary>
internal static partial class SourceValues
{
    /// <summary>A date or date-time (RFC 5545, 3.3.4, 3.3.5); null when it is none.</summary>
    public static SourceMoment? Moment(string? value, string? kind, string? zone)
    {
        if (value is null || MomentForm().Match(value.Trim()) is not { Success: true } m)
            return null;
        int Part(string name, int otherwise = 0) => m.Groups[name].Success ? int.Parse(m.Groups[name].Value, CultureInfo.InvariantCulture) : otherwise;
        var (year, month, day) = (Part("year"), Part("month"), Part("day"));
        if (year is < 1900 or > 2199 || month is < 1 or > 12 || day < 1 || day > CalendarSystem.Iso.GetDaysInMonth(year, month))
            return null;
        var isDate = !m.Groups["hour"].Success || string.Equals(kind, "DATE", StringComparison.OrdinalIgnoreCase);
        var (hour, minute, second) = isDate ? (0, 0, 0) : (Part("hour"), Part("minute"), Math.Min(Part("second"), 59));
        if (hour > 24 || minute > 59 || (hour == 24 && minute + second > 0))
            return null;
        var local = new LocalDateTime(year, month, day, hour % 24, minute, second);
        return new SourceMoment(hour == 24 ? local.PlusDays(1) : local, isDate, !isDate && m.Groups["utc"].Success, isDate ? null : zone);
    }

    /// <summary>The moment of a property; null when there is none.</summary>
    public static SourceMoment? Moment(SourceProperty? property) => property is null ? null : Moment(property.Value, property.Parameter("VALUE"), property.Parameter("TZID"));

    /// <summary>A local time alone.</summary>
    public static LocalDateTime? Local(string? value)
    {
        // Zones begin long ago.
        if (value is { Length: >= 8 } && int.TryParse(value.AsSpan(0, 4), NumberStyles.None, CultureInfo.InvariantCulture, out var year) && year is > 0 and < 1900)
            value = "1900" + value[4..];
        return Moment(value, null, null)?.Local;
    }

    /// <summary>An offset (RFC 5545, 3.3.14).</summary>
    public static Offset? OffsetOf(string? value)
    {
        if (value is null || OffsetForm().Match(value.Trim()) is not { Success: true } m)
            return null;
        int Part(int i) => m.Groups[i].Success ? int.Parse(m.Groups[i].Value, CultureInfo.InvariantCulture) : 0;
        var seconds = Part(2) * 3600 + Part(3) * 60 + Part(4);
        return seconds > 18 * 3600 ? null : Offset.FromSeconds(m.Groups[1].Value == "-" ? -seconds : seconds);
    }

    /// <summary>A duration (RFC 5545, 3.3.6): days on the calendar, and time that passes. Null when it is none.</summary>
    public static (int Days, Duration Time, bool IsBack)? DurationOf(string? value)
    {
        if (value is null || DurationForm().Match(value.Trim().ToUpperInvariant()) is not { Success: true } m)
            return null;
        int Part(string name) => m.Groups[name].Success && int.TryParse(m.Groups[name].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : 0;
        var days = (long)Part("weeks") * 7 + Part("days");
        return days > 100_000 ? null : ((int)days, Duration.FromHours(Part("hours")) + Duration.FromMinutes(Part("minutes")) + Duration.FromSeconds(Part("seconds")), m.Groups["sign"].Value == "-");
    }

    [GeneratedRegex(@"^(?<year>\d{4})-?(?<month>\d{2})-?(?<day>\d{2})(?:[T ](?<hour>\d{2}):?(?<minute>\d{2})(?::?(?<second>\d{2})(?:\.\d+)?)?(?<utc>Z)?)?$", RegexOptions.IgnoreCase)]
    private static partial Regex MomentForm();

    [GeneratedRegex(@"^([+-]?)(\d{2}):?(\d{2})(?::?(\d{2}))?$")]
    private static partial Regex OffsetForm();

    [GeneratedRegex(@"^(?<sign>[+-])?P(?:(?<weeks>\d+)W)?(?:(?<days>\d+)D)?(?:T(?:(?<hours>\d+)H)?(?:(?<minutes>\d+)M)?(?:(?<seconds>\d+)S)?)?$")]
    private static partial Regex DurationForm();
}
