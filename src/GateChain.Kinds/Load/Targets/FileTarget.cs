using System.IO.Compression;
using System.Text;
using System.Text.Json;
using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Files;
using GateChain.Kinds.Load.Modes;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A file that is written beside its place and moved there when it is whole. An attempt that was cut off begins again.
/// </summary>
/// <param name="fields">The source's fields of a row, for rejects.</param>
abstract class FileTarget(string path, Func<object?[], string?[]> fields) : LoadTarget
{
    string? _part;

    protected string Part => _part!;

    public override (Value? Done, string? Progress) Begin(string fingerprint)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        _part = WholeFile.PartOf(path);
        Open();
        return (null, null);
    }

    protected abstract void Open();

    /// <summary>Brings everything to the disk and closes the file.</summary>
    protected abstract void Close();

    public override void Add(RowBatch rows, Rejects rejects)
    {
        for (var i = 0; i < rows.Count; i++)
        {
            if (Refuses(rows.Row(i)) is { } reject)
                rejects.Refuse(rows.Line(i), reject, fields(rows.Row(i)));
            else
                Add(rows.Row(i));
        }
    }

    /// <summary>Why the file can't take a row; null when it can.</summary>
    protected virtual Reject? Refuses(object?[] row) => null;

    protected abstract void Add(object?[] row);

    public override void Checkpoint(string progress) { }

    public override Value? Finish(Rejects rejects, Func<RowCounts, Value> outputs)
    {
        Close();
        File.Move(Part, path, overwrite: true);
        WholeFile.End(Part);
        return outputs(default);
    }

    public override void Abandon()
    {
        Dispose();
        if (_part is not null)
            WholeFile.End(_part);
    }
}

/// <summary>A file of lines of text in UTF-8; packed where its ending <c>.gz</c> or <c>.zst</c> says so.</summary>
abstract class TextTarget(string path, Func<object?[], string?[]> fields) : FileTarget(path, fields)
{
    readonly string _ending = Path.GetExtension(path).ToLowerInvariant();
    FileStream? _file;
    StreamWriter? _lines;

    protected StreamWriter Lines => _lines!;

    protected override void Open()
    {
        _file = new(Part, FileMode.Create, FileAccess.Write, FileShare.Read, 1 << 16);
        _lines = new(
            _ending switch
            {
                ".gz" => new GZipStream(_file, CompressionLevel.Fastest, leaveOpen: true),
                ".zst" => new ZstdSharp.CompressionStream(_file, leaveOpen: true),
                _ => _file,
            },
            new UTF8Encoding(false),
            1 << 16,
            leaveOpen: _ending is not (".gz" or ".zst")
        )
        {
            NewLine = "\n",
        };
    }

    protected override void Close()
    {
        Lines.Dispose();
        _lines = null;
        _file!.Flush(flushToDisk: true);
        _file.Dispose();
    }

    public override void Dispose()
    {
        // What is not written yet has nowhere to go the second time.
        _lines?.Dispose();
        _file?.Dispose();
        (_lines, _file) = (null, null);
    }
}

/// <summary>CSV with a header line, fields quoted where they must be (RFC 4180, with line feeds).</summary>
sealed class CsvTarget(string path, IReadOnlyList<string> columns, Func<object?[], string?[]> fields)
    : TextTarget(path, fields)
{
    protected override void Open()
    {
        base.Open();
        Add([.. columns]);
    }

    protected override void Add(object?[] row)
    {
        for (var i = 0; i < columns.Count; i++)
        {
            if (i > 0)
                Lines.Write(',');
            if (row[i] is { } value)
                Field(Cells.Text(value));
        }
        Lines.Write('\n');
    }

    void Field(string text)
    {
        // An empty text is told from nothing by its quotes.
        if (text.Length > 0 && text.AsSpan().IndexOfAny("\",\r\n") < 0)
        {
            Lines.Write(text);
        }
        else
        {
            Lines.Write('"');
            Lines.Write(text.Replace("\"", "\"\"", StringComparison.Ordinal));
            Lines.Write('"');
        }
    }
}

/// <summary>One JSON object in each line.</summary>
sealed class JsonLinesTarget(string path, IReadOnlyList<string> columns, Func<object?[], string?[]> fields)
    : TextTarget(path, fields)
{
    readonly MemoryStream _line = new();

    protected override void Add(object?[] row)
    {
        _line.SetLength(0);
        using (
            var json = new Utf8JsonWriter(
                _line,
                new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }
            )
        )
        {
            json.WriteStartObject();
            for (var i = 0; i < columns.Count; i++)
            {
                switch (row[i])
                {
                    case null:
                        json.WriteNull(columns[i]);
                        break;
                    case bool b:
                        json.WriteBoolean(columns[i], b);
                        break;
                    case long n:
                        json.WriteNumber(columns[i], n);
                        break;
                    // JSON has no number for what is none, or without end.
                    case double d when !double.IsFinite(d):
                        json.WriteString(columns[i], Cells.Double(d));
                        break;
                    case double d:
                        json.WriteNumber(columns[i], d);
                        break;
                    case ExactNumber n:
                        json.WritePropertyName(columns[i]);
                        json.WriteRawValue(n.Text);
                        break;
                    case JsonText text:
                        json.WritePropertyName(columns[i]);
                        json.WriteRawValue(text.Text);
                        break;
                    default:
                        json.WriteString(columns[i], Cells.Text(row[i]));
                        break;
                }
            }
            json.WriteEndObject();
        }
        Lines.Write(Encoding.UTF8.GetString(_line.GetBuffer(), 0, (int)_line.Length));
        Lines.Write('\n');
    }
}
