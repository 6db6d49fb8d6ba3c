using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Components.Web;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>What kind of document, and with what it opens.</summary>
/// <param name="IsPage">A page of its own, not a frame in another one.</param>
/// <param name="View">The view; null for the publication's own choice.</param>
/// <param name="Count">How many events the short list shows; 0 for the full views.</param>
public sealed record OutletShape(bool IsPage, OutletView? View, int Count)
{
    public static OutletShape Page { get; } = new(true, null, 0);

    /// <summary>The shape an embed's address asks for. What cannot be read is as if it were not there.</summary>
    public static OutletShape OfQuery(IQueryCollection query)
    {
        var view = query["view"].ToString();
        if (view == "upcoming")
            return new OutletShape(false, OutletView.List, int.TryParse(query["count"], out var count) ? Math.Clamp(count, 1, 30) : 5);
        return new OutletShape(false, view switch { "month" => OutletView.Month, "list" => OutletView.List, _ => null }, 0);
    }
}

/// <summary>Makes what visitors and their programs get.</summary>
internal sealed class OutletRenderer(
    Store.Publications publications, Schools schools, RenderedCache cache, OutletAssets assets, ServerSettings settings, IServiceProvider services, ILoggerFactory loggers, IClock clock)
{
    // The list in the page reaches this far; scripts fetch what lies beyond.
    private const int ListedDays = 42;
    private const int ListedEvents = 40;
    private const int MaxWindowDays = 120;

    private static readonly JsonSerializerOptions Json = MakeJson();

    public async Task<Rendered> FeedAsync(PublicationState state, string key) =>
        await cache.GetAsync((state.Id, state.Revision, "feed"), async () =>
        {
            var (projection, school) = await ProjectAsync(state.SchoolId, state.Id);
            return Feed(projection, school, key);
        });

    public async Task<Rendered> EventsAsync(PublicationState state, string key, LocalDate from, LocalDate to) =>
        await cache.GetAsync((state.Id, state.Revision, "events", from, to), async () =>
        {
            var (projection, school) = await ProjectAsync(state.SchoolId, state.Id);
            return Events(projection, school, key, from, to);
        });

    public async Task<Rendered> DocumentAsync(PublicationState state, string key, OutletShape shape)
    {
        var school = await schools.GetAsync(state.SchoolId);
        var today = clock.GetCurrentInstant().InZone(school.Zone).Date;
        return await cache.GetAsync((state.Id, state.Revision, shape, today), async () =>
        {
            var (projection, _) = await ProjectAsync(state.SchoolId, state.Id);
            return await DocumentAsync(projection, school, key, shape, $"/p/{key}/events.json?");
        });
    }

    /// <summary>The calendar file of what a publication sends out.</summary>
    public Rendered Feed(Projection projection, School school, string key)
    {
        var publication = projection.Publication;
        var texts = OutletTexts.For(publication.Language);
        var head = new FeedHead(
            $"{school.ShortName}: {publication.Title}", publication.Introduction, settings.OutletUrl(key, ""), settings.OutletUrl(key, "/feed.ics"), texts["busy"], settings.OutletUrl(key, "/files/"))
        {
            Choices = publication.Choices,
        };
        return Make(FeedWriter.Write(head, projection), FeedWriter.ContentType, projection);
    }

    /// <summary>The events of a window, for the visitors' script.</summary>
    public static Rendered Events(Projection projection, School school, string key, LocalDate from, LocalDate to)
    {
        if (to > from.PlusDays(MaxWindowDays))
            throw new InvalidInputException("window_too_long", "to", $"A window covers {MaxWindowDays} days at most.");
        var events = OutletEvent.In(projection, new TimeWindow(from, to, school.Zone), OutletTexts.For(projection.Publication.Language), key);
        return Make(JsonSerializer.SerializeToUtf8Bytes(new OutletWindow(from, to, events), Json), "application/json; charset=utf-8", projection);
    }

    /// <summary>A page or an embed.</summary>
    /// <param name="projection">What is sent out.</param>
    /// <param name="school">The school.</param>
    /// <param name="key">The publication's key.</param>
    /// <param name="shape">What kind of document.</param>
    /// <param name="more">The address of the events of other days, to which a window is added.</param>
    public async Task<Rendered> DocumentAsync(Projection projection, School school, string key, OutletShape shape, string more)
    {
        var today = clock.GetCurrentInstant().InZone(school.Zone).Date;
        var publication = projection.Publication;
        var texts = OutletTexts.For(publication.Language);
        var from = new LocalDate(today.Year, today.Month, 1);
        from = from.PlusDays(1 - (int)from.DayOfWeek);
        var window = new TimeWindow(from, today.PlusDays(ListedDays), school.Zone);
        var feed = settings.OutletUrl(key, "/feed.ics");
        var start = new OutletStart(
            more, publication.Title, school.Name, publication.Language, school.Zone.Id, today, shape.View ?? publication.FirstView,
            settings.OutletUrl(key, ""), feed, ServerSettings.Webcal(feed),
            [.. projection.Calendars.Select(c => new OutletCalendar(c.Title, c.Mark))],
            new OutletWindow(window.From, window.To, OutletEvent.In(projection, window, texts, key)));
        var next = start.Window.Events.Where(e => e.LastDay >= today).Take(shape.Count > 0 ? shape.Count : ListedEvents).ToList();
        var html = await RenderAsync<OutletDocument>(new Dictionary<string, object?>
        {
            [nameof(OutletDocument.Shape)] = shape,
            [nameof(OutletDocument.Texts)] = texts,
            [nameof(OutletDocument.Start)] = start,
            [nameof(OutletDocument.Introduction)] = publication.Introduction,
            [nameof(OutletDocument.Next)] = next,
            [nameof(OutletDocument.Data)] = JsonSerializer.Serialize(start, Json),
            [nameof(OutletDocument.Files)] = assets,
        });
        // It says what is on from today, so it is another document at the day's start.
        var midnight = Zones.ToInstant(today.AtMidnight(), school.Zone);
        return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", Instant.Max(projection.ChangedAt, midnight), projection.ValidUntil)
        {
            // An embed is a part of another page, which search engines find by itself.
            IsOutOfSearch = projection.IsOutOfSearch || !shape.IsPage,
        };
    }

    /// <summary>A page that says why there is nothing here and what to do.</summary>
    public Task<string> NoticeAsync(OutletTexts texts, string title, string text) =>
        RenderAsync<OutletNotice>(new Dictionary<string, object?>
        {
            [nameof(OutletNotice.Texts)] = texts,
            [nameof(OutletNotice.Title)] = title,
            [nameof(OutletNotice.Text)] = text,
            [nameof(OutletNotice.Files)] = assets,
        });

    private static Rendered Make(byte[] bytes, string contentType, Projection projection) =>
        new(bytes, contentType, projection.ChangedAt, projection.ValidUntil) { IsOutOfSearch = projection.IsOutOfSearch };

    private static JsonSerializerOptions MakeJson()
    {
        var json = new JsonSerializerOptions(JsonSerializerDefaults.Web);
        ApiServices.Configure(json);
        return json;
    }

    /// <summary>What goes out of the events with a file or picture.</summary>
    public async Task<Projection> ProjectAsync(PublicationState state, Guid fileId) => (await ProjectAsync(state.SchoolId, state.Id, fileId: fileId)).Projection;

    /// <summary>What a publication sends out, or what it would with other eyes.</summary>
    public async Task<(Projection Projection, School School)> ProjectAsync(Guid schoolId, Guid id, Func<Calendar, Audience>? audienceOf = null, Guid? fileId = null)
    {
        var contents = await publications.ContentsAsync(schoolId, id, fileId);
        var school = await schools.GetAsync(schoolId);
        return (Projection.Of(contents.Publication, school.Zone, contents.Calendars, contents.Events, clock.GetCurrentInstant(), contents.Lists, audienceOf), school);
    }

    private async Task<string> RenderAsync<T>(Dictionary<string, object?> parameters)
        where T : IComponent
    {
        await using var renderer = new HtmlRenderer(services, loggers);
        return await renderer.Dispatcher.InvokeAsync(async () =>
            "<!DOCTYPE html>\n" + (await renderer.RenderComponentAsync<T>(ParameterView.FromDictionary(parameters))).ToHtmlString());
    }
}
