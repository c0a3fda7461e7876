using GateChain.Core.Running;

namespace GateChain.Access.Basics;

/// <summary>What was asked for is not done, and why, in words for people. Nothing was changed.</summary>
public sealed class AccessException(RefusalKind kind, string message) : Exception(message)
{
    /// <summary>What kind of refusal it is.</summary>
    public RefusalKind Kind { get; } = kind;
}
