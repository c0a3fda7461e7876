using GateChain.Core.Chains.Source;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Engine.Workspaces;

/// <summary><c>profiles.yaml</c>: named sets of values, one for each environment.</summary>
public sealed class Profiles
{
    readonly Dictionary<string, Value> _profiles = [];

    public IEnumerable<string> Names => _profiles.Keys;

    /// <summary>Reads the file; what is wrong goes to <paramref name="problems"/>.</summary>
    public static Profiles Read(string text, ProblemList problems)
    {
        var profiles = new Profiles();
        foreach (var (name, _, entries) in WorkspaceYaml.Sections(text, problems))
        {
            profiles._profiles[name] = Value.Map(DictionaryMap.Of(entries.Select(e => KeyValuePair.Create(e.Key, e.Value.Value))));
        }
        return profiles;
    }

    /// <summary>A profile's values. Without a name: the only one there is, or the one called <c>default</c>, or no values at all.</summary>
    /// <exception cref="RefusedException">There is no profile of that name.</exception>
    public Value Choose(string? name)
    {
        if (name is null) { return _profiles.Count == 1 ? _profiles.Values.First() : _profiles.GetValueOrDefault("default", Value.EmptyMap); }
        return _profiles.TryGetValue(name, out var values) ? values
            : throw new RefusedException(RefusalKind.Invalid, $"there is no profile “{name}”; there are: {string.Join(", ", _profiles.Keys)}");
    }
}
