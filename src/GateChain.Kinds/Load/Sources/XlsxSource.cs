using System.IO.Compression;
using ExcelDataReader;
using ExcelDataReader.Exceptions;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A sheet of an Excel workbook; its first row names the columns.</summary>
sealed class XlsxSource : FileSource
{
    const long MostText = 256L << 20;

    readonly IExcelDataReader _reader;
    long _blank;

    // The library looks for an old encoding even where it needs none.
    static XlsxSource() => System.Text.Encoding.RegisterProvider(System.Text.CodePagesEncodingProvider.Instance);

    public XlsxSource(string name, string path, string? sheet)
        : base(name, path)
    {
        Bound(name);
        try
        {
            _reader = ExcelReaderFactory.CreateOpenXmlReader(Stream);
        }
        catch (Exception e)
            when (e is ExcelReaderException or InvalidDataException or IOException or System.Xml.XmlException)
        {
            Stream.Dispose();
            throw new StepFailedException("xlsx", $"{name} is not an Excel workbook: {e.Message}");
        }
        var sheets = new List<string> { _reader.Name };
        while (sheet is not null && _reader.Name != sheet)
        {
            if (!_reader.NextResult())
            {
                Dispose();
                throw new StepFailedException(
                    "xlsx",
                    $"{name} has no sheet “{sheet}”",
                    $"It has: {string.Join(", ", sheets)}"
                );
            }
            sheets.Add(_reader.Name);
        }
        if (!_reader.Read())
        {
            Dispose();
            throw new StepFailedException("header", $"the sheet “{_reader.Name}” of {name} is empty");
        }
        Names =
        [
            .. Enumerable
                .Range(0, _reader.FieldCount)
                .Select(i => _reader.GetValue(i)?.ToString() ?? "")
                .TakeWhile(n => n.Length > 0),
        ];
    }

    // The library holds all texts of a workbook in memory, and a small archive can become very much.
    void Bound(string name)
    {
        try
        {
            using var archive = new ZipArchive(Stream, ZipArchiveMode.Read, leaveOpen: true);
            if (
                archive
                    .Entries.Where(e => e.Name.Equals("sharedStrings.xml", StringComparison.OrdinalIgnoreCase))
                    .Sum(e => e.Length)
                is > MostText
                    and var size
            )
            {
                throw new StepFailedException(
                    "size",
                    $"the texts of {name} would be {size >> 20:N0} MiB; more than {MostText >> 20} MiB "
                        + "are not read from a workbook",
                    "Save the sheet as CSV."
                );
            }
        }
        catch (InvalidDataException) { }
        finally
        {
            Stream.Position = 0;
        }
    }

    public override IReadOnlyList<string> Names { get; }

    public override long LineOf(long row) => row + 1 + _blank;

    public override bool Read()
    {
        try
        {
            while (_reader.Read())
            {
                // An empty row is no row; many sheets end with some.
                if (Enumerable.Range(0, _reader.FieldCount).Any(i => _reader.GetValue(i) is not null))
                    return true;
                _blank++;
            }
            return false;
        }
        catch (Exception e) when (e is System.Xml.XmlException or InvalidDataException)
        {
            throw new StepFailedException("xlsx", $"{What} is damaged: {e.Message}");
        }
    }

    // A workbook knows days and parts of them: what has no day is a time of day.
    public override object? this[int column] =>
        _reader.GetValue(column) switch
        {
            double d when double.IsInteger(d) && Math.Abs(d) < 1L << 53 => (long)d,
            DateTime { Year: < 1900 } time => TimeOnly.FromDateTime(time),
            var other => Cells.Of(other),
        };

    public override double? Share => _reader.RowCount > 0 ? (double)_reader.Depth / _reader.RowCount : null;

    public override void Dispose()
    {
        _reader.Dispose();
        base.Dispose();
    }
}
