using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Files;

namespace Valtro.Server.Publications;

/// <summary>What a keeper decides. Choices and look that are not given stay as they are. It goes out at once, or waits until it is published.</summary>
internal sealed record PublicationInput(
    string? Key, string? Title, string? Introduction, IReadOnlyList<Guid>? CalendarIds, OutletView FirstView, string? Language, int? Version,
    Audience Audience = Audience.Everyone, ChoicesDto? Choices = null, LookDto? Look = null, bool IsOut = true)
{
    public PublicationSettings ToSettings(PublicationSettings? old) => new()
    {
        Title = Title ?? "",
        Introduction = Introduction ?? "",
        CalendarIds = CalendarIds ?? [],
        Audience = Audience,
        FirstView = FirstView,
        Language = Language ?? "",
        Choices = Choices?.ToChoices() ?? old?.Choices ?? PublicationChoices.None,
        Look = Look?.ToLook() ?? old?.Look ?? PublicationLook.Usual,
    };
}

internal sealed record CalendarChoiceDto(Guid CalendarId, Detail Most = Detail.Everything, string? Tag = null, int? Mark = null);

/// <summary>What of the calendars goes out, for which days and how long. What is not said is not limited.</summary>
internal sealed record ChoicesDto(
    IReadOnlyList<CalendarChoiceDto>? Calendars = null,
    IReadOnlyList<Guid>? CategoryIds = null,
    IReadOnlyList<string>? Tags = null,
    string? Text = null,
    EventKinds Kinds = EventKinds.All,
    bool HidesCalledOff = false,
    int? DaysBack = null,
    int? DaysAhead = null,
    Instant? From = null,
    Instant? Until = null,
    string? TitlePattern = null,
    IReadOnlyList<FeedField>? LeftOut = null)
{
    public static ChoicesDto Of(PublicationChoices c) => new(
        [.. c.Calendars.Select(x => new CalendarChoiceDto(x.CalendarId, x.Most, x.Tag, x.Mark))], c.CategoryIds, c.Tags, c.Text, c.Kinds, c.HidesCalledOff, c.DaysBack, c.DaysAhead, c.From, c.Until, c.TitlePattern, c.LeftOut);

    public PublicationChoices ToChoices() => new()
    {
        Calendars = [.. (Calendars ?? []).Select(c => new CalendarChoice(c.CalendarId, c.Most, c.Tag ?? "", c.Mark))],
        CategoryIds = [.. CategoryIds ?? []],
        Tags = [.. (Tags ?? []).Select(t => t ?? "")],
        Text = Text ?? "",
        Kinds = Kinds,
        HidesCalledOff = HidesCalledOff,
        DaysBack = DaysBack,
        DaysAhead = DaysAhead,
        From = From,
        Until = Until,
        TitlePattern = string.IsNullOrWhiteSpace(TitlePattern) ? "{title}" : TitlePattern,
        LeftOut = [.. LeftOut ?? []],
    };
}

/// <summary>Colours, type, corners and light. Colours count with the preset <c>own</c>.</summary>
internal sealed record ThemeDto(
    ThemePreset Preset = ThemePreset.Paper, string? Ground = null, string? Ink = null, string? Accent = null, ThemeType Type = ThemeType.Ours, int Corner = 3,
    bool HasBorder = false, ThemeLight Light = ThemeLight.AsPlaced, string? Css = null)
{
    public static ThemeDto Of(OutletTheme t) => new(t.Preset, t.Ground, t.Ink, t.Accent, t.Type, t.Corner, t.HasBorder, t.Light, t.Css);

    public OutletTheme ToTheme() => new()
    {
        Preset = Preset,
        Ground = Ground ?? OutletTheme.Usual.Ground,
        Ink = Ink ?? OutletTheme.Usual.Ink,
        Accent = Accent ?? OutletTheme.Usual.Accent,
        Type = Type,
        Corner = Corner,
        HasBorder = HasBorder,
        Light = Light,
        Css = Css ?? "",
    };
}

