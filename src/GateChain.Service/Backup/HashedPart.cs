using System.Security.Cryptography;

namespace GateChain.Service.Backup;

/// <summary>The first bytes of a stream, whose hash is made on the way. Read once, from its start to its end.</summary>
/// <param name="inner">What is read.</param>
/// <param name="length">How many bytes of it; one with fewer fails.</param>
sealed class HashedPart(Stream inner, long length) : Stream
{
    readonly IncrementalHash _hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
    long _at;

    /// <summary>The SHA-256 of what was read.</summary>
    public byte[] Hash() => _hash.GetHashAndReset();

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(Span<byte> buffer)
    {
        var read = inner.Read(buffer[..(int)Math.Min(buffer.Length, length - _at)]);
        return Took(buffer[..read]);
    }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        var read = await inner.ReadAsync(buffer[..(int)Math.Min(buffer.Length, length - _at)], cancellationToken);
        return Took(buffer.Span[..read]);
    }

    int Took(ReadOnlySpan<byte> read)
    {
        if (read.Length == 0 && _at < length)
            throw new EndOfStreamException("a file became shorter while it was read");
        _hash.AppendData(read);
        _at += read.Length;
        return read.Length;
    }

    public override bool CanRead => true;

    // Whoever asks for the length and the place wants to know how much comes.
    public override bool CanSeek => true;
    public override bool CanWrite => false;
    public override long Length => length;
    public override long Position
    {
        get => _at;
        set => Seek(value, SeekOrigin.Begin);
    }

    public override long Seek(long offset, SeekOrigin origin) =>
        origin == SeekOrigin.Begin && offset == _at ? _at : throw new NotSupportedException();

    public override void Flush() { }

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            _hash.Dispose();
        base.Dispose(disposing);
    }
}
