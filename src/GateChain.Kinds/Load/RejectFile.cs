using System.Globalization;
using System.Text;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load;

/// <summary>
/// The file of rejected rows: where each stood, what is wrong, and its fields under the names of the source. Without a
/// path it does nothing.
/// </summary>
sealed class RejectFile : IDisposable
{
    readonly RowSource _source;
    readonly FileStream? _file;
    readonly StringBuilder _pending = new();

    /// <param name="path">As the settings name it; null for no file.</param>
    /// <param name="source">Where the rows come from.</param>
    /// <param name="resolve">Makes a full path of it.</param>
    public RejectFile(string? path, RowSource source, Func<string, string> resolve)
    {
        (Path, _source) = (path, source);
        if (path is null)
            return;
        var full = resolve(path);
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(full)!);
        _file = new(full, FileMode.OpenOrCreate, FileAccess.Write, FileShare.Read);
    }

    public string? Path { get; }
    public long Length => _file?.Length ?? 0;

    /// <summary>Takes back what was written behind the last committed batch.</summary>
    public void Truncate(long length)
    {
        if (_file is null)
            return;
        _pending.Clear();
        _file.SetLength(Math.Min(length, _file.Length));
        _file.Seek(0, SeekOrigin.End);
    }

    public void Add(string what, long line, Reject reject, IEnumerable<string?> fields)
    {
        if (_file is null)
            return;
        if (_file.Length == 0 && _pending.Length == 0)
            Line(["source", _source.RowWord, "column", "value", "reason", .. _source.Names]);
        Line([
            what,
            line.ToString(CultureInfo.InvariantCulture),
            reject.Column,
            reject.Value,
            reject.Reason,
            .. fields,
        ]);
        if (_pending.Length > 1 << 16)
            Flush();
    }

    void Line(IEnumerable<string?> fields)
    {
        var first = true;
        foreach (var field in fields)
        {
            if (!first)
                _pending.Append(',');
            first = false;
            if (field is null)
                continue;
            // An empty text is told from nothing by its quotes.
            if (field.Length > 0 && field.AsSpan().IndexOfAny("\",\r\n") < 0)
                _pending.Append(field);
            else
                _pending.Append('"').Append(field.Replace("\"", "\"\"", StringComparison.Ordinal)).Append('"');
        }
        _pending.Append('\n');
    }

    public void Flush()
    {
        if (_file is null || _pending.Length == 0)
            return;
        _file.Write(Encoding.UTF8.GetBytes(_pending.ToString()));
        _file.Flush(flushToDisk: true);
        _pending.Clear();
    }

    public void Dispose() => _file?.Dispose();
}
