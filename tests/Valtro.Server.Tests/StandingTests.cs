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

    private static T Take<T>(List<T> from, Random random)
    {
        var at = random.Next(from.Count);
        var taken = from[at];
        from.RemoveAt(at);
        return taken;
    }
}
