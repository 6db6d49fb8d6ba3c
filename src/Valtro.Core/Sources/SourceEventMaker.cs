using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>Makes events of ours of one event that was read.</summary>
internal sealed class SourceEventMaker
{
    private const string NoTitle = "(no title)";

    private readonly ReadEvent origin;
    private readonly ReadEvent read;
    private readonly DateTimeZone zone;
    private readonly Dictionary<string, Guid> categories;
    private readonly List<ReadNote> notes;
    private readonly ImmutableArray<EventFile> files;

    /// <param name="origin">What was read.</param>
    /// <param name="zone">The zone of the calendar it comes to.</param>
    /// <param name="categories">The school's categories by the keys of their names.</param>
    /// <param name="keep">Names a file that stands within it as it is kept; null for one that is left.</param>
    public SourceEventMaker(ReadEvent origin, DateTimeZone zone, Dictionary<string, Guid> categories, Func<InlineFile, EventFile?> keep)
    {
        (this.origin, this.zone, this.categories, notes) = (origin, zone, categories, [.. origin.Notes]);
        read = origin.Timing.Zone is FileZone own ? InKnownZone(origin, own) : origin;
        files = [.. origin.Inline.Select(keep).OfType<EventFile>().DistinctBy(f => f.Id).Take(EventFacts.MaxFiles)];
        if (files.Length < origin.Inline.Length)
            Note("attachment_left", "A file that stands in it is not kept.");
    }

    public IEnumerable<SourceEvent> Make()
    {
        var isSeries = read.Rule is not null || !read.Extras.IsEmpty;
        // A series that is called off as a whole has nobody who would miss one of its dates.
        if (isSeries && read.IsCalledOff)
            return [];
        try
        {
            return [.. isSeries ? Series() : [One(KeyOf(0), read.Timing, read.Title, read.Place, read.Description, IsOff)]];
        }
        catch (InvalidInputException e)
        {
            // What its first start alone would be can always be said.
            Note(e.Code, $"It is kept as one date: {e.Message}");
            return [One(KeyOf(0), read.Timing, read.Title, read.Place, read.Description, IsOff)];
        }
    }

    private bool IsOff => read.IsCalledOff || read.Changes.Any(c => c.IsCalledOff && !c.IsFromHere && c.Date == read.Timing.Start);

