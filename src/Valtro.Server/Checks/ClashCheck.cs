using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Core.Clashes;
using Valtro.Core.Time;
using Valtro.Core.Views;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Checks;

/// <summary>Finds what does not go together, among what the one who asks gets of events: what they are not told of clashes with nothing.</summary>
internal sealed class ClashCheck(Caller caller, EventViews views, AcceptedClashes accepted, LinkChecks links)
{
    /// <summary>How far ahead of its first date is looked.</summary>
    private const int DaysTyped = 62;

    /// <summary>Among the events of a window.</summary>
    public async Task<ClashesDto> OfAsync(TimeWindow window) => await ToldAsync(window, await views.InWindowAsync(window), null);

    /// <summary>Of an event that is typed or proposed.</summary>
    /// <param name="typed">The event.</param>
    /// <param name="others">Events beside those there are.</param>
    public async Task<ClashesDto> OfAsync(EventView typed, IReadOnlyList<EventView> others)
    {
        var first = (typed.Dates.First?.Date ?? typed.Timing.Start.Date).PlusDays(-1);
        var today = await caller.TodayAsync();
        // Of a series what has been does not matter any more.
        if (typed.Rule is not null && first < today)
            first = today;
        var window = new TimeWindow(first, first.PlusDays(DaysTyped), (await caller.SchoolAsync()).Zone);
        var known = (await views.InWindowAsync(window)).Where(e => e.Id != typed.Id);
        return await ToldAsync(window, known.Concat(others).Append(typed), typed.Id);
    }

    private async Task<ClashesDto> ToldAsync(TimeWindow window, IEnumerable<EventView> events, Guid? about)
    {
        var found = ClashFinder.Find(events, window, await caller.ListsAsync(), await caller.DaysAsync(), about is { } id ? new HashSet<Guid> { id } : null, await links.ClosedAsync(caller.SchoolId));
        // Those of events that are theirs.
        var own = found.Where(c => c.Event.IsTeams || c.Other is { IsTeams: true }).ToList();
        return new ClashesDto(window.From, window.To, Grouped(caller.SchoolId, own, await accepted.ListAsync(caller.SchoolId)));
    }

    internal static IReadOnlyList<ClashDto> Grouped(Guid schoolId, IReadOnlyList<Clash> found, IReadOnlyDictionary<string, AcceptedClash> accepted) =>
        [.. found.GroupBy(c => KeyOf(schoolId, c.Key)).Select(same =>
        {
            var first = same.MinBy(c => c.Span.Start)!;
            var wide = first.WideKeys.Select(w => new SeriesKeyDto(KeyOf(schoolId, w.Key), w.Series.Title ?? "")).ToList();
            // Said of it alone, or of everything of its kind about one of its series.
            var by = wide.Select(w => w.Key).Prepend(same.Key).FirstOrDefault(accepted.ContainsKey);
            var yes = by is null ? null : accepted[by];
            return new ClashDto(
                same.Key,
                first.Kind,
                Of(first.Event, first.Date),
                first.Other is { } other ? Of(other, first.OtherDate!.Value) : null,
                first.About,
                first.CalendarId,
                first.Span.Start,
                [.. same.Select(c => c.Span.FirstDay).Distinct().Order()],
                yes?.Reason,
                yes?.Person,
                by,
                wide);
        }).OrderBy(c => c.Start).ThenBy(c => c.Key, StringComparer.Ordinal)];

    // A clash is known by its events, and who sees only their times learns nothing of these.
    private static string KeyOf(Guid schoolId, string key) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{schoolId} {key}")))[..32];

    private static ClashEventDto Of(EventView e, LocalDateTime date) => new(e.Id, e.StandsIn.IsEmpty ? e.Calendar.Id : e.StandsIn[0], e.Dates.Of(date)?.Title ?? e.Title ?? "", date);
}
