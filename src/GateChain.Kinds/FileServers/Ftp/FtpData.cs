using GateChain.Kinds.Data;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>What a server sends for one command. Its end counts when the server says that it was all.</summary>
sealed class FtpData(FtpSession session, string command, Stream data) : ReadStream
{
    bool _ended;

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
}
