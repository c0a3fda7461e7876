using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load.Sources;

/// <summary>Rows of a file.</summary>
abstract class FileSource : RowSource
{
    readonly FileInfo _file;
    readonly (long Length, DateTime Written) _seen;

    /// <param name="name">The path as the settings have it.</param>
    /// <param name="path">The full path.</param>
    /// <exception cref="StepFailedException">It is not there, or can't be read.</exception>
    protected FileSource(string name, string path)
    {
        (What, Path) = (name, path);
        if (!File.Exists(path))
        {
            throw new StepFailedException(
                "no-file",
                $"the file {name} is not there",
                $"Looked for {path}. Put it there and resume the run."
            );
        }
        _file = new(path);
        _file.Refresh();
        _seen = (_file.Length, _file.LastWriteTimeUtc);
        Stream = new(
            path,
            FileMode.Open,
            FileAccess.Read,
            FileShare.ReadWrite | FileShare.Delete,
            1 << 16,
            FileOptions.SequentialScan
        );
    }

    /// <summary>The file as it lies there.</summary>
    protected FileStream Stream { get; }

    protected string Path { get; }
    public override string What { get; }
    public override bool IsSteady => true;
    public override string Fingerprint => $"{Path}|{_seen.Length}|{_seen.Written.Ticks}";

    public override double? Share =>
        Stream.CanSeek && _file.Length > 0 ? Math.Min(1, (double)Stream.Position / _file.Length) : null;

    public override void MustBeUnchanged()
    {
        var now = new FileInfo(Path);
        if (!now.Exists || (now.Length, now.LastWriteTimeUtc) != _seen)
        {
            throw new StepFailedException(
                "changed",
                $"{What} was changed while it was read, or is still being written",
                "Nothing was loaded. A guard with a file probe and “stable” waits until a file is whole."
            );
        }
    }

    public override long? Bytes => Stream.CanSeek ? Stream.Position : null;

    public override void Dispose() => Stream.Dispose();
}
