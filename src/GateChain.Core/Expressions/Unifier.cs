namespace GateChain.Core.Expressions;

/// <summary>
/// Finds out whether types fit together, and what their type parameters stand for on the way. Parameters get a number
/// each, so that those of two calls never meet.
/// </summary>
/// <remarks>Source: CEL language definition, section "Gradual type checking".</remarks>
sealed class Unifier
{
    readonly Dictionary<string, CelType> _bound = [];

    // What was learned, in order, with what stood there before: taken back when types turn out not to fit.
    readonly Stack<(string Name, CelType? Before)> _learned = new();
    int _next;

    /// <summary>A type parameter of its own.</summary>
    public CelType Fresh() => CelType.Parameter(_next++);

    /// <summary>A signature's types with parameters of their own.</summary>
    public IReadOnlyList<CelType> Instantiate(IReadOnlyList<CelType> signature)
    {
        var fresh = new Dictionary<string, CelType>();
        return [.. signature.Select(Of)];

        CelType Of(CelType type)
        {
            if (type.Arguments.Count > 0)
                return type.With([.. type.Arguments.Select(Of)]);
            if (!type.IsParameter)
                return type;
            return fresh.TryGetValue(type.Name, out var own) ? own : fresh[type.Name] = Fresh();
        }
    }

    /// <summary>
    /// Whether all actual types fit where the others, <paramref name="from"/> an index on, are asked for; when not,
    /// nothing is learned from them.
    /// </summary>
    public bool Fit(IReadOnlyList<CelType> actual, IReadOnlyList<CelType> asked, int from = 0)
    {
        _learned.Clear();
        for (var i = 0; i < actual.Count; i++)
        {
            if (!Matches(actual[i], asked[i + from]))
            {
                while (_learned.TryPop(out var last))
                {
                    if (last.Before is null)
                        _bound.Remove(last.Name);
                    else
                        _bound[last.Name] = last.Before;
                }
                return false;
            }
        }
        return true;
    }

    public bool Fits(CelType actual, CelType asked) => Fit([actual], [asked]);

    /// <summary>The smallest type that holds both; <c>any</c> when only that does.</summary>
    public CelType Join(CelType a, CelType b) => Fits(b, a) || Fits(a, b) ? General(a, b) : CelType.Dyn;

    /// <summary>
    /// The type with everything that was learned; what is still free stays so, or becomes <c>any</c>.
    /// </summary>
    public CelType Resolve(CelType type, bool freeAsAny)
    {
        if (type.IsParameter)
        {
            return _bound.TryGetValue(type.Name, out var known) ? Resolve(known, freeAsAny)
                : freeAsAny ? CelType.Dyn
                : type;
        }
        return type.Arguments.Count == 0 ? type : type.With([.. type.Arguments.Select(a => Resolve(a, freeAsAny))]);
    }

    bool Matches(CelType a, CelType b)
    {
        if (b.IsParameter)
        {
            if (Stands(a, b, out var known))
                return true;
            if (known)
                return false;
        }
        if (a.IsParameter)
            return Stands(b, a, out _);
        if (a.IsDyn || b.IsDyn)
            return true;
        if (ReferenceEquals(a, CelType.Null))
            return TakesNull(b);
        if (ReferenceEquals(b, CelType.Null))
            return TakesNull(a);
        // An object is a map whose fields are known.
        if (a.Name == "object" || b.Name == "object")
        {
            return ReferenceEquals(a, b)
                || (a.Name is "map" or "object" && b.Name is "map" or "object" && a.Name != b.Name);
        }
        if (a.Name == "type" && b.Name == "type")
            return true;
        if (a.Name != b.Name || a.Arguments.Count != b.Arguments.Count)
            return false;
        for (var i = 0; i < a.Arguments.Count; i++)
        {
            if (!Matches(a.Arguments[i], b.Arguments[i]))
                return false;
        }
        return true;
    }

    static bool TakesNull(CelType type) => type.Name is "null_type" or "timestamp" or "duration" || IsOpaque(type);

    static bool IsOpaque(CelType type) => !CelType.IsWrittenType(type.Name) && type.Name is not ("type" or "object");

    // Whether a type can be what a parameter stands for; of two candidates the more general one counts from then on.
    bool Stands(CelType type, CelType parameter, out bool known)
    {
        known = true;
        if (type.IsSame(parameter))
            return true;
        if (_bound.TryGetValue(parameter.Name, out var bound))
        {
            if (type.IsSame(bound))
                return true;
            if (!Matches(type, bound))
                return false;
            var general = General(type, bound);
            if (!Mentions(general, parameter))
                Learn(parameter, general);
            return true;
        }
        known = false;
        if (Mentions(type, parameter))
            return false;
        Learn(parameter, type);
        return true;
    }

    void Learn(CelType parameter, CelType type)
    {
        _learned.Push((parameter.Name, _bound.GetValueOrDefault(parameter.Name)));
        _bound[parameter.Name] = type;
    }

    bool Mentions(CelType type, CelType parameter)
    {
        if (type.Name == parameter.Name)
            return true;
        if (type.IsParameter)
        {
            return _bound.TryGetValue(type.Name, out var bound) && Mentions(bound, parameter);
        }
        return type.Arguments.Any(a => Mentions(a, parameter));
    }

    static CelType General(CelType a, CelType b) =>
        IsAtLeastAsGeneral(a, b) ? a
        : IsAtLeastAsGeneral(b, a) ? b
        : CelType.Dyn;

    static bool IsAtLeastAsGeneral(CelType a, CelType b)
    {
        if (a.IsDyn || a.IsParameter)
            return true;
        if (b.IsDyn || b.IsParameter)
            return false;
        // Of a type and null, the type holds both.
        if (ReferenceEquals(b, CelType.Null))
            return true;
        // Of two records each may have a part that the other lacks.
        return (a.Fields is null || ReferenceEquals(a.Fields, b.Fields))
            && a.Name == b.Name
            && a.Arguments.Count == b.Arguments.Count
            && a.Arguments.Zip(b.Arguments).All(p => IsAtLeastAsGeneral(p.First, p.Second));
    }
}
