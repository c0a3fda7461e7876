namespace GateChain.Storage.Snapshots;

/// <summary>
/// Keeps the latest snapshot of long runs, a file each. They only shorten the way from the journal to the state: one that is missing
/// or can't be read costs time and nothing else. Thread-safe for different runs.
/// </summary>
public sealed class SnapshotFiles(string folder)
{
    string PathOf(long run) => Path.Combine(folder, $"{run}.snapshot");

    /// <summary>Writes a snapshot beside the current one; <see cref="Keep"/> puts it in its place.</summary>
    /// <param name="run">The run.</param>
    /// <param name="seq">The number of the last journal row it holds.</param>
    /// <param name="write">Writes the state.</param>
    /// <returns>False when it could not be written; the current one stays.</returns>
    public bool Draft(long run, long seq, Action<Stream> write)
    {
        try
        {
            Directory.CreateDirectory(folder);
            using var file = new FileStream(PathOf(run) + ".draft", FileMode.Create, FileAccess.Write, FileShare.None, 1 << 16);
            file.Write(BitConverter.GetBytes(seq));
            write(file);
            // The end mark tells a whole file from one that was cut off.
            file.Write(BitConverter.GetBytes(~seq));
            return true;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    /// <summary>Puts a draft in its place, once the journal holds all that it holds.</summary>
    public void Keep(long run)
    {
        try { File.Move(PathOf(run) + ".draft", PathOf(run), overwrite: true); }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // The older one stays.
        }
    }

    /// <summary>Reads a run's snapshot with the number of the last row it holds; null when there is none that is whole.</summary>
    public (T State, long Seq)? Read<T>(long run, Func<Stream, T?> read) where T : class
    {
        try
        {
            using var file = new FileStream(PathOf(run), FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16);
            var mark = new byte[8];
            if (file.Length < 16) { return null; }
            file.Seek(-8, SeekOrigin.End);
            file.ReadExactly(mark);
            var end = BitConverter.ToInt64(mark);
            file.Seek(0, SeekOrigin.Begin);
            file.ReadExactly(mark);
            var seq = BitConverter.ToInt64(mark);
            return end == ~seq && read(file) is { } state ? (state, seq) : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
