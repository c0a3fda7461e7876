using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Problems;

/// <summary>How bad a problem is. Only errors keep a chain from running.</summary>
public enum Severity
{
    Hint,
    Warning,
    Error,
}

/// <summary>What a problem says about a step, for programs that show it there.</summary>
public enum ProblemMeaning
{
    /// <summary>The step can never run.</summary>
    NeverRuns,
}

/// <summary>A kind of problem: the catalogue's entry, apart from its occurrences.</summary>
/// <param name="Code">Stable, for example <c>GC1204</c>.</param>
/// <param name="Severity">How bad it is.</param>
/// <param name="Title">What this kind of problem is, in a few words.</param>
/// <param name="Help">What to do about it.</param>
public sealed record ProblemKind(string Code, Severity Severity, string Title, string Help)
{
    /// <summary>What it says about the step it is told of, for programs; null for nothing in particular.</summary>
    public ProblemMeaning? Means { get; init; }

    /// <summary>Where the docs tell of it, with an example.</summary>
    public string Docs => $"docs/problems.md#{Code.ToLowerInvariant()}";
}

/// <summary>One problem at one place. Line and column are one-based.</summary>
/// <param name="Kind">The catalogue's entry.</param>
/// <param name="File">The file as the user named it.</param>
/// <param name="Line">One-based line.</param>
/// <param name="Column">One-based column, counted in characters.</param>
/// <param name="Said">One sentence that says what is wrong.</param>
/// <param name="Fix">What would put it right, where that is known.</param>
public sealed record Problem(ProblemKind Kind, string File, int Line, int Column, Sentence Said, string? Fix)
{
    /// <summary>One sentence that says what is wrong.</summary>
    public string Message => Said.ToString();

    /// <summary>What of the file it is about: offsets in UTF-16 code units. Empty for a point.</summary>
    public Span Span { get; init; }

    /// <summary>One-based line and column behind its last character.</summary>
    public (int Line, int Column) End { get; init; } = (Line, Column);

    /// <summary>The step or gate that it is in; null for the chain itself, and for files that are no chain.</summary>
    public PartPlace? Place { get; init; }

    /// <summary>The fix as a change of the file, where one change does it.</summary>
    public TextEdit? Edit { get; init; }

    public string Code => Kind.Code;
    public bool IsError => Kind.Severity == Severity.Error;

    /// <summary><c>file:line:col: error GC1204: sentence (fix)</c></summary>
    public override string ToString() =>
        $"{File}:{Line}:{Column}: {Kind.Severity.Word()} {Code}: {Message}{(Fix is null ? "" : $" ({Fix})")}";
}

/// <summary>A change of a text: some characters are replaced.</summary>
/// <param name="Start">Offset of the first one, in UTF-16 code units.</param>
/// <param name="Length">How many are replaced; 0 puts text in.</param>
/// <param name="Text">What stands there then.</param>
public sealed record TextEdit(int Start, int Length, string Text);
