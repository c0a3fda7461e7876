using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>
/// An expression that has been parsed: its text and its tree. Immutable and safe to share between threads.
/// </summary>
/// <remarks>The language is the Common Expression Language.</remarks>
public sealed class Expression
{
    Expression(string text, Expr tree) => (Text, Tree) = (text, tree);

    public string Text { get; }
    public Expr Tree { get; }

    /// <summary>Reads an expression; never throws. Exactly one of the two results is not null.</summary>
    public static (Expression? Expression, ExpressionProblem? Problem) Parse(string text)
    {
        var (tree, problem) = Parser.Parse(text);
        return tree is null ? (null, problem) : (new(text, tree), null);
    }

    /// <summary>Its value, or a value of kind <see cref="ValueKind.Error"/>; never throws.</summary>
    public Value Evaluate(IBindings names) => new Evaluator(names).Run(Tree);

    /// <summary>Its value and what every part of it gave.</summary>
    public (Value Value, IReadOnlyList<PartValue> Parts) EvaluateExplained(IBindings names)
    {
        var trace = new Dictionary<Expr, Value>();
        var value = new Evaluator(names, trace).Run(Tree);
        return (value, Explanation.Parts(this, trace));
    }

    /// <summary>Its type in a scope, and all mistakes.</summary>
    public (CelType Type, IReadOnlyList<ExpressionProblem> Problems) Check(CelType scope)
    {
        var checker = new Checker(scope);
        return (checker.Check(Tree), checker.Problems);
    }

    public override string ToString() => Text;
}

/// <summary>What a part of an expression gave.</summary>
/// <param name="Text">The part as it stands in the expression.</param>
/// <param name="Start">Its offset there.</param>
/// <param name="Value">Its value as text, cut to 120 characters; null when it was not looked at.</param>
public sealed record PartValue(string Text, int Start, string? Value);
