using Valtro.Server.Api;

namespace Valtro.Server.Tests;

/// <summary>Questions that are asked together, and what each gets of it.</summary>
public sealed class AskedTogetherTests
{
    [Fact]
    public async Task What_is_wanted_while_one_is_on_its_way_is_asked_by_the_next_and_joins_none_from_before()
    {
        var asked = new List<string[]>();
        var gates = new Queue<TaskCompletionSource>([new(), new()]);
        var ways = gates.ToArray();
        var together = new AskedTogether<int, string, string>(async (_, items) =>
        {
            asked.Add(items);
            await gates.Dequeue().Task;
            return items.Where(i => i != "none").ToDictionary(i => i, i => i.ToUpperInvariant());
        });
        var first = together.AskAsync(1, "a");
        var later = new[] { "a", "b", "none", "b" }.Select(i => together.AskAsync(1, i)).ToList();
        Assert.Equal([["a"]], asked);
        ways[0].SetResult();
        Assert.Equal("A", await first);
        ways[1].SetResult();
        Assert.Equal(["A", "B", null, "B"], await Task.WhenAll(later));
        Assert.Equal([["a"], ["a", "b", "none"]], asked);
    }

    [Fact]
    public async Task What_is_wrong_with_one_keeps_back_none_of_the_others_and_an_absent_database_is_not_asked_for_each()
    {
        var (asked, isAway) = (0, false);
        // The first of either is answered when all the others have come.
        var (first, firstAway) = (new TaskCompletionSource(), new TaskCompletionSource());
        var together = new AskedTogether<int, string, string>(async (_, items) =>
        {
            asked++;
            await (items is ["a"] ? first.Task : items is ["0"] ? firstAway.Task : Task.CompletedTask);
            if (isAway)
                throw new DatabaseAwayException();
            return items.Contains("bad") ? throw new InvalidOperationException("bad") : items.ToDictionary(i => i, i => i);
        });
        // The first goes alone; the other three together, and then each.
        var all = new[] { "a", "b", "bad", "c" }.Select(async i =>
        {
            try
            {
                return await together.AskAsync(1, i);
            }
            catch (InvalidOperationException error)
            {
                return "! " + error.Message;
            }
        }).ToList();
        first.SetResult();
        Assert.Equal(["a", "b", "! bad", "c"], await Task.WhenAll(all));
        Assert.Equal(5, asked);
        (asked, isAway) = (0, true);
        // Of another group: whoever was answered last may still be taken for one that is on its way.
        var away = Enumerable.Range(0, 20).Select(i => together.AskAsync(2, $"{i}")).ToList();
        firstAway.SetResult();
        foreach (var one in away)
            await Assert.ThrowsAsync<DatabaseAwayException>(() => one);
        Assert.Equal(2, asked);
        isAway = false;
        Assert.Equal("d", await together.AskAsync(2, "d"));
    }

    [Fact]
    public async Task A_question_that_is_never_answered_holds_up_nobody_who_came_later()
    {
        var never = new TaskCompletionSource();
        var together = new AskedTogether<int, string, string>(
            async (_, items) =>
            {
                if (items.Contains("lost"))
                    await never.Task;
                return items.ToDictionary(i => i, i => i);
            },
            TimeSpan.FromMilliseconds(20));
        var lost = together.AskAsync(1, "lost");
        Assert.Equal("a", await together.AskAsync(1, "a"));
        Assert.Equal("b", await together.AskAsync(1, "b"));
        Assert.False(lost.IsCompleted);
        never.SetResult();
        Assert.Equal("lost", await lost);
    }
}
