using System.Text;

namespace GateChain.Engine.Logs;

/// <summary>
/// The log of one attempt. Thread-safe. A line that can't be written (disk full) is counted, not thrown.
/// </summary>
public sealed class AttemptLog : IDisposable
{
    readonly Lock _lock = new();
    readonly TimeProvider _time;
    FileStream? _file;

    // What is still free for lines; a last one tells that there is no more room.
    long _left;

    internal AttemptLog(string path, TimeProvider time, long most)
    {
        (_time, _left) = (time, most);
        try
        {
            _left -= new FileInfo(path) is { Exists: true } before ? before.Length : 0;
        }
        catch (IOException)
        { /* what is wrong with it shows when it is opened */
        }
        try
        {
            _file = new(path, FileMode.Append, FileAccess.Write, FileShare.ReadWrite | FileShare.Delete, 1);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            LinesLost++;
        }
    }

    /// <summary>How many lines could not be written.</summary>
    public int LinesLost { get; private set; }

    /// <summary>Adds a line: time, source, text.</summary>
    /// <param name="source"><c>out</c>, <c>err</c> or <c>note</c>.</param>
    /// <param name="line">The text, without a line end.</param>
    public void Write(string source, string line)
    {
        var bytes = Encoding.UTF8.GetBytes($"{_time.GetUtcNow():yyyy-MM-ddTHH:mm:ss.fffZ} {source, -4} {line}\n");
        lock (_lock)
        {
            try
            {
                if (_file is null)
                {
                    LinesLost++;
                }
                else if (_left <= 0)
                {
                    LinesLost++;
                }
                else if ((_left -= bytes.Length) > 0)
                {
                    _file.Write(bytes);
                }
                else
                {
                    LinesLost++;
                    _file.Write(
                        Encoding.UTF8.GetBytes(
                            $"{_time.GetUtcNow():yyyy-MM-ddTHH:mm:ss.fffZ} note the log is full and is "
                                + "cut here; the attempt continues\n"
                        )
                    );
                }
            }
            catch (IOException)
            {
                LinesLost++;
            }
        }
    }

    /// <summary>Writes what is left, and closes the file.</summary>
    public void Dispose()
    {
        lock (_lock)
        {
            try
            {
                _file?.Dispose();
            }
            catch (IOException)
            {
                LinesLost++;
            }
            _file = null;
        }
    }
}
