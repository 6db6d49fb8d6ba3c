using System.Diagnostics;
using Valtro.Server.Api;
using Valtro.Server.Seeing;

namespace Valtro.Server.Jobs;

/// <summary>Work that is done again and again beside the requests.</summary>
internal interface IJob
{
    /// <summary>What it is called in the log and in metrics.</summary>
    public string Name { get; }

    /// <summary>How long is waited between two runs, and before the first.</summary>
    public TimeSpan Pause { get; }

    /// <summary>How long is waited before the first run.</summary>
    public TimeSpan FirstPause => Pause;

    /// <summary>How long one run may take.</summary>
    public TimeSpan Limit => TimeSpan.FromMinutes(10);

    /// <summary>Does it once.</summary>
    public Task RunAsync(CancellationToken stopping);
}

/// <summary>
/// Runs the jobs, each for itself. A run that fails or takes too long is logged with the job's name and tried again, with a pause
/// that grows; it ends neither the job nor the server.
/// </summary>
internal sealed class JobSupervisor(IEnumerable<IJob> jobs, Telemetry telemetry, ILogger<JobSupervisor> log) : BackgroundService
{
    private static readonly TimeSpan FirstRetry = TimeSpan.FromSeconds(2);
    private const int AwayRetries = 3;

    private static readonly TimeSpan LongestRetry = TimeSpan.FromMinutes(10);

    protected override Task ExecuteAsync(CancellationToken stopping) => Task.WhenAll(jobs.Select(job => Task.Run(() => KeepRunningAsync(job, stopping), CancellationToken.None)));

    /// <summary>How long is waited after some runs failed one after the other.</summary>
    internal static TimeSpan PauseAfter(int failures) => TimeSpan.FromTicks(Math.Min(FirstRetry.Ticks << Math.Min(failures - 1, 20), LongestRetry.Ticks));

    private async Task KeepRunningAsync(IJob job, CancellationToken stopping)
    {
        telemetry.JobBegins(job.Name);
        var (pause, failures) = (job.FirstPause, 0);
        while (true)
        {
            await Task.Delay(pause, stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            if (stopping.IsCancellationRequested)
                return;
            var begun = Stopwatch.GetTimestamp();
            try
            {
                using var activity = telemetry.Source.StartActivity("job " + job.Name);
                using var limit = CancellationTokenSource.CreateLinkedTokenSource(stopping);
                limit.CancelAfter(job.Limit);
                await job.RunAsync(limit.Token).WaitAsync(limit.Token);
                (pause, failures) = (job.Pause, 0);
                telemetry.JobRan(job.Name, Stopwatch.GetElapsedTime(begun));
            }
            catch (Exception) when (stopping.IsCancellationRequested)
            {
                return;
            }
            catch (Exception error)
            {
                var isAway = DatabaseAwayException.Is(error);
                // When the database is back the job goes on soon, however long it was away.
                pause = PauseAfter(isAway ? Math.Min(++failures, AwayRetries) : ++failures);
                telemetry.JobFailed(job.Name);
                if (isAway && error is not TimeoutException)
                    log.LogWarning("The job {Job} found no database ({Message}); again in {Pause}.", job.Name, error.Message, pause);
                else if (error is OperationCanceledException && Stopwatch.GetElapsedTime(begun) >= job.Limit)
                    log.LogError("The job {Job} took more than {Limit} and was given up, {Failures} times now; again in {Pause}.", job.Name, job.Limit, failures, pause);
                else
                    log.LogError(error, "The job {Job} failed, {Failures} times now; again in {Pause}.", job.Name, failures, pause);
            }
        }
    }
}
