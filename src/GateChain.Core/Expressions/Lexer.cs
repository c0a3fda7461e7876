using System.Globalization;
using System.Text;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

enum TokenKind
{
    End,
    Ident,
    QuotedIdent,
    Literal,
    Symbol,
    Bad,
}

readonly record struct Token(TokenKind Kind, Span Span, string Text, Value Value = default)
{
    public bool Is(string symbol) => Kind == TokenKind.Symbol && Text == symbol;
}

/// <summary>
/// Splits CEL text into tokens. Never throws: what can't be read becomes a <see cref="TokenKind.Bad"/> token whose text
/// says why.
/// </summary>
/// <remarks>Source: CEL language definition, section "Syntax".</remarks>
/// <param name="text">The text.</param>
/// <param name="from">Where to begin; spans count from the text's own beginning.</param>
sealed class Lexer(string text, int from = 0)
{
    static readonly string[] Symbols =
    [
        "&&",
        "||",
        "==",
        "!=",
        "<=",
        ">=",
        "[?",
        ".?",
        "{",
        "}",
        "[",
        "]",
        "(",
        ")",
        ".",
        ",",
        "?",
        ":",
        "+",
        "-",
        "*",
        "/",
        "%",
        "!",
        "<",
        ">",
    ];

    int _at = from;

    public Token Next()
    {
        SkipSpace();
        if (_at >= text.Length)
            return new(TokenKind.End, new(text.Length, text.Length), "");

        var c = text[_at];
        if (char.IsAsciiDigit(c) || (c == '.' && _at + 1 < text.Length && char.IsAsciiDigit(text[_at + 1])))
            return Number();

        if (c is '"' or '\'' || PrefixedString())
            return StringLiteral();

        if (c == '_' || char.IsAsciiLetter(c))
        {
            var start = _at;
            while (_at < text.Length && (text[_at] == '_' || char.IsAsciiLetterOrDigit(text[_at])))
                _at++;
            var word = text[start.._at];
            var span = new Span(start, _at);
            return word switch
            {
                "true" => new(TokenKind.Literal, span, word, Value.True),
                "false" => new(TokenKind.Literal, span, word, Value.False),
                "null" => new(TokenKind.Literal, span, word, Value.Null),
                _ => new(TokenKind.Ident, span, word),
            };
        }
        if (c == '`')
        {
            var close = text.IndexOf('`', _at + 1);
            if (close > _at + 1)
            {
                var quoted = new Token(TokenKind.QuotedIdent, new(_at, close + 1), text[(_at + 1)..close]);
                _at = close + 1;
                return quoted;
            }
            return Bad("this backtick is not closed", 1);
        }
        foreach (var symbol in Symbols)
        {
            if (string.CompareOrdinal(text, _at, symbol, 0, symbol.Length) == 0)
            {
                _at += symbol.Length;
                return new(TokenKind.Symbol, new(_at - symbol.Length, _at), symbol);
            }
        }
        return Bad(
            c switch
            {
                '=' => "a comparison is written ==",
                '&' => "“and” is written &&",
                '|' => "“or” is written ||",
                _ => "the character “"
                    + $"{(char.IsSurrogate(c) ? text.Substring(_at, Math.Min(2, text.Length - _at)) : c.ToString())}"
                    + "” has no meaning here",
            },
            char.IsHighSurrogate(c) ? 2 : 1
        );
    }

    Token Bad(string message, int length)
    {
        var start = _at;
        _at = Math.Min(text.Length, _at + length);
        return new(TokenKind.Bad, new(start, _at), message);
    }

    void SkipSpace()
    {
        while (_at < text.Length)
        {
            if (text[_at] is ' ' or '\t' or '\n' or '\r' or '\f')
            {
                _at++;
            }
            else if (text[_at] == '/' && _at + 1 < text.Length && text[_at + 1] == '/')
            {
                while (_at < text.Length && text[_at] != '\n')
                    _at++;
            }
            else
            {
                return;
            }
        }
    }

    bool PrefixedString()
    {
        var at = _at;
        while (at < text.Length && at - _at < 2 && text[at] is 'r' or 'R' or 'b' or 'B')
            at++;
        return at > _at && at < text.Length && text[at] is '"' or '\'';
    }

