using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Reach;
using Valtro.Core.Time;

namespace Valtro.Core.Publishing;

/// <summary>What a visitor is written of.</summary>
public enum ReaderWish
{
    /// <summary>Changes, once a day at most.</summary>
    Changes,

    /// <summary>The plan of the week to come, each Sunday.</summary>
    Sunday,

    /// <summary>The plan of the week to come, each Friday.</summary>
    Friday,
}

/// <summary>A date as readers were told of it.</summary>
/// <param name="Key">Its name, see <see cref="PublishedOccurrence.Key"/>.</param>
/// <param name="Title">Its title.</param>
/// <param name="Start">When it begins, on the school's clock.</param>
/// <param name="End">When it ends.</param>
/// <param name="IsAllDay">Whether it has no times.</param>
/// <param name="Place">Where; may be empty.</param>
/// <param name="IsCalledOff">Whether it is called off.</param>
/// <param name="Calendars">The names of its calendars, see <see cref="ReaderChoice.NameOf"/>.</param>
/// <param name="Category">Its category; empty for none.</param>
public sealed record ToldDate(string Key, string Title, LocalDateTime Start, LocalDateTime End, bool IsAllDay, string Place, bool IsCalledOff, ImmutableArray<string> Calendars, string Category)
{
    /// <summary>Whether it is among what a reader chose.</summary>
    public bool IsWanted(ReaderChoice choice) =>
        (choice.Off.IsEmpty || Calendars.Any(c => !choice.Off.Contains(c)))
        && (choice.Category.Length == 0 || choice.Category == Category)
        && choice.Words.Split(' ', StringSplitOptions.RemoveEmptyEntries).All(Views.Words.Fold($"{Title} {Place} {Category}").Contains);

    /// <summary>Whether readers are told the same.</summary>
    public bool SaysSame(ToldDate other) =>
        (Title, Start, End, IsAllDay, Place, IsCalledOff) == (other.Title, other.Start, other.End, other.IsAllDay, other.Place, other.IsCalledOff);
}

/// <summary>A difference readers are told of.</summary>
/// <param name="Step">What became of the date.</param>
/// <param name="Date">As it is now, or as it was.</param>
public sealed record ToldDifference(SentStep Step, ToldDate Date);

/// <summary>What readers by mail were told: the dates of some weeks.</summary>
/// <param name="Until">Up to which day, that day not included.</param>
/// <param name="Dates">The dates, in order.</param>
public sealed record ToldDates(LocalDate Until, ImmutableArray<ToldDate> Dates)
{
    /// <summary>How far ahead changes are told.</summary>
    public const int DaysAhead = 60;

    /// <summary>What is told on a day. What goes out without words is not told of.</summary>
    public static ToldDates Of(Projection projection, LocalDate today)
    {
        var until = today.PlusDays(DaysAhead);
        return new ToldDates(until, [.. projection.In(new TimeWindow(today, until, projection.Zone)).Where(d => d.Event.Detail >= Detail.Headlines).Select(d => DateOf(projection, d))]);
    }

    /// <summary>
    /// What is different from what was told before. What comes into sight by itself as days go by is no news, nor what is over; a date
    /// that lies far away now has moved, and one that is not there any more is no longer planned.
    /// </summary>
    /// <param name="before">What was told.</param>
    /// <param name="projection">What goes out.</param>
    /// <param name="today">The day.</param>
    public static IReadOnlyList<ToldDifference> Since(ToldDates before, Projection projection, LocalDate today)
    {
        var now = Of(projection, today);
        var (old, current) = (before.Dates.ToDictionary(d => d.Key), now.Dates.ToDictionary(d => d.Key));
        var found = new List<ToldDifference>();
        foreach (var date in now.Dates)
        {
            if (!old.TryGetValue(date.Key, out var was))
            {
                if (date.Start.Date < before.Until)
                    found.Add(new ToldDifference(SentStep.Added, date));
            }
            else if (!was.SaysSame(date))
            {
                found.Add(new ToldDifference(SentStep.Changed, date));
            }
        }
        foreach (var date in before.Dates.Where(d => !current.ContainsKey(d.Key)))
        {
            if (projection.Find(date.Key) is { } moved)
            {
                // It lies before today or beyond what is told: only what was moved there is news.
                if (DateOf(projection, moved) is var there && !there.SaysSame(date))
                    found.Add(new ToldDifference(SentStep.Changed, there));
            }
            else if (date.End.Date >= today)
            {
                found.Add(new ToldDifference(SentStep.Removed, date));
            }
        }
        return [.. found.OrderBy(d => d.Date.Start).ThenBy(d => d.Date.Key, StringComparer.Ordinal)];
    }

    private static ToldDate DateOf(Projection projection, PublishedOccurrence d) => new(
        d.Key, d.Title!, d.Span.Start, d.Span.End, d.Event.Timing.Kind == TimeKind.AllDay, d.Place ?? "", d.IsCalledOff,
        [.. d.Event.Calendars.Select(c => ReaderChoice.NameOf(projection.Publication, c.Id))], d.Category ?? "");
}
