using System.Text;
using GateChain.Kinds.Contract;
using Sylvan.Data.Csv;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A CSV file in UTF-8 with a header line.</summary>
sealed class CsvSource : FileSource
{
    // Bytes that are no UTF-8 are told, never replaced by a sign.
    static readonly UTF8Encoding Strict = new(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true);

    const int MostOfALine = 1 << 24;

    readonly CsvDataReader _reader;
    long _blank;

    public CsvSource(string name, string path, string? delimiter) : base(name, path)
    {
        try
        {
            _reader = CsvDataReader.Create(new StreamReader(Stream, Strict, detectEncodingFromByteOrderMarks: true), new CsvDataReaderOptions
            {
                Delimiter = delimiter is { Length: > 0 } ? delimiter[0] : null, BufferSize = 1 << 16, MaxBufferSize = MostOfALine, ResultSetMode = ResultSetMode.SingleResult,
            });
        }
        catch (DecoderFallbackException)
        {
            Stream.Dispose();
            throw NotUtf8();
        }
        catch (CsvMissingHeadersException)
        {
            Stream.Dispose();
            throw new StepFailedException("header", $"{name} is empty: it has no header line", "Nothing was loaded. A guard with a file probe can wait for a file that is larger than nothing.");
        }
        catch (CsvRecordTooLargeException)
        {
            Stream.Dispose();
            throw TooLong(1);
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

    // The header is a line too, and so are blank ones.
    public override long LineOf(long row) => row + 1 + _blank;

    public override bool Read()
    {
        try
        {
            while (_reader.Read())
            {
                // A blank line is no row; many files end with one.
                if (_reader.RowFieldCount == 1 && _reader.GetFieldSpan(0).IsEmpty && !IsQuoted(0)) { _blank++; continue; }
                return true;
            }
            return false;
        }
        catch (CsvRecordTooLargeException) { throw TooLong(_reader.RowNumber + 1 + _blank); }
        catch (CsvFormatException e) { throw new StepFailedException("csv", $"line {e.RowNumber + 1} of {What} can't be read: {e.Message}"); }
        catch (DecoderFallbackException) { throw NotUtf8(); }
    }

    StepFailedException TooLong(long line) => new("csv", $"line {line} of {What} has more than {MostOfALine >> 20} Mi characters", "Nothing was loaded. A quote that is not closed makes one line of all that follow.");

    // Found again from the start: the reader is further than the line at hand.
    StepFailedException NotUtf8()
    {
        using var file = new FileStream(Path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete, 1 << 16);
        var (line, current) = (1L, new List<byte>());
        for (int b; (b = file.ReadByte()) >= 0;)
        {
            if (b != '\n') { current.Add((byte)b); continue; }
            if (!System.Text.Unicode.Utf8.IsValid(System.Runtime.InteropServices.CollectionsMarshal.AsSpan(current))) { break; }
            current.Clear();
            line++;
        }
        return new("encoding", $"line {line} of {What} is not UTF-8", "Nothing was loaded. Have the file written in UTF-8, or convert it first: iconv -f WINDOWS-1252 -t UTF-8.");
    }

    public override int FieldCount => _reader.RowFieldCount;

    // A field with nothing in it is nothing; one of two quotes is an empty text.
    public override object? this[int column] => _reader.GetFieldSpan(column) is { IsEmpty: false } ? _reader.GetString(column) : IsQuoted(column) ? "" : null;

    // Only asked for empty fields: whether they stand as “""” in the line.
    bool IsQuoted(int column)
    {
        var line = _reader.GetRawRecordSpan();
        if (line.IndexOf('"') < 0) { return false; }
        var at = 0;
        for (var field = 0; field < column && at < line.Length; field++)
        {
            if (line[at] != '"') { at += _reader.GetFieldSpan(field).Length; }
            else
            {
                // To the quote that closes it; two of them are one within the text.
                for (at++; at < line.Length && (line[at] != '"' || (at + 1 < line.Length && line[at + 1] == '"')); at++) { if (line[at] == '"') { at++; } }
                at++;
            }
            // The delimiter.
            at++;
        }
        return at < line.Length && line[at] == '"';
    }

    public override void Dispose()
    {
        _reader.Dispose();
        base.Dispose();
    }
}
