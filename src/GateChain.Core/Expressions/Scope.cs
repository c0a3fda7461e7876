using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>What names mean during one evaluation.</summary>
public interface IBindings
{
    bool TryGet(string name, out Value value);

    /// <summary>Whether there are names with dots in them; they come before selections that read the same.</summary>
    bool HasDotted => false;

    /// <summary>How much an evaluation may cost, and how big what it makes may be.</summary>
    Bounds Bounds => Bounds.Default;

    /// <summary>Ends the evaluation from outside, with an error.</summary>
    CancellationToken Cancel => CancellationToken.None;
}

/// <summary>Names from a dictionary.</summary>
public sealed class DictionaryBindings(IReadOnlyDictionary<string, Value> values) : IBindings
{
    public bool HasDotted { get; } = values.Keys.Any(k => k.Contains('.', StringComparison.Ordinal));

    public bool TryGet(string name, out Value value) => values.TryGetValue(name, out value);
}
