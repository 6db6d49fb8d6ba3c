using NodaTime;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>What somebody gets who asks for an outlet.</summary>
/// <param name="State">The publication; null where nothing is at the link.</param>
/// <param name="Kept">Where the answer is kept; null when nothing is out.</param>
/// <param name="Rendered">The answer.</param>
/// <param name="AsOf">For the last good answer, when there is no other: when it was surely right.</param>
internal sealed record OutletAnswer(PublicationState? State, Kept? Kept, Rendered? Rendered, Instant? AsOf = null);

/// <summary>
/// The one place where an outlet's answer comes from: what is surely right, what was until less than a second ago, what is made now, or
/// the last good one when neither database nor rendering answer.
/// </summary>
internal sealed class OutletDesk(Standings standings, Shelf shelf, Renewal renewal, KeptFiles files, IClock clock)
{
    // How often it is looked up and made again for somebody while more comes that may have to go.
    private const int Tries = 3;
    private const int MostTries = 10;

    /// <summary>Gets an answer.</summary>
    /// <param name="key">The link.</param>
    /// <param name="ask">What is asked.</param>
    /// <param name="isNewest">Whether who asks waits for the newest.</param>
    /// <param name="take">Counts work that is done for who asks; it may refuse.</param>
    /// <exception cref="DatabaseAwayException">The database cannot be asked, and there is no last good answer.</exception>
    public async Task<OutletAnswer> GetAsync(string key, OutletAsk ask, bool isNewest, Action<int> take)
    {
        // Of those who come while the new is made, the first waits for it.
        if (!isNewest && standings.Find(key) is { } found && found.Kept.TryGetValue(ask, out var there) && shelf.Judge(there, out var before) == Verdict.Before && !there.IsFirst())
            return new OutletAnswer(found.State, there, before);
        // Whatever takes long after the link was looked up for somebody, reading a disk say, does not make what was found less right.
        var came = Environment.TickCount64;
        try
        {
            for (var tries = 1; ; tries++)
            {
                var standing = await standings.SureAsync(key, take);
                if (standing?.State is not { } state || !Shelf.IsOut(state, clock.GetCurrentInstant()))
                    return new OutletAnswer(standing?.State, null, null);
                var kept = await shelf.FindAsync(standing, ask) ?? Shelf.Of(standing, ask);
                if (shelf.Judge(kept, out var rendered, came) == Verdict.Right)
                    return new OutletAnswer(state, kept, rendered);
                // Doubted while it was read, as all is when changes begin to be heard: nothing is made before it was looked up again.
                if (standing.Doubt > Doubt.Altered && tries < Tries)
                    continue;
                rendered = await renewal.MakeAsync(kept, state, () => take(1));
                // Something may have happened meanwhile by which it may not be shown any more.
                if (shelf.MayGo(kept, rendered) && (standing.Doubt <= Doubt.Altered || tries >= Tries))
                    return new OutletAnswer(state, kept, rendered);
                if (tries == MostTries)
                    throw new DatabaseAwayException();
            }
        }
        catch (Exception error) when (!IsTheirs(error))
        {
            if (await LastGoodAsync(key, ask) is { } last)
                return last;
            throw;
        }
    }

    /// <summary>What there is at a link; null for nothing.</summary>
    /// <exception cref="DatabaseAwayException">The database cannot be asked.</exception>
    public async Task<PublicationState?> StateAsync(string key, Action<int> take) => (await standings.SureAsync(key, take))?.State;

    private async Task<OutletAnswer?> LastGoodAsync(string key, OutletAsk ask)
    {
        var standing = standings.Find(key);
        if (standing is null && await files.ReadAsync(key, ask) is { } file)
            standing = standings.Remember(key, file.State);
        if (standing is null)
            return null;
        return await shelf.FindAsync(standing, ask) is { Rendered: { } rendered } kept && shelf.MayStay(kept, rendered, clock.GetCurrentInstant()) ? new OutletAnswer(standing.State, kept, rendered, shelf.AsOf(kept)) : null;
    }

    // What is wrong with the question stays wrong.
    private static bool IsTheirs(Exception error) => error is InvalidInputException or NotFoundException or TooOftenException or BadHttpRequestException;
}
