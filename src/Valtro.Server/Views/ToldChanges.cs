using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Views;
using Valtro.Store;

namespace Valtro.Server.Views;

/// <summary>A change of events as an open screen is told of it: enough to know whether it shows any of them.</summary>
/// <param name="Change">By which what they are now is asked for.</param>
/// <param name="Ids">The events that are, or were, something to the one who is told, by the identities they know.</param>
/// <param name="First">The first day any of them is or was on.</param>
/// <param name="Last">The last such day; null for no end.</param>
internal sealed record ToldChange(Guid Change, IReadOnlyList<Guid> Ids, LocalDate First, LocalDate? Last);

/// <summary>
/// Tells who has a screen open which events changed, each as much as they get of them. A change is read once for all who
/// hear of it.
/// </summary>
internal sealed class ToldChanges(Store.Events events) : IDisposable
{
    // Changes come in bursts; who is slow reads one again.
    private const int MaxKept = 1_000;
    private static readonly TimeSpan Kept = TimeSpan.FromSeconds(30);

    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MaxKept });

    /// <summary>What somebody is told of a change; null when they get nothing of any of its events, before or after.</summary>
    /// <param name="school">The school as they find it.</param>
    /// <param name="changeId">The change.</param>
    /// <param name="personId">Who they are.</param>
    public async Task<ToldChange?> TellAsync(SchoolState school, Guid changeId, Guid personId)
    {
        if (school.Access is not { } access)
            return null;
        var parts = await PartsAsync(school.School.Id, changeId);
        var eyes = Eyes.Of(access, school.Calendars, school.Lists, personId);
        var ids = new List<Guid>();
        var (first, last) = (LocalDate.MaxIsoValue, (LocalDate?)LocalDate.MinIsoValue);
        foreach (var e in parts.SelectMany(p => new[] { p.Before, p.After }).OfType<Event>())
        {
            if (eyes.View(e) is not { } view)
                continue;
            ids.Add(view.Id);
            // A day more on either side: whoever looks may have another clock.
            var (from, to) = e.Bounds;
            first = LocalDate.Min(first, from.InZone(school.School.Zone).Date.PlusDays(-1));
            last = to is { } end && last is { } known ? LocalDate.Max(known, end.InZone(school.School.Zone).Date.PlusDays(1)) : null;
        }
        return ids.Count == 0 ? null : new ToldChange(changeId, [.. ids.Distinct()], first, last);
    }

    public void Dispose() => cache.Dispose();

    private async Task<IReadOnlyList<StepPart<Event>>> PartsAsync(Guid schoolId, Guid changeId)
    {
        var reading = cache.GetOrCreate(changeId, entry =>
        {
            entry.SetSize(1).SetAbsoluteExpiration(Kept);
            return new Lazy<Task<IReadOnlyList<StepPart<Event>>>>(() => events.OfChangeAsync(schoolId, changeId));
        })!;
        try
        {
            return await reading.Value;
        }
        catch
        {
            // What could not be read is read again by whoever asks next.
            cache.Remove(changeId);
            throw;
        }
    }
}
