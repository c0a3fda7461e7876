using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>The iterations of one attempt of an each. Changed only by the fold.</summary>
public sealed class EachState(IReadOnlyList<Value> items)
{
    public IReadOnlyList<Value> Items { get; } = items;

    /// <summary>By index; null until the iteration is opened.</summary>
    public IReadOnlyList<ScopeState?> Iterations => Opened;

    internal ScopeState?[] Opened { get; } = new ScopeState?[items.Count];

    /// <summary>The first iteration that has never been opened.</summary>
    public int Next { get; internal set; }

    /// <summary>Iterations of an earlier leg that have to continue, by index.</summary>
    internal Queue<int> Again { get; } = new();

    internal void Save(SnapshotWriter to)
    {
        to.Value(Value.List(Items));
        to.Int(Next);
        to.Int(InFlight);
        to.Int(Succeeded);
        to.Int(Failed);
        to.Int(Stopped);
        to.Int(Skipped);
        to.Int(Again.Count);
        foreach (var index in Again)
            to.Int(index);
        for (var i = 0; i < Next; i++)
        {
            to.Bool(Opened[i] is not null);
            Opened[i]?.Save(to);
        }
    }

    internal static EachState Restore(SnapshotReader from, StepState owner, IReadOnlyList<AttemptRecord> records)
    {
        var each = new EachState(from.Value()!.Value.AsList)
        {
            Next = from.Int(),
            InFlight = from.Int(),
            Succeeded = from.Int(),
            Failed = from.Int(),
            Stopped = from.Int(),
            Skipped = from.Int(),
        };
        for (var left = from.Int(); left > 0; left--)
            each.Again.Enqueue(from.Int());
        for (var i = 0; i < each.Next; i++)
        {
            if (!from.Bool())
                continue;
            each.Opened[i] = new(owner.Step.Inner!, owner, i, each.Items[i]);
            each.Opened[i]!.Restore(from, records);
        }
        return each;
    }

    internal EachState Clone()
    {
        var twin = new EachState(Items)
        {
            Next = Next,
            Succeeded = Succeeded,
            Failed = Failed,
            Stopped = Stopped,
            Skipped = Skipped,
        };
        foreach (var index in Again)
            twin.Again.Enqueue(index);
        return twin;
    }

    public int InFlight { get; internal set; }
    public int Succeeded { get; internal set; }
    public int Failed { get; internal set; }
    public int Stopped { get; internal set; }

    /// <summary>Those that a person cancelled so.</summary>
    public int Skipped { get; internal set; }

    /// <summary>How many have settled.</summary>
    public int Settled => Succeeded + Failed + Stopped + Skipped;
}
