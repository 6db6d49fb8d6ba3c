using System.Collections.Immutable;
using NodaTime;

namespace Valtro.Core.Sources;

/// <summary>What came of asking an address.</summary>
public enum FetchOutcome
{
    /// <summary>A calendar that is other than before.</summary>
    Fresh,

    /// <summary>The same as before (RFC 9110, 15.4.5).</summary>
    Unchanged,

    /// <summary>It is gone for good (RFC 9110, 15.5.11).</summary>
    Gone,

    /// <summary>It did not work; the problem says why.</summary>
    Failed,
}

/// <summary>What came of asking an address.</summary>
/// <param name="Outcome">What.</param>
/// <param name="Problem">Why it did not work, as a code; null when it did.</param>
public sealed record Fetched(FetchOutcome Outcome, string? Problem = null)
{
    /// <summary>What it gave.</summary>
    public byte[] Body { get; init; } = [];

    /// <summary>How its state is named (ETag), to ask for others only.</summary>
    public string? Tag { get; init; }

    /// <summary>When it was last changed, as it was said (Last-Modified).</summary>
    public string? Modified { get; init; }

    /// <summary>Where it stands from now on (301, 308); null where it stood.</summary>
    public string? MovedTo { get; init; }

    /// <summary>How long it asks to be left alone (Retry-After).</summary>
    public Duration? Wait { get; init; }
}

/// <summary>An address that is followed.</summary>
public sealed record Source
{
    /// <summary>How many minutes lie between two readings at least.</summary>
    public const int LeastMinutes = 15;

    /// <summary>How many minutes lie between two readings at most: a day.</summary>
    public const int MostMinutes = 24 * 60;

    /// <summary>How many minutes lie between two readings where nobody says.</summary>
    public const int UsualMinutes = 60;

    /// <summary>The most days it reaches back or ahead.</summary>
    public const int MostDays = 1_100;

    /// <summary>The most events taken of it.</summary>
    public const int MostEvents = 5_000;

    /// <summary>The most events looked at of it, whatever days they are on.</summary>
    public const int MostRead = 50_000;

    /// <summary>The most bytes read of it.</summary>
    public const int MostBytes = 20_000_000;

    /// <summary>Identity.</summary>
    public required Guid Id { get; init; }

    /// <summary>Its lane: the calendar of what is not sorted elsewhere.</summary>
    public required Guid CalendarId { get; init; }

    /// <summary>Who follows it; null when they are gone.</summary>
    public Guid? PersonId { get; init; }

    /// <summary>The address.</summary>
    public required string Address { get; init; }

    /// <summary>Where it stands since it moved; null where it stood.</summary>
    public string? MovedTo { get; init; }

    /// <summary>Minutes between two readings; null for its own wish.</summary>
    public int? EveryMinutes { get; init; }

    /// <summary>How many days back events are taken.</summary>
    public required int PastDays { get; init; }

    /// <summary>How many days ahead events are taken.</summary>
    public required int AheadDays { get; init; }

    /// <summary>Which of its events stand in which calendars.</summary>
    public ImmutableArray<SortingRule> Sorting { get; init; } = [];

    /// <summary>Grows when a person changes it.</summary>
    public int Version { get; init; } = 1;

    /// <summary>See <see cref="Fetched.Tag"/>.</summary>
    public string? Tag { get; init; }

    /// <summary>See <see cref="Fetched.Modified"/>.</summary>
    public string? Modified { get; init; }

    /// <summary>How often it wishes to be read; null when it does not say.</summary>
    public int? WishMinutes { get; init; }

    /// <summary>When it last gave something that was other than before.</summary>
    public Instant? BodyAt { get; init; }

    /// <summary>When it was last read, changed or not.</summary>
    public Instant? ReadAt { get; init; }

    /// <summary>When it is read next; null when it is not any more.</summary>
    public Instant? NextAt { get; init; }

    /// <summary>How often it failed one after the other.</summary>
    public int Failures { get; init; }

    /// <summary>Since when it fails; null while it does not.</summary>
    public Instant? FailingSince { get; init; }

    /// <summary>What is the matter; null while nothing is.</summary>
    public string? Problem { get; init; }

    /// <summary>Where it is asked.</summary>
    public string AskedAt => MovedTo ?? Address;

    /// <summary>How long between two readings: as was chosen, else as it wishes, within bounds.</summary>
    public Duration Pause => Duration.FromMinutes(Math.Clamp(EveryMinutes ?? WishMinutes ?? UsualMinutes, LeastMinutes, MostMinutes));

    /// <summary>The address as it is asked: <c>webcal:</c> is <c>https:</c>.</summary>
    /// <exception cref="InvalidInputException"><c>address_malformed</c>.</exception>
    public static string CleanAddress(string? address)
    {
        var text = (address ?? "").Trim();
        foreach (var scheme in new[] { "webcal://", "webcals://" })
        {
            if (text.StartsWith(scheme, StringComparison.OrdinalIgnoreCase))
                text = "https://" + text[scheme.Length..];
        }
        if (text.Length > 0 && !text.Contains("://", StringComparison.Ordinal))
            text = "https://" + text;
        return text.Length is > 0 and <= 2000 && Uri.TryCreate(text, UriKind.Absolute, out var uri) && uri.Scheme is "https" or "http" && uri.UserInfo.Length == 0 && uri.Host.Length > 0
            ? uri.GetComponents(UriComponents.HttpRequestUrl, UriFormat.UriEscaped)
            : throw new InvalidInputException("address_malformed", "address", "This is no address of a calendar: it begins with https:// or webcal://.");
    }

    /// <summary>It after it was asked.</summary>
    /// <param name="fetched">What came of it.</param>
    /// <param name="wish">How often what it gave wishes to be read; null for as before.</param>
    /// <param name="now">The moment.</param>
    /// <param name="chance">Between 0 and 1: spreads readings over time.</param>
    public Source After(Fetched fetched, Duration? wish, Instant now, double chance)
    {
        var moved = this with { MovedTo = fetched.MovedTo ?? MovedTo };
        switch (fetched.Outcome)
        {
            case FetchOutcome.Fresh:
            case FetchOutcome.Unchanged:
                var isFresh = fetched.Outcome == FetchOutcome.Fresh;
                var read = moved with
                {
                    Tag = isFresh ? fetched.Tag : Tag,
                    Modified = isFresh ? fetched.Modified : Modified,
                    WishMinutes = isFresh ? wish is { } w ? (int)Math.Min(w.TotalMinutes, MostMinutes) : null : WishMinutes,
                    BodyAt = isFresh ? now : BodyAt,
                    ReadAt = now,
                    Failures = 0,
                    FailingSince = null,
                    Problem = null,
                };
                // Never sooner than asked for; later by up to a tenth.
                return read with { NextAt = now + read.Pause + read.Pause * (chance / 10) };
            case FetchOutcome.Gone:
                return moved with { NextAt = null, FailingSince = FailingSince ?? now, Failures = Failures + 1, Problem = "source_gone" };
            default:
                var pause = Duration.FromMinutes(Math.Min(1L << Math.Min(Failures, 20), MostMinutes));
                var wait = fetched.Wait is { } asked ? Duration.Min(Duration.Max(asked, pause), Duration.FromMinutes(MostMinutes)) : pause;
                return moved with { NextAt = now + wait + wait * (chance / 10), FailingSince = FailingSince ?? now, Failures = Failures + 1, Problem = fetched.Problem };
        }
    }
}
