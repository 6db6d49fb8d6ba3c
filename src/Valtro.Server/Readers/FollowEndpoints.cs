using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Outlets;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Readers;

/// <summary>Whether the school writes to visitors.</summary>
internal sealed record ReaderMailInput(bool IsOn);

/// <summary>Whether the school writes to visitors.</summary>
internal sealed record ReaderMailDto(bool IsOn, bool MayChange);

/// <summary>
/// Where visitors ask to be written to, confirm it and end it: pages with a form each, no script and no session. What changes
/// something takes a press of a button, for programs open links in mails by themselves.
/// </summary>
internal static class FollowEndpoints
{
    private const int MaxForm = 8_000;
    private const int MaxAddress = 320;

    public static void MapReaderMail(this IEndpointRouteBuilder api)
    {
        api.MapGet("/reader-mail", async (Caller caller, MailReaders readers) =>
        {
            var may = await caller.AccessAsync();
            return new ReaderMailDto((await readers.SettingsAsync(caller.SchoolId)).IsOn, may.IsAdministrator);
        });
        api.MapPut("/reader-mail", async (ReaderMailInput input, Caller caller, MailReaders readers) =>
        {
            await caller.NeedAdministratorAsync();
            await readers.SetAsync(input.IsOn, caller.Author());
            return new ReaderMailDto(input.IsOn, MayChange: true);
        });
    }

    public static void MapFollowing(this WebApplication app)
    {
        var follow = app.MapGroup("/follow").ExcludeFromDescription();
        follow.MapGet("/confirm/{token}", (string token, HttpContext http, FollowPages pages) => pages.ConfirmAsync(http, token, isPressed: false));
        follow.MapPost("/confirm/{token}", (string token, HttpContext http, FollowPages pages) => pages.ConfirmAsync(http, token, isPressed: true));
        follow.MapGet("/end/{token}", (string token, HttpContext http, FollowPages pages) => pages.EndAsync(http, token, isPressed: false));
        // Also a mail program's one click (RFC 8058, 3.1).
        follow.MapPost("/end/{token}", (string token, HttpContext http, FollowPages pages) => pages.EndAsync(http, token, isPressed: true));
        follow.MapGet("/{key}", (string key, HttpContext http, FollowPages pages) => pages.AskAsync(http, key, null));
        follow.MapPost("/{key}", async (string key, HttpContext http, FollowPages pages) =>
        {
            if (!http.Request.HasFormContentType || http.Request.ContentLength is null or > MaxForm)
                return await pages.AskAsync(http, key, null);
            var form = await http.Request.ReadFormAsync();
            return await pages.AskAsync(http, key, new FollowForm(form["address"].ToString().Trim(), form["wish"].ToString()));
        });
    }

    /// <summary>Whether a text is one address that mail can go to.</summary>
    public static bool IsAddress(string text) =>
        text.Length is > 2 and <= MaxAddress && text.All(c => c > ' ') && System.Net.Mail.MailAddress.TryCreate(text, out var parsed) && parsed.Address == text && parsed.Host.Contains('.', StringComparison.Ordinal);
}

/// <summary>What a visitor typed and chose.</summary>
internal sealed record FollowForm(string Address, string Wish);

