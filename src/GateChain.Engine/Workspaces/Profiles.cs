using GateChain.Core.Chains.Source;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Workspaces;

/// <summary><c>profiles.yaml</c>: named sets of values, one for each environment.</summary>
public sealed class Profiles
{
    readonly Dictionary<string, Value> _profiles = [];

    /// <summary>The names of the profiles, in the order of the file.</summary>
    public IEnumerable<string> Names => _profiles.Keys;

    /// <summary>Reads the file; what is wrong goes to <paramref name="problems"/>.</summary>
    public static Profiles Read(string text, ProblemList problems)
    {
        var profiles = new Profiles();
        foreach (var (name, _, entries) in WorkspaceYaml.Sections(text, problems))
        {
            foreach (var (key, (value, at)) in entries)
            {
                if (
                    profiles
                        ._profiles.Where(p => p.Value.AsMap.Find(key) is { } other && Word(other) != Word(value))
                        .Select(p => p.Key)
                        .FirstOrDefault() is
                    { } other
                )
                {
                    problems.Add(
                        ProblemKinds.ProfilesDiffer,
                        at,
                        $"“{key}” is {Word(value)} here, and "
                            + $"{Word(profiles._profiles[other].AsMap.Find(key)!.Value)} in “{other}”"
                    );
                }
            }
            profiles._profiles[name] = Value.Map(
                DictionaryMap.Of(entries.Select(e => KeyValuePair.Create(e.Key, e.Value.Value)))
            );
        }
        return profiles;
    }

    /// <summary>The values of each, by its name.</summary>
    public IReadOnlyDictionary<string, Value> All => _profiles;

    static string Word(Value value) =>
        value.Kind switch
        {
            ValueKind.Int or ValueKind.Double => "a number",
            ValueKind.Bool => "a bool",
            ValueKind.List => "a list",
            ValueKind.Map => "a map",
            ValueKind.Null => "empty",
            _ => "a text",
        };

    /// <summary>
    /// A profile's values. Without a name: the only one there is, or the one called <c>default</c>, or no values at
    /// all.
    /// </summary>
    /// <exception cref="RefusedException">There is no profile of that name.</exception>
    public Value Choose(string? name)
    {
        if (name is null)
        {
            return _profiles.Count == 1
                ? _profiles.Values.First()
                : _profiles.GetValueOrDefault("default", Value.EmptyMap);
        }
        return _profiles.TryGetValue(name, out var values)
            ? values
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"there is no profile “{name}”; there are: {string.Join(", ", _profiles.Keys)}"
            );
    }
}
