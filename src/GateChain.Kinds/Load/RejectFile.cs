using System.Text;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load;

/// <summary>The file of rejected lines: line number, reason, and the line's fields. Without a path it only remembers the first one.</summary>
sealed class RejectFile : IDisposable
{
    readonly FileStream? _file;
    readonly StringBuilder _pending = new();

    /// <param name="path">As the settings name it; null for no file.</param>
    /// <param name="resolve">Makes a full path of it.</param>
    public RejectFile(string? path, Func<string, string> resolve)
    {
        Path = path;
        if (path is null) { return; }
        var full = resolve(path);
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(full)!);
        _file = new(full, FileMode.OpenOrCreate, FileAccess.Write, FileShare.Read);
    }

    public string? Path { get; }
    public string First { get; private set; } = "";
    public long Length => _file?.Length ?? 0;

    /// <summary>Takes back what was written behind the last committed batch.</summary>
    public void Truncate(long length)
    {
        if (_file is null) { return; }
        _file.SetLength(Math.Min(length, _file.Length));
        _file.Seek(0, SeekOrigin.End);
    }

    public void Add(RowSource source, long line, string reason)
    {
        if (First.Length == 0) { First = $"line {line}: {reason}"; }
        if (_file is null) { return; }
        if (_file.Length == 0 && _pending.Length == 0)
        {
            _pending.Append("line,reason");
            foreach (var name in source.Names) { Field(name); }
            _pending.Append('\n');
        }
        _pending.Append(line);
        Field(reason);
        for (var i = 0; i < source.FieldCount; i++) { Field(Cells.Text(source[i])); }
        _pending.Append('\n');
        if (_pending.Length > 1 << 16) { Flush(); }
    }

    void Field(string text)
    {
        _pending.Append(',');
        if (text.AsSpan().IndexOfAny("\",\r\n") < 0) { _pending.Append(text); }
        else { _pending.Append('"').Append(text.Replace("\"", "\"\"", StringComparison.Ordinal)).Append('"'); }
    }

    public void Flush()
    {
        if (_file is null || _pending.Length == 0) { return; }
        _file.Write(Encoding.UTF8.GetBytes(_pending.ToString()));
        _file.Flush(flushToDisk: true);
        _pending.Clear();
    }

    public void Dispose() => _file?.Dispose();
}
