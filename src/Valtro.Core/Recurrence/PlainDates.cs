using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Recurrence;

/// <summary>
/// The dates of an event in the terms of RFC 5545 alone, for readers that know nothing else. Without a rule the timing's
/// start is a date, unless it is left out.
/// </summary>
/// <param name="Timing">When it is, or the start of its rule.</param>
/// <param name="Rule">RRULE, or null.</param>
/// <param name="LeftOut">EXDATE, ascending.</param>
/// <param name="Added">RDATE, ascending.</param>
public sealed record PlainDates(EventTiming Timing, RecurrenceRule? Rule, ImmutableArray<LocalDateTime> LeftOut, ImmutableArray<LocalDateTime> Added)
{
    /// <summary>No date at all.</summary>
    public static PlainDates Nothing(EventTiming timing) => new(timing, null, [timing.Start], []);

    /// <summary>Whether there is no date.</summary>
    public bool IsNothing => Rule is null && LeftOut.Contains(Timing.Start) && Added.All(d => LeftOut.Contains(d));

    /// <summary>The dates with some added and some left out by hand; what is added by hand outweighs what a rule leaves out.</summary>
    public PlainDates With(ImmutableArray<LocalDateTime> skips, ImmutableArray<LocalDateTime> extras) => this with
    {
        LeftOut = skips.IsEmpty && (extras.IsEmpty || LeftOut.IsEmpty) ? LeftOut : [.. LeftOut.Except(extras).Union(skips).Order()],
        Added = extras.IsEmpty ? Added : [.. Added.Union(extras).Order()],
    };

    /// <summary>Plain dates are the same when they are written the same.</summary>
    public bool Equals(PlainDates? other) =>
        other is not null && Timing == other.Timing && Rule == other.Rule && LeftOut.SequenceEqual(other.LeftOut) && Added.SequenceEqual(other.Added);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Timing, Rule, LeftOut.Length, Added.Length);
}
