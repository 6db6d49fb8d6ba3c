using System.Numerics;
using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>A set of weekdays, one bit a day; Monday is the lowest.</summary>
public readonly record struct WeekdaySet
{
    private static readonly string[] Codes = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];

    private readonly byte bits;

    private WeekdaySet(int bits) => this.bits = (byte)bits;

    /// <summary>No day.</summary>
    public static WeekdaySet Empty => default;

    /// <summary>How many days are in the set.</summary>
    public int Count => BitOperations.PopCount(bits);

    /// <summary>Whether no day is in it.</summary>
    public bool IsEmpty => bits == 0;

    /// <summary>The set of these days.</summary>
    public static WeekdaySet Of(params ReadOnlySpan<IsoDayOfWeek> days)
    {
        var set = Empty;
        foreach (var day in days)
            set = set.With(day);
        return set;
    }

    /// <summary>The set with one day more.</summary>
    public WeekdaySet With(IsoDayOfWeek day) => new(bits | 1 << ((int)day - 1));

    /// <summary>Whether a day is in the set.</summary>
    public bool Contains(IsoDayOfWeek day) => (bits >> ((int)day - 1) & 1) != 0;

    /// <summary>The days in the order of a week that begins on <paramref name="weekStart"/>.</summary>
    public IEnumerable<IsoDayOfWeek> InOrder(IsoDayOfWeek weekStart = IsoDayOfWeek.Monday)
    {
        for (var i = 0; i < 7; i++)
        {
            var day = (IsoDayOfWeek)(((int)weekStart - 1 + i) % 7 + 1);
            if (Contains(day))
                yield return day;
        }
    }

    /// <summary>The two-letter code of a weekday (RFC 5545, 3.3.10).</summary>
    public static string CodeOf(IsoDayOfWeek day) => Codes[(int)day - 1];

    /// <summary>The weekday of a two-letter code.</summary>
    public static bool TryParse(ReadOnlySpan<char> code, out IsoDayOfWeek day)
    {
        for (var i = 0; i < Codes.Length; i++)
        {
            if (code.Equals(Codes[i], StringComparison.OrdinalIgnoreCase))
            {
                day = (IsoDayOfWeek)(i + 1);
                return true;
            }
        }
        day = IsoDayOfWeek.None;
        return false;
    }

    /// <summary>The codes, Monday first, joined by commas.</summary>
    public override string ToString() => string.Join(',', InOrder().Select(CodeOf));
}
