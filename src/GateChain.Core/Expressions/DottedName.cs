namespace GateChain.Core.Expressions;

/// <summary>Selections that read as one name with dots in it.</summary>
static class DottedName
{
    // Names with dots are short; a longer chain of selections is none.
    const int MaxParts = 32;

    /// <summary>The name and the identifier it begins with; nulls when the expression is something else.</summary>
    public static (IdentExpr? Root, string? Path) Of(Expr expr)
    {
        if (expr.Links >= MaxParts)
            return (null, null);
        var path = "";
        for (var at = expr; ; at = at.Left!)
        {
            switch (at)
            {
                case IdentExpr ident:
                    return (ident, ident.Name + path);
                case SelectExpr { Test: false, Optional: false } select:
                    path = $".{select.Field}{path}";
                    break;
                default:
                    return (null, null);
            }
        }
    }
}
