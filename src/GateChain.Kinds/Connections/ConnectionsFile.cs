using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Kinds.Connections;

/// <summary>Reads <c>connections.yaml</c>: one mapping, each entry a connection with a <c>type</c>.</summary>
public sealed class ConnectionsFile : IConnections
{
    static readonly Dictionary<string, string[]> Known = new() { ["sqlite"] = ["type", "path", "busyTimeout"] };

    readonly Dictionary<string, Connection> _connections = [];

    public IReadOnlyDictionary<string, string> Types => _connections.ToDictionary(c => c.Key, c => c.Value.Type);

    public Connection? Find(string name) => _connections.GetValueOrDefault(name);

    /// <summary>Reads the file; what is wrong goes to <paramref name="problems"/>.</summary>
    public static ConnectionsFile Read(string text, ProblemList problems)
    {
        var file = new ConnectionsFile();
        foreach (var (name, span, entries) in WorkspaceYaml.Sections(text, problems))
        {
            var type = entries.TryGetValue("type", out var typed) ? ValueText.ToPlainString(typed.Value) : null;
            if (type is null || !Known.TryGetValue(type, out var keys))
            {
                problems.Add(ProblemKinds.UnknownChoice, type is null ? span : entries["type"].Span,
                    type is null ? $"connection “{name}” lacks “type”" : $"there is no type of connection “{type}” in this version", $"types: {string.Join(", ", Known.Keys)}");
                continue;
            }
            foreach (var (key, entry) in entries.Where(e => !keys.Contains(e.Key)))
            {
                problems.Add(ProblemKinds.UnknownKey, entry.Span, $"a {type} connection has no key “{key}”", Nearest.Mend(key, keys));
            }
            if (!entries.ContainsKey("path")) { problems.Add(ProblemKinds.MissingKey, span, $"connection “{name}” lacks “path”: the database file"); }
            file._connections[name] = new(name, type, entries.ToDictionary(e => e.Key, e => e.Value.Value));
        }
        return file;
    }
}
