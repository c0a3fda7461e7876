using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>The rounds of one attempt of a repeat. Changed only by the fold.</summary>
public sealed class RepeatState
{
    internal List<ScopeState> Opened { get; } = [];

    /// <summary>All rounds so far; the first one has the number 1.</summary>
    public IReadOnlyList<ScopeState> Rounds => Opened;

    /// <summary>The round that continues; null before the first and between two.</summary>
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
        foreach (var round in Opened)
            round.Save(to);
    }

    internal static RepeatState Restore(SnapshotReader from, StepState owner, IReadOnlyList<AttemptRecord> records)
    {
        var repeat = new RepeatState { Next = from.Time(), Before = from.Int() };
        for (var left = from.Int(); left > 0; left--)
            repeat.Variables[from.Text()] = from.Value()!.Value;
        for (var left = from.Int(); left > 0; left--)
        {
            repeat.Opened.Add(new(owner.Step.Inner!, owner, repeat.Opened.Count + 1, Value.Null, repeat.Variables));
            repeat.Opened[^1].Restore(from, records);
        }
        return repeat;
    }
}
