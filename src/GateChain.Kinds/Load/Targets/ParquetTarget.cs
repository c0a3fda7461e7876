using DuckDB.NET.Data;
using GateChain.Core.Values;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Targets;

/// <summary>
/// A Parquet file, compressed, written by an engine within this process; rows gather in a file of its own beside it.
/// </summary>
sealed class ParquetTarget(
    string path,
    IReadOnlyList<(string Name, CellType Type)> columns,
    Func<object?[], string?[]> fields
) : FileTarget(path, fields)
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
        Execute(
            "CREATE TABLE rows ("
                + string.Join(
                    ", ",
                    columns.Select(c =>
                        $"{Quote(c.Name)} {(c.Type.Kind == CellKind.Decimal ? "VARCHAR" : TypeOf(c.Type))}"
                    )
                )
                + ")"
        );
        _appender = _connection.CreateAppender("rows");
    }

    static string Quote(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    static string TypeOf(CellType type) =>
        type.Kind switch
        {
            CellKind.Int => "BIGINT",
            CellKind.Double => "DOUBLE",
            CellKind.Bool => "BOOLEAN",
            CellKind.Timestamp => "TIMESTAMP",
            CellKind.TimestampUtc => "TIMESTAMPTZ",
            CellKind.Date => "DATE",
            CellKind.Time => "TIME",
            CellKind.Bytes => "BLOB",
            CellKind.Uuid => "UUID",
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

    // A column of a Parquet file has one type, and none of them holds what another has.
    protected override Reject? Refuses(object?[] row)
    {
        for (var i = 0; i < columns.Count; i++)
        {
            if (row[i] is not { } value || Fits(value, columns[i].Type))
                continue;
            var text = Shorten.Text(Cells.Text(value), 200);
            return new(
                $"{columns[i].Name} is {TypeOf(columns[i].Type)} in the file, and this does not fit: {text}",
                columns[i].Name,
                text
            );
        }
        return null;
    }

    static bool Fits(object value, CellType type) =>
        TypeOf(type) == "VARCHAR"
        || type.Kind switch
        {
            CellKind.Int => value is long,
            CellKind.Double => value is double,
            CellKind.Bool => value is bool,
            CellKind.Timestamp or CellKind.TimestampUtc => value is DateTime,
            CellKind.Date => value is DateOnly,
            CellKind.Time => value is TimeOnly,
            CellKind.Bytes => value is byte[],
            CellKind.Uuid => value is Guid,
            _ => ExactNumber.Fits(value, type.Precision, type.Scale),
        };

    protected override void Add(object?[] values)
    {
        var row = _appender!.CreateRow();
        for (var i = 0; i < columns.Count; i++)
        {
            // Decimals of any length are made of their texts at the end.
            switch (
                columns[i].Type.Kind == CellKind.Decimal || TypeOf(columns[i].Type) == "VARCHAR"
                    ? Text(values[i])
                    : values[i]
            )
            {
                case null:
                    row.AppendNullValue();
                    break;
                case string text:
                    row.AppendValue(text);
                    break;
                case long n:
                    row.AppendValue(n);
                    break;
                case double d:
                    row.AppendValue(d);
                    break;
                case bool b:
                    row.AppendValue(b);
                    break;
                case DateTime t:
                    row.AppendValue(t);
                    break;
                case DateOnly d:
                    row.AppendValue((DateOnly?)d);
                    break;
                case TimeOnly t:
                    row.AppendValue((TimeOnly?)t);
                    break;
                case byte[] bytes:
                    row.AppendValue(bytes);
                    break;
                case Guid id:
                    row.AppendValue((Guid?)id);
                    break;
                case var other:
                    throw new InvalidOperationException($"a cell of the type {other.GetType().Name} is not foreseen");
            }
        }
        row.EndRow();
    }

    static string? Text(object? value) => value is null ? null : Cells.Text(value);

    protected override void Close()
    {
        _appender!.Close();
        _appender = null;
        Execute(
            "COPY (SELECT "
                + $"{string.Join(", ", columns.Select(c => $"{Quote(c.Name)}::{TypeOf(c.Type)} AS {Quote(c.Name)}"))}"
                + $" FROM rows) TO '{Part.Replace("'", "''", StringComparison.Ordinal)}' (FORMAT parquet, "
                + "COMPRESSION zstd)"
        );
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
