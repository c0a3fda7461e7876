using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using Sylvan.Data.Csv;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A CSV file: in UTF-8 with a header line, or as its settings say.</summary>
sealed class CsvSource : FileSource
{
    const int MostOfALine = 1 << 24;

    // What no text begins with: otherwise lines that begin with “#” would be passed over.
    const char NoComment = '\uFDD2';

    // What no text has; the reader takes no other sign than one of ASCII.
    const char NoQuote = '\u0001';

    readonly CsvDataReader _reader;
    readonly MarkedText _marks;
    readonly LoadText _rules;
    readonly char _delimiter;
    readonly char? _quote;
    readonly char _escape;
    long _besides;

    public CsvSource(OpenText open)
        : base(open.Name, open.Path)
    {
        _rules = open.From.Text;
        _quote = OpenText.Character("quote", _rules.Quote);
        _escape = OpenText.Character("escape", _rules.Escape) ?? _quote ?? '"';
        _besides = _rules.Skip - (_rules.Header ? 0 : 1);
        try
        {
            (var text, _marks) = open.Decode(open.Unpack(Stream));
            var whole = new TextWithStart(text);
            _delimiter = OpenText.Character("delimiter", open.From.Delimiter) ?? Delimiters.Find(whole.Start, _quote);
            // Quotes are looked at here, so that reading continues behind a line with wrong ones.
            _reader = CsvDataReader.Create(
                whole,
                new CsvDataReaderOptions
                {
                    Delimiter = _delimiter,
                    HasHeaders = _rules.Header,
                    Quote = _quote ?? NoQuote,
                    Escape = _escape,
                    Comment = NoComment,
                    BufferSize = 1 << 16,
                    MaxBufferSize = MostOfALine,
                    ResultSetMode = ResultSetMode.SingleResult,
                    CsvStyle = CsvStyle.Lax,
                }
            );
            Names = NamesOf(_reader);
            if (Names.Any(n => _marks.In(n)))
            {
                throw new StepFailedException(
                    "encoding",
                    $"line {_rules.Skip + 1} of {What} is not {_marks.Name}",
                    $"Nothing was loaded. {_marks.Hint}"
                );
            }
        }
        catch (CsvMissingHeadersException)
        {
            Stream.Dispose();
            throw new StepFailedException(
                "header",
                $"{What} is empty: it has no header line",
                "Nothing was loaded. A guard with a file probe can wait for a file that is larger than nothing."
            );
        }
        catch (CsvRecordTooLargeException)
        {
            Stream.Dispose();
            throw TooLong(1);
        }
        catch (InvalidDataException e)
        {
            Stream.Dispose();
            throw new StepFailedException("csv", $"{What} can't be read: {e.Message}");
        }
        catch
        {
            Stream.Dispose();
            throw;
        }
    }

    IReadOnlyList<string> NamesOf(CsvDataReader reader)
    {
        if (_rules.Names.Count > 0)
            return _rules.Names;
        return _rules.Header
            ? [.. Enumerable.Range(0, reader.FieldCount).Select(i => reader.GetName(i).Trim())]
            : [.. Enumerable.Range(1, reader.FieldCount).Select(i => $"column{i}")];
    }

    public override IReadOnlyList<string> Names { get; }
    public override string RowWord => "line";

    // The header is a line too, and so are those that were passed over.
    public override long LineOf(long row) => row + 1 + _besides;

    public override Reject? Broken => _broken;

    public override string? Hint => _marks.Hint;

    Reject? _broken;

    public override bool Read()
    {
        try
        {
            while (_reader.Read())
            {
                if (IsNoRow())
                {
                    _besides++;
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
        catch (InvalidDataException e)
        {
            throw new StepFailedException("csv", $"{What} can't be read: {e.Message}");
        }
    }

    // A blank line is no row; many files end with one.
    bool IsNoRow() =>
        (_reader.RowFieldCount == 1 && _reader.GetFieldSpan(0).IsEmpty && !IsQuoted(0))
        || (_rules.Comment is { Length: > 0 } comment && _reader.GetRawRecordSpan().StartsWith(comment));

    long Line => LineOf(_reader.RowNumber);

    Reject? WhatIsWrong()
    {
        var line = _reader.GetRawRecordSpan();
        switch (_quote is { } quote ? CsvQuotes.Of(line, _delimiter, quote, _escape) : CsvQuotes.State.Good)
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
            $"{(column < 0 ? "the line" : Names[column])} is not {_marks.Name}: {value}",
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
        if (_quote is not { } quote || line.IndexOf(quote) < 0)
            return false;
        var at = 0;
        for (var field = 0; field < column && at < line.Length; field++)
        {
            if (line[at] != quote)
            {
                at += _reader.GetFieldSpan(field).Length;
            }
            else
            {
                // To the quote that closes it; two of them are one within the text.
                at = CsvQuotes.Close(line, at + 1, quote, _escape);
                if (at < 0)
                    return false;
            }
            // The delimiter.
            at++;
        }
        return at < line.Length && line[at] == quote;
    }

    public override void Dispose()
    {
        _reader.Dispose();
        base.Dispose();
    }
}
