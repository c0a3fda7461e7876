using System.Runtime.CompilerServices;

namespace GateChain.Core.Expressions;

/// <summary>
/// Finds the type of a tree and every mistake in it: unknown names, operands that do not fit, wrong argument counts.
/// </summary>
/// <param name="scope">An object type: the names that can be used, with their types.</param>
/// <param name="functions">Functions of the scope beside those of <see cref="Functions"/>, by name.</param>
/// <remarks>Source: CEL language definition, section "Gradual type checking".</remarks>
sealed class Checker(CelType scope, IReadOnlyDictionary<string, FunctionGroup>? functions = null)
{
    readonly List<ExpressionProblem> _problems = [];
    readonly Stack<(string Name, CelType Type)> _locals = new();
    readonly Unifier _types = new();
    readonly bool _hasDotted = scope.Fields!.Keys.Any(k => k.Contains('.', StringComparison.Ordinal));

    public IReadOnlyList<ExpressionProblem> Problems => _problems;

    /// <summary>The type of a whole tree.</summary>
    public CelType Check(Expr expr) => _types.Resolve(TypeOf(expr), freeAsAny: true);

    // As far as it is known by now: type parameters may still be free. Chains to the left are followed by a loop.
    CelType TypeOf(Expr expr)
    {
        if (!RuntimeHelpers.TryEnsureSufficientExecutionStack())
            return Problem(expr.Span, $"the expression is nested too deep");
        var spine = expr.Spine(through: e => NameOf(e) is null);
        var type = CelType.Dyn;
        for (var i = spine.Count - 1; i >= 0; i--)
            type = _types.Resolve(NameOf(spine[i]) ?? Finish(spine[i], type), freeAsAny: false);
        return type;
    }

    /// <summary>The type of a node whose left part has been looked at.</summary>
    CelType Finish(Expr expr, CelType left) =>
        expr switch
        {
            LiteralExpr literal => CelType.Parse(literal.Value.IsNull ? "null_type" : literal.Value.KindWord)
                ?? CelType.Dyn,
            IdentExpr ident => Ident(ident),
            SelectExpr select => Select(select, left),
            CallExpr call => Call(call, left),
            LogicExpr logic => Logic(logic, left),
            ConditionalExpr conditional => Conditional(conditional),
            ListExpr list => List(list),
            MapExpr map => Map(map),
            MacroExpr macro => Macro(macro, left),
            OptionalMapExpr optional => OptionalMap(optional, left),
            BindExpr bind => Bind(bind),
            _ => throw new InvalidOperationException(expr.GetType().Name),
        };

    // Names with dots come before selections that read the same.
    CelType? NameOf(Expr expr) =>
        _hasDotted
        && expr is SelectExpr { Test: false }
        && DottedName.Of(expr) is ({ } root, { } path)
        && scope.Fields!.TryGetValue(path, out var whole)
        && (root.Root || Local(root.Name) is null)
            ? whole
            : null;

    CelType Problem(Span span, Sentence message, Fix? fix = null)
    {
        _problems.Add(new(message, span, fix));
        return CelType.Dyn;
    }

    CelType Ident(IdentExpr ident)
    {
        if (!ident.Root && Local(ident.Name) is { } local)
            return local;
        if (scope.Fields!.TryGetValue(ident.Name, out var known))
            return known;
        if (ident.Name == "optional_type")
            return CelType.TypeOf(CelType.Optional(CelType.Dyn));
        if (CelType.Parse(ident.Name) is { IsParameter: false } named)
            return CelType.TypeOf(named);
        return Problem(
            ident.Span,
            $"there is no “{ident.Name}” here",
            Nearest.Fix(ident.Name, scope.Fields.Keys.Concat(_locals.Select(l => l.Name)))
        );
    }

    CelType? Local(string name)
    {
        foreach (var (known, type) in _locals)
        {
            if (known == name)
                return type;
        }
        return null;
    }

