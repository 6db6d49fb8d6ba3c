using System.Security.Claims;
using System.Security.Cryptography;
using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Core;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Api;
using Valtro.Server.Outlets;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Publications;

internal sealed record PublicationInput(
    string? Key, string? Title, string? Introduction, IReadOnlyList<Guid>? CalendarIds, OutletView FirstView, string? Language, int? Version,
    Audience Audience = Audience.Everyone, ChoicesDto? Choices = null);

internal sealed record CalendarChoiceDto(Guid CalendarId, Detail Most = Detail.Everything, string? Tag = null);

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
    string? TitlePattern = null)
{
    public static ChoicesDto Of(PublicationChoices c) => new(
        [.. c.Calendars.Select(x => new CalendarChoiceDto(x.CalendarId, x.Most, x.Tag))], c.CategoryIds, c.Tags, c.Text, c.Kinds, c.HidesCalledOff, c.DaysBack, c.DaysAhead, c.From, c.Until, c.TitlePattern);

    public PublicationChoices ToChoices() => new()
    {
        Calendars = [.. (Calendars ?? []).Select(c => new CalendarChoice(c.CalendarId, c.Most, c.Tag ?? ""))],
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
    };
}

/// <summary>Another name for a link; null for one that cannot be guessed.</summary>
internal sealed record KeyInput(string? Key, int Version);

internal sealed record LinksDto(string Page, string Embed, string Feed, string Webcal);

internal sealed record PublicationDto(
    Guid Id, string Key, string Title, string Introduction, IReadOnlyList<Guid> CalendarIds, OutletView FirstView, string Language, int Version, bool TakenDown, Instant ChangedAt, LinksDto Links, Audience Audience, ChoicesDto Choices)
{
    public static PublicationDto Of(Publication p, ServerSettings settings)
    {
        var feed = settings.OutletUrl(p.Key, "/feed.ics");
        return new PublicationDto(
            p.Id, p.Key, p.Title, p.Introduction, p.CalendarIds, p.FirstView, p.Language, p.Version, p.TakenDownAt is not null, p.ChangedAt,
            new LinksDto(settings.OutletUrl(p.Key, ""), settings.OutletUrl(p.Key, "/embed"), feed, ServerSettings.Webcal(feed)),
            p.Audience, ChoicesDto.Of(p.Choices));
    }
}

internal sealed record HeldBackDto(Guid CalendarId, string Title, ReachReason Reason, int Events);

internal sealed record SentCalendarDto(Guid CalendarId, Detail Detail, int Events);

/// <summary>What a publication sends out now, and what it holds back.</summary>
internal sealed record ProofDto(int Events, IReadOnlyList<SentCalendarDto> Calendars, IReadOnlyList<HeldBackDto> HeldBack);

