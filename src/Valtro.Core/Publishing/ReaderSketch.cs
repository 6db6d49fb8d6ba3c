using System.Buffers.Binary;
using System.Numerics;

namespace Valtro.Core.Publishing;

/// <summary>
/// How many different readers there were, without keeping each: exact for few, by HyperLogLog for more (Flajolet, Fusy, Gandouet, Meunier,
/// “HyperLogLog: the analysis of a near-optimal cardinality estimation algorithm”, 2007; with hashes of 64 bits and counting by empty
/// registers for small numbers as in Heule, Nunkesser, Hall, “HyperLogLog in practice”, 2013). Two thousand bytes at most; the standard
/// error is 2.3 of a hundred. Sketches of parts make the sketch of the whole, in any order.
/// </summary>
public sealed class ReaderSketch
{
    private const int Bits = 11;
    private const int Registers = 1 << Bits;
    private const int MaxExact = 128;

    private SortedSet<ulong>? few = [];
    private byte[]? registers;

    /// <summary>About how many different readers were added; exact up to 128.</summary>
    public int Count
    {
        get
        {
            if (few is not null)
                return few.Count;
            var (sum, empty) = (0.0, 0);
            foreach (var register in registers!)
            {
                sum += Math.ScaleB(1, -register);
                empty += register == 0 ? 1 : 0;
            }
            const double Alpha = 0.7213 / (1 + 1.079 / Registers);
            var raw = Alpha * Registers * Registers / sum;
            return (int)Math.Round(raw <= 2.5 * Registers && empty > 0 ? Registers * Math.Log((double)Registers / empty) : raw);
        }
    }

    /// <summary>Adds a reader.</summary>
    /// <param name="hash">A hash of who it is, all of whose bits are evenly spread.</param>
    public void Add(ulong hash)
    {
        if (few is not null)
        {
            few.Add(hash);
            if (few.Count <= MaxExact)
                return;
            registers = new byte[Registers];
            foreach (var known in few)
                Register(known);
            few = null;
            return;
        }
        Register(hash);
    }

    /// <summary>Adds all that another one has.</summary>
    public void Add(ReaderSketch other)
    {
        if (other.few is not null)
        {
            foreach (var hash in other.few)
                Add(hash);
            return;
        }
        if (registers is null)
        {
            var own = few!;
            (few, registers) = (null, new byte[Registers]);
            foreach (var hash in own)
                Register(hash);
        }
        for (var i = 0; i < Registers; i++)
            registers[i] = Math.Max(registers[i], other.registers![i]);
    }

    /// <summary>As it is kept: eight bytes a reader, or one a register.</summary>
    public byte[] Write()
    {
        if (few is null)
            return [1, .. registers!];
        var bytes = new byte[1 + 8 * few.Count];
        var i = 1;
        foreach (var hash in few)
        {
            BinaryPrimitives.WriteUInt64BigEndian(bytes.AsSpan(i), hash);
            i += 8;
        }
        return bytes;
    }

    /// <summary>Reads what <see cref="Write"/> wrote.</summary>
    /// <exception cref="FormatException">It is something else.</exception>
    public static ReaderSketch Read(ReadOnlySpan<byte> bytes)
    {
        var sketch = new ReaderSketch();
        if (bytes is [1, ..] && bytes.Length == 1 + Registers)
        {
            (sketch.few, sketch.registers) = (null, bytes[1..].ToArray());
            return sketch;
        }
        if (bytes is not [0, ..] || bytes.Length % 8 != 1)
            throw new FormatException("This is no sketch of readers.");
        for (var i = 1; i < bytes.Length; i += 8)
            sketch.Add(BinaryPrimitives.ReadUInt64BigEndian(bytes[i..]));
        return sketch;
    }

    // The first bits say which register, the others how rare the hash is.
    private void Register(ulong hash)
    {
        var index = (int)(hash >> (64 - Bits));
        var rank = (byte)Math.Min(64 - Bits, BitOperations.LeadingZeroCount((hash << Bits) | (1UL << (Bits - 1))) + 1);
        registers![index] = Math.Max(registers[index], rank);
    }
}

/// <summary>The readers of a day by the newest revision they got: how many there were, and how many have what is out now.</summary>
public sealed class ReadersByRevision
{
    // What is edited all day long would else keep a sketch for each edit.
    private const int MaxRevisions = 6;

    private readonly SortedDictionary<long, ReaderSketch> sketches = [];

    /// <summary>Adds a reader who got a revision.</summary>
    public void Add(long revision, ulong hash)
    {
        At(revision).Add(hash);
        Fold();
    }

    /// <summary>Adds all that others have.</summary>
    public void Add(ReadersByRevision others)
    {
        foreach (var (revision, sketch) in others.sketches)
            At(revision).Add(sketch);
        Fold();
    }

    /// <summary>About how many different readers got a revision or a newer one; null for any.</summary>
    public int CountFrom(long? revision = null)
    {
        var all = new ReaderSketch();
        foreach (var (of, sketch) in sketches)
        {
            if (revision is null || of >= revision)
                all.Add(sketch);
        }
        return all.Count;
    }

    /// <summary>As it is kept.</summary>
    public byte[] Write()
    {
        using var output = new MemoryStream();
        using var writer = new BinaryWriter(output);
        foreach (var (revision, sketch) in sketches)
        {
            var bytes = sketch.Write();
            writer.Write(revision);
            writer.Write(bytes.Length);
            writer.Write(bytes);
        }
        writer.Flush();
        return output.ToArray();
    }

    /// <summary>Reads what <see cref="Write"/> wrote.</summary>
    /// <exception cref="FormatException">It is something else.</exception>
    public static ReadersByRevision Read(byte[] bytes)
    {
        var all = new ReadersByRevision();
        var rest = bytes.AsSpan();
        while (!rest.IsEmpty)
        {
            if (rest.Length < 12 || BinaryPrimitives.ReadInt32LittleEndian(rest[8..]) is var length && (length < 1 || length > rest.Length - 12))
                throw new FormatException("These are no readers.");
            all.At(BinaryPrimitives.ReadInt64LittleEndian(rest)).Add(ReaderSketch.Read(rest.Slice(12, length)));
            rest = rest[(12 + length)..];
        }
        all.Fold();
        return all;
    }

    private ReaderSketch At(long revision) => sketches.TryGetValue(revision, out var sketch) ? sketch : sketches[revision] = new ReaderSketch();

    // The oldest go together, as the older of both: nobody counts for newer than what they got.
    private void Fold()
    {
        while (sketches.Count > MaxRevisions)
        {
            var (oldest, next) = (sketches.Keys.First(), sketches.Keys.Skip(1).First());
            sketches[oldest].Add(sketches[next]);
            sketches.Remove(next);
        }
    }
}
