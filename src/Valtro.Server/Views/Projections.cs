using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Views;

/// <summary>
/// The one way out, for who is not signed in: what publications send out. For the outlets one projection is made a revision and
/// day, and feeds every form; keepers see theirs as of now.
/// </summary>
internal sealed class Projections(Store.Publications publications, IClock clock) : IDisposable
{
    // Events of projections that are kept for a while: who asks for one form often asks for others.
    private const int MaxKeptEvents = 10_000;

    private static readonly TimeSpan Kept = TimeSpan.FromSeconds(30);

    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MaxKeptEvents, ExpirationScanFrequency = Kept });
    private readonly Dictionary<object, Task<(Projection, School)>> making = [];
    private readonly Lock gate = new();

    // Publications of one school show much of the same.
    private readonly AskedTogether<Guid, Guid, Read> reading = new(async (schoolId, ids) =>
    {
        var (contents, school) = await publications.ContentsAsync(schoolId, ids);
        return contents.ToDictionary(c => c.Key, c => new Read(c.Value, school));
    });

    private sealed record Read(PublicationContents Contents, School School);

    /// <summary>What a publication sends out, or what it would with other eyes or with its changes out.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="id">The publication.</param>
    /// <param name="audienceOf">As whom each calendar is looked at; null for the publication's audience.</param>
    /// <param name="isDraft">Whether with the changes that are not out yet.</param>
    /// <param name="at">The moment; null for now.</param>
    public async Task<(Projection Projection, School School)> OfAsync(Guid schoolId, Guid id, Func<Calendar, Audience>? audienceOf = null, bool isDraft = false, Instant? at = null)
    {
        var (contents, school) = await publications.ContentsAsync(schoolId, id, isDraft);
        return (Of(contents, school, audienceOf, at), school);
    }

    /// <summary>What a publication sends out in a state, from memory where that is known.</summary>
    /// <param name="state">The state.</param>
    /// <param name="at">A moment to come, such as midnight; null for now.</param>
    public Task<(Projection Projection, School School)> OfAsync(PublicationState state, Instant? at = null)
    {
        object key = (state.Id, state.Revision, state.ChangedAt);
        lock (gate)
        {
            if (cache.TryGetValue(key, out (Projection Projection, School School) known) && !(known.Projection.ValidUntil <= (at ?? clock.GetCurrentInstant())))
                return Task.FromResult(known);
            // What will be another by then is for this once.
            if (at is not null)
                return OfAsync(state.SchoolId, state.Id, at: at);
            if (!making.TryGetValue(key, out var running))
                making[key] = running = MakeAsync(key, state);
            return running;
        }
    }

    public void Dispose() => cache.Dispose();

    private Projection Of(PublicationContents contents, School school, Func<Calendar, Audience>? audienceOf = null, Instant? at = null) =>
        Projection.Of(contents.Publication, school.Zone, contents.Calendars, contents.Events, at ?? clock.GetCurrentInstant(), contents.Lists, audienceOf, contents.Gone);

    private async Task<(Projection, School)> MakeAsync(object key, PublicationState state)
    {
        // Leaves the lock before any work is done.
        await Task.Yield();
        try
        {
            var (contents, school) = await reading.AskAsync(state.SchoolId, state.Id) ?? throw NotFoundException.Publication();
            var made = (Projection: Of(contents, school), School: school);
            // What was read may be younger than the state it was asked for: then it is that of another revision.
            if (made.Projection.Publication.Revision == state.Revision && made.Projection.Publication.ChangedAt == state.ChangedAt)
                cache.Set(key, made, new MemoryCacheEntryOptions { Size = 1 + made.Projection.Events.Count, AbsoluteExpirationRelativeToNow = Kept });
            return made;
        }
        finally
        {
            lock (gate)
                making.Remove(key);
        }
    }
}
