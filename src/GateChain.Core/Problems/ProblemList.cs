using GateChain.Core.Expressions;

namespace GateChain.Core.Problems;

/// <summary>Gathers the problems of one file; knows how offsets become lines and columns.</summary>
public sealed class ProblemList(string file, string text)
{
    readonly List<Problem> _problems = [];
    readonly List<int> _lineStarts = LineStarts(text);

    public string File { get; } = file;

    /// <summary>All problems, in the order of their places.</summary>
    public IReadOnlyList<Problem> Ordered => [.. _problems.OrderBy(p => p.Line).ThenBy(p => p.Column).ThenBy(p => p.Code, StringComparer.Ordinal)];

    public bool HasErrors => _problems.Exists(p => p.IsError);

    public void Add(ProblemKind kind, Span span, string message, Mend? mend = null)
    {
        var (line, column) = Position(span.Start);
        var problem = new Problem(kind, File, line, column, message, mend?.Text) { Edit = mend?.Replacement is { } text ? new(span.Start, span.Length, text) : null };
        if (!_problems.Contains(problem)) { _problems.Add(problem); }
    }

    /// <summary>Takes over problems that were found elsewhere in the same file.</summary>
    public void Take(IEnumerable<Problem> problems) => _problems.AddRange(problems.Where(p => !_problems.Contains(p)));

    /// <summary>One-based line and column of an offset; offsets behind the end give the end.</summary>
    public (int Line, int Column) Position(int offset)
    {
        offset = Math.Clamp(offset, 0, text.Length);
        var found = _lineStarts.BinarySearch(offset);
        var line = found >= 0 ? found : ~found - 1;
        var column = 1;
        for (var i = _lineStarts[line]; i < offset; i++)
        {
            if (!char.IsLowSurrogate(text[i])) { column++; }
        }
        return (line + 1, column);
    }

    static List<int> LineStarts(string text)
    {
        var starts = new List<int> { 0 };
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] == '\n') { starts.Add(i + 1); }
        }
        return starts;
    }
}
