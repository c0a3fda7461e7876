using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>All overloads of one function name.</summary>
public sealed class FunctionGroup
{
    readonly List<Overload> _overloads = [];

    internal FunctionGroup(string name) => Name = name;

    /// <summary>A name that no function bears; the checker says so, and so does an evaluation.</summary>
    internal static FunctionGroup Unknown(string name) => new(name);

    internal bool IsUnknown => _overloads.Count == 0;

    /// <summary>The name as CEL has it; operators are written <c>_+_</c>.</summary>
    public string Name { get; }

    internal IReadOnlyList<Overload> Overloads => _overloads;
    internal bool HasGlobal { get; private set; }
    internal bool HasMember { get; private set; }

    /// <summary>The operator's sign when this is an operator, else the name.</summary>
    public string Display => Name switch { "@in" => "in", "_[_]" => "[…]", "_[?_]" => "[?…]", _ => Name.Trim('_') };

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
            {
                return overload.Body(arguments);
            }
        }
        if (IsUnknown) { return Value.Error(new($"there is no function “{Name}”")); }
        var kinds = string.Join(", ", arguments.Select(a => a.KindWord));
        return Value.Error(new($"no such overload: {Display}({kinds})"));
    }
}

/// <summary>One signature of a function and what it does. Bodies never throw for bad input; they give an error value.</summary>
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
        if (arguments.Length != _kinds.Length) { return false; }
        for (var i = 0; i < arguments.Length; i++)
        {
            if (_kinds[i] is { } kind && arguments[i].Kind != kind) { return false; }
        }
        return true;
    }

    static ValueKind? KindOf(CelType type) =>
        type.IsDyn || type.IsParameter ? null : type.Name == "null_type" ? ValueKind.Null : Enum.TryParse<ValueKind>(type.Name, ignoreCase: true, out var kind) ? kind : null;
}
