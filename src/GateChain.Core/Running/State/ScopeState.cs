using System.Diagnostics.CodeAnalysis;
using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

public enum GatePhase : byte
{
    Undecided,
    Open,
    Shut,
}

public struct GateState
{
    public GatePhase Phase { get; internal set; }

    /// <summary>What its expression gave, when it had one.</summary>
    public GateReason? Reason { get; internal set; }

    /// <summary>Which gate to its target it was to open, from 1; 0 while it is not open.</summary>
    public int Place { get; internal set; }
}

/// <summary>
/// One living scope: the chain's own, a group's, an iteration's, a round's or a handler's. Changed only by the fold.
/// </summary>
public sealed class ScopeState
{
    internal ScopeState(
        StepScope scope,
        StepState? owner,
        int index,
        Value item,
        Dictionary<string, Value>? variables = null
    )
        : this(
            scope,
            owner is null ? ""
                : index >= 0 ? $"{owner.Path}[{index}]"
                : owner.Path,
            variables
        )
    {
        (Owner, Index, Item, Outer, IsHandler) = (owner, index, item, owner?.Scope, owner?.Scope.IsHandler ?? false);
    }

    /// <summary>A handler's scope.</summary>
    internal ScopeState(StepScope scope, ScopeState root, int number)
        : this(scope, $"{scope.Address}[{number}]", null)
    {
        (Index, Item, Outer, IsHandler) = (-1, Value.Null, root, true);
    }

    ScopeState(StepScope scope, string path, Dictionary<string, Value>? variables)
    {
        (Scope, Path) = (scope, path);
        Steps = new StepState[scope.Steps.Count];
        for (var i = 0; i < Steps.Length; i++)
            Steps[i] = new(scope.Steps[i], this);
        Gates = scope.Gates.Count == 0 ? [] : new GateState[scope.Gates.Count];
        Unsettled = Steps.Length;
        Variables = variables ?? (scope.Variables.Count == 0 ? NoVariables : []);
        if (variables is null)
            ResetVariables();
    }

    static readonly Dictionary<string, Value> NoVariables = [];

    Moment _started,
        _ended;

    public StepScope Scope { get; }
    public StepState? Owner { get; }
    public string Path { get; }

    /// <summary>The scope around this one; for a handler's, the chain's own.</summary>
    public ScopeState? Outer { get; }

    /// <summary>Whether it is a handler's scope, or lies in one.</summary>
    public bool IsHandler { get; }

    /// <summary>The iteration's number from 0, the round's from 1; -1 when this is neither.</summary>
    public int Index { get; }

    /// <summary>The iteration's item.</summary>
    public Value Item { get; }

    [SuppressMessage("Performance", "CA1819", Justification = "read on every decision; owned by the machine")]
    public StepState[] Steps { get; }

    [SuppressMessage("Performance", "CA1819", Justification = "read on every decision; owned by the machine")]
    public GateState[] Gates { get; }

    /// <summary>The rounds of a repeat share theirs.</summary>
    public Dictionary<string, Value> Variables { get; }
    public int Unsettled { get; internal set; }
    public int CountedFailures { get; internal set; }

    /// <summary>For an iteration or a round: whether it has been counted, and how.</summary>
    public Outcome? IterationOutcome { get; internal set; }

    /// <summary>For an iteration: how a person has said that it ends; null when nobody has.</summary>
    public StepCancelled? Cancelled { get; internal set; }

    /// <summary>For an iteration: whether it is in flight. One of an earlier leg may wait for its turn.</summary>
    public bool IsOpen { get; internal set; }

    public Value? Collected { get; internal set; }
    public string? IterationError { get; internal set; }
    public DateTimeOffset? Started
    {
        get => _started;
        internal set => _started = value;
    }
    public DateTimeOffset? Ended
    {
        get => _ended;
        internal set => _ended = value;
    }

    internal void Save(SnapshotWriter to)
    {
        to.Time(Started);
        to.Time(Ended);
        to.Int(IterationOutcome is { } outcome ? (int)outcome : -1);
        to.TextOrNull(IterationError);
        to.Cancelled(Cancelled);
        to.Value(Collected);
        to.Bool(IsOpen);
        to.Int(Unsettled);
        to.Int(CountedFailures);
        to.Int(Variables.Count);
        foreach (var (name, value) in Variables)
        {
            to.Text(name);
            to.Value(value);
        }
        foreach (var gate in Gates)
        {
            to.Int((gate.Reason is null ? (int)gate.Phase : 10 + (int)gate.Phase) + 20 * gate.Place);
            if (gate.Reason is not { } reason)
                continue;
            to.Parts(reason.Parts);
            to.TextOrNull(reason.Error);
        }
        foreach (var step in Steps)
            step.Save(to);
    }

    internal void Restore(SnapshotReader from, IReadOnlyList<AttemptRecord> records)
    {
        (Started, Ended) = (from.Time(), from.Time());
        IterationOutcome = from.Int() is >= 0 and var outcome ? (Outcome)outcome : null;
        (IterationError, Cancelled, Collected, IsOpen, Unsettled, CountedFailures) = (
            from.TextOrNull(),
            from.Cancelled(),
            from.Value(),
            from.Bool(),
            from.Int(),
            from.Int()
        );
        for (var left = from.Int(); left > 0; left--)
            Variables[from.Text()] = from.Value()!.Value;
        for (var i = 0; i < Gates.Length; i++)
        {
            var (place, phase) = Math.DivRem(from.Int(), 20);
            (Gates[i].Phase, Gates[i].Place) = ((GatePhase)(phase % 10), place);
            if (phase >= 10)
                Gates[i].Reason = new(from.Parts(), from.TextOrNull());
        }
        foreach (var step in Steps)
            step.Restore(from, records);
    }

    public StepState? Find(string id) => Scope.Find(id) is { } step ? Steps[step.Index] : null;

    internal void ResetVariables()
    {
        foreach (var variable in Scope.Variables)
            Variables[variable.Name] = variable.Initial;
    }

    /// <summary>This scope and those around it, innermost first.</summary>
    public IEnumerable<ScopeState> Outward
    {
        get
        {
            for (var scope = this; scope is not null; scope = scope.Outer)
                yield return scope;
        }
    }
}
