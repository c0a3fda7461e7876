using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>What names mean during one evaluation.</summary>
public interface INames
{
    bool TryGet(string name, out Value value);
}

/// <summary>Names from a dictionary.</summary>
public sealed class DictionaryNames(IReadOnlyDictionary<string, Value> values) : INames
{
    public bool TryGet(string name, out Value value) => values.TryGetValue(name, out value);
}
