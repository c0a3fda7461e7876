using System.Text;
using System.Text.Json;
using DuckDB.NET.Data;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Load.Targets;

/// <summary>A file that is written beside its place and moved there when it is whole. An attempt that was cut off begins anew.</summary>
abstract class FileTarget(string path) : LoadTarget
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
        for (var i = 0; i < rows.Count; i++) { Add(rows.Row(i)); }
    }

    protected abstract void Add(object?[] row);

    public override void Checkpoint(string progress) { }

    public override Value? Finish(Rejects rejects, Func<long, long, Value> outputs)
    {
        Close();
        File.Move(Part, path, overwrite: true);
        WholeFile.End(Part);
        return outputs(0, 0);
    }

    public override void Abandon()
    {
        Dispose();
        if (_part is not null) { WholeFile.End(_part); }
    }
}

/// <summary>A file of lines of text in UTF-8.</summary>
abstract class TextTarget(string path) : FileTarget(path)
{
    StreamWriter? _lines;

    protected StreamWriter Lines => _lines!;

    protected override void Open() => _lines = new(new FileStream(Part, FileMode.Create, FileAccess.Write, FileShare.Read, 1 << 16), new UTF8Encoding(false), 1 << 16) { NewLine = "\n" };

    protected override void Close()
    {
        Lines.Flush();
        ((FileStream)Lines.BaseStream).Flush(flushToDisk: true);
        Lines.Dispose();
    }

    public override void Dispose() => _lines?.Dispose();
}

/// <summary>CSV with a header line, fields quoted where they must be (RFC 4180, with line feeds).</summary>
sealed class CsvTarget(string path, IReadOnlyList<string> columns) : TextTarget(path)
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
            if (i > 0) { Lines.Write(','); }
            if (row[i] is { } value) { Field(Cells.Text(value)); }
        }
        Lines.Write('\n');
    }

    void Field(string text)
    {
        // An empty text is told from nothing by its quotes.
        if (text.Length > 0 && text.AsSpan().IndexOfAny("\",\r\n") < 0) { Lines.Write(text); }
        else
        {
            Lines.Write('"');
            Lines.Write(text.Replace("\"", "\"\"", StringComparison.Ordinal));
            Lines.Write('"');
        }
    }
}

/// <summary>One JSON object in each line.</summary>
sealed class JsonLinesTarget(string path, IReadOnlyList<string> columns) : TextTarget(path)
{
    readonly MemoryStream _line = new();

