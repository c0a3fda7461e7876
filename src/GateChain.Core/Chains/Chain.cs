using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains;

/// <summary>A chain as its file says it. Immutable once read; safe to share between threads.</summary>
public sealed class Chain
{
    public required string Name { get; init; }
    public string? Title { get; init; }
    public string? Notes { get; init; }
    public required IReadOnlyList<Parameter> Parameters { get; init; }
    public required StepScope Root { get; init; }
    public IReadOnlyList<NamedExpression> Outputs { get; init; } = [];

    /// <summary>Positions on the canvas by step path; absent ones are laid out by the console.</summary>
    public IReadOnlyDictionary<string, (double X, double Y)> Layout { get; init; } = new Dictionary<string, (double, double)>();

    /// <summary>All steps of all scopes, outer before inner.</summary>
    public IEnumerable<Step> AllSteps => Root.AllSteps;
}

/// <summary>A value the starter of a run gives.</summary>
/// <param name="Default">What holds when it is not given; null makes it required.</param>
public sealed record Parameter(string Name, CelType Type, string? Label, Value? Default, Span Span);

/// <summary>A value that steps change.</summary>
/// <param name="Initial">Its value when its scope begins.</param>
public sealed record Variable(string Name, CelType Type, Value Initial, Span Span);

/// <param name="Name">An output's name, or the target of an assignment.</param>
/// <param name="Expression">What gives its value.</param>
/// <param name="Span">Where the name stands.</param>
/// <param name="ExpressionAt">Where the expression stands.</param>
public sealed record NamedExpression(string Name, Expression Expression, Span Span, SourceExpression ExpressionAt);

/// <summary>An expression and how its offsets map to the file.</summary>
public sealed class SourceExpression(Expression expression, Func<Span, Span> place)
{
    public Expression Expression { get; } = expression;
    public Span Place(Span part) => place(part);
    public Span All => place(new(0, Expression.Text.Length));
}

/// <summary>Steps and the gates between them: the whole chain's, a group's, or those of one iteration.</summary>
public sealed class StepScope
{
    public required IReadOnlyList<Step> Steps { get; init; }
    public required IReadOnlyList<Gate> Gates { get; init; }
    public required IReadOnlyList<Variable> Variables { get; init; }

    /// <summary>The container that holds this scope; null for the chain's own.</summary>
    public Step? Owner { get; internal set; }

    public Step? Find(string id) => Steps.FirstOrDefault(s => s.Id == id);

    public IEnumerable<Step> AllSteps => Steps.SelectMany(s => s.Inner is null ? [s] : s.Inner.AllSteps.Prepend(s));
}
