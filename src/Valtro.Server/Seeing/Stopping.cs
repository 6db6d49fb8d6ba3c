using System.Runtime.InteropServices;

namespace Valtro.Server.Seeing;

/// <summary>
/// The end of a server that is told to end (SIGTERM): it says first that it is not ready, so that who sends readers to it sends them
/// elsewhere, and stops listening a while later.
/// </summary>
internal sealed class Stopping(ServerSettings settings, IHostApplicationLifetime life, ILogger<Stopping> log) : IDisposable
{
    private PosixSignalRegistration? signal;

    /// <summary>Whether it was told to end.</summary>
    public bool IsTold { get; private set; }

    /// <summary>Listens for the signal.</summary>
    public void Begin()
    {
        // Without a while to wait the framework does the same.
        if (settings.StopSeconds > 0)
            signal = PosixSignalRegistration.Create(PosixSignal.SIGTERM, Tell);
    }

    public void Dispose() => signal?.Dispose();

    private void Tell(PosixSignalContext context)
    {
        context.Cancel = true;
        if (IsTold)
            return;
        IsTold = true;
        log.LogInformation("Told to end: not ready from now on, and gone in {Seconds} seconds.", settings.StopSeconds);
        _ = Task.Delay(TimeSpan.FromSeconds(settings.StopSeconds)).ContinueWith(_ => life.StopApplication(), TaskScheduler.Default);
    }
}
