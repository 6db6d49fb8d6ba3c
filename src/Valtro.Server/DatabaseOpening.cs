using Valtro.Server.Accounts;
using Valtro.Server.Api;
using Valtro.Server.Demo;
using Valtro.Server.FirstRun;
using Valtro.Server.Seeing;
using Valtro.Store;

namespace Valtro.Server;

/// <summary>
/// Brings the database in order when the server starts. When there is none it waits for it: what was kept of outlets is served meanwhile,
/// and everything else says that it will be back.
/// </summary>
internal sealed class DatabaseOpening(
    DatabaseGate gate, Connections db, Telemetry telemetry, ServerSettings settings, SecondFactors factors, DemoFiller demo, Schools schools, FirstRunCode firstRun, IHostApplicationLifetime life, ILogger<DatabaseOpening> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan LookPause = TimeSpan.FromMinutes(1);

    /// <summary>Tries it once.</summary>
    /// <returns>Whether the server can go on: with the database, or without one for now.</returns>
    public async Task<bool> TryAsync()
    {
        try
        {
            await OpenAsync();
            return true;
        }
        catch (Exception error) when (error is NewerDatabaseException or TooMightyException)
        {
            log.LogCritical("{Message}", error.Message);
            Environment.ExitCode = error is NewerDatabaseException ? 3 : 4;
            return false;
        }
        catch (BackupFailedException error)
        {
            log.LogCritical("Before the database is changed a backup is written, and that failed ({Message}). Nothing was changed.", error.Message);
            Environment.ExitCode = 5;
            return false;
        }
        catch (Exception error) when (DatabaseAwayException.Is(error))
        {
            log.LogWarning("The database cannot be reached ({Message}). What was kept of outlets is served meanwhile.", error.Message);
            return true;
        }
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        await Task.Yield();
        while (!gate.IsOpen)
        {
            await Task.Delay(Pause, stopping);
            try
            {
                if (!gate.IsOpen && !await TryAsync())
                    life.StopApplication();
            }
            // It may be only half there yet.
            catch (Exception error) when (!stopping.IsCancellationRequested)
            {
                log.LogError(error, "The database could not be brought in order; it is tried again.");
            }
        }
        using var timer = new PeriodicTimer(LookPause);
        while (await timer.WaitForNextTickAsync(stopping))
        {
            try
            {
                await LookForNewerAsync();
            }
            catch (Exception error) when (DatabaseAwayException.Is(error))
            {
            }
        }
    }

    /// <summary>
    /// Looks whether a newer version has changed the schema while this one runs. It goes on with what it knows, which a newer one leaves as it
    /// is (docs/operations.md, upgrade), and says that it is to be replaced.
    /// </summary>
    internal async Task LookForNewerAsync()
    {
        if (await Database.NewerAsync(db) is not { } newer)
            return;
        if (!telemetry.IsSchemaNewer)
            log.LogWarning("A newer version has changed the database ({Newest}). This server goes on as it is; replace it.", newer);
        telemetry.IsSchemaNewer = true;
    }

    private async Task OpenAsync()
    {
        await Task.Run(() => Database.Migrate(settings.OwnerDatabase, settings.Database, settings.Backups.Length == 0 ? null : settings.Backups));
        if (await factors.ProtectOldAsync() is var old and > 0)
            log.LogInformation("{Count} secrets of second factors are encrypted now.", old);
        if (settings.FillDemo)
            await demo.FillWhenEmptyAsync();
        else if (!await schools.AnyAsync())
            Console.WriteLine(firstRun.Make(settings.Address));
        gate.Open();
    }
}
