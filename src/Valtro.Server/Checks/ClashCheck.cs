using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Core.Clashes;
using Valtro.Core.Events;
using Valtro.Core.Reach;
using Valtro.Core.Time;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Checks;

/// <summary>Finds what an event that is typed or proposed would clash with.</summary>
internal sealed class ClashCheck(Caller caller, Schools schools, SchoolYears years, Store.Lists lists, Store.Events events, AcceptedClashes accepted, LinkChecks links, IClock clock)
{
    /// <summary>How far ahead of its first date is looked.</summary>
    private const int DaysTyped = 62;

    /// <param name="typed">The event.</param>
    /// <param name="others">Events beside those there are.</param>
    public async Task<ClashesDto> OfAsync(Event typed, IReadOnlyList<Event> others)
    {
        var school = await schools.GetAsync(caller.SchoolId);
        var days = (await years.GetAsync(school.Id)).Days;
        var first = (typed.Dates.FirstStarts(1).Select(d => (LocalDate?)d.Date).FirstOrDefault() ?? typed.Timing.Start.Date).PlusDays(-1);
        var today = clock.GetCurrentInstant().InZone(school.Zone).Date;
        // Of a series what has been does not matter any more.
        if (typed.Rule is not null && first < today)
            first = today;
        var window = new TimeWindow(first, first.PlusDays(DaysTyped), school.Zone);
        var known = (await events.InWindowAsync(school.Id, window)).Where(e => e.Id != typed.Id);
        var found = ClashFinder.Find(known.Concat(others).Append(typed), window, await lists.GetAsync(school.Id), days, typed.Id, await links.ClosedAsync(school.Id));
        return new ClashesDto(window.From, window.To, Grouped(school.Id, await ShownAsync(found, caller), await accepted.ListAsync(school.Id)));
    }

    /// <summary>The clashes that concern who looks: of the team's events, the other one told no more of than they may see.</summary>
    internal static async Task<IReadOnlyList<Clash>> ShownAsync(IReadOnlyList<Clash> found, Caller caller)
    {
        var shown = new List<Clash>();
        foreach (var clash in found)
        {
            var (own, others) = (await caller.IsTeamOfAsync(clash.Event), clash.Other is not null && await caller.IsTeamOfAsync(clash.Other));
            if (own || others)
                shown.Add(clash with { Event = await AsSeenAsync(clash.Event, caller), Other = clash.Other is null ? null : await AsSeenAsync(clash.Other, caller) });
        }
        return shown;
    }

    private static async Task<Event> AsSeenAsync(Event e, Caller caller) =>
        await caller.DetailOfAsync(e) is var detail && detail >= Detail.Headlines || e.Id == Guid.Empty ? e : e.At(Detail.TimesOnly, caller.PersonId);

    internal static IReadOnlyList<ClashDto> Grouped(Guid schoolId, IReadOnlyList<Clash> found, IReadOnlyDictionary<string, AcceptedClash> accepted) =>
        [.. found.GroupBy(c => KeyOf(schoolId, c.Key)).Select(same =>
        {
            var first = same.MinBy(c => c.Span.Start)!;
            var yes = accepted.GetValueOrDefault(same.Key);
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
                yes?.Person);
        }).OrderBy(c => c.Start).ThenBy(c => c.Key, StringComparer.Ordinal)];

    // A clash is known by its events, and who sees only their times learns nothing of these.
    private static string KeyOf(Guid schoolId, string key) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{schoolId} {key}")))[..32];

    private static ClashEventDto Of(Event e, LocalDateTime date) => new(e.Id, e.CalendarId, e.All.Of(date)?.Title ?? e.Title, date);
}
