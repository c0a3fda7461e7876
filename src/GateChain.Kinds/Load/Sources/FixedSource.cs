using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A file whose lines have fields at fixed places.</summary>
sealed class FixedSource : FileSource
{
    readonly BoundedLines _lines;
    readonly MarkedText _marks;
    readonly LoadText _rules;
    readonly (int At, int Width)[] _places;
    readonly int _from;
    string _text = "";
    long _line;

    /// <exception cref="StepFailedException">Nobody says where fields are.</exception>
    public FixedSource(OpenText open)
        : base(open.Name, open.Path)
    {
        _rules = open.From.Text;
        try
        {
            if (open.From.Widths.Count == 0)
            {
                throw new StepFailedException(
                    "setting",
                    "“widths” has to say where the fields of a line are",
                    "For example: widths: { code: 6, name: 20 }"
                );
            }
            (var text, _marks) = open.Decode(open.Unpack(Stream));
            _lines = new(text, BoundedLines.Most);
        }
        catch
        {
            Stream.Dispose();
            throw;
        }
        Names = [.. open.From.Widths.Keys];
        _places = new (int, int)[Names.Count];
        var at = 0;
        foreach (var (i, width) in open.From.Widths.Values.Index())
        {
            _places[i] = (at, width);
            at += width;
        }
        // A line that ends where its last field could begin is whole: what is blank at the end is often cut off.
        _from = _places[^1].At;
        _line = _rules.Skip;
    }

    public override IReadOnlyList<string> Names { get; }
    public override string RowWord => "line";
    public override Reject? Broken => _broken;
    public override string? Hint => _marks.Hint;

    Reject? _broken;

    public override long LineOf(long row) => _line;

    public override bool Read()
    {
        try
        {
            while (_lines.Next() is { } line)
            {
                _line++;
                if (line.Length == 0 || (_rules.Comment is { Length: > 0 } comment && line.StartsWith(comment)))
                    continue;
                _text = line;
                _broken = WhatIsWrong();
                return true;
            }
            return false;
        }
        catch (InvalidDataException e)
        {
            throw new StepFailedException("fixed", $"line {_line + 1} of {What} can't be read: {e.Message}");
        }
    }

    Reject? WhatIsWrong()
    {
        var end = _places[^1].At + _places[^1].Width;
        return _marks.In(_text) ? new($"the line is not {_marks.Name}", null, Shorten.Text(_marks.Shown(_text), 200))
            : _text.Length < _from
                ? new($"the line has {_text.Length} characters, and its last field begins at {_from + 1}")
            : _text.AsSpan(Math.Min(end, _text.Length)).Trim().Length > 0
                ? new($"the line has {_text.Length} characters, and its fields only {end}")
            : null;
    }

    public override object? this[int column]
    {
        get
        {
            var (at, width) = _places[column];
            if (at >= _text.Length)
                return null;
            var field = _text.AsSpan(at, Math.Min(width, _text.Length - at)).Trim();
            return field.IsEmpty ? null : _marks.Shown(field.ToString());
        }
    }

    public override void Dispose()
    {
        _lines.Dispose();
        base.Dispose();
    }
}
