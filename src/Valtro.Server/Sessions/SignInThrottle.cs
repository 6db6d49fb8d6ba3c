using Microsoft.Extensions.Caching.Memory;
using NodaTime;

namespace Valtro.Server.Sessions;

/// <summary>
/// Slows guessing: after a few wrong passwords for a name from an address, or many from one address, the next try has
/// to wait, twice as long each time. Kept in memory, bounded.
/// </summary>
internal sealed class SignInThrottle(IClock clock)
{
    private const int FreeTriesPerName = 5;
    private const int FreeTriesPerAddress = 30;

    private static readonly Duration Longest = Duration.FromMinutes(15);

    private readonly MemoryCache failures = new(new MemoryCacheOptions { SizeLimit = 20_000 });
    private readonly Lock gate = new();

    /// <summary>How long this name has to wait before a try from this address counts; zero when it need not.</summary>
    public Duration Wait(string address, string email)
    {
        lock (gate)
            return Duration.Max(Wait(Key(address), FreeTriesPerAddress), Wait(Key(address, email), FreeTriesPerName));
    }

    public void Failed(string address, string email)
    {
        lock (gate)
        {
            Count(Key(address));
            Count(Key(address, email));
        }
    }

    public void Succeeded(string address, string email)
    {
        lock (gate)
            failures.Remove(Key(address, email));
    }

    private static string Key(string address) => "a " + address;

    private static string Key(string address, string email) => $"n {address} {email.Trim().ToLowerInvariant()}";

    private Duration Wait(string key, int free)
    {
        if (!failures.TryGetValue(key, out Failures? failed) || failed!.Count < free)
            return Duration.Zero;
        var pause = Duration.Min(Duration.FromSeconds(1L << Math.Min(failed.Count - free + 1, 12)), Longest);
        return Duration.Max(failed.Last + pause - clock.GetCurrentInstant(), Duration.Zero);
    }

    private void Count(string key)
    {
        failures.TryGetValue(key, out Failures? failed);
        failures.Set(
            key,
            new Failures((failed?.Count ?? 0) + 1, clock.GetCurrentInstant()),
            new MemoryCacheEntryOptions { Size = 1, SlidingExpiration = TimeSpan.FromMinutes(30) });
    }

    private sealed record Failures(int Count, Instant Last);
}
