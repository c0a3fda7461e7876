using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Kinds.Connections;

/// <summary>Reads <c>connections.yaml</c>: one mapping, each entry a connection with a <c>type</c>.</summary>
public sealed class ConnectionsFile : IConnections
{
    readonly Dictionary<string, Connection> _connections = [];

    public IReadOnlyDictionary<string, string> Types => _connections.ToDictionary(c => c.Key, c => c.Value.Type);

    /// <summary>All of them, by name.</summary>
    public IEnumerable<Connection> All => _connections.Values.OrderBy(c => c.Name, StringComparer.Ordinal);

    public Connection? Find(string name) => _connections.GetValueOrDefault(name);

    /// <summary>These, and of others those whose names are not among them.</summary>
    /// <param name="outer">Those of the folders around.</param>
    public ConnectionsFile Over(ConnectionsFile outer)
    {
        var all = new ConnectionsFile();
        foreach (var (name, connection) in outer._connections.Concat(_connections))
            all._connections[name] = connection;
        return all;
    }

    /// <summary>Reads the file; what is wrong goes to <paramref name="problems"/>.</summary>
    /// <param name="text">Its content.</param>
    /// <param name="problems">Gets what is wrong.</param>
    /// <param name="types">The types of connections there are.</param>
    /// <param name="isSet">Whether a secret of a name is set for a folder; null where secrets are not known.</param>
    /// <param name="area">The folder that the file lies in.</param>
    public static ConnectionsFile Read(
        string text,
        ProblemList problems,
        IReadOnlyList<ConnectionType> types,
        Func<string, Area, bool>? isSet = null,
        Area area = default
    )
    {
        var file = new ConnectionsFile();
        foreach (var (name, span, entries) in WorkspaceYaml.Sections(text, problems))
        {
            var word = entries.TryGetValue("type", out var typed) ? ValueText.ToPlainString(typed.Value) : null;
            if (types.FirstOrDefault(t => t.Name == word) is not { } type)
            {
                problems.Add(
                    ProblemKinds.UnknownChoice,
                    word is null ? span : entries["type"].Span,
                    word is null
                        ? (Sentence)$"connection “{name}” needs “type”"
                        : $"there is no type of connection “{word}”",
                    $"types: {string.Join(", ", types.Select(t => t.Name))}"
                );
                continue;
            }
            var keys = type.Settings.Members.Select(m => m.Name).ToList();
            foreach (var (key, entry) in entries.Where(e => e.Key != "type" && !keys.Contains(e.Key)))
            {
                problems.Add(
                    ProblemKinds.UnknownKey,
                    entry.Span,
                    $"{Article.Of(type.Name)} connection has no key “{key}”",
                    Nearest.Fix(key, keys)
                );
            }

            foreach (var member in type.Settings.Members.Where(m => m.Required && !entries.ContainsKey(m.Name)))
            {
                problems.Add(
                    ProblemKinds.MissingKey,
                    span,
                    $"connection “{name}” needs “{member.Name}”: {char.ToLowerInvariant(member.Doc[0])}"
                        + $"{member.Doc[1..].TrimEnd('.')}"
                );
            }

            if (entries.TryGetValue(ConnectionType.Tries, out var tries) && tries.Value.Kind != ValueKind.Bool)
            {
                problems.Add(
                    ProblemKinds.WrongValue,
                    tries.Span,
                    $"“{ConnectionType.Tries}” of connection “{name}” is true or false"
                );
            }

            foreach (var (key, entry) in entries)
            {
                var shape = ShapeOf(type, key);
                if (SecretSettings.Hide(shape, entry.Value).Equals(entry.Value))
                    continue;
                problems.Add(
                    ProblemKinds.PlainSecret,
                    entry.Span,
                    $"{(shape is { IsSecret: true, Form: SettingForm.Text } ? "the" : "a secret in the")} {key} of "
                        + $"connection “{name}” stands in the file for all to read",
                    "write "
                        + (shape.IsSecret ? "" : "it to a key of its own, such as password: ")
                        + $"secret:{name}, and set it: gatechain secret set {name}"
                );
            }

            foreach (var (secret, entry) in entries.Values.SelectMany(e => Named(e.Value).Select(s => (s, e))))
            {
                if (isSet?.Invoke(secret, area) == false)
                {
                    problems.Add(
                        ProblemKinds.SecretUnset,
                        entry.Span,
                        $"{SecretNames.Unset(secret)}, which connection “{name}” needs",
                        SecretNames.HowToSet(secret)
                    );
                }
            }
            file._connections[name] = new(
                name,
                word!,
                entries.Where(e => e.Key != "type").ToDictionary(e => e.Key, e => e.Value.Value)
            )
            {
                Area = area,
            };
        }
        return file;
    }

    static SettingShape ShapeOf(ConnectionType type, string key) =>
        type.Settings.Members.FirstOrDefault(m => m.Name == key)?.Shape ?? SettingShape.Text;

    // The secrets that a value names: itself, or an entry of it, as among headers.
    static IEnumerable<string> Named(Value value) =>
        value.Kind switch
        {
            ValueKind.String => SecretNames.In(value.AsString) is { } name ? [name] : [],
            ValueKind.Map => value.AsMap.Entries.SelectMany(e => Named(e.Value)),
            _ => [],
        };
}
