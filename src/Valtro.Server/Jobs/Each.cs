using Valtro.Server.Api;

namespace Valtro.Server.Jobs;

/// <summary>Work that is done for each of many: what one of them has in it keeps nothing from the others.</summary>
internal static class Each
{
    // What the database does not do in its time for one of them it may do for the next; after so many it is away.
    private const int MostAway = 3;

    /// <summary>Does something for each, one after the other.</summary>
    /// <param name="all">All of them.</param>
    /// <param name="work">What is done.</param>
    /// <exception cref="AggregateException">It failed for some, and was done for all others; or for some one after the other there was no database, and nobody else waits for it.</exception>
    /// <exception cref="OperationCanceledException">It was ended.</exception>
    public static async Task DoAsync<T>(IEnumerable<T> all, Func<T, Task> work)
    {
        var (away, failed) = (0, new List<Exception>());
        foreach (var one in all)
        {
            try
            {
                await work(one);
                away = 0;
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                failed.Add(error);
                away = DatabaseAwayException.Is(error) ? away + 1 : 0;
            }
            if (away == MostAway)
                break;
        }
        if (failed.Count > 0)
            throw new AggregateException($"It failed for {failed.Count}: {failed[0].Message}", failed);
    }
}
