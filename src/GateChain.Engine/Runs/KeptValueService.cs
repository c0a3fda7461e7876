using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// What chains keep from run to run, under each profile. A run takes a version over when it begins; when it ends well
/// it makes the next one, unless somebody else has meanwhile. Thread-safe.
/// </summary>
/// <param name="store">Where it is kept.</param>
/// <param name="time">The clock.</param>
/// <param name="isShared">Whether other services write there, too.</param>
public sealed class KeptValueService(IKeptValues store, TimeProvider time, bool isShared = false)
{
    /// <summary>The warning of a run whose values are not kept.</summary>
    internal const string Changed =
        "its values are not kept: another run, or a person, has changed what the chain keeps since it began";

    readonly Lock _lock = new();

    // The newest versions that were handed out, on disk or on their way there.
    readonly Dictionary<(string Chain, string Profile), KeptSet> _newest = [];

    static string NameOf(string? profile) => profile ?? "";

    static Value Read(string json) => ValueJson.TryParse(json, exact: true) ?? Value.EmptyMap;

    async ValueTask<KeptSet?> NewestAsync(string chain, string? profile)
    {
        var key = (chain, NameOf(profile));
        lock (_lock)
        {
            if (!isShared && _newest.TryGetValue(key, out var known))
                return known;
        }
        var found = await store.FindAsync(chain, NameOf(profile)).ConfigureAwait(false);
        lock (_lock)
        {
            if (_newest.TryGetValue(key, out var known) && !(known.Version < found?.Version))
                return known;
            if (found is not null)
                _newest[key] = found;
            return found;
        }
    }

    /// <summary>What a chain has kept under a profile, whatever fits or not: a map.</summary>
    public async ValueTask<Value> ValuesAsync(string chain, string? profile) =>
        await NewestAsync(chain, profile).ConfigureAwait(false) is { } kept ? Read(kept.Values) : Value.EmptyMap;

    /// <summary>What a run of a chain begins with; null for a chain that keeps nothing.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="profile">The profile of the run; null for none.</param>
    /// <param name="keeps">Whether its end writes the next version.</param>
    /// <exception cref="RefusedException">A value does not fit the type of its variable any more.</exception>
    internal async ValueTask<KeptStart?> StartAsync(Chain chain, string? profile, bool keeps)
    {
        if (!chain.Kept.Any())
            return keeps ? null : new(KeptStart.WritesNothing, Value.EmptyMap);
        var kept = await NewestAsync(chain.Name, profile).ConfigureAwait(false);
        if (kept is null)
            return new(keeps ? 0 : KeptStart.WritesNothing, Value.EmptyMap);
        var values = Read(kept.Values).AsMap;
        var fitting = new List<KeyValuePair<string, Value>>();
        foreach (var variable in chain.Kept)
        {
            if (values.Find(variable.Name) is not { } value)
                continue;
            var (fits, problem) = Conversion.To(variable.Type, value);
            if (fits is null)
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"the kept value of “{variable.Name}” does not fit any more: {problem}; "
                        + $"set it with gatechain kept {chain.Name} --set {variable.Name}=…, or --reset it"
                );
            }
            fitting.Add(KeyValuePair.Create(variable.Name, fits.Value));
        }
        return new(keeps ? kept.Version : KeptStart.WritesNothing, Value.Map(DictionaryMap.Of(fitting)));
    }

    /// <summary>
    /// The next version, of a run that ends well; null when it did not begin with the newest one. What it gives must be
    /// written with the end.
    /// </summary>
    internal KeptSet? Take(RunState run, DateTimeOffset at)
    {
        var key = (run.Chain.Name, NameOf(run.ProfileName));
        var begun = run.KeptVersion ?? 0;
        lock (_lock)
        {
            // After a start nobody has asked for it yet: the journal's order is that of the versions.
            var newest = _newest.GetValueOrDefault(key)?.Version;
            if (newest is null || isShared)
            {
                var stored = store.FindAsync(key.Name, key.Item2).AsTask().GetAwaiter().GetResult()?.Version ?? 0;
                newest = Math.Max(newest ?? 0, stored);
            }
            if (newest != begun)
                return null;
            return _newest[key] = new(key.Name, key.Item2, begun + 1, ValueJson.ToText(run.Kept, plain: false))
            {
                Run = run.Id,
                At = at,
            };
        }
    }

    /// <summary>What a chain keeps, by profile.</summary>
    public ValueTask<IReadOnlyList<KeptSet>> ListAsync(string chain) => store.ListAsync(chain);

    /// <summary>Sets or resets values; runs that are going keep nothing of theirs then.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="profile">The profile; null for runs without a name.</param>
    /// <param name="set">Values by variable; text is read as the types ask.</param>
    /// <param name="reset">Variables that begin with their initial value again.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is no such variable, or a value does not fit.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task SetAsync(
        Chain chain,
        string? profile,
        IReadOnlyDictionary<string, Value> set,
        IReadOnlyCollection<string> reset,
        Actor by
    )
    {
        var declared = chain.Kept.ToDictionary(v => v.Name);
        var values = (await ValuesAsync(chain.Name, profile).ConfigureAwait(false)).AsMap.Entries.ToDictionary(
            e => e.Key.AsString,
            e => e.Value
        );
        foreach (var name in set.Keys.Concat(reset))
        {
            if (!declared.ContainsKey(name))
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{chain.Name}” keeps no variable “{name}”" + $"{Nearest.Hint(name, declared.Keys)}"
                );
            }
        }
        foreach (var (name, value) in set)
        {
            var (fits, problem) = Conversion.To(declared[name].Type, value);
            values[name] = fits ?? throw new RefusedException(RefusalKind.Invalid, $"“{name}”: {problem}");
        }
        foreach (var name in reset)
            values.Remove(name);
        KeptSet next;
        lock (_lock)
        {
            var key = (chain.Name, NameOf(profile));
            next = _newest[key] = new(
                key.Name,
                key.Item2,
                (_newest.GetValueOrDefault(key)?.Version ?? 0) + 1,
                ValueJson.ToText(Value.Map(DictionaryMap.Of(values)), plain: false)
            )
            {
                By = by.Name,
                At = time.GetUtcNow(),
            };
        }
        var said = set.Keys.Select(n => $"set {n}").Concat(reset.Select(n => $"reset {n}"));
        await store
            .SetAsync(next, new(next.At, by, "keep", $"chain {chain.Name}", string.Join(", ", said)))
            .ConfigureAwait(false);
    }
}
