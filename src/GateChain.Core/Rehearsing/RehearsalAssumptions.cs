using GateChain.Core.Values;

namespace GateChain.Core.Rehearsing;

/// <summary>
/// What a person chooses for a rehearsal. Everything else succeeds, with the sample outputs of its kind.
/// </summary>
public sealed record RehearsalAssumptions
{
    /// <summary>The moment it plays at; it takes no time but that of waits.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>Parameters, of the declared types.</summary>
    public IReadOnlyDictionary<string, Value> Params { get; init; } = new Dictionary<string, Value>();

    /// <summary>What the chain's variables begin with, of the declared types.</summary>
    public IReadOnlyDictionary<string, Value> Vars { get; init; } = new Dictionary<string, Value>();

    public Value Profile { get; init; } = Value.EmptyMap;

    /// <summary>
    /// The profile values of a called chain: given the caller's name, the called one's, and the caller's values. Null
    /// when all have the same.
    /// </summary>
    public Func<string, string, Value, Value>? ProfileOfCalled { get; init; }

    /// <summary>Steps that are made to fail.</summary>
    public IReadOnlyList<RehearsedFailure> Fail { get; init; } = [];

    /// <summary>Outputs, and what probes see.</summary>
    public IReadOnlyList<RehearsedValue> Give { get; init; } = [];

    /// <summary>The wish as seen from inside a child run.</summary>
    internal RehearsalAssumptions Inside(
        string call,
        DateTimeOffset at,
        IReadOnlyDictionary<string, Value> inputs,
        Value profile
    ) =>
        this with
        {
            At = at,
            Params = inputs,
            Profile = profile,
            Vars = new Dictionary<string, Value>(),
            Fail =
            [
                .. Fail.Select(f => f.Step.Inside(call) is { } inner ? f with { Step = inner } : null)
                    .OfType<RehearsedFailure>(),
            ],
            Give =
            [
                .. Give.Select(g => g.Step.Inside(call) is { } inner ? g with { Step = inner } : null)
                    .OfType<RehearsedValue>(),
            ],
        };
}

/// <param name="Attempts">How many of the first attempts fail; null for all.</param>
public sealed record RehearsedFailure(StepPattern Step, int? Attempts = null);

/// <param name="Probe">The guard's probe that sees the value; null for an output.</param>
public sealed record RehearsedValue(StepPattern Step, string? Probe, string Name, Value Value);
