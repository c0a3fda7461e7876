namespace GateChain.Core.Expressions;

/// <summary>Selections that read as one name with dots in it.</summary>
static class DottedName
{
    /// <summary>The name and the identifier it begins with; nulls when the expression is something else.</summary>
    public static (IdentExpr? Root, string? Path) Of(Expr expr) => expr switch
    {
        IdentExpr ident => (ident, ident.Name),
        SelectExpr { Test: false, Optional: false } select when Of(select.Operand) is ({ } root, { } path) => (root, $"{path}.{select.Field}"),
        _ => (null, null),
    };
}
