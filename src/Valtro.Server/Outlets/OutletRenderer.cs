using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Components.Web;
using NodaTime;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
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

    private static readonly JsonSerializerOptions Json = MakeJson();

    public async Task<Rendered> FeedAsync(PublicationState state, string key) =>
        await cache.GetAsync((state.Id, state.Revision, "feed"), async () =>
        {
            var (projection, school) = await ProjectAsync(state);
            var publication = projection.Publication;
            var texts = OutletTexts.For(publication.Language);
            var head = new FeedHead(
                $"{school.ShortName}: {publication.Title}", publication.Introduction, settings.OutletUrl(key, ""), settings.OutletUrl(key, "/feed.ics"), texts["busy"], settings.OutletUrl(key, "/files/"));
            return Make(FeedWriter.Write(head, projection), FeedWriter.ContentType, projection);
        });

    public async Task<Rendered> EventsAsync(PublicationState state, string key, LocalDate from, LocalDate to) =>
        await cache.GetAsync((state.Id, state.Revision, "events", from, to), async () =>
        {
            var (projection, school) = await ProjectAsync(state);
            var events = OutletEvent.In(projection, new TimeWindow(from, to, school.Zone), OutletTexts.For(projection.Publication.Language), key);
            return Make(JsonSerializer.SerializeToUtf8Bytes(new OutletWindow(from, to, events), Json), "application/json; charset=utf-8", projection);
        });

    public async Task<Rendered> DocumentAsync(PublicationState state, string key, OutletShape shape)
    {
        var school = await schools.GetAsync(state.SchoolId);
        var today = clock.GetCurrentInstant().InZone(school.Zone).Date;
        return await cache.GetAsync((state.Id, state.Revision, shape, today), async () =>
        {
            var (projection, _) = await ProjectAsync(state);
            var publication = projection.Publication;
            var texts = OutletTexts.For(publication.Language);
            var from = new LocalDate(today.Year, today.Month, 1);
            from = from.PlusDays(1 - (int)from.DayOfWeek);
            var window = new TimeWindow(from, today.PlusDays(ListedDays), school.Zone);
            var feed = settings.OutletUrl(key, "/feed.ics");
            var start = new OutletStart(
                key, publication.Title, school.Name, publication.Language, school.Zone.Id, today, shape.View ?? publication.FirstView,
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
            return new Rendered(Encoding.UTF8.GetBytes(html), "text/html; charset=utf-8", Instant.Max(projection.ChangedAt, midnight), projection.ValidUntil);
        });
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
        new(bytes, contentType, projection.ChangedAt, projection.ValidUntil);

    private static JsonSerializerOptions MakeJson()
    {
        var json = new JsonSerializerOptions(JsonSerializerDefaults.Web);
        ApiServices.Configure(json);
        return json;
    }

    /// <summary>What goes out of the events with a file or picture.</summary>
    public async Task<Projection> ProjectAsync(PublicationState state, Guid fileId) => (await ProjectAsync(state, (Guid?)fileId)).Projection;

    private async Task<(Projection Projection, School School)> ProjectAsync(PublicationState state, Guid? fileId = null)
    {
        var contents = await publications.ContentsAsync(state.SchoolId, state.Id, fileId);
        var school = await schools.GetAsync(state.SchoolId);
        return (Projection.Of(contents.Publication, school.Zone, contents.Calendars, contents.Events, clock.GetCurrentInstant(), contents.Lists), school);
    }

    private async Task<string> RenderAsync<T>(Dictionary<string, object?> parameters)
        where T : IComponent
    {
        await using var renderer = new HtmlRenderer(services, loggers);
        return await renderer.Dispatcher.InvokeAsync(async () =>
            "<!DOCTYPE html>\n" + (await renderer.RenderComponentAsync<T>(ParameterView.FromDictionary(parameters))).ToHtmlString());
    }
}
