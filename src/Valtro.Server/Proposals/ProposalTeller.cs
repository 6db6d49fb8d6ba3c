using NodaTime;
using Valtro.Server.Jobs;
using Valtro.Server.People;
using Valtro.Store;

namespace Valtro.Server.Proposals;

/// <summary>Writes to keepers what waits for them and to proposers what was answered, gathered over a while.</summary>
internal sealed class ProposalTeller(Store.Proposals proposals, Schools schools, ServerSettings settings, IClock clock) : IJob
{
    public string Name => "digests";

    // Half a pause between two looks: nobody waits for more than one and a half.
    public TimeSpan Pause => settings.DigestPause / 2;

    public Task RunAsync(CancellationToken stopping) => TellAsync(clock.GetCurrentInstant());

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
