namespace GateChain.Storage.Sqlite;

/// <summary>Bytes that grow, and are used again from the beginning. Used by one thread.</summary>
sealed class ByteBuffer
{
    // Doubled while it is small; what is large grows by little, and is kept.
    const int MostMore = 1 << 20,
        MostKept = 16 << 20;

    byte[] _bytes = new byte[4096];

    public int Length { get; private set; }

    /// <summary>The bytes from a place on; good until more are taken.</summary>
    public ReadOnlySpan<byte> From(int start) => _bytes.AsSpan(start, Length - start);

    /// <summary>Some of the bytes; good until more are taken.</summary>
    public ReadOnlySpan<byte> Slice(int start, int length) => _bytes.AsSpan(start, length);

    /// <summary>Makes room for more at the end.</summary>
    public Span<byte> Take(int count)
    {
        if (Length + count > _bytes.Length)
            Array.Resize(ref _bytes, Length + Math.Max(count, Math.Min(_bytes.Length, MostMore)));
        Length += count;
        return _bytes.AsSpan(Length - count, count);
    }

    /// <summary>Begins again. What one giant needed is given back.</summary>
    public void Clear()
    {
        Length = 0;
        if (_bytes.Length > MostKept)
            _bytes = new byte[4096];
    }
}
