using Valtro.Core.Publishing;

namespace Valtro.Core.Tests.Publishing;

public sealed class ReaderSketchTests
{
    private static ulong Hash(Random random) => (ulong)random.NextInt64() << 1 ^ (ulong)random.NextInt64();

    [Fact]
    public void Few_are_counted_exactly_and_many_within_the_error_that_is_said()
    {
        foreach (var many in new[] { 0, 1, 100, 128, 129, 1_000, 5_000, 20_000, 200_000, 1_000_000 })
        {
            var (sum, rounds) = (0.0, many > 100_000 ? 4 : 12);
            for (var seed = 0; seed < rounds; seed++)
            {
                var random = new Random(seed * 7919 + many);
                var sketch = new ReaderSketch();
                for (var i = 0; i < many; i++)
                {
                    var hash = Hash(random);
                    sketch.Add(hash);
                    // Who comes again is not another one.
                    if (i % 3 == 0)
                        sketch.Add(hash);
                }
                if (many <= 128)
                    Assert.Equal(many, sketch.Count);
                // Four standard errors.
                Assert.InRange(sketch.Count, many * 0.9, many * 1.1);
                Assert.True(sketch.Write().Length <= 2_049);
                sum += many == 0 ? 0 : (double)sketch.Count / many - 1;
            }
            // And as often too many as too few.
            Assert.InRange(sum / rounds, -0.03, 0.03);
        }
    }

    [Fact]
    public void Parts_make_the_whole_in_any_order_and_come_back_as_they_were_written()
    {
        for (var seed = 0; seed < 300; seed++)
        {
            var random = new Random(seed);
            var parts = Enumerable.Range(0, 4).Select(_ => Enumerable.Range(0, random.Next(3) * random.Next(200)).Select(_ => Hash(random)).ToList()).ToList();
            ReaderSketch Of(IEnumerable<ulong> hashes)
            {
                var sketch = new ReaderSketch();
                foreach (var hash in hashes)
                    sketch.Add(hash);
                return sketch;
            }
            var whole = Of(parts.SelectMany(p => p)).Write();
            var (forward, back) = (new ReaderSketch(), new ReaderSketch());
            foreach (var part in parts)
                forward.Add(ReaderSketch.Read(Of(part).Write()));
            foreach (var part in Enumerable.Reverse(parts))
                back.Add(Of(part));
            Assert.Equal(whole, forward.Write());
            Assert.Equal(whole, back.Write());
        }
    }

    [Fact]
    public void Readers_are_counted_by_the_newest_they_got_and_never_as_newer()
    {
        for (var seed = 0; seed < 300; seed++)
        {
            var random = new Random(seed);
            var readers = new ReadersByRevision();
            var newest = new Dictionary<ulong, long>();
            for (var i = 0; i < random.Next(90); i++)
            {
                var (hash, revision) = ((ulong)random.Next(40), (long)(1 + i / 4 + random.Next(2)));
                readers.Add(revision, hash);
                newest[hash] = Math.Max(newest.GetValueOrDefault(hash), revision);
                if (i % 10 == 0)
                    readers = ReadersByRevision.Read(readers.Write());
            }
            Assert.Equal(newest.Count, readers.CountFrom());
            var last = newest.Values.DefaultIfEmpty().Max();
            Assert.Equal(newest.Values.Count(r => r == last && r > 0), readers.CountFrom(last));
            for (var from = 1L; from <= last; from++)
                Assert.True(readers.CountFrom(from) <= newest.Values.Count(r => r >= from), $"Seed {seed}: {from}");
        }
    }

    [Theory]
    [InlineData("02")]
    [InlineData("0011")]
    [InlineData("01")]
    [InlineData("")]
    public void What_is_no_sketch_is_refused(string bytes) => Assert.Throws<FormatException>(() => ReaderSketch.Read(Convert.FromHexString(bytes)));
}
