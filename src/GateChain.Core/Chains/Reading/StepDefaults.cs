namespace GateChain.Core.Chains.Reading;

/// <summary>
/// What a chain or container says for the working steps in it; a step's own word wins, and so does the nearer scope's.
/// Null is: nothing said.
/// </summary>
sealed record StepDefaults(
    RetryRule? Retry,
    TimeSpan? Timeout,
    CrashRule? OnCrash,
    bool? RedoOnResume,
    string? Lane,
    Setting? Place
)
{
    public static StepDefaults None { get; } = new(null, null, null, null, null, null);

    /// <summary>The keys that can have a default.</summary>
    public static IReadOnlyList<string> Keys { get; } = ["retry", "timeout", "onCrash", "onResume", "lane", "place"];
}
