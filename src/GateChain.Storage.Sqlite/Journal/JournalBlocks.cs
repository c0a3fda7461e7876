using System.Buffers.Binary;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// How decisions lie together in one value: in a block of the tail those of many runs, in a packed row those of one run
/// that follow each other.
/// </summary>
static class JournalBlocks
{
    const int PrefixSize = 32,
        LengthSize = 4;

    /// <summary>A decision in a block.</summary>
    /// <param name="Run">The run.</param>
    /// <param name="Epoch">The epoch of the owner who wrote it.</param>
    /// <param name="Seq">The decision's number in it.</param>
    /// <param name="Start">Where its bytes begin.</param>
    /// <param name="Length">How many they are.</param>
    /// <param name="HeadLength">How many bytes behind them are the run's line in lists; 0 when it did not
    /// change.</param>
    public readonly record struct Entry(long Run, long Epoch, long Seq, int Start, int Length, int HeadLength)
    {
        public int HeadStart => Start + Length;
        public int End => Start + Length + HeadLength;
    }

    /// <summary>Adds a decision to a block.</summary>
    public static Entry Add(ByteBuffer block, JournalAppend append, ReadOnlySpan<byte> head)
    {
        var body = append.Body;
        var space = block.Take(PrefixSize + body.Length + head.Length);
        BinaryPrimitives.WriteInt64LittleEndian(space, append.Run);
        BinaryPrimitives.WriteInt64LittleEndian(space[8..], append.Epoch);
        BinaryPrimitives.WriteInt64LittleEndian(space[16..], append.Seq);
        BinaryPrimitives.WriteInt32LittleEndian(space[24..], body.Length);
        BinaryPrimitives.WriteInt32LittleEndian(space[28..], head.Length);
        body.CopyTo(space[PrefixSize..]);
        head.CopyTo(space[(PrefixSize + body.Length)..]);
        return new(
            append.Run,
            append.Epoch,
            append.Seq,
            block.Length - head.Length - body.Length,
            body.Length,
            head.Length
        );
    }

    /// <summary>The decisions of a block, in order.</summary>
    public static Entries Read(ReadOnlySpan<byte> block) => new(block);

    public ref struct Entries(ReadOnlySpan<byte> block)
    {
        readonly ReadOnlySpan<byte> _block = block;

        public Entry Current { get; private set; }

        public readonly Entries GetEnumerator() => this;

        public bool MoveNext()
        {
            if (Current.End == _block.Length)
                return false;
            var prefix = _block.Slice(Current.End, PrefixSize);
            Current = new(
                Run: BinaryPrimitives.ReadInt64LittleEndian(prefix),
                Epoch: BinaryPrimitives.ReadInt64LittleEndian(prefix[8..]),
                Seq: BinaryPrimitives.ReadInt64LittleEndian(prefix[16..]),
                Start: Current.End + PrefixSize,
                Length: BinaryPrimitives.ReadInt32LittleEndian(prefix[24..]),
                HeadLength: BinaryPrimitives.ReadInt32LittleEndian(prefix[28..])
            );
            return true;
        }
    }

    /// <summary>Adds a decision to a packed row.</summary>
    public static void Pack(ByteBuffer row, ReadOnlySpan<byte> body)
    {
        var space = row.Take(LengthSize + body.Length);
        BinaryPrimitives.WriteInt32LittleEndian(space, body.Length);
        body.CopyTo(space[LengthSize..]);
    }

    /// <summary>The decisions of a packed row, in order.</summary>
    public static IEnumerable<byte[]> Unpack(byte[] row)
    {
        for (var at = 0; at < row.Length; )
        {
            var length = BinaryPrimitives.ReadInt32LittleEndian(row.AsSpan(at));
            yield return row.AsSpan(at + LengthSize, length).ToArray();
            at += LengthSize + length;
        }
    }
}
