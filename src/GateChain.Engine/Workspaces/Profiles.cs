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
    /// <param name="text">Its content.</param>
    /// <param name="problems">Gets what is wrong.</param>
    /// <param name="outer">Those of the folders around: what the file does not say itself is taken from there.</param>
    public static Profiles Read(string text, ProblemList problems, Profiles? outer = null)
    {
        var profiles = new Profiles();
        foreach (var (name, values) in outer?.All ?? new Dictionary<string, Value>())
            profiles._profiles[name] = values;
        // The first profile that has a value says what it is: there may be very many.
        var words = new Dictionary<string, (string Word, string Profile)>();
        foreach (var (name, values) in profiles._profiles)
        {
            foreach (var (key, value) in values.AsMap.Entries)
                words.TryAdd(key.AsString, (Word(value), name));
        }
        foreach (var (name, _, entries) in WorkspaceYaml.Sections(text, problems))
        {
            foreach (var (key, (value, at)) in entries)
            {
                if (words.TryAdd(key, (Word(value), name)) || words[key].Word == Word(value))
                    continue;
                var (other, profile) = words[key];
                problems.Add(
                    ProblemKinds.ProfilesDiffer,
                    at,
                    $"“{key}” is {Word(value)} here, and {other} in “{profile}”"
                );
            }
            profiles._profiles[name] = Over(
                Value.Map(DictionaryMap.Of(entries.Select(e => KeyValuePair.Create(e.Key, e.Value.Value)))),
                profiles._profiles.GetValueOrDefault(name, Value.EmptyMap)
            );
        }
        return profiles;
    }

    /// <summary>The values of each, by its name.</summary>
    public IReadOnlyDictionary<string, Value> All => _profiles;

    /// <summary>Some values, and of others those whose names are not among them.</summary>
    static Value Over(Value values, Value outer) =>
        Value.Map(
            DictionaryMap.Of(
                outer
                    .AsMap.Entries.Where(e => values.AsMap.Find(e.Key.AsString) is null)
                    .Concat(values.AsMap.Entries)
                    .Select(e => KeyValuePair.Create(e.Key.AsString, e.Value))
            )
        );

    /// <summary>
    /// The values that a run has whose caller has others: the caller's, and of a profile what files say that the caller
    /// does not see.
    /// </summary>
    /// <param name="callers">What the caller has.</param>
    /// <param name="name">The caller's profile; null when none was named.</param>
    /// <param name="seen">The profiles where the caller's chain lies.</param>
    public Value ForCalled(Value callers, string? name, Profiles seen)
    {
        if (ReferenceEquals(this, seen))
            return callers;
        var (own, outer) = (Find(name), seen.Find(name));
        return Over(
            Value.Map(
                DictionaryMap.Of(
                    own.AsMap.Entries.Where(e =>
                            outer.AsMap.Find(e.Key.AsString) is not { } same || !same.Equals(e.Value)
                        )
                        .Select(e => KeyValuePair.Create(e.Key.AsString, e.Value))
                )
            ),
            callers
        );
    }

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
        return name is null || _profiles.ContainsKey(name)
            ? Find(name)
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"there is no profile “{name}”; there are: {string.Join(", ", _profiles.Keys)}"
            );
    }

    Value Find(string? name) =>
        name is null && _profiles.Count == 1
            ? _profiles.Values.First()
            : _profiles.GetValueOrDefault(name ?? "default", Value.EmptyMap);
}
