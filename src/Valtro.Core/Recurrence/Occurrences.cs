using System.Collections;
using NodaTime;
using Valtro.Core.Time;

namespace Valtro.Core.Recurrence;

/// <summary>
/// The occurrences of one set that touch a stretch of time, in the order of their instants. Starts at the stretch's
/// edge by computing; enumerates without allocating when used in foreach.
/// </summary>
public readonly struct Occurrences : IEnumerable<Occurrence>
{
    /// <summary>The most dates one expansion gives; a limit met is an error, never a silent cut.</summary>
    public const int MaxDates = 100_000;

    private readonly RecurrenceSet set;
    private readonly ZoneTable zone;
    private readonly long length;
    private readonly bool isZoned;
    private readonly long from;
    private readonly long to;

    /// <param name="set">The set.</param>
    /// <param name="zone">The set's own zone; for floating and all-day sets the zone of whoever looks.</param>
    /// <param name="length">How long each date is; elapsed time when zoned, else time on the clock.</param>
    /// <param name="isZoned">Whether the zone is the set's own.</param>
    /// <param name="from">The first instant.</param>
    /// <param name="to">The instant after the last.</param>
    public Occurrences(RecurrenceSet set, DateTimeZone zone, Duration length, bool isZoned, Instant from, Instant to)
        : this(set, ZoneTable.Of(zone), length, isZoned, from, to)
    {
    }

    internal Occurrences(RecurrenceSet set, ZoneTable zone, Duration length, bool isZoned, Instant from, Instant to)
    {
        this.set = set;
        this.zone = zone;
        this.length = (long)length.TotalSeconds;
        this.isZoned = isZoned;
        this.from = from.ToUnixTimeSeconds();
        this.to = to.ToUnixTimeSeconds();
    }

    /// <summary>Starts at the edge.</summary>
    public Enumerator GetEnumerator() => new(this);

    IEnumerator<Occurrence> IEnumerable<Occurrence>.GetEnumerator() => GetEnumerator();

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    /// <summary>Walks the occurrences.</summary>
    public struct Enumerator : IEnumerator<Occurrence>
    {
        private readonly Occurrences all;
        private RecurrenceSet.Cursor dates;
        private int stretch;
        private int given;
        // Times in a gap move past later ones; they wait here for their turn.
        private Queue<Occurrence>? moved;
        private Occurrence held;
        private bool isHeld;
        private bool isDone;
        private long lastStart;

        internal Enumerator(Occurrences all)
        {
            this.all = all;
            // Hours more: over a change of the clocks a date is longer or shorter on the clock than it lasts.
            dates = all.set.Between(all.from + all.zone.LeastOffset - all.length - 3 * 3600, all.to + all.zone.GreatestOffset);
            stretch = -1;
            lastStart = long.MinValue;
        }

        /// <inheritdoc/>
        public Occurrence Current { readonly get; private set; }

        readonly object IEnumerator.Current => Current;

        /// <inheritdoc/>
        public bool MoveNext()
        {
            while (Next() is { } occurrence)
            {
                // Two local times can be the same moment; it is one date then.
                if (occurrence.StartSecond == lastStart)
                    continue;
                lastStart = occurrence.StartSecond;
                if (++given > MaxDates)
                    throw new InvalidInputException("too_many_dates", "to", $"More than {MaxDates} dates lie in this time. Ask for a shorter one.");
                Current = occurrence;
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

        private Occurrence? Next()
        {
            if (moved is null && !isHeld)
            {
                // Nearly always: nothing waits.
                var next = Read();
                if (moved is null)
                    return next;
                (held, isHeld) = (next ?? default, next is not null);
            }
            while (true)
            {
                if (!isHeld && !isDone)
                {
                    var next = Read();
                    (held, isHeld) = (next ?? default, next is not null);
                }
                if (moved is { Count: > 0 } && (!isHeld || moved.Peek().StartSecond <= held.StartSecond))
                    return moved.Dequeue();
                if (!isHeld)
                    return null;
                isHeld = false;
                return held;
            }
        }

        /// <summary>The next date that is not in a gap; those in a gap go aside.</summary>
        private Occurrence? Read()
        {
            while (!isDone && dates.MoveNext())
            {
                var local = dates.Current;
                stretch = stretch < 0 ? all.zone.Find(local) : all.zone.Find(local, stretch);
                var start = all.zone.ToInstant(local, stretch);
                var length = all.set.LengthOf(local, all.length);
                var end = all.isZoned || length == 0 ? start + length : Math.Max(start, all.zone.ToInstant(local + length));
                var isInGap = all.zone.IsInGap(local, stretch);
                if (start >= all.to)
                {
                    if (isInGap)
                        continue;
                    break;
                }
                if (end <= all.from && start < all.from)
                    continue;
                if (!isInGap)
                    return new Occurrence(local, start, end);
                (moved ??= new Queue<Occurrence>()).Enqueue(new Occurrence(local, start, end));
            }
            isDone = true;
            return null;
        }
    }
}
