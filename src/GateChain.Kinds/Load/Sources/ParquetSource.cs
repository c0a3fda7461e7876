using DuckDB.NET.Data;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A Parquet file, read by an engine within this process.</summary>
sealed class ParquetSource : FileSource
{
    readonly DuckDBConnection _connection = new("Data Source=:memory:");
    readonly DuckDBCommand _command;
    readonly DuckDBDataReader _reader;
    readonly CellType?[] _types;
    readonly Func<int, object?> _cell;
    readonly long _rows;
    long _read;

    public ParquetSource(string name, string path)
        : base(name, path)
    {
        // It opens the file itself.
        Stream.Dispose();
        _connection.Open();
        _command = _connection.CreateCommand();
        try
        {
            _command.CommandText = "SET threads = 1; SET preserve_insertion_order = true; SET memory_limit = '256MB'";
            _command.ExecuteNonQuery();
            var quoted = path.Replace("'", "''", StringComparison.Ordinal);
            _command.CommandText = $"SELECT count(*) FROM read_parquet('{quoted}')";
            _rows = Convert.ToInt64(_command.ExecuteScalar(), System.Globalization.CultureInfo.InvariantCulture);
            _command.CommandText = $"DESCRIBE SELECT * FROM read_parquet('{quoted}')";
            var columns = new List<(string Name, string Type)>();
            using (var described = _command.ExecuteReader())
            {
                while (described.Read())
                    columns.Add((described.GetString(0), described.GetString(1)));
            }
            Names = [.. columns.Select(c => c.Name)];
            _types = [.. columns.Select(c => CellType.Of(c.Type))];
            _command.CommandText = DuckDbText.Readable(columns, $"SELECT * FROM read_parquet('{quoted}')");
            _command.UseStreamingMode = true;
            _reader = _command.ExecuteReader();
        }
        catch (DuckDBException e)
        {
            _command.Dispose();
            _connection.Dispose();
            throw new StepFailedException("parquet", $"{name} can't be read as Parquet: {e.Message}");
        }
        _cell = DuckDbText.Cell(_reader);
    }

    public override IReadOnlyList<string> Names { get; }
    public override double? Share => _rows > 0 ? (double)_read / _rows : null;

    public override bool Read()
    {
        _read++;
        return _reader.Read();
    }

    public override CellType? TypeOf(int column) => _types[column];

    public override object? this[int column] => _cell(column);

    public override void Dispose()
    {
        _reader.Dispose();
        _command.Dispose();
        _connection.Dispose();
        base.Dispose();
    }
}
