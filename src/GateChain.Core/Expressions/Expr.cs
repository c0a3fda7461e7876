using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>A half-open range of offsets in a text: <c>Start</c> is in it, <c>End</c> is just behind it.</summary>
public readonly record struct Span(int Start, int End)
{
    public int Length => End - Start;

    public Span To(Span other) => new(Start, other.End);

    public Span Shift(int by) => new(Start + by, End + by);
}

/// <summary>One node of an expression's syntax tree. Immutable.</summary>
/// <remarks>
/// Operators, selections and calls lean to the left: <c>a + b + c</c> is a chain of nodes, each the <see cref="Left"/>
/// of the next. Chains can be thousands of nodes long, so whoever goes through a tree follows them by a loop;
/// everything else nests 200 levels deep at most, which the parser ensures, and is followed by recursion.
/// </remarks>
public abstract class Expr
{
    private protected Expr(Span span, Expr? left = null) =>
        (Span, Left, Links) = (span, left, left is null ? 0 : left.Links + 1);

    /// <summary>Where the node stands in the expression's text.</summary>
    public Span Span { get; }

    /// <summary>The part that this node begins with and that is computed first; null when there is none.</summary>
    public Expr? Left { get; }

    /// <summary>How many nodes follow each other by <see cref="Left"/> below this one.</summary>
    internal int Links { get; }

    /// <summary>The chain from here down by <see cref="Left"/>: this node first, the innermost last.</summary>
    /// <param name="through">Whether to continue below a node; null for always.</param>
    internal List<Expr> Spine(Func<Expr, bool>? through = null)
    {
        var spine = new List<Expr>(Links + 1) { this };
        for (var at = this; at.Left is { } left && (through is null || through(at)); at = left)
            spine.Add(left);
        return spine;
    }
}

public sealed class LiteralExpr(Span span, Value value) : Expr(span)
{
    public Value Value { get; } = value;
}

/// <summary>A name; with a dot before it (<paramref name="root"/>) it never means a macro's variable.</summary>
public sealed class IdentExpr(Span span, string name, bool root = false) : Expr(span)
{
    public string Name { get; } = name;
    public bool Root { get; } = root;
}

/// <summary>
/// <c>operand.field</c>; with <see cref="Test"/> it is <c>has(operand.field)</c>, with <see cref="Optional"/>
/// <c>operand.?field</c>.
/// </summary>
public sealed class SelectExpr(
    Span span,
    Expr operand,
    string field,
    Span fieldSpan,
    bool test = false,
    bool optional = false
) : Expr(span, operand)
{
    public Expr Operand => Left!;
    public string Field { get; } = field;
    public Span FieldSpan { get; } = fieldSpan;
    public bool Test { get; } = test;
    public bool Optional { get; } = optional;
}

/// <summary>
/// A call of a function or an operator; operators bear CEL's names such as <c>_+_</c> and <c>_[_]</c>.
/// </summary>
public sealed class CallExpr(
    Span span,
    FunctionGroup function,
    Expr? target,
    IReadOnlyList<Expr> arguments,
    Span nameSpan
) : Expr(span, target ?? (arguments.Count > 0 ? arguments[0] : null))
{
    /// <summary>Where the function's name, or the operator's sign, stands.</summary>
    public Span NameSpan { get; } = nameSpan;

    public FunctionGroup Function { get; } = function;
    public Expr? Target { get; } = target;
    public IReadOnlyList<Expr> Arguments { get; } = arguments;
}

/// <summary><c>a &amp;&amp; b</c> or <c>a || b</c>.</summary>
public sealed class LogicExpr(Span span, bool isAnd, Expr left, Expr right) : Expr(span, left)
{
    public bool IsAnd { get; } = isAnd;
    public new Expr Left => base.Left!;
    public Expr Right { get; } = right;
}

/// <summary><c>condition ? then : otherwise</c>.</summary>
public sealed class ConditionalExpr(Span span, Expr condition, Expr then, Expr otherwise) : Expr(span)
{
    public Expr Condition { get; } = condition;
    public Expr Then { get; } = then;
    public Expr Otherwise { get; } = otherwise;
}

public sealed class ListExpr(Span span, IReadOnlyList<(Expr Item, bool Optional)> items) : Expr(span)
{
    public IReadOnlyList<(Expr Item, bool Optional)> Items { get; } = items;
}

public sealed class MapExpr(Span span, IReadOnlyList<(Expr Key, Expr Value, bool Optional)> entries) : Expr(span)
{
    public IReadOnlyList<(Expr Key, Expr Value, bool Optional)> Entries { get; } = entries;
}

public enum MacroKind
{
    All,
    Exists,
    ExistsOne,
    Map,
    Filter,
    TransformList,
    TransformMap,
    TransformMapEntry,
    SortBy,
}

/// <summary>
/// <c>range.all(x, …)</c> and its like. With two variables the first is the index of a list or the key of a map, the
/// second what stands there. <see cref="Filter"/> is the middle argument of <c>map</c> and of the transformations.
/// </summary>
public sealed class MacroExpr(
    Span span,
    MacroKind kind,
    Expr range,
    string variable,
    string? second,
    Expr? filter,
    Expr body
) : Expr(span, range)
{
    public MacroKind Kind { get; } = kind;
    public Expr Range => Left!;
    public string Variable { get; } = variable;
    public string? Second { get; } = second;
    public Expr? Filter { get; } = filter;
    public Expr Body { get; } = body;
}

/// <summary><c>target.optMap(x, …)</c> (wraps the result) and <c>target.optFlatMap(x, …)</c> (does not).</summary>
public sealed class OptionalMapExpr(Span span, bool flat, Expr target, string variable, Expr body) : Expr(span, target)
{
    public bool Flat { get; } = flat;
    public Expr Target => Left!;
    public string Variable { get; } = variable;
    public Expr Body { get; } = body;
}

/// <summary><c>cel.bind(name, value, body)</c>: computes a value once and gives it a name in the body.</summary>
public sealed class BindExpr(Span span, string variable, Expr value, Expr body) : Expr(span)
{
    public string Variable { get; } = variable;
    public Expr Value { get; } = value;
    public Expr Body { get; } = body;
}

/// <summary>A mistake in an expression: one sentence, its place, and the fix where there is one.</summary>
public sealed record ExpressionProblem(Sentence Said, Span Span, Fix? Fix = null)
{
    /// <summary>One sentence that says what is wrong.</summary>
    public string Message => Said.ToString();
}
