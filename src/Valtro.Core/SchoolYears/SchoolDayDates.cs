using NodaTime;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.SchoolYears;

/// <summary>
/// The dates of a series that follows school days, written so that a reader who knows nothing of school years gets
/// exactly the same: of a rule with dates left out and added, and of dates alone, whichever is shortest.
/// </summary>
public sealed class SchoolDayDates
{
    /// <summary>The most dates of the rule looked at; a limit met is an error.</summary>
    public const int MaxDates = 10_000;

    /// <summary>How far away an open day is looked for, in days.</summary>
    public const int MaxMove = 62;

    private readonly EventTiming timing;
    private readonly RecurrenceRule rule;
    private readonly SchoolDayRule follows;
    private readonly SchoolDays days;
    private readonly Guid calendarId;

    /// <summary>Makes the dates of a series.</summary>
    /// <param name="timing">The start of the rule, in step with it.</param>
    /// <param name="rule">The rule; its COUNT counts the dates taken, its UNTIL holds for them too.</param>
    /// <param name="follows">Which of its dates are taken.</param>
    /// <param name="days">The school's days.</param>
    /// <param name="calendarId">The series' calendar, for closures that are for some calendars only.</param>
    public SchoolDayDates(EventTiming timing, RecurrenceRule rule, SchoolDayRule follows, SchoolDays days, Guid calendarId) =>
        (this.timing, this.rule, this.follows, this.days, this.calendarId) = (timing, rule, follows, days, calendarId);

    /// <summary>Where a date of the rule comes to lie; null when it is not taken.</summary>
    public LocalDateTime? Place(LocalDateTime date)
    {
        var day = days.Day(date.Date);
        var isTaken = follows.Days switch
        {
            SchoolDayChoice.InTerm => day.Term is not null,
            SchoolDayChoice.OnSchoolDays => day.IsSchoolDay,
            _ => true,
        };
        if (!isTaken
            || (!follows.CycleDays.IsEmpty && !(day.CycleDay is { } c && follows.CycleDays.Contains(c)))
            || (!follows.Weeks.IsEmpty && !(day.AlternateWeek is { } w && follows.Weeks.Contains(w))))
            return null;
        if (follows.Closures == ClosureChoice.Keep || days.ClosureOf(date.Date, calendarId) is null)
            return date;
        if (follows.Closures == ClosureChoice.LeaveOut)
            return null;
        var step = follows.Closures == ClosureChoice.NextOpenDay ? 1 : -1;
        for (var i = 1; i <= MaxMove; i++)
        {
            var other = date.Date.PlusDays(i * step);
            if (days.IsOpen(other, calendarId, follows.Days != SchoolDayChoice.AnyDay))
                return rule.Until is { } until && other > until.Date ? null : other.At(date.TimeOfDay);
        }
        return null;
    }

    /// <summary>The date of the rule that lies at a place; null when none does.</summary>
    public LocalDateTime? Origin(LocalDateTime place)
    {
        foreach (var date in Unbounded().Between(place.Date.PlusDays(-MaxMove), place.Date.PlusDays(MaxMove + 1)))
        {
            if (Place(date) == place)
                return date;
        }
        return null;
    }

    /// <summary>The dates, in the shortest form that gives exactly them.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_dates</c>.</exception>
    public PlainDates Plain()
    {
        if (days.KnownUntil is not { } horizon)
            return follows.NeedsYear ? PlainDates.Nothing(timing) : new PlainDates(timing, rule, [], []);
        var all = Unbounded();
        var known = all.From(timing.Start).TakeWhile(d => d.Date <= horizon).Take(MaxDates + 1).ToList();
        if (known.Count > MaxDates)
            throw new InvalidInputException("too_many_dates", "rule", $"This repeat has more than {MaxDates} dates in the school’s years. Let it begin later, or less often.");
        var taken = known.Select(Place).OfType<LocalDateTime>().Distinct().Order().ToList();

        // Beyond the years that are kept nothing is known to leave out.
        var goesOn = !follows.NeedsYear && all.From(horizon.PlusDays(1).AtMidnight()).Any();
        var end = rule.Until;
        if (rule.Count is { } count)
        {
            goesOn &= taken.Count < count;
            if (goesOn)
            {
                var last = all.From(horizon.PlusDays(1).AtMidnight()).Skip(count - taken.Count - 1).First();
                end = EndAt(last);
            }
            taken = [.. taken.Take(count)];
        }
        if (goesOn)
            return Differing(timing, rule.WithEnd(null, end), known, taken);
        return taken.Count == 0 ? PlainDates.Nothing(timing) : Shortest(taken);
    }

    /// <summary>The rule's dates, its COUNT apart.</summary>
    private SeriesDates Unbounded() => new(timing, rule.Count is null ? rule : rule.WithEnd(null, null), []);

    private RuleEnd EndAt(LocalDateTime last) => new(last.Date, rule.GivesOneTimeADay ? null : last.TimeOfDay);

    private PlainDates Shortest(List<LocalDateTime> taken)
    {
        var best = new PlainDates(timing.At(taken[0]), null, [], [.. taken.Skip(1)]);
        foreach (var candidate in Candidates(taken))
        {
            var end = EndAt(taken[^1]);
            var ended = candidate.WithEnd(null, end);
            // A start that its rule does not give is undefined (RFC 5545, 3.8.5.3), and an added date before it is lost on some readers.
            var dates = new SeriesDates(timing.At(taken[0]), ended, []);
            if (dates.First != taken[0])
                continue;
            var plain = Differing(timing.At(taken[0]), ended, [.. dates.FirstStarts(MaxDates)], taken);
            if (Size(plain) <= Size(best))
                best = plain;
        }
        return best;
    }

    /// <summary>The rule itself, and weeks with the weekdays that are taken.</summary>
    private IEnumerable<RecurrenceRule> Candidates(List<LocalDateTime> taken)
    {
        if (rule.GivesOneTimeADay)
        {
            var counts = taken.GroupBy(d => d.DayOfWeek).ToDictionary(g => g.Key, g => g.Count());
            var most = counts.Values.Max();
            foreach (var least in counts.Values.Append(most / 2).Distinct())
            {
                var weekdays = WeekdaySet.Of([.. counts.Where(c => c.Value >= least).Select(c => c.Key)]);
                for (var interval = 1; interval <= 4 && !weekdays.IsEmpty; interval++)
                    yield return new RecurrenceRule(Frequency.Weekly, interval, weekdays);
            }
        }
        // Last, so that it is taken where it is as short: it is what the person said.
        yield return rule.WithEnd(null, null);
    }

    private static PlainDates Differing(EventTiming timing, RecurrenceRule rule, List<LocalDateTime> given, List<LocalDateTime> taken)
    {
        var wanted = taken.ToHashSet();
        var there = given.ToHashSet();
        return new PlainDates(timing, rule, [.. given.Where(d => !wanted.Contains(d))], [.. taken.Where(d => !there.Contains(d))]);
    }

    /// <summary>How many characters it takes in a feed, what all forms need apart.</summary>
    private static int Size(PlainDates plain)
    {
        var value = plain.Timing.Kind == TimeKind.AllDay ? 9 : 16;
        var head = plain.Timing.Kind == TimeKind.AllDay ? 18 : 14 + (plain.Timing.Zone?.Id.Length ?? 0);
        return (plain.Rule is null ? 0 : 8 + plain.Rule.ToICalendar(plain.Timing).Length)
            + (plain.LeftOut.IsEmpty ? 0 : head + value * plain.LeftOut.Length)
            + (plain.Added.IsEmpty ? 0 : head + value * plain.Added.Length);
    }
}
