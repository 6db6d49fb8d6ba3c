using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Security.Claims;
using NodaTime;
using Valtro.Core.People;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Live;

internal static class LiveEndpoints
{
    /// <summary>Proxies close what is silent for long.</summary>
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(20);

    public static void MapLive(this IEndpointRouteBuilder api) =>
        // Open screens wait here for what others change (server-sent events). Nothing is told but that something changed, and that
        // to those only who may see some of it.
        api.MapGet("/changes", (ClaimsPrincipal user, ChangeFeed feed, Roles roles, Store.People people, IClock clock, IHostApplicationLifetime life, HttpContext http) =>
        {
            http.Response.Headers["X-Accel-Buffering"] = "no";
            var token = SessionEndpoints.TokenHashOf(http)!;
            async Task<bool> IsThere() => await people.FindBySessionAsync(token, clock.GetCurrentInstant()) is not null;
            return TypedResults.ServerSentEvents(ToldAsync(user, feed, roles, IsThere, life.ApplicationStopping, http.RequestAborted));
        }).ExcludeFromDescription();

    private static async IAsyncEnumerable<SseItem<string>> ToldAsync(
        ClaimsPrincipal user, ChangeFeed feed, Roles roles, Func<Task<bool>> isThere, CancellationToken stopping, CancellationToken aborted, [EnumeratorCancellation] CancellationToken cancellation = default)
    {
        using var end = CancellationTokenSource.CreateLinkedTokenSource(stopping, aborted, cancellation);
        var me = user.PersonId();
        using var listener = feed.Listen(user.SchoolId());
        yield return new SseItem<string>("", "ready");
        Access? access = null;
        Task<bool>? next = null;
        while (!end.IsCancellationRequested)
        {
            next ??= listener.Reader.WaitToReadAsync(end.Token).AsTask();
            await Task.WhenAny(next, Task.Delay(Silence, end.Token));
            if (end.IsCancellationRequested)
                break;
            if (!next.IsCompleted)
            {
                if (!await isThere())
                    break;
                yield return new SseItem<string>("", "still");
                continue;
            }
            next = null;
            // What came together is told once; it is one's own only when nobody else had a part in it.
            var (isOwn, isTold, isOfMe) = (true, false, false);
            while (listener.Reader.TryRead(out var notice))
            {
                // A session that was ended, or a connection that was cut: what was missed may have been that.
                isOfMe |= notice.Concerns.Contains(me) || notice.PersonId == Guid.Empty;
                // What everybody may know can be that somebody's roles are others now.
                if (!notice.IsOfTeams)
                    access = null;
                else if (notice.PersonId != me && !notice.Concerns.Contains(me))
                {
                    access ??= await roles.AccessAsync(user.SchoolId(), me) ?? Access.Nobody;
                    if (!notice.Concerns.Any(c => access.RoleOn(c) is not null))
                        continue;
                }
                isTold = true;
                isOwn &= notice.PersonId == me;
            }
            if (isOfMe && !await isThere())
                break;
            if (isTold)
                yield return new SseItem<string>(isOwn ? "own" : "other", "changed");
        }
    }
}
