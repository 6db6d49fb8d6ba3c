using System.Collections.Concurrent;
using System.Diagnostics;
using System.Diagnostics.Metrics;
using NodaTime;
using Valtro.Server.Outlets;

namespace Valtro.Server.Seeing;

/// <summary>What is measured of our own; nothing is counted while nobody looks. The names stand in docs/operations.md.</summary>
internal sealed class Telemetry : IDisposable
{
    /// <summary>The name of the meter and of the source of traces.</summary>
    public const string Name = "Valtro";

    private static readonly InstrumentAdvice<double> Seconds = new() { HistogramBucketBoundaries = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 120] };

    private readonly Meter meter;
    private readonly Counter<long> answers;
    private readonly Counter<long> ready;
    private readonly Histogram<double> renders;
    private readonly Histogram<double> runs;
    private readonly Counter<long> failures;
    private readonly Counter<long> mails;
    private readonly Counter<long> refused;
    private readonly ConcurrentDictionary<string, long> ranAt = [];

    public Telemetry(IMeterFactory meters)
    {
        meter = meters.Create(Name);
        answers = meter.CreateCounter<long>("valtro.outlet.answers", description: "Answers of outlets, by outlet and outcome.");
        ready = meter.CreateCounter<long>("valtro.outlet.cache", description: "Whether an outlet's answer was ready (hit) or had to be looked for (miss).");
        renders = meter.CreateHistogram<double>("valtro.outlet.render.duration", "s", "How long outlets take to be made, by outlet.", tags: null, advice: Seconds);
        runs = meter.CreateHistogram<double>("valtro.job.duration", "s", "How long runs of jobs take, by job.", tags: null, advice: Seconds);
        failures = meter.CreateCounter<long>("valtro.job.failures", description: "Runs of jobs that failed, by job.");
        mails = meter.CreateCounter<long>("valtro.mail.sent", description: "Mails by outcome: sent, failed (tried again) or refused (given up).");
        refused = meter.CreateCounter<long>("valtro.database.refused", description: "Requests that found no database that could answer, by reason: away, busy (no connection free) or no_room (disk full).");
        meter.CreateObservableGauge(
            "valtro.job.age",
            () => ranAt.Select(j => new Measurement<double>(Stopwatch.GetElapsedTime(j.Value).TotalSeconds, new KeyValuePair<string, object?>("job", j.Key))),
            "s",
            "How long ago a job last ran through, by job.");
        meter.CreateObservableGauge("valtro.changes.hearing", () => IsHearing() ? 1 : 0, description: "Whether changes are heard of (LISTEN): 1 or 0.");
        meter.CreateObservableGauge("valtro.disk.free", () => DiskFree, "By", "How much of the fullest disk is free that the server keeps something on.");
        meter.CreateObservableGauge("valtro.schema.newer", () => IsSchemaNewer ? 1 : 0, description: "Whether a newer version has changed the database: 1 or 0.");
        meter.CreateObservableGauge("valtro.mail.waiting", () => MailWaiting, description: "How many mails wait.");
        meter.CreateObservableGauge("valtro.mail.oldest", () => MailOldest.TotalSeconds, "s", "How long the oldest mail that is due has been waiting.");
    }

    public ActivitySource Source { get; } = new(Name);

    /// <summary>Asks whether changes are heard of.</summary>
    public Func<bool> IsHearing { get; set; } = () => false;

    /// <summary>How much of the fullest disk is free, in bytes.</summary>
    public long DiskFree { get; set; }

    /// <summary>Whether a newer version has changed the database.</summary>
    public bool IsSchemaNewer { get; set; }

    /// <summary>How many mails wait.</summary>
    public int MailWaiting { get; set; }

    /// <summary>How long the oldest mail that is due has been waiting.</summary>
    public Duration MailOldest { get; set; }

    public void Answered(OutletKind outlet, int status, bool wasReady)
    {
        if (answers.Enabled)
            answers.Add(1, new("outlet", outlet.ToString()), new("outcome", status));
        if (ready.Enabled)
            ready.Add(1, new KeyValuePair<string, object?>("result", wasReady ? "hit" : "miss"));
    }

    public void Rendered(OutletKind outlet, TimeSpan took) => renders.Record(took.TotalSeconds, new KeyValuePair<string, object?>("outlet", outlet.ToString()));

    public void JobBegins(string job) => ranAt[job] = Stopwatch.GetTimestamp();

    public void JobRan(string job, TimeSpan took)
    {
        ranAt[job] = Stopwatch.GetTimestamp();
        runs.Record(took.TotalSeconds, new KeyValuePair<string, object?>("job", job));
    }

    public void JobFailed(string job) => failures.Add(1, new KeyValuePair<string, object?>("job", job));

    public void Refused(string reason) => refused.Add(1, new KeyValuePair<string, object?>("reason", reason));

    public void Mailed(string outcome) => mails.Add(1, new KeyValuePair<string, object?>("outcome", outcome));

    public void Dispose()
    {
        meter.Dispose();
        Source.Dispose();
    }
}
