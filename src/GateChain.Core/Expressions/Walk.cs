namespace GateChain.Core.Expressions;

/// <summary>Goes through syntax trees.</summary>
public static class Walk
{
    /// <summary>The direct children of a node, in the order of the text.</summary>
    public static IEnumerable<Expr> Children(Expr expr) =>
        expr switch
        {
            SelectExpr select => [select.Operand],
            CallExpr call => call.Target is null ? call.Arguments : call.Arguments.Prepend(call.Target),
            LogicExpr logic => [logic.Left, logic.Right],
            ConditionalExpr conditional => [conditional.Condition, conditional.Then, conditional.Otherwise],
            ListExpr list => list.Items.Select(i => i.Item),
            MapExpr map => map.Entries.SelectMany(e => new[] { e.Key, e.Value }),
            MacroExpr macro => macro.Filter is null
                ? [macro.Range, macro.Body]
                : [macro.Range, macro.Filter, macro.Body],
            OptionalMapExpr optional => [optional.Target, optional.Body],
            BindExpr bind => [bind.Value, bind.Body],
            _ => [],
        };

    /// <summary>A node and all below it, in the order of the text.</summary>
    public static IEnumerable<Expr> All(Expr expr)
    {
        var open = new Stack<Expr>([expr]);
        while (open.TryPop(out var next))
        {
            yield return next;
            foreach (var child in Children(next).Reverse())
                open.Push(child);
        }
    }
}
