using System.Runtime.CompilerServices;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>
/// Computes the value of a tree. One instance serves one evaluation. Errors are values here
/// (<see cref="ValueKind.Error"/>), so that <c>&amp;&amp;</c> and <c>||</c> can absorb them as CEL asks.
/// </summary>
/// <remarks>Source: CEL language definition, sections "Evaluation" and "Macros".</remarks>
sealed partial class Evaluator(IBindings names, Dictionary<Expr, Value>? trace = null)
{
    sealed record Local(string Name, Value Value, Local? Outer);

    public Value Run(Expr expr)
    {
        var value = Eval(expr, null);
        // An error can be absorbed on its way out; that nothing more was computed can't.
        return _left >= 0 ? value : Value.Error(_ended!);
    }

    // Longer chains are followed by a loop.
    const int ShortChain = 8;

    Value Eval(Expr expr, Local? locals)
    {
        if (!RuntimeHelpers.TryEnsureSufficientExecutionStack())
            return Fail("the expression is nested too deep", expr);
        if (expr.Left is null)
            return Finish(expr, default, locals);
        if (IsName(expr, locals, out var whole))
            return Traced(expr, whole);
        if (expr.Links <= ShortChain)
            return Finish(expr, Eval(expr.Left, locals), locals);
        var spine = expr.Spine(through: e => !IsName(e, locals, out _));
        var value = spine[^1].Left is null ? Finish(spine[^1], default, locals) : Eval(spine[^1], locals);
        for (var i = spine.Count - 2; i >= 0; i--)
            value = Finish(spine[i], value, locals);
        return value;
    }

    /// <summary>The value of a node whose left part has been computed.</summary>
    Value Finish(Expr expr, Value left, Local? locals)
    {
        if (!Spend(1, expr))
            return Value.Error(_ended!);
        var value = expr switch
        {
            LiteralExpr literal => literal.Value,
            IdentExpr ident => Ident(ident, locals),
            SelectExpr select => Select(select, left),
            CallExpr call => Call(call, left, locals),
            LogicExpr logic => Logic(logic, left, locals),
            ConditionalExpr conditional => Conditional(conditional, locals),
            ListExpr list => List(list, locals),
            MapExpr map => Map(map, locals),
            MacroExpr macro => Macro(macro, left, locals),
            OptionalMapExpr optional => OptionalMap(optional, left, locals),
            BindExpr bind => Bind(bind, locals),
            _ => throw new InvalidOperationException(expr.GetType().Name),
        };
        if (value.IsError)
            value = Value.Error(value.AsError.At(expr.Span.Start, expr.Span.End));

        return Traced(expr, value);
    }

    Value Traced(Expr expr, Value value)
    {
        if (trace is not null)
            trace[expr] = value;
        return value;
    }

    /// <summary>Steps that are left; below zero the evaluation has ended.</summary>
    int _left = names.Bounds.EvaluationSteps;
    int _untilLook = StepsPerLook;
    EvaluationError? _ended;

    // How often somebody who wants the evaluation to end is asked.
    const int StepsPerLook = 4096;

    bool Spend(long steps, Expr by)
    {
        if (_left < 0)
            return false;
        var cost = (int)Math.Min(steps, int.MaxValue / 2);
        if ((_untilLook -= cost) < 0)
        {
            _untilLook = StepsPerLook;
            if (names.Cancel.IsCancellationRequested)
                return End("the expression took too long and was ended");
        }
        return (_left -= cost) >= 0 || End($"the expression takes more than {names.Bounds.EvaluationSteps:N0} steps");

        bool End(string why)
        {
            _left = -1;
            _ended = new(why, by.Span.Start, by.Span.End);
            return false;
        }
    }

    static Value Fail(string message, Expr at) => Value.Error(new(message, at.Span.Start, at.Span.End));

    Value Ident(IdentExpr ident, Local? locals)
    {
        for (var local = ident.Root ? null : locals; local is not null; local = local.Outer)
        {
            if (local.Name == ident.Name)
                return local.Value;
        }
        if (names.TryGet(ident.Name, out var value))
            return value;
        return ident.Name switch
        {
            "null_type" or "type" or "optional_type" => Value.Type(ident.Name),
            _ when CelType.IsWrittenType(ident.Name) => Value.Type(ident.Name),
            _ => Fail($"there is no “{ident.Name}” here", ident),
        };
    }

    // “a.b.c” may be one name, where the environment has names with dots; the longest counts.
    bool IsName(Expr expr, Local? locals, out Value value)
    {
        value = default;
        if (!names.HasDotted || expr is not SelectExpr { Test: false } select)
            return false;
        var (root, path) = DottedName.Of(select);
        if (path is null)
            return false;
        for (var local = root!.Root ? null : locals; local is not null; local = local.Outer)
        {
            if (local.Name == root.Name)
                return false;
        }
        return names.TryGet(path, out value);
    }

    static Value Select(SelectExpr select, Value operand)
    {
        var optional = select.Optional;
        if (operand.Kind == ValueKind.Optional)
        {
            if (!operand.HasValue)
                return select.Test ? Value.False : Value.None;
            operand = operand.Inner;
            optional |= !select.Test;
        }
        if (operand.IsError)
            return operand;
        if (operand.Kind != ValueKind.Map)
            return Fail($"“.{select.Field}” can't be taken from {Article.Of(operand.KindWord)}", select);

        var found = operand.AsMap.TryGet(Value.String(select.Field), out var value);
        if (select.Test)
            return Value.Bool(found);
        if (optional)
            return found ? Value.Some(value) : Value.None;
        return found
            ? value
            : Value.Error(operand.AsMap.Missing(Value.String(select.Field)).At(select.Span.Start, select.Span.End));
    }

