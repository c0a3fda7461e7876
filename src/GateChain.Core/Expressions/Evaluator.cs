using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>
/// Computes the value of a tree. One instance serves one evaluation. Errors are values here
/// (<see cref="ValueKind.Error"/>), so that <c>&amp;&amp;</c> and <c>||</c> can absorb them as CEL asks.
/// </summary>
/// <remarks>Source: CEL language definition, sections "Evaluation" and "Macros".</remarks>
sealed partial class Evaluator(INames names, Dictionary<Expr, Value>? trace = null)
{
    sealed record Local(string Name, Value Value, Local? Outer);

    public Value Run(Expr expr) => Eval(expr, null);

    Value Eval(Expr expr, Local? locals)
    {
        var value = expr switch
        {
            LiteralExpr literal => literal.Value,
            IdentExpr ident => Ident(ident, locals),
            SelectExpr select => Select(select, locals),
            CallExpr call => Call(call, locals),
            LogicExpr logic => Logic(logic, locals),
            ConditionalExpr conditional => Conditional(conditional, locals),
            ListExpr list => List(list, locals),
            MapExpr map => Map(map, locals),
            MacroExpr macro => Macro(macro, locals),
            OptionalMapExpr optional => OptionalMap(optional, locals),
            BindExpr bind => Bind(bind, locals),
            _ => throw new InvalidOperationException(expr.GetType().Name),
        };
        if (value.IsError)
        {
            value = Value.Error(value.AsError.At(expr.Span.Start, expr.Span.End));
        }
        if (trace is not null) { trace[expr] = value; }
        return value;
    }

    static Value Fail(string message, Expr at) => Value.Error(new(message, at.Span.Start, at.Span.End));

    Value Ident(IdentExpr ident, Local? locals)
    {
        for (var local = ident.Root ? null : locals; local is not null; local = local.Outer)
        {
            if (local.Name == ident.Name) { return local.Value; }
        }
        if (names.TryGet(ident.Name, out var value)) { return value; }
        return ident.Name switch
        {
            "bool" or "int" or "uint" or "double" or "string" or "bytes" or "list" or "map" or "null_type" or "type" or "optional_type" => Value.Type(ident.Name),
            _ => Fail($"there is no “{ident.Name}” here", ident),
        };
    }

    // “a.b.c” may be one name, where the environment has names with dots; the longest counts.
    bool Dotted(SelectExpr select, Local? locals, out Value value)
    {
        value = default;
        var (root, path) = DottedName.Of(select);
        if (path is null) { return false; }
        for (var local = root!.Root ? null : locals; local is not null; local = local.Outer)
        {
            if (local.Name == root.Name) { return false; }
        }
        return names.TryGet(path, out value);
    }

    Value Select(SelectExpr select, Local? locals)
    {
        if (names.HasDotted && !select.Test && Dotted(select, locals, out var whole)) { return whole; }
        var operand = Eval(select.Operand, locals);
        var optional = select.Optional;
        if (operand.Kind == ValueKind.Optional)
        {
            if (!operand.HasValue) { return select.Test ? Value.False : Value.None; }
            operand = operand.Inner;
            optional |= !select.Test;
        }
        if (operand.IsError) { return operand; }
        if (operand.Kind != ValueKind.Map)
        {
            return Fail($"“.{select.Field}” can't be taken from {Article.Of(operand.KindWord)}", select);
        }
        var found = operand.AsMap.TryGet(Value.String(select.Field), out var value);
        if (select.Test) { return Value.Bool(found); }
        if (optional) { return found ? Value.Some(value) : Value.None; }
        return found ? value : Fail($"no such key: {select.Field}", select);
    }

    Value Call(CallExpr call, Local? locals)
    {
        var offset = call.Target is null ? 0 : 1;
        var arguments = new Value[call.Arguments.Count + offset];
        if (call.Target is not null)
        {
            arguments[0] = Eval(call.Target, locals);
            if (arguments[0].IsError) { return arguments[0]; }
        }
        for (var i = 0; i < call.Arguments.Count; i++)
        {
            arguments[i + offset] = Eval(call.Arguments[i], locals);
            if (arguments[i + offset].IsError) { return arguments[i + offset]; }
        }
        return Weigh(call.Function.Invoke(arguments, call.Target is not null), call);
    }

