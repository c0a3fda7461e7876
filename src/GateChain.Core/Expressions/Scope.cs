using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>What names mean during one evaluation.</summary>
public interface INames
{
    bool TryGet(string name, out Value value);

    /// <summary>Whether there are names with dots in them; they come before selections that read the same.</summary>
    bool HasDotted => false;
}

/// <summary>Names from a dictionary.</summary>
public sealed class DictionaryNames(IReadOnlyDictionary<string, Value> values) : INames
{
    public bool HasDotted { get; } = values.Keys.Any(k => k.Contains('.', StringComparison.Ordinal));

    public bool TryGet(string name, out Value value) => values.TryGetValue(name, out value);
}
