namespace GateChain.Client;

/// <summary>A connection as <c>connections.yaml</c> has it.</summary>
/// <param name="Settings">Its settings in words; secrets stand as <c>secret:name</c>, other passwords are
/// hidden.</param>
/// <param name="UsedBy">The steps and probes that name it: chain and address.</param>
/// <param name="Area">The folder of the workspace that declares it: chains there and below can name it; empty for the
/// workspace itself.</param>
public sealed record ConnectionInfo(
    string Name,
    string Type,
    IReadOnlyDictionary<string, string> Settings,
    IReadOnlyList<UseInfo> UsedBy,
    string Area = ""
);

/// <summary>Where something is used.</summary>
/// <param name="Step">The step's address.</param>
public sealed record UseInfo(string Chain, string Step);

/// <summary>What came of looking whether a connection works.</summary>
/// <param name="Found">What was found there, or why nothing was.</param>
/// <param name="Ms">How long it took, in milliseconds.</param>
public sealed record ConnectionCheckInfo(bool Works, string Found, double Ms);

/// <summary>What of the stages in a database is cleared.</summary>
/// <param name="DryRun">Nothing; it is only told what would be.</param>
/// <param name="Failed">Those of runs that failed or were stopped too: a resume reads their sources from the start
/// then.</param>
/// <param name="Unknown">Those that this service does not know too. They may be another service's.</param>
public sealed record TidyRequest(bool DryRun = false, bool Failed = false, bool Unknown = false);

/// <summary>A stage of a load that stands in a database.</summary>
/// <param name="Run">The run that gathers rows there; null when this service does not know it.</param>
/// <param name="Step">The step's path in it.</param>
/// <param name="State">The run's state; null when there is no such run.</param>
/// <param name="Cleared">Whether it is gone now; in a dry run, whether it would be.</param>
/// <param name="Why">Why, in a sentence.</param>
public sealed record StageInfo(string Stage, long? Run, string? Step, string? State, bool Cleared, string Why);

/// <summary>A secret, without its value.</summary>
/// <param name="By">Who set it last; null for one that stands in a file of the service's machine.</param>
/// <param name="Readable">Whether the key at hand is the one it was encrypted with; if not, it has to be set
/// again.</param>
/// <param name="UsedBy">The connections that name it.</param>
/// <param name="Area">The folder of the workspace that may use it, and those below; empty for all.</param>
public sealed record SecretInfo(
    string Name,
    bool IsSet,
    string? By,
    DateTimeOffset? Changed,
    bool Readable,
    IReadOnlyList<string> UsedBy,
    string Area = ""
);

/// <summary>What a secret is set to.</summary>
/// <param name="Area">The folder of the workspace that may use it, and those below; empty for all. Where it is when
/// null, and all for a new one.</param>
public sealed record SecretRequest(string Value, string? Area = null);

/// <summary>The values of a profile, as texts by name.</summary>
/// <param name="Area">The folder of the workspace whose chains have these values; empty for the workspace
/// itself.</param>
public sealed record ProfileInfo(string Name, IReadOnlyDictionary<string, string> Values, string Area = "");
