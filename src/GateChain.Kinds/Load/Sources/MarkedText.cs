using System.Text;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// The text of a file: UTF-8, or UTF-16 with the mark that says so. Bytes that are no text become a sign that no text
/// has, so that the rows with it are found, and reading continues behind them. Used by one thread.
/// </summary>
sealed class MarkedText : DecoderFallback
{
    // A noncharacter of Unicode: for use within programs, never in texts that are passed on.
    const char Mark = '\uFDD1';

    readonly string _encoding;
    bool _seen;

    MarkedText(string encoding) => _encoding = encoding;

    /// <summary>What it is read as, as people write it.</summary>
    public string Name => _encoding == "utf-8" ? "UTF-8" : _encoding;

    /// <summary>The text, and what was not text in it.</summary>
    /// <param name="file">At its beginning.</param>
    /// <param name="encoding">What it is said to be in; null for UTF-8, or what its mark says.</param>
    public static (StreamReader Text, MarkedText Marks) Open(Stream file, Encoding? encoding = null)
    {
        var begin = new byte[2];
        var read = file.ReadAtLeast(begin, 2, throwOnEndOfStream: false);
        if (file.CanSeek)
            file.Position = 0;
        else
            file = new Begun(begin[..read], file);
        var name =
            read == 2 && begin is [0xFF, 0xFE] ? "utf-16"
            : read == 2 && begin is [0xFE, 0xFF] ? "utf-16BE"
            : encoding?.WebName ?? "utf-8";
        var marks = new MarkedText(name);
        return (
            new(
                file,
                Encoding.GetEncoding(name, EncoderFallback.ExceptionFallback, marks),
                detectEncodingFromByteOrderMarks: false,
                1 << 16
            ),
            marks
        );
    }

    // A stream whose first bytes have been looked at.
    sealed class Begun(byte[] first, Stream rest) : ReadStream
    {
        int _given;

        public override int Read(Span<byte> buffer)
        {
            if (_given == first.Length)
                return rest.Read(buffer);
            var count = Math.Min(buffer.Length, first.Length - _given);
            first.AsSpan(_given, count).CopyTo(buffer);
            _given += count;
            return count;
        }

        protected override void Dispose(bool disposing)
        {
            if (disposing)
                rest.Dispose();
            base.Dispose(disposing);
        }
    }

    /// <summary>Whether some of a text was none.</summary>
    public bool In(ReadOnlySpan<char> text) => _seen && text.Contains(Mark);

    /// <summary>The text as it can be shown.</summary>
    public string Shown(string text) => _seen ? text.Replace(Mark, '\uFFFD') : text;

    /// <summary>What to do about it.</summary>
    public string? Hint => _seen ? $"What is not {Name} may be read with: text: {{ encoding: windows-1252 }}." : null;

    public override int MaxCharCount => 1;

    public override DecoderFallbackBuffer CreateFallbackBuffer() => new Marking(this);

    sealed class Marking(MarkedText marks) : DecoderFallbackBuffer
    {
        bool _given = true;

        public override bool Fallback(byte[] bytesUnknown, int index)
        {
            marks._seen = true;
            _given = false;
            return true;
        }

        public override char GetNextChar()
        {
            if (_given)
                return '\0';
            _given = true;
            return Mark;
        }

        public override bool MovePrevious() => false;

        public override int Remaining => _given ? 0 : 1;

        public override void Reset() => _given = true;
    }
}
