using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>
/// Why an expression did not give what is needed, in words: with the expression, and the values it read.
/// </summary>
static class ExpressionExplanation
{
    /// <summary>For example <c>division by zero in “10 / vars.n &gt; 1” (vars.n = 0)</c>.</summary>
    /// <param name="expression">What was computed.</param>
    /// <param name="names">What it saw.</param>
    /// <param name="value">What it gave: an error, or a value of another type.</param>
    /// <param name="needed">The type that is needed.</param>
    public static string Of(Expression expression, IBindings names, Value value, string needed = "bool") =>
        Of(expression, expression.EvaluateExplained(names).Parts, value, needed);

    /// <param name="parts">What its parts gave.</param>
    public static string Of(
        Expression expression,
        IReadOnlyList<PartValue> parts,
        Value value,
        string needed = "bool"
    ) =>
        $"{(value.IsError ? value.AsError.Message : $"it gives {Article.Of(value.KindWord)}, not a {needed},")}"
        + $" in “{Shorten.Text(expression.Text, 200)}”{WhyGate.Values(parts)}";
}
