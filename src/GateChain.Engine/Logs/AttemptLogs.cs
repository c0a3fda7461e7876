using System.Text;

namespace GateChain.Engine.Logs;

/// <summary>The logs of attempts: one text file each, named by run and attempt number. Thread-safe.</summary>
/// <param name="folder">Where the files stand, one folder per run.</param>
/// <param name="time">Stamps the lines.</param>
/// <param name="most">The most bytes of one log. Default 64 MiB.</param>
public sealed class AttemptLogs(string folder, TimeProvider time, long most = 64 << 20)
{
    string PathOf(long run, int number) => Path.Combine(folder, run.ToString(), $"{number}.log");

    /// <summary>Opens the log of an attempt for adding to it.</summary>
    public AttemptLog Open(long run, int number)
    {
        var path = PathOf(run, number);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        return new(path, time, most);
    }

    /// <summary>The text from an offset in bytes on, and the offset behind it; empty when there is no log.</summary>
    public (string Text, long Next) Read(long run, int number, long from = 0, int most = 1 << 20)
    {
        try
        {
            using var file = new FileStream(
                PathOf(run, number),
                FileMode.Open,
                FileAccess.Read,
                FileShare.ReadWrite | FileShare.Delete
            );
            from = Math.Max(0, from);
            if (from >= file.Length)
                return ("", file.Length);
            file.Seek(from, SeekOrigin.Begin);
            var buffer = new byte[(int)Math.Min(most, file.Length - from)];
            var read = file.ReadAtLeast(buffer, buffer.Length, throwOnEndOfStream: false);
            // Whole lines only, so that no character is cut.
            var end = Array.LastIndexOf(buffer, (byte)'\n', read - 1) + 1;
            if (end == 0)
                end = read;
            return (Encoding.UTF8.GetString(buffer, 0, end), from + end);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return ("", Math.Max(0, from));
        }
    }
}

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
