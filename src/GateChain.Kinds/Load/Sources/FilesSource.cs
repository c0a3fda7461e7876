using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// Several files one after the other, as one source; and the name of the file as a column, when asked.
/// </summary>
sealed class FilesSource : RowSource
{
    readonly IReadOnlyList<(string Name, string Path)> _files;
    readonly Func<string, string, RowSource> _open;
    readonly bool _hasName;
    readonly string _what;
    readonly List<string> _fingerprints = [];
    RowSource _now;
    int _at;
    long _before,
        _read;

    /// <param name="what">The pattern.</param>
    /// <param name="files">One or more, in their order: the name for people, and the full path.</param>
    /// <param name="fileColumn">What a column with the file's name is called; null for none.</param>
    /// <param name="open">Opens one by name and path.</param>
    public FilesSource(
        string what,
        IReadOnlyList<(string Name, string Path)> files,
        string? fileColumn,
        Func<string, string, RowSource> open
    )
    {
        (_what, _files, _open, _hasName) = (what, files, open, fileColumn is not null);
        _now = open(files[0].Name, files[0].Path);
        Names = fileColumn is null ? _now.Names : [.. _now.Names, fileColumn];
        Fingerprint = string.Join(
            '|',
            files
                .Select(f => (f.Path, Seen: new FileInfo(f.Path)))
                .Select(f => $"{f.Path}|{f.Seen.Length}|{f.Seen.LastWriteTimeUtc.Ticks}")
        );
    }

    public override string What => _now.What;
    public override bool IsSeveral => _files.Count > 1;
    public override IReadOnlyList<string> Names { get; }
    public override bool IsSteady => true;
    public override string Fingerprint { get; }
    public override string RowWord => _now.RowWord;

    public override long LineOf(long row) => _now.LineOf(row - _before);

    public override Reject? Broken => _now.Broken;
    public override string? Hint => _now.Hint;

    public override CellType? TypeOf(int column) => column < _now.Names.Count ? _now.TypeOf(column) : null;

    public override double? Share => (_at + (_now.Share ?? 0)) / _files.Count;

    public override bool Read()
    {
        while (!_now.Read())
        {
            if (_at == _files.Count - 1)
                return false;
            _now.MustBeUnchanged();
            Next();
        }
        _read++;
        return true;
    }

    void Next()
    {
        var names = _now.Names;
        _now.Dispose();
        _before = _read;
        var (name, path) = _files[++_at];
        _now = _open(name, path);
        if (_now.Names.SequenceEqual(names))
            return;
        var missing = names.Except(_now.Names).ToList();
        var more = _now.Names.Except(names).ToList();
        throw new StepFailedException(
            "header",
            $"the columns of {name} are not those of {_files[0].Name}"
                + $"{(missing.Count > 0 ? $": it lacks {string.Join(", ", missing)}" : "")}"
                + $"{(more.Count > 0 ? $"{(missing.Count > 0 ? " and" : ": it")} has {string.Join(", ", more)}" : "")}",
            $"Nothing was loaded. Files that {_what} names have to be alike."
        );
    }

    public override void MustBeUnchanged() => _now.MustBeUnchanged();

    public override int FieldCount =>
        _hasName && _now.FieldCount >= _now.Names.Count ? Math.Max(_now.FieldCount + 1, Names.Count) : _now.FieldCount;

    public override object? this[int column] =>
        _hasName && column == _now.Names.Count ? _files[_at].Name
        : column > _now.Names.Count && _hasName ? _now[column - 1]
        : _now[column];

    public override void Dispose() => _now.Dispose();
}
