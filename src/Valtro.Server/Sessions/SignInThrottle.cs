using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Valtro.Server.Api;

namespace Valtro.Server.Sessions;

/// <summary>What is guessed at.</summary>
internal enum Guess
{
    /// <summary>A password, at the door.</summary>
    Password,

    /// <summary>The code of a second factor.</summary>
    Code,

    /// <summary>One's own password, inside.</summary>
    OwnPassword,
}

/// <summary>
/// Slows guessing. Each try is counted before it is looked at, so that of many at once no more are looked at than of many one
/// after the other; a right one is taken off again. After some wrong tries the next has to wait, twice as long each time. There are
/// counters of an account from one network, of an account from everywhere, and of a network. A network is never shut, for a
/// whole school may stand behind it: its tries per account become fewer. A device somebody has signed in from before has a
/// counter of its own, so that its owner comes in while others guess. Kept in memory, bounded.
/// </summary>
internal sealed class SignInThrottle(IClock clock)
{
    private const int FreeTries = 5;
    private const int FreeTriesOfSuspects = 2;
    private const int FreeTriesFromEverywhere = 50;
    private const int FreeCodesFromEverywhere = 10;
    private const int SuspectAfter = 30;

    private static readonly Duration Longest = Duration.FromMinutes(15);

    private readonly MemoryCache counters = new(new MemoryCacheOptions { SizeLimit = 200_000 });
    private readonly Lock gate = new();

    /// <summary>Counts a try.</summary>
    /// <param name="guess">At what.</param>
    /// <param name="network">From where (<see cref="Audit.AuditExtensions.Network"/>).</param>
    /// <param name="account">The account, by the name that was typed or by its identity.</param>
    /// <param name="device">The device, when it is known to be the account's; else null.</param>
    /// <returns>The try, to be called right when it is.</returns>
    /// <exception cref="TooOftenException">It has to wait.</exception>
    public Try Begin(Guess guess, string network, string account, byte[]? device = null)
    {
        account = account.Trim().ToLowerInvariant();
        lock (gate)
        {
            var ofNetwork = $"a {network}";
            var isSuspect = Counted(ofNetwork) is { } tries && tries.Count >= SuspectAfter;
            (string Key, int Free)[] counted = device is not null
                ? [($"d {guess} {Convert.ToHexString(device)}", FreeTries)]
                : [
                    ($"n {guess} {network} {account}", isSuspect ? FreeTriesOfSuspects : FreeTries),
                    ($"e {guess} {account}", guess == Guess.Code ? FreeCodesFromEverywhere : FreeTriesFromEverywhere),
                ];
            var wait = counted.Aggregate(Duration.Zero, (longest, c) => Duration.Max(longest, Wait(c.Key, c.Free)));
            if (wait > Duration.Zero)
                throw new TooOftenException(wait);
            string[] keys = [.. counted.Select(c => c.Key), ofNetwork];
            foreach (var key in keys)
                Count(key, 1);
            return new Try(this, keys);
        }
    }

    private Tries? Counted(string key) => counters.TryGetValue(key, out Tries? tries) ? tries : null;

    private Duration Wait(string key, int free)
    {
        if (Counted(key) is not { } tries || tries.Count < free)
            return Duration.Zero;
        var pause = Duration.Min(Duration.FromSeconds(1L << Math.Min(tries.Count - free + 1, 12)), Longest);
        return Duration.Max(tries.Last + pause - clock.GetCurrentInstant(), Duration.Zero);
    }

    private void Count(string key, int by) => counters.Set(
        key,
        new Tries(Math.Max(0, (Counted(key)?.Count ?? 0) + by), clock.GetCurrentInstant()),
        new MemoryCacheEntryOptions { Size = 1, SlidingExpiration = TimeSpan.FromMinutes(30) });

    private sealed record Tries(int Count, Instant Last);

    /// <summary>One try that was counted.</summary>
    public sealed class Try(SignInThrottle throttle, string[] keys)
    {
        /// <summary>It was right: what was counted of this account from there is forgotten, and elsewhere this try.</summary>
        public void WasRight()
        {
            lock (throttle.gate)
            {
                throttle.counters.Remove(keys[0]);
                foreach (var key in keys.Skip(1))
                    throttle.Count(key, -1);
            }
        }
    }
}
