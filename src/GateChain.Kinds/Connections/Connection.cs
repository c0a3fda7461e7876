using GateChain.Core.Values;

namespace GateChain.Kinds.Connections;

/// <summary>A named, typed address.</summary>
/// <param name="Type">For example <c>sqlite</c>.</param>
/// <param name="Settings">Everything else, by key.</param>
public sealed record Connection(string Name, string Type, IReadOnlyDictionary<string, Value> Settings)
{
    public string? Text(string key) => Settings.TryGetValue(key, out var value) ? ValueText.ToPlainString(value) : null;
}

/// <summary>Finds connections by name.</summary>
public interface IConnections
{
    Connection? Find(string name);
}
