using System.IO.Compression;
using MiniExcelLibs;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.People;
using Valtro.Core.Recurrence.Sentences;
using Valtro.Core.Time;
using Valtro.Core.Views;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.TakeOut;

/// <summary>Which events are taken out.</summary>
internal sealed record ChosenEventsInput(IReadOnlyList<Guid>? EventIds);

/// <summary>Everything can be taken out again, in open formats: a calendar for its team, the whole school for its administrators.</summary>
internal static class ExportEndpoints
{
    private const string SheetType = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

    // As the columns of a table are named that is brought in: what is taken out comes in again.
    private static readonly string[] Heads = ["Title", "Date", "Start", "End date", "End", "Place", "Category", "Calendar", "Description", "Repeats", "Link", "ID"];

    private static readonly LocalTimePattern Clock = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    public static void MapTakeOut(this IEndpointRouteBuilder api)
    {
        api.MapGet("/calendars/{id:guid}/export/{form}", async (Guid id, string form, Caller caller, EventViews views) =>
        {
            await caller.NeedAsync(id, CalendarRole.Reader);
            if (!(await caller.CalendarsAsync()).TryGetValue(id, out var calendar))
                throw NotFoundException.Calendar();
            var events = await views.OfCalendarsAsync([id]);
            return form switch
            {
                "ics" => Results.File(Kept(calendar, events), FeedWriter.ContentType, NameOf(calendar, "ics")),
                "csv" => CsvTable.Of(NameOf(calendar, "csv"), Heads, Rows(events, calendar)),
                "xlsx" => Results.File(Sheet(Rows(events, calendar)), SheetType, NameOf(calendar, "xlsx")),
                _ => Problems.OfStatus(StatusCodes.Status404NotFound),
            };
        });

        // What was chosen, of any calendars, as one file; no more of it than they get.
        api.MapPost("/export/events", async (ChosenEventsInput input, Caller caller, EventViews views) =>
        {
            if (input.EventIds is null or { Count: 0 or > Events.BulkInput.MaxDates })
                throw new InvalidInputException("selection_size", "eventIds", $"Choose between 1 and {Events.BulkInput.MaxDates} events.");
            var events = (await views.OfIdsAsync([.. input.EventIds.Distinct()])).Where(e => e is { Detail: >= Core.Reach.Detail.Headlines, DeletedAt: null }).ToList();
            if (events.Count == 0)
                throw NotFoundException.Event();
            var school = await caller.SchoolAsync();
            return Results.File(FeedWriter.WriteKept(school.ShortName, "", school.Zone, events), FeedWriter.ContentType, $"{SafeName(school.ShortName)}.ics");
        }).Produces<byte[]>(contentType: "text/calendar").IsNotLogged();

        api.MapGet("/export.zip", async (HttpContext http, Caller caller, EventViews views, Contents contents) =>
        {
            var school = await caller.SchoolAsync();
            var calendars = (await caller.CalendarsAsync()).Values.ToList();
            http.Response.ContentType = "application/zip";
            http.Response.Headers.ContentDisposition = $"attachment; filename=\"{SafeName(school.ShortName)}.zip\"";
            // Written as it is made: nothing of a large school is held at once but one calendar.
            await using var zip = await ZipArchive.CreateAsync(http.Response.BodyWriter.AsStream(), ZipArchiveMode.Create, leaveOpen: true, null, http.RequestAborted);
            var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
            foreach (var calendar in calendars)
            {
                var events = await views.OfCalendarsAsync([calendar.Id]);
                var name = SafeName(calendar.Title);
                for (var i = 2; !names.Add(name); i++)
                    name = $"{SafeName(calendar.Title)} {i}";
                await using (var entry = await zip.CreateEntry($"{name}.ics").OpenAsync(http.RequestAborted))
                    await entry.WriteAsync(Kept(calendar, events), http.RequestAborted);
                foreach (var file in events.Where(e => e.Detail >= Core.Reach.Detail.Everything).SelectMany(e => e.Files).DistinctBy(f => f.ContentId))
                {
                    await using var entry = await zip.CreateEntry($"files/{name}/{file.Id:N} {SafeName(file.Name)}", CompressionLevel.NoCompression).OpenAsync(http.RequestAborted);
                    await foreach (var part in contents.ReadAsync(caller.SchoolId, file.ContentId, 0))
                        await entry.WriteAsync(part, http.RequestAborted);
                }
            }
        });
    }

    /// <summary>A calendar as a file to keep.</summary>
    private static byte[] Kept(Calendar calendar, IReadOnlyList<EventView> events) => FeedWriter.WriteKept(calendar.Title, calendar.Description, calendar.Zone, events);

    private static IEnumerable<IReadOnlyList<object?>> Rows(IReadOnlyList<EventView> events, Calendar calendar) => events.OrderBy(e => e.Timing.Start).ThenBy(e => e.Uid, StringComparer.Ordinal).Select(e =>
    {
        var isAllDay = e.Timing.Kind == TimeKind.AllDay;
        var last = isAllDay ? e.Timing.End.Date.PlusDays(-1) : e.Timing.End.Date;
        return (IReadOnlyList<object?>)
        [
            e.Title ?? "",
            LocalDatePattern.Iso.Format(e.Timing.Start.Date),
            isAllDay ? "" : Clock.Format(e.Timing.Start.TimeOfDay),
            last == e.Timing.Start.Date ? "" : LocalDatePattern.Iso.Format(last),
            isAllDay ? "" : Clock.Format(e.Timing.End.TimeOfDay),
            e.Place ?? "",
            e.Category ?? "",
            calendar.Title,
            e.Description is null ? "" : RichText.Plain(e.Description),
            e.Rule is null ? "" : RuleSentence.Of(e.Rule, e.Timing.Start, "en"),
            e.Facts.Links.Select(l => l.Address).FirstOrDefault(""),
            e.Uid,
        ];
    });

    private static byte[] Sheet(IEnumerable<IReadOnlyList<object?>> rows)
    {
        using var bytes = new MemoryStream();
        MiniExcel.SaveAs(bytes, rows.Select(r => Heads.Select((h, i) => KeyValuePair.Create(h, r[i])).ToDictionary(p => p.Key, p => p.Value)));
        return bytes.ToArray();
    }

    private static string NameOf(Calendar calendar, string form) => $"{SafeName(calendar.Title)}.{form}";

    private static string SafeName(string name) => string.Concat(name.Select(c => char.IsLetterOrDigit(c) || c is ' ' or '-' or '_' or '.' ? c : '-')).Trim(' ', '.') is { Length: > 0 } safe ? safe : "calendar";
}
