using System.Globalization;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Components.Web;
using NodaTime;
using NodaTime.Text;
using QRCoder;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Files;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>What kind of document, and with what it opens.</summary>
/// <param name="IsPage">A page of its own, not a frame in another one.</param>
/// <param name="View">The view; null for the publication's own choice.</param>
/// <param name="Count">How many events a short list shows; 0 for the publication's own choice.</param>
/// <param name="Light">By day or by night; null for the theme's own.</param>
public sealed record OutletShape(bool IsPage, OutletView? View, int Count, ThemeLight? Light)
{
    public static OutletShape Page { get; } = new(true, null, 0, null);

    /// <summary>The shape an embed's address asks for. What cannot be read is as if it were not there.</summary>
    public static OutletShape OfQuery(IQueryCollection query) => new(
        false,
        Enum.TryParse<OutletView>(query["view"], ignoreCase: true, out var view) && Enum.IsDefined(view) && !char.IsDigit(query["view"].ToString()[0]) ? view : null,
        int.TryParse(query["count"], NumberStyles.None, CultureInfo.InvariantCulture, out var count) ? Math.Clamp(count, 1, PublicationLook.MaxCount) : 0,
        query["theme"].ToString() switch { "light" => ThemeLight.Light, "dark" => ThemeLight.Dark, "reader" => ThemeLight.Reader, _ => null });
}

/// <summary>Where a reader is, as it stands in the address: from which day on, and what they want.</summary>
/// <param name="Date">The day; null for today.</param>
/// <param name="Choice">What they want.</param>
/// <param name="Language">The language they read; null for the publication's.</param>
public sealed record OutletPlace(LocalDate? Date, ReaderChoice Choice, string? Language = null)
{
    public static OutletPlace Start { get; } = new(null, ReaderChoice.None);

    /// <summary>The language an address asks for, of those there are.</summary>
    public static string? LanguageOf(IQueryCollection query) => Publication.Languages.FirstOrDefault(l => string.Equals(query["lang"], l, StringComparison.OrdinalIgnoreCase));

    /// <summary>The place an address asks for. What cannot be read is as if it were not there.</summary>
    public static OutletPlace OfQuery(IQueryCollection query) => new(
        LocalDatePattern.Iso.Parse(query["date"].ToString()) is { Success: true, Value: { Year: >= 1900 and <= 2198 } date } ? date : null,
        ReaderChoice.Read(query["off"], query["category"], query["q"]),
        LanguageOf(query));
}

