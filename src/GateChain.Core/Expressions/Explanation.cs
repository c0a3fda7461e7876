using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>Tells what the parts of an expression gave, outermost first, literals left out.</summary>
static class Explanation
{
    const int MaxParts = 40;

    public static IReadOnlyList<PartValue> Parts(Expression expression, Dictionary<Expr, Value> trace)
    {
        var parts = new List<PartValue>();
        Add(expression.Tree);
        return parts;

        void Add(Expr expr)
        {
            if (parts.Count >= MaxParts || expr is LiteralExpr) { return; }
            var text = expression.Text[expr.Span.Start..expr.Span.End];
            parts.Add(new(text, expr.Span.Start, trace.TryGetValue(expr, out var value) ? ValueText.Show(value, 120) : null));
            foreach (var child in Children(expr)) { Add(child); }
        }
    }

    // A selection is explained as a whole: nobody wants to read all of "steps" to learn "steps.load.rows_read".
    // The body of a macro has one value per item and is left out.
    static IEnumerable<Expr> Children(Expr expr) => expr switch
    {
        SelectExpr => [],
        MacroExpr macro => [macro.Range],
        OptionalMapExpr optional => [optional.Target],
        BindExpr bind => [bind.Value],
        _ => Walk.Children(expr),
    };
}
