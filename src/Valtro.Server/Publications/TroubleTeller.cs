using NodaTime;
using Valtro.Server.Jobs;
using Valtro.Server.People;
using Valtro.Store;

namespace Valtro.Server.Publications;

/// <summary>Writes to who has a publication when its calendars were closed, emptied or binned, once.</summary>
internal sealed class TroubleTeller(Store.Publications publications, Schools schools, ServerSettings settings, IClock clock) : IJob
{
    public string Name => "publications";

    public TimeSpan Pause => settings.DigestPause;

    public Task RunAsync(CancellationToken stopping) => TellAsync(clock.GetCurrentInstant());

    /// <returns>How many mails were written.</returns>
    internal async Task<int> TellAsync(Instant now)
    {
        var known = (await schools.ListAsync()).ToDictionary(s => s.Id);
        return await publications.TellTroublesAsync(
            (schoolId, owner, publication, troubles) => MailTexts.Trouble(known[schoolId], owner.Name, publication.Title, troubles, $"{settings.Address}/publish/{publication.Id}"), now);
    }
}
