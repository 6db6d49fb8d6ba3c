using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Server.Calendars;
using Valtro.Server.Files;

namespace Valtro.Server.Events;

/// <summary>When an event is, in its own zone. For all-day events both ends are days, the last one included.</summary>
internal sealed record TimingDto(TimeKind Kind, LocalDateTime Start, LocalDateTime End, string? Zone)
{
    public static TimingDto Of(EventTiming t) => new(
        t.Kind, t.Start, t.Kind == TimeKind.AllDay ? t.End.PlusDays(-1) : t.End, t.Zone?.Id);

    /// <param name="calendarZone">The zone of a new event that names none.</param>
    public EventTiming ToTiming(DateTimeZone calendarZone) => Kind switch
    {
        TimeKind.AllDay => EventTiming.AllDay(Start.Date, End.Date),
        TimeKind.Floating => EventTiming.Floating(Start, End),
        _ => EventTiming.Zoned(Start, End, Zone is null ? calendarZone : Zones.Get(Zone)),
    };
}

internal sealed record NumberedDayDto(int Number, IsoDayOfWeek Day);

/// <summary>
/// A rule, part by part (RFC 5545, 3.3.10); parts that are not there are empty. Its text is told, and not read back.
/// </summary>
internal sealed record RuleDto(
    Frequency Frequency,
    int Interval,
    IReadOnlyList<IsoDayOfWeek> Days,
    int? Count,
    LocalDate? Until,
    IReadOnlyList<NumberedDayDto>? NumberedDays = null,
    IReadOnlyList<int>? MonthDays = null,
    IReadOnlyList<int>? Months = null,
    IReadOnlyList<int>? Positions = null,
    IReadOnlyList<int>? YearDays = null,
    IReadOnlyList<int>? Weeks = null,
    IReadOnlyList<int>? Hours = null,
    IReadOnlyList<int>? Minutes = null,
    IReadOnlyList<int>? Seconds = null,
    IsoDayOfWeek? WeekStart = null,
    string? Text = null)
{
    public static RuleDto? Of(RecurrenceRule? r) =>
        r is null
            ? null
            : new RuleDto(
                r.Frequency,
                r.Interval,
                [.. r.Days.InOrder()],
                r.Count,
                r.Until?.Date,
                [.. r.By.NumberedDays.Select(d => new NumberedDayDto(d.Number, d.Day))],
                r.By.MonthDays,
                r.By.Months,
                r.By.Positions,
                r.By.YearDays,
                r.By.Weeks,
                r.By.Hours,
                r.By.Minutes,
                r.By.Seconds,
                r.WeekStart,
                r.ToString());

    public RecurrenceRule ToRule()
    {
        foreach (var day in Days.Concat((NumberedDays ?? []).Select(d => d.Day)).Append(WeekStart ?? IsoDayOfWeek.Monday))
        {
            if (day is < IsoDayOfWeek.Monday or > IsoDayOfWeek.Sunday)
                throw new InvalidInputException("rule_malformed", "rule.days", "A weekday is one of monday to sunday.");
        }
        var by = new ByParts
        {
            NumberedDays = [.. (NumberedDays ?? []).Select(d => new NumberedDay(d.Number, d.Day))],
            MonthDays = [.. MonthDays ?? []],
            Months = [.. Months ?? []],
            Positions = [.. Positions ?? []],
            YearDays = [.. YearDays ?? []],
            Weeks = [.. Weeks ?? []],
            Hours = [.. Hours ?? []],
            Minutes = [.. Minutes ?? []],
            Seconds = [.. Seconds ?? []],
        };
        RuleEnd? until = Until is { } last ? new RuleEnd(last) : null;
        return new RecurrenceRule(Frequency, Interval, WeekdaySet.Of([.. Days]), Count, until, WeekStart ?? IsoDayOfWeek.Monday, by);
    }
}

/// <summary>How a series follows school days; null where it does not.</summary>
internal sealed record FollowsDto(SchoolDayChoice Days, ClosureChoice Closures, IReadOnlyList<int>? CycleDays = null, IReadOnlyList<int>? Weeks = null)
{
    public static FollowsDto? Of(SchoolDayRule? r) => r is null ? null : new FollowsDto(r.Days, r.Closures, r.CycleDays, r.Weeks);

    public SchoolDayRule? ToRule() => SchoolDayRule.Of(Days, Closures, CycleDays ?? [], Weeks ?? []);
}

/// <summary>A file of an event: its link's identity, which stays, and that of its contents.</summary>
internal sealed record FileDto(Guid Id, Guid ContentId, string Name, string MediaType, long Size);

/// <summary>The most an event shows in a calendar it also stands in.</summary>
internal sealed record PlacementLimitDto(Guid CalendarId, Detail Most);

internal sealed record LinkDto(LinkKind Kind, string Label, string Address);

