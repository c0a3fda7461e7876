namespace GateChain.Kinds.Load.Sources;

/// <summary>A text whose beginning can be looked at before it is read. Used by one thread.</summary>
sealed class TextWithStart : TextReader
{
    const int Most = 1 << 16;

    readonly TextReader _rest;
    readonly char[] _start = new char[Most];
    readonly int _length;
    int _at;

    /// <param name="text">The text; disposed of with this.</param>
    public TextWithStart(TextReader text) => (_rest, _length) = (text, text.ReadBlock(_start, 0, Most));

    /// <summary>Its first 65,536 characters, or all of them.</summary>
    public ReadOnlySpan<char> Start => _start.AsSpan(0, _length);

    public override int Peek() => _at < _length ? _start[_at] : _rest.Peek();

    public override int Read() => _at < _length ? _start[_at++] : _rest.Read();

    public override int Read(Span<char> buffer)
    {
        if (_at == _length)
            return _rest.Read(buffer);
        var count = Math.Min(buffer.Length, _length - _at);
        _start.AsSpan(_at, count).CopyTo(buffer);
        _at += count;
        return count;
    }

    public override int Read(char[] buffer, int index, int count) => Read(buffer.AsSpan(index, count));

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            _rest.Dispose();
        base.Dispose(disposing);
    }
}
