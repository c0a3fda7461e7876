using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <remarks>Source: CEL lists extension.</remarks>
public static partial class Functions
{
    static void AddLists()
    {
        Add("list<A>.distinct() -> list<A>", a => Value.List([.. a[0].AsList.Distinct()]));
        Add("list<list<A>>.flatten() -> list<A>", a => Flatten(a[0].AsList, 1));
        Add("list<any>.flatten(int) -> list<any>", a =>
            a[1].AsInt < 0 ? Fail("flatten() goes down by 0 levels or more") : Flatten(a[0].AsList, a[1].AsInt)
        );
        Add("list<A>.reverse() -> list<A>", a => Value.List([.. a[0].AsList.Reverse()]));
        Add("list<A>.first() -> optional<A>", a => a[0].AsList.Count == 0 ? Value.None : Value.Some(a[0].AsList[0]));
        Add("list<A>.last() -> optional<A>", a => a[0].AsList.Count == 0 ? Value.None : Value.Some(a[0].AsList[^1]));
        Add("list<A>.slice(int, int) -> list<A>", a =>
            a[1].AsInt < 0 || a[2].AsInt > a[0].AsList.Count || a[1].AsInt > a[2].AsInt
                ? Fail($"from {a[1]} to {a[2]} is not a part of a list of {a[0].AsList.Count}")
                : Value.List([.. a[0].AsList.Skip((int)a[1].AsInt).Take((int)(a[2].AsInt - a[1].AsInt))])
        );
        Add("list<A>.sort() -> list<A>", a => Sorted(a[0].AsList, a[0].AsList));
        Add("lists.range(int) -> list<int>", a =>
            a[0].AsInt > MaxItems
                ? TooBig()
                : Value.List([.. Enumerable.Range(0, (int)Math.Max(0, a[0].AsInt)).Select(i => Value.Int(i))])
        );
    }

    static Value Flatten(IReadOnlyList<Value> list, long levels)
    {
        var flat = new List<Value>();
        return Add(list, levels) ? Value.List(flat) : TooBig();

        bool Add(IReadOnlyList<Value> items, long left)
        {
            foreach (var item in items)
            {
                if (flat.Count > MaxItems)
                    return false;
                if (left > 0 && item.Kind == ValueKind.List)
                {
                    if (!Add(item.AsList, left - 1))
                        return false;
                }
                else
                {
                    flat.Add(item);
                }
            }
            return true;
        }
    }

    /// <summary>
    /// The items in the order of their keys, which must be of one kind that has an order; equal keys keep the items'
    /// order.
    /// </summary>
    internal static Value Sorted(IReadOnlyList<Value> items, IReadOnlyList<Value> keys)
    {
        foreach (var key in keys)
        {
            if (
                key.Kind
                is not (
                    ValueKind.Bool
                    or ValueKind.Int
                    or ValueKind.Uint
                    or ValueKind.Double
                    or ValueKind.Decimal
                    or ValueKind.String
                    or ValueKind.Bytes
                    or ValueKind.Timestamp
                    or ValueKind.Duration
                )
            )
            {
                return Fail($"{Article.Of(key.KindWord)} has no order");
            }

            if (key.Kind != keys[0].Kind)
            {
                return Fail(
                    $"{Article.Of(keys[0].KindWord)} and {Article.Of(key.KindWord)} have no order between them"
                );
            }
        }
        return Value.List([
            .. Enumerable
                .Range(0, items.Count)
                .Order(
                    Comparer<int>.Create(
                        (x, y) => (Order(keys[x], keys[y]) ?? 0) is not 0 and var order ? order : x.CompareTo(y)
                    )
                )
                .Select(i => items[i]),
        ]);
    }
}
