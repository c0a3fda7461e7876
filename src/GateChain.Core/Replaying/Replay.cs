using GateChain.Core.Chains;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Replaying;

/// <summary>Something that would have been otherwise.</summary>
/// <param name="What"><c>gate</c>, <c>step</c>, <c>setting</c>, <c>output</c> or <c>run</c>.</param>
/// <param name="Path">Whose it is; of a gate its scope.</param>
/// <param name="Name">Of a gate <c>from → to</c>; of a setting or output its name.</param>
/// <param name="Was">How it was, in words; null when there was none.</param>
/// <param name="WouldBe">How it would have been; null when there would have been none.</param>
public sealed record ReplayDifference(string What, string Path, string Name, string? Was, string? WouldBe);

/// <summary>A past run, played again under another content of its chain.</summary>
/// <param name="Was">How it ended when it is played again as it was.</param>
/// <param name="WouldBe">How it would have ended.</param>
/// <param name="Differences">What would have been otherwise, in the order in which it would have come.</param>
/// <param name="Unknown">What can't be known, in sentences: steps that are new, or were given other settings.</param>
/// <param name="IsCut">Whether it did not come to an end.</param>
/// <param name="Unlike">
/// Where it goes another way than it went already when it is played again as it was, in a sentence: what people
/// decided, and what hung on the time, is not played. Null when it goes as it went.
/// </param>
public sealed record Replay(
    string Was,
    string WouldBe,
    IReadOnlyList<ReplayDifference> Differences,
    IReadOnlyList<string> Unknown,
    bool IsCut,
    string? Unlike
)
{
    const int Shown = 120;

    /// <summary>Whether it would have gone the same way: the same gates, the same outcomes.</summary>
    public bool SameWay => !IsCut && !Differences.Any(d => d.What is "gate" or "step" or "run");

    /// <summary>
    /// Plays a run again, as it was and under another content, and compares both: what is not the run's own, such as
    /// the time that attempts took, is the same on both sides. Pure.
    /// </summary>
    /// <param name="past">The run.</param>
    /// <param name="changed">The other content.</param>
    /// <param name="cancel">Cuts it when it has taken long enough.</param>
    public static Replay Of(PastRun past, Chain changed, CancellationToken cancel = default)
    {
        var before = Play(past, past.Chain, cancel);
        var after = Play(past, changed, cancel);
        var differences = new List<ReplayDifference>();
        if (WordOf(before) != WordOf(after))
            differences.Add(new("run", "", "", WordOf(before), WordOf(after)));
        var (steps, unknown) = Steps(past, before.State, after.State);
        differences.AddRange(Gates(before, after));
        differences.AddRange(steps);
        foreach (var (key, value) in after.State.Outputs.AsMap.Entries)
        {
            var was = before.State.Outputs.AsMap.Find(key.AsString);
            if (was is null || !was.Value.Equals(value))
                differences.Add(new("output", "", key.AsString, Show(was), Show(value)));
        }
        return new(WordOf(before), WordOf(after), differences, unknown, after.IsCut, Otherwise(past, before));
    }

    // Chains that are called are not played: what they gave is known.
    static Rehearsal Play(PastRun past, Chain chain, CancellationToken cancel)
    {
        var declared = chain.Parameters.ToDictionary(p => p.Name);
        var variables = chain.Root.Variables.Select(v => v.Name).ToHashSet();
        var wish = past.Wish with
        {
            Params = past.Wish.Params.Where(p => declared.ContainsKey(p.Key)).ToDictionary(),
            Vars = past.Wish.Vars.Where(v => variables.Contains(v.Key)).ToDictionary(),
        };
        return Rehearsal.Play(chain, wish, _ => null, cancel);
    }

    static string? Otherwise(PastRun past, Rehearsal before)
    {
        var gates = before
            .Journal.SelectMany(d => d.Events)
            .OfType<GateDecided>()
            .ToLookup(g => new GateName(g.Scope, g.Gate), g => g.Open);
        if (past.Gates.FirstOrDefault(g => gates[g.Key].LastOrDefault(!g.Value) != g.Value) is { Key: { } gate } other)
        {
            return $"gate {gate.Gate + 1} of {(gate.Scope.Length == 0 ? "the chain" : gate.Scope)} was "
                + Word(other.Value);
        }
        var steps = before.State.AllSteps.GroupBy(s => s.Path).ToDictionary(g => g.Key, g => g.Last());
        return
            past.Outcomes.FirstOrDefault(o => steps.GetValueOrDefault(o.Key)?.Word != o.Value.Word())
                is { Key: { } path } settled
            ? $"“{path}” was {settled.Value.Word()}"
            : null;
    }

    static string WordOf(Rehearsal played) =>
        played.IsCut ? "without end"
        : played.State.IsPaused ? "paused"
        : played.State.Word;

    static IEnumerable<ReplayDifference> Gates(Rehearsal before, Rehearsal after)
    {
        var (was, now) = (Decided(before), Decided(after));
        foreach (var ((scope, name), open) in now)
        {
            var earlier = was.TryGetValue((scope, name), out var o) ? o : (bool?)null;
            if (earlier != open)
                yield return new("gate", scope, name, earlier is { } there ? Word(there) : null, Word(open));
        }
        foreach (var ((scope, name), open) in was.Where(w => !now.ContainsKey(w.Key)))
            yield return new("gate", scope, name, Word(open), null);
    }

    static string Word(bool open) => open ? "open" : "shut";

    // As they were decided at last, in the order in which they first were: a container may have been done again.
    static OrderedDictionary<(string Scope, string Name), bool> Decided(Rehearsal played)
    {
        var found = new OrderedDictionary<(string, string), bool>();
        foreach (var (scope, name, open) in DecidedInOrder(played))
            found[(scope, name)] = open;
        return found;
    }

    // A gate is known by what it links, whatever its place in the file is: one more before it changes nothing.
    static IEnumerable<(string Scope, string Name, bool Open)> DecidedInOrder(Rehearsal played)
    {
        var scopes = played
            .State.AllSteps.SelectMany(s => s.InnerScopes)
            .Concat(played.State.Handlers.Select(h => h.Scope))
            .Prepend(played.State.Root)
            .GroupBy(s => s.Path)
            .ToDictionary(g => g.Key, g => g.Last());
        foreach (var decided in played.Journal.SelectMany(d => d.Events).OfType<GateDecided>())
        {
            if (!scopes.TryGetValue(decided.Scope, out var scope))
                continue;
            var gate = scope.Scope.Gates[decided.Gate];
            var same = scope.Scope.Gates.Count(g => g.Index < gate.Index && g.From == gate.From && g.To == gate.To);
            var name = $"{gate.From.Id} → {gate.To.Id}" + (same == 0 ? "" : $" ({same + 1})");
            yield return (decided.Scope, name, decided.Open);
        }
    }

    static (List<ReplayDifference> Differences, IReadOnlyList<string> Unknown) Steps(
        PastRun past,
        RunState before,
        RunState after
    )
    {
        var (found, unknown) = (new List<ReplayDifference>(), new List<string>());
        var was = before.AllSteps.GroupBy(s => s.Path).ToDictionary(g => g.Key, g => g.Last());
        var now = after.AllSteps.GroupBy(s => s.Path).ToDictionary(g => g.Key, g => g.Last());
        foreach (var (path, step) in now)
        {
            var earlier = was.GetValueOrDefault(path);
            if (earlier is null || earlier.Word != step.Word)
                found.Add(new("step", path, "", earlier?.Word, step.Word));
            if (step.Attempt == 0)
                continue;
            var settings = earlier is { Attempt: > 0 } ? Settings(path, earlier.Inputs, step.Inputs).ToList() : [];
            found.AddRange(settings);
            var works = !step.Step.Kind.IsControl || step.Step.Call is not null;
            if (!works)
                continue;
            if (!past.Known.Contains(path))
                unknown.Add($"“{path}” did not run then: it is taken to succeed, with the sample outputs of its kind");
            else if (earlier is not null && earlier.Step.Kind != step.Step.Kind)
                unknown.Add($"“{path}” is of another kind now: it is taken to give what it gave then");
            else if (settings.Count > 0)
                unknown.Add($"“{path}” would be given other settings: it is taken to give what it gave then");
        }
        foreach (var (path, step) in was.Where(w => !now.ContainsKey(w.Key)))
            found.Add(new("step", path, "", step.Word, null));
        return (found, unknown);
    }

    static IEnumerable<ReplayDifference> Settings(string path, Value was, Value wouldBe)
    {
        var (a, b) = (Flat(was), Flat(wouldBe));
        foreach (var name in a.Keys.Union(b.Keys))
        {
            var (before, after) = (Of(a, name), Of(b, name));
            if (before is null || after is null || !before.Value.Equals(after.Value))
                yield return new("setting", path, name, Show(before), Show(after));
        }

        static Value? Of(Dictionary<string, Value> values, string name) =>
            values.TryGetValue(name, out var value) ? value : null;
    }

    static Dictionary<string, Value> Flat(Value settings)
    {
        var flat = new Dictionary<string, Value>();
        Add(settings, "");
        return flat;

        void Add(Value value, string name)
        {
            if (value.Kind != ValueKind.Map)
            {
                flat[name] = value;
                return;
            }
            foreach (var (key, inner) in value.AsMap.Entries)
                Add(inner, name.Length == 0 ? ValueText.ToPlainString(key) : $"{name}.{ValueText.ToPlainString(key)}");
        }
    }

    static string? Show(Value? value) => value is { } there ? ValueText.Show(there, Shown) : null;
}
