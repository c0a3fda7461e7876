using GateChain.Core.Values;

namespace GateChain.Kinds.Files;

/// <summary>What was done with files, as outputs and as lines of the log.</summary>
sealed class FileReport
{
    readonly List<(string Path, long Size, DateTime Changed, string? Hash)> _files = [];

    /// <summary>How many files were done.</summary>
    public int Count => _files.Count;

    public List<string> Notes { get; } = [];

    /// <summary>Lines of all files; null when nobody counted.</summary>
    public long? Lines { get; set; }

    /// <summary>The first line of the newest file.</summary>
    public string? Header { get; set; }

    public void Add(FileInfo file, string? hash = null) =>
        _files.Add((file.FullName, file.Length, file.LastWriteTimeUtc, hash));

    /// <summary>A file that is not there any more.</summary>
    public void AddGone(string path) => _files.Add((path, 0, DateTime.UnixEpoch, null));

    public Value Outputs()
    {
        var byAge = _files.Where(f => f.Changed != DateTime.UnixEpoch).OrderBy(f => f.Changed).ToList();
        var list = _files
            .Select(f =>
            {
                var file = new List<(string, Value)>
                {
                    ("path", Value.String(f.Path)),
                    ("name", Value.String(Path.GetFileName(f.Path))),
                    ("size", Value.Int(f.Size)),
                    ("modified", Value.Timestamp(new DateTimeOffset(f.Changed, TimeSpan.Zero))),
                };
                if (f.Hash is not null)
                    file.Add(("hash", Value.String(f.Hash)));
                return Value.Map([.. file]);
            })
            .ToList();
        var outputs = new List<(string, Value)>
        {
            ("count", Value.Int(_files.Count)),
            ("size", Value.Int(_files.Sum(f => f.Size))),
            ("newest", Value.String(byAge.Count == 0 ? "" : byAge[^1].Path)),
            ("oldest", Value.String(byAge.Count == 0 ? "" : byAge[0].Path)),
            ("files", Value.List(list)),
        };
        if (Lines is { } lines)
        {
            outputs.Add(("lines", Value.Int(lines)));
            outputs.Add(("header", Value.String(Header ?? "")));
        }
        if (_files is [{ Hash: { } hash }])
            outputs.Add(("hash", Value.String(hash)));
        return Value.Map([.. outputs]);
    }
}
