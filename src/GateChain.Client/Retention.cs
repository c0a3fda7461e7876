namespace GateChain.Client;

/// <summary>How long runs are kept that have ended.</summary>
/// <param name="Chain">The chain that it is about; null for a folder.</param>
/// <param name="Folder">The folder that it is about, with all below; empty for the workspace.</param>
/// <param name="Days">Runs go that ended longer ago, 1 to 36,500 days; null for none.</param>
/// <param name="AtLeast">The newest so many of a chain stay in any case.</param>
/// <param name="AtMost">More of a chain do not stay, however young they are; null for no bound.</param>
public sealed record KeepRuleInfo(
    string? Chain = null,
    string? Folder = null,
    int? Days = null,
    int AtLeast = 0,
    int? AtMost = null
);

/// <summary>A chain, the rule for its runs, and what it lets go.</summary>
/// <param name="Chain">The chain.</param>
/// <param name="Rule">The rule; null where nobody has said anything: all is kept.</param>
/// <param name="Says">It in a sentence.</param>
/// <param name="Gone">How many runs went, or would go at this moment; without those that they have called.</param>
public sealed record ChainKeepingInfo(string Chain, KeepRuleInfo? Rule, string Says, long Gone);

/// <summary>A run that stays whatever the rules say.</summary>
/// <param name="Run">The run.</param>
/// <param name="By">Who pinned it.</param>
/// <param name="At">When.</param>
/// <param name="Why">Why.</param>
public sealed record PinInfo(long Run, string By, DateTimeOffset At, string? Why);

/// <summary>What is kept for how long, and what would go.</summary>
/// <param name="Rules">What people have said.</param>
/// <param name="Chains">Each chain of which there are runs.</param>
/// <param name="Pins">The runs that stay in any case.</param>
public sealed record RetentionInfo(
    IReadOnlyList<KeepRuleInfo> Rules,
    IReadOnlyList<ChainKeepingInfo> Chains,
    IReadOnlyList<PinInfo> Pins
);

/// <param name="Why">Why the run is kept; null when nobody says it.</param>
public sealed record PinRequest(string? Why = null);

/// <summary>How much room something takes.</summary>
/// <param name="What">A table of the database, or a folder beside it.</param>
/// <param name="Count">How many rows or files.</param>
/// <param name="Bytes">How many bytes; null where nobody can say.</param>
/// <param name="IsPart">Whether it is a part of the database, which is told as a whole.</param>
public sealed record UsageInfo(string What, long Count, long? Bytes, bool IsPart);
