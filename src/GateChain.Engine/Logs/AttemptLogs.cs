using System.Text;

namespace GateChain.Engine.Logs;

/// <summary>A part of a log: whole lines, but for one that is longer than what was asked for.</summary>
/// <param name="From">The offset of its first byte.</param>
/// <param name="Next">The offset behind its last byte.</param>
/// <param name="Size">How many bytes the log has by now.</param>
public sealed record LogPart(string Text, long From, long Next, long Size);

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

    /// <summary>How many bytes a log has; 0 when there is none.</summary>
    public long SizeOf(long run, int number)
    {
        var file = new FileInfo(PathOf(run, number));
        return file.Exists ? file.Length : 0;
    }

    /// <summary>All of a log, as it is now and grows; null when there is none.</summary>
    public Stream? OpenWhole(long run, int number)
    {
        try
        {
            return new FileStream(
                PathOf(run, number),
                FileMode.Open,
                FileAccess.Read,
                FileShare.ReadWrite | FileShare.Delete
            );
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>The text from an offset on; empty when there is no log, and at its end.</summary>
    /// <param name="run">The run.</param>
    /// <param name="number">The attempt's number in it.</param>
    /// <param name="from">Where to begin, in bytes.</param>
    /// <param name="most">How much at most, in bytes.</param>
    public LogPart Read(long run, int number, long from = 0, int most = 1 << 20)
    {
        from = Math.Max(0, from);
        return Look(run, number, from, file =>
        {
            if (from >= file.Length)
                return new("", file.Length, file.Length, file.Length);
            var bytes = Bytes(file, from, (int)Math.Min(most, file.Length - from));
            // Whole lines only, so that no character is cut.
            var end = Array.LastIndexOf(bytes, (byte)'\n') + 1;
            if (end == 0)
                end = bytes.Length;
            return new(Encoding.UTF8.GetString(bytes, 0, end), from, from + end, file.Length);
        });
    }

    /// <summary>The text before an offset; empty when there is no log, and at its beginning.</summary>
    /// <param name="run">The run.</param>
    /// <param name="number">The attempt's number in it.</param>
    /// <param name="before">Where to end, in bytes: where a line begins, or behind the end of the log.</param>
    /// <param name="most">How much at most, in bytes.</param>
    public LogPart ReadBefore(long run, int number, long before, int most = 1 << 20) => Look(run, number, 0, file =>
        {
            before = Math.Clamp(before, 0, file.Length);
            var from = Math.Max(0, before - most);
            var bytes = Bytes(file, from, (int)(before - from));
            // The line that it begins in belongs to the part before.
            var begin = from == 0 ? 0 : Array.IndexOf(bytes, (byte)'\n') + 1;
            if (begin == bytes.Length)
                begin = 0;
            var text = Encoding.UTF8.GetString(bytes, begin, bytes.Length - begin);
            return new(text, from + begin, before, file.Length);
        });

    /// <summary>Lines that hold a text or are of a level, in their order; see <see cref="LogSearch.Find"/>.</summary>
    /// <param name="run">The run.</param>
    /// <param name="number">The attempt's number in it.</param>
    /// <param name="search">What is looked for.</param>
    /// <param name="cancel">Ends it early.</param>
    /// <exception cref="OperationCanceledException">It was ended.</exception>
    public LogHits Search(long run, int number, LogSearch search, CancellationToken cancel)
    {
        using var file = OpenWhole(run, number);
        return file is null ? new([], 0, 0) : search.Find(file, cancel);
    }

    LogPart Look(long run, int number, long at, Func<Stream, LogPart> read)
    {
        try
        {
            using var file = OpenWhole(run, number);
            return file is null ? new("", at, at, 0) : read(file);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return new("", at, at, 0);
        }
    }

    static byte[] Bytes(Stream file, long from, int count)
    {
        file.Seek(from, SeekOrigin.Begin);
        var bytes = new byte[count];
        var read = file.ReadAtLeast(bytes, count, throwOnEndOfStream: false);
        return read == count ? bytes : bytes[..read];
    }
}
