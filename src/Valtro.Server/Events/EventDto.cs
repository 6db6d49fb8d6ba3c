using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Views;
using Valtro.Server.Calendars;
using Valtro.Server.Files;

namespace Valtro.Server.Events;

/// <summary>A file of an event: its link's identity, which stays, and that of its contents.</summary>
internal sealed record FileDto(Guid Id, Guid ContentId, string Name, string MediaType, long Size)
{
    public static IReadOnlyList<FileDto> Of(IEnumerable<EventFile> files) => [.. files.Select(f => new FileDto(f.Id, f.ContentId, f.Name, f.MediaType, f.Size))];
}

/// <summary>The most an event shows in a calendar it also stands in.</summary>
internal sealed record PlacementLimitDto(Guid CalendarId, Detail Most);

internal sealed record LinkDto(LinkKind Kind, string Label, string Address)
{
    public static IReadOnlyList<LinkDto> Of(IEnumerable<EventLink> links) => [.. links.Select(l => new LinkDto(l.Kind, l.Label, l.Address))];
}

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
    /// <param name="f">The facts.</param>
    /// <param name="alsoIn">The calendars it is told to stand in beside its home; null for those of the facts.</param>
    public static FactsDto Of(EventFacts f, IEnumerable<Guid>? alsoIn = null) => new(
        f.Subtitle, f.CategoryId, f.Tags, f.Mark, f.IsFree, f.Reminder, f.IsDraft, LinkDto.Of(f.Links), [.. alsoIn ?? f.AlsoIn], f.Size,
        FileDto.Of(f.Files),
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

/// <summary>What one date has beside otherwise than its series: what is its own, and what of the series' is not there.</summary>
internal sealed record DateFactsDto(
    string? Subtitle = null,
    bool SetsCategory = false,
    Guid? CategoryId = null,
    IReadOnlyList<string>? Tags = null,
    IReadOnlyList<string>? WithoutTags = null,
    IReadOnlyList<LinkDto>? Links = null,
    IReadOnlyList<string>? WithoutLinks = null,
    IReadOnlyList<FileDto>? Files = null,
    IReadOnlyList<Guid>? WithoutFiles = null)
{
    public static DateFactsDto? Of(DateFacts f) => f.IsNone
        ? null
        : new(f.Subtitle, f.SetsCategory, f.CategoryId, f.Tags, f.WithoutTags, LinkDto.Of(f.Links), f.WithoutLinks, FileDto.Of(f.Files), f.WithoutFiles);

    /// <exception cref="InvalidInputException">A code of what cannot be: see <see cref="EventFacts.Checked"/>.</exception>
    public DateFacts ToFacts()
    {
        var own = new FactsDto(Subtitle, Tags: Tags, Links: Links, Files: Files).ToFacts().Checked(Guid.Empty);
        return new DateFacts
        {
            Subtitle = Subtitle is null ? null : own.Subtitle,
            SetsCategory = SetsCategory,
            CategoryId = SetsCategory ? CategoryId : null,
            Tags = own.Tags,
            WithoutTags = [.. (WithoutTags ?? []).Take(EventFacts.MaxTags)],
            Links = own.Links,
            WithoutLinks = [.. (WithoutLinks ?? []).Take(EventFacts.MaxLinks)],
            Files = own.Files,
            WithoutFiles = [.. (WithoutFiles ?? []).Take(EventFacts.MaxFiles)],
        };
    }
}

/// <summary>What differs on one date.</summary>
internal sealed record ChangeDto(LocalDateTime Date, string? Title, string? Place, string? Description, TimingDto? Timing, bool CalledOff, Instant? At = null, DateFactsDto? Facts = null, FactsDto? Has = null)
{
    /// <param name="c">The change.</param>
    /// <param name="has">All the date has beside then; null where nobody asks.</param>
    public static ChangeDto Of(EventChange c, EventFacts? has = null) =>
        new(c.Date, c.Title, c.Place, c.Description, c.Timing is null ? null : TimingDto.Of(c.Timing), c.IsCalledOff, c.At, DateFactsDto.Of(c.Facts), has is null ? null : FactsDto.Of(has));
}

/// <summary>An event as it is told; <c>First</c> is its first date, which lies later than its start where that is left out, and null when there is none.</summary>
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
    bool InBin,
    LocalDateTime? First = null)
{
    /// <summary>An event as the one who asks gets it; at least its headlines.</summary>
    public static EventDto Of(EventView e) => new(
        e.Id,
        e.StandsIn.IsEmpty ? e.Calendar.Id : e.StandsIn[0],
        e.Title ?? "",
        e.Place ?? "",
        e.Description ?? "",
        TimingDto.Of(e.Said!.Timing),
        RuleDto.Of(e.Said.Rule),
        FollowsDto.Of(e.Said.Follows),
        FactsDto.Of(e.Facts, e.StandsIn.Skip(1)),
        e.TimedAt,
        e.Said.Skips,
        e.Said.Extras,
        [.. e.Changes.Select(c => ChangeDto.Of(c, c.Facts.IsNone ? null : e.FactsOn(c)))],
        e.Version,
        e.CreatedAt,
        e.ChangedAt,
        e.DeletedAt is not null,
        e.Dates.First);

    /// <summary>The state this describes, for an event as it is now.</summary>
    public Event ToState(Event now, Instant at)
    {
        var timing = Timing.ToTiming(now.Timing.Zone ?? DateTimeZone.Utc);
        return now with
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
                    Facts = c.Facts?.ToFacts() ?? DateFacts.None,
                }),
            ],
            DeletedAt = InBin ? now.DeletedAt ?? at : null,
        };
    }
}
