using GateChain.Core.Expressions;

namespace GateChain.Core.Problems;

/// <summary>Gathers the problems of one file; knows how offsets become lines and columns.</summary>
public sealed class ProblemList(string file, string text)
{
    /// <summary>
    /// The most problems that are told of one file; nobody reads a thousand, and a file may have very many.
    /// </summary>
    public const int Most = 1000;

    readonly List<Problem> _problems = [];
    readonly HashSet<(string Code, int Start, Sentence Message)> _seen = [];
    int _left;
    readonly List<int> _lineStarts = LineStarts(text);

    public string File { get; } = file;

    /// <summary>The step or gate that an offset of the file is in; null when the file has none.</summary>
    internal Func<int, PartPlace?>? Parts { get; set; }

    /// <summary>All problems, in the order of their places.</summary>
    public IReadOnlyList<Problem> Ordered =>
        [
            .. _problems
                .OrderBy(p => p.Line)
                .ThenBy(p => p.Column)
                .ThenBy(p => p.Code, StringComparer.Ordinal)
                .Select(p => p with { Place = Parts?.Invoke(p.Span.Start) }),
            .. Rest(),
        ];

    IEnumerable<Problem> Rest()
    {
        if (_left > 0)
        {
            yield return new(
                ProblemKinds.TooMany,
                File,
                1,
                1,
                $"{_left:N0} more problems are not listed",
                "fix those that are listed first"
            );
        }
    }

    public bool HasErrors => _problems.Exists(p => p.IsError);

    public void Add(ProblemKind kind, Span span, Sentence message, Fix? fix = null)
    {
        if (!_seen.Add((kind.Code, span.Start, message)))
            return;
        // What keeps the chain from running is told in any case.
        if (_problems.Count >= Most && (kind.Severity != Severity.Error || HasErrors))
        {
            _left++;
            return;
        }
        var (line, column) = Position(span.Start);
        _problems.Add(
            new(kind, File, line, column, message, fix?.Text)
            {
                Span = span,
                End = Position(span.End),
                Edit = fix?.Replacement is { } text ? new(span.Start, span.Length, text) : null,
            }
        );
    }

    /// <summary>Takes over problems that were found elsewhere in the same file.</summary>
    public void Take(IEnumerable<Problem> problems) => _problems.AddRange(problems.Except(_problems));

    /// <summary>One-based line and column of an offset; offsets behind the end give the end.</summary>
    public (int Line, int Column) Position(int offset)
    {
        offset = Math.Clamp(offset, 0, text.Length);
        var found = _lineStarts.BinarySearch(offset);
        var line = found >= 0 ? found : ~found - 1;
        var column = 1;
        for (var i = _lineStarts[line]; i < offset; i++)
        {
            if (!char.IsLowSurrogate(text[i]))
                column++;
        }
        return (line + 1, column);
    }

    static List<int> LineStarts(string text)
    {
        var starts = new List<int> { 0 };
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] == '\n')
                starts.Add(i + 1);
        }
        return starts;
    }
}