/// <summary>How a page and its embeds look.</summary>
internal sealed record LookDto(
    IReadOnlyList<OutletView>? Views = null,
    bool ShowsTitle = false,
    bool ShowsNavigation = true,
    bool ShowsKey = true,
    bool ShowsZone = true,
    bool ShowsSubscribe = true,
    bool ShowsPrint = false,
    int WeekStart = 1,
    bool IsReadersZone = false,
    HourForm Hours = HourForm.Language,
    int Count = 6,
    bool IsLatestFirst = false,
    bool GroupsByDay = true,
    bool IsOnEachDay = false,
    bool ShowsDescriptions = false,
    string? EmptyText = null,
    int NewsDays = 0,
    IReadOnlyList<string>? Sites = null,
    ThemeDto? Theme = null,
    PictureDto? Picture = null,
    bool IsWholeMonth = false)
{
    public static LookDto Of(PublicationLook l) => new(
        l.Views, l.ShowsTitle, l.ShowsNavigation, l.ShowsKey, l.ShowsZone, l.ShowsSubscribe, l.ShowsPrint, (int)l.WeekStart, l.IsReadersZone, l.Hours, l.Count,
        l.IsLatestFirst, l.GroupsByDay, l.IsOnEachDay, l.ShowsDescriptions, l.EmptyText, l.NewsDays, l.Sites, ThemeDto.Of(l.Theme),
        l.Picture is { } p ? new PictureDto(p.Id, p.Alt) : null, l.IsWholeMonth);

    public PublicationLook ToLook() => new()
    {
        Views = [.. Views ?? PublicationLook.Usual.Views],
        ShowsTitle = ShowsTitle,
        ShowsNavigation = ShowsNavigation,
        ShowsKey = ShowsKey,
        ShowsZone = ShowsZone,
        ShowsSubscribe = ShowsSubscribe,
        ShowsPrint = ShowsPrint,
        WeekStart = (IsoDayOfWeek)WeekStart,
        IsWholeMonth = IsWholeMonth,
        IsReadersZone = IsReadersZone,
        Hours = Hours,
        Count = Count,
        IsLatestFirst = IsLatestFirst,
        GroupsByDay = GroupsByDay,
        IsOnEachDay = IsOnEachDay,
        ShowsDescriptions = ShowsDescriptions,
        EmptyText = EmptyText ?? "",
        NewsDays = NewsDays,
        Sites = [.. (Sites ?? []).Select(s => s ?? "")],
        Theme = Theme?.ToTheme() ?? OutletTheme.Usual,
        Picture = Picture is { } p ? new EventPicture(p.Id, p.Alt) : null,
    };
}

/// <summary>Another name for a link; null for one that cannot be guessed.</summary>
internal sealed record KeyInput(string? Key, int Version);

/// <summary>A calendar that shall stand in it no longer.</summary>
internal sealed record TakeOutInput(Guid CalendarId);

/// <summary>Who shall have it.</summary>
internal sealed record GiveOnInput(Guid PersonId, int Version);

/// <summary>A calendar that gives a publication's readers nothing.</summary>
internal sealed record TroubleDto(Guid CalendarId, string Calendar, TroubleKind Kind);

/// <summary>Who else shall change it.</summary>
internal sealed record PublicationSharesInput(IReadOnlyList<Guid> People, int Version);

/// <summary>Which state of a publication is meant.</summary>
internal sealed record VersionInput(int Version);

/// <summary>Whether a member's link before ends, as after it leaked.</summary>
internal sealed record MyLinkInput(bool IsNew = false);

/// <summary>The addresses of a publication's outlets.</summary>
internal sealed record LinksDto(string Page, string Embed, string Feed, string Webcal, string Script)
{
    public static LinksDto Of(string key, ServerSettings settings)
    {
        var feed = settings.OutletUrl(key, "/feed.ics");
        return new LinksDto(settings.OutletUrl(key, ""), settings.OutletUrl(key, "/embed"), feed, ServerSettings.Webcal(feed), settings.Address + "/outlet/frame.js");
    }
}

/// <summary>A colour that cannot be read well, and the nearest that can.</summary>
internal sealed record WeakContrastDto(string Field, double Contrast, string Nearest);

/// <summary>A publication as its keepers change it: what waits to be published goes before what is out.</summary>
internal sealed record PublicationDto(
    Guid Id, string Key, string Title, string Introduction, IReadOnlyList<Guid> CalendarIds, OutletView FirstView, string Language, int Version, bool TakenDown, Instant ChangedAt, LinksDto Links, Audience Audience, ChoicesDto Choices,
    LookDto Look, bool HasChanges, bool IsPublished, Instant? PublishedAt, IReadOnlyList<WeakContrastDto> Weak, IReadOnlyList<string> RemovedCss)
{
    /// <summary>Whether the one who asks changes it; else they keep some of its calendars.</summary>
    public bool MayChange { get; init; } = true;

    /// <summary>Who has it, by name; null when nobody in particular does.</summary>
    public string? Owner { get; init; }

    /// <summary>Who else changes it.</summary>
    public IReadOnlyList<Guid> SharedWith { get; init; } = [];

    /// <summary>The calendars that give its readers nothing, for who changes it.</summary>
    public IReadOnlyList<TroubleDto> Troubles { get; init; } = [];

    public static PublicationDto Of(Publication p, ServerSettings settings)
    {
        var s = p.Draft ?? p.Settings;
        var theme = s.Look.Theme;
        return new PublicationDto(
            p.Id, p.Key, s.Title, s.Introduction, s.CalendarIds, s.FirstView, s.Language, p.Version, p.TakenDownAt is not null, p.ChangedAt, LinksDto.Of(p.Key, settings), s.Audience, ChoicesDto.Of(s.Choices),
            LookDto.Of(s.Look), p.Draft is not null, p.PublishedAt is not null, p.PublishedAt,
            [.. theme.Day.Weak.Select(w => new WeakContrastDto(w.Field, Math.Round(w.Contrast, 1), w.Nearest.ToString()))],
            StyleCleaner.Clean(theme).Removed)
        {
            SharedWith = p.SharedWith,
        };
    }
}

/// <summary>A publication its members may read.</summary>
internal sealed record MembersPublicationDto(Guid Id, string Key, string Title, string Introduction);
