using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>All overloads of one function name.</summary>
public sealed class FunctionGroup
{
    readonly List<Overload> _overloads = [];

    internal FunctionGroup(string name)
    {
        (Name, IsShallow) = (name, Shallow.Contains(name));
        _cost = name switch
        {
            "_==_" or "_!=_" => CostRule.Equality,
            "@in" => CostRule.Membership,
            "matches" => CostRule.Pattern,
            "sort" => CostRule.Sort,
            "distinct" => CostRule.Distinct,
            _ => CostRule.Sizes,
        };
    }

    /// <summary>A name that no function bears; the checker says so, and so does an evaluation.</summary>
    internal static FunctionGroup Unknown(string name) => new(name);

    internal bool IsUnknown => _overloads.Count == 0;

    /// <summary>The name as CEL has it; operators are written <c>_+_</c>.</summary>
    public string Name { get; }

    internal IReadOnlyList<Overload> Overloads => _overloads;
    internal bool HasGlobal { get; private set; }
    internal bool HasMember { get; private set; }

    /// <summary>The operator's sign when this is an operator, else the name.</summary>
    public string Display =>
        Name switch
        {
            "@in" => "in",
            "_[_]" => "[…]",
            "_[?_]" => "[?…]",
            _ => Name.Trim('_'),
        };

    // They look at a list or a map without going through it.
    static readonly HashSet<string> Shallow =
    [
        "_[_]",
        "_[?_]",
        "size",
        "type",
        "dyn",
        "first",
        "last",
        "optional.of",
        "optional.none",
        "hasValue",
        "value",
        "or",
        "orValue",
    ];

    /// <summary>Whether lists and maps are only looked into, whatever their size.</summary>
    internal bool IsShallow { get; }

    enum CostRule
    {
        Sizes,
        Equality,
        Membership,
        Pattern,
        Sort,
        Distinct,
    }

    readonly CostRule _cost;

    // Of all others none has so many bytes that they count.
    static bool HasSize(Value value) =>
        value.Kind
            is ValueKind.String
                or ValueKind.Bytes
                or ValueKind.List
                or ValueKind.Map
                or ValueKind.Optional
                or ValueKind.Error
                or ValueKind.Type;

    /// <summary>
    /// What a call costs in steps of an evaluation: some bytes are gone through in the time of a step.
    /// </summary>
    internal long Cost(Value[] arguments)
    {
        const int BytesPerStep = 16;
        switch (_cost)
        {
            // Both end at the first difference, or with the smaller one.
            case CostRule.Equality when arguments.Length == 2:
                return HasSize(arguments[0]) && HasSize(arguments[1])
                    ? Math.Min(arguments[0].Size, arguments[1].Size) / BytesPerStep
                    : 0;
            case CostRule.Membership when arguments is [var key, { Kind: ValueKind.Map }]:
                return key.Size / BytesPerStep;
            // The pattern may have to be made ready first, and each character goes through it.
            case CostRule.Pattern when arguments is [var text, { Kind: ValueKind.String } pattern]:
                return text.Size / BytesPerStep * (1 + pattern.Size / 64) + pattern.Size * 200;
            // Measured against what goes through a list once.
            case CostRule.Sort when arguments is [var list]:
                return list.Size * 2;
            case CostRule.Distinct when arguments is [var list]:
                return list.Size / 2;
            default:
                break;
        }
        long cost = 0;
        foreach (var argument in arguments)
        {
            if (HasSize(argument) && (!IsShallow || argument.Kind is ValueKind.String or ValueKind.Bytes))
                cost += argument.Size / BytesPerStep;
        }
        return cost;
    }

    internal void Add(Overload overload)
    {
        _overloads.Add(overload);
        HasGlobal |= !overload.IsMember;
        HasMember |= overload.IsMember;
    }

    /// <summary>Calls the first overload whose parameters take these arguments.</summary>
    internal Value Invoke(Value[] arguments, bool member)
    {
        foreach (var overload in _overloads)
        {
            if (overload.IsMember == member && overload.Takes(arguments))
                return overload.Body(arguments);
        }
        if (IsUnknown)
            return Value.Error(new($"there is no function “{Name}”"));
        var kinds = string.Join(", ", arguments.Select(a => a.KindWord));
        return Value.Error(new($"no such overload: {Display}({kinds})"));
    }
}

/// <summary>
/// One signature of a function and what it does. Bodies never throw for bad input; they give an error value.
/// </summary>
sealed record Overload(bool IsMember, IReadOnlyList<CelType> Parameters, CelType Result, Func<Value[], Value> Body)
{
    // null: any kind is taken
    readonly ValueKind?[] _kinds = [.. Parameters.Select(p => KindOf(p))];

    /// <summary>The result and then the parameters.</summary>
    public IReadOnlyList<CelType> Signature { get; } = [Result, .. Parameters];

    /// <summary>Whether type parameters stand in it.</summary>
    public bool IsGeneric { get; } = Parameters.Any(HasParameter);

    static bool HasParameter(CelType type) => type.IsParameter || type.Arguments.Any(HasParameter);

    public bool Takes(Value[] arguments)
    {
        if (arguments.Length != _kinds.Length)
            return false;
        for (var i = 0; i < arguments.Length; i++)
        {
            if (_kinds[i] is { } kind && arguments[i].Kind != kind)
                return false;
        }
        return true;
    }

    static ValueKind? KindOf(CelType type) =>
        type.IsDyn || type.IsParameter ? null
        : type.Name == "null_type" ? ValueKind.Null
        : Enum.TryParse<ValueKind>(type.Name, ignoreCase: true, out var kind) ? kind
        : null;
}