/// <summary>Makes what visitors and their programs get.</summary>
internal sealed class OutletRenderer(
    SchoolYears years, MailReaders readers, Contents contents, OutletAssets assets, ServerSettings settings, IServiceProvider services, ILoggerFactory loggers)
{
    // The list in the page reaches this far; scripts fetch what lies beyond.
    private const int ListedDays = 42;
    private const int ListedEvents = 40;
    private const int MaxWindowDays = 120;
    private const int NextInstead = 6;
    private const int FoundEvents = 100;
    private const int FoundDates = 5;
    private const int LeastListed = 12;

    internal static readonly JsonSerializerOptions Json = MakeJson();

    /// <summary>The calendar file of what a publication sends out.</summary>
    public Rendered Feed(Projection projection, SchoolDay on, string key, ReaderChoice? choice = null)
    {
        var head = Head(projection, on.School, key);
        if (choice is { IsNone: false })
        {
            head = head with { FeedUrl = settings.OutletUrl(key, "/feed.ics") + choice.Query, PageUrl = settings.OutletUrl(key, "") + choice.Query };
            projection = projection.Narrowed(choice);
        }
        return Make(FeedWriter.Write(head, projection), FeedWriter.ContentType, projection, on);
    }

    /// <summary>The same as of now, to be kept.</summary>
    public Rendered Snapshot(Projection projection, SchoolDay on, string key)
    {
        var today = on.Day;
        var head = Head(projection, on.School, key) with { AsOf = projection.ChangedAt };
        return Make(FeedWriter.Write(head with { Name = $"{head.Name} ({today:uuuu-MM-dd})" }, projection), FeedWriter.ContentType, projection, on, $"{key}-{today:uuuu-MM-dd}.ics", isByDay: true);
    }

    /// <summary>When its calendars are taken.</summary>
    public Rendered Busy(Projection projection, SchoolDay on, string key)
    {
        var today = on.Day;
        return Make(BusyWriter.Write(Head(projection, on.School, key), projection, today), FeedWriter.ContentType, projection, on, isByDay: true);
    }

    /// <summary>The calendar file as JSON (RFC 7265).</summary>
    public Rendered JCalendar(Projection projection, SchoolDay on, string key) =>
        Make(JCal.Write(Head(projection, on.School, key), projection), JCal.ContentType, projection, on);

    /// <summary>The dates to come for readers of news (RFC 4287).</summary>
    public Rendered Atom(Projection projection, SchoolDay on, string key)
    {
        var (today, texts) = (on.Day, OutletTexts.For(projection.Publication.Language));
        var head = Head(projection, on.School, key) with { FeedUrl = settings.OutletUrl(key, "/atom.xml") };
        var lines = OtherForms.Lines(projection, today, texts["busy"]);
        return Make(OtherForms.Atom(head, projection, lines, on.School.Name, texts["calledOff"]), OtherForms.AtomType, projection, on, isByDay: true);
    }

    /// <summary>The dates to come as plain JSON (docs/formats.md).</summary>
    public Rendered PlainJson(Projection projection, SchoolDay on, string key)
    {
        var (today, texts) = (on.Day, OutletTexts.For(projection.Publication.Language));
        var document = new PlainDocument(
            "valtro-dates-1", projection.Publication.Title, on.School.Name, on.School.Zone.Id, settings.OutletUrl(key, ""), settings.OutletUrl(key, "/feed.ics"), projection.ChangedAt,
            [.. OtherForms.Lines(projection, today, texts["busy"]).Select(l => new PlainDate(l.Key, l.Title, l.IsAllDay, l.Start, l.End, l.Place, l.Calendars, l.Category, l.Description, l.IsCalledOff, l.ChangedAt))]);
        return Make(JsonSerializer.SerializeToUtf8Bytes(document, Json), "application/json; charset=utf-8", projection, on, isByDay: true);
    }

    /// <summary>The dates to come as a table (RFC 4180).</summary>
    public static Rendered Csv(Projection projection, SchoolDay on, string key)
    {
        var (today, texts) = (on.Day, OutletTexts.For(projection.Publication.Language));
        var rows = OtherForms.Lines(projection, today, texts["busy"]).Select(l => new object?[]
        {
            l.Start, l.End, l.IsAllDay ? "yes" : "no", l.Title, l.Place, string.Join("; ", l.Calendars), l.Category, l.IsCalledOff ? "yes" : "no", l.Description,
        });
        var bytes = CsvTable.Bytes(["start", "end", "all-day", "title", "place", "calendars", "category", "called off", "description"], rows);
        return Make(bytes, "text/csv; charset=utf-8", projection, on, $"{key}-{today:uuuu-MM-dd}.csv", isByDay: true);
    }

    /// <summary>The events of a window, for the visitors' script.</summary>
    public static Rendered Events(Projection projection, SchoolDay on, string key, LocalDate from, LocalDate to, string? language = null)
    {
        if (to > from.PlusDays(MaxWindowDays))
            throw new InvalidInputException("window_too_long", "to", $"A window covers {MaxWindowDays} days at most.");
        var today = on.Day;
        return Make(JsonSerializer.SerializeToUtf8Bytes(WindowOf(projection, on, key, from, to, today, TextsOf(projection, language)), Json), "application/json; charset=utf-8", projection, on, isByDay: true);
    }

    /// <summary>What a reader finds in all that goes out: of an event some dates, those to come first.</summary>
    public static Rendered Found(Projection projection, SchoolDay on, string key, ReaderChoice choice, string? language = null)
    {
        var today = on.Day;
        var (narrowed, texts) = (projection.Narrowed(choice), TextsOf(projection, language));
        OutletEvent[] Some(bool isPast, int most) =>
            [.. narrowed.OfEach(today, isPast, FoundDates).Take(most).Select(d => OutletEvent.Of(d, projection, texts, key, on.Begins))];
        return Make(JsonSerializer.SerializeToUtf8Bytes(new OutletFound(Some(isPast: false, FoundEvents), Some(isPast: true, ListedEvents)), Json), "application/json; charset=utf-8", projection, on, isByDay: true);
    }

    private static OutletTexts TextsOf(Projection projection, string? language) => OutletTexts.For(language ?? projection.Publication.Language);

    private static OutletWindow WindowOf(Projection projection, SchoolDay on, string key, LocalDate from, LocalDate to, LocalDate today, OutletTexts texts)
    {
        var events = OutletEvent.In(projection, new TimeWindow(from, to, on.School.Zone), texts, key, on.Begins);
        return events.Count > 0 ? new OutletWindow(from, to, events) : new OutletWindow(from, to, events)
        {
            Next = projection.Coming(to, 1).Select(o => (LocalDate?)o.Span.FirstDay).FirstOrDefault(),
            Last = projection.Past(from, 1).Select(o => (LocalDate?)o.Span.FirstDay).FirstOrDefault(),
        };
    }

    /// <summary>The link to subscribe by, or the page's, to be taken in by a camera.</summary>
    public Rendered Code(Projection projection, SchoolDay on, string key, bool isPage, bool isSvg)
    {
        var address = isPage ? settings.OutletUrl(key, "") : ServerSettings.Webcal(settings.OutletUrl(key, "/feed.ics"));
        using var data = QRCodeGenerator.GenerateQrCode(address, QRCodeGenerator.ECCLevel.M);
        return isSvg
            ? Make(Encoding.UTF8.GetBytes(new SvgQRCode(data).GetGraphic(8, "#000000", "#ffffff", drawQuietZones: true, SvgQRCode.SizingMode.ViewBoxAttribute)), "image/svg+xml", projection, on)
            : new Rendered(new PngByteQRCode(data).GetGraphic(12), "image/png", projection.ChangedAt, projection.Publication.Revision, null, isCompact: true) { IsOutOfSearch = projection.IsOutOfSearch };
    }

    /// <summary>A picture of a publication's page, or a picture or file of an event that it shows in full.</summary>
    /// <exception cref="NotFoundException">No such thing goes out, or it is gone.</exception>
    public async Task<Rendered> BroughtAsync(Projection projection, SchoolDay on, Guid id, bool isSmall, Rendered? before)
    {
        var file = FileOf(projection, id);
        if (file is null && !HasPicture(projection, id))
            throw FileEndpoints.Missing();
        var (contentId, name) = (file?.ContentId ?? id, file?.Name);
        // Contents never change: of a publication that changed elsewhere they are not read again.
        if (before is not null && before.ContentId == contentId && before.FileName == name)
            return before.At(projection.Publication.Revision, projection.IsOutOfSearch);
        var content = await contents.FindAsync(on.School.Id, contentId) ?? throw FileEndpoints.Missing();
        var (type, revision, isOutOfSearch) = (FileEndpoints.TypeOf(content), projection.Publication.Revision, projection.IsOutOfSearch);
        if (file is not null && Rendered.IsLargeOf(content.Size))
            return Rendered.OfLarge(content, type, file.Name, projection.ChangedAt, revision, isOutOfSearch);
        using var bytes = new MemoryStream();
        await foreach (var part in contents.ReadAsync(on.School.Id, contentId, isSmall && file is null ? 1 : 0))
            bytes.Write(part);
        return new Rendered(bytes.ToArray(), type, projection.ChangedAt, revision, null, isCompact: true) { IsOutOfSearch = isOutOfSearch, FileName = name, ContentId = contentId };
    }

    /// <summary>A file that goes out with a publication; null for none.</summary>
    public static Core.Events.EventFile? FileOf(Projection projection, Guid id) => projection.Events.SelectMany(e => e.Files).FirstOrDefault(f => f.Id == id);

    /// <summary>Whether a picture goes out with a publication.</summary>
    public static bool HasPicture(Projection projection, Guid id) => projection.Publication.Look.Picture?.Id == id || projection.Events.Any(e => e.Facts.Picture?.Id == id);

    /// <summary>A page or an embed.</summary>
    /// <param name="projection">What is sent out.</param>
    /// <param name="on">The school, and the day.</param>
    /// <param name="key">The link it is asked by.</param>
    /// <param name="shape">What kind of document.</param>
    /// <param name="place">Where the reader is.</param>
    /// <param name="more">The address of the events of other days, to which a window is added.</param>
    /// <param name="search">The address of what is found; null where there is none.</param>
    public async Task<Rendered> DocumentAsync(Projection projection, SchoolDay on, string key, OutletShape shape, OutletPlace place, string more, string? search = null)
    {
        var today = on.Day;
        var publication = projection.Publication;
        var texts = TextsOf(projection, place.Language);
        var view = shape.View ?? publication.Settings.FirstView;
        var look = OutletLook.Of(publication.Look, shape);
        var isShort = view is OutletView.Upcoming or OutletView.Cards;
        // What does not fit the window is there all the same, until a list has its number.
        IReadOnlyList<OutletEvent> coming =
            [.. projection.Coming(today, Math.Max(isShort ? look.Count : ListedEvents, LeastListed)).Select(o => OutletEvent.Of(o, projection, texts, key, on.Begins))];
        var start = StartOf(projection, on, key, look, texts, today, place, view, coming, more, search, search is not null && publication.Audience != Core.Reach.Audience.Members && (await readers.SettingsAsync(on.School.Id)).IsOn);
        var anchor = place.Date ?? today;
        var isStart = place is { Date: null, Choice.IsNone: true };
        IReadOnlyList<OutletEvent> listed = isStart ? coming : [.. projection.Narrowed(place.Choice).Coming(anchor, ListedEvents).Select(o => OutletEvent.Of(o, projection, texts, key, on.Begins))];
        var next = isStart && isShort ? listed.Take(look.Count) : listed;
        var style = ThemeStyle.Of(publication.Look.Theme, shape.IsPage, shape.Light);
        var html = await RenderAsync<OutletDocument>(new Dictionary<string, object?>
        {
            [nameof(OutletDocument.Shape)] = shape,
            [nameof(OutletDocument.View)] = view,
            [nameof(OutletDocument.Place)] = place,
            [nameof(OutletDocument.Texts)] = texts,
            [nameof(OutletDocument.Start)] = start,
            [nameof(OutletDocument.Publication)] = publication,
            [nameof(OutletDocument.Key)] = key,
            [nameof(OutletDocument.Address)] = settings.Address,
            [nameof(OutletDocument.Style)] = style,
            [nameof(OutletDocument.Next)] = look.LatestFirst ? next.Reverse().ToList() : next.ToList(),
            [nameof(OutletDocument.Data)] = JsonSerializer.Serialize(start, Json),
            [nameof(OutletDocument.Files)] = assets,
        });
        // It says what is on from today, so it is another document at the day's start.
        return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", Instant.Max(projection.ChangedAt, on.Begins), projection.Publication.Revision, on)
        {
            // An embed is a part of another page, which search engines find by itself.
            IsOutOfSearch = projection.IsOutOfSearch || !shape.IsPage,
            FrameAncestors = shape.IsPage ? "'self'" : Ancestors(publication),
            StyleHash = style.Hash,
        };
    }

    // All a script starts with: the days around the place, and what comes next beyond them.
    private OutletStart StartOf(
        Projection projection, SchoolDay on, string key, OutletLook look, OutletTexts texts, LocalDate today, OutletPlace place, OutletView view, IReadOnlyList<OutletEvent> coming, string more, string? search, bool isByMail = false)
    {
        var publication = projection.Publication;
        var inLanguage = LanguageQuery(texts, publication);
        var anchor = place.Date ?? today;
        var from = publication.Look.IsWholeMonth ? new LocalDate(anchor.Year, anchor.Month, 1) : anchor;
        from = from.PlusDays(1 - (int)from.DayOfWeek);
        // Weeks may begin before Monday.
        var window = WindowOf(projection, on, key, from.PlusDays(-2), anchor.PlusDays(ListedDays), today, texts);
        var feed = settings.OutletUrl(key, "/feed.ics");
        return new OutletStart(
            inLanguage.Length > 0 ? $"{more}lang={texts.Language}&" : more, publication.Title, on.School.Name, texts.Language, inLanguage, on.School.Zone.Id, today, view,
            settings.OutletUrl(key, ""), feed, ServerSettings.Webcal(feed),
            [.. projection.Calendars.Select(c => new OutletCalendar(c.Title, c.Mark, ReaderChoice.NameOf(publication, c.Id)))],
            [.. projection.Events.SelectMany(e => e.Changes.Select(e.CategoryOn).Prepend(e.Category)).OfType<string>().Distinct().Order(StringComparer.Ordinal)],
            // An embed of a view that is none of the visitors' has nothing to change to.
            look with { Views = look.Views.Contains(view) ? look.Views : [view] },
            window,
            [.. coming.Where(e => e.FirstDay >= window.To)],
            search,
            isByMail ? $"{settings.Address}/follow/{key}" : null);
    }

    /// <summary>The page of one date.</summary>
    public async Task<Rendered> DateAsync(Projection projection, SchoolDay on, string key, PublishedOccurrence date, string? language = null, bool isEmbed = false, ThemeLight? light = null)
    {
        var publication = projection.Publication;
        var texts = TextsOf(projection, language);
        var style = ThemeStyle.Of(publication.Look.Theme, !isEmbed, light);
        var today = on.Day;
        var html = await RenderAsync<DateDocument>(new Dictionary<string, object?>
        {
            [nameof(DateDocument.Date)] = date,
            [nameof(DateDocument.IsEmbed)] = isEmbed,
            [nameof(DateDocument.Shown)] = OutletEvent.Of(date, projection, texts, key, on.Begins),
            [nameof(DateDocument.Projection)] = projection,
            [nameof(DateDocument.School)] = on.School.Name,
            [nameof(DateDocument.Texts)] = texts,
            [nameof(DateDocument.Key)] = key,
            [nameof(DateDocument.Address)] = settings.Address,
            [nameof(DateDocument.Style)] = style,
            [nameof(DateDocument.Data)] = JsonSerializer.Serialize(EventData.Of(date, projection, on.School, settings.Address, key), EventData.Json),
            [nameof(DateDocument.Files)] = assets,
        });
        return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", projection.ChangedAt, projection.Publication.Revision, on)
        {
            // An embed is a part of another page, which search engines find by itself.
            IsOutOfSearch = projection.IsOutOfSearch || isEmbed,
            FrameAncestors = isEmbed ? Ancestors(publication) : "'self'",
            StyleHash = style.Hash,
        };
    }

    /// <summary>A screen on a wall: today and the next days, large.</summary>
    public async Task<Rendered> WallAsync(Projection projection, SchoolDay on, string key, OutletPlace place, ThemeLight? light)
    {
        var (publication, today) = (projection.Publication, on.Day);
        var texts = TextsOf(projection, place.Language);
        var start = StartOf(projection.Narrowed(place.Choice), on, key, OutletLook.Of(publication.Look, OutletShape.Page), texts, today, place with { Date = today }, OutletView.List, [], "", null);
        var style = ThemeStyle.Of(publication.Look.Theme, isPage: true, light);
        var html = await RenderAsync<WallDocument>(new Dictionary<string, object?>
        {
            [nameof(WallDocument.Texts)] = texts,
            [nameof(WallDocument.Start)] = start,
            [nameof(WallDocument.Style)] = style,
            [nameof(WallDocument.Next)] = start.Window.Events.Where(e => e.LastDay >= today).Take(LeastListed).ToList(),
            [nameof(WallDocument.Data)] = JsonSerializer.Serialize(start, Json),
            [nameof(WallDocument.Files)] = assets,
        });
        return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", Instant.Max(projection.ChangedAt, on.Begins), projection.Publication.Revision, on)
        {
            IsOutOfSearch = true,
            StyleHash = style.Hash,
        };
    }

    /// <summary>A term's weeks, for paper.</summary>
    public async Task<Rendered> TermAsync(Projection projection, SchoolDay on, string key, string? language)
    {
        var (publication, today) = (projection.Publication, on.Day);
        var texts = TextsOf(projection, language);
        var span = TermPlan.Span((await years.GetAsync(on.School.Id)).Days, today, texts["next"]);
        var events = OutletEvent.In(projection, new TimeWindow(span.First, span.Last.PlusDays(1), on.School.Zone), texts, key, on.Begins);
        var style = ThemeStyle.Of(publication.Look.Theme, isPage: true, ThemeLight.Light);
        var html = await RenderAsync<TermDocument>(new Dictionary<string, object?>
        {
            [nameof(TermDocument.Plan)] = TermPlan.Of(span, events, publication.Look.WeekStart),
            [nameof(TermDocument.Calendars)] = projection.Calendars,
            [nameof(TermDocument.Publication)] = publication,
            [nameof(TermDocument.School)] = on.School.Name,
            [nameof(TermDocument.Zone)] = on.School.Zone.Id,
            [nameof(TermDocument.Texts)] = texts,
            [nameof(TermDocument.Key)] = key,
            [nameof(TermDocument.Style)] = style,
            [nameof(TermDocument.Files)] = assets,
        });
        return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", Instant.Max(projection.ChangedAt, on.Begins), projection.Publication.Revision, on)
        {
            IsOutOfSearch = true,
            StyleHash = style.Hash,
        };
    }

    private static string Ancestors(Publication publication) => publication.Look.Sites.IsEmpty ? "*" : $"'self' {string.Join(' ', publication.Look.Sites)}";

    /// <summary>One date as a calendar file.</summary>
    public Rendered DateFile(Projection projection, SchoolDay on, string key, PublishedOccurrence date) =>
        Make(FeedWriter.WriteOne(Head(projection, on.School, key) with { AsOf = date.Event.ChangedAt }, projection, date), FeedWriter.ContentType, projection, on, $"{date.LocalStart:uuuu-MM-dd}-{key}.ics");

    /// <summary>The page of a date that is not there: what is on instead, in the publication's face.</summary>
    /// <param name="projection">What is sent out.</param>
    /// <param name="on">The school, and the day.</param>
    /// <param name="key">The link it is asked by.</param>
    /// <param name="isNoLonger">Whether it was there.</param>
    /// <param name="language">The language it is read in; null for the publication's.</param>
    public async Task<Rendered> NoDateAsync(Projection projection, SchoolDay on, string key, bool isNoLonger, string? language = null)
    {
        var (publication, today) = (projection.Publication, on.Day);
        var texts = TextsOf(projection, language);
        var style = ThemeStyle.Of(publication.Look.Theme, isPage: true);
        var next = projection.In(new TimeWindow(today, today.PlusDays(OtherForms.DaysAhead), on.School.Zone))
            .Where(o => o.Event.Detail >= Core.Reach.Detail.Headlines && !o.IsCalledOff)
            .Take(NextInstead)
            .Select(o => OutletEvent.Of(o, projection, texts, key, on.Begins));
        var html = await RenderAsync<NoDateDocument>(new Dictionary<string, object?>
        {
            [nameof(NoDateDocument.IsNoLonger)] = isNoLonger,
            [nameof(NoDateDocument.Next)] = next.ToList(),
            [nameof(NoDateDocument.Publication)] = publication,
            [nameof(NoDateDocument.School)] = on.School.Name,
            [nameof(NoDateDocument.Texts)] = texts,
            [nameof(NoDateDocument.Key)] = key,
            [nameof(NoDateDocument.Style)] = style,
            [nameof(NoDateDocument.Files)] = assets,
        });
        return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", projection.ChangedAt, projection.Publication.Revision, on)
        {
            IsOutOfSearch = true,
            StyleHash = style.Hash,
            Status = isNoLonger ? StatusCodes.Status410Gone : StatusCodes.Status404NotFound,
        };
    }

    /// <summary>What a person is told of a fault, in words and in their language.</summary>
    public async Task<IResult> FaultAsync(HttpContext http, int status)
    {
        var texts = OutletTexts.ForReader(http.Request);
        var name = status switch { 404 or 422 or 400 => "unknown", 429 => "busy", 503 => "away", _ => "failed" };
        http.Response.Headers.CacheControl = "no-store";
        return Results.Text(await NoticeAsync(texts, texts[name + "Title"], texts[name + "Text"]), "text/html; charset=utf-8", statusCode: status);
    }

    /// <summary>A page that says why there is nothing here and what to do.</summary>
    /// <param name="texts">The texts, in the reader's language.</param>
    /// <param name="title">What it says first.</param>
    /// <param name="text">What it says then.</param>
    /// <param name="onward">An address to go on to, with its words; null for none.</param>
    /// <param name="isInFrame">Whether it is read in a frame, which is no place to go on in.</param>
    public Task<string> NoticeAsync(OutletTexts texts, string title, string text, (string Address, string Words)? onward = null, bool isInFrame = false) =>
        RenderAsync<OutletNotice>(new Dictionary<string, object?>
        {
            [nameof(OutletNotice.Texts)] = texts,
            [nameof(OutletNotice.Title)] = title,
            [nameof(OutletNotice.Text)] = text,
            [nameof(OutletNotice.Onward)] = onward?.Address,
            [nameof(OutletNotice.Words)] = onward?.Words ?? "",
            [nameof(OutletNotice.Target)] = isInFrame ? "_blank" : "_top",
            [nameof(OutletNotice.Files)] = assets,
        });

    /// <summary>What its calendar files say of themselves.</summary>
    public FeedHead Head(Projection projection, School school, string key)
    {
        var publication = projection.Publication;
        return new FeedHead(
            $"{school.ShortName}: {publication.Title}", publication.Settings.Introduction, settings.OutletUrl(key, ""), settings.OutletUrl(key, "/feed.ics"), OutletTexts.For(publication.Language)["busy"], settings.OutletUrl(key, "/files/"))
        {
            Choices = publication.Choices,
            DatesUrl = settings.OutletUrl(key, "/e/"),
        };
    }

    // What counts from a day is another one at the next.
    private static Rendered Make(byte[] bytes, string contentType, Projection projection, SchoolDay on, string? fileName = null, bool isByDay = false) =>
        new(bytes, contentType, isByDay ? Instant.Max(projection.ChangedAt, on.Begins) : projection.ChangedAt, projection.Publication.Revision, isByDay || projection.ValidUntil is not null ? on : null)
        {
            IsOutOfSearch = projection.IsOutOfSearch,
            FileName = fileName,
            IsForPrograms = true,
        };

    private static JsonSerializerOptions MakeJson()
    {
        var json = new JsonSerializerOptions(JsonSerializerDefaults.Web);
        ApiServices.Configure(json);
        return json;
    }

    /// <summary>What an address says of the language; nothing where it is the publication's own.</summary>
    public static string LanguageQuery(OutletTexts texts, Publication publication) => texts.Language == publication.Language ? "" : $"?lang={texts.Language}";

    /// <summary>A document as text.</summary>
    public async Task<string> RenderAsync<T>(Dictionary<string, object?> parameters)
        where T : IComponent
    {
        await using var renderer = new HtmlRenderer(services, loggers);
        return await renderer.Dispatcher.InvokeAsync(async () =>
            "<!DOCTYPE html>\n" + (await renderer.RenderComponentAsync<T>(ParameterView.FromDictionary(parameters))).ToHtmlString());
    }
}

/// <summary>The dates to come, for whoever writes a program of their own. Described in docs/formats.md.</summary>
internal sealed record PlainDocument(string Format, string Title, string School, string Zone, string Page, string Feed, Instant ChangedAt, IReadOnlyList<PlainDate> Dates);

internal sealed record PlainDate(
    string Id, string Title, bool AllDay, string Start, string End, string Place, IReadOnlyList<string> Calendars, string Category, string Description, bool CalledOff, Instant ChangedAt);
