using System.Diagnostics.CodeAnalysis;

namespace GateChain.Core.Values;

/// <summary>
/// A read-only map of values. Derived maps may look their entries up lazily
/// (the outputs of steps are read from the run's state this way).
/// </summary>
public abstract class MapValue
{
    public abstract int Count { get; }

    public abstract bool TryGet(Value key, out Value value);

    /// <summary>Entries in insertion order.</summary>
    public abstract IEnumerable<KeyValuePair<Value, Value>> Entries { get; }

    /// <summary>
    /// See <see cref="Value.Size"/>. Found by going through the entries, unless a derived map knows better.
    /// </summary>
    internal virtual long Size => SizeOf(Entries);

    /// <summary>See <see cref="Value.Depth"/>.</summary>
    internal virtual int Depth => DepthOf(Entries);

    private protected static long SizeOf(IEnumerable<KeyValuePair<Value, Value>> entries) =>
        2 + entries.Sum(e => e.Key.Size + e.Value.Size + 2);

    private protected static int DepthOf(IEnumerable<KeyValuePair<Value, Value>> entries) =>
        1 + entries.Select(e => e.Value.Depth).DefaultIfEmpty().Max();

    /// <summary>Why there is nothing under a key, where the map knows more than that; null when it does not.</summary>
    internal virtual EvaluationError? WhyMissing(Value key) => null;

    /// <summary>The error of reading a key that is not there.</summary>
    internal EvaluationError Missing(Value key) =>
        WhyMissing(key) ?? new($"no such key: {ValueText.ToPlainString(key)}");

    public Value? Find(string key) => TryGet(Value.String(key), out var value) ? value : null;

    internal bool SameAs(MapValue other)
    {
        if (ReferenceEquals(this, other))
            return true;

        if (Count != other.Count)
            return false;

        foreach (var (key, value) in Entries)
        {
            if (!other.TryGet(key, out var theirs) || !value.Equals(theirs))
                return false;
        }
        return true;
    }
}

/// <summary>The ordinary map: keys are bool, int, uint or string, in insertion order.</summary>
public sealed class DictionaryMap : MapValue
{
    readonly OrderedDictionary<Value, Value> _entries;

    readonly long _size;
    readonly int _depth;

    DictionaryMap(OrderedDictionary<Value, Value> entries)
    {
        _entries = entries;
        _size = 2;
        foreach (var (key, value) in entries)
            (_size, _depth) = (_size + key.Size + value.Size + 2, Math.Max(_depth, value.Depth));
    }

    internal override long Size => _size;
    internal override int Depth => _depth + 1;

    public static DictionaryMap Empty { get; } = new([]);

    public static DictionaryMap Of(params ReadOnlySpan<(string Key, Value Value)> entries)
    {
        var map = new OrderedDictionary<Value, Value>(entries.Length);
        foreach (var (key, value) in entries)
            map[Value.String(key)] = value;

        return new(map);
    }

    public static DictionaryMap Of(IEnumerable<KeyValuePair<Value, Value>> entries)
    {
        var map = new OrderedDictionary<Value, Value>();
        foreach (var (key, value) in entries)
            map[key] = value;

        return new(map);
    }

    public static DictionaryMap Of(IEnumerable<KeyValuePair<string, Value>> entries) =>
        Of(entries.Select(e => KeyValuePair.Create(Value.String(e.Key), e.Value)));

    public override int Count => _entries.Count;

    public override bool TryGet(Value key, [MaybeNullWhen(false)] out Value value) =>
        _entries.TryGetValue(key, out value);

    public override IEnumerable<KeyValuePair<Value, Value>> Entries => _entries;
}
