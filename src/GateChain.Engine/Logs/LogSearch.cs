using System.Buffers;
using System.Text;

namespace GateChain.Engine.Logs;

/// <summary>A line that was looked for.</summary>
/// <param name="At">Where it begins, in bytes.</param>
/// <param name="Line">The line with its time and level; at most 2,000 characters of it.</param>
public sealed record LogHit(long At, string Line);

/// <summary>Lines that were found.</summary>
/// <param name="Hits">In the order of the log.</param>
/// <param name="Next">Where to continue; <paramref name="Size"/> when all of the log was looked through.</param>
/// <param name="Size">How many bytes the log had.</param>
public sealed record LogHits(IReadOnlyList<LogHit> Hits, long Next, long Size);

/// <summary>What is looked for in a log. Immutable.</summary>
/// <param name="Text">What a line holds behind its time and level, whatever the case of its letters; empty for any.
/// </param>
/// <param name="Level">Of which level it is: <c>out</c>, <c>err</c> or <c>note</c>; null for any.</param>
/// <param name="From">Where to begin, in bytes: where a line begins.</param>
/// <param name="Limit">How many lines at most.</param>
public sealed record LogSearch(string Text, string? Level, long From, int Limit)
{
    /// <summary>How much is looked through in one go, in bytes: whoever waits sees what is there by then.</summary>
    const long Stretch = 16 << 20;

    const int MostOfLine = 2_000;

    // 2026-11-22T02:30:01.123Z err  text
    const int LevelAt = 25;
    const int TextAt = 30;

    /// <summary>Looks through a part of a log.</summary>
    /// <param name="log">The log; read from <see cref="From"/> on.</param>
    /// <param name="cancel">Ends it early.</param>
    /// <exception cref="OperationCanceledException">It was ended.</exception>
    public LogHits Find(Stream log, CancellationToken cancel)
    {
        var size = log.Length;
        var at = Math.Clamp(From, 0, size);
        log.Seek(at, SeekOrigin.Begin);
        var hits = new List<LogHit>();
        var buffer = ArrayPool<byte>.Shared.Rent(1 << 20);
        var chars = ArrayPool<char>.Shared.Rent(buffer.Length);
        try
        {
            var (filled, end, level) = (0, Math.Min(size, at + Stretch), "out");
            while (true)
            {
                cancel.ThrowIfCancellationRequested();
                var read = log.Read(buffer, filled, (int)Math.Min(buffer.Length - filled, size - at - filled));
                filled += read;
                var used = 0;
                while (used < filled)
                {
                    var length = buffer.AsSpan(used, filled - used).IndexOf((byte)'\n');
                    // A line without an end is one when nothing more comes, or no more fits.
                    if (length < 0 && read > 0 && (used > 0 || filled < buffer.Length))
                        break;
                    var whole = length < 0 ? filled - used : length + 1;
                    if (Matches(buffer.AsSpan(used, length < 0 ? whole : length), chars, ref level, out var line))
                        hits.Add(new(at, line[..Math.Min(line.Length, MostOfLine)].ToString()));
                    (used, at) = (used + whole, at + whole);
                    if (hits.Count >= Limit || at >= end)
                        return new(hits, at, size);
                }
                if (read == 0)
                    return new(hits, size, size);
                buffer.AsSpan(used, filled - used).CopyTo(buffer);
                filled -= used;
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
            ArrayPool<char>.Shared.Return(chars);
        }
    }

    bool Matches(ReadOnlySpan<byte> bytes, char[] chars, ref string level, out ReadOnlySpan<char> line)
    {
        line = chars.AsSpan(0, Encoding.UTF8.GetChars(bytes, chars));
        var text = line;
        if (line.Length >= TextAt && line[10] == 'T' && line[LevelAt - 2] == 'Z')
        {
            // A line without a level continues the one before.
            level = line[LevelAt] switch
            {
                'e' => "err",
                'n' => "note",
                _ => "out",
            };
            text = line[TextAt..];
        }
        return (Level is null || Level == level) && text.Contains(Text, StringComparison.OrdinalIgnoreCase);
    }
}
