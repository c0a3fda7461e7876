using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>
/// What names mean to expressions at one place of a run: read from its state when asked, nothing is copied.
/// </summary>
sealed class RunBindings(
    RunState run,
    ScopeState scope,
    DateTimeOffset now,
    Bounds bounds,
    CancellationToken cancel = default
) : IBindings
{
    public Bounds Bounds => bounds;
    public CancellationToken Cancel => cancel;

    /// <summary>The result of the step that just worked, for <c>assign</c>.</summary>
    public Value? Result { get; init; }

    /// <summary>The error of the attempt that just failed, for <c>retry.when</c>.</summary>
    public StepError? Error { get; init; }

    /// <summary>What probes saw, for guards and for the step behind one.</summary>
    public Value? Probes { get; init; }

    /// <summary>The number of the round that is about to begin.</summary>
    public int? Round { get; init; }

    /// <summary>
    /// Variables that are assigned together with what is being computed, or that stand before those of the scope.
    /// </summary>
    public Dictionary<string, Value>? Assigned { get; init; }

    public bool TryGet(string name, out Value value)
    {
        Value? found = name switch
        {
            "params" => Value.Map(run.Params),
            "vars" => Value.Map(new VariableMap(scope, Assigned)),
            "steps" => Value.Map(new StepsMap(scope)),
            "profile" => run.Profile,
            "run" => RunMap(),
            "now" => Value.Timestamp(now),
            "event" => run.Fire?.Event ?? Value.EmptyMap,
            "result" => Result,
            "error" => (Error ?? HandlerError()) is { } error ? ErrorMap(error) : null,
            "probes" => Probes is { } probes ? Value.Map(new ProbesMap(probes.AsMap)) : null,
            "item" => Iteration()?.Item,
            "index" => Iteration() is { } iteration ? Value.Int(iteration.Index) : null,
            "round" => (Round ?? scope.Outward.FirstOrDefault(s => s.Owner?.Repeat is not null)?.Index) is { } round
                ? Value.Int(round)
                : null,
            _ => Loop(name),
        };
        value = found ?? default;
        return found is not null;
    }

    // A loop that names what it goes through is read from any scope inside.
    Value? Loop(string name)
    {
        foreach (var at in scope.Outward)
        {
            if (at.Owner is { } owner && owner.Step.LoopName == name)
            {
                return owner.Each is not null
                    ? Value.Map(("item", at.Item), ("index", Value.Int(at.Index)))
                    : Value.Map(("round", Value.Int(at.Index)));
            }
        }
        return null;
    }

    ScopeState? Iteration() => scope.Outward.FirstOrDefault(s => s.Owner?.Each is not null);

    StepError? HandlerError() =>
        !scope.IsHandler ? null : run.Handlers.FirstOrDefault(h => scope.Outward.Contains(h.Scope))?.Error;

    Value RunMap() =>
        Value.Map(
            ("id", Value.Int(run.Id)),
            ("chain", Value.String(run.Chain.Name)),
            ("release", run.Number is { } number ? Value.Int(number) : Value.String(run.Release)),
            ("leg", Value.Int(run.Leg)),
            ("started", Value.Timestamp(run.Started ?? now)),
            ("trigger", Value.String(run.Fire?.Trigger ?? (run.Parent is null ? "person" : "call"))),
            ("event", run.Fire?.Event ?? Value.EmptyMap),
            ("folder", Value.String($"runs/{run.Id}")),
            ("url", Value.String(run.Home is { } home ? $"{home.TrimEnd('/')}/runs/{run.Id}" : "")),
            ("outcome", Value.String(run.RootEnd?.Outcome.Word() ?? "")),
            ("late", Value.Bool(run.IsLate))
        );

    internal static Value ErrorMap(StepError error) =>
        Value.Map(("code", Value.String(error.Code)), ("message", Value.String(error.Message)));
}

/// <summary><c>vars</c>: the innermost declaration of a name wins.</summary>
sealed class VariableMap(ScopeState scope, Dictionary<string, Value>? assigned) : MapValue
{
    public override int Count => Entries.Count();

    public override bool TryGet(Value key, out Value value)
    {
        value = default;
        if (key.Kind != ValueKind.String)
            return false;
        if (assigned is not null && assigned.TryGetValue(key.AsString, out value))
            return true;
        foreach (var outer in scope.Outward)
        {
            if (outer.Variables.TryGetValue(key.AsString, out value))
                return true;
        }
        return false;
    }

    public override IEnumerable<KeyValuePair<Value, Value>> Entries =>
        scope
            .Outward.SelectMany(s => s.Variables.Keys)
            .Distinct()
            .Select(name =>
                KeyValuePair.Create(Value.String(name), TryGet(Value.String(name), out var value) ? value : Value.Null)
            );
}

/// <summary><c>steps</c>: the steps of this scope and of those around it.</summary>
sealed class StepsMap(ScopeState scope) : MapValue
{
    public override int Count => Entries.Count();

