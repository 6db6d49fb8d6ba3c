using System.Collections.Immutable;
using Valtro.Core.Events;
using Valtro.Core.Proposals;
using Valtro.Core.SchoolYears;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Proposals;

/// <summary>A change made from an older state, laid onto the event as it is now.</summary>
public sealed class EventMergeTests
{
    private static readonly Instant Later = Now + Duration.FromHours(1);
    private static readonly Event Origin = Event(Timed("2026-10-05 09:00", "2026-10-05 10:00"), "FREQ=WEEKLY;COUNT=6");

    private static Event Merge(Event origin, Event changed, Event current, out IReadOnlyList<string> conflicts) =>
        EventMerge.Of(origin, changed, current, Later, SchoolDays.None, out conflicts);

    private static Event Merge(Event changed, Event current)
    {
        var merged = Merge(Origin, changed, current, out var conflicts);
        Assert.Empty(conflicts);
        return merged;
    }

    private static IReadOnlyList<string> Conflicts(Event changed, Event current)
    {
        Merge(Origin, changed, current, out var conflicts);
        return conflicts;
    }

    [Fact]
    public void What_different_people_changed_in_different_fields_both_holds()
    {
        var theirs = Origin with { Place = "Slip 4", Facts = Origin.Facts with { Tags = ["oak"] }, Version = 3 };
        var merged = Merge(Origin with { Title = "Sails", Facts = Origin.Facts with { Subtitle = "In the loft" } }, theirs);
        Assert.Equal(("Sails", "Slip 4", "In the loft", 4), (merged.Title, merged.Place, merged.Facts.Subtitle, merged.Version));
        Assert.Equal(["oak"], merged.Facts.Tags);
    }

    [Fact]
    public void The_same_field_to_different_ends_is_a_conflict_to_the_same_end_is_none()
    {
        Assert.Equal(["title"], Conflicts(Origin with { Title = "Sails" }, Origin with { Title = "Ropes" }));
        Assert.Equal(["facts.tags"], Conflicts(Origin with { Facts = Origin.Facts with { Tags = ["a"] } }, Origin with { Facts = Origin.Facts with { Tags = ["b"] } }));
        var done = Origin with { Title = "Sails", Version = 2 };
        Assert.Same(done, Merge(Origin with { Title = "Sails" }, done));
    }

    [Fact]
    public void Different_dates_of_a_series_are_different_matters()
    {
        var mine = Origin.Skip(At("2026-10-12 09:00"), Now);
        var theirs = Origin.CallOff(At("2026-10-19 09:00"), true, Now).AddDate(At("2026-10-14 15:00"), Now);
        var merged = Merge(mine, theirs);
        Assert.Equal([At("2026-10-12 09:00")], merged.Skips);
        Assert.Equal([At("2026-10-14 15:00")], merged.Extras);
        Assert.Equal((At("2026-10-19 09:00"), true), (merged.Changes.Single().Date, merged.Changes[0].IsCalledOff));
        Assert.Equal(theirs.Sequence + 1, merged.Sequence);

        Assert.Equal(["dates"], Conflicts(Origin.Skip(At("2026-10-19 09:00"), Now), theirs));
    }

    [Fact]
    public void A_change_of_single_dates_does_not_hold_for_a_series_with_other_dates()
    {
        var moved = Origin with { Timing = Timed("2026-10-06 09:00", "2026-10-06 10:00") };
        Assert.Equal(["dates"], Conflicts(Origin.Skip(At("2026-10-12 09:00"), Now), moved));
        // Both in one change do.
        var both = Merge(moved with { Skips = [At("2026-10-13 09:00")] }, Origin with { Place = "Slip 4" });
        Assert.Equal((moved.Timing, "Slip 4", Later), (both.Timing, both.Place, both.TimedAt));
        Assert.Equal([At("2026-10-13 09:00")], both.Skips);
    }

    // Whatever two people change: the merge has each one's changes, or names the field; and turned round it is the same.
    [Fact]
    public void No_change_is_lost_without_being_named()
    {
        var random = new Random(20261126);
        for (var run = 0; run < 3_000; run++)
        {
            var (mine, theirs) = (Touched(random), Touched(random));
            var merged = Merge(Origin, mine, theirs, out var conflicts);
            var turned = Merge(Origin, theirs, mine, out var turnedConflicts);
            Assert.Equal(conflicts.Order(), turnedConflicts.Order());
            foreach (var (name, get) in Parts)
            {
                var (was, a, b, is1, is2) = (get(Origin), get(mine), get(theirs), get(merged), get(turned));
                if (conflicts.Contains(name))
                {
                    Assert.NotEqual(a, b);
                    Assert.Equal((b, a), (is1, is2));
                    continue;
                }
                Assert.Equal(a.Equals(was) ? b : a, is1);
                Assert.Equal(is1, is2);
            }
        }
    }

    private static readonly (string Name, Func<Event, object> Get)[] Parts =
    [
        ("title", e => e.Title),
        ("place", e => e.Place),
        ("facts.subtitle", e => e.Facts.Subtitle),
        ("facts.tags", e => string.Join(',', e.Facts.Tags)),
        ("facts.isFree", e => e.Facts.IsFree),
        ("facts.alsoIn", e => string.Join(',', e.Facts.AlsoIn)),
    ];

    private static Event Touched(Random random)
    {
        var e = Origin;
        string Word() => random.Next(2) == 0 ? "one" : "two";
        if (random.Next(2) == 0)
            e = e with { Title = Word() };
        if (random.Next(2) == 0)
            e = e with { Place = Word() };
        if (random.Next(2) == 0)
            e = e with { Facts = e.Facts with { Subtitle = Word() } };
        if (random.Next(2) == 0)
            e = e with { Facts = e.Facts with { Tags = [Word()] } };
        if (random.Next(2) == 0)
            e = e with { Facts = e.Facts with { IsFree = true } };
        if (random.Next(2) == 0)
            e = e with { Facts = e.Facts with { AlsoIn = ImmutableArray.Create(random.Next(2) == 0 ? Guid.Empty : new Guid("22222222-0000-0000-0000-000000000000")) } };
        return e;
    }
}
