using GateChain.Core.Values;

namespace GateChain.Engine.Basics;

/// <summary>What somebody who resumes a run asks for.</summary>
public sealed record ResumeOptions
{
    /// <summary>Overrides: <c>params.x</c>, <c>vars.x</c>, or a bare name when it is unambiguous.</summary>
    public IReadOnlyDictionary<string, Value> Set { get; init; } = new Dictionary<string, Value>();

    /// <summary>
    /// Paths of steps to do again with all their descendants, even if they succeeded. <c>price/load</c> reaches through
    /// the call <c>price</c> into its child.
    /// </summary>
    public IReadOnlyList<string> From { get; init; } = [];

    /// <summary>Paths of steps to pass over.</summary>
    public IReadOnlyList<string> Skip { get; init; } = [];

    /// <summary>Paths of steps to settle as succeeded, with the outputs given: maps.</summary>
    public IReadOnlyDictionary<string, Value> Settle { get; init; } = new Dictionary<string, Value>();

    /// <summary>The release to move to: <c>latest</c>, a content hash or its beginning; null to stay.</summary>
    public string? Release { get; init; }

    /// <summary>Whether the chain's <c>recover</c> asks, not a person.</summary>
    internal bool Automatic { get; init; }
}
