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

/// <summary>One living scope: the chain's own, a group's, an iteration's, a round's or a handler's. Changed only by the fold.</summary>
public sealed class ScopeState
{
    internal ScopeState(StepScope scope, StepState? owner, int index, Value item, Dictionary<string, Value>? variables = null)
        : this(scope, owner is null ? "" : index >= 0 ? $"{owner.Path}[{index}]" : owner.Path, variables)
    {
        (Owner, Index, Item, Outer, IsHandler) = (owner, index, item, owner?.Scope, owner?.Scope.IsHandler ?? false);
    }

    /// <summary>A handler's scope.</summary>
    internal ScopeState(StepScope scope, ScopeState root, int number) : this(scope, $"{scope.Address}[{number}]", null)
    {
        (Index, Item, Outer, IsHandler) = (-1, Value.Null, root, true);
    }

    ScopeState(StepScope scope, string path, Dictionary<string, Value>? variables)
    {
        (Scope, Path) = (scope, path);
        Steps = new StepState[scope.Steps.Count];
        for (var i = 0; i < Steps.Length; i++) { Steps[i] = new(scope.Steps[i], this); }
        Gates = scope.Gates.Count == 0 ? [] : new GateState[scope.Gates.Count];
        Unsettled = Steps.Length;
        Variables = variables ?? (scope.Variables.Count == 0 ? NoVariables : []);
        if (variables is null) { ResetVariables(); }
    }

    static readonly Dictionary<string, Value> NoVariables = [];

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

    /// <summary>For an iteration: whether it is in flight. One of an earlier leg may wait for its turn.</summary>
    public bool IsOpen { get; internal set; }

    public Value? Collected { get; internal set; }
    public string? IterationError { get; internal set; }
    public DateTimeOffset? Started { get; internal set; }
    public DateTimeOffset? Ended { get; internal set; }

    internal void Save(SnapshotWriter to)
    {
        to.Time(Started);
        to.Time(Ended);
        to.Int(IterationOutcome is { } outcome ? (int)outcome : -1);
        to.Text(IterationError, true);
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
            to.Int(gate.Reason is null ? (int)gate.Phase : 10 + (int)gate.Phase);
            if (gate.Reason is not { } reason) { continue; }
            to.Parts(reason.Parts);
            to.Text(reason.Error, true);
        }
        foreach (var step in Steps) { step.Save(to); }
    }

    internal void Restore(SnapshotReader from, IReadOnlyList<AttemptRecord> records)
    {
        (Started, Ended) = (from.Time(), from.Time());
        IterationOutcome = from.Int() is >= 0 and var outcome ? (Outcome)outcome : null;
        (IterationError, Collected, IsOpen, Unsettled, CountedFailures) = (from.TextOrNull(), from.Value(), from.Bool(), from.Int(), from.Int());
        for (var left = from.Int(); left > 0; left--) { Variables[from.Text()] = from.Value()!.Value; }
        for (var i = 0; i < Gates.Length; i++)
        {
            var phase = from.Int();
            Gates[i].Phase = (GatePhase)(phase % 10);
            if (phase >= 10) { Gates[i].Reason = new(from.Parts(), from.TextOrNull()); }
        }
        foreach (var step in Steps) { step.Restore(from, records); }
    }

    public StepState? Find(string id) => Scope.Find(id) is { } step ? Steps[step.Index] : null;

    internal void ResetVariables()
    {
        foreach (var variable in Scope.Variables) { Variables[variable.Name] = variable.Initial; }
    }

    /// <summary>This scope and those around it, innermost first.</summary>
    public IEnumerable<ScopeState> Outward
    {
        get
        {
            for (var scope = this; scope is not null; scope = scope.Outer) { yield return scope; }
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

    internal void Save(SnapshotWriter to)
    {
        to.Value(Value.List(Items));
        to.Int(Next);
        to.Int(InFlight);
        to.Int(Succeeded);
        to.Int(Failed);
        to.Int(Stopped);
        to.Int(Again.Count);
        foreach (var index in Again) { to.Int(index); }
        for (var i = 0; i < Next; i++)
        {
            to.Bool(Opened[i] is not null);
            Opened[i]?.Save(to);
        }
    }

    internal static EachState Restore(SnapshotReader from, StepState owner, IReadOnlyList<AttemptRecord> records)
    {
        var each = new EachState(from.Value()!.Value.AsList) { Next = from.Int(), InFlight = from.Int(), Succeeded = from.Int(), Failed = from.Int(), Stopped = from.Int() };
        for (var left = from.Int(); left > 0; left--) { each.Again.Enqueue(from.Int()); }
        for (var i = 0; i < each.Next; i++)
        {
            if (!from.Bool()) { continue; }
            each.Opened[i] = new(owner.Step.Inner!, owner, i, each.Items[i]);
            each.Opened[i]!.Restore(from, records);
        }
        return each;
    }

    internal EachState Twin()
    {
        var twin = new EachState(Items) { Next = Next, Succeeded = Succeeded, Failed = Failed, Stopped = Stopped };
        foreach (var index in Again) { twin.Again.Enqueue(index); }
        return twin;
    }

    public int InFlight { get; internal set; }
    public int Succeeded { get; internal set; }
    public int Failed { get; internal set; }
    public int Stopped { get; internal set; }
}

/// <summary>The rounds of one attempt of a repeat. Changed only by the fold.</summary>
public sealed class RepeatState
{
    internal List<ScopeState> Opened { get; } = [];

    /// <summary>All rounds so far; the first one has the number 1.</summary>
    public IReadOnlyList<ScopeState> Rounds => Opened;

    /// <summary>The round that goes on; null before the first and between two.</summary>
    public ScopeState? Current => Opened is [.., { IterationOutcome: null } last] ? last : null;

    /// <summary>When the next round begins; null when none waits for a time.</summary>
    public DateTimeOffset? Next { get; internal set; }

    /// <summary>How many rounds earlier legs were through with.</summary>
    public int Before { get; internal set; }

    internal Dictionary<string, Value> Variables { get; } = [];

    internal void Save(SnapshotWriter to)
    {
        to.Time(Next);
        to.Int(Before);
        to.Int(Variables.Count);
        foreach (var (name, value) in Variables)
        {
            to.Text(name);
            to.Value(value);
        }
        to.Int(Opened.Count);
        foreach (var round in Opened) { round.Save(to); }
    }

    internal static RepeatState Restore(SnapshotReader from, StepState owner, IReadOnlyList<AttemptRecord> records)
    {
        var repeat = new RepeatState { Next = from.Time(), Before = from.Int() };
        for (var left = from.Int(); left > 0; left--) { repeat.Variables[from.Text()] = from.Value()!.Value; }
        for (var left = from.Int(); left > 0; left--)
        {
            repeat.Opened.Add(new(owner.Step.Inner!, owner, repeat.Opened.Count + 1, Value.Null, repeat.Variables));
            repeat.Opened[^1].Restore(from, records);
        }
        return repeat;
    }
}

/// <summary>One time that a handler ran. Changed only by the fold.</summary>
/// <param name="Occasion">What it is for.</param>
/// <param name="Number">From 1 over all handlers of the run.</param>
/// <param name="Leg">The leg it belongs to.</param>
/// <param name="Error">What its expressions see as <c>error</c>.</param>
/// <param name="Scope">Its steps.</param>
public sealed record HandlerState(Occasion Occasion, int Number, int Leg, StepError? Error, ScopeState Scope);
