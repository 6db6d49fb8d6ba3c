using System.Security.Cryptography;
using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Api;
using Valtro.Server.Outlets;
using Valtro.Server.People;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Publications;

/// <summary>A title as feeds write it.</summary>
internal sealed record TitleDto(string Title);

internal static partial class PublicationEndpoints
{
    private const int MaxSample = 500;

    public static void MapPublications(this IEndpointRouteBuilder api)
    {
        var publications = api.MapGroup("/publications");

        publications.MapGet("", async (Caller caller, Store.Publications store, Members members, ServerSettings settings) =>
        {
            var may = await caller.AccessAsync();
            var names = await members.NamesAsync(caller.SchoolId);
            var troubles = await store.TroublesAsync(caller.SchoolId);
            return (await store.ListAsync(caller.SchoolId)).Where(p => may.MayKnow(caller.PersonId, p))
                .Select(p => PublicationDto.Of(p, settings) with
                {
                    MayChange = may.MayChange(caller.PersonId, p),
                    Owner = p.OwnerId is { } o ? names.GetValueOrDefault(o) : null,
                    Troubles = may.MayChange(caller.PersonId, p) ? [.. troubles[p.Id].Select(t => new TroubleDto(t.CalendarId, t.Calendar, t.Kind))] : [],
                }).ToArray();
        });

        // Computes only: what a pattern would make of a title.
        publications.MapGet("/title", (string? pattern, string? title, string? calendar, string? tag, string? place) =>
            new TitleDto(PublicationChoices.Filled(Short(pattern), Short(title), Short(calendar), Short(tag), Short(place), "")));

        publications.MapPost("", async (PublicationInput input, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
        {
            var author = caller.Author();
            var isHidden = string.IsNullOrEmpty(input.Key) && (input.Audience != Audience.Everyone || !input.IsOut);
            var publication = Publication.New(Guid.CreateVersion7(), isHidden ? RandomKey() : Key(input.Key), input.ToSettings(null), author.Now, input.IsOut) with { OwnerId = author.PersonId };
            await NeedCalendarsAsync(caller, publication, null);
            return await SaveAsync(null, publication, "create", caller, author, store, proofs, settings);
        });

        publications.MapPut("/{id:guid}", (Guid id, PublicationInput input, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
            ChangeAsync(id, input.Version, input.IsOut ? "change" : "draft", caller, store, proofs, settings, (old, now) =>
                old.Change(input.ToSettings(old.Draft ?? old.Settings), now, input.IsOut)));

        // What waited goes out, all of it at once.
        publications.MapPost("/{id:guid}/publish", (Guid id, VersionInput input, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
            ChangeAsync(id, input.Version, "publish", caller, store, proofs, settings, (old, now) => old.Publish(now)));

        publications.MapPost("/{id:guid}/discard", (Guid id, VersionInput input, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
            ChangeAsync(id, input.Version, "discard", caller, store, proofs, settings, (old, _) => old.Discard()));

        // The old link says that it is gone from then on; nobody else gets its name.
        publications.MapPost("/{id:guid}/key", (Guid id, KeyInput input, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
            ChangeAsync(id, input.Version, "replace link", caller, store, proofs, settings, (old, _) =>
                (old with { Key = input.Key is null ? RandomKey() : Key(input.Key) }).After(old)));

        MapForMembers(publications);

        publications.MapPost("/{id:guid}/duplicate", async (Guid id, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
        {
            var author = caller.Author();
            var original = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Publication();
            await NeedAsync(caller, original);
            var copy = Publication.New(Guid.CreateVersion7(), RandomKey(), original.Settings, author.Now, isOut: original.PublishedAt is not null) with { Draft = original.Draft, OwnerId = author.PersonId };
            return await SaveAsync(null, copy, "create", caller, author, store, proofs, settings);
        });

        publications.MapPost("/{id:guid}/take-down", (Guid id, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
            ChangeAsync(id, null, "take down", caller, store, proofs, settings, (old, now) =>
                (old with { TakenDownAt = old.TakenDownAt ?? now }).After(old)));

        publications.MapPost("/{id:guid}/put-up", (Guid id, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
            ChangeAsync(id, null, "put up", caller, store, proofs, settings, (old, _) =>
                (old with { TakenDownAt = null }).After(old)));

        // Whoever keeps a calendar decides whether it stands in others' publications.
        publications.MapPost("/{id:guid}/take-out", async (Guid id, TakeOutInput input, Caller caller, Store.Publications store, ProofKeeper proofs, ServerSettings settings) =>
        {
            var author = caller.Author();
            var before = await store.FindAsync(author.SchoolId, id);
            var may = await caller.AccessAsync();
            if (before is null || !may.MayKnow(caller.PersonId, before) || !All(before).Contains(input.CalendarId))
                throw NotFoundException.Publication();
            await caller.NeedAsync(input.CalendarId, CalendarRole.Keeper);
            return await SaveAsync(before, before.Without(input.CalendarId, author.Now), "take a calendar out", caller, author, store, proofs, settings);
        });

        publications.MapPost("/{id:guid}/hand-over", async (Guid id, GiveOnInput input, Caller caller, Store.Publications store, Members members, ProofKeeper proofs, ServerSettings settings) =>
        {
            if ((await members.ListAsync(caller.SchoolId)).All(m => m.Id != input.PersonId))
                throw PeopleEndpoints.Nobody();
            return await ChangeAsync(id, input.Version, "hand over", caller, store, proofs, settings, (old, _) => (old with { OwnerId = input.PersonId }).After(old));
        });

        publications.MapPut("/{id:guid}/shares", async (Guid id, PublicationSharesInput input, Caller caller, Store.Publications store, Members members, ProofKeeper proofs, ServerSettings settings) =>
        {
            var there = (await members.ListAsync(caller.SchoolId)).Select(m => m.Id).ToHashSet();
            if (input.People is null || !input.People.All(there.Contains))
                throw PeopleEndpoints.Nobody();
            return await ChangeAsync(id, input.Version, "share", caller, store, proofs, settings, (old, _) => old.Shared(input.People));
        });

        MapLooks(publications);

        publications.MapProof();
    }

    private static void MapForMembers(IEndpointRouteBuilder publications)
    {
        publications.MapGet("/for-members", async (Caller caller, Store.Publications store, IClock clock) =>
        {
            await caller.AccessAsync();
            return (await store.ListAsync(caller.SchoolId))
                .Where(p => IsForMembers(p, clock))
                .Select(p => new MembersPublicationDto(p.Id, p.Key, p.Title, p.Settings.Introduction)).ToArray();
        });

        // Each member has a link of their own, which works in calendar programs and ends when they leave.
        publications.MapPost("/{id:guid}/my-link", async (Guid id, MyLinkInput input, Caller caller, Store.Publications store, ServerSettings settings, IClock clock) =>
        {
            await caller.AccessAsync();
            var publication = await store.FindAsync(caller.SchoolId, id);
            if (publication is null || !IsForMembers(publication, clock))
                throw NotFoundException.Publication();
            return LinksDto.Of(await store.MemberLinkAsync(id, RandomKey(), caller.Author(), input.IsNew), settings);
        });
    }

    private static bool IsForMembers(Publication p, IClock clock) =>
        p.Audience == Audience.Members && p is { PublishedAt: not null, TakenDownAt: null } && p.Choices.IsOut(clock.GetCurrentInstant());

    private static void MapLooks(IEndpointRouteBuilder publications)
    {
        // The outlets through other eyes, or with the changes that are not out yet: for the keeper alone.
        var looks = publications.MapGroup("/{id:guid}/look").ExcludeFromDescription();
        looks.MapGet("/page", (Guid id, string look, HttpContext http, Caller caller, Store.Publications store, Projections projections, OutletRenderer outlet) =>
            LookAsync(id, look, http, caller, store, projections, (projection, on, key) => outlet.DocumentAsync(projection, on, key, OutletShape.Page, OutletPlace.OfQuery(http.Request.Query), LookPath(id, look))));

        looks.MapGet("/embed", (Guid id, string look, HttpContext http, Caller caller, Store.Publications store, Projections projections, OutletRenderer outlet) =>
            LookAsync(id, look, http, caller, store, projections, (projection, on, key) => outlet.DocumentAsync(projection, on, key, OutletShape.OfQuery(http.Request.Query), OutletPlace.OfQuery(http.Request.Query), LookPath(id, look))));

        looks.MapGet("/events.json", (Guid id, string look, DayParameter from, DayParameter to, HttpContext http, Caller caller, Store.Publications store, Projections projections) =>
            LookAsync(id, look, http, caller, store, projections, (projection, on, key) => Task.FromResult(OutletRenderer.Events(projection, on, key, from, to))));

        looks.MapGet("/feed.ics", (Guid id, string look, HttpContext http, Caller caller, Store.Publications store, Projections projections, OutletRenderer outlet) =>
            LookAsync(id, look, http, caller, store, projections, (projection, on, key) => Task.FromResult(outlet.Feed(projection, on, key))));
    }

    private static string LookPath(Guid id, string look) => $"/api/publications/{id}/look/events.json?look={Uri.EscapeDataString(look)}&";

    private static async Task<IResult> LookAsync(
        Guid id, string look, HttpContext http, Caller caller, Store.Publications store, Projections projections, Func<Projection, SchoolDay, string, Task<Rendered>> render)
    {
        var publication = await store.FindAsync(caller.SchoolId, id) ?? throw NotFoundException.Publication();
        await NeedAsync(caller, publication);
        var isDraft = look == "draft";
        // With other eyes than its readers' more may be seen than goes out: that is for who keeps all of it.
        if (!isDraft)
        {
            foreach (var calendar in All(publication).Distinct())
                await caller.NeedAsync(calendar, CalendarRole.Keeper);
        }
        var eyes = isDraft ? null : await caller.AccessAsAsync(look);
        var (projection, school) = await projections.OfAsync(caller.SchoolId, id, eyes is null ? null : eyes.AudienceOf, isDraft: isDraft);
        var rendered = await render(projection, SchoolDay.At(school, http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant()), publication.Key);
        // The studio shows it in a frame.
        http.Response.Headers.ContentSecurityPolicy = OutletPolicy.Of(rendered, "'self'");
        http.Response.Headers.CacheControl = "no-store";
        return Results.Bytes(rendered.Body(Coding.Plain), rendered.ContentType);
    }

    /// <exception cref="NotFoundException">They are not told that it is there.</exception>
    /// <exception cref="NotAllowedException">Others change it.</exception>
    internal static async Task NeedAsync(Caller caller, Publication publication)
    {
        var may = await caller.AccessAsync();
        if (may.MayChange(caller.PersonId, publication))
            return;
        throw may.MayKnow(caller.PersonId, publication)
            ? new NotAllowedException("Whoever made this publication changes it, and administrators. You may take your calendars out of it.")
            : NotFoundException.Publication();
    }

    /// <summary>What newly stands in a publication has to be seen by whoever puts it there.</summary>
    private static async Task NeedCalendarsAsync(Caller caller, Publication after, Publication? before)
    {
        var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
        var old = before is null ? [] : All(before).ToHashSet();
        foreach (var id in All(after).Where(c => !old.Contains(c)).Distinct())
        {
            if (!calendars.TryGetValue(id, out var calendar) || !may.Sees(calendar))
                throw NotFoundException.Calendar();
        }
    }

    private static IEnumerable<Guid> All(Publication p) => p.CalendarIds.Concat(p.Draft?.CalendarIds ?? []);

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
        Caller caller,
        Store.Publications store,
        ProofKeeper proofs,
        ServerSettings settings,
        Func<Publication, Instant, Publication> change)
    {
        var author = caller.Author();
        var before = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Publication();
        await NeedAsync(caller, before);
        if (version is not null && version != before.Version)
            throw new StaleWriteException(before);
        var after = change(before, author.Now);
        await NeedCalendarsAsync(caller, after, before);
        return await SaveAsync(before, after, action, caller, author, store, proofs, settings);
    }

    private static async Task<PublicationDto> SaveAsync(Publication? before, Publication after, string action, Caller caller, Author author, Store.Publications store, ProofKeeper proofs, ServerSettings settings)
    {
        var saved = await store.SaveAsync(before, after, action, author);
        // What goes out from now on is what later differences are told from.
        if (after.PublishedAt is not null && (before?.PublishedAt is null || !ReferenceEquals(after.Settings, before.Settings)))
            await proofs.KeepSentAsync(author.SchoolId, saved.Id);
        // Whoever gave it away, or keeps a part of it, is not shown what they may not do.
        return PublicationDto.Of(saved, settings) with { MayChange = (await caller.AccessAsync()).MayChange(caller.PersonId, saved) };
    }

    private static string Short(string? text) => text is { Length: > MaxSample } ? text[..MaxSample] : text ?? "";
}
