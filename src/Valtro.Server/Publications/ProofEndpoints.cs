using NodaTime;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Outlets;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Publications;

/// <summary>What of a calendar stays in, and since when its reach is as it is.</summary>
internal sealed record HeldBackDto(Guid CalendarId, string Title, ReachReason Reason, int Events, Instant? Since);

internal sealed record SentCalendarDto(Guid CalendarId, Detail Detail, int Events);

/// <summary>A date as one outlet shows it.</summary>
internal sealed record ShownDto(string Page, string Feed, string Place, bool CalledOff);

internal sealed record WarningDto(ProofDoubt Doubt, string About, Guid? EventId);

internal sealed record ReadBackDto(int Dates, int Days, IReadOnlyList<string> Missing, IReadOnlyList<string> Extra, int Bytes);

internal sealed record DifferenceDto(SentStep Step, string? Title);

/// <summary>What is different, the first of it by title.</summary>
internal sealed record DifferencesDto(int Added, int Changed, int Removed, IReadOnlyList<DifferenceDto> First)
{
    private const int MaxTold = 50;

    public static DifferencesDto Of(IReadOnlyList<SentDifference> all) => new(
        all.Count(d => d.Step == SentStep.Added), all.Count(d => d.Step == SentStep.Changed), all.Count(d => d.Step == SentStep.Removed),
        [.. all.Take(MaxTold).Select(d => new DifferenceDto(d.Step, d.Title))]);
}

/// <summary>Exactly what a publication sends out, checked.</summary>
internal sealed record ProofDto(
    int Events, IReadOnlyList<SentCalendarDto> Calendars, IReadOnlyList<HeldBackDto> HeldBack, IReadOnlyList<ShownDto> Next, IReadOnlyList<WarningDto> Warnings, ReadBackDto ReadBack,
    DifferencesDto? SincePublished, DifferencesDto? Waiting)
{
    /// <summary>What of it comes from elsewhere, and how old that is: of those the person who asks may know.</summary>
    public IReadOnlyList<SourceAgeDto> Sources { get; init; } = [];

    /// <summary>What else is different with the changes that wait: what was chosen, by name.</summary>
    public IReadOnlyList<SettingDifference> WaitingChoices { get; init; } = [];
}

/// <summary>How old what comes from elsewhere is.</summary>
/// <param name="Lane">The lane of the source.</param>
/// <param name="Calendars">The publication's calendars that show some of it.</param>
/// <param name="ReadAt">When it was last read; null when it never was.</param>
/// <param name="Problem">What is the matter with it; null while nothing is.</param>
internal sealed record SourceAgeDto(string Lane, IReadOnlyList<string> Calendars, Instant? ReadAt, string? Problem);

/// <summary>What was read of a publication by one kind of program.</summary>
internal sealed record ReaderDto(OutletKind Outlet, ReaderKind Kind, string Family, int Fetches, int Unchanged, int Readers, int Newest, Instant At);

internal sealed record ReadingDayDto(LocalDate Day, int Fetches, int Readers);

/// <summary>Who reads a publication, without who they are.</summary>
internal sealed record ReadingsDto(
    IReadOnlyList<ReadingDayDto> Days, IReadOnlyList<ReaderDto> Today, Instant? LastFetch, int FeedReaders, int FeedReadersNewest, Instant? LastFeedFetch, int RefreshMinutes, Instant ChangedAt, long Revision, int ByMail);

internal static class ProofEndpoints
{
    private const int NextDates = 8;
    private const int LogDays = 28;

