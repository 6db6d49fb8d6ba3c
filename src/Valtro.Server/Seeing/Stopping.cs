using System.Runtime.InteropServices;

namespace Valtro.Server.Seeing;

/// <summary>
/// When a server ends. One that is told to (SIGTERM) says first that it is not ready, so that who sends readers to it sends them
/// elsewhere, and stops listening a while later; told once more, or from the keyboard, it ends at once. It takes the place of the
/// framework's own, which would end the server with the first word.
/// </summary>
internal sealed class Stopping(ServerSettings settings, IHostApplicationLifetime life, ILogger<Stopping> log) : IHostLifetime, IDisposable
{
    private readonly List<PosixSignalRegistration> signals = [];

    /// <summary>Whether it was told to end.</summary>
    public bool IsTold { get; private set; }

    /// <summary>Listens for the signals.</summary>
    public Task WaitForStartAsync(CancellationToken cancellationToken)
    {
        signals.Add(PosixSignalRegistration.Create(PosixSignal.SIGTERM, Tell));
        signals.Add(PosixSignalRegistration.Create(PosixSignal.SIGINT, EndNow));
        signals.Add(PosixSignalRegistration.Create(PosixSignal.SIGQUIT, EndNow));
        return Task.CompletedTask;
    }

    /// <summary>Nothing is left to be done.</summary>
    public Task StopAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    public void Dispose()
    {
        foreach (var signal in signals)
            signal.Dispose();
    }

    private void EndNow(PosixSignalContext context)
    {
        context.Cancel = true;
        life.StopApplication();
    }

    private void Tell(PosixSignalContext context)
    {
        if (IsTold || settings.StopSeconds == 0)
        {
            EndNow(context);
            return;
        }
        context.Cancel = true;
        IsTold = true;
        log.LogInformation("Told to end: not ready from now on, and gone in {Seconds} seconds.", settings.StopSeconds);
        _ = Task.Delay(TimeSpan.FromSeconds(settings.StopSeconds)).ContinueWith(_ => life.StopApplication(), TaskScheduler.Default);
    }
}
