using System.Buffers;
using System.Text;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// Reads lines of text, none of them longer than a bound: a file without line ends must not fill the memory. Not
/// thread-safe.
/// </summary>
/// <param name="reader">The text; disposed of with this.</param>
/// <param name="most">The most characters of a line.</param>
sealed class BoundedLines(TextReader reader, int most) : IDisposable
{
    /// <summary>The usual bound, in characters.</summary>
    public const int Most = 16 << 20;

    readonly char[] _buffer = ArrayPool<char>.Shared.Rent(1 << 15);
    readonly StringBuilder _begun = new();
    int _at,
        _end;

    /// <summary>The next line without its end; null when there is none.</summary>
    /// <exception cref="InvalidDataException">It is longer than the bound. Reading goes no further.</exception>
    public string? Next()
    {
        while (true)
        {
            if (_at == _end)
            {
                (_at, _end) = (0, reader.Read(_buffer, 0, _buffer.Length));
                if (_end == 0)
                    return _begun.Length > 0 ? Take([]) : null;
            }
            var rest = _buffer.AsSpan(_at, _end - _at);
            var end = rest.IndexOf('\n');
            if (_begun.Length + (end < 0 ? rest.Length : end) > most)
                throw new InvalidDataException($"a line has more than {most >> 20} Mi characters");
            if (end < 0)
            {
                _begun.Append(rest);
                _at = _end;
                continue;
            }
            _at += end + 1;
            return Take(rest[..end]);
        }
    }

    string Take(ReadOnlySpan<char> rest)
    {
        string line;
        if (_begun.Length == 0)
        {
            line = rest.TrimEnd('\r').ToString();
        }
        else
        {
            line = _begun.Append(rest).ToString().TrimEnd('\r');
            _begun.Clear();
        }
        return line;
    }

    public void Dispose()
    {
        ArrayPool<char>.Shared.Return(_buffer);
        reader.Dispose();
    }
}
