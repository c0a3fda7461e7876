using System.Globalization;
using System.Text;
using System.Text.Json;
using DuckDB.NET.Data;
using GateChain.Core.Values;
using GateChain.Kinds.Databases;
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

    public override void Checkpoint(string progress) { }

    public override Value Finish(Func<long, Value> outputs)
    {
        Close();
        File.Move(Part, path, overwrite: true);
        WholeFile.End(Part);
        return outputs(0);
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

    protected static string Text(object value) => value switch
    {
        string s => s,
        bool b => b ? "true" : "false",
        DateTime t => t.ToString("yyyy-MM-ddTHH:mm:ss.FFFFFFF'Z'", CultureInfo.InvariantCulture),
        byte[] bytes => Convert.ToBase64String(bytes),
        IFormattable f => f.ToString(null, CultureInfo.InvariantCulture),
        _ => value.ToString() ?? "",
    };
}

/// <summary>CSV with a header line, fields quoted where they must be (RFC 4180, with line feeds).</summary>
sealed class CsvTarget(string path, IReadOnlyList<string> columns) : TextTarget(path)
{
    protected override void Open()
    {
        base.Open();
        Add([.. columns]);
    }

    public override void Add(object?[] row)
    {
        for (var i = 0; i < columns.Count; i++)
        {
            if (i > 0) { Lines.Write(','); }
            if (row[i] is { } value and not DBNull) { Field(Text(value)); }
        }
        Lines.Write('\n');
    }

    void Field(string text)
    {
        if (text.AsSpan().IndexOfAny("\",\r\n") < 0) { Lines.Write(text); }
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

    public override void Add(object?[] row)
    {
        _line.SetLength(0);
        using (var json = new Utf8JsonWriter(_line, new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
        {
            json.WriteStartObject();
            for (var i = 0; i < columns.Count; i++)
            {
                switch (row[i])
                {
                    case null or DBNull: json.WriteNull(columns[i]); break;
                    case bool b: json.WriteBoolean(columns[i], b); break;
                    case int or long or short or byte: json.WriteNumber(columns[i], Convert.ToInt64(row[i], CultureInfo.InvariantCulture)); break;
                    case decimal m: json.WriteNumber(columns[i], m); break;
                    case double or float: json.WriteNumber(columns[i], Convert.ToDouble(row[i], CultureInfo.InvariantCulture)); break;
                    default: json.WriteString(columns[i], Text(row[i]!)); break;
                }
            }
            json.WriteEndObject();
        }
        Lines.Write(Encoding.UTF8.GetString(_line.GetBuffer(), 0, (int)_line.Length));
        Lines.Write('\n');
    }
}

/// <summary>A Parquet file, compressed, written by an engine within this process; rows gather in a file of its own beside it.</summary>
sealed class ParquetTarget(string path, IReadOnlyList<(string Name, ColumnType? Type)> columns) : FileTarget(path)
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
        Execute($"CREATE TABLE rows ({string.Join(", ", columns.Select(c => $"{Quote(c.Name)} {TypeOf(c.Type)}"))})");
        _appender = _connection.CreateAppender("rows");
    }

    static string Quote(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    static string TypeOf(ColumnType? type) => type switch
    {
        ColumnType.Int => "BIGINT", ColumnType.Double => "DOUBLE", ColumnType.Bool => "BOOLEAN", ColumnType.Timestamp => "TIMESTAMP", _ => "VARCHAR",
    };

    void Execute(string sql)
    {
        using var command = _connection!.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    public override void Add(object?[] values)
    {
        var row = _appender!.CreateRow();
        for (var i = 0; i < columns.Count; i++)
        {
            switch (values[i])
            {
                case null or DBNull: row.AppendNullValue(); break;
                case long n when columns[i].Type == ColumnType.Int: row.AppendValue(n); break;
                case double d when columns[i].Type == ColumnType.Double: row.AppendValue(d); break;
                case bool b when columns[i].Type == ColumnType.Bool: row.AppendValue(b); break;
                case DateTime t when columns[i].Type == ColumnType.Timestamp: row.AppendValue(t); break;
                case IFormattable f: row.AppendValue(f.ToString(null, CultureInfo.InvariantCulture)); break;
                default: row.AppendValue(values[i]!.ToString()); break;
            }
        }
        row.EndRow();
    }

    protected override void Close()
    {
        _appender!.Close();
        _appender = null;
        Execute($"COPY rows TO '{Part.Replace("'", "''", StringComparison.Ordinal)}' (FORMAT parquet, COMPRESSION zstd)");
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
