using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

// A leg on another release: what is kept is carried over by path, everything else begins as the new chain has it.
sealed partial class RunState
{
    void MoveTo(string release)
    {
        var chain = _chains?.Invoke(release)
            ?? throw new InvalidOperationException($"the release {release} is not known");
        (Chain, Release) = (chain, release);
        var old = Root;
        Root = new(chain.Root, null, -1, Value.Null) { Started = old.Started };
        Params = DictionaryMap.Of(
            chain
                .Parameters.Where(p => p.Default is not null)
                .Select(p => KeyValuePair.Create(p.Name, p.Default!.Value))
                .Concat(
                    Params
                        .Entries.Select(e => KeyValuePair.Create(e.Key.AsString, e.Value))
                        .Where(e => chain.Parameters.Any(p => p.Name == e.Key))
                )
        );
        var moved = new Dictionary<ScopeState, ScopeState>();
        Migrate(old, Root, moved);
        // Assignments continue counting for what still exists.
        var assignments = _assignments.ToList();
        _assignments.Clear();
        foreach (var (by, scope, name, value) in assignments)
        {
            if (!moved.TryGetValue(scope, out var home) || home.Scope.Variables.All(v => v.Name != name))
                continue;
            home.Variables[name] = value;
            _assignments.Add((by is null ? null : Find(by.Path), home, name, value));
        }
        Redo = [.. Redo.Select(s => Find(s.Path)).OfType<StepState>()];
        _last = null;
    }

    void Migrate(ScopeState from, ScopeState to, Dictionary<ScopeState, ScopeState> moved)
    {
        moved[from] = to;
        (to.IterationOutcome, to.IterationError, to.Collected, to.Started, to.Ended, to.IsOpen) = (
            from.IterationOutcome,
            from.IterationError,
            from.Collected,
            from.Started,
            from.Ended,
            from.IsOpen
        );
        foreach (var step in from.Steps)
        {
            if (to.Find(step.Step.Id) is not { } target)
                continue;
            (target.SkipInLeg, target.SettleInLeg) = (step.SkipInLeg, step.SettleInLeg);
            if (step.IsSettled || step.GoesOn)
                Migrate(step, target, moved);
        }
    }

    void Migrate(StepState from, StepState to, Dictionary<ScopeState, ScopeState> moved)
    {
        to.Take(from);
        if (from.IsSettled)
        {
            to.Scope.Unsettled--;
            if (to.IsCountedFailure)
                to.Scope.CountedFailures++;
        }
        if (to.Step.Inner is not { } inner)
            return;
        if (from.Inner is { } group)
        {
            to.Inner = new(inner, to, -1, Value.Null);
            Migrate(group, to.Inner, moved);
        }
        if (from.Each is { } each)
        {
            to.Each = each.Clone();
            for (var i = 0; i < each.Opened.Length; i++)
            {
                if (each.Opened[i] is not { } iteration)
                    continue;
                to.Each.Opened[i] = new(inner, to, i, iteration.Item);
                Migrate(iteration, to.Each.Opened[i]!, moved);
            }
        }
        if (from.Repeat is { } repeat)
        {
            to.Repeat = new() { Before = repeat.Before };
            foreach (var variable in inner.Variables)
                to.Repeat.Variables[variable.Name] = variable.Initial;
            foreach (var round in repeat.Opened)
            {
                var twin = new ScopeState(inner, to, round.Index, Value.Null, to.Repeat.Variables);
                to.Repeat.Opened.Add(twin);
                Migrate(round, twin, moved);
            }
        }
    }
}
