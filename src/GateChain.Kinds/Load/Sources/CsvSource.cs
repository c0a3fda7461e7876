using System.Text;
using GateChain.Kinds.Contract;
using Sylvan.Data.Csv;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A CSV file in UTF-8 with a header line.</summary>
sealed class CsvSource : FileSource
{
    readonly CsvDataReader _reader;

    public CsvSource(string name, string path, string? delimiter) : base(name, path)
    {
        try
        {
            _reader = CsvDataReader.Create(new StreamReader(Stream, Encoding.UTF8), new CsvDataReaderOptions
            {
                Delimiter = delimiter is { Length: > 0 } ? delimiter[0] : null, BufferSize = 1 << 16, MaxBufferSize = 1 << 22, ResultSetMode = ResultSetMode.SingleResult,
            });
        }
        catch
        {
            Stream.Dispose();
            throw;
        }
        Names = [.. Enumerable.Range(0, _reader.FieldCount).Select(_reader.GetName)];
    }

    public override IReadOnlyList<string> Names { get; }
    public override string RowWord => "line";

    // The header is a line too.
    public override long LineOf(long row) => row + 1;

    public override bool Read()
    {
        try { return _reader.Read(); }
        catch (CsvFormatException e) { throw new StepFailedException("csv", $"line {e.RowNumber + 1} of {What} can't be read: {e.Message}"); }
    }

    public override int FieldCount => _reader.RowFieldCount;

    public override object? this[int column] => _reader.GetString(column);

    public override void Dispose()
    {
        _reader.Dispose();
        base.Dispose();
    }
}