    Token Number()
    {
        var start = _at;
        if (text[_at] == '0' && _at + 1 < text.Length && text[_at + 1] is 'x' or 'X')
        {
            _at += 2;
            var digits = _at;
            while (_at < text.Length && char.IsAsciiHexDigit(text[_at]))
                _at++;
            return Whole(
                start,
                ulong.TryParse(
                    text.AsSpan(digits, _at - digits),
                    NumberStyles.AllowHexSpecifier,
                    CultureInfo.InvariantCulture,
                    out var hex
                ),
                hex
            );
        }
        while (_at < text.Length && char.IsAsciiDigit(text[_at]))
            _at++;
        var real = false;
        if (_at + 1 < text.Length && text[_at] == '.' && char.IsAsciiDigit(text[_at + 1]))
        {
            real = true;
            _at++;
            while (_at < text.Length && char.IsAsciiDigit(text[_at]))
                _at++;
        }
        if (_at < text.Length && text[_at] is 'e' or 'E')
        {
            var back = _at++;
            if (_at < text.Length && text[_at] is '+' or '-')
                _at++;
            if (_at < text.Length && char.IsAsciiDigit(text[_at]))
            {
                real = true;
                while (_at < text.Length && char.IsAsciiDigit(text[_at]))
                    _at++;
            }
            else
            {
                _at = back;
            }
        }
        if (real)
        {
            return new(
                TokenKind.Literal,
                new(start, _at),
                text[start.._at],
                Value.Double(double.Parse(text.AsSpan(start, _at - start), CultureInfo.InvariantCulture))
            );
        }

        return Whole(
            start,
            ulong.TryParse(text.AsSpan(start, _at - start), CultureInfo.InvariantCulture, out var whole),
            whole
        );
    }

    Token Whole(int start, bool fits, ulong number)
    {
        if (_at < text.Length && text[_at] is 'u' or 'U')
        {
            _at++;
            return fits ? new(TokenKind.Literal, new(start, _at), "", Value.Uint(number)) : TooBig(start);
        }
        // 2^63 itself is kept as a uint: the parser turns "-9223372036854775808" into an int.
        return !fits || number > 1UL << 63
            ? TooBig(start)
            : new(
                TokenKind.Literal,
                new(start, _at),
                number == 1UL << 63 ? "min" : "",
                number == 1UL << 63 ? Value.Int(long.MinValue) : Value.Int((long)number)
            );
    }

    Token TooBig(int start) => new(TokenKind.Bad, new(start, _at), "this number is too big for 64 bits");

    Token StringLiteral()
    {
        var start = _at;
        bool raw = false,
            bytes = false;
        while (text[_at] is not ('"' or '\''))
        {
            raw |= text[_at] is 'r' or 'R';
            bytes |= text[_at] is 'b' or 'B';
            _at++;
        }
        var quote = text[_at];
        var triple = _at + 2 < text.Length && text[_at + 1] == quote && text[_at + 2] == quote;
        _at += triple ? 3 : 1;
        var content = new StringBuilder();
        var data = bytes ? new List<byte>() : null;
        while (true)
        {
            if (_at >= text.Length || (!triple && text[_at] is '\n' or '\r'))
                return new(TokenKind.Bad, new(start, _at), "this text is not closed with a quote");

            if (
                text[_at] == quote
                && (!triple || (_at + 2 < text.Length && text[_at + 1] == quote && text[_at + 2] == quote))
            )
            {
                _at += triple ? 3 : 1;
                var span = new Span(start, _at);
                return new(
                    TokenKind.Literal,
                    span,
                    "",
                    bytes ? Value.Bytes([.. data!]) : Value.String(content.ToString())
                );
            }
            if (text[_at] == '\\' && !raw)
            {
                if (!Escape(content, data))
                {
                    return new(
                        TokenKind.Bad,
                        new(_at, Math.Min(text.Length, _at + 2)),
                        "this escape is not one that texts know"
                    );
                }
            }
            else if (data is not null)
            {
                var rune = Rune.GetRuneAt(text, _at);
                data.AddRange(Encoding.UTF8.GetBytes(rune.ToString()));
                _at += rune.Utf16SequenceLength;
            }
            else
            {
                content.Append(text[_at++]);
            }
        }
    }

    bool Escape(StringBuilder content, List<byte>? data)
    {
        if (_at + 1 >= text.Length)
            return false;
        var c = text[_at + 1];
        var simple = c switch
        {
            'a' => '\a',
            'b' => '\b',
            'f' => '\f',
            'n' => '\n',
            'r' => '\r',
            't' => '\t',
            'v' => '\v',
            '\\' or '?' or '"' or '\'' or '`' => c,
            _ => '\0',
        };
        if (simple != '\0')
        {
            _at += 2;
            content.Append(simple);
            data?.Add((byte)simple);
            return true;
        }
        var (length, hex) = c switch
        {
            'x' or 'X' => (2, true),
            'u' => (4, true),
            'U' => (8, true),
            >= '0' and <= '3' => (3, false),
            _ => (0, false),
        };
        var digits = hex ? _at + 2 : _at + 1;
        if (length == 0 || digits + length > text.Length)
            return false;
        uint code = 0;
        for (var i = digits; i < digits + length; i++)
        {
            if (hex ? !char.IsAsciiHexDigit(text[i]) : text[i] is < '0' or > '7')
                return false;
            code =
                code * (hex ? 16u : 8u) + (hex ? (uint)Convert.ToInt32(text[i].ToString(), 16) : (uint)(text[i] - '0'));
        }
        if (data is not null)
        {
            if (code > 255 || c is 'u' or 'U')
                return false;
            data.Add((byte)code);
        }
        else
        {
            if (!Rune.IsValid(code))
                return false;
            content.Append(new Rune(code).ToString());
        }
        _at = digits + length;
        return true;
    }
}
