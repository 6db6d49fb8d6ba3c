namespace Valtro.Server.Api;

/// <summary>
/// Questions to the database that are asked together: what is wanted while one is on its way is asked by the next one, all at once.
/// Nobody joins a question that was asked before they came, so every answer is as young as if it had been asked alone.
/// </summary>
/// <typeparam name="TGroup">What is asked together is of one of these.</typeparam>
/// <typeparam name="TItem">What is asked for.</typeparam>
/// <typeparam name="TAnswer">What is answered.</typeparam>
/// <param name="ask">Asks for several; what there is no answer for is left out.</param>
/// <param name="patience">How long those who came later wait for the question before theirs; null for half a second.</param>
internal sealed class AskedTogether<TGroup, TItem, TAnswer>(Func<TGroup, TItem[], Task<IReadOnlyDictionary<TItem, TAnswer>>> ask, TimeSpan? patience = null)
    where TGroup : notnull
    where TItem : notnull
    where TAnswer : class
{
    private const int MostAtOnce = 100;

    private readonly TimeSpan patience = patience ?? TimeSpan.FromMilliseconds(500);
    private readonly Dictionary<TGroup, Queue<Asking>> waiting = [];
    private readonly Lock gate = new();

    private sealed record Asking(TItem Item)
    {
        public TaskCompletionSource<TAnswer?> Answer { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
    }

    /// <summary>The answer for one; null where there is none.</summary>
    public Task<TAnswer?> AskAsync(TGroup group, TItem item)
    {
        var own = new Asking(item);
        lock (gate)
        {
            if (waiting.TryGetValue(group, out var others))
            {
                others.Enqueue(own);
                return own.Answer.Task;
            }
            waiting[group] = [];
        }
        _ = AskAllAsync(group, [own]);
        return own.Answer.Task;
    }

    private async Task AskAllAsync(TGroup group, List<Asking> some)
    {
        while (some.Count > 0)
        {
            // A connection that answers no more holds up those alone who asked on it.
            await AskNowAsync(group, some).WaitAsync(patience).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            lock (gate)
            {
                var next = waiting[group];
                some = [];
                while (some.Count < MostAtOnce && next.TryDequeue(out var one))
                    some.Add(one);
                if (some.Count == 0)
                    waiting.Remove(group);
            }
        }
    }

    // Fails for nobody: each is told.
    private async Task AskNowAsync(TGroup group, List<Asking> some)
    {
        IReadOnlyDictionary<TItem, TAnswer> answers;
        try
        {
            answers = await ask(group, [.. some.Select(a => a.Item).Distinct()]);
        }
        // What is wrong with one keeps back none of the others.
        catch (Exception error) when (some.Count > 1 && !DatabaseAwayException.Is(error))
        {
            foreach (var one in some)
                await AskNowAsync(group, [one]);
            return;
        }
        catch (Exception error)
        {
            some.ForEach(a => a.Answer.SetException(error));
            return;
        }
        some.ForEach(a => a.Answer.SetResult(answers.GetValueOrDefault(a.Item)));
    }
}