    public override bool TryGet(Value key, out Value value)
    {
        var step =
            key.Kind == ValueKind.String
                ? scope.Outward.Select(s => s.Find(key.AsString)).FirstOrDefault(s => s is not null)
                : null;
        value = step is null ? default : Value.Map(new StepMap(step));
        return step is not null;
    }

    public override IEnumerable<KeyValuePair<Value, Value>> Entries =>
        scope
            .Outward.SelectMany(s => s.Steps)
            .Select(s => KeyValuePair.Create(Value.String(s.Step.Id), Value.Map(new StepMap(s))));
}

/// <summary><c>steps.x</c>: what the run knows of the step, and its outputs.</summary>
sealed class StepMap(StepState step) : MapValue
{
    /// <summary>Names that outputs can't have, with their types.</summary>
    public static IReadOnlyList<(string Name, CelType Type)> OwnTypes { get; } =
    [
        ("state", CelType.String),
        ("attempts", CelType.Int),
        ("started", CelType.Timestamp),
        ("ended", CelType.Timestamp),
        ("error", CelType.Map(CelType.String, CelType.String)),
    ];

    static readonly string[] Own = [.. OwnTypes.Select(o => o.Name)];

    // What a step did not give, because of how it ended, is absent; what it gave without this name is a mistake of the
    // chain.
    internal override EvaluationError? WhyMissing(Value key)
    {
        var (name, id) = (ValueText.ToPlainString(key), step.Step.Id);
        if (name == "error")
            return step.Error is null ? Absent("it did not fail") : null;
        // A child says itself why it did not give an output.
        var child = step.Warnings.FirstOrDefault(w => w.StartsWith($"output “{name}” ", StringComparison.Ordinal));
        return step.Phase switch
        {
            StepPhase.Settled when step.Step.Disabled => Absent("it is disabled"),
            StepPhase.Settled when step.Outcome == Outcome.Skipped => Absent("it was skipped"),
            StepPhase.Settled when step.Outcome == Outcome.Stopped => Absent("it was stopped"),
            StepPhase.Settled when step.Outcome == Outcome.Failed => Absent("it failed"),
            StepPhase.Settled when child is not null => Absent($"run {step.Child?.Run}: {child}"),
            StepPhase.Settled => null,
            _ => Absent("it has not settled yet"),
        };

        EvaluationError Absent(string why) =>
            new(
                $"steps.{id} has no {name}, because "
                    + $"{(why.StartsWith("it ", StringComparison.Ordinal) ? $"“{id}” {why[3..]}" : $"in {why}")}"
            )
            {
                IsAbsent = true,
            };
    }

    public override int Count => Entries.Count();

    public override bool TryGet(Value key, out Value value)
    {
        Value? own =
            key.Kind != ValueKind.String
                ? null
                : key.AsString switch
                {
                    "state" => Value.String(step.Word),
                    "attempts" => Value.Int(step.Attempt),
                    "started" when step.Started is { } at => Value.Timestamp(at),
                    "ended" when step.Ended is { } at => Value.Timestamp(at),
                    "error" when step.Error is { } error => RunBindings.ErrorMap(error),
                    _ => null,
                };
        value = own ?? default;
        return own is not null || step.Outputs.AsMap.TryGet(key, out value);
    }

    public override IEnumerable<KeyValuePair<Value, Value>> Entries
    {
        get
        {
            foreach (var name in Own)
            {
                if (TryGet(Value.String(name), out var value))
                    yield return KeyValuePair.Create(Value.String(name), value);
            }
            foreach (var entry in step.Outputs.AsMap.Entries)
            {
                if (entry.Key.Kind != ValueKind.String || !Own.Contains(entry.Key.AsString))
                    yield return entry;
            }
        }
    }
}

/// <summary><c>probes</c>: what the probes of a guard saw.</summary>
sealed class ProbesMap(MapValue probes) : MapValue
{
    public override int Count => probes.Count;

    public override bool TryGet(Value key, out Value value)
    {
        var found = probes.TryGet(key, out value);
        if (found && value.Kind == ValueKind.Map)
            value = Value.Map(new ProbeMap(ValueText.ToPlainString(key), value.AsMap));
        return found;
    }

    public override IEnumerable<KeyValuePair<Value, Value>> Entries => probes.Entries;
}

/// <summary><c>probes.x</c>; when it could not look, that is why what it would have seen is not there.</summary>
sealed class ProbeMap(string name, MapValue seen) : MapValue
{
    public override int Count => seen.Count;

    public override bool TryGet(Value key, out Value value) => seen.TryGet(key, out value);

    public override IEnumerable<KeyValuePair<Value, Value>> Entries => seen.Entries;

    internal override EvaluationError? WhyMissing(Value key) =>
        seen.Find("ok") is { Kind: ValueKind.Bool, AsBool: false }
            ? new(
                $"probe “{name}” could not look: "
                    + (seen.Find("error") is { Kind: ValueKind.String } error ? error.AsString : "it did not say why")
                    + $" (so probes.{name}.{ValueText.ToPlainString(key)} is not there)"
            )
            : null;
}
