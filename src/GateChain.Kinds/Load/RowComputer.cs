using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load;

/// <summary>Computes columns that are expressions over the row at hand. Used by one thread.</summary>
sealed class RowComputer(RowSource source, IReadOnlyDictionary<string, Value> bind, NumberRule rule) : IBindings
{
    readonly Value _row = Value.Map(new RowMap(source, rule));
    readonly Value _bind = Value.Map(DictionaryMap.Of(bind));

    /// <summary>The expression of a column.</summary>
    /// <exception cref="StepFailedException">It can't be read.</exception>
    public static Expression Read(string column, string text)
    {
        var (expression, problem) = Expression.Parse(text);
        return expression
            ?? throw new StepFailedException("setting", $"the value of column “{column}”: {problem!.Message}");
    }

    /// <summary>The columns of the source that an expression names plainly.</summary>
    public static IEnumerable<string> Reads(Expression expression) =>
        Walk.All(expression.Tree)
            .OfType<SelectExpr>()
            .Where(s => s.Operand is IdentExpr { Name: "row" })
            .Select(s => s.Field);

    public bool HasDotted => false;

    public bool TryGet(string name, out Value value)
    {
        value = name switch
        {
            "row" => _row,
            "bind" => _bind,
            _ => default,
        };
        return name is "row" or "bind";
    }

    /// <summary>Its value as rows have it, or the reason why there is none.</summary>
    public (object? Value, string? Reason) Compute(Expression expression)
    {
        var value = expression.Evaluate(this);
        if (value.Kind == ValueKind.Optional)
            value = value.Inner;
        return value.Kind switch
        {
            ValueKind.Error => (null, value.AsError.Message),
            ValueKind.Null => (null, null),
            ValueKind.Bool => (value.AsBool, null),
            ValueKind.Int => (value.AsInt, null),
            ValueKind.Double => (value.AsDouble, null),
            ValueKind.Decimal => (ExactNumber.Read(value.AsDecimal.ToString()), null),
            ValueKind.Timestamp => (value.AsDateTimeOffset.UtcDateTime, null),
            ValueKind.Bytes => (value.AsBytes, null),
            _ => (ValueText.ToPlainString(value), null),
        };
    }

    /// <summary>The row at hand: looked up as it is asked for.</summary>
    sealed class RowMap(RowSource source, NumberRule rule) : MapValue
    {
        readonly Dictionary<string, int> _columns = source
            .Names.Select((n, i) => (n, i))
            .GroupBy(c => c.n)
            .ToDictionary(g => g.Key, g => g.First().i);

        public override int Count => _columns.Count;

        public override bool TryGet(Value key, out Value value)
        {
            value = default;
            if (key.Kind != ValueKind.String || !_columns.TryGetValue(key.AsString, out var column))
                return false;
            value = Of(column);
            return true;
        }

        public override IEnumerable<KeyValuePair<Value, Value>> Entries =>
            _columns.Select(c => KeyValuePair.Create(Value.String(c.Key), Of(c.Value)));

        Value Of(int column) =>
            column >= source.FieldCount
                ? Value.Null
                : source[column] switch
                {
                    null => Value.Null,
                    string text => Value.String(text),
                    var other => Dialect.FromColumn(other, rule),
                };
    }
}