    protected override void Add(object?[] row)
    {
        _line.SetLength(0);
        using (var json = new Utf8JsonWriter(_line, new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
        {
            json.WriteStartObject();
            for (var i = 0; i < columns.Count; i++)
            {
                switch (row[i])
                {
                    case null: json.WriteNull(columns[i]); break;
                    case bool b: json.WriteBoolean(columns[i], b); break;
                    case long n: json.WriteNumber(columns[i], n); break;
                    // JSON has no number for what is none, or without end.
                    case double d when !double.IsFinite(d): json.WriteString(columns[i], Cells.Double(d)); break;
                    case double d: json.WriteNumber(columns[i], d); break;
                    case ExactNumber n:
                        json.WritePropertyName(columns[i]);
                        json.WriteRawValue(n.Text);
                        break;
                    case JsonText text:
                        json.WritePropertyName(columns[i]);
                        json.WriteRawValue(text.Text);
                        break;
                    default: json.WriteString(columns[i], Cells.Text(row[i])); break;
                }
            }
            json.WriteEndObject();
        }
        Lines.Write(Encoding.UTF8.GetString(_line.GetBuffer(), 0, (int)_line.Length));
        Lines.Write('\n');
    }
}

/// <summary>A Parquet file, compressed, written by an engine within this process; rows gather in a file of its own beside it.</summary>
sealed class ParquetTarget(string path, IReadOnlyList<(string Name, CellType Type)> columns) : FileTarget(path)
{
    DuckDBConnection? _connection;
    DuckDBAppender? _appender;

    string Gathered => Part + ".rows";

    protected override void Open()
    {
        File.Delete(Gathered);
        _connection = new($"Data Source={Gathered}");
        _connection.Open();
        Execute("SET memory_limit = '256MB'; SET threads = 1");
        Execute($"CREATE TABLE rows ({string.Join(", ", columns.Select(c => $"{Quote(c.Name)} {(c.Type.Kind == CellKind.Decimal ? "VARCHAR" : TypeOf(c.Type))}"))})");
        _appender = _connection.CreateAppender("rows");
    }

    static string Quote(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    static string TypeOf(CellType type) => type.Kind switch
    {
        CellKind.Int => "BIGINT", CellKind.Double => "DOUBLE", CellKind.Bool => "BOOLEAN", CellKind.Timestamp => "TIMESTAMP", CellKind.TimestampUtc => "TIMESTAMPTZ", CellKind.Date => "DATE", CellKind.Time => "TIME", CellKind.Bytes => "BLOB", CellKind.Uuid => "UUID",
        // Without a precision, or with one beyond what there is, a decimal stays a text with all of its digits.
        CellKind.Decimal when type.Precision is > 0 and <= 38 => $"DECIMAL({type.Precision}, {type.Scale})",
        _ => "VARCHAR",
    };

    void Execute(string sql)
    {
        using var command = _connection!.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    protected override void Add(object?[] values)
    {
        var row = _appender!.CreateRow();
        for (var i = 0; i < columns.Count; i++)
        {
            switch (values[i])
            {
                case null: row.AppendNullValue(); break;
                case long n when columns[i].Type.Kind == CellKind.Int: row.AppendValue(n); break;
                case double d when columns[i].Type.Kind == CellKind.Double: row.AppendValue(d); break;
                case bool b when columns[i].Type.Kind == CellKind.Bool: row.AppendValue(b); break;
                case DateTime t when columns[i].Type.Kind is CellKind.Timestamp or CellKind.TimestampUtc: row.AppendValue(t); break;
                case DateOnly d when columns[i].Type.Kind == CellKind.Date: row.AppendValue((DateOnly?)d); break;
                case TimeOnly t when columns[i].Type.Kind == CellKind.Time: row.AppendValue((TimeOnly?)t); break;
                case byte[] bytes when columns[i].Type.Kind == CellKind.Bytes: row.AppendValue(bytes); break;
                case Guid id when columns[i].Type.Kind == CellKind.Uuid: row.AppendValue((Guid?)id); break;
                // Decimals of any length are made of their texts at the end.
                case var other when columns[i].Type.Kind == CellKind.Decimal || TypeOf(columns[i].Type) == "VARCHAR": row.AppendValue(Cells.Text(other)); break;
                default: throw new StepFailedException("value", $"“{columns[i].Name}” is {TypeOf(columns[i].Type)} in the file, and {Shorten.Text(Cells.Text(values[i]), 100)} does not fit", "The file is as it was. Say type: string for the column.");
            }
        }
        row.EndRow();
    }

    protected override void Close()
    {
        _appender!.Close();
        _appender = null;
        Execute($"COPY (SELECT {string.Join(", ", columns.Select(c => $"{Quote(c.Name)}::{TypeOf(c.Type)} AS {Quote(c.Name)}"))} FROM rows) TO '{Part.Replace("'", "''", StringComparison.Ordinal)}' (FORMAT parquet, COMPRESSION zstd)");
        Dispose();
        using var file = new FileStream(Part, FileMode.Open, FileAccess.ReadWrite);
        file.Flush(flushToDisk: true);
    }

    public override void Dispose()
    {
        _appender?.Dispose();
        _appender = null;
        _connection?.Dispose();
        _connection = null;
        File.Delete(Gathered);
        File.Delete(Gathered + ".wal");
    }
}
