using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;

namespace GateChain.Core.Triggers;

/// <summary>What starts a chain by itself, as <c>triggers.yaml</c> says it. Immutable. Thread-safe.</summary>
public sealed record TriggerDefinition
{
    /// <summary>Its name: one in the whole workspace. Keys and state belong to it.</summary>
    public required string Name { get; init; }

    /// <summary>The chain that it starts.</summary>
    public required string Chain { get; init; }

    /// <summary>When it fires.</summary>
    public required TriggerSource Source { get; init; }

    /// <summary>What must hold, over the event; otherwise the fire is passed over. Null for always.</summary>
    public SourceExpression? When { get; init; }

    /// <summary>What the chain's parameters are, over the event.</summary>
    public IReadOnlyList<NamedExpression> Params { get; init; } = [];

    /// <summary>The profile of the runs; null for the one that a run without a name has.</summary>
    public string? Profile { get; init; }

    /// <summary>Whether the file says that it is on.</summary>
    public bool Active { get; init; } = true;

    /// <summary>The name that it had: its state is carried over once. Null for none.</summary>
    public string? Renamed { get; init; }

    /// <summary>The folder that its file lies in: calendars, connections and files are looked for from there.</summary>
    public Area Area { get; init; }

    /// <summary>Where its name stands in the file.</summary>
    public Span Span { get; init; }

    /// <summary>Where the name of its chain stands.</summary>
    public Span ChainSpan { get; init; }

    /// <summary>
    /// What of it decides which occasions it has: when that changes, times before the change are not missed.
    /// </summary>
    public required string Text { get; init; }

    /// <summary>All that its file says of it: two with the same are the same trigger.</summary>
    public required string Whole { get; init; }
}

/// <summary>When a trigger fires. Immutable.</summary>
public abstract record TriggerSource
{
    /// <summary>The word for it in files and lists.</summary>
    public abstract string Kind { get; }

    /// <summary>When it fires, in a sentence without a full stop.</summary>
    public abstract string Sentence { get; }
}