    // What an evaluation makes of texts and lists has a limit in all, beside that of each result: loops could pile them up.
    Value Weigh(Value made, Expr by)
    {
        var size = made.Kind switch { ValueKind.String => made.AsString.Length, ValueKind.Bytes => made.AsBytes.Length, ValueKind.List => made.AsList.Count * ItemWeight, _ => 0 };
        if (size > 64 && (_made += size) > MaxMade) { return Fail($"the expression makes more than {MaxMade:N0} characters in all, an item counted as {ItemWeight}", by); }
        return made;
    }

    const int MaxMade = 20_000_000, ItemWeight = 10;
    long _made;

    Value Logic(LogicExpr logic, Local? locals)
    {
        var left = Eval(logic.Left, locals);
        if (left.Kind == ValueKind.Bool && left.AsBool != logic.IsAnd) { return left; }
        var right = Eval(logic.Right, locals);
        if (right.Kind == ValueKind.Bool && right.AsBool != logic.IsAnd) { return right; }
        if (left.Kind == ValueKind.Bool && right.Kind == ValueKind.Bool) { return Value.Bool(logic.IsAnd); }
        if (left.IsError) { return left; }
        if (right.IsError) { return right; }
        return Fail($"no such overload: {left.KindWord} {(logic.IsAnd ? "&&" : "||")} {right.KindWord}", logic);
    }

    Value Conditional(ConditionalExpr conditional, Local? locals)
    {
        var condition = Eval(conditional.Condition, locals);
        return condition.IsError ? condition
            : condition.Kind != ValueKind.Bool ? Fail($"the condition before “?” is {Article.Of(condition.KindWord)}, not a bool", conditional.Condition)
            : Eval(condition.AsBool ? conditional.Then : conditional.Otherwise, locals);
    }

    Value List(ListExpr list, Local? locals)
    {
        var items = new List<Value>(list.Items.Count);
        foreach (var (item, optional) in list.Items)
        {
            var value = Eval(item, locals);
            if (value.IsError) { return value; }
            if (!optional) { items.Add(value); }
            else if (value.Kind != ValueKind.Optional) { return Fail("behind “?” stands an optional", item); }
            else if (value.HasValue) { items.Add(value.Inner); }
        }
        return Value.List(items);
    }

    Value Map(MapExpr map, Local? locals)
    {
        var entries = new OrderedDictionary<Value, Value>(map.Entries.Count);
        foreach (var (keyExpr, valueExpr, optional) in map.Entries)
        {
            var key = Eval(keyExpr, locals);
            if (key.IsError) { return key; }
            if (key.Kind is not (ValueKind.Bool or ValueKind.Int or ValueKind.Uint or ValueKind.String))
            {
                return Fail($"a map's key is a bool, int, uint or string, not {Article.Of(key.KindWord)}", keyExpr);
            }
            var value = Eval(valueExpr, locals);
            if (value.IsError) { return value; }
            if (optional)
            {
                if (value.Kind != ValueKind.Optional) { return Fail("behind “?” stands an optional", valueExpr); }
                if (!value.HasValue) { continue; }
                value = value.Inner;
            }
            if (!entries.TryAdd(key, value)) { return Fail($"the key {key} stands twice in the map", keyExpr); }
        }
        return Value.Map(DictionaryMap.Of(entries));
    }

    Value Bind(BindExpr bind, Local? locals)
    {
        var value = Eval(bind.Value, locals);
        return Eval(bind.Body, new(bind.Variable, value, locals));
    }

    Value Bool(Expr expr, Local? locals)
    {
        var value = Eval(expr, locals);
        return value.IsError || value.Kind == ValueKind.Bool ? value : Fail($"this gives {Article.Of(value.KindWord)}, not a bool", expr);
    }

    Value OptionalMap(OptionalMapExpr map, Local? locals)
    {
        var target = Eval(map.Target, locals);
        if (target.IsError) { return target; }
        if (target.Kind != ValueKind.Optional) { return Fail($"{Article.Of(target.KindWord)} is not an optional", map.Target); }
        if (!target.HasValue) { return target; }
        var value = Eval(map.Body, new(map.Variable, target.Inner, locals));
        return value.IsError || map.Flat ? value : Value.Some(value);
    }
}
