using Valtro.Server.Api;

namespace Valtro.Server.Jobs;

/// <summary>Work that is done for each of many: what one of them has in it keeps nothing from the others.</summary>
internal static class Each
{
    /// <summary>Does something for each, one after the other.</summary>
    /// <param name="all">All of them.</param>
    /// <param name="work">What is done.</param>
    /// <exception cref="AggregateException">It failed for some, and was done for all others.</exception>
    /// <exception cref="DatabaseAwayException">Nothing can be done for anybody now; so do others by which the database says that.</exception>
    /// <exception cref="OperationCanceledException">It was ended.</exception>
    public static async Task DoAsync<T>(IEnumerable<T> all, Func<T, Task> work)
    {
        var (count, failed) = (0, new List<Exception>());
        foreach (var one in all)
        {
            count++;
            try
            {
                await work(one);
            }
            catch (Exception error) when (error is not OperationCanceledException && !DatabaseAwayException.Is(error))
            {
                failed.Add(error);
            }
        }
        if (failed.Count > 0)
            throw new AggregateException($"It failed for {failed.Count} of {count}.", failed);
    }
}
