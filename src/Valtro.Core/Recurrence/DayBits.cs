using System.Numerics;
using System.Runtime.CompilerServices;

namespace Valtro.Core.Recurrence;

/// <summary>A set of days from a base day on: enough bits for a year and the weeks that reach over its ends.</summary>
internal struct DayBits
{
    public const int Words = 6;

    /// <summary>The day number of bit 0.</summary>
    public int Base;

    private Buffer words;

    public readonly ulong this[int word] => words[word];

    public readonly int Count
    {
        get
        {
            var count = 0;
            for (var i = 0; i < Words; i++)
                count += BitOperations.PopCount(words[i]);
            return count;
        }
    }

    /// <summary>An empty set with another base.</summary>
    public void Clear(int day)
    {
        words = default;
        Base = day;
    }

    /// <summary>A set of up to 64 days.</summary>
    public void Set(int day, ulong mask)
    {
        words = default;
        words[0] = mask;
        Base = day;
    }

    /// <summary>Adds the days of a mask whose bit 0 lies at an offset.</summary>
    public void Add(int offset, ulong mask)
    {
        var (word, shift) = (offset >> 6, offset & 63);
        words[word] |= mask << shift;
        if (shift > 0 && word + 1 < Words)
            words[word + 1] |= mask >> (64 - shift);
    }

    [InlineArray(Words)]
    private struct Buffer
    {
        private ulong first;
    }
}
