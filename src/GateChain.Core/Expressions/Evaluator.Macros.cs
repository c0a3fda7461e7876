using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

// Macros go through a list or a map; all iterations of an evaluation together have a limit.
sealed partial class Evaluator
{
    /// <summary>Iterations of macros in one evaluation; more is taken for a mistake.</summary>
    const int Budget = 1_000_000;

    int _spent;

    Value Macro(MacroExpr macro, Value range, Local? locals)
    {
        if (range.IsError)
            return range;
        if (range.Kind is not (ValueKind.List or ValueKind.Map))
            return Fail($"{Article.Of(range.KindWord)} can't be gone through", macro.Range);
        return Weigh(
            macro.Kind switch
            {
                MacroKind.All or MacroKind.Exists => Search(macro, range, locals),
                MacroKind.ExistsOne => CountOne(macro, range, locals),
                MacroKind.TransformMap or MacroKind.TransformMapEntry => TransformMap(macro, range, locals),
                MacroKind.SortBy => SortBy(macro, range, locals),
                _ => Collect(macro, range, locals),
            },
            macro
        );
    }

    // With one variable it is the item, or a map's key.
    static IEnumerable<(Value First, Value Second)> ItemsOf(Value range, bool two)
    {
        if (range.Kind == ValueKind.List)
        {
            for (var i = 0; i < range.AsList.Count; i++)
                yield return two ? (Value.Int(i), range.AsList[i]) : (range.AsList[i], default);
        }
        else
        {
            foreach (var (key, value) in range.AsMap.Entries)
                yield return (key, value);
        }
    }

    static Local Variables(MacroExpr macro, (Value First, Value Second) item, Local? locals)
    {
        var local = new Local(macro.Variable, item.First, locals);
        return macro.Second is null ? local : new(macro.Second, item.Second, local);
    }

    bool Spend(MacroExpr macro, out Value tooMuch)
    {
        tooMuch = default;
        if (!Spend(1, macro))
            tooMuch = Value.Error(_ended!);
        else if (++_spent > Budget)
            tooMuch = Fail($"the expression goes through more than {Budget:N0} items", macro);
        else
            return true;
        return false;
    }

    // An error counts only when no other item decides.
    Value Search(MacroExpr macro, Value range, Local? locals)
    {
        var decisive = macro.Kind == MacroKind.Exists;
        Value? error = null;
        foreach (var item in ItemsOf(range, macro.Second is not null))
        {
            if (!Spend(macro, out var tooMuch))
                return tooMuch;
            var value = Bool(macro.Body, Variables(macro, item, locals));
            if (value.IsError)
                error ??= value;
            else if (value.AsBool == decisive)
                return value;
        }
        return error ?? Value.Bool(!decisive);
    }

    Value CountOne(MacroExpr macro, Value range, Local? locals)
    {
        var matches = 0;
        foreach (var item in ItemsOf(range, macro.Second is not null))
        {
            if (!Spend(macro, out var tooMuch))
                return tooMuch;
            var value = Bool(macro.Body, Variables(macro, item, locals));
            if (value.IsError)
                return value;
            matches += value.AsBool ? 1 : 0;
        }
        return Value.Bool(matches == 1);
    }

    // Whether the filter lets the item pass: true, false or an error.
    Value Passes(MacroExpr macro, Local local) => macro.Filter is null ? Value.True : Bool(macro.Filter, local);

    Value Collect(MacroExpr macro, Value range, Local? locals)
    {
        var collected = new List<Value>();
        foreach (var item in ItemsOf(range, macro.Second is not null))
        {
            if (!Spend(macro, out var tooMuch))
                return tooMuch;
            var local = Variables(macro, item, locals);
            var passes = macro.Kind == MacroKind.Filter ? Bool(macro.Body, local) : Passes(macro, local);
            if (passes.IsError)
                return passes;
            if (!passes.AsBool)
                continue;
            var value = macro.Kind == MacroKind.Filter ? item.First : Eval(macro.Body, local);
            if (value.IsError)
                return value;
            collected.Add(value);
        }
        return Value.List(collected);
    }

    Value TransformMap(MacroExpr macro, Value range, Local? locals)
    {
        var entries = new OrderedDictionary<Value, Value>();
        foreach (var item in ItemsOf(range, two: true))
        {
            if (!Spend(macro, out var tooMuch))
                return tooMuch;
            var local = Variables(macro, item, locals);
            var passes = Passes(macro, local);
            if (passes.IsError)
                return passes;
            if (!passes.AsBool)
                continue;
            var value = Eval(macro.Body, local);
            if (value.IsError)
                return value;
            if (macro.Kind == MacroKind.TransformMap)
            {
                entries[item.First] = value;
                continue;
            }
            if (value.Kind != ValueKind.Map)
            {
                return Fail(
                    $"transformMapEntry() makes a map of each item, and this is {Article.Of(value.KindWord)}",
                    macro.Body
                );
            }
            foreach (var (key, entry) in value.AsMap.Entries)
            {
                if (!entries.TryAdd(key, entry))
                    return Fail($"the key {key} stands twice in the map", macro.Body);
            }
        }
        return Value.Map(DictionaryMap.Of(entries));
    }

    Value SortBy(MacroExpr macro, Value range, Local? locals)
    {
        if (range.Kind != ValueKind.List)
            return Fail($"{Article.Of(range.KindWord)} can't be sorted", macro.Range);
        var keys = new List<Value>();
        foreach (var item in range.AsList)
        {
            if (!Spend(macro, out var tooMuch))
                return tooMuch;
            var key = Eval(macro.Body, new(macro.Variable, item, locals));
            if (key.IsError)
                return key;
            keys.Add(key);
        }
        return Spend(Value.List(keys).Size * 2, macro) ? Functions.Sorted(range.AsList, keys) : Value.Error(_ended!);
    }
}
