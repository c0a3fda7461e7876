using GateChain.Core.Expressions;

namespace GateChain.Core.Chains;

/// <summary>How a <c>call</c> step runs another chain.</summary>
/// <param name="Chain">The child chain's name.</param>
/// <param name="Inputs">Its parameters.</param>
/// <param name="Wait">Whether the step lasts as long as the child. Default true.</param>
/// <param name="Span">Where the child's name stands.</param>
public sealed record CallRule(string Chain, IReadOnlyList<NamedExpression> Inputs, bool Wait, Span Span)
{
    /// <summary>How deep child chains may be nested.</summary>
    public const int MaxDepth = 16;

    /// <summary>What the child takes and gives; null when it is not known at check time.</summary>
    public ChainInterface? Target { get; internal set; }
}

/// <summary>What a chain takes from and gives to whoever runs it.</summary>
/// <param name="Parameters">What it takes.</param>
/// <param name="Outputs">What it gives, with types.</param>
/// <param name="Calls">The chains it calls before any of its decide steps could prevent it.</param>
public sealed record ChainInterface(string Name, IReadOnlyList<Parameter> Parameters, IReadOnlyDictionary<string, CelType> Outputs, IReadOnlyList<string> Calls);
