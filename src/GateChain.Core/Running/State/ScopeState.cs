using System.Diagnostics.CodeAnalysis;
using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

public enum GatePhase : byte { Undecided, Open, Shut }

public struct GateState
{
    public GatePhase Phase { get; internal set; }

    /// <summary>What its expression gave, when it had one.</summary>
    public GateReason? Reason { get; internal set; }
}

/// <summary>One living scope: the chain's own, a group's, or an iteration's. Changed only by the fold.</summary>
public sealed class ScopeState
{
    readonly Dictionary<string, StepState> _byId;

    internal ScopeState(StepScope scope, StepState? owner, int index, Value item)
    {
        (Scope, Owner, Index, Item) = (scope, owner, index, item);
        Path = owner is null ? "" : index >= 0 ? $"{owner.Path}[{index}]" : owner.Path;
        Steps = new StepState[scope.Steps.Count];
        _byId = new(Steps.Length);
        for (var i = 0; i < Steps.Length; i++)
        {
            Steps[i] = new(scope.Steps[i], this);
            _byId[scope.Steps[i].Id] = Steps[i];
        }
        Gates = new GateState[scope.Gates.Count];
        Unsettled = Steps.Length;
        ResetVariables();
    }

    public StepScope Scope { get; }
    public StepState? Owner { get; }
    public string Path { get; }

    /// <summary>The iteration's number from 0; -1 when this is none.</summary>
    public int Index { get; }

    /// <summary>The iteration's item.</summary>
    public Value Item { get; }

    [SuppressMessage("Performance", "CA1819", Justification = "read on every decision; owned by the machine")]
    public StepState[] Steps { get; }

    [SuppressMessage("Performance", "CA1819", Justification = "read on every decision; owned by the machine")]
    public GateState[] Gates { get; }

    public Dictionary<string, Value> Variables { get; } = [];
    public int Unsettled { get; internal set; }
    public int CountedFailures { get; internal set; }

    /// <summary>For an iteration: whether it has been counted, and how.</summary>
    public Outcome? IterationOutcome { get; internal set; }

    /// <summary>For an iteration: whether it is in flight. One of an earlier leg may wait for its turn.</summary>
    public bool IsOpen { get; internal set; }

    public Value? Collected { get; internal set; }
    public string? IterationError { get; internal set; }
    public DateTimeOffset? Started { get; internal set; }
    public DateTimeOffset? Ended { get; internal set; }

    public StepState? Find(string id) => _byId.GetValueOrDefault(id);

    internal void ResetVariables()
    {
        foreach (var variable in Scope.Variables) { Variables[variable.Name] = variable.Initial; }
    }

    /// <summary>This scope and those around it, innermost first.</summary>
    public IEnumerable<ScopeState> Outward
    {
        get
        {
            for (var scope = this; scope is not null; scope = scope.Owner?.Scope) { yield return scope; }
        }
    }
}

/// <summary>The iterations of one attempt of an each. Changed only by the fold.</summary>
public sealed class EachState(IReadOnlyList<Value> items)
{
    public IReadOnlyList<Value> Items { get; } = items;

    /// <summary>By index; null until the iteration is opened.</summary>
    public IReadOnlyList<ScopeState?> Iterations => Opened;

    internal ScopeState?[] Opened { get; } = new ScopeState?[items.Count];

    /// <summary>The first iteration that has never been opened.</summary>
    public int Next { get; internal set; }

    /// <summary>Iterations of an earlier leg that have to go on, by index.</summary>
    internal Queue<int> Again { get; } = new();

    public int InFlight { get; internal set; }
    public int Succeeded { get; internal set; }
    public int Failed { get; internal set; }
    public int Stopped { get; internal set; }
}
