using System.Collections.Immutable;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Recurrence;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>
/// Reads calendar files as they are found (RFC 5545, and what is written in its name): whatever can be understood is, what was read
/// otherwise than it stands there is noted, and what cannot be kept is told. It never fails for one bad event.
/// </summary>
public sealed partial class CalendarReader
{
    /// <summary>The largest file, in bytes.</summary>
    public const int MaxBytes = 50_000_000;

    /// <summary>The most events and other components of a file.</summary>
    public const int MaxComponents = 200_000;

    /// <summary>The most dates of one event that are added, left out or changed one by one.</summary>
    public const int MaxAdded = 5_000;

    /// <summary>The most rules of a file that can be worked out to no end: each takes its time.</summary>
    public const int MaxBadRules = 8;

    // Longer ones are no codes people sort by.
    private const int MaxOther = 200;

    private int badRules;

    private readonly DateTimeZone fallback;
    private readonly SourceZones zones;
    private readonly bool isCancelled;
    private readonly SortedDictionary<string, int> left = new(StringComparer.Ordinal);

    private CalendarReader(DateTimeZone fallback, SourceZones zones, bool isCancelled) => (this.fallback, this.zones, this.isCancelled) = (fallback, zones, isCancelled);

    /// <summary>Reads a file.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="zone">The zone of times whose own zone nothing tells.</param>
    /// <exception cref="InvalidInputException">
    /// <c>file_empty</c>, <c>file_too_large</c>, <c>web_page</c>: a page, as many addresses give; <c>not_a_calendar</c>; <c>too_many_components</c>;
    /// <c>nested_too_deep</c>; <c>too_many_bad_rules</c>.
    /// </exception>
    public static ReadCalendar Read(ReadOnlySpan<byte> bytes, DateTimeZone zone)
    {
        if (bytes.Length > MaxBytes)
            throw new InvalidInputException("file_too_large", "", $"A file has {MaxBytes / 1_000_000} MB at most.");
        var start = bytes.StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]) ? bytes[3..] : bytes;
        if (start.TrimStart(" \t\r\n"u8) is [(byte)'[', ..] json && JsonSource.Read(json.ToArray(), MaxComponents, out var unreadable) is { } document && document.Components.Exists(c => c.Name == "VCALENDAR"))
            return OfComponents(document, unreadable, zone);
        if (start.TrimStart(" \t\r\n"u8) is [(byte)'{', ..] plain && PlainSource.Read(plain, zone, MaxComponents) is { } dates)
            return dates;
        var lines = SourceText.Lines(bytes, out var wasForeign);
        if (lines.Count == 0)
            throw new InvalidInputException("file_empty", "", "The file is empty.");
        var root = SourceComponent.Read(lines, MaxComponents, out var unread);
        if (!root.Components.Exists(c => c.Name == "VCALENDAR"))
        {
            var head = string.Concat(lines.Take(5)).TrimStart();
            throw head.StartsWith("<!doctype html", StringComparison.OrdinalIgnoreCase) || head.StartsWith("<html", StringComparison.OrdinalIgnoreCase)
                ? new InvalidInputException("web_page", "", "This is a web page, not a calendar. Look for the address of the feed on it.")
                : new InvalidInputException("not_a_calendar", "", "This is no calendar file: nowhere in it does a calendar begin.");
        }
        var read = OfComponents(root, unread, zone);
        if (wasForeign)
            read = read with { Events = [.. read.Events.Select(e => e.Title.Concat(e.Place).Concat(e.Description).Any(c => c > 127) ? e with { Notes = e.Notes.Add(Note("encoding_guessed")) } : e)] };
        return read with
        {
            IsWhole = lines.FindLastIndex(l => l.Trim().Equals("END:VCALENDAR", StringComparison.OrdinalIgnoreCase)) > lines.FindLastIndex(l => l.Trim().Equals("BEGIN:VCALENDAR", StringComparison.OrdinalIgnoreCase)),
        };
    }

    private static ReadCalendar OfComponents(SourceComponent root, int unread, DateTimeZone zone)
    {
        var calendars = root.Components.Where(c => c.Name == "VCALENDAR").ToList();
        var (events, left) = (new List<ReadEvent>(), new SortedDictionary<string, int>(StringComparer.Ordinal));
        foreach (var calendar in calendars)
        {
            var home = calendar.Property("X-WR-TIMEZONE") is { } named && SourceZones.Named(named.Value.Trim()) is { } known ? known : zone;
            var reader = new CalendarReader(
                home, new SourceZones(calendar.Components.Where(c => c.Name == "VTIMEZONE")), string.Equals(calendar.Property("METHOD")?.Value.Trim(), "CANCEL", StringComparison.OrdinalIgnoreCase));
            events.AddRange(reader.Events(calendar));
            foreach (var (what, count) in reader.left)
                left[what] = left.GetValueOrDefault(what) + count;
        }
        foreach (var other in root.Components.Where(c => c.Name != "VCALENDAR"))
            left[other.Name] = left.GetValueOrDefault(other.Name) + 1;
        if (unread > 0)
            left["line"] = unread;
        var name = calendars.Select(c => (c.Property("NAME") ?? c.Property("X-WR-CALNAME"))?.Text).FirstOrDefault(n => !string.IsNullOrEmpty(n)) ?? "";
        var refresh = calendars.SelectMany(c => new[] { c.Property("REFRESH-INTERVAL"), c.Property("X-PUBLISHED-TTL") }).Select(p => SourceValues.DurationOf(p?.Value)).FirstOrDefault(d => d is { IsBack: false });
        return new ReadCalendar(name, events, [.. left.Select(l => new LeftOut(l.Key, l.Value))])
        {
            Refresh = refresh is { } r ? Duration.FromDays(r.Days) + r.Time : null,
        };
    }

    private void Leave(string what) => left[what] = left.GetValueOrDefault(what) + 1;

    private IEnumerable<ReadEvent> Events(SourceComponent calendar)
    {
        var parts = new List<(string Uid, SourceComponent Component)>();
        foreach (var component in calendar.Components)
        {
            if (component.Name is "VEVENT" or "VTODO")
                parts.Add((component.Property("UID")?.Value.Trim() is { Length: > 0 } uid ? uid : MadeUid(component), component));
            else if (component.Name is not ("VTIMEZONE" or ""))
                Leave(component.Name);
        }
        foreach (var group in parts.GroupBy(p => p.Uid, StringComparer.Ordinal))
        {
            // Of the same said several times the highest revision counts, then what was changed last, then what stands last.
            var said = group.Select((p, i) => (p.Component, Order: i)).GroupBy(p => p.Component.Property("RECURRENCE-ID")?.Value.Trim() ?? "", StringComparer.Ordinal)
                .Select(same => (Id: same.Key, Component: same.OrderBy(s => Sequence(s.Component)).ThenBy(s => Stamp(s.Component)).ThenBy(s => s.Order).Last().Component, First: same.Min(s => s.Order), HasOthers: same.Count() > 1))
                .OrderBy(s => s.First).ToList();
            var master = said.FirstOrDefault(s => s.Id.Length == 0).Component;
            var overrides = said.Where(s => s.Id.Length > 0).Select(s => s.Component).ToList();
            var notes = new List<ReadNote>();
            if (said.Any(s => s.HasOthers))
                notes.Add(Note("said_several_times"));
            if (master is not null && Series(group.Key, master, overrides, notes) is { } series)
            {
                yield return series;
                continue;
            }
            // What differs from a series that is not there stands for itself.
            foreach (var alone in overrides)
            {
                if (Single($"{group.Key}/{alone.Property("RECURRENCE-ID")!.Value.Trim()}", alone, [Note("series_missing")]) is { } one)
                    yield return one;
            }
        }
    }

    private ReadEvent? Single(string uid, SourceComponent component, List<ReadNote> notes)
    {
        if (TimingOf(component, notes) is not { } timing)
        {
            Leave($"{component.Name} without a readable date");
            return null;
        }
        var title = (component.Property("SUMMARY")?.Text ?? "").ReplaceLineEndings(" ");
        if (title.Length == 0)
            notes.Add(Note("title_missing"));
        if (component.Property("ATTENDEE") is not null)
            notes.Add(Note("people_left"));
        if (component.Property("GEO") is not null)
            notes.Add(Note("position_left"));
        if (Is(component, "STATUS", "TENTATIVE"))
            notes.Add(Note("status_left"));
        var attached = component.All("ATTACH").ToList();
        var inline = attached.Select(InlineOf).OfType<InlineFile>().ToImmutableArray();
        if (attached.Count(a => !IsAddress(a.Value)) > inline.Length)
            notes.Add(Note("attachment_left"));
        if (attached.Any(a => IsAddress(a.Value)))
            notes.Add(Note("attachment_as_link"));
        var reminder = component.Components.Where(c => c.Name == "VALARM").Select(MinutesBefore).ToList();
        if (reminder.Count > 1 || reminder.Contains(null))
            notes.Add(Note("reminder_left"));
        var description = component.Property("DESCRIPTION")?.Text ?? "";
        var html = component.Property("X-ALT-DESC")?.Text ?? (IsMarked().IsMatch(description) ? description : "");
        return new ReadEvent
        {
            Uid = uid,
            Title = title,
            Place = (component.Property("LOCATION")?.Text ?? "").ReplaceLineEndings(" "),
            Description = description,
            Html = html,
            Timing = timing,
            IsCalledOff = isCancelled || Is(component, "STATUS", "CANCELLED"),
            IsFree = Is(component, "TRANSP", "TRANSPARENT"),
            Kept = KeptFields.Read(component.Property(KeptFields.Name)?.Text),
            Stamps = Moment(component, "CREATED") is { } created && Moment(component, "LAST-MODIFIED") is { } changed ? (created, changed, (int)Math.Clamp(Sequence(component), 0, 1_000_000)) : null,
            RelatedTo = component.Property("RELATED-TO")?.Text,
            Reminder = reminder.FirstOrDefault(r => r is not null),
            Links = LinksOf(component),
            Inline = inline,
            Others = [.. component.Properties.Where(p => p.Name.StartsWith("X-", StringComparison.Ordinal) && p.Value.Length is > 0 and <= MaxOther).Select(p => KeyValuePair.Create(p.Name, p.Text)).Where(p => p.Value.Length > 0)],
            IsDue = component.Name == "VTODO",
            Categories = CategoriesOf(component),
            Notes = [.. notes],
        };
    }

    private static InlineFile? InlineOf(SourceProperty attached)
    {
        if (!string.Equals(attached.Parameter("ENCODING"), "BASE64", StringComparison.OrdinalIgnoreCase))
            return null;
        var bytes = new byte[attached.Value.Length];
        return Convert.TryFromBase64String(attached.Value.Trim(), bytes, out var length) && length > 0
            ? new InlineFile(attached.Parameter("FILENAME") ?? attached.Parameter("X-FILENAME") ?? attached.Parameter("X-APPLE-FILENAME") ?? "", bytes.AsMemory(0, length))
            : null;
    }

    private static ImmutableArray<string> CategoriesOf(SourceComponent component) => [.. component.All("CATEGORIES").SelectMany(p => p.Texts).Distinct(StringComparer.Ordinal)];

    // Its own address, what is attached, and where it can be taken part in from afar.
    private static ImmutableArray<EventLink> LinksOf(SourceComponent component) =>
    [
        .. component.Property("URL")?.Value.Trim() is { Length: > 0 } address ? new[] { new EventLink(LinkKind.More, "", address) } : [],
        .. component.All("CONFERENCE").Where(c => IsAddress(c.Value)).Select(c => new EventLink(LinkKind.Video, c.Parameter("LABEL") ?? "", c.Value.Trim())),
        .. component.All("ATTACH").Where(a => IsAddress(a.Value)).Select(a => new EventLink(LinkKind.More, a.Parameter("FILENAME") ?? a.Parameter("X-FILENAME") ?? "", a.Value.Trim())),
    ];

    private ReadEvent? Series(string uid, SourceComponent master, List<SourceComponent> overrides, List<ReadNote> notes)
    {
        if (Single(uid, master, notes) is not { } first)
            return null;
        var timing = first.Timing;
        var (isAllDay, zone) = (timing.Kind == TimeKind.AllDay, timing.Zone);
        var (skips, extras) = (new SortedSet<LocalDateTime>(), new SortedSet<LocalDateTime>());
        var lengths = new Dictionary<LocalDateTime, Duration>();
        RecurrenceRule? rule = null;
        foreach (var text in master.All("RRULE").Select(p => p.Value))
        {
            var read = SourceRules.Read(text, timing.Start, isAllDay, zone);
            if (read.Problem is { } problem)
                notes.Add(Note(problem));
            if (read.Rule is not { } own || !IsBearable(timing, own, notes))
                continue;
            if (read.Until is { } until)
                skips.UnionWith(Starts(timing, own, until.InZone(zone!).Date.PlusDays(-1)).Take(MaxAdded).Where(s => Zones.ToInstant(s, zone!) > until));
            if (rule is null)
            {
                rule = own;
                continue;
            }
            // One rule is kept; what another adds stands there date by date, as far as that goes.
            notes.Add(Note("several_rules"));
            extras.UnionWith(Starts(timing, own, timing.Start.Date).Take(MaxAdded));
        }
        // Worked out once, whoever asks.
        var dates = rule is null ? null : new SeriesDates(timing, rule, []);
        foreach (var (moment, length) in Bounded(master.All("RDATE").SelectMany(Moments), notes))
        {
            var local = LocalIn(moment, timing);
            extras.Add(local);
            if (length is { } other && other != timing.Length)
                lengths[local] = other;
        }
        var daysLeftOut = new HashSet<LocalDate>();
        foreach (var (moment, _) in Bounded(master.All("EXDATE").SelectMany(Moments), notes))
        {
            if (moment.IsDate && !isAllDay && daysLeftOut.Add(moment.Local.Date))
                skips.UnionWith((dates?.From(moment.Local) ?? [timing.Start]).TakeWhile(s => s.Date == moment.Local.Date));
            else if (moment.IsDate && !isAllDay)
                continue;
            else
                skips.Add(LocalIn(moment, timing));
        }
        skips.UnionWith(extras.Where(e => daysLeftOut.Contains(e.Date)).ToList());
        foreach (var text in master.All("EXRULE").Select(p => p.Value))
        {
            notes.Add(Note("leaving_rule"));
            if (SourceRules.Read(text, timing.Start, isAllDay, zone).Rule is { } leaving && IsBearable(timing, leaving, notes))
                skips.UnionWith(Starts(timing, leaving, timing.Start.Date).Take(MaxAdded));
        }
        // A start its rule does not give is a date all the same (RFC 5545, 3.8.2.4).
        if (dates is not null && !dates.Makes(timing.Start))
        {
            notes.Add(Note("start_out_of_step"));
            extras.Add(timing.Start);
        }
        if (rule is null && extras.Count > 0)
            extras.Add(timing.Start);
        extras.ExceptWith(skips);
        var changes = Changes(first, dates, extras, skips, overrides, notes);
        foreach (var (date, length) in lengths.Where(l => extras.Contains(l.Key)))
        {
            if (changes.All(c => c.Date != date))
                changes.Add(new ReadChange(date, EventTiming.Restore(timing.Kind, date, length, zone), first.Title, first.Place, first.Description, false, false));
        }
        return first with
        {
            Rule = rule,
            Extras = [.. extras],
            Skips = [.. skips],
            Changes = [.. changes.OrderBy(c => c.Date)],
            Notes = [.. notes.DistinctBy(n => n.Code)],
        };
    }

    private List<ReadChange> Changes(ReadEvent series, SeriesDates? dates, SortedSet<LocalDateTime> extras, SortedSet<LocalDateTime> skips, List<SourceComponent> overrides, List<ReadNote> notes)
    {
        var changes = new List<ReadChange>();
        foreach (var own in Bounded(overrides, notes))
        {
            var id = own.Property("RECURRENCE-ID")!;
            if (SourceValues.Moment(id) is not { } moment)
            {
                Leave("change of a date that cannot be read");
                continue;
            }
            var date = LocalIn(moment, series.Timing);
            // A day names the date on it.
            if (moment.IsDate && series.Timing.Kind != TimeKind.AllDay)
                date = (dates?.From(moment.Local).Take(1) ?? [series.Timing.Start]).Concat(extras).FirstOrDefault(s => s.Date == moment.Local.Date, moment.Local.Date + series.Timing.Start.TimeOfDay);
            var mine = new List<ReadNote>();
            var timing = TimingOf(own, mine) ?? series.Timing.At(date);
            notes.AddRange(mine);
            var isFromHere = string.Equals(id.Parameter("RANGE"), "THISANDFUTURE", StringComparison.OrdinalIgnoreCase);
            if (isFromHere)
                notes.Add(Note("changed_onwards"));
            else if (!(dates?.Makes(date) ?? date == series.Timing.Start) && !extras.Contains(date))
            {
                notes.Add(Note("change_without_date"));
                extras.Add(date);
            }
            // Left out and changed at once: what is written out in full is there.
            skips.Remove(date);
            // What says its title says all of it; a change that says little else says only that.
            var isWhole = own.Property("SUMMARY") is not null;
            string Text(string name, string otherwise) => own.Property(name)?.Text ?? (isWhole ? "" : otherwise);
            var kept = KeptFields.Read(own.Property(KeptFields.Name)?.Text);
            changes.Add(new ReadChange(
                date, timing, Text("SUMMARY", series.Title).ReplaceLineEndings(" "), Text("LOCATION", series.Place).ReplaceLineEndings(" "), Text("DESCRIPTION", series.Description),
                isCancelled || Is(own, "STATUS", "CANCELLED"), isFromHere, kept?.Description ?? own.Property("X-ALT-DESC")?.Text ?? "")
            {
                // Other programs leave out of a change what is as on every date; ours say all of it.
                Categories = kept is null && own.Property("CATEGORIES") is null ? null : CategoriesOf(own),
                Links = LinksOf(own) is { IsEmpty: false } links ? links : null,
                Kept = kept,
            });
        }
        return [.. changes.GroupBy(c => (c.Date, c.IsFromHere)).Select(g => g.Last())];
    }

    // A few thousand are a long life's; more are nobody's.
    private static IEnumerable<T> Bounded<T>(IEnumerable<T> all, List<ReadNote> notes)
    {
        var count = 0;
        foreach (var one in all)
        {
            if (++count > MaxAdded)
            {
                notes.Add(Note("too_many_dates_named"));
                yield break;
            }
            yield return one;
        }
    }

    private bool IsBearable(EventTiming timing, RecurrenceRule rule, List<ReadNote> notes)
    {
        try
        {
            if (new SeriesDates(timing, rule, []).First is null)
                throw new InvalidInputException("rule_without_dates", "rule", "No date fits all its parts.");
            RuleBudget.Check(timing, rule);
            return true;
        }
        catch (InvalidInputException e)
        {
            notes.Add(new ReadNote(e.Code, $"Its rule cannot be kept, so it stands there once: {e.Message}"));
            return e.Code == "rule_too_dense" || ++badRules <= MaxBadRules ? false : throw new InvalidInputException("too_many_bad_rules", "", $"More than {MaxBadRules} rules in this file can be worked out to no end.");
        }
    }

    private static IEnumerable<LocalDateTime> Starts(EventTiming timing, RecurrenceRule rule, LocalDate from) => new SeriesDates(timing, rule, []).From(from.AtMidnight());

    /// <summary>When a component is; null when nothing readable says so.</summary>
    private EventTiming? TimingOf(SourceComponent component, List<ReadNote> notes)
    {
        var isTask = component.Name == "VTODO";
        var due = isTask ? SourceValues.Moment(component.Property("DUE")) : null;
        if ((due ?? SourceValues.Moment(component.Property("DTSTART"))) is not { } start)
            return null;
        // What is due has a moment, and no length.
        var end = isTask ? null : SourceValues.Moment(component.Property("DTEND"));
        var duration = isTask ? null : SourceValues.DurationOf(component.Property("DURATION")?.Value);
        if (!isTask && component.Property("DTEND") is not null && end is null)
            notes.Add(Note("end_unreadable"));
        try
        {
            return start.IsDate ? DaysOf(start, end, duration, notes) : TimesOf(start, end, duration, notes);
        }
        catch (InvalidInputException e)
        {
            notes.Add(new ReadNote(e.Code, e.Message));
            return start.IsDate ? EventTiming.AllDay(start.Local.Date, start.Local.Date) : TimesOf(start, null, null, notes);
        }
    }

    private static EventTiming DaysOf(SourceMoment start, SourceMoment? end, (int Days, Duration Time, bool IsBack)? duration, List<ReadNote> notes)
    {
        var first = start.Local.Date;
        // The end is the day after the last (RFC 5545, 3.6.1).
        var after = end is { } e ? (e.IsDate || e.Local.TimeOfDay == LocalTime.Midnight ? e.Local.Date : e.Local.Date.PlusDays(1)) : duration is { IsBack: false } d ? first.PlusDays(d.Days + (d.Time > Duration.Zero ? (int)Math.Ceiling(d.Time.TotalDays) : 0)) : first.PlusDays(1);
        if (end is { IsDate: false })
            notes.Add(Note("end_of_other_kind"));
        if (after < first)
            notes.Add(Note("end_before_start"));
        return EventTiming.AllDay(first, after <= first ? first : after.PlusDays(-1));
    }

    private EventTiming TimesOf(SourceMoment start, SourceMoment? end, (int Days, Duration Time, bool IsBack)? duration, List<ReadNote> notes)
    {
        var zone = ZoneOf(start, notes);
        if (zone is null)
        {
            var to = end is { } e ? (e.IsUtc ? e.Local.InUtc().WithZone(fallback).LocalDateTime : e.Local) : After(start.Local, duration);
            if (to < start.Local)
                notes.Add(Note("end_before_start"));
            return Whole(EventTiming.Floating(start.Local, to < start.Local ? start.Local : to), end, notes);
        }
        var begin = Zones.ToInstant(start.Local, zone);
        Instant stop;
        if (end is { IsDate: true } day)
        {
            notes.Add(Note("end_of_other_kind"));
            stop = Zones.ToInstant(day.Local, zone);
        }
        else if (end is { } moment)
        {
            stop = Zones.ToInstant(moment.Local, (moment.IsUtc ? DateTimeZone.Utc : moment.Zone is { } own ? zones.Find(own) : null) ?? zone);
        }
        else
        {
            // Days follow the clock, hours pass (RFC 5545, 3.3.6).
            stop = duration is { IsBack: false } d ? Zones.ToInstant(start.Local.PlusDays(d.Days), zone) + d.Time : begin;
        }
        if (stop < begin)
            notes.Add(Note("end_before_start"));
        var length = stop < begin ? Duration.Zero : stop - begin;
        if (length > Duration.FromDays(EventTiming.MaxDays))
            throw new InvalidInputException("too_long", "end", $"An event lasts {EventTiming.MaxDays} days at most; this one is kept without its end.");
        return Whole(EventTiming.Restore(TimeKind.Zoned, start.Local, length, zone), end, notes);
    }

    // From midnight to midnight is what some write for whole days.
    private static EventTiming Whole(EventTiming timing, SourceMoment? end, List<ReadNote> notes)
    {
        if (end is null || timing.Length == Duration.Zero || timing.Start.TimeOfDay != LocalTime.Midnight || timing.End.TimeOfDay != LocalTime.Midnight || timing.Zone == DateTimeZone.Utc)
            return timing;
        notes.Add(Note("whole_days"));
        return EventTiming.AllDay(timing.Start.Date, timing.End.Date.PlusDays(-1));
    }

    private static LocalDateTime After(LocalDateTime start, (int Days, Duration Time, bool IsBack)? duration) =>
        duration is { IsBack: false } d ? start.PlusDays(d.Days).PlusNanoseconds(d.Time.ToInt64Nanoseconds()) : start;

    private DateTimeZone? ZoneOf(SourceMoment moment, List<ReadNote> notes)
    {
        if (moment.IsUtc)
            return DateTimeZone.Utc;
        if (moment.Zone is not { Length: > 0 } name)
            return null;
        if (zones.Find(name) is { } zone)
        {
            if (zone is FileZone)
                notes.Add(Note("zone_of_file"));
            return zone;
        }
        notes.Add(Note("zone_unknown"));
        return fallback;
    }

    // A moment on the clock of a series.
    private LocalDateTime LocalIn(SourceMoment moment, EventTiming timing)
    {
        if (timing.Kind == TimeKind.AllDay)
            return moment.Local.Date.AtMidnight();
        if (moment.IsDate)
            return moment.Local.Date + timing.Start.TimeOfDay;
        if (timing.Zone is not { } zone)
            return moment.IsUtc ? moment.Local.InUtc().WithZone(fallback).LocalDateTime : moment.Local;
        var own = moment.IsUtc ? DateTimeZone.Utc : moment.Zone is { } name ? zones.Find(name) ?? zone : zone;
        return own == zone ? moment.Local : Zones.ToInstant(moment.Local, own).InZone(zone).LocalDateTime;
    }

    private static IEnumerable<(SourceMoment Moment, Duration? Length)> Moments(SourceProperty property)
    {
        foreach (var value in property.Value.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            var parts = value.Split('/');
            if (SourceValues.Moment(parts[0], parts.Length == 1 ? property.Parameter("VALUE") : null, property.Parameter("TZID")) is not { } moment)
                continue;
            Duration? length = parts.Length == 1 ? null
                : SourceValues.DurationOf(parts[1]) is { IsBack: false } d ? Duration.FromDays(d.Days) + d.Time
                : SourceValues.Moment(parts[1], null, property.Parameter("TZID")) is { } end && end.Local >= moment.Local ? Period.Between(moment.Local, end.Local, PeriodUnits.Nanoseconds).ToDuration() : null;
            yield return (moment, length);
        }
    }

    private static bool Is(SourceComponent component, string name, string value) => string.Equals(component.Property(name)?.Value.Trim(), value, StringComparison.OrdinalIgnoreCase);

    private static Instant? Moment(SourceComponent component, string name) => SourceValues.Moment(component.Property(name)) is { IsUtc: true } moment ? moment.Local.InUtc().ToInstant() : null;

    private static bool IsAddress(string value) => value.Trim() is var text && (text.StartsWith("https://", StringComparison.OrdinalIgnoreCase) || text.StartsWith("http://", StringComparison.OrdinalIgnoreCase));

    // How long before the start an alarm sounds; null for one that goes by anything else.
    private static int? MinutesBefore(SourceComponent alarm) =>
        alarm.Property("TRIGGER") is { } trigger && !string.Equals(trigger.Parameter("RELATED"), "END", StringComparison.OrdinalIgnoreCase) && SourceValues.DurationOf(trigger.Value) is { } d
        && (long)(Duration.FromDays(d.Days) + d.Time).TotalMinutes is var minutes && (d.IsBack || minutes == 0) && minutes <= EventFacts.MaxReminder ? (int)minutes : null;

    [GeneratedRegex(@"</?(?:p|br|b|i|ul|ol|li|a|div|span|strong|em)\b[^>]*>", RegexOptions.IgnoreCase)]
    private static partial Regex IsMarked();

    private static long Sequence(SourceComponent component) => long.TryParse(component.Property("SEQUENCE")?.Value.Trim(), NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n) ? n : 0;

    private static LocalDateTime Stamp(SourceComponent component) => (SourceValues.Moment(component.Property("LAST-MODIFIED")) ?? SourceValues.Moment(component.Property("DTSTAMP")))?.Local ?? default;

    private static string MadeUid(SourceComponent component) => "made-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(
        $"{component.Name}\n{component.Property("DTSTART")?.Value}\n{component.Property("DUE")?.Value}\n{component.Property("SUMMARY")?.Value}")).AsSpan(0, 12));

    private static ReadNote Note(string code) => new(code, Sentences[code]);

    private static readonly Dictionary<string, string> Sentences = new(StringComparer.Ordinal)
    {
        ["encoding_guessed"] = "Its letters are not UTF-8; they were read as Western European ones.",
        ["said_several_times"] = "It stands in the file several times; the newest was taken.",
        ["series_missing"] = "It is a changed date of a series that is not in the file, and stands for itself.",
        ["title_missing"] = "It has no title.",
        ["people_left"] = "Who is invited is not kept.",
        ["attachment_left"] = "A file that stands in it is not kept.",
        ["attachment_as_link"] = "What is attached is kept as a link.",
        ["position_left"] = "Where its place lies is not kept; the name of the place is.",
        ["status_left"] = "That it is not certain yet is not kept.",
        ["reminder_left"] = "A reminder is not kept.",
        ["until_unreadable"] = "The end of its rule cannot be read; it goes on without one.",
        ["rule_part_unknown"] = "A part of its rule is not known and was passed over.",
        ["rule_unreadable"] = "Its rule cannot be read, so it stands there once.",
        ["count_and_until"] = "Its rule ends twice; the earlier end counts.",
        ["too_many_dates_named"] = "It names more than 5,000 dates one by one; the first of them are kept.",
        ["several_rules"] = "It has several rules; one is kept, the dates of the others stand there one by one.",
        ["leaving_rule"] = "A rule leaves dates out; they are left out one by one.",
        ["start_out_of_step"] = "Its start is not among the dates of its rule; it is a date all the same.",
        ["changed_onwards"] = "It changes from one date on.",
        ["change_without_date"] = "A change is of a date the series does not have; it is added.",
        ["end_unreadable"] = "Its end cannot be read.",
        ["end_of_other_kind"] = "Its end is a day and its start a time, or the other way round.",
        ["end_before_start"] = "Its end is before its start; it is kept without length.",
        ["whole_days"] = "It goes from midnight to midnight and is read as whole days.",
        ["zone_of_file"] = "Its time zone is known from the file alone.",
        ["zone_unknown"] = "Its time zone is not known; the calendar’s is taken.",
    };
}
