using System.Globalization;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Conformance;

/// <summary>
/// Writes a tree as the reference parser does, without blanks: operators as functions, macros expanded, long rows of
/// <c>&amp;&amp;</c> and <c>||</c> balanced.
/// </summary>
static class AstText
{
    public static string Of(Expr expr) =>
        expr switch
        {
            LiteralExpr literal => Literal(literal.Value),
            IdentExpr ident => (ident.Root ? "." : "") + ident.Name,
            SelectExpr select => $"{Of(select.Operand)}.{select.Field}{(select.Test ? "~test-only~" : "")}",
            CallExpr { Target: { } target } call =>
                $"{Of(target)}.{call.Function.Name}({Row(call.Arguments.Select(Of))})",
            CallExpr call => $"{call.Function.Name}({Row(call.Arguments.Select(Of))})",
            LogicExpr logic => Balanced(logic.IsAnd ? "_&&_" : "_||_", [.. Terms(logic, logic.IsAnd)]),
            ConditionalExpr conditional =>
                $"_?_:_({Of(conditional.Condition)},{Of(conditional.Then)},{Of(conditional.Otherwise)})",
            ListExpr list => $"[{Row(list.Items.Select(i => (i.Optional ? "?" : "") + Of(i.Item)))}]",
            MapExpr map => $"{{{Row(map.Entries.Select(e => $"{(e.Optional ? "?" : "")}{Of(e.Key)}:{Of(e.Value)}"))}}}",
            MacroExpr macro => Macro(macro),
            _ => expr.GetType().Name,
        };

    static string Row(IEnumerable<string> parts) => string.Join(",", parts);

    static string Literal(Value value) =>
        value.Kind switch
        {
            ValueKind.String => WithoutBlanks(
                Expression
                    .Parse("strings.quote(s)")
                    .Expression!.Evaluate(new DictionaryBindings(new Dictionary<string, Value> { ["s"] = value }))
                    .AsString
            ),
            ValueKind.Bytes => $"b\"{System.Text.Encoding.UTF8.GetString(value.AsBytes)}\"",
            ValueKind.Uint => value.AsUint.ToString(CultureInfo.InvariantCulture) + "u",
            ValueKind.Null => "null",
            _ => ValueText.ToPlainString(value),
        };

    public static string WithoutBlanks(string text) => string.Concat(text.Where(c => !char.IsWhiteSpace(c)));

    static IEnumerable<Expr> Terms(Expr expr, bool and) =>
        expr is LogicExpr logic && logic.IsAnd == and ? Terms(logic.Left, and).Append(logic.Right) : [expr];

    static string Balanced(string name, IReadOnlyList<Expr> terms)
    {
        if (terms.Count == 1)
            return Of(terms[0]);
        var left = terms.Count / 2 + terms.Count % 2;
        return $"{name}({Balanced(name, [.. terms.Take(left)])},{Balanced(name, [.. terms.Skip(left)])})";
    }

    static string Macro(MacroExpr macro)
    {
        const string result = "@result";
        var body = Of(macro.Body);
        string If(string condition, string then) => $"_?_:_({condition},{then},{result})";
        string Collect(string item) => $"_+_({result},[{item}])";
        var (init, condition, step, end) = macro.Kind switch
        {
            MacroKind.All => ("true", $"@not_strictly_false({result})", $"_&&_({result},{body})", result),
            MacroKind.Exists => ("false", $"@not_strictly_false(!_({result}))", $"_||_({result},{body})", result),
            MacroKind.ExistsOne => ("0", "true", If(body, $"_+_({result},1)"), $"_==_({result},1)"),
            MacroKind.Filter => ("[]", "true", If(body, Collect(macro.Variable)), result),
            _ => ("[]", "true", macro.Filter is null ? Collect(body) : If(Of(macro.Filter), Collect(body)), result),
        };
        return $"__comprehension__(//Variable{macro.Variable},//Target{Of(macro.Range)},//Accumulator{result}"
            + $",//Init{init},//LoopCondition{condition},//LoopStep{step},//Result{end})";
    }
}
