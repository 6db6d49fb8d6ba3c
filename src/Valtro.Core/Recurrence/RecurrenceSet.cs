using NodaTime;

namespace Valtro.Core.Recurrence;

/// <summary>An added date (RFC 5545, 3.8.5.2, RDATE).</summary>
/// <param name="Start">Its local start, in the set's own terms.</param>
/// <param name="Length">Its own length when it was given as a period; null for the length all dates have.</param>
public readonly record struct AddedDate(LocalDateTime Start, Duration? Length = null);

/// <summary>
/// A start with its rules, added dates and left-out dates (RFC 5545, 3.8.5): all the dates there are, in local time.
/// Without a rule the start itself is a date; with one it is a date only when the rule gives it.
/// </summary>
public sealed class RecurrenceSet
{
    private readonly CompiledRule[] rules;
    private readonly long[] added;
    private readonly long[] leftOut;
    private readonly Dictionary<long, long>? lengths;

    /// <summary>Makes a set.</summary>
    /// <param name="start">The local start; midnight for whole days. Fractions of a second do not count.</param>
    /// <param name="isAllDay">Whether its dates are whole days.</param>
    /// <param name="rules">RRULEs; foreign data may hold several.</param>
    /// <param name="added">RDATEs, in any order.</param>
    /// <param name="leftOut">EXDATEs, in any order; they go before rules and added dates.</param>
    /// <exception cref="InvalidInputException">
    /// <c>rule_contradiction</c>: an hourly or shorter rule for whole days; <c>rule_too_many_steps</c>: a COUNT that takes
    /// too long to count.
    /// </exception>
    public RecurrenceSet(
        LocalDateTime start,
        bool isAllDay,
        IReadOnlyList<RecurrenceRule> rules,
        IReadOnlyList<AddedDate>? added = null,
        IReadOnlyList<LocalDateTime>? leftOut = null)
    {
        IsAllDay = isAllDay;
        this.rules = new CompiledRule[rules.Count];
        for (var i = 0; i < rules.Count; i++)
            this.rules[i] = new CompiledRule(rules[i], start, isAllDay);
        IsEndless = rules.Any(r => r.IsEndless);

        this.added = [];
        if (added is { Count: > 0 } || rules.Count == 0)
        {
            var extra = (added ?? []).Select(a => Civil.Seconds(a.Start));
            this.added = [.. (rules.Count == 0 ? extra.Append(Civil.Seconds(start)) : extra).Distinct().Order()];
            foreach (var date in (added ?? []).Where(a => a.Length is not null))
                (lengths ??= [])[Civil.Seconds(date.Start)] = (long)date.Length!.Value.TotalSeconds;
        }
        this.leftOut = leftOut is { Count: > 0 } ? [.. leftOut.Select(Civil.Seconds).Order()] : [];
    }

    /// <summary>Whether its dates are whole days.</summary>
    public bool IsAllDay { get; }

    /// <summary>Whether it never ends.</summary>
    public bool IsEndless { get; }

    /// <summary>The first local start, or null when there is none.</summary>
    public LocalDateTime? First
    {
        get
        {
            var cursor = From(long.MinValue);
            return cursor.MoveNext() ? Civil.ToLocal(cursor.Current) : null;
        }
    }

    /// <summary>
    /// The last local start; null for an endless or an empty set. Found from the end, whatever the length of the series.
    /// </summary>
    public LocalDateTime? Last
    {
        get
        {
            if (IsEndless)
                return null;
            long? last = added.Length > 0 ? added[^1] : null;
            foreach (var rule in rules)
                last = rule.Last() is { } end && !(last > end) ? end : last;
            if (last is null || !IsLeftOut(last.Value))
                return last is null ? null : Civil.ToLocal(last.Value);
            // The last one is left out, which is rare enough to look at all.
            last = null;
            for (var cursor = From(long.MinValue); cursor.MoveNext();)
                last = cursor.Current;
            return last is null ? null : Civil.ToLocal(last.Value);
        }
    }

    /// <summary>Whether a local start is one of the dates.</summary>
    public bool Contains(LocalDateTime start)
    {
        var second = Civil.Seconds(start);
        var cursor = Between(second, second);
        return cursor.MoveNext();
    }

    /// <summary>The local starts from one on, in order.</summary>
    public IEnumerable<LocalDateTime> StartsFrom(LocalDateTime from)
    {
        for (var cursor = From(Civil.Seconds(from)); cursor.MoveNext();)
            yield return Civil.ToLocal(cursor.Current);
    }

    internal Cursor From(long from) => Between(from, long.MaxValue);

    internal Cursor Between(long from, long through) => new(this, from, through);

    internal long LengthOf(long start, long usual) =>
        lengths is not null && lengths.TryGetValue(start, out var own) ? own : usual;

    private bool IsLeftOut(long start) => Array.BinarySearch(leftOut, start) >= 0;

    /// <summary>Walks the dates in order. Allocates only for sets of several rules.</summary>
    internal struct Cursor
    {
        private readonly RecurrenceSet set;
        private readonly long through;
        private CompiledRule.Cursor rule;
        private readonly CompiledRule.Cursor[]? others;
        private readonly bool[]? othersLeft;
        private bool isRuleLeft;
        private int nextAdded;
        private int nextLeftOut;

        public Cursor(RecurrenceSet set, long from, long through)
        {
            this.set = set;
            this.through = through;
            if (set.rules.Length > 0)
            {
                rule = set.rules[0].Between(from, through);
                isRuleLeft = rule.MoveNext();
            }
            if (set.rules.Length > 1)
            {
                (others, othersLeft) = (new CompiledRule.Cursor[set.rules.Length - 1], new bool[set.rules.Length - 1]);
                for (var i = 0; i < others.Length; i++)
                {
                    others[i] = set.rules[i + 1].Between(from, through);
                    othersLeft[i] = others[i].MoveNext();
                }
            }
            nextAdded = At(set.added, from);
            nextLeftOut = At(set.leftOut, from);
        }

        /// <summary>The local start, in seconds.</summary>
        public long Current { get; private set; }

        public bool MoveNext()
        {
            while (true)
            {
                var next = isRuleLeft ? rule.Current : long.MaxValue;
                if (nextAdded < set.added.Length)
                    next = Math.Min(next, set.added[nextAdded]);
                if (others is not null)
                    next = Math.Min(next, LeastOfOthers());
                if (next > through || next == long.MaxValue)
                    return false;

                // The same date from two of them is one date.
                if (isRuleLeft && rule.Current == next)
                    isRuleLeft = rule.MoveNext();
                if (nextAdded < set.added.Length && set.added[nextAdded] == next)
                    nextAdded++;
                if (others is not null)
                    PassOthers(next);

                while (nextLeftOut < set.leftOut.Length && set.leftOut[nextLeftOut] < next)
                    nextLeftOut++;
                if (nextLeftOut < set.leftOut.Length && set.leftOut[nextLeftOut] == next)
                    continue;
                Current = next;
                return true;
            }
        }

        private readonly long LeastOfOthers()
        {
            var least = long.MaxValue;
            for (var i = 0; i < others!.Length; i++)
            {
                if (othersLeft![i])
                    least = Math.Min(least, others[i].Current);
            }
            return least;
        }

        private readonly void PassOthers(long date)
        {
            for (var i = 0; i < others!.Length; i++)
            {
                if (othersLeft![i] && others[i].Current == date)
                    othersLeft[i] = others[i].MoveNext();
            }
        }

        private static int At(long[] values, long from)
        {
            var index = Array.BinarySearch(values, from);
            return index < 0 ? ~index : index;
        }
    }
}