internal static partial class PublicationEndpoints
{
    public static void MapPublications(this IEndpointRouteBuilder api)
    {
        var publications = api.MapGroup("/publications");

        publications.MapGet("", async (ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings) =>
        {
            var may = await caller.AccessAsync();
            return (await store.ListAsync(user.SchoolId())).Where(p => Keeps(may, p)).Select(p => PublicationDto.Of(p, settings)).ToArray();
        });

        publications.MapPost("", async (PublicationInput input, ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
        {
            var author = user.Author(clock);
            var publication = Publication.Apply(
                null, Guid.CreateVersion7(), string.IsNullOrEmpty(input.Key) && input.Audience == Audience.LinkHolders ? RandomKey() : Key(input.Key), input.Title, input.Introduction, input.CalendarIds ?? [], input.FirstView, input.Language, author.Now, input.Audience, input.Choices?.ToChoices());
            await NeedAsync(caller, publication);
            return PublicationDto.Of(await store.SaveAsync(null, publication, "create", author), settings);
        });

        publications.MapPut("/{id:guid}", (Guid id, PublicationInput input, ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
            ChangeAsync(id, input.Version, "change", user, caller, store, settings, clock, (old, now) =>
                Publication.Apply(old, old.Id, old.Key, input.Title, input.Introduction, input.CalendarIds ?? [], input.FirstView, input.Language, now, input.Audience, input.Choices?.ToChoices())));

        // The old link says that it is gone from then on; nobody else gets its name.
        publications.MapPost("/{id:guid}/key", (Guid id, KeyInput input, ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
            ChangeAsync(id, input.Version, "replace link", user, caller, store, settings, clock, (old, _) =>
                old with { Key = input.Key is null ? RandomKey() : Key(input.Key), Version = old.Version + 1 }));

        publications.MapPost("/{id:guid}/duplicate", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
        {
            var author = user.Author(clock);
            var original = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Publication();
            await NeedAsync(caller, original);
            var copy = original with { Id = Guid.CreateVersion7(), Key = RandomKey(), Version = 1, Revision = 1, ChangedAt = author.Now, TakenDownAt = null };
            return PublicationDto.Of(await store.SaveAsync(null, copy, "create", author), settings);
        });

        publications.MapPost("/{id:guid}/take-down", (Guid id, ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
            ChangeAsync(id, null, "take down", user, caller, store, settings, clock, (old, now) =>
                old with { TakenDownAt = old.TakenDownAt ?? now, Version = old.Version + 1 }));

        publications.MapPost("/{id:guid}/put-up", (Guid id, ClaimsPrincipal user, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
            ChangeAsync(id, null, "put up", user, caller, store, settings, clock, (old, _) =>
                old with { TakenDownAt = null, Version = old.Version + 1 }));

        MapLooks(publications);

        publications.MapGet("/{id:guid}/proof", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Publications store, Schools schools, IClock clock) =>
        {
            var publication = await store.FindAsync(user.SchoolId(), id) ?? throw NotFoundException.Publication();
            await NeedAsync(caller, publication);
            var contents = await store.ContentsAsync(user.SchoolId(), publication.Id);
            var school = await schools.GetAsync(user.SchoolId());
            var projection = Projection.Of(contents.Publication, school.Zone, contents.Calendars, contents.Events, clock.GetCurrentInstant(), contents.Lists);
            var shown = projection.Shown.CountBy(e => e.Calendar.Id).ToDictionary();
            return new ProofDto(
                shown.Values.Sum(),
                [.. projection.Calendars.Select(c => new SentCalendarDto(c.Id, c.Detail, shown.GetValueOrDefault(c.Id)))],
                [.. projection.Held.Select(h => new HeldBackDto(h.CalendarId, h.Title, h.Reason, h.Events))]);
        });
    }

    private static void MapLooks(IEndpointRouteBuilder publications)
    {
        // The page and the feed through other eyes: for the keeper alone, and before anything is out.
        publications.MapGet("/{id:guid}/look/page", (Guid id, string look, Caller caller, Store.Publications store, OutletRenderer outlet) =>
            LookAsync(id, look, caller, store, outlet, (projection, school, key) =>
                outlet.DocumentAsync(projection, school, key, OutletShape.Page, $"/api/publications/{id}/look/events.json?look={Uri.EscapeDataString(look)}&"))).ExcludeFromDescription();

        publications.MapGet("/{id:guid}/look/events.json", (Guid id, string look, DayParameter from, DayParameter to, Caller caller, Store.Publications store, OutletRenderer outlet) =>
            LookAsync(id, look, caller, store, outlet, (projection, school, key) => Task.FromResult(OutletRenderer.Events(projection, school, key, from, to)))).ExcludeFromDescription();

        publications.MapGet("/{id:guid}/look/feed.ics", (Guid id, string look, Caller caller, Store.Publications store, OutletRenderer outlet) =>
            LookAsync(id, look, caller, store, outlet, (projection, school, key) => Task.FromResult(outlet.Feed(projection, school, key)))).ExcludeFromDescription();
    }

    private static async Task<IResult> LookAsync(
        Guid id, string look, Caller caller, Store.Publications store, OutletRenderer outlet, Func<Projection, School, string, Task<Rendered>> render)
    {
        var publication = await store.FindAsync(caller.SchoolId, id) ?? throw NotFoundException.Publication();
        await NeedAsync(caller, publication);
        var eyes = await caller.EyesAsync(look);
        var (projection, school) = await outlet.ProjectAsync(caller.SchoolId, id, eyes.AudienceOf);
        var rendered = await render(projection, school, publication.Key);
        return Results.Bytes(rendered.Plain, rendered.ContentType);
    }

    /// <summary>Whoever keeps all its calendars keeps the publication.</summary>
    private static bool Keeps(Access may, Publication publication) => publication.CalendarIds.All(c => may.Has(c, CalendarRole.Keeper));

    private static async Task NeedAsync(Caller caller, Publication publication)
    {
        foreach (var calendar in publication.CalendarIds)
            await caller.NeedAsync(calendar, CalendarRole.Keeper);
    }

    [GeneratedRegex("^[a-z0-9](?:[a-z0-9-]{1,58})[a-z0-9]$")]
    private static partial Regex KeyForm();

    private static string Key(string? key) =>
        key is not null && KeyForm().IsMatch(key)
            ? key
            : throw new InvalidInputException("key_malformed", "key", "A link’s name has 3 to 60 small letters, digits and hyphens, and begins and ends with a letter or digit.");

    /// <summary>A name nobody guesses: a hundred random bits in letters and digits that are not taken for each other.</summary>
    private static string RandomKey() => RandomNumberGenerator.GetString("abcdefghjkmnpqrstuvwxyz23456789", 22);

    private static async Task<PublicationDto> ChangeAsync(
        Guid id,
        int? version,
        string action,
        ClaimsPrincipal user,
        Caller caller,
        Store.Publications store,
        ServerSettings settings,
        IClock clock,
        Func<Publication, Instant, Publication> change)
    {
        var author = user.Author(clock);
        var before = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Publication();
        await NeedAsync(caller, before);
        if (version is not null && version != before.Version)
            throw new StaleWriteException(before);
        var after = change(before, author.Now);
        await NeedAsync(caller, after);
        return PublicationDto.Of(await store.SaveAsync(before, after, action, author), settings);
    }
}
