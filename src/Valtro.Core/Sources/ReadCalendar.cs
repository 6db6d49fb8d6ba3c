using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>Something of an event that was read otherwise than it stands there, or could not be kept.</summary>
/// <param name="Code">A stable code.</param>
/// <param name="Message">A sentence for a person.</param>
public sealed record ReadNote(string Code, string Message);

/// <summary>What differs on one date of a series, or from one date on.</summary>
/// <param name="Date">Which date, in the series' own local time.</param>
/// <param name="Timing">When it is.</param>
/// <param name="Title">Its title.</param>
/// <param name="Place">Where.</param>
/// <param name="Description">Its text.</param>
/// <param name="IsCalledOff">Whether it is called off.</param>
/// <param name="IsFromHere">Whether all later dates differ in the same way (RFC 5545, 3.2.13).</param>
/// <param name="Html">Its text with marks, as it came; empty where there is only a plain one.</param>
public sealed record ReadChange(LocalDateTime Date, EventTiming Timing, string Title, string Place, string Description, bool IsCalledOff, bool IsFromHere, string Html = "")
{
    /// <summary>Its categories; null where the date says none of its own.</summary>
    public ImmutableArray<string>? Categories { get; init; }

    /// <summary>Its own address and what is attached, as they came; null where the date says none of its own.</summary>
    public ImmutableArray<EventLink>? Links { get; init; }

    /// <summary>Of a file we wrote ourselves for keeping, what iCalendar has no words for; null of others.</summary>
    public KeptFields? Kept { get; init; }
}

/// <summary>A file that stands within a calendar file (RFC 5545, 3.8.1.1, as BINARY).</summary>
/// <param name="Name">Its name; may be empty.</param>
/// <param name="Bytes">Its contents: nothing of them is checked.</param>
public sealed record InlineFile(string Name, ReadOnlyMemory<byte> Bytes);

/// <summary>An event of a file; a series with what differs on its dates is one.</summary>
public sealed record ReadEvent
{
    /// <summary>Its identity in the file; made from what it says when it has none, so that reading twice gives the same.</summary>
    public required string Uid { get; init; }

    /// <summary>Its title; may be empty.</summary>
    public string Title { get; init; } = "";

    /// <summary>Where.</summary>
    public string Place { get; init; } = "";

    /// <summary>Its text.</summary>
    public string Description { get; init; } = "";

    /// <summary>Its text with marks, as it came: not clean. Empty where there is only a plain one.</summary>
    public string Html { get; init; } = "";

    /// <summary>When it first is.</summary>
    public required EventTiming Timing { get; init; }

    /// <summary>The rule of a series; null for a one-time event.</summary>
    public RecurrenceRule? Rule { get; init; }

    /// <summary>Local starts added, ascending.</summary>
    public ImmutableArray<LocalDateTime> Extras { get; init; } = [];

    /// <summary>Local starts left out, ascending.</summary>
    public ImmutableArray<LocalDateTime> Skips { get; init; } = [];

    /// <summary>What differs on single dates, ascending.</summary>
    public ImmutableArray<ReadChange> Changes { get; init; } = [];

    /// <summary>Whether all of it is called off.</summary>
    public bool IsCalledOff { get; init; }

    /// <summary>Whether it is a date by which something is due.</summary>
    public bool IsDue { get; init; }

    /// <summary>Its categories.</summary>
    public ImmutableArray<string> Categories { get; init; } = [];

    /// <summary>Its own address, those of what is attached, and of where it can be taken part in from afar; as they came.</summary>
    public ImmutableArray<EventLink> Links { get; init; } = [];

    /// <summary>Files that stand within it.</summary>
    public ImmutableArray<InlineFile> Inline { get; init; } = [];

    /// <summary>Whether it leaves the time free.</summary>
    public bool IsFree { get; init; }

    /// <summary>Minutes before the start at which to remind; null for not at all.</summary>
    public int? Reminder { get; init; }

    /// <summary>What it says in words of its program’s own, name by name (RFC 5545, 3.8.8.2), as far as they are short.</summary>
    public ImmutableArray<KeyValuePair<string, string>> Others { get; init; } = [];

    /// <summary>Of a file we wrote ourselves for keeping, what iCalendar has no words for; null of others.</summary>
    public KeptFields? Kept { get; init; }

    /// <summary>When it was made, changed, and how often moved, as the file says; null where it does not.</summary>
    public (Instant Created, Instant Changed, int Sequence)? Stamps { get; init; }

    /// <summary>The UID of the event it was split off from; null for none.</summary>
    public string? RelatedTo { get; init; }

    /// <summary>What was read otherwise, or could not be kept.</summary>
    public ImmutableArray<ReadNote> Notes { get; init; } = [];

    /// <summary>Its dates that begin within some days, in order, as they are after all changes.</summary>
    /// <param name="from">The first day.</param>
    /// <param name="to">The day after the last.</param>
    /// <exception cref="InvalidInputException"><c>too_many_dates</c>, <c>rule_too_many_steps</c>.</exception>
    public IEnumerable<(EventTiming Timing, bool IsCalledOff)> Dates(LocalDate from, LocalDate to)
    {
        var own = Changes.Where(c => !c.IsFromHere).ToDictionary(c => c.Date);
        var onwards = Changes.Where(c => c.IsFromHere).ToList();
        var found = new List<(EventTiming Timing, bool IsCalledOff)>();
        // What was moved may have come from far away: moves are looked at by themselves, shifts by how far they go.
        var shift = onwards.Count == 0 ? 0 : onwards.Max(c => Math.Abs(Period.DaysBetween(c.Date.Date, c.Timing.Start.Date))) + 1;
        if (Rule is null && Extras.IsEmpty)
        {
            found.Add(own.TryGetValue(Timing.Start, out var only) ? (only.Timing, only.IsCalledOff) : (Timing, false));
        }
        else
        {
            var dates = new SeriesDates(Timing, Rule, Skips, Extras);
            foreach (var date in dates.Between(from.PlusDays(-shift), to.PlusDays(shift)).Where(d => Skips.BinarySearch(d) < 0 && !own.ContainsKey(d)))
            {
                if (onwards.LastOrDefault(c => c.Date <= date) is { } change)
                    found.Add((change.Timing.At(date.Plus(Period.Between(change.Date, change.Timing.Start, PeriodUnits.AllTimeUnits | PeriodUnits.Days))), change.IsCalledOff));
                else
                    found.Add((Timing.At(date), false));
            }
            found.AddRange(own.Values.Select(c => (c.Timing, c.IsCalledOff)));
        }
        return found
            .Where(d => d.Timing.Start.Date >= from && d.Timing.Start.Date < to)
            .Select(d => (d.Timing, d.IsCalledOff || IsCalledOff))
            .OrderBy(d => d.Timing.Start).ThenBy(d => d.Timing.Length);
    }
}

/// <summary>Something of a file that was left, and how often.</summary>
public sealed record LeftOut(string What, int Count);

/// <summary>What a file holds.</summary>
/// <param name="Name">The name it gives itself; may be empty.</param>
/// <param name="Events">Its events, in the order of the file.</param>
/// <param name="Left">What was left.</param>
public sealed record ReadCalendar(string Name, IReadOnlyList<ReadEvent> Events, IReadOnlyList<LeftOut> Left)
{
    /// <summary>Whether it ends as it should; what came over a line that broke does not.</summary>
    public bool IsWhole { get; init; } = true;

    /// <summary>How often it wishes to be read (RFC 7986, 5.7, REFRESH-INTERVAL; X-PUBLISHED-TTL); null when it does not say.</summary>
    public Duration? Refresh { get; init; }
}