/// <summary>What an event has beside; what is not said is as if it had none of it.</summary>
internal sealed record FactsDto(
    string? Subtitle = null,
    Guid? CategoryId = null,
    IReadOnlyList<string>? Tags = null,
    int? Mark = null,
    bool IsFree = false,
    int? Reminder = null,
    bool IsDraft = false,
    IReadOnlyList<LinkDto>? Links = null,
    IReadOnlyList<Guid>? AlsoIn = null,
    int? Size = null,
    IReadOnlyList<FileDto>? Files = null,
    PictureDto? Picture = null,
    ReachDto? Reach = null,
    IReadOnlyList<PlacementLimitDto>? Limits = null)
{
    public static FactsDto Of(EventFacts f) => new(
        f.Subtitle, f.CategoryId, f.Tags, f.Mark, f.IsFree, f.Reminder, f.IsDraft, [.. f.Links.Select(l => new LinkDto(l.Kind, l.Label, l.Address))], f.AlsoIn, f.Size,
        [.. f.Files.Select(x => new FileDto(x.Id, x.ContentId, x.Name, x.MediaType, x.Size))],
        f.Picture is null ? null : new PictureDto(f.Picture.Id, f.Picture.Alt),
        ReachDto.Of(f.Reach),
        [.. f.Limits.Select(l => new PlacementLimitDto(l.CalendarId, l.Most))]);

    public EventFacts ToFacts() => new()
    {
        Subtitle = Subtitle ?? "",
        CategoryId = CategoryId,
        Tags = [.. (Tags ?? []).Select(t => t ?? "")],
        Mark = Mark,
        IsFree = IsFree,
        Reminder = Reminder,
        IsDraft = IsDraft,
        Links = [.. (Links ?? []).Select(l => new EventLink(l.Kind, l.Label ?? "", l.Address ?? ""))],
        AlsoIn = [.. AlsoIn ?? []],
        Size = Size,
        Files = [.. (Files ?? []).Select(f => new EventFile(f.Id, f.ContentId, f.Name ?? "", f.MediaType ?? "", f.Size))],
        Picture = Picture is null ? null : new EventPicture(Picture.Id, Picture.Alt ?? ""),
        Reach = Reach?.ToTable(),
        Limits = [.. (Limits ?? []).Select(l => new PlacementLimit(l.CalendarId, l.Most))],
    };
}

/// <summary>What differs on one date.</summary>
internal sealed record ChangeDto(LocalDateTime Date, string? Title, string? Place, string? Description, TimingDto? Timing, bool CalledOff, Instant? At = null)
{
    public static ChangeDto Of(EventChange c) =>
        new(c.Date, c.Title, c.Place, c.Description, c.Timing is null ? null : TimingDto.Of(c.Timing), c.IsCalledOff, c.At);
}

internal sealed record EventDto(
    Guid Id,
    Guid CalendarId,
    string Title,
    string Place,
    string Description,
    TimingDto Timing,
    RuleDto? Rule,
    FollowsDto? Follows,
    FactsDto Facts,
    Instant TimedAt,
    IReadOnlyList<LocalDateTime> Skips,
    IReadOnlyList<LocalDateTime> Extras,
    IReadOnlyList<ChangeDto> Changes,
    int Version,
    Instant CreatedAt,
    Instant ChangedAt,
    bool InBin)
{
    public static EventDto Of(Event e) => new(
        e.Id,
        e.CalendarId,
        e.Title,
        e.Place,
        e.Description,
        TimingDto.Of(e.Timing),
        RuleDto.Of(e.Rule),
        FollowsDto.Of(e.Follows),
        FactsDto.Of(e.Facts),
        e.TimedAt,
        e.Skips,
        e.Extras,
        [.. e.Changes.Select(ChangeDto.Of)],
        e.Version,
        e.CreatedAt,
        e.ChangedAt,
        e.DeletedAt is not null);

    /// <summary>The state this describes, for an event as it is now; identity, history and version stay the event's own.</summary>
    public Event ToState(Event now, Instant at, SchoolDays days)
    {
        var timing = Timing.ToTiming(now.Timing.Zone ?? DateTimeZone.Utc);
        var state = now with
        {
            CalendarId = CalendarId,
            Title = Texts.Title(Title, "title", Event.MaxTitle),
            Place = Texts.Line(Place, "place", Event.MaxPlace),
            Description = RichText.Clean(Description, "description", Event.MaxDescription),
            Timing = timing,
            Rule = Rule?.ToRule(),
            Follows = Rule is null ? null : Follows?.ToRule(),
            Facts = Facts.ToFacts().Checked(CalendarId),
            TimedAt = TimedAt,
            Skips = [.. Skips.Distinct().Order().Take(Event.MaxSkips)],
            Extras = [.. Extras.Distinct().Order().Take(Event.MaxSkips)],
            Changes =
            [
                .. Changes.DistinctBy(c => c.Date).OrderBy(c => c.Date).Take(Event.MaxSkips).Select(c => new EventChange
                {
                    Date = c.Date,
                    Title = c.Title is null ? null : Texts.Title(c.Title, "title", Event.MaxTitle),
                    Place = c.Place is null ? null : Texts.Line(c.Place, "place", Event.MaxPlace),
                    Description = c.Description is null ? null : RichText.Clean(c.Description, "description", Event.MaxDescription),
                    Timing = c.Timing?.ToTiming(timing.Zone ?? DateTimeZone.Utc),
                    IsCalledOff = c.CalledOff,
                    At = c.At,
                }),
            ],
            DeletedAt = InBin ? now.DeletedAt ?? at : null,
            Sequence = now.Sequence + 1,
            Version = now.Version + 1,
            ChangedAt = at,
        };
        return state.OnSchoolDays(days);
    }
}
