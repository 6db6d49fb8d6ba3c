using Valtro.Server.Outlets;
using Valtro.Store;

namespace Valtro.Server.Tests;

/// <summary>What is believed of a link, whatever order questions and answers come in.</summary>
public sealed class StandingTests
{
    private static PublicationState At(long revision) => new(Guid.Empty, Guid.Empty, revision, revision, NodaTime.NodaConstants.UnixEpoch, false, null, null, false, false);

    [Fact]
    public void The_answer_to_an_older_question_is_not_believed_even_within_the_same_moment()
    {
        var standing = new Standing("link");
        var older = standing.Begin();
        standing.DoubtIt(Doubt.Narrowed);
        standing.Take(null, standing.Begin());
        standing.Take(At(1), older);
        Assert.Equal((null, Doubt.None), (standing.State, standing.Doubt));
    }

    [Fact]
    public void What_is_not_in_doubt_is_what_there_is()
    {
        for (var seed = 0; seed < 3_000; seed++)
        {
            var random = new Random(seed);
            var (standing, there, heard) = (new Standing("link"), 0L, 0L);
            // Questions that were not asked of the database yet, and those it has answered.
            var (asking, answered) = (new List<LookUp>(), new List<(LookUp LookUp, long Found)>());
            for (var step = 0; step < 30; step++)
            {
                switch (random.Next(5))
                {
                    case 0:
                        there++;
                        break;
                    case 1:
                        standing.DoubtIt((Doubt)random.Next(1, 4));
                        heard = there;
                        break;
                    case 2:
                        asking.Add(standing.Begin());
                        break;
                    case 3 when asking.Count > 0:
                        answered.Add((Take(asking, random), there));
                        break;
                    case 4 when answered.Count > 0:
                        var (look, found) = Take(answered, random);
                        standing.Take(At(found), look);
                        break;
                }
                // Of what was not heard yet nobody knows; what was is shown, or it is in doubt.
                if (standing.Doubt == Doubt.None)
                    Assert.True(standing.State!.Revision >= heard, $"seed {seed}, step {step}: {standing.State.Revision} of {heard}");
            }
        }
    }

    [Fact]
    public void What_was_read_after_the_state_was_found_may_be_younger_and_what_was_before_a_backup_came_back_is_not()
    {
        var standing = new Standing("link");
        Rendered Read(long revision, long at) => new([1], "text/plain", NodaTime.NodaConstants.UnixEpoch, revision, null) { PublicationId = Guid.Empty, RevisedAt = NodaTime.NodaConstants.UnixEpoch, ReadAt = at };
        standing.Take(At(5), standing.Begin());
        var younger = Read(6, Environment.TickCount64);
        Assert.False(standing.IsOfOther(younger, standing.State!));
        // Nobody knows what became of what was on disk.
        Assert.True(standing.IsOfOther(Read(6, 0), standing.State!));
        Assert.False(standing.IsOfOther(Read(5, 0), standing.State!));
        standing.Take(At(6), standing.Begin());
        standing.Take(At(3), standing.Begin());
        Assert.True(standing.IsOfOther(younger, standing.State!));
        Assert.False(standing.IsOfOther(Read(4, Environment.TickCount64 + 1), standing.State!));
        Assert.False(standing.IsOfOther(Read(3, Environment.TickCount64), standing.State!));
    }

    private static T Take<T>(List<T> from, Random random)
    {
        var at = random.Next(from.Count);
        var taken = from[at];
        from.RemoveAt(at);
        return taken;
    }
}
