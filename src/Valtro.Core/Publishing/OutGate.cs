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
        if (e is null || e.Dates.IsTooDense || new Recurrence.PlainDates(e.Timing, e.Rule, e.Skips, e.Extras).IsNothing || !choices.Chooses(e))
            return null;
        if (choices.HidesCalledOff && e.Changes.Any(c => c.IsCalledOff))
        {
            var off = e.Changes.Where(c => c.IsCalledOff).Select(c => c.Date).ToHashSet();
            e = e with { Skips = [.. e.Skips.Concat(off).Distinct().Order()], Changes = e.Changes.RemoveAll(c => off.Contains(c.Date)), Extras = e.Extras.RemoveAll(off.Contains) };
            // A date that was all there is leaves nothing.
            if (e.Rule is null && e.Extras.IsEmpty && off.Contains(e.Timing.Start))
                return null;
        }
        return days is not { } bounds || e.Dates.Touches(bounds.From, bounds.After, zone) ? e : null;
    }
}
