using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>
/// The catalogue of functions and operators. Signatures are written as in the CEL specification's list of standard
/// definitions.
/// </summary>
public static partial class Functions
{
    static readonly Dictionary<string, FunctionGroup> All = [];

    static Functions()
    {
        AddOperators();
        AddConversions();
        AddTexts();
        AddTimes();
        AddOptionals();
        AddStrings();
        AddMaths();
        AddDecimals();
        AddLists();
    }

    /// <summary>The names of all functions and operators, as the catalogue has them.</summary>
    public static IEnumerable<string> Names => All.Keys;

    public static FunctionGroup? Find(string name) => All.GetValueOrDefault(name);

    public static IEnumerable<string> GlobalNames =>
        All.Values.Where(f => f.HasGlobal && char.IsLetter(f.Name[0])).Select(f => f.Name).Append("has");

    public static IEnumerable<string> MemberNames =>
        All
            .Values.Where(f => f.HasMember)
            .Select(f => f.Name)
            .Concat([
                "all",
                "exists",
                "exists_one",
                "map",
                "filter",
                "sortBy",
                "transformList",
                "transformMap",
                "transformMapEntry",
                "optMap",
                "optFlatMap",
            ]);

    // "string.contains(string) -> bool" is a method, "size(string) -> int" a function, "_+_(int, int) -> int" an
    // operator.
    static void Add(string signature, Func<Value[], Value> body)
    {
        var open = signature.IndexOf('(', StringComparison.Ordinal);
        var close = signature.LastIndexOf(") -> ", StringComparison.Ordinal);
        var name = signature[..open];
        var parameters = Split(signature[(open + 1)..close]).Select(p => CelType.Parse(p)!).ToList();
        var dot = name.LastIndexOf('.');
        var receiver = dot > 0 ? CelType.Parse(name[..dot]) : null; // null for namespaced functions such as optional.of
        if (receiver is not null)
        {
            parameters.Insert(0, receiver);
            name = name[(dot + 1)..];
        }
        if (!All.TryGetValue(name, out var group))
            All[name] = group = new(name);
        group.Add(new(receiver is not null, parameters, CelType.Parse(signature[(close + 5)..])!, body));
    }

    static IEnumerable<string> Split(string parameters)
    {
        int depth = 0,
            start = 0;
        for (var i = 0; i <= parameters.Length; i++)
        {
            if (i == parameters.Length || (parameters[i] == ',' && depth == 0))
            {
                if (i > start)
                    yield return parameters[start..i];
                start = i + 1;
            }
            else if (parameters[i] == '<')
            {
                depth++;
            }
            else if (parameters[i] == '>')
            {
                depth--;
            }
        }
    }

    static Value Fail(string message) => Value.Error(new(message));
}
