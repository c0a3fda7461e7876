using System.Text;

namespace GateChain.Core.Expressions;

/// <summary>
/// Renames what an expression refers to, through its syntax tree: texts, comments and variables of macros that only
/// look alike stay.
/// </summary>
public static class Renaming
{
    /// <summary>
    /// The expression with <c>root.from</c> as <c>root.to</c>, for example a step or a variable; the rest of the text
    /// is left as it is.
    /// </summary>
    /// <param name="expression">The expression.</param>
    /// <param name="root">The name before the dot: <c>steps</c>, <c>vars</c>, <c>params</c>.</param>
    /// <param name="from">The name that is replaced.</param>
    /// <param name="to">A name that can stand behind a dot.</param>
    public static string Rename(Expression expression, string root, string from, string to)
    {
        var text = new StringBuilder(expression.Text);
        // From the end, so that earlier places stay right.
        foreach (var place in Places(expression, root, from).OrderByDescending(p => p.Start))
            text.Remove(place.Start, place.Length).Insert(place.Start, to);
        return text.ToString();
    }

    /// <summary>Where <c>root.from</c> names it: the places of <c>from</c>.</summary>
    public static IEnumerable<Span> Places(Expression expression, string root, string from)
    {
        var open = new Stack<(Expr Expr, bool Shadowed)>([(expression.Tree, false)]);
        while (open.TryPop(out var next))
        {
            var (expr, shadowed) = next;
            if (
                expr is SelectExpr { Operand: IdentExpr ident } select
                && select.Field == from
                && ident.Name == root
                && (!shadowed || ident.Root)
            )
            {
                yield return select.FieldSpan;
            }
            var hides = Names(expr).Contains(root);
            foreach (var child in Walk.Children(expr))
                open.Push((child, shadowed || (hides && !Outside(expr, child))));
        }
    }

    static IEnumerable<string?> Names(Expr expr) =>
        expr switch
        {
            MacroExpr macro => [macro.Variable, macro.Second],
            OptionalMapExpr map => [map.Variable],
            BindExpr bind => [bind.Variable],
            _ => [],
        };

    // What a macro goes through, and what a name is bound to, is computed outside of it.
    static bool Outside(Expr macro, Expr child) =>
        child
        == macro switch
        {
            MacroExpr m => m.Range,
            OptionalMapExpr m => m.Target,
            BindExpr b => b.Value,
            _ => null,
        };
}
