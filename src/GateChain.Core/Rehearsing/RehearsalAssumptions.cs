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

    /// <summary>Attempts of steps one by one; they count before the others.</summary>
    public IReadOnlyList<RehearsedAttempts> Attempts { get; init; } = [];

    /// <summary>What guards see, look by look; it counts before what is given for a probe.</summary>
    public IReadOnlyList<RehearsedLooks> Looks { get; init; } = [];

    /// <summary>
    /// When what was asked of the world was answered in a run that is played again, in that order: others may be at
    /// work meanwhile. What is not there is answered at once, and so is all of it when this is empty.
    /// </summary>
    public IReadOnlyList<RehearsedAnswer> Answers { get; init; } = [];

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
            Attempts =
            [
                .. Attempts
                    .Select(a => a.Step.Inside(call) is { } inner ? a with { Step = inner } : null)
                    .OfType<RehearsedAttempts>(),
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

/// <summary>What the attempts of a step come to, one by one.</summary>
/// <param name="Step">The step.</param>
/// <param name="Results">The first one first; the last one holds for all later ones. At least one.</param>
/// <param name="Plays">Whether a called chain is played, and this said of it when it has ended.</param>
public sealed record RehearsedAttempts(StepPattern Step, IReadOnlyList<RehearsedResult> Results, bool Plays = true)
{
    /// <summary>
    /// Whether they are those of one run, in their order, also where a container around the step was done again and its
    /// attempts were counted anew.
    /// </summary>
    public bool InOrder { get; init; }

    /// <summary>That of an attempt.</summary>
    public RehearsedResult Of(int attempt) => Results[Math.Clamp(attempt, 1, Results.Count) - 1];
}

/// <summary>What one attempt comes to.</summary>
/// <param name="Outputs">Its outputs; what is not there is the sample's, and of one that fails nothing.</param>
/// <param name="Error">Its failure; null for success.</param>
public sealed record RehearsedResult(IReadOnlyDictionary<string, Value> Outputs, Running.Events.StepError? Error);

/// <summary>What the probes of a step's guard see at each look; the last one holds for all later ones.</summary>
/// <param name="Step">The step.</param>
/// <param name="Probes">Maps of what each probe sees, by name.</param>
public sealed record RehearsedLooks(StepPattern Step, IReadOnlyList<Value> Probes);

/// <summary>When something was answered.</summary>
/// <param name="Path">The path of the step.</param>
/// <param name="IsLook">Whether it is a look of its guard, and not the end of an attempt.</param>
/// <param name="After">How long after the run's start.</param>
public sealed record RehearsedAnswer(string Path, bool IsLook, TimeSpan After);
