using System.Collections;
using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Recurrence;

/// <summary>One date of an event.</summary>
/// <param name="LocalStart">
/// The start in the event's own local time; what RECURRENCE-ID and EXDATE name (RFC 5545, 3.8.4.4). Midnight for
/// all-day events.
/// </param>
/// <param name="Start">The first instant, as seen from the window's zone when the event has none of its own.</param>
/// <param name="End">The end instant, exclusive.</param>
public readonly record struct Occurrence(LocalDateTime LocalStart, Instant Start, Instant End);

/// <summary>
/// The dates an event makes: its start, or what its rule gives, less its skips. Rule → local dates → instants, in
/// that order, so that a lesson at nine stays at nine when the clocks change.
/// </summary>
public sealed class SeriesDates
{
    /// <summary>The most dates one expansion gives; a limit met is an error, never a silent cut.</summary>
    public const int MaxDates = 20_000;

    private readonly EventTiming timing;
    private readonly DayPattern? pattern;
    private readonly ImmutableArray<LocalDateTime> skips;

    /// <summary>Makes the dates of an event.</summary>
    /// <param name="timing">When it is, or when it first is.</param>
    /// <param name="rule">The rule of a series, or null for a one-time event.</param>
    /// <param name="skips">Local starts left out, ascending.</param>
    public SeriesDates(EventTiming timing, RecurrenceRule? rule, ImmutableArray<LocalDateTime> skips)
    {
        this.timing = timing;
        this.skips = skips.IsDefault ? [] : skips;
        pattern = rule is null ? null : DayPattern.Of(rule, timing.Start);
        IsEndless = rule is { IsEndless: true };
    }

    /// <summary>
    /// The first local start the rule gives, before skips; the timing's own start for a one-time event; null when the
    /// rule never happens.
    /// </summary>
    public LocalDateTime? First => Count == 0 ? null : LocalStart(0);

    /// <summary>The last local start the rule gives, before skips; null for an endless or an empty series.</summary>
    public LocalDateTime? Last => IsEndless || Count == 0 ? null : LocalStart(Count - 1);

    /// <summary>Whether it never ends.</summary>
    public bool IsEndless { get; }

    private long Count => pattern?.Count ?? 1;

    /// <summary>Whether the rule gives this local start, skipped or not.</summary>
    public bool Makes(LocalDateTime localStart)
    {
        if (Count == 0 || localStart.TimeOfDay != timing.Start.TimeOfDay)
            return false;
        if (pattern is not { } p)
            return localStart == timing.Start;
        var number = p.NumberAtOrAfter(localStart.Date);
        return number < p.Count && p.At(number) == localStart.Date;
    }

    /// <summary>The first local starts that are not skipped.</summary>
    public IEnumerable<LocalDateTime> FirstStarts(int limit)
    {
        for (long number = 0; number < Count && limit > 0; number++)
        {
            var start = LocalStart(number);
            if (IsSkipped(start))
                continue;
            limit--;
            yield return start;
        }
    }

    /// <summary>Local starts on or after a day, skipped ones included; the last ones there are when too few follow.</summary>
    public IReadOnlyList<LocalDateTime> StartsFrom(LocalDate day, int limit)
    {
        if (Count == 0)
            return [];
        var number = pattern is { } p ? Math.Max(0, Math.Min(p.NumberAtOrAfter(day), Count - limit)) : 0;
        var starts = new List<LocalDateTime>(limit);
        for (; number < Count && starts.Count < limit; number++)
            starts.Add(LocalStart(number));
        return starts;
    }

    /// <summary>The occurrences that touch a window, in order.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_dates</c> while enumerating.</exception>
    public WindowDates In(TimeWindow window) => new(this, window);

    private LocalDateTime LocalStart(long number) =>
        pattern is { } p ? p.At(number).At(timing.Start.TimeOfDay) : timing.Start;

    private bool IsSkipped(LocalDateTime localStart) => !skips.IsEmpty && skips.BinarySearch(localStart) >= 0;

    /// <summary>The occurrences of one event in one window; enumerates without allocating when used in foreach.</summary>
    public readonly struct WindowDates : IEnumerable<Occurrence>
    {
        private readonly SeriesDates dates;
        private readonly TimeWindow window;

        internal WindowDates(SeriesDates dates, TimeWindow window)
        {
            this.dates = dates;
            this.window = window;
        }

        /// <summary>Starts at the window's edge, computed, not counted up to.</summary>
        public Enumerator GetEnumerator() => new(dates, window);

        IEnumerator<Occurrence> IEnumerable<Occurrence>.GetEnumerator() => GetEnumerator();

        IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();
    }

    /// <summary>Walks the occurrences of a window.</summary>
    public struct Enumerator : IEnumerator<Occurrence>
    {
        private readonly SeriesDates dates;
        private readonly TimeWindow window;
        private readonly LocalDate lastDay;
        private long number;
        private int given;

        internal Enumerator(SeriesDates dates, TimeWindow window)
        {
            this.dates = dates;
            this.window = window;
            // Offsets between two zones never reach two days, so this margin covers every pair of them.
            var firstDay = window.From.PlusDays(-2 - (int)dates.timing.Length.TotalDays);
            lastDay = window.To.PlusDays(2);
            number = dates.pattern is { } p && dates.Count > 0 ? p.NumberAtOrAfter(firstDay) : 0;
        }

        /// <inheritdoc/>
        public Occurrence Current { readonly get; private set; }

        readonly object IEnumerator.Current => Current;

        /// <inheritdoc/>
        public bool MoveNext()
        {
            for (; number < dates.Count; number++)
            {
                var local = dates.LocalStart(number);
                if (local.Date > lastDay)
                    return false;
                if (dates.IsSkipped(local))
                    continue;
                var span = dates.timing.InstantsOf(local, window.Zone);
                if (span.Start >= window.End || (span.End <= window.Start && span.Start < window.Start))
                    continue;
                if (++given > MaxDates)
                    throw new InvalidInputException("too_many_dates", "to", $"The window holds more than {MaxDates} dates of one series. Ask for a shorter one.");
                Current = new Occurrence(local, span.Start, span.End);
                number++;
                return true;
            }
            return false;
        }

        /// <inheritdoc/>
        public readonly void Reset() => throw new NotSupportedException();

        /// <inheritdoc/>
        public readonly void Dispose()
        {
        }
    }
}
