using NodaTime;
using Valtro.Core.Sources;
using Valtro.Server.Commands;
using Valtro.Server.Jobs;
using Valtro.Store;

namespace Valtro.Server.Sources;

/// <summary>Reads addresses that are followed.</summary>
internal sealed class SourceReader(Store.Sources sources, Store.Calendars calendars, SourceFetcher fetcher, SourceIntake intake, IClock clock)
{
    /// <summary>How long one that is being read is left to whoever reads it.</summary>
    private static readonly Duration Lease = Duration.FromMinutes(3);

    /// <summary>Until when one that is taken now is somebody's.</summary>
    public static Instant LeasedUntil(Instant now) => now + Lease;

    /// <summary>Reads what an address gives, as a calendar.</summary>
    /// <param name="fetched">What it gave.</param>
    /// <param name="zone">The zone of times without one.</param>
    /// <param name="problem">Why it cannot be read; null when it can.</param>
    public static ReadCalendar? Read(byte[] fetched, DateTimeZone zone, out string? problem)
    {
        try
        {
            var read = CalendarReader.Read(fetched, zone);
            problem = read.IsWhole ? null : "source_cut";
            return problem is null ? read : null;
        }
        catch (InvalidInputException e)
        {
            problem = e.Code;
            return null;
        }
    }

    /// <summary>Reads one that was taken, and takes in what it gives.</summary>
    /// <param name="schoolId">The school.</param>
    /// <param name="id">Which.</param>
    /// <param name="isAnew">Whether what it gave last is taken in again, though it is the same: its rules or days are others now.</param>
    /// <param name="isEmptyRight">Whether somebody said that it is right that there is nothing.</param>
    /// <param name="cancellation">Ends it.</param>
    public async Task<SourceReading?> ReadAsync(Guid schoolId, Guid id, bool isAnew, bool isEmptyRight, CancellationToken cancellation)
    {
        if (await sources.FindAsync(schoolId, id) is not { } source)
            return null;
        var now = clock.GetCurrentInstant();
        // What lies in the bin is not read, and is when it is taken out.
        if (await calendars.FindAsync(schoolId, source.CalendarId) is not { DeletedAt: null } lane)
        {
            await sources.KeepStateAsync(schoolId, source with { NextAt = now + Duration.FromDays(1) }, now, isToLog: false);
            return null;
        }
        var isKnown = source.BodyAt is not null && source.Problem != "source_empty";
        var fetched = await fetcher.FetchAsync(source.AskedAt, isKnown ? source.Tag : null, isKnown ? source.Modified : null, cancellation);
        if (fetched.Outcome is FetchOutcome.Failed or FetchOutcome.Gone)
            return await FailAsync(schoolId, source, fetched);
        // The same as before is taken in again once a day: other days are wanted then.
        var isNewDay = source.ReadAt?.InZone(lane.Zone).Date != now.InZone(lane.Zone).Date;
        if (fetched.Outcome == FetchOutcome.Unchanged && !isAnew && !isNewDay && source.Problem is null)
        {
            await sources.KeepStateAsync(schoolId, source.After(fetched, null, now, Random.Shared.NextDouble()), now, isToLog: false);
            return new SourceReading(now, null, 0, 0, 0, 0, []);
        }
        var body = fetched.Outcome == FetchOutcome.Fresh ? fetched.Body : await sources.BodyAsync(schoolId, id) ?? [];
        if (Read(body, lane.Zone, out var problem) is not { } read)
            return await FailAsync(schoolId, source, new Fetched(FetchOutcome.Failed, problem));
        try
        {
            return await intake.TakeAsync(schoolId, id, fetched, read, isEmptyRight, cancellation);
        }
        // More events than the school may have, for example: whoever keeps the source reads it there.
        catch (InvalidInputException refused)
        {
            return await FailAsync(schoolId, source, new Fetched(FetchOutcome.Failed, refused.Code));
        }
    }

    private async Task<SourceReading> FailAsync(Guid schoolId, Source source, Fetched fetched)
    {
        var now = clock.GetCurrentInstant();
        var after = source.After(fetched, null, now, Random.Shared.NextDouble());
        await sources.KeepStateAsync(schoolId, after, now, isToLog: after.Problem != source.Problem);
        return new SourceReading(now, after.Problem, 0, 0, 0, 0, []);
    }
}

/// <summary>Reads whatever is due, a few at a time, each host once at a time.</summary>
internal sealed class SourceKeeper(Store.Sources sources, SourceReader reader, IClock clock, ILogger<SourceKeeper> log) : IJob
{
    private const int AtOnce = 3;

    private Instant forgotten = Instant.MinValue;

    public string Name => "sources";

    public TimeSpan Pause => TimeSpan.FromSeconds(15);

    public TimeSpan FirstPause => TimeSpan.FromSeconds(5);

    public async Task RunAsync(CancellationToken stopping)
    {
        var now = clock.GetCurrentInstant();
        if (now - forgotten > Duration.FromHours(1))
        {
            await sources.ForgetAsync(now);
            forgotten = now;
        }
        await Task.WhenAll(Enumerable.Range(0, AtOnce).Select(_ => WorkAsync(stopping)));
    }

    private async Task WorkAsync(CancellationToken stopping)
    {
        while (!stopping.IsCancellationRequested)
        {
            var now = clock.GetCurrentInstant();
            if (await sources.TakeAsync(now, SourceReader.LeasedUntil(now)) is not var (schoolId, id))
                return;
            try
            {
                await reader.ReadAsync(schoolId, id, isAnew: false, isEmptyRight: false, stopping);
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                // One that cannot be taken in keeps no other from being read; its lease lets it be tried again.
                log.LogError(error, "The source {Source} could not be taken in.", id);
            }
        }
    }
}
