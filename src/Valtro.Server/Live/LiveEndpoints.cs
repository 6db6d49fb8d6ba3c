using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.People;
using Valtro.Server.Sessions;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Live;

/// <summary>What an open screen is told.</summary>
/// <param name="IsOwn">Whether the one who is told did all of it.</param>
/// <param name="Events">The changes of events, where nothing else changed; null where anything may be different.</param>
internal sealed record ToldDto(bool IsOwn, IReadOnlyList<ToldChange>? Events);

internal static class LiveEndpoints
{
    public static void MapLive(this IEndpointRouteBuilder api) =>
        // Open screens wait here for what others change (server-sent events). What a changed event is now they ask for where they show it.
        // What was changed since they began to ask, so many milliseconds ago, they are told at once.
        api.MapGet("/changes", (int? since, ClaimsPrincipal user, Screen screen, Store.People people, IClock clock, IOptions<JsonOptions> json, IHostApplicationLifetime life, ServerSettings settings, HttpContext http) =>
        {
            http.Response.Headers["X-Accel-Buffering"] = "no";
            var token = SessionEndpoints.TokenHashOf(http)!;
            async Task<bool> IsThere() => await people.FindBySessionAsync(token, clock.GetCurrentInstant()) is not null;
            return TypedResults.ServerSentEvents(ToldAsync(user, screen, TimeSpan.FromMilliseconds(Math.Max(since ?? 0, 0)), IsThere, TimeSpan.FromSeconds(settings.StillSeconds), json.Value.SerializerOptions, life.ApplicationStopping, http.RequestAborted));
        }).ExcludeFromDescription();

    private static async IAsyncEnumerable<SseItem<string>> ToldAsync(
        ClaimsPrincipal user, Screen screen, TimeSpan since, Func<Task<bool>> isThere, TimeSpan silence, JsonSerializerOptions json, CancellationToken stopping, CancellationToken aborted, [EnumeratorCancellation] CancellationToken cancellation = default)
    {
        using var end = CancellationTokenSource.CreateLinkedTokenSource(stopping, aborted, cancellation);
        using var listener = screen.Open(user.SchoolId(), user.PersonId(), since);
        yield return new SseItem<string>("", "ready");
        Task<bool>? next = null;
        while (!end.IsCancellationRequested)
        {
            next ??= listener.Reader.WaitToReadAsync(end.Token).AsTask();
            await Task.WhenAny(next, Task.Delay(silence, end.Token));
            if (end.IsCancellationRequested)
                break;
            // Proxies close what is silent for long.
            if (!next.IsCompleted)
            {
                if (!await isThere())
                    break;
                yield return new SseItem<string>("", "still");
                continue;
            }
            next = null;
            var (told, isOfMe) = await screen.HearAsync(listener);
            if (isOfMe && !await isThere())
                break;
            if (told is not null)
                yield return new SseItem<string>(JsonSerializer.Serialize(told, json), "changed");
        }
    }

    /// <summary>What one open screen may hear. The school as its person finds it is known until something of that changes.</summary>
    internal sealed class Screen(ChangeFeed feed, SchoolStates states, ToldChanges changes)
    {
        private const int MaxToldBefore = 20;

        private Guid schoolId;
        private Guid me;
        private SchoolState? state;
        // The last changes that were told: one that concerns members and teams comes in parts, which may be read one after the other.
        private readonly Queue<Guid> toldBefore = new();

        /// <summary>Begins to listen in somebody's name, and hears of a time before.</summary>
        public ChangeFeed.Listener Open(Guid ofSchool, Guid person, TimeSpan since)
        {
            (schoolId, me) = (ofSchool, person);
            return feed.Listen(ofSchool, since);
        }

        /// <summary>
        /// What there is to tell of all that waits, told once; null for nothing. And whether it may be that the session was ended:
        /// it is about the person, or a connection was cut and nobody knows.
        /// </summary>
        public async Task<(ToldDto? Told, bool IsOfMe)> HearAsync(ChangeFeed.Listener listener)
        {
            var hasMissed = listener.TakeMissed();
            var (isOwn, isAny, isOfMe) = (!hasMissed, hasMissed, hasMissed);
            var told = new Dictionary<Guid, ToldChange>();
            while (listener.Reader.TryRead(out var notice))
            {
                if (notice.EventsId is { } change)
                {
                    if (told.ContainsKey(change) || toldBefore.Contains(change) || await changes.TellAsync(await StateAsync(), change, me) is not { } seen)
                        continue;
                    told[change] = seen;
                    isOwn &= notice.PersonId == me;
                    continue;
                }
                var isForMe = notice.Concerns.Contains(me);
                isOfMe |= isForMe || notice.PersonId == Guid.Empty;
                if (notice.IsOfTeams && notice.PersonId != me && !isForMe)
                {
                    var access = (await StateAsync()).Access ?? Access.Nobody;
                    if (!notice.Concerns.Any(c => access.RoleOn(c) is not null))
                        continue;
                }
                // It can be that roles, calendars or lists are others now.
                state = null;
                isAny = true;
                // It is one's own only when nobody else had a part in it.
                isOwn &= notice.PersonId == me;
            }
            foreach (var change in told.Keys)
                toldBefore.Enqueue(change);
            while (toldBefore.Count > MaxToldBefore)
                toldBefore.Dequeue();
            return (isAny || told.Count > 0 ? new ToldDto(isOwn, isAny ? null : [.. told.Values]) : null, isOfMe);
        }

        private async Task<SchoolState> StateAsync() => state ??= await states.GetAsync(schoolId, me);
    }
}
