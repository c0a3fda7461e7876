namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>What a server sends for one command. Its end counts when the server says that it was all.</summary>
sealed class FtpData(FtpSession session, string command, Stream data) : Stream
{
    bool _ended;

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(Span<byte> buffer)
    {
        if (_ended || buffer.IsEmpty)
            return 0;
        var read = data.Read(buffer);
        if (read == 0)
        {
            _ended = true;
            session.End(command);
        }
        return read;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            data.Dispose();
            if (!_ended)
            {
                _ended = true;
                try
                {
                    session.LetGo();
                }
                // Whoever lets go of the data has failed already, or goes.
                catch (Exception e) when (e is IOException or ObjectDisposedException or FtpCutException) { }
            }
        }
        base.Dispose(disposing);
    }

    public override bool CanRead => true;
    public override bool CanSeek => false;
    public override bool CanWrite => false;
    public override long Length => throw new NotSupportedException();
    public override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override void Flush() { }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
