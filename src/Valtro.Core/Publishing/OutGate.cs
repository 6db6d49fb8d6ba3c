using NodaTime;
using Valtro.Core.Time;
using Valtro.Core.Views;

namespace Valtro.Core.Publishing;

/// <summary>What a publication's choices let out of the views of its events, as of a moment.</summary>
internal sealed class OutGate
{
    private readonly PublicationChoices choices;
    private readonly DateTimeZone zone;
    private readonly (LocalDate? From, LocalDate? After)? days;

    public OutGate(Publication publication, DateTimeZone zone, Instant now)
    {
        (choices, this.zone, Since) = (publication.Choices, zone, Instant.MinValue);
        if (!choices.IsByDay)
            return;
        // What goes out is another with every day.
        var today = now.InZone(zone).Date;
        days = (choices.DaysBack is { } back ? today.PlusDays(-back) : null, choices.DaysAhead is { } ahead ? today.PlusDays(ahead + 1) : null);
        Since = Zones.ToInstant(today.AtMidnight(), zone);
        Until = Zones.ToInstant(today.PlusDays(1).AtMidnight(), zone);
    }

    /// <summary>From when on it lets through the same.</summary>
    public Instant Since { get; }

    /// <summary>Until when; null for always.</summary>
    public Instant? Until { get; }

    /// <summary>What goes out of an event; null for nothing.</summary>
    public EventView? Let(EventView? e)
    {
        // What readers could not stand goes out to none. A series can lose its last date when the school year changes.
        if (e is null || e.Dates.IsTooDense || !choices.ChoosesSome(e))
            return null;
        e = e.Wanted(change => choices.Chooses(e, change));
        if (e is null || new Recurrence.PlainDates(e.Timing, e.Rule, e.Skips, e.Extras).IsNothing)
            return null;
        if (choices.HidesCalledOff)
            e = e.Without(e.Changes.Where(c => c.IsCalledOff).Select(c => c.Date).ToHashSet());
        return e is null || days is not { } bounds || e.Dates.Touches(bounds.From, bounds.After, zone) ? e : null;
    }
}