    Value Call(CallExpr call, Value left, Local? locals)
    {
        if (left.IsError)
            return left;
        // The left part is the target, or else the first argument.
        var from = call.Target is null ? 1 : 0;
        var arguments = new Value[call.Arguments.Count + 1 - from];
        if (arguments.Length > 0)
            arguments[0] = left;
        for (var i = from; i < call.Arguments.Count; i++)
        {
            var argument = Eval(call.Arguments[i], locals);
            if (argument.IsError)
                return argument;
            arguments[i + 1 - from] = argument;
        }
        return Spend(call.Function.Cost(arguments), call)
            ? Weigh(call.Function.Invoke(arguments, call.Target is not null), call)
            : Value.Error(_ended!);
    }

    // What an evaluation makes of texts and lists has a limit in all, beside that of each value: loops could pile them
    // up.
    Value Weigh(Value made, Expr by)
    {
        if (
            made.Kind
            is not (ValueKind.String or ValueKind.Bytes or ValueKind.List or ValueKind.Map or ValueKind.Optional)
        )
        {
            return made;
        }
        var size = made.Kind switch
        {
            ValueKind.String => made.AsString.Length,
            ValueKind.Bytes => made.AsBytes.Length,
            ValueKind.List => made.AsList.Count * ItemWeight,
            _ => 0,
        };
        if (size > 64 && (_made += size) > MaxMade)
        {
            return Fail(
                $"the expression makes more than {MaxMade:N0} characters in all, an item counted as {ItemWeight}",
                by
            );
        }
        return IsTaken(by) ? made
            : names.Bounds.Refuse(made) is { } why ? Fail($"the value would be too big: {why}", by)
            : made;
    }

    // What is only taken out of another value is as big as it was there.
    static bool IsTaken(Expr by) => by is CallExpr { Function.IsShallow: true };

    const int MaxMade = 20_000_000,
        ItemWeight = 10;
    long _made;

    Value Logic(LogicExpr logic, Value left, Local? locals)
    {
        if (left.Kind == ValueKind.Bool && left.AsBool != logic.IsAnd)
            return left;
        var right = Eval(logic.Right, locals);
        if (right.Kind == ValueKind.Bool && right.AsBool != logic.IsAnd)
            return right;
        if (left.Kind == ValueKind.Bool && right.Kind == ValueKind.Bool)
            return Value.Bool(logic.IsAnd);
        if (left.IsError)
            return left;
        if (right.IsError)
            return right;
        return Fail($"no such overload: {left.KindWord} {(logic.IsAnd ? "&&" : "||")} {right.KindWord}", logic);
    }

    Value Conditional(ConditionalExpr conditional, Local? locals)
    {
        var condition = Eval(conditional.Condition, locals);
        return condition.IsError ? condition
            : condition.Kind != ValueKind.Bool
                ? Fail(
                    $"the condition before “?” is {Article.Of(condition.KindWord)}, not a bool",
                    conditional.Condition
                )
            : Eval(condition.AsBool ? conditional.Then : conditional.Otherwise, locals);
    }

    Value List(ListExpr list, Local? locals)
    {
        var items = new List<Value>(list.Items.Count);
        foreach (var (item, optional) in list.Items)
        {
            var value = Eval(item, locals);
            if (value.IsError)
                return value;
            if (!optional)
                items.Add(value);
            else if (value.Kind != ValueKind.Optional)
                return Fail("an optional stands after “?”", item);
            else if (value.HasValue)
                items.Add(value.Inner);
        }
        return Weigh(Value.List(items), list);
    }

    Value Map(MapExpr map, Local? locals)
    {
        var entries = new OrderedDictionary<Value, Value>(map.Entries.Count);
        foreach (var (keyExpr, valueExpr, optional) in map.Entries)
        {
            var key = Eval(keyExpr, locals);
            if (key.IsError)
                return key;
            if (key.Kind is not (ValueKind.Bool or ValueKind.Int or ValueKind.Uint or ValueKind.String))
                return Fail($"a map's key is a bool, int, uint or string, not {Article.Of(key.KindWord)}", keyExpr);

            var value = Eval(valueExpr, locals);
            if (value.IsError)
                return value;
            if (optional)
            {
                if (value.Kind != ValueKind.Optional)
                    return Fail("an optional stands after “?”", valueExpr);
                if (!value.HasValue)
                    continue;
                value = value.Inner;
            }
            if (!entries.TryAdd(key, value))
                return Fail($"the key {key} stands twice in the map", keyExpr);
        }
        return Weigh(Value.Map(DictionaryMap.Of(entries)), map);
    }

    Value Bind(BindExpr bind, Local? locals)
    {
        var value = Eval(bind.Value, locals);
        return Eval(bind.Body, new(bind.Variable, value, locals));
    }

    Value Bool(Expr expr, Local? locals)
    {
        var value = Eval(expr, locals);
        return value.IsError || value.Kind == ValueKind.Bool
            ? value
            : Fail($"this gives {Article.Of(value.KindWord)}, not a bool", expr);
    }

    Value OptionalMap(OptionalMapExpr map, Value target, Local? locals)
    {
        if (target.IsError)
            return target;
        if (target.Kind != ValueKind.Optional)
            return Fail($"{Article.Of(target.KindWord)} is not an optional", map.Target);
        if (!target.HasValue)
            return target;
        var value = Eval(map.Body, new(map.Variable, target.Inner, locals));
        return value.IsError || map.Flat ? value : Weigh(Value.Some(value), map);
    }
}
