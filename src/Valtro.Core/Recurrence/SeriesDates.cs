using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Recurrence;

/// <summary>
/// The dates an event makes: its start, or what its rule gives, less its skips. Rule → local dates → instants, in
/// that order, so that a lesson at nine stays at nine when the clocks change.
/// </summary>
public sealed class SeriesDates
{
    private readonly EventTiming timing;
    private readonly RecurrenceSet set;
    private readonly RecurrenceSet unskipped;
    private readonly ZoneTable? zone;

    /// <summary>Makes the dates of an event.</summary>
    /// <param name="timing">When it is, or when it first is.</param>
    /// <param name="rule">The rule of a series, or null for a one-time event.</param>
    /// <param name="skips">Local starts left out, ascending.</param>
    /// <param name="extras">Local starts added.</param>
    public SeriesDates(EventTiming timing, RecurrenceRule? rule, ImmutableArray<LocalDateTime> skips, ImmutableArray<LocalDateTime> extras = default)
        : this(new PlainDates(timing, rule, [], []), skips, extras)
    {
    }

    /// <summary>Makes the dates of an event.</summary>
    /// <param name="given">What is given without a hand; what it leaves out is no date at all, skipped or not.</param>
    /// <param name="skips">Local starts left out by hand, ascending.</param>
    /// <param name="extras">Local starts added by hand.</param>
    public SeriesDates(PlainDates given, ImmutableArray<LocalDateTime> skips, ImmutableArray<LocalDateTime> extras = default)
    {
        timing = given.Timing;
        zone = timing.Zone is null ? null : ZoneTable.Of(timing.Zone);
        unskipped = SetOf(given.With([], extras.IsDefault ? [] : extras));
        set = skips.IsDefaultOrEmpty ? unskipped : SetOf(given.With(skips, extras.IsDefault ? [] : extras));
    }

    /// <summary>
    /// The first local start the rule gives, before skips; the timing's own start for a one-time event; null when the
    /// rule never happens.
    /// </summary>
    public LocalDateTime? First => unskipped.First;

    /// <summary>The last local start the rule gives, before skips; null for an endless or an empty series.</summary>
    public LocalDateTime? Last => unskipped.Last;

    /// <summary>Whether it never ends.</summary>
    public bool IsEndless => set.IsEndless;

    /// <summary>Whether the rule gives this local start, skipped or not.</summary>
    public bool Makes(LocalDateTime localStart) => unskipped.Contains(localStart);

    /// <summary>The first local starts that are not skipped.</summary>
    public IEnumerable<LocalDateTime> FirstStarts(int limit) => set.StartsFrom(LocalDateTime.MinIsoValue).Take(limit);

    /// <summary>Local starts from one on, skipped ones included.</summary>
    public IEnumerable<LocalDateTime> From(LocalDateTime start) => unskipped.StartsFrom(start);

    /// <summary>Local starts on the days from one up to, not including, another; skipped ones included.</summary>
    public IEnumerable<LocalDateTime> Between(LocalDate first, LocalDate after) =>
        unskipped.StartsFrom(first.AtMidnight()).TakeWhile(d => d.Date < after);

    /// <summary>Local starts on or after a day, skipped ones included; the last ones there are when too few follow.</summary>
    public IReadOnlyList<LocalDateTime> StartsFrom(LocalDate day, int limit)
    {
        // Further back while too few follow.
        for (var back = 0; ; back = back * 2 + 31)
        {
            var from = day.PlusDays(-back).AtMidnight();
            var starts = unskipped.StartsFrom(from);
            if (from <= timing.Start || unskipped.IsEndless)
                return back == 0 ? [.. starts.Take(limit)] : [.. starts.TakeLast(limit)];
            var found = (back == 0 ? starts.Take(limit) : starts.TakeLast(limit)).ToList();
            if (found.Count == limit)
                return found;
        }
    }

    /// <summary>The occurrences that touch a window, in order.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_dates</c> while enumerating.</exception>
    public Occurrences In(TimeWindow window) =>
        new(set, zone ?? ZoneTable.Of(window.Zone), timing.Length, timing.Kind == TimeKind.Zoned, window.Start, window.End);

    private static RecurrenceSet SetOf(PlainDates plain) => new(
        plain.Timing.Start,
        plain.Timing.Kind == TimeKind.AllDay,
        plain.Rule is null ? [] : [plain.Rule],
        plain.Added.IsEmpty ? null : [.. plain.Added.Select(d => new AddedDate(d))],
        plain.LeftOut);
}