    public static void MapProof(this IEndpointRouteBuilder publications)
    {
        // As it is out, or as it would be with the changes that wait.
        publications.MapGet("/{id:guid}/proof", async (Guid id, bool? draft, Caller caller, Store.Publications store, Projections projections, OutletRenderer outlet, LinkChecks links, Store.Sources sources, IClock clock) =>
        {
            var publication = await FindAsync(id, caller, store);
            var now = clock.GetCurrentInstant();
            var may = await caller.AccessAsync();
            var (projection, school) = await projections.OfAsync(caller.SchoolId, id, isDraft: draft == true);
            var texts = OutletTexts.For(projection.Publication.Language);
            var head = outlet.Head(projection, school, publication.Key);
            var today = now.InZone(school.Zone).Date;
            var feed = FeedWriter.Write(head, projection);
            var read = FeedReader.Compare(feed, projection, today);
            var shown = projection.Events.CountBy(e => e.Calendar.Id).ToDictionary();
            var next = projection.In(new Core.Time.TimeWindow(today, today.PlusDays(Proof.WindowDays), school.Zone)).Take(NextDates).Select(d =>
            {
                var e = OutletEvent.Of(d, projection, texts, publication.Key, now);
                return new ShownDto(
                    $"{texts.Span(e, projection.Publication.Look.Hours)} · {e.Title}",
                    d.Title is null ? texts["busy"] : projection.Publication.Choices.TitleOf(d.Title, d.Event, d.Place, d.Category), d.Place ?? "", d.IsCalledOff);
            });
            var sent = Proof.Sent(head, projection);
            var before = await store.SentAsync(caller.SchoolId, id);
            var since = await store.LastOpenedAsync(caller.SchoolId, [.. projection.Held.Select(h => h.CalendarId).Distinct()]);
            DifferencesDto? waiting = null;
            if (publication.Draft is not null)
            {
                var (other, _) = await projections.OfAsync(caller.SchoolId, id, isDraft: draft != true);
                var otherSent = Proof.Sent(outlet.Head(other, school, publication.Key), other);
                waiting = DifferencesDto.Of(draft == true ? Proof.Differences(otherSent, sent) : Proof.Differences(sent, otherSent));
            }
            return new ProofDto(
                shown.Values.Sum(),
                [.. projection.Calendars.Select(c => new SentCalendarDto(c.Id, c.Detail, shown.GetValueOrDefault(c.Id)))],
                // How much is kept back is told to who reads it all.
                [.. projection.Held.Where(h => may.Has(h.CalendarId, Core.People.CalendarRole.Reader) || !shown.ContainsKey(h.CalendarId)).Select(h => new HeldBackDto(
                    h.CalendarId, h.Title, h.Reason, may.Has(h.CalendarId, Core.People.CalendarRole.Reader) ? h.Events : 0,
                    since.TryGetValue(h.CalendarId, out var at) ? at : null))],
                [.. next],
                [.. Proof.Warnings(projection, now, await links.ClosedAsync(caller.SchoolId)).Select(w => new WarningDto(w.Doubt, w.About, w.EventId))],
                new ReadBackDto(read.Dates, read.Days, read.Missing, read.Extra, feed.Length),
                before is null || draft == true ? null : DifferencesDto.Of(Proof.Differences(before, sent)),
                waiting)
            {
                Sources = await AgesAsync(projection.Calendars.ToDictionary(c => c.Id, c => c.Title), caller, sources),
                WaitingChoices = publication.Draft is { } changed ? SettingDifference.Between(publication.Settings, changed) : [],
            };
        });

        publications.MapGet("/{id:guid}/readings", async (Guid id, Caller caller, Store.Publications store, Readings readings, ReadingLog log, MailReaders mailReaders, IClock clock) =>
        {
            var publication = await FindAsync(id, caller, store);
            await log.CountAsync(caller.SchoolId);
            var today = clock.GetCurrentInstant().InUtc().Date;
            var sums = await readings.SumsAsync(caller.SchoolId, id, today.PlusDays(1 - LogDays), publication.Revision);
            // What a page asks for by itself is a part of reading it.
            var own = sums.Where(s => (OutletKind)s.Outlet is not (OutletKind.Days or OutletKind.Code)).ToList();
            var days = own.GroupBy(s => s.Day).ToDictionary(g => g.Key, g => new ReadingDayDto(g.Key, g.Sum(s => s.Fetches), g.Sum(s => s.Readers)));
            // Who follows the feed in a calendar: not robots, nor readers of news. They come about hourly: today or yesterday, whichever says more.
            var following = own.Where(s => (OutletKind)s.Outlet is OutletKind.Feed or OutletKind.JCal && s.Kind != ReaderKind.Robot).ToList();
            var feeds = following.GroupBy(s => s.Day)
                .Where(g => g.Key >= today.PlusDays(-1)).Select(g => (Readers: g.Sum(s => s.Readers), Newest: g.Sum(s => s.Newest))).OrderByDescending(g => g.Readers).FirstOrDefault();
            return new ReadingsDto(
                [.. Enumerable.Range(0, LogDays).Select(i => today.PlusDays(i + 1 - LogDays)).Select(d => days.GetValueOrDefault(d, new ReadingDayDto(d, 0, 0)))],
                [.. own.Where(s => s.Day == today).Select(s => new ReaderDto((OutletKind)s.Outlet, s.Kind, s.Family, s.Fetches, s.Unchanged, s.Readers, s.Newest, s.At))],
                own.Count > 0 ? own.Max(s => s.At) : null,
                feeds.Readers,
                feeds.Newest,
                following.Count > 0 ? following.Max(s => s.At) : null,
                (int)FeedWriter.RefreshInterval.TotalMinutes,
                publication.ChangedAt,
                publication.Revision,
                await mailReaders.CountAsync(caller.SchoolId, id));
        });
    }

    private static async Task<IReadOnlyList<SourceAgeDto>> AgesAsync(Dictionary<Guid, string> shown, Caller caller, Store.Sources sources)
    {
        var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
        return
        [
            .. (await sources.ListAsync(caller.SchoolId, caller.Aborted))
                .Where(s => calendars.ContainsKey(s.CalendarId) && may.Has(s.CalendarId, Core.People.CalendarRole.Reader))
                .Select(s => new SourceAgeDto(calendars[s.CalendarId].Title, [.. s.Sorting.Select(r => r.CalendarId).Prepend(s.CalendarId).Distinct().Where(shown.ContainsKey).Select(c => shown[c])], s.ReadAt, s.Problem))
                .Where(s => s.Calendars.Count > 0),
        ];
    }

    private static async Task<Publication> FindAsync(Guid id, Caller caller, Store.Publications store)
    {
        var publication = await store.FindAsync(caller.SchoolId, id) ?? throw NotFoundException.Publication();
        await PublicationEndpoints.NeedAsync(caller, publication);
        return publication;
    }
}
