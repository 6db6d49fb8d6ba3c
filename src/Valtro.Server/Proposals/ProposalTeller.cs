using NodaTime;
using Valtro.Server.People;
using Valtro.Store;

namespace Valtro.Server.Proposals;

/// <summary>Writes to keepers what waits for them and to proposers what was answered, gathered over a while.</summary>
internal sealed class ProposalTeller(Store.Proposals proposals, Schools schools, ServerSettings settings, IClock clock, ILogger<ProposalTeller> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        // Half a pause between two looks: nobody waits for more than one and a half.
        using var timer = new PeriodicTimer(settings.DigestPause / 2);
        try
        {
            while (await timer.WaitForNextTickAsync(stopping))
            {
                try
                {
                    await TellAsync(clock.GetCurrentInstant());
                }
                catch (Npgsql.NpgsqlException error)
                {
                    log.LogWarning("What waits could not be looked for ({Message}); soon again.", error.Message);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // The server stops; what is untold is told after its next start.
        }
    }

    /// <returns>How many mails were written.</returns>
    internal async Task<int> TellAsync(Instant now)
    {
        var known = (await schools.ListAsync()).ToDictionary(s => s.Id);
        var link = settings.Address + "/proposals";
        return await proposals.TellAsync(
            (schoolId, name, news, isAnswer) => isAnswer ? MailTexts.Answered(known[schoolId], name, news, link) : MailTexts.Waiting(known[schoolId], name, news, link),
            now,
            Duration.FromTimeSpan(settings.DigestPause));
    }
}
