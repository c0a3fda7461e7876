using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Testing;

/// <summary>The tests of a chain: a file of cases that are rehearsed, each with what is expected. Immutable.</summary>
/// <param name="File">The file.</param>
/// <param name="Chain">The chain.</param>
/// <param name="Floor">The least share of ways that all cases together have to go, 0 to 100; null for none.</param>
/// <param name="Cases">The cases, in the order of the file.</param>
public sealed record ChainTests(string File, Chain Chain, double? Floor, IReadOnlyList<TestCase> Cases);

/// <summary>A case: what a run meets, and what is expected of it.</summary>
public sealed record TestCase
{
    public required string Name { get; init; }
    public required Span Span { get; init; }

    /// <summary>When it plays.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>Parameters, of the declared types.</summary>
    public IReadOnlyDictionary<string, Value> Params { get; init; } = new Dictionary<string, Value>();

    /// <summary>What variables of the chain begin with: what an earlier run has kept, or other values.</summary>
    public IReadOnlyDictionary<string, Value> Vars { get; init; } = new Dictionary<string, Value>();

    /// <summary>The profile; null for the one that is taken without a name.</summary>
    public string? Profile { get; init; }

    /// <summary>What steps give, how they fail, and what their guards see.</summary>
    public IReadOnlyList<PlannedStep> Steps { get; init; } = [];

    public Expectations Expect { get; init; } = new();
}

/// <summary>What attempts of a step come to; nothing said is success with the sample outputs of its kind.</summary>
/// <param name="Step">The step: one instance, or those of all iterations and rounds.</param>
/// <param name="Attempts">Each attempt by itself, the first one first; the last one holds for all later ones.</param>
/// <param name="Probes">What probes of its guard see, by name.</param>
/// <param name="Plays">Whether a called chain is played; otherwise it only comes to what is said here.</param>
public sealed record PlannedStep(
    StepPattern Step,
    IReadOnlyList<PlannedAttempt> Attempts,
    IReadOnlyDictionary<string, IReadOnlyDictionary<string, Value>> Probes,
    bool Plays
);

/// <summary>What one attempt comes to.</summary>
/// <param name="Gives">Its outputs; those that are not said are the sample's, and of one that fails none.</param>
/// <param name="Fails">Its failure; null when it succeeds.</param>
public sealed record PlannedAttempt(IReadOnlyDictionary<string, Value> Gives, StepError? Fails);

/// <summary>What is expected of a case, with its places; what is not said is not looked at.</summary>
public sealed record Expectations
{
    /// <summary>How the run ends: a word of the vocabulary; <c>paused</c> for one that asks a person.</summary>
    public (string Word, Span Span)? Outcome { get; init; }

    /// <summary>A text that stands in the run's error.</summary>
    public (string Text, Span Span)? Error { get; init; }

    /// <summary>How steps end; <c>not reached</c> for those that a run never came to.</summary>
    public IReadOnlyList<(StepPattern Step, string Word, Span Span)> Steps { get; init; } = [];

    /// <summary>How many attempts steps took, in the latest leg.</summary>
    public IReadOnlyList<(StepPattern Step, long Count, Span Span)> Attempts { get; init; } = [];

    /// <summary>Gates, and whether they are open.</summary>
    public IReadOnlyList<ExpectedGate> Gates { get; init; } = [];

    /// <summary>Steps that settle in this order; others may lie between.</summary>
    public IReadOnlyList<(StepPattern Step, Span Span)> Order { get; init; } = [];

    /// <summary>The chain's outputs.</summary>
    public IReadOnlyList<(string Name, Value Value, Span Span)> Outputs { get; init; } = [];

    /// <summary>Variables of the chain at its end.</summary>
    public IReadOnlyList<(string Name, Value Value, Span Span)> Vars { get; init; } = [];

    /// <summary>Settings of steps as they are after their expressions: <c>subject</c> of a mail.</summary>
    public IReadOnlyList<ExpectedSetting> Settings { get; init; } = [];

    /// <summary>Expressions that are true at the end; they see what outputs of the chain see.</summary>
    public IReadOnlyList<SourceExpression> Holds { get; init; } = [];
}

/// <summary>A gate, and whether it is expected to be open.</summary>
/// <param name="Scope">The path of the scope; empty for the chain's own.</param>
/// <param name="From">The step it leaves.</param>
/// <param name="To">The step it leads to.</param>
/// <param name="Branch">Its branch, where several lead from one to the other; null for whichever.</param>
/// <param name="IsOpen">Whether it is to be open.</param>
/// <param name="Span">Where it stands.</param>
public sealed record ExpectedGate(string Scope, string From, string To, string? Branch, bool IsOpen, Span Span)
{
    /// <summary>Whether it is a gate of its scope.</summary>
    public bool IsOf(Gate gate) =>
        gate.From.Id == From && gate.To.Id == To && (Branch is null || gate.Branch == Branch);
}

/// <summary>A setting as it is to be.</summary>
/// <param name="Step">The step.</param>
/// <param name="Setting">Its place, as <c>from.csv</c>.</param>
/// <param name="Value">What it is to be.</param>
/// <param name="Contains">Whether it is a text in which that stands, and not all of it.</param>
/// <param name="Span">Where it stands.</param>
public sealed record ExpectedSetting(StepPattern Step, string Setting, Value Value, bool Contains, Span Span);
