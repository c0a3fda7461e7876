using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using Sylvan.Data.Csv;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A CSV file in UTF-8 with a header line.</summary>
sealed class CsvSource : FileSource
{
    const int MostOfALine = 1 << 24;

    readonly CsvDataReader _reader;
    readonly MarkedText _marks;
    readonly char _delimiter;
    long _blank;

    public CsvSource(string name, string path, string? delimiter)
        : base(name, path)
    {
        try
        {
            (var text, _marks) = MarkedText.Open(Stream);
            // Quotes are looked at here, so that reading continues behind a line with wrong ones.
            _reader = CsvDataReader.Create(
                text,
                new CsvDataReaderOptions
                {
                    Delimiter = delimiter is { Length: > 0 } ? delimiter[0] : null,
                    BufferSize = 1 << 16,
                    MaxBufferSize = MostOfALine,
                    ResultSetMode = ResultSetMode.SingleResult,
                    CsvStyle = CsvStyle.Lax,
                }
            );
            Names = [.. Enumerable.Range(0, _reader.FieldCount).Select(i => _reader.GetName(i).Trim())];
            _delimiter = delimiter is { Length: > 0 }
                ? delimiter[0]
                : Delimiter(path, Names.Count > 0 ? _reader.GetName(0) : "");
            if (Names.Any(n => _marks.In(n)))
            {
                throw new StepFailedException(
                    "encoding",
                    $"line 1 of {What} is not UTF-8",
                    $"Nothing was loaded. {_marks.Hint}"
                );
            }
        }
        catch (CsvMissingHeadersException)
        {
            Stream.Dispose();
            throw new StepFailedException(
                "header",
                $"{name} is empty: it has no header line",
                "Nothing was loaded. A guard with a file probe can wait for a file that is larger than nothing."
            );
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
    }

    // What stands behind the first name; the library finds it, and tells nobody.
    static char Delimiter(string path, string first)
    {
        using var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
        using var text = MarkedText.Open(file).Text;
        var header = (text.ReadLine() ?? "").TrimStart('\uFEFF');
        var at = header.StartsWith('"') ? header.IndexOf('"', 1) + 1 : first.Length;
        return at > 0 && at < header.Length && !char.IsLetterOrDigit(header[at]) ? header[at] : ',';
    }

    public override IReadOnlyList<string> Names { get; }
    public override string RowWord => "line";

    // The header is a line too, and so are blank ones.
    public override long LineOf(long row) => row + 1 + _blank;

    public override Reject? Broken => _broken;

    public override string? Hint => _marks.Hint;

    Reject? _broken;

    public override bool Read()
    {
        try
        {
            while (_reader.Read())
            {
                // A blank line is no row; many files end with one.
                if (_reader.RowFieldCount == 1 && _reader.GetFieldSpan(0).IsEmpty && !IsQuoted(0))
                {
                    _blank++;
                    continue;
                }
                _broken = WhatIsWrong();
                return true;
            }
            return false;
        }
        catch (CsvRecordTooLargeException)
        {
            throw TooLong(Line);
        }
        catch (CsvFormatException e)
        {
            throw new StepFailedException("csv", $"line {e.RowNumber + 1} of {What} can't be read: {e.Message}");
        }
    }

    long Line => LineOf(_reader.RowNumber);

    Reject? WhatIsWrong()
    {
        var line = _reader.GetRawRecordSpan();
        switch (CsvQuotes.Of(line, _delimiter))
        {
            case CsvQuotes.State.NotClosed:
                throw new StepFailedException(
                    "csv",
                    $"line {Line} of {What} has a quote that is not closed",
                    "Nothing was loaded. All that follows would be one field."
                );
            case CsvQuotes.State.TextBehind:
                return new("something follows a quote that closes a field", null, Raw(line));
        }
        if (!_marks.In(line))
            return null;
        var column = Enumerable
            .Range(0, Math.Min(FieldCount, Names.Count))
            .FirstOrDefault(i => _marks.In(_reader.GetFieldSpan(i)), -1);
        var value = column < 0 ? Raw(line) : Shorten.Text((string)this[column]!, 200);
        return new(
            $"{(column < 0 ? "the line" : Names[column])} is not UTF-8: {value}",
            column < 0 ? null : Names[column],
            value
        );
    }

    string Raw(ReadOnlySpan<char> line) =>
        Shorten.Text(_marks.Shown(line[..Math.Min(line.Length, 400)].TrimEnd("\r\n").ToString()), 200);

    StepFailedException TooLong(long line) =>
        new(
            "csv",
            $"line {line} of {What} has more than {MostOfALine >> 20} Mi characters",
            "Nothing was loaded. A quote that is not closed makes one line of all that follow."
        );

    public override int FieldCount => _reader.RowFieldCount;

    // A field with nothing in it is nothing; one of two quotes is an empty text.
    public override object? this[int column] =>
        _reader.GetFieldSpan(column) is { IsEmpty: false } ? _marks.Shown(_reader.GetString(column))
        : IsQuoted(column) ? ""
        : null;

    // Only asked for empty fields: whether they stand as “""” in the line.
    bool IsQuoted(int column)
    {
        var line = _reader.GetRawRecordSpan();
        if (line.IndexOf('"') < 0)
            return false;
        var at = 0;
        for (var field = 0; field < column && at < line.Length; field++)
        {
            if (line[at] != '"')
            {
                at += _reader.GetFieldSpan(field).Length;
            }
            else
            {
                // To the quote that closes it; two of them are one within the text.
                for (at++; at < line.Length && (line[at] != '"' || (at + 1 < line.Length && line[at + 1] == '"')); at++)
                {
                    if (line[at] == '"')
                        at++;
                }
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
