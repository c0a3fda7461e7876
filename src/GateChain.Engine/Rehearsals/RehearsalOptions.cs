using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Runs;

namespace GateChain.Engine.Rehearsals;

/// <summary>How a step of an earlier run ended.</summary>
/// <param name="Path">The step's path there.</param>
/// <param name="HasFailed">Whether it failed.</param>
/// <param name="Outputs">What it gave, a map.</param>
public sealed record KnownStep(string Path, bool HasFailed, Value Outputs);

/// <summary>What somebody wants to rehearse, as it was handed in: names and values as text or JSON.</summary>
/// <param name="Params">Parameters; text is read as their types ask.</param>
/// <param name="Set">What variables of the chain begin with.</param>
/// <param name="Profile">The values of the profile.</param>
/// <param name="ProfileOfCalled">Those of called chains; see
/// <see cref="RehearsalAssumptions.ProfileOfCalled"/>.</param>
/// <param name="Fail">Steps that are made to fail, <c>depots/load</c>; <c>depots/load:2</c> fails its first two
/// attempts only.</param>
/// <param name="Give">Outputs, <c>load.rows_rejected</c>, and what probes see, <c>load.probes.ready.exists</c>.</param>
public sealed record RehearsalOptions(
    IReadOnlyDictionary<string, Value> Params,
    IReadOnlyDictionary<string, Value> Set,
    Value Profile,
    IReadOnlyList<string> Fail,
    IReadOnlyDictionary<string, Value> Give,
    Func<string, string, Value, Value>? ProfileOfCalled = null
)
{
    /// <summary>How steps of an earlier run ended, which they do again; those that the chain has no more are left
    /// out.</summary>
    public IReadOnlyList<KnownStep> Known { get; init; } = [];

    /// <summary>What the chain has kept from earlier runs, by variable: it begins with that where it still
    /// fits.</summary>
    public Value Kept { get; init; } = Value.EmptyMap;

    /// <summary>The wish, with everything in the types that the chain declares.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="chains">Gives the chains that are called, so that their steps can be named.</param>
    /// <param name="at">The moment it plays at.</param>
    /// <exception cref="RefusedException">Something is named that is not there, is missing, or does not fit its
    /// type.</exception>
    public RehearsalAssumptions Read(Chain chain, Func<CalledChain, Chain?> chains, DateTimeOffset at)
    {
        var steps = StepsOf(chain, chains, depth: 0).ToList();
        var (parameters, variables) = Parameters.ReadOverrides(chain, Set, Bounds.Default);
        foreach (var (name, value) in Params)
            parameters[name] = value;
        foreach (var variable in chain.Kept)
        {
            if (Kept.AsMap.Find(variable.Name) is { } kept && Conversion.To(variable.Type, kept).Value is { } fits)
                variables.TryAdd(variable.Name, fits);
        }
        return new()
        {
            At = at,
            Profile = Profile,
            ProfileOfCalled = ProfileOfCalled,
            Vars = variables,
            Params = Parameters.Read(chain.Parameters, parameters, complete: true, Bounds.Default),
            Fail =
            [
                .. Fail.Select(text => ReadFailure(text, steps)),
                .. KnownOf(steps).Where(k => k.HasFailed).Select(k => new RehearsedFailure(new(k.Path))),
            ],
            // Of two for the same output the later one holds.
            Give = [.. KnownOf(steps).SelectMany(GivenBy), .. Give.Select(g => ReadValue(g.Key, g.Value, steps))],
        };
    }

    IEnumerable<KnownStep> KnownOf(List<(string Address, Step Step)> steps)
    {
        var addresses = steps.Select(s => s.Address).ToHashSet();
        return Known.Where(k => addresses.Contains(new StepPath(k.Path).Address.Text));
    }

    static IEnumerable<RehearsedValue> GivenBy(KnownStep known) =>
        known.Outputs.AsMap.Entries.Select(e => new RehearsedValue(
            new(known.Path),
            null,
            ValueText.ToPlainString(e.Key),
            e.Value
        ));

    // All steps by address; those of child chains behind the call's.
    static IEnumerable<(string Address, Step Step)> StepsOf(Chain chain, Func<CalledChain, Chain?> chains, int depth)
    {
        foreach (var step in chain.AllSteps)
        {
            yield return (step.Address, step);
            if (depth >= 8 || step.Call is null || chains(step.Call.Child) is not { } child)
                continue;
            foreach (var (address, inner) in StepsOf(child, chains, depth + 1))
                yield return ($"{step.Address}/{address}", inner);
        }
    }

    static RehearsedFailure ReadFailure(string text, List<(string Address, Step Step)> steps)
    {
        var colon = text.LastIndexOf(':');
        var path = colon < 0 ? text : text[..colon];
        int? attempts = null;
        if (colon >= 0)
        {
            if (
                !int.TryParse(text.AsSpan(colon + 1), NumberStyles.None, CultureInfo.InvariantCulture, out var count)
                || count < 1
            )
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"“{text}”: after the colon comes how many attempts fail, for example {path}:2"
                );
            }

            attempts = count;
        }
        var step = Find(path, steps);
        if (step.Kind.IsControl && step.Call is null)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{path}” is a step of kind {step.Kind.Name}: it fails by itself or when something inside fails"
            );
        }
        return new(new(path), attempts);
    }

    static RehearsedValue ReadValue(string name, Value value, List<(string Address, Step Step)> steps)
    {
        var parts = name.Split('.');
        var probe = parts.Length == 4 && parts[1] == "probes" ? parts[2] : null;
        if (parts.Length != 2 && probe is null)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{name}” is written STEP.output, or STEP.probes.NAME.field for what a guard sees"
            );
        }
        var step = Find(parts[0], steps);
        var outputs = step.Kind.Outputs;
        if (probe is not null)
        {
            outputs = step.Guard?.Probes.FirstOrDefault(p => p.Name == probe)?.Kind.Outputs
                ?? throw new RefusedException(
                    RefusalKind.Invalid,
                    $"the guard of “{parts[0]}” has no probe “{probe}”"
                        + $"{Fix(probe, step.Guard?.Probes.Select(p => p.Name) ?? [])}"
                );
        }
        var field = parts[^1];
        var open = outputs.ContainsKey("*") || step.Call is not null;
        if (!outputs.TryGetValue(field, out var type) && !open)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{parts[0]}” gives no “{field}”{Fix(field, outputs.Keys)}"
            );
        }
        var (converted, problem) = Conversion.To(type ?? CelType.Dyn, value);
        return new(
            new(parts[0]),
            probe,
            field,
            converted ?? throw new RefusedException(RefusalKind.Invalid, $"“{name}”: {problem}")
        );
    }

    static Step Find(string path, List<(string Address, Step Step)> steps)
    {
        var address = new StepPath(path).Address.Text;
        return steps.Find(s => s.Address == address).Step
            ?? throw new RefusedException(
                RefusalKind.Invalid,
                $"there is no step “{path}”{Fix(address, steps.Select(s => s.Address))}"
            );
    }

    static string Fix(string name, IEnumerable<string> known) => Nearest.Hint(name, known);
}
