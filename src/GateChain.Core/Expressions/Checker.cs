namespace GateChain.Core.Expressions;

/// <summary>Finds the type of a tree and every mistake in it: unknown names, operands that do not fit, wrong argument counts.</summary>
/// <param name="scope">An object type: the names that can be used, with their types.</param>
/// <remarks>Source: CEL language definition, section "Gradual type checking".</remarks>
sealed class Checker(CelType scope)
{
    readonly List<ExpressionProblem> _problems = [];
    readonly Stack<(string Name, CelType Type)> _locals = new();

    public IReadOnlyList<ExpressionProblem> Problems => _problems;

    public CelType Check(Expr expr) => expr switch
    {
        LiteralExpr literal => CelType.Parse(literal.Value.IsNull ? "null_type" : literal.Value.KindWord) ?? CelType.Dyn,
        IdentExpr ident => Ident(ident),
        SelectExpr select => Select(select),
        CallExpr call => Call(call),
        LogicExpr logic => Logic(logic),
        ConditionalExpr conditional => Conditional(conditional),
        ListExpr list => List(list),
        MapExpr map => Map(map),
        MacroExpr macro => Macro(macro),
        OptionalMapExpr optional => OptionalMap(optional),
        _ => throw new InvalidOperationException(expr.GetType().Name),
    };

    CelType Problem(Span span, string message, string? mend = null)
    {
        _problems.Add(new(message, span, mend));
        return CelType.Dyn;
    }

    CelType Ident(IdentExpr ident)
    {
        foreach (var (name, type) in _locals)
        {
            if (name == ident.Name) { return type; }
        }
        if (scope.Fields!.TryGetValue(ident.Name, out var known)) { return known; }
        if (CelType.Parse(ident.Name) is { IsParameter: false }) { return CelType.Type; }
        return Problem(ident.Span, $"there is no “{ident.Name}” here", Nearest.Mend(ident.Name, scope.Fields.Keys.Concat(_locals.Select(l => l.Name))));
    }

    CelType Select(SelectExpr select)
    {
        var operand = Check(select.Operand);
        var optional = select.Optional;
        if (operand.Name == "optional")
        {
            optional = !select.Test;
            operand = operand.Arguments[0];
        }
        CelType type;
        if (operand.Fields is { } fields)
        {
            if (!fields.TryGetValue(select.Field, out var field))
            {
                return operand.IsOpen || select.Test ? Result(CelType.Dyn) : Problem(select.FieldSpan, $"there is no “{select.Field}” in {NameOf(select.Operand)}",
                    Nearest.Mend(select.Field, fields.Keys) ?? (fields.Count is > 0 and <= 12 ? "known here: " + string.Join(", ", fields.Keys) : null));
            }
            type = field;
        }
        else if (operand.Name == "map") { type = operand.Arguments[1]; }
        else if (operand.IsDyn || operand.IsParameter) { type = CelType.Dyn; }
        else { return Problem(select.Span, $"“.{select.Field}” can't be taken from a {operand}"); }
        return Result(type);

        CelType Result(CelType found) => select.Test ? CelType.Bool : optional ? CelType.Optional(found) : found;
    }

    static string NameOf(Expr expr) => expr switch
    {
        IdentExpr ident => ident.Name,
        SelectExpr { Test: false } select => $"{NameOf(select.Operand)}.{select.Field}",
        _ => "it",
    };

    CelType Call(CallExpr call)
    {
        var member = call.Target is not null;
        var arguments = (member ? call.Arguments.Prepend(call.Target!) : call.Arguments).Select(Check).ToList();
        CelType? result = null;
        foreach (var overload in call.Function.Overloads)
        {
            if (overload.IsMember != member || overload.Parameters.Count != arguments.Count) { continue; }
            var bound = new Dictionary<string, CelType>();
            if (overload.Parameters.Zip(arguments).All(p => p.First.Accepts(p.Second, bound)))
            {
                var type = overload.Result.Substitute(bound);
                result = result is null ? type : CelType.Join(result, type);
            }
        }
        if (result is not null) { return result; }
        var counts = call.Function.Overloads.Where(o => o.IsMember == member).Select(o => o.Parameters.Count - (member ? 1 : 0)).Distinct().Order().ToList();
        return counts.Contains(call.Arguments.Count)
            ? Problem(call.Span, Mismatch(call, arguments), ConversionMend(call, arguments))
            : Problem(call.Span, $"{call.Function.Display}() takes {string.Join(" or ", counts)} argument{(counts is [1] ? "" : "s")}, not {call.Arguments.Count}");
    }

