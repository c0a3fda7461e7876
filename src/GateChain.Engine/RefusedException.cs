namespace GateChain.Engine;

/// <summary>Why something that was asked for is not done.</summary>
public enum RefusalKind { NotFound, Invalid, Conflict, Unavailable }

/// <summary>What was asked for is not done, and why, in words for people. Nothing was changed.</summary>
public sealed class RefusedException(RefusalKind kind, string message, IReadOnlyList<string>? details = null) : Exception(message)
{
    public RefusalKind Kind { get; } = kind;
    public IReadOnlyList<string> Details { get; } = details ?? [];
}
