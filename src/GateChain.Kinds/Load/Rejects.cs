using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load;

/// <summary>Why a row does not go.</summary>
/// <param name="Reason">In words, with the column and the value that they are about.</param>
/// <param name="Column">The target's column; null when it is about the row, or nobody says.</param>
/// <param name="Value">What stands there, cut; null when it is not known.</param>
readonly record struct Reject(string Reason, string? Column = null, string? Value = null);

/// <summary>The rows of a load that do not go: counted, told, written to a file. Used by one thread.</summary>
sealed class Rejects(LoadReject settings, RowSource source, Func<string, string> resolve) : IDisposable
{
    readonly RejectFile _file = new(settings.File, source, resolve);
    readonly List<(long Line, Reject Reject, string?[] Fields)> _waiting = [];

    public long Count { get; private set; }

    /// <summary>Whether there are more than there may be: the target stays as it was.</summary>
    public bool Over => Count > settings.Limit;

    public long Limit => settings.Limit;
    public string? Path => _file.Path;

    /// <summary>The first one, in a sentence.</summary>
    public string First { get; private set; } = "";

    /// <summary>Whether the target refused some: those behind the limit it has not seen.</summary>
    public bool ByTarget { get; private set; }

    /// <summary>The file that rows stand in which are added from here on; null for the source.</summary>
    public string? In { get; set; }

    /// <summary>A row that could not be read, or did not fit the columns.</summary>
    public void Add(long line, Reject reject, string?[] fields)
    {
        Count++;
        var where = source.IsSeveral ? $"{In}, " : "";
        if (First.Length == 0)
            First = $"{where}{source.RowWord} {line}: {reject.Reason}";
        _waiting.Add((line, reject, fields));
    }

    /// <summary>A row that the target refuses.</summary>
    public void Refuse(long line, Reject reject, string?[] fields)
    {
        ByTarget = true;
        Add(line, reject, fields);
    }

    /// <summary>Brings those since the last time to the disk, in the order of the source.</summary>
    public void Flush()
    {
        _waiting.Sort((a, b) => a.Line.CompareTo(b.Line));
        foreach (var (line, reject, fields) in _waiting)
            _file.Add(In ?? source.What, line, reject, fields);
        _waiting.Clear();
        _file.Flush();
    }

    /// <summary>Where it stands, to come back to.</summary>
    public (long Count, long Length) Mark()
    {
        Flush();
        return (Count, _file.Length);
    }

    /// <summary>Forgets what came behind a mark.</summary>
    public void BackTo((long Count, long Length) mark)
    {
        _waiting.Clear();
        Count = mark.Count;
        if (Count == 0)
            (First, ByTarget) = ("", false);
        _file.Truncate(mark.Length);
    }

    public void Dispose() => _file.Dispose();
}
