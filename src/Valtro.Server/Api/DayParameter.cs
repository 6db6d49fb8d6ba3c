using System.Diagnostics.CodeAnalysis;
using NodaTime;
using NodaTime.Text;

namespace Valtro.Server.Api;

/// <summary>A date in an address, such as 2026-11-23.</summary>
internal readonly record struct DayParameter(LocalDate Date) : IParsable<DayParameter>
{
    public static implicit operator LocalDate(DayParameter day) => day.Date;

    public static DayParameter Parse(string s, IFormatProvider? provider) => new(LocalDatePattern.Iso.Parse(s).Value);

    public static bool TryParse([NotNullWhen(true)] string? s, IFormatProvider? provider, out DayParameter result)
    {
        var parsed = LocalDatePattern.Iso.Parse(s ?? "");
        // Beyond these years a window around the date would leave the calendar's range.
        var usable = parsed.Success && parsed.Value.Year is >= 1900 and < 2200;
        result = new DayParameter(usable ? parsed.Value : default);
        return usable;
    }
}
