using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Connections;

/// <summary>
/// A named, typed address. Values that name secrets stand as they are written; they are put in only when it is used.
/// </summary>
/// <param name="Type">For example <c>sqlite</c>.</param>
/// <param name="Settings">Everything else, by key.</param>
public sealed record Connection(string Name, string Type, IReadOnlyDictionary<string, Value> Settings)
{
    /// <summary>The folder of the file that declares it: it can be used there and below.</summary>
    public Area Area { get; init; }

    /// <summary>Whether tries of drafts may use it.</summary>
    public bool ForTries => !Settings.TryGetValue(ConnectionType.Tries, out var tries) || !tries.Equals(Value.False);

    public string? Text(string key) => Settings.TryGetValue(key, out var value) ? ValueText.ToPlainString(value) : null;

    /// <summary>Its settings with the secrets in them.</summary>
    /// <exception cref="MissingSecretException">It names a secret that is not there.</exception>
    /// <exception cref="FormatException">A setting does not fit.</exception>
    public T As<T>(ISecrets secrets)
        where T : class, new()
    {
        var resolved = Settings
            .Where(s => s.Key is not ("type" or ConnectionType.Tries))
            .Select(s => KeyValuePair.Create(s.Key, Resolve(s.Value, secrets)));
        var (settings, problem) = SettingsBinder.Bind<T>(Value.Map(DictionaryMap.Of(resolved)));
        return settings ?? throw new FormatException(problem);
    }

    static Value Resolve(Value value, ISecrets secrets) =>
        value.Kind switch
        {
            ValueKind.String => Value.String(SecretText.Resolve(value.AsString, secrets)),
            ValueKind.Map => Value.Map(
                DictionaryMap.Of(
                    value.AsMap.Entries.Select(e =>
                        KeyValuePair.Create(ValueText.ToPlainString(e.Key), Resolve(e.Value, secrets))
                    )
                )
            ),
            _ => value,
        };

    /// <summary>The secrets that it names.</summary>
    public IEnumerable<string> Secrets => Named(Settings.Values);

    static IEnumerable<string> Named(IEnumerable<Value> values) =>
        values.SelectMany(v =>
            v.Kind switch
            {
                ValueKind.String when SecretText.NameIn(v.AsString) is { } name => [name],
                ValueKind.Map => Named(v.AsMap.Entries.Select(e => e.Value)),
                _ => (IEnumerable<string>)[],
            }
        );
}

/// <summary>Finds connections by name.</summary>
public interface IConnections
{
    Connection? Find(string name);

    /// <summary>Where they, and addresses that are written in full, may lead.</summary>
    NetworkRules Network => NetworkRules.Open;
}