    private string KeyOf(int part)
    {
        var uid = read.Uid.Length <= SourceEvent.MaxKey ? read.Uid : Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(read.Uid)));
        return part == 0 ? uid : $"{uid}#{part}";
    }

    // A one-time event; what changes its only date is what it is.
    private SourceEvent One(string key, EventTiming timing, string title, string place, string description, bool isOff)
    {
        if (read.Rule is null && read.Extras.IsEmpty && read.Changes.FirstOrDefault(c => c.Date == timing.Start) is { } only)
            (timing, title, place, description) = (only.Timing, only.Title, only.Place, only.Description);
        var e = Event.Create(Guid.Empty, Guid.Empty, Draft(OnClock(timing), title, place, description, null), Instant.FromUnixTimeTicks(0));
        if (isOff)
            e = e with { Changes = [new EventChange { Date = e.Timing.Start, IsCalledOff = true }] };
        return new SourceEvent(key, e, origin, [.. notes.DistinctBy(n => n.Code)]);
    }

    private IEnumerable<SourceEvent> Series()
    {
        var own = read.Changes.Where(c => !c.IsFromHere).ToList();
        var whole = Event.Create(Guid.Empty, Guid.Empty, Draft(read.Timing, read.Title, read.Place, read.Description, read.Rule), Instant.FromUnixTimeTicks(0));
        var dates = new SeriesDates(whole.Timing, whole.Rule, []);
        whole = whole with
        {
            Skips = Bounded([.. read.Skips.Where(dates.Makes)]),
            // The start of a series without a rule is a date already.
            Extras = Bounded([.. read.Extras.Where(d => !dates.Makes(d))]),
        };
        var alone = new List<(EventTiming Timing, ReadChange Change)>();
        var changes = new List<EventChange>();
        foreach (var change in own)
        {
            // A date of another kind or zone than its series stands for itself (our dates have the series' own form).
            if (InZoneOf(change.Timing, whole.Timing) is { } timing)
                changes.Add(ChangeOf(whole, change, timing));
            else
                alone.Add((change.Timing, change));
        }
        if (alone.Count > 0)
        {
            Note("date_of_other_kind", "One of its dates is of whole days and the others are not, or the other way round; it stands for itself.");
            whole = whole with { Skips = Bounded([.. whole.Skips.Union(alone.Select(a => a.Change.Date).Where(dates.Makes)).Order()]), Extras = [.. whole.Extras.Except(alone.Select(a => a.Change.Date))] };
        }
        whole = whole with { Changes = [.. changes.Where(c => !c.IsEmpty).OrderBy(c => c.Date)] };
        var parts = new List<Event> { whole };
        foreach (var onwards in read.Changes.Where(c => c.IsFromHere).OrderBy(c => c.Date))
            Split(parts, onwards);
        var made = parts.Concat(alone.Select(a => One("", a.Timing, a.Change.Title, a.Change.Place, a.Change.Description, a.Change.IsCalledOff).State)).ToList();
        for (var i = 0; i < made.Count; i++)
            yield return new SourceEvent(KeyOf(i), made[i], origin, [.. notes.DistinctBy(n => n.Code)]);
    }

    // From one date on it goes on otherwise: a series of its own.
    private void Split(List<Event> parts, ReadChange onwards)
    {
        var last = parts[^1];
        if (InZoneOf(onwards.Timing, last.Timing) is not { } timing || !last.Dates.Makes(onwards.Date))
        {
            Note("change_left", "How it changes from one date on is not kept.");
            return;
        }
        var rule = last.Rule is null ? null : MovedRule.Of(last.Rule, onwards.Date.Date, timing.Start.Date);
        var edit = new SeriesEdit(EditScope.FromThisDate, onwards.Date, Draft(timing, onwards.Title, onwards.Place, onwards.Description, rule), Guid.Empty);
        var misfits = last.Changes.ToDictionary(c => c.Date, _ => MisfitChoice.KeepAsEvent);
        var plan = SeriesEditor.Plan(last, edit, misfits, last.CreatedAt, () => Guid.Empty);
        parts[^1] = Fresh(plan.After);
        parts.AddRange(plan.Added.Select(Fresh));
    }

    private static Event Fresh(Event e) => e with { Id = Guid.Empty, Uid = Guid.Empty.ToString("D"), RelatedTo = null, Names = [], Changes = [.. e.Changes.Select(c => c with { At = null })] };

    private EventChange ChangeOf(Event whole, ReadChange change, EventTiming timing)
    {
        string? Other(string text, string series, string said) => text == series ? null : said;
        var title = Line(change.Title, Event.MaxTitle, "title_cut");
        return new EventChange
        {
            Date = change.Date,
            Title = title.Length == 0 ? null : Other(title, whole.Title, title),
            Place = Line(change.Place, Event.MaxPlace, "place_cut") is var place && place == whole.Place ? null : place,
            Description = change.Kept is { } kept ? (Rich("", kept.Description ?? "") is var own && own == whole.Description ? null : own) : change.Description == read.Description && change.Html == read.Html ? null : Rich(change.Description, change.Html) is var rich && rich == whole.Description ? null : rich,
            Timing = timing == whole.Timing.At(change.Date) ? null : timing,
            IsCalledOff = change.IsCalledOff,
            Facts = change is { Categories: null, Links: null, Kept: null }
                ? DateFacts.None
                : DateFacts.Between(Facts(change.Categories ?? read.Categories, change.Links ?? read.Links, change.Kept ?? read.Kept), whole.Facts),
        };
    }

    private EventDraft Draft(EventTiming timing, string title, string place, string description, RecurrenceRule? rule)
    {
        var line = Line(title, Event.MaxTitle, "title_cut");
        return new EventDraft(line.Length == 0 ? NoTitle : line, Line(place, Event.MaxPlace, "place_cut"), read.Kept is { } kept && description == read.Description ? kept.Description ?? "" : Rich(description, description == read.Description ? read.Html : ""), timing, rule, Facts: Facts(read.Categories, read.Links, read.Kept));
    }

    private EventFacts Facts(ImmutableArray<string> said, ImmutableArray<EventLink> named, KeptFields? ours)
    {
        var category = said.Select(c => categories.TryGetValue(Place.NameKey(c), out var id) ? id : (Guid?)null).FirstOrDefault(id => id is not null);
        var tags = said.Where(c => category is null || !categories.TryGetValue(Place.NameKey(c), out var id) || id != category)
            .Select(c => Line(c.TrimStart('#'), EventFacts.MaxTag, "category_cut")).Where(t => t.Length > 0).DistinctBy(t => t.ToLowerInvariant()).ToList();
        if (tags.Count > EventFacts.MaxTags)
            Note("categories_left", $"It has more than {EventFacts.MaxTags} categories; the first are kept.");
        if (ours is { } kept)
        {
            return new EventFacts
            {
                CategoryId = category,
                Tags = [.. tags.Take(EventFacts.MaxTags)],
                Files = files,
                Subtitle = kept.Subtitle ?? "",
                Links = [.. (kept.Links ?? []).Select(l => Checked(new EventLink(l.Kind, l.Label ?? "", l.Address ?? ""))).OfType<EventLink>().Take(EventFacts.MaxLinks)],
                Mark = kept.Mark is >= 1 and <= Calendar.Marks ? kept.Mark : null,
                Size = kept.Size is >= 1 and <= EventFacts.MaxSize ? kept.Size : null,
                IsDraft = kept.IsDraft,
                IsFree = kept.IsFree,
                Reminder = read.Reminder,
            };
        }
        var links = new List<EventLink>();
        foreach (var link in named.DistinctBy(l => l.Address))
        {
            if (links.Count < EventFacts.MaxLinks && Checked(link) is { } good)
                links.Add(good);
            else
                Note("link_left", "One of its links is not kept: it is no web address, or there are too many.");
        }
        return new EventFacts
        {
            CategoryId = category,
            Tags = [.. tags.Take(EventFacts.MaxTags)],
            Files = files,
            Links = [.. links],
            // Whole days take nobody's time anyway, and most programs say so of each.
            IsFree = read.IsFree && read.Timing.Kind != TimeKind.AllDay,
            Reminder = read.Reminder,
        };
    }

    private EventLink? Checked(EventLink link)
    {
        try
        {
            return new EventFacts { Links = [link with { Label = Line(link.Label, EventFacts.MaxSubtitle, "label_cut") }] }.Checked(Guid.Empty).Links[0];
        }
        catch (InvalidInputException)
        {
            return null;
        }
    }

    private ImmutableArray<LocalDateTime> Bounded(ImmutableArray<LocalDateTime> dates)
    {
        if (dates.Length <= Event.MaxSkips)
            return dates;
        Note("too_many_dates_kept", $"More than {Event.MaxSkips} of its dates are added or left out one by one; the first are kept.");
        return dates[..Event.MaxSkips];
    }

    private string Line(string text, int most, string code)
    {
        var line = Texts.Line(text, "", int.MaxValue);
        if (line.Length <= most)
            return line;
        Note(code, $"A text of {line.Length} characters is cut to {most}.");
        // Never within a letter that takes two.
        var cut = char.IsHighSurrogate(line[most - 2]) ? most - 2 : most - 1;
        return line[..cut].TrimEnd() + "…";
    }

    private string Rich(string plain, string html)
    {
        try
        {
            return html.Length > 0 ? RichText.Clean(html, "description", Event.MaxDescription) : RichText.OfPlain(Line(plain));
        }
        catch (InvalidInputException)
        {
            Note("description_cut", $"Its text is longer than {Event.MaxDescription} characters; the beginning is kept, without marks.");
            return RichText.OfPlain(Line(plain.Length > 0 ? plain : RichText.Plain(html.Length > RichText.MaxInput ? "" : html)));
        }

        string Line(string text)
        {
            // What its links add in a rich text counts too.
            if (text.Length <= Event.MaxDescription)
                return text;
            Note("description_cut", $"Its text is longer than {Event.MaxDescription} characters; the beginning is kept, without marks.");
            return text[..(Event.MaxDescription - 2)] + "…";
        }
    }

    // A moment given in UTC is told on the calendar's clock; a series keeps to it, or it would move when the clocks change.
    private EventTiming OnClock(EventTiming timing) =>
        read.Kept is null && timing.Kind == TimeKind.Zoned && timing.Zone == DateTimeZone.Utc && read.Rule is null && read.Extras.IsEmpty
            ? EventTiming.Restore(TimeKind.Zoned, Zones.ToInstant(timing.Start, DateTimeZone.Utc).InZone(zone).LocalDateTime, timing.Length, zone)
            : timing;

    /// <summary>
    /// It in a zone that has a name elsewhere too: the calendar's or another one with the same clock in these years, else the
    /// calendar's with its times told there.
    /// </summary>
    private ReadEvent InKnownZone(ReadEvent e, FileZone own)
    {
        var year = Math.Clamp(e.Timing.Start.Year, 1901, 2190);
        var moments = Enumerable.Range(0, 24).Select(m => new LocalDate(year, 1, 15).PlusMonths(m).AtMidnight().InUtc().ToInstant()).ToList();
        bool IsAlike(DateTimeZone other) => moments.TrueForAll(m => other.GetUtcOffset(m) == own.GetUtcOffset(m));
        var same = IsAlike(zone) ? zone : Zones.Names.Select(n => Zones.Get(n)).FirstOrDefault(IsAlike);
        if (same is null)
            Note("zone_told_otherwise", "Its time zone has no name here; its times are told on the calendar’s clock.");
        LocalDateTime Told(LocalDateTime local) => same is null ? Zones.ToInstant(local, own).InZone(zone).LocalDateTime : local;
        EventTiming Moved(EventTiming t) => t.Zone is FileZone ? EventTiming.Restore(t.Kind, Told(t.Start), t.Length, same ?? zone) : t;
        return e with
        {
            Timing = Moved(e.Timing),
            Skips = [.. e.Skips.Select(Told)],
            Extras = [.. e.Extras.Select(Told)],
            Changes = [.. e.Changes.Select(c => c with { Date = Told(c.Date), Timing = Moved(c.Timing) })],
        };
    }

    private static EventTiming? InZoneOf(EventTiming timing, EventTiming series)
    {
        if (timing.Kind != series.Kind)
            return null;
        return timing.Kind != TimeKind.Zoned || timing.Zone!.Id == series.Zone!.Id
            ? timing
            : EventTiming.Restore(TimeKind.Zoned, Zones.ToInstant(timing.Start, timing.Zone).InZone(series.Zone).LocalDateTime, timing.Length, series.Zone);
    }

    private void Note(string code, string message) => notes.Add(new ReadNote(code, message));
}
