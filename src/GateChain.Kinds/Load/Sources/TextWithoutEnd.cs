namespace GateChain.Kinds.Load.Sources;

/// <summary>A text without its last lines: so many are held back while it is read. Used by one thread.</summary>
/// <param name="text">The whole; disposed of with this.</param>
/// <param name="lines">How many, 1 or more.</param>
sealed class TextWithoutEnd(TextReader text, int lines) : TextReader
{
    readonly Queue<string> _held = new();
    readonly BoundedLines _lines = new(text, BoundedLines.Most);
    string _line = "";
    int _at;
    bool _ended;

    // False when there is nothing left.
    bool Fill()
    {
        while (!_ended && _at >= _line.Length)
        {
            while (_held.Count <= lines)
            {
                if (_lines.Next() is not { } next)
                {
                    _ended = true;
                    break;
                }
                _held.Enqueue(next);
            }
            if (_ended)
                break;
            (_line, _at) = (_held.Dequeue() + "\n", 0);
        }
        return _at < _line.Length;
    }

    public override int Peek() => Fill() ? _line[_at] : -1;

    public override int Read() => Fill() ? _line[_at++] : -1;

    public override int Read(char[] buffer, int index, int count)
    {
        var read = 0;
        while (read < count && Fill())
        {
            var part = Math.Min(count - read, _line.Length - _at);
            _line.CopyTo(_at, buffer, index + read, part);
            (_at, read) = (_at + part, read + part);
        }
        return read;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            _lines.Dispose();
        base.Dispose(disposing);
    }
}
