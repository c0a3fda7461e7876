using GateChain.Core.Identity;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>What a step's guard saw and does. Changed only by the fold.</summary>
public sealed class HoldState
{
    /// <summary>When it first looked.</summary>
    public required DateTimeOffset Since { get; init; }

    /// <summary>How often it has looked, the look that continues included.</summary>
    public int Looks { get; internal set; }

    /// <summary>Whether the look that continues was woken and does not count towards a limit.</summary>
    internal bool Woken { get; set; }

    /// <summary>Who asked for the look that continues; null when nobody did.</summary>
    public Actor? AskedBy { get; internal set; }

    /// <summary>The settings of the probes of the latest look.</summary>
    public Value Asked { get; internal set; } = Value.EmptyMap;

    /// <summary>What the probes saw last.</summary>
    public Value Probes { get; internal set; } = Value.EmptyMap;

    /// <summary>The latest verdict; null before the first.</summary>
    public GuardLooked? Latest { get; internal set; }

    /// <summary>By rule: when it first held the step, and how many looks that count have done so.</summary>
    internal Dictionary<int, (DateTimeOffset Since, int Times)> ByRule { get; } = [];

    internal void Save(SnapshotWriter to)
    {
        to.Time(Since);
        to.Int(Looks);
        to.Bool(Woken);
        to.Bool(AskedBy is not null);
        if (AskedBy is { } by)
            to.Actor(by);
        to.Value(Asked);
        to.Value(Probes);
        to.Events(default, Latest is null ? [] : [Latest]);
        to.Int(ByRule.Count);
        foreach (var (rule, (since, times)) in ByRule)
        {
            to.Int(rule);
            to.Time(since);
            to.Int(times);
        }
    }

    internal static HoldState Restore(SnapshotReader from, string path)
    {
        var hold = new HoldState
        {
            Since = from.Time() ?? throw new FormatException($"the hold of {path} can't be read"),
            Looks = from.Int(),
            Woken = from.Bool(),
            AskedBy = from.Bool() ? from.Actor() : null,
            Asked = from.Value()!.Value,
            Probes = from.Value()!.Value,
        };
        hold.Latest = from.Events() is [GuardLooked looked] ? looked : null;
        for (var left = from.Int(); left > 0; left--)
            hold.ByRule[from.Int()] = (from.Time()!.Value, from.Int());
        return hold;
    }
}
