namespace GateChain.Client;

/// <summary>A lane, who is in it, and who waits.</summary>
public sealed record LaneInfo(
    string Name,
    int Width,
    IReadOnlyList<LaneSeatInfo> Holders,
    IReadOnlyList<LaneSeatInfo> Waiting
);

/// <summary>A step's place in a lane or its queue.</summary>
/// <param name="Run">The run.</param>
/// <param name="Step">The step's path.</param>
public sealed record LaneSeatInfo(long Run, string Step);

/// <summary>How the service fares.</summary>
/// <param name="Status"><c>ok</c>, or <c>held</c> while nothing can be written.</param>
/// <param name="Trouble">What keeps it from writing.</param>
/// <param name="Stranded">Runs that are not continuing though they have not ended.</param>
/// <param name="Programs">What programs of steps can reach: a sentence.</param>
/// <param name="Held">Why nothing starts by itself; null when it does.</param>
/// <param name="Refused">Fires of the last day that could not start a run, and due times by whose <c>dueBy</c> none had
/// begun; at most 200.</param>
/// <param name="Node">The name of the node that answers; null for a service that has its database alone.</param>
public sealed record HealthInfo(
    string Status,
    string Version,
    int RunsInFlight,
    string? Trouble,
    DateTimeOffset? Since,
    IReadOnlyList<StrandedInfo> Stranded,
    string Programs,
    string? Held,
    int Refused,
    string? Node = null
);

/// <param name="Why">What keeps the run, in a sentence.</param>
public sealed record StrandedInfo(long Run, string Why, DateTimeOffset Since);