    CelType Select(SelectExpr select, CelType operand)
    {
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
                return operand.IsOpen || select.Test
                    ? Result(CelType.Dyn)
                    : Problem(
                        select.FieldSpan,
                        $"there is no “{select.Field}” in {Written(select.Operand)}",
                        Nearest.Fix(select.Field, fields.Keys)
                            ?? (fields.Count is > 0 and <= 12 ? "known here: " + string.Join(", ", fields.Keys) : null)
                    );
            }
            type = field;
        }
        else if (operand.Name == "map")
        {
            type = operand.Arguments[1];
        }
        else if (operand.IsDyn || operand.IsParameter)
        {
            // From here on it can be anything.
            _types.Fits(CelType.Dyn, operand);
            type = CelType.Dyn;
        }
        else
        {
            return Problem(select.Span, $"“.{select.Field}” can't be taken from {Article.Of(operand)}");
        }
        return Result(type);

        CelType Result(CelType found) =>
            select.Test ? CelType.Bool
            : optional ? CelType.Optional(found)
            : found;
    }

    static string Written(Expr expr) => DottedName.Of(expr).Path ?? "it";

    CelType Call(CallExpr call, CelType left)
    {
        var member = call.Target is not null;
        List<CelType> arguments = call.Left is null
            ? []
            : [left, .. call.Arguments.Skip(member ? 0 : 1).Select(TypeOf)];
        var function = functions?.GetValueOrDefault(call.Function.Name) ?? call.Function;
        CelType? result = null;
        // Between what is known and what is not, an operator is meant for the numbers that CEL has, unless a decimal
        // stands on one side.
        var withDecimals = call.Function.Name[0] != '_' || arguments.Any(a => a.Name == "decimal");
        foreach (var overload in function.Overloads)
        {
            if (
                overload.IsMember != member
                || overload.Parameters.Count != arguments.Count
                || (!withDecimals && overload.Parameters.Any(p => p.Name == "decimal"))
            )
            {
                continue;
            }
            var types = overload.IsGeneric ? _types.Instantiate(overload.Signature) : overload.Signature;
            if (!_types.Fit(arguments, types, from: 1))
                continue;
            var type = _types.Resolve(types[0], freeAsAny: false);
            result = result is null || result.IsSame(type) ? type : CelType.Dyn;
        }
        if (result is not null)
            return result;
        if (member ? !function.HasMember : !function.HasGlobal)
        {
            return Problem(
                call.NameSpan,
                $"there is no {(member ? "method" : "function")} “{call.Function.Name}”",
                Nearest.Fix(call.Function.Name, member ? Functions.MemberNames : Functions.GlobalNames)
            );
        }

        arguments = [.. arguments.Select(a => _types.Resolve(a, freeAsAny: true))];
        var counts = call
            .Function.Overloads.Where(o => o.IsMember == member)
            .Select(o => o.Parameters.Count - (member ? 1 : 0))
            .Distinct()
            .Order()
            .ToList();
        return counts.Contains(call.Arguments.Count)
            ? Problem(call.Span, Mismatch(call, arguments), ConversionFix(call, arguments))
            : Problem(
                call.Span,
                $"{call.Function.Display}() takes {string.Join(" or ", counts)} argument"
                    + $"{(counts is [1] ? "" : "s")}, not {call.Arguments.Count}"
            );
    }

    static Sentence Mismatch(CallExpr call, List<CelType> types) =>
        call.Function.Name switch
        {
            "_[_]" or "_[?_]" => (Sentence)$"{Article.Of(types[0])} can't be indexed with {Article.Of(types[1])}",
            "@in" => $"“in” can't look for {Article.Of(types[0])} in {Article.Of(types[1])}",
            _ when call.Target is not null =>
                $"{call.Function.Name}() of {Article.Of(types[0])} does not take ({string.Join(", ", types.Skip(1))})",
            _ when !call.Function.Name.StartsWith('_') && !call.Function.Name.EndsWith('_') =>
                $"{call.Function.Name}() does not take ({string.Join(", ", types)})",
            _ when types.Count == 1 => $"“{call.Function.Display}” does not work on {Article.Of(types[0])}",
            _ => $"“{call.Function.Display}” does not work between {types[0]} and {types[1]}",
        };

    static string? ConversionFix(CallExpr call, List<CelType> types)
    {
        if (call.Function.Name == "decimal" && types is [{ Name: "double" }])
        {
            return "a binary number is not exact: write it as a text, decimal('…'), "
                + "or say decimal(string(…)) where its digits are meant";
        }
        if (types.Count != 2 || call.Target is not null || call.Function.Name is "_[_]" or "_[?_]" or "@in")
            return null;
        return (types[0].Name, types[1].Name) switch
        {
            ("decimal", "int" or "uint" or "decimal")
            or ("int" or "uint", "decimal") when call.Function.Name == "_/_" =>
                "say math.divide(…, …, 2), with how many digits after the decimal point",
            ("decimal", "double") or ("double", "decimal") =>
                "a binary number is not exact: write it as decimal('…'), or make the decimal binary with double(…)",
            ("int", "double") or ("double", "int") => "make both the same with double(…) or int(…)",
            ("string", "int" or "double" or "decimal" or "bool" or "timestamp")
            or ("int" or "double" or "decimal" or "bool" or "timestamp", "string") =>
                "make both text with string(…), or the text a number with int(…) or double(…)",
            _ => null,
        };
    }

    CelType Logic(LogicExpr logic, CelType left)
    {
        RequireBool(logic.Left, left, $"“{(logic.IsAnd ? "&&" : "||")}” stands between bools");
        RequireBool(logic.Right, $"“{(logic.IsAnd ? "&&" : "||")}” stands between bools");
        return CelType.Bool;
    }

    void RequireBool(Expr expr, string rule) => RequireBool(expr, TypeOf(expr), rule);

    void RequireBool(Expr expr, CelType type, string rule)
    {
        if (!_types.Fits(type, CelType.Bool))
            Problem(expr.Span, $"{rule}, and this is {Article.Of(_types.Resolve(type, freeAsAny: true))}");
    }

    CelType Conditional(ConditionalExpr conditional)
    {
        RequireBool(conditional.Condition, "before “?” stands a bool");
        return _types.Join(TypeOf(conditional.Then), TypeOf(conditional.Otherwise));
    }

    CelType List(ListExpr list)
    {
        CelType? item = null;
        foreach (var (expr, optional) in list.Items)
        {
            var type = Unwrap(TypeOf(expr), expr, optional);
            item = item is null ? type : _types.Join(_types.Resolve(item, freeAsAny: false), type);
        }
        return CelType.List(item ?? _types.Fresh());
    }

    CelType Map(MapExpr map)
    {
        CelType? key = null,
            value = null;
        foreach (var (keyExpr, valueExpr, optional) in map.Entries)
        {
            var keyType = TypeOf(keyExpr);
            if (!keyType.IsParameter && keyType.Name is not ("bool" or "int" or "uint" or "string" or "any"))
                Problem(keyExpr.Span, $"a map's key is a bool, int, uint or string, not {Article.Of(keyType)}");
            var valueType = Unwrap(TypeOf(valueExpr), valueExpr, optional);
            key = key is null ? keyType : _types.Join(_types.Resolve(key, freeAsAny: false), keyType);
            value = value is null ? valueType : _types.Join(_types.Resolve(value, freeAsAny: false), valueType);
        }
        return CelType.Map(key ?? _types.Fresh(), value ?? _types.Fresh());
    }

    CelType Unwrap(CelType type, Expr at, bool optional)
    {
        if (!optional || type.IsDyn || type.IsParameter)
            return type;
        return type.Name == "optional"
            ? type.Arguments[0]
            : Problem(at.Span, $"an optional stands after “?”, and this is {Article.Of(type)}");
    }

    CelType Macro(MacroExpr macro, CelType range)
    {
        if (range.IsParameter)
            _types.Fits(CelType.Dyn, range);
        var two = macro.Second is not null;
        var (first, second) = range.Name switch
        {
            "list" => two ? (CelType.Int, range.Arguments[0]) : (range.Arguments[0], CelType.Dyn),
            "map" => (range.Arguments[0], range.Arguments[1]),
            "object" => (CelType.String, CelType.Dyn),
            _ when range.IsDyn || range.IsParameter => (CelType.Dyn, CelType.Dyn),
            _ => (Problem(macro.Range.Span, $"{Article.Of(range)} can't be gone through"), CelType.Dyn),
        };
        _locals.Push((macro.Variable, first));
        if (two)
            _locals.Push((macro.Second!, second));
        if (macro.Filter is not null)
            RequireBool(macro.Filter, "the filter of a macro is a bool");
        var type = Result(macro, range, first);
        if (two)
            _locals.Pop();
        _locals.Pop();
        return type;
    }

    CelType Result(MacroExpr macro, CelType range, CelType first)
    {
        switch (macro.Kind)
        {
            case MacroKind.Map or MacroKind.TransformList:
                return CelType.List(TypeOf(macro.Body));
            case MacroKind.TransformMap:
                return CelType.Map(first, TypeOf(macro.Body));
            case MacroKind.TransformMapEntry:
                var body = TypeOf(macro.Body);
                return body.Name == "map" ? body
                    : body.IsDyn || body.IsParameter ? CelType.Map(CelType.Dyn, CelType.Dyn)
                    : Problem(
                        macro.Body.Span,
                        $"transformMapEntry() makes a map of each item, and this is {Article.Of(body)}"
                    );
            case MacroKind.SortBy:
                TypeOf(macro.Body);
                return range;
            default:
                RequireBool(macro.Body, "the condition is a bool");
                return macro.Kind == MacroKind.Filter ? CelType.List(first) : CelType.Bool;
        }
    }

    CelType OptionalMap(OptionalMapExpr map, CelType target)
    {
        var inner =
            target.Name == "optional" ? target.Arguments[0]
            : target.IsDyn || target.IsParameter ? CelType.Dyn
            : Problem(map.Target.Span, $"{Article.Of(target)} is not an optional");
        var body = Inside(map.Variable, inner, map.Body);
        return map.Flat ? body : CelType.Optional(body);
    }

    CelType Bind(BindExpr bind) => Inside(bind.Variable, TypeOf(bind.Value), bind.Body);

    CelType Inside(string variable, CelType type, Expr body)
    {
        _locals.Push((variable, type));
        var result = TypeOf(body);
        _locals.Pop();
        return result;
    }
}
