namespace GateChain.Core.Values;

/// <summary>
/// One immutable value of the expression language. Safe to share between threads.
/// Equality is that of CEL: numbers of different kinds are equal when they denote the same number.
/// </summary>
public readonly struct Value : IEquatable<Value>
{
    readonly ValueKind _kind;
    readonly int _nanos;
    readonly long _bits;
    readonly object? _ref;

    Value(ValueKind kind, long bits = 0, object? reference = null, int nanos = 0) =>
        (_kind, _bits, _ref, _nanos) = (kind, bits, reference, nanos);

    public static Value Null => default;
    public static Value True { get; } = new(ValueKind.Bool, 1);
    public static Value False { get; } = new(ValueKind.Bool);
    public static Value EmptyList { get; } = List([]);
    public static Value EmptyMap { get; } = Map(DictionaryMap.Empty);

    public static Value Bool(bool value) => value ? True : False;

    public static Value Int(long value) => new(ValueKind.Int, value);

    public static Value Uint(ulong value) => new(ValueKind.Uint, unchecked((long)value));

    public static Value Double(double value) => new(ValueKind.Double, BitConverter.DoubleToInt64Bits(value));

    public static Value Decimal(Decimal38 value) => new(ValueKind.Decimal, 0, value);

    public static Value String(string value) => new(ValueKind.String, 0, value);

    public static Value Bytes(byte[] value) => new(ValueKind.Bytes, 0, value);

    public static Value List(IReadOnlyList<Value> items)
    {
        var (size, depth) = (2L, 0);
        for (var i = 0; i < items.Count; i++)
            (size, depth) = (size + items[i].Size + 1, Math.Max(depth, items[i].Depth));
        return new(ValueKind.List, size, items, depth + 1);
    }

    public static Value Map(MapValue map) => new(ValueKind.Map, 0, map);

    public static Value Map(params ReadOnlySpan<(string Key, Value Value)> entries) =>
        new(ValueKind.Map, 0, DictionaryMap.Of(entries));

    public static Value Type(string name) => new(ValueKind.Type, 0, name);

    public static Value Error(EvaluationError error) => new(ValueKind.Error, 0, error);

    /// <summary>An optional that holds <paramref name="value"/>.</summary>
    public static Value Some(Value value) => new(ValueKind.Optional, 1, value, value.Depth + 1);

    /// <summary>The optional that holds nothing.</summary>
    public static Value None => new(ValueKind.Optional);

    /// <summary>
    /// A point in time: whole seconds since 1970-01-01T00:00:00Z and 0 to 999,999,999 nanoseconds after it.
    /// </summary>
    public static Value Timestamp(long seconds, int nanos) => new(ValueKind.Timestamp, seconds, null, nanos);

    public static Value Timestamp(DateTimeOffset at)
    {
        var ticks = at.UtcTicks - DateTimeOffset.UnixEpoch.Ticks;
        var seconds = Math.DivRem(ticks, TimeSpan.TicksPerSecond, out var rest);
        if (rest < 0)
        {
            seconds--;
            rest += TimeSpan.TicksPerSecond;
        }
        return Timestamp(seconds, (int)rest * 100);
    }

    /// <summary>A signed length of time: seconds and nanoseconds of the same sign.</summary>
    public static Value Duration(long seconds, int nanos) => new(ValueKind.Duration, seconds, null, nanos);

    public static Value Duration(TimeSpan span) =>
        Duration(span.Ticks / TimeSpan.TicksPerSecond, (int)(span.Ticks % TimeSpan.TicksPerSecond) * 100);

    public ValueKind Kind => _kind;
    public bool IsNull => _kind == ValueKind.Null;
    public bool IsError => _kind == ValueKind.Error;
    public bool IsTrue => _kind == ValueKind.Bool && _bits != 0;
    public bool AsBool => _bits != 0;
    public long AsInt => _bits;
    public ulong AsUint => unchecked((ulong)_bits);
    public double AsDouble => BitConverter.Int64BitsToDouble(_bits);
    public Decimal38 AsDecimal => (Decimal38)_ref!;
    public string AsString => (string)_ref!;
    public byte[] AsBytes => (byte[])_ref!;
    public IReadOnlyList<Value> AsList => (IReadOnlyList<Value>)_ref!;
    public MapValue AsMap => (MapValue)_ref!;
    public EvaluationError AsError => (EvaluationError)_ref!;
    public bool HasValue => _bits != 0;
    public Value Inner => _ref is Value inner ? inner : Null;

    /// <summary>Whole seconds of a timestamp or a duration.</summary>
    public long Seconds => _bits;

    /// <summary>Nanoseconds beside <see cref="Seconds"/>.</summary>
    public int Nanos => _nanos;

    public DateTimeOffset AsDateTimeOffset =>
        DateTimeOffset.UnixEpoch.AddTicks(_bits * TimeSpan.TicksPerSecond + _nanos / 100);
    public TimeSpan AsTimeSpan => new(_bits * TimeSpan.TicksPerSecond + _nanos / 100);

    /// <summary>
    /// About how many bytes the value has as JSON: a character counts as one, a number as four. Lists and maps know it
    /// without being gone through; what stands in a value twice counts twice.
    /// </summary>
    public long Size =>
        _kind switch
        {
            ValueKind.String or ValueKind.Type => AsString.Length + 2L,
            ValueKind.Bytes => AsBytes.Length * 4L / 3 + 12,
            ValueKind.List => _bits,
            ValueKind.Map => AsMap.Size,
            ValueKind.Optional => Inner.Size + 12,
            ValueKind.Decimal => 40,
            _ => 4,
        };

    /// <summary>How many lists, maps and optionals lie around the innermost value; 0 for a plain value.</summary>
    public int Depth =>
        _kind switch
        {
            ValueKind.List or ValueKind.Optional => _nanos,
            ValueKind.Map => AsMap.Depth,
            _ => 0,
        };

    public bool IsNumber => _kind is ValueKind.Int or ValueKind.Uint or ValueKind.Double or ValueKind.Decimal;

    /// <summary>The number as a double, for a decimal the nearest one; only for numbers.</summary>
    public double ToDouble() =>
        _kind switch
        {
            ValueKind.Int => _bits,
            ValueKind.Uint => AsUint,
            ValueKind.Decimal => AsDecimal.ToDouble(),
            _ => AsDouble,
        };

    /// <summary>
    /// The name CEL gives to the type of this value, for example <c>int</c> or <c>google.protobuf.Timestamp</c>.
    /// </summary>
    public string TypeName =>
        _kind switch
        {
            ValueKind.Null => "null_type",
            ValueKind.Timestamp => "google.protobuf.Timestamp",
            ValueKind.Duration => "google.protobuf.Duration",
            ValueKind.Optional => "optional_type",
            _ => KindWord,
        };

    /// <summary>The word people use for the kind of this value.</summary>
    public string KindWord => _kind.Word();

    public bool Equals(Value other)
    {
        if (_kind != other._kind)
            return IsNumber && other.IsNumber && Numbers.Compare(this, other) == 0;

        return _kind switch
        {
            ValueKind.Null => true,
            ValueKind.Bool or ValueKind.Int or ValueKind.Uint => _bits == other._bits,
            ValueKind.Timestamp or ValueKind.Duration => _bits == other._bits && _nanos == other._nanos,
            ValueKind.Double => AsDouble == other.AsDouble,
            ValueKind.Decimal => AsDecimal.Equals(other.AsDecimal),
            ValueKind.String or ValueKind.Type => string.Equals(
                (string?)_ref,
                (string?)other._ref,
                StringComparison.Ordinal
            ),
            ValueKind.Bytes => AsBytes.AsSpan().SequenceEqual(other.AsBytes),
            ValueKind.List => ListsEqual(AsList, other.AsList),
            ValueKind.Map => AsMap.SameAs(other.AsMap),
            ValueKind.Optional => HasValue == other.HasValue && Inner.Equals(other.Inner),
            _ => ReferenceEquals(_ref, other._ref),
        };
    }

    static bool ListsEqual(IReadOnlyList<Value> a, IReadOnlyList<Value> b)
    {
        if (a.Count != b.Count)
            return false;

        for (var i = 0; i < a.Count; i++)
        {
            if (!a[i].Equals(b[i]))
                return false;
        }
        return true;
    }

    public override bool Equals(object? obj) => obj is Value other && Equals(other);

    public override int GetHashCode() =>
        _kind switch
        {
            ValueKind.Int or ValueKind.Uint or ValueKind.Double or ValueKind.Decimal => ToDouble().GetHashCode(),
            ValueKind.String => string.GetHashCode(AsString, StringComparison.Ordinal),
            ValueKind.List => HashOf(AsList),
            ValueKind.Map => HashOf(AsMap),
            ValueKind.Optional => HasValue ? Inner.GetHashCode() + 1 : 0,
            ValueKind.Bytes => AsBytes.Length,
            _ => HashCode.Combine(_kind, _bits, _nanos),
        };

    static int HashOf(IReadOnlyList<Value> items)
    {
        var hash = new HashCode();
        for (var i = 0; i < items.Count; i++)
            hash.Add(items[i]);
        return hash.ToHashCode();
    }

    // Maps are equal whatever the order of their entries.
    static int HashOf(MapValue map)
    {
        var hash = map.Count;
        foreach (var (key, value) in map.Entries)
            hash = unchecked(hash + HashCode.Combine(key, value));
        return hash;
    }

    public static bool operator ==(Value left, Value right) => left.Equals(right);

    public static bool operator !=(Value left, Value right) => !left.Equals(right);

    /// <summary>The value as people read it; see <see cref="ValueText.Show(Value, int)"/>.</summary>
    public override string ToString() => ValueText.Show(this);
}

/// <summary>Why an evaluation gave no value: a sentence and the place in the expression's text.</summary>
/// <param name="Message">One sentence.</param>
/// <param name="Start">Offset of the part that failed in the expression's text; -1 when it has none.</param>
/// <param name="End">Offset just behind that part.</param>
public sealed record EvaluationError(string Message, int Start = -1, int End = -1)
{
    /// <summary>
    /// Whether something was read that a step did not give; the message says which and why. Such a value counts as
    /// absent where that is allowed.
    /// </summary>
    public bool IsAbsent { get; init; }

    /// <summary>This error at a place, unless it has one already.</summary>
    public EvaluationError At(int start, int end) => Start >= 0 ? this : this with { Start = start, End = end };
}