    static string Mismatch(CallExpr call, List<CelType> types) => call.Function.Name switch
    {
        "_[_]" or "_[?_]" => $"a {types[0]} can't be indexed with a {types[1]}",
        "@in" => $"“in” can't look for a {types[0]} in a {types[1]}",
        _ when call.Target is not null => $"{call.Function.Name}() of a {types[0]} does not take ({string.Join(", ", types.Skip(1))})",
        _ when !call.Function.Name.StartsWith('_') && !call.Function.Name.EndsWith('_') => $"{call.Function.Name}() does not take ({string.Join(", ", types)})",
        _ when types.Count == 1 => $"“{call.Function.Display}” does not work on a {types[0]}",
        _ => $"“{call.Function.Display}” does not work between {types[0]} and {types[1]}",
    };

    static string? ConversionMend(CallExpr call, List<CelType> types)
    {
        if (types.Count != 2 || call.Target is not null || call.Function.Name is "_[_]" or "_[?_]" or "@in") { return null; }
        return (types[0].Name, types[1].Name) switch
        {
            ("int", "double") or ("double", "int") => "make both the same with double(…) or int(…)",
            ("string", "int" or "double" or "bool" or "timestamp") or ("int" or "double" or "bool" or "timestamp", "string") => "make both text with string(…), or the text a number with int(…) or double(…)",
            _ => null,
        };
    }

    CelType Logic(LogicExpr logic)
    {
        RequireBool(logic.Left, $"“{(logic.IsAnd ? "&&" : "||")}” stands between bools");
        RequireBool(logic.Right, $"“{(logic.IsAnd ? "&&" : "||")}” stands between bools");
        return CelType.Bool;
    }

    void RequireBool(Expr expr, string rule)
    {
        var type = Check(expr);
        if (!CelType.Bool.Accepts(type)) { Problem(expr.Span, $"{rule}, and this is a {type}"); }
    }

    CelType Conditional(ConditionalExpr conditional)
    {
        RequireBool(conditional.Condition, "before “?” stands a bool");
        return CelType.Join(Check(conditional.Then), Check(conditional.Otherwise));
    }

    CelType List(ListExpr list)
    {
        CelType? item = null;
        foreach (var (expr, optional) in list.Items)
        {
            var type = Unwrap(Check(expr), expr, optional);
            item = item is null ? type : CelType.Join(item, type);
        }
        return CelType.List(item ?? CelType.Dyn);
    }

    CelType Map(MapExpr map)
    {
        CelType? key = null, value = null;
        foreach (var (keyExpr, valueExpr, optional) in map.Entries)
        {
            var keyType = Check(keyExpr);
            if (keyType.Name is not ("bool" or "int" or "uint" or "string" or "any")) { Problem(keyExpr.Span, $"a map's key is a bool, int, uint or string, not a {keyType}"); }
            var valueType = Unwrap(Check(valueExpr), valueExpr, optional);
            key = key is null ? keyType : CelType.Join(key, keyType);
            value = value is null ? valueType : CelType.Join(value, valueType);
        }
        return CelType.Map(key ?? CelType.Dyn, value ?? CelType.Dyn);
    }

    CelType Unwrap(CelType type, Expr at, bool optional)
    {
        if (!optional || type.IsDyn) { return type; }
        return type.Name == "optional" ? type.Arguments[0] : Problem(at.Span, $"behind “?” stands an optional, and this is a {type}");
    }

    CelType Macro(MacroExpr macro)
    {
        var range = Check(macro.Range);
        var item = range.Name switch
        {
            "list" or "map" => range.Arguments[0],
            "any" => CelType.Dyn,
            "object" => CelType.String,
            _ => Problem(macro.Range.Span, $"a {range} can't be gone through"),
        };
        _locals.Push((macro.Variable, item));
        if (macro.Filter is not null) { RequireBool(macro.Filter, "the filter of map() is a bool"); }
        CelType body;
        if (macro.Kind == MacroKind.Map)
        {
            body = Check(macro.Body);
        }
        else
        {
            RequireBool(macro.Body, "the condition is a bool");
            body = CelType.Bool;
        }
        _locals.Pop();
        return macro.Kind switch { MacroKind.Map => CelType.List(body), MacroKind.Filter => CelType.List(item), _ => CelType.Bool };
    }

    CelType OptionalMap(OptionalMapExpr map)
    {
        var target = Check(map.Target);
        var inner = target.Name == "optional" ? target.Arguments[0] : target.IsDyn ? CelType.Dyn : Problem(map.Target.Span, $"a {target} is not an optional");
        _locals.Push((map.Variable, inner));
        var body = Check(map.Body);
        _locals.Pop();
        return map.Flat ? body : CelType.Optional(body);
    }
}
