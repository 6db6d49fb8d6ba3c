using Npgsql;
using OpenTelemetry.Metrics;
using OpenTelemetry.Trace;
using Valtro.Server.Api;
using Valtro.Server.Live;
using Valtro.Store;

namespace Valtro.Server.Seeing;

/// <summary>How an operator looks in: log lines, metrics, traces, health.</summary>
internal static class SeeingServices
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    public static void AddSeeing(this WebApplicationBuilder builder, ServerSettings settings)
    {
        var isJson = settings.Log == "json";
        // A line for every request would cost more than the request; what names the request in other lines is made for readers of JSON.
        if (builder.Configuration["Logging:LogLevel:Microsoft.AspNetCore"] is null)
            builder.Logging.AddFilter("Microsoft.AspNetCore", LogLevel.Warning).AddFilter("Microsoft.AspNetCore.Hosting.Diagnostics", isJson ? LogLevel.Critical : LogLevel.None);
        // A visitor who is not signed in is no news.
        builder.Logging.AddFilter("Valtro.Server.Sessions.SessionAuthentication", LogLevel.Warning);
        // That keys lie as they are in their folder is how it is meant (docs/operations.md).
        builder.Logging.AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error);
        if (isJson)
        {
            builder.Logging.ClearProviders();
            builder.Logging.AddJsonConsole(json => (json.IncludeScopes, json.UseUtcTimestamp, json.TimestampFormat) = (true, true, "yyyy-MM-ddTHH:mm:ss.fffZ"));
        }
        builder.Services.AddSingleton<Telemetry>();
        var telemetry = builder.Services.AddOpenTelemetry();
        if (settings.MetricsPort > 0)
        {
            // Beside the addresses that are set, which the framework would let go otherwise.
            var addresses = builder.Configuration[WebHostDefaults.ServerUrlsKey] is { Length: > 0 } set ? set : "http://127.0.0.1:4180";
            builder.WebHost.UseUrls([.. addresses.Split(';'), $"http://127.0.0.1:{settings.MetricsPort}"]);
            telemetry.WithMetrics(metrics => metrics
                .AddMeter(Telemetry.Name, "Npgsql")
                .AddAspNetCoreInstrumentation()
                .AddRuntimeInstrumentation()
                .AddPrometheusExporter());
        }
        if (settings.Traces is { } collector)
        {
            telemetry.WithTracing(traces => traces
                .AddSource(Telemetry.Name)
                .AddAspNetCoreInstrumentation()
                .AddNpgsql()
                .AddOtlpExporter(otlp => otlp.Endpoint = collector));
        }
    }

    /// <summary>The port of metrics: metrics and nothing else.</summary>
    public static void UseMetricsPort(this WebApplication app, ServerSettings settings)
    {
        if (settings.MetricsPort == 0)
            return;
        app.MapWhen(
            http => http.Connection.LocalPort == settings.MetricsPort,
            port =>
            {
                port.UseOpenTelemetryPrometheusScrapingEndpoint("/metrics");
                port.Run(http =>
                {
                    http.Response.StatusCode = StatusCodes.Status404NotFound;
                    return Task.CompletedTask;
                });
            });
    }

    private static IResult Stop() => Problems.Of(503, "stopping", "The server is told to end. Ask another one.");

    public static void MapHealth(this WebApplication app)
    {
        // That the process answers at all: who finds that it does not starts it again.
        app.MapMethods("/health/live", ["GET", "HEAD"], () => Results.Text("live")).ExcludeFromDescription();

        // Whether it can serve what is published: with a database or with what it kept of one.
        app.MapMethods("/health/outlets", ["GET", "HEAD"], (Stopping stopping, HttpContext http) =>
        {
            http.Response.Headers.CacheControl = "no-store";
            return stopping.IsTold ? Stop() : Results.Text("ready");
        }).ExcludeFromDescription();

        // Whether it can serve all: who finds that it cannot sends nobody to it but readers.
        app.MapMethods("/health/ready", ["GET", "HEAD"], async (Connections db, ChangeFeed feed, DatabaseGate gate, Stopping stopping, HttpContext http) =>
        {
            http.Response.Headers.CacheControl = "no-store";
            if (stopping.IsTold)
                return Stop();
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted);
            patience.CancelAfter(Patience);
            try
            {
                if (!gate.IsOpen)
                    throw new DatabaseAwayException();
                await db.AskAsync(patience.Token);
            }
            catch (Exception error) when (error is OperationCanceledException || DatabaseAwayException.Is(error))
            {
                return Problems.Of(503, "database_away", "The database cannot be reached.");
            }
            return feed.IsHearing
                ? Results.Text("ready")
                : Problems.Of(503, "changes_unheard", "Changes are not heard of: the connection that listens for them is away, or only being made. What is served would be looked up anew each time.");
        }).ExcludeFromDescription();
        app.MapFallback("/health/{*rest}", Problems.NoSuchAddress);
    }
}