/// <summary>The pages of following by mail.</summary>
internal sealed class FollowPages(
    MailReaders readers, ReaderAddresses addresses, OutletDesk desk, Projections projections, OutletRenderer outlets, OutletBudget budget, ServerSettings settings, IClock clock)
{
    private Instant Now => clock.GetCurrentInstant();

    /// <summary>The form, and what becomes of it.</summary>
    public async Task<IResult> AskAsync(HttpContext http, string key, FollowForm? form)
    {
        // Each mail that is asked for is work, and somebody's mailbox.
        budget.Take(http, form is null ? 1 : 5);
        var state = await desk.StateAsync(key.ToLowerInvariant(), pieces => budget.Take(http, pieces));
        if (state is { IsGone: true } || state?.Until <= Now)
            return await GoneAsync(http, TextsOf(http), "gone", StatusCodes.Status410Gone);
        if (state is null or { IsClosed: true } or { IsPersonal: true } || state.From > Now || !(await readers.SettingsAsync(state.SchoolId)).IsOn)
            return await outlets.FaultAsync(http, StatusCodes.Status404NotFound);
        var (projection, school) = await projections.OfAsync(state);
        var place = OutletPlace.OfQuery(http.Request.Query);
        var texts = OutletTexts.For(place.Language ?? projection.Publication.Language);
        if (form is null)
            return await PageAsync(http, projection, school, texts, key, null, "", ReaderWish.Changes, StatusCodes.Status200OK);
        if (!Enum.TryParse<ReaderWish>(form.Wish, ignoreCase: true, out var wish) || !Enum.IsDefined(wish))
            wish = ReaderWish.Changes;
        if (!FollowEndpoints.IsAddress(form.Address))
            return await PageAsync(http, projection, school, texts, key, texts["mailWrong"], form.Address, wish, StatusCodes.Status422UnprocessableEntity);
        var (secret, hash) = Secrets.New();
        var reader = new MailReader(
            Guid.CreateVersion7(), school.Id, state.Id, addresses.Sealed(school.Id, form.Address), wish, place.Choice.Query, texts.Language, projection.Publication.Key, IsConfirmed: false);
        var (subject, body) = ReaderLetters.Confirm(texts, projection.Publication.Title, $"{settings.Address}/follow/confirm/{secret}?lang={texts.Language}");
        var asked = await readers.AskAsync(reader, await addresses.HashAsync(school.Id, form.Address), hash, new ReaderMail(reader.Id, subject, body, addresses.EndOf(reader.Id, texts.Language)), Now);
        if (asked == ReaderAsk.Full)
            return await PageAsync(http, projection, school, texts, key, texts["mailFull"], form.Address, wish, StatusCodes.Status429TooManyRequests);
        // The same whether the address is known or not: nobody learns who reads.
        return await NoticeAsync(http, texts, "mailSentTitle", "mailSentText", settings.OutletUrl(projection.Publication.Key, ""));
    }

    /// <summary>Somebody says that the address is theirs.</summary>
    public async Task<IResult> ConfirmAsync(HttpContext http, string token, bool isPressed)
    {
        budget.Take(http);
        var texts = TextsOf(http);
        if (await readers.ToConfirmAsync(Secrets.HashOf(token), Now) is not { } reader)
            return await GoneAsync(http, texts);
        var (projection, school) = await projections.OfAsync(reader.SchoolId, reader.PublicationId);
        if (!isPressed)
            return await PressAsync(http, texts, texts.With("mailConfirmTitle", projection.Publication.Title), texts["mailConfirmText"], texts["mailConfirm"]);
        var today = Now.InZone(school.Zone).Date;
        await readers.ConfirmAsync(reader, ToldDates.Of(projection, today), today, Now);
        return await NoticeAsync(http, texts, "mailOnTitle", "mailOnText", settings.OutletUrl(projection.Publication.Key, ""));
    }

    /// <summary>Somebody wants no more of it.</summary>
    public async Task<IResult> EndAsync(HttpContext http, string token, bool isPressed)
    {
        budget.Take(http);
        var texts = TextsOf(http);
        if (addresses.ReaderOf(token) is not { } id)
            return await GoneAsync(http, texts);
        // Ended twice is ended.
        var reader = await readers.FindAsync(id);
        if (!isPressed && reader is not null)
            return await PressAsync(http, texts, texts["mailEndTitle"], "", texts["mailEnd"]);
        if (reader is not null)
            await readers.EndAsync(reader);
        return await NoticeAsync(http, texts, "mailEndedTitle", "mailEndedText", null);
    }

    private static OutletTexts TextsOf(HttpContext http) => OutletPlace.LanguageOf(http.Request.Query) is { } language ? OutletTexts.For(language) : OutletTexts.ForReader(http.Request);

    private async Task<IResult> GoneAsync(HttpContext http, OutletTexts texts, string what = "mailGone", int status = StatusCodes.Status404NotFound)
    {
        http.Response.Headers.CacheControl = "no-store";
        return Results.Text(await outlets.NoticeAsync(texts, texts[what + "Title"], texts[what + "Text"]), "text/html; charset=utf-8", statusCode: status);
    }

    private async Task<IResult> NoticeAsync(HttpContext http, OutletTexts texts, string title, string text, string? onward)
    {
        http.Response.Headers.CacheControl = "no-store";
        return Results.Text(await outlets.NoticeAsync(texts, texts[title], texts[text], onward is null ? null : (onward, texts["mailHere"])), "text/html; charset=utf-8");
    }

    private async Task<IResult> PressAsync(HttpContext http, OutletTexts texts, string title, string text, string press)
    {
        http.Response.Headers.CacheControl = "no-store";
        http.Response.Headers["Referrer-Policy"] = "no-referrer";
        return Results.Text(await outlets.RenderAsync<PressDocument>(new Dictionary<string, object?>
        {
            [nameof(PressDocument.Texts)] = texts,
            [nameof(PressDocument.Title)] = title,
            [nameof(PressDocument.Text)] = text,
            [nameof(PressDocument.Press)] = press,
        }), "text/html; charset=utf-8");
    }

    private async Task<IResult> PageAsync(HttpContext http, Projection projection, School school, OutletTexts texts, string key, string? problem, string address, ReaderWish wish, int status)
    {
        http.Response.Headers.CacheControl = "no-store";
        var style = ThemeStyle.Of(projection.Publication.Look.Theme, isPage: true);
        if (style.Hash is { } hash)
            http.Response.Headers.ContentSecurityPolicy = $"default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; style-src 'self' '{hash}'; frame-ancestors 'none'";
        return Results.Text(await outlets.RenderAsync<FollowDocument>(new Dictionary<string, object?>
        {
            [nameof(FollowDocument.Texts)] = texts,
            [nameof(FollowDocument.Publication)] = projection.Publication,
            [nameof(FollowDocument.School)] = school.Name,
            [nameof(FollowDocument.Key)] = key.ToLowerInvariant(),
            [nameof(FollowDocument.Query)] = http.Request.QueryString.Value ?? "",
            [nameof(FollowDocument.Problem)] = problem,
            [nameof(FollowDocument.Typed)] = address,
            [nameof(FollowDocument.Wish)] = wish,
            [nameof(FollowDocument.Style)] = style,
        }), "text/html; charset=utf-8", statusCode: status);
    }
}
