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
            if (parts.Count >= MaxParts || expr is LiteralExpr)
                return;
            var text = expression.Text[expr.Span.Start..expr.Span.End];
            parts.Add(
                new(text, expr.Span.Start, trace.TryGetValue(expr, out var value) ? ValueText.Show(value, 120) : null)
            );
            foreach (var child in Children(expr))
                Add(child);
        }
    }

    static IEnumerable<Expr> Operands(LogicExpr logic, bool isAnd)
    {
        var operands = new Stack<Expr>();
        Expr at = logic;
        for (; at is LogicExpr inner && inner.IsAnd == isAnd; at = inner.Left)
            operands.Push(inner.Right);
        operands.Push(at);
        return operands;
    }

    // A selection is explained as a whole: nobody wants to read all of "steps" to learn "steps.load.rows_read".
    // The body of a macro has one value per item and is left out.
    static IEnumerable<Expr> Children(Expr expr) =>
        expr switch
        {
            SelectExpr => [],
            // Of a && b && c, the parts are a, b and c; nobody wants to read every beginning of it.
            LogicExpr logic => Operands(logic, logic.IsAnd),
            MacroExpr macro => [macro.Range],
            OptionalMapExpr optional => [optional.Target],
            BindExpr bind => [bind.Value],
            _ => Walk.Children(expr),
        };
}
