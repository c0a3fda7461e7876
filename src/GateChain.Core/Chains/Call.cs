using GateChain.Core.Expressions;
using GateChain.Core.Identity;

namespace GateChain.Core.Chains;

/// <summary>How a <c>call</c> step runs another chain.</summary>
/// <param name="Child">What it runs.</param>
/// <param name="Inputs">Its parameters.</param>
/// <param name="Wait">Whether the step lasts as long as the child. Default true.</param>
/// <param name="Span">Where the child's name stands.</param>
/// <param name="ReleaseSpan">Where its release stands; the name's place when it is left out.</param>
public sealed record CallRule(
    CalledChain Child,
    IReadOnlyList<NamedExpression> Inputs,
    bool Wait,
    Span Span,
    Span ReleaseSpan
)
{
    /// <summary>How deep child chains may be nested.</summary>
    public const int MaxDepth = 16;

    public string Chain => Child.Name;

    /// <summary>What the child takes and gives; null when it is not known at check time.</summary>
    public ChainInterface? Target { get; internal set; }
}

/// <summary>The content that a call runs.</summary>
/// <param name="Name">The chain.</param>
/// <param name="Release">The number of its release, from 1; null for the latest one when the child starts.</param>
public readonly record struct CalledChain(string Name, int? Release)
{
    public override string ToString() => Release is null ? Name : $"{Name}@{Release}";
}

/// <summary>What a chain takes from and gives to whoever runs it.</summary>
/// <param name="Parameters">What it takes.</param>
/// <param name="Outputs">What it gives, with types.</param>
/// <param name="Calls">What it calls before any of its decide steps could prevent it.</param>
public sealed record ChainInterface(
    string Name,
    IReadOnlyList<Parameter> Parameters,
    IReadOnlyDictionary<string, CelType> Outputs,
    IReadOnlyList<CalledChain> Calls
)
{
    /// <summary>Whether nothing may start it for now.</summary>
    public bool IsRetired { get; init; }

    /// <summary>Where the chain lies.</summary>
    public Area Area { get; init; }

    /// <summary>Further areas from which it may be called.</summary>
    public IReadOnlyList<Area> Callable { get; init; } = [];

    /// <summary>Whether a chain of an area may call it.</summary>
    /// <param name="caller">That area.</param>
    public bool IsCallableFrom(Area caller) => Area.Holds(caller) || Callable.Any(a => a.Holds(caller));

    /// <summary>Whether a trigger of an area may start it: also one that lies around it.</summary>
    /// <param name="trigger">That area.</param>
    public bool IsStartedFrom(Area trigger) => trigger.Holds(Area) || IsCallableFrom(trigger);
}
