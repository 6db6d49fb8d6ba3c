using System.Collections.Immutable;

namespace Valtro.Core.SchoolYears;

/// <summary>Which days a series may lie on.</summary>
public enum SchoolDayChoice
{
    /// <summary>Any day.</summary>
    AnyDay,

    /// <summary>Days in a term.</summary>
    InTerm,

    /// <summary>The school's weekdays in a term.</summary>
    OnSchoolDays,
}

/// <summary>What becomes of a date on a closure.</summary>
public enum ClosureChoice
{
    /// <summary>It stays.</summary>
    Keep,

    /// <summary>It is left out.</summary>
    LeaveOut,

    /// <summary>It moves to the next open day.</summary>
    NextOpenDay,

    /// <summary>It moves to the previous open day.</summary>
    PreviousOpenDay,
}

/// <summary>
/// How a series follows school days: of the dates its rule gives only some are taken, and those on closures are left
/// out or moved. A COUNT counts what is taken.
/// </summary>
public sealed record SchoolDayRule
{
    private SchoolDayRule()
    {
    }

    /// <summary>Which days it may lie on.</summary>
    public SchoolDayChoice Days { get; private init; }

    /// <summary>What becomes of a date on a closure.</summary>
    public ClosureChoice Closures { get; private init; }

    /// <summary>The places in the rotation it lies on, ascending; empty for any.</summary>
    public ImmutableArray<int> CycleDays { get; private init; } = [];

    /// <summary>The alternating weeks it lies in, counted from 1, ascending; empty for any.</summary>
    public ImmutableArray<int> Weeks { get; private init; } = [];

    /// <summary>Whether it has dates only where a school year is kept.</summary>
    public bool NeedsYear => Days != SchoolDayChoice.AnyDay || !CycleDays.IsEmpty || !Weeks.IsEmpty;

    /// <summary>Makes a rule; null when it would change nothing.</summary>
    /// <exception cref="InvalidInputException"><c>cycle_day_unknown</c>, <c>week_unknown</c>.</exception>
    public static SchoolDayRule? Of(SchoolDayChoice days, ClosureChoice closures, IEnumerable<int> cycleDays, IEnumerable<int> weeks)
    {
        ImmutableArray<int> onCycle = [.. cycleDays.Distinct().Order()];
        ImmutableArray<int> inWeeks = [.. weeks.Distinct().Order()];
        if (onCycle.Any(d => d is < 1 or > SchoolYear.MaxCycle))
            throw new InvalidInputException("cycle_day_unknown", "follows.cycleDays", $"A day of the rotation is a number from 1 to {SchoolYear.MaxCycle}.");
        if (inWeeks.Any(w => w is < 1 or > SchoolYear.MaxWeekLetters))
            throw new InvalidInputException("week_unknown", "follows.weeks", $"An alternating week is a number from 1 to {SchoolYear.MaxWeekLetters}.");
        // A day of the rotation is a school day; and who asks for school days does not want shut ones.
        if (!onCycle.IsEmpty)
            days = SchoolDayChoice.OnSchoolDays;
        if (days == SchoolDayChoice.OnSchoolDays && closures == ClosureChoice.Keep)
            closures = ClosureChoice.LeaveOut;
        var rule = new SchoolDayRule { Days = days, Closures = closures, CycleDays = onCycle, Weeks = inWeeks };
        return rule.NeedsYear || closures != ClosureChoice.Keep ? rule : null;
    }

    /// <summary>Rules are the same when they choose the same.</summary>
    public bool Equals(SchoolDayRule? other) =>
        other is not null && Days == other.Days && Closures == other.Closures && CycleDays.SequenceEqual(other.CycleDays) && Weeks.SequenceEqual(other.Weeks);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Days, Closures, CycleDays.Length, Weeks.Length);
}
