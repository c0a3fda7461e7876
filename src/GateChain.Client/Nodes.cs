namespace GateChain.Client;

/// <summary>A node of those that share a database.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="State"><c>there</c>, <c>draining</c>, <c>silent</c> or <c>gone</c>.</param>
/// <param name="Address">Where its API and console are.</param>
/// <param name="Labels">What it can do that others can't.</param>
/// <param name="Version">Of the program.</param>
/// <param name="Started">When it started.</param>
/// <param name="Seen">When it was heard last.</param>
/// <param name="IsThis">Whether it is the one that was asked.</param>
/// <param name="Leads">Whether it does what one node does for all: schedules, watches, history.</param>
/// <param name="OwnsRuns">Whether runs may be its own; else it only takes attempts.</param>
/// <param name="Runs">How many runs it has.</param>
/// <param name="Attempts">How many attempts it is at; null when it does not say.</param>
/// <param name="Work">At most 50 of them.</param>
public sealed record NodeInfo(
    string Name,
    string State,
    string Address,
    IReadOnlyList<string> Labels,
    string Version,
    DateTimeOffset Started,
    DateTimeOffset Seen,
    bool IsThis,
    bool Leads,
    bool OwnsRuns,
    int Runs,
    int? Attempts,
    IReadOnlyList<NodeWorkInfo> Work
);

/// <summary>An attempt that a node is at.</summary>
/// <param name="Run">The run.</param>
/// <param name="Step">The step's path.</param>
/// <param name="ForOther">Whether the run is another node's.</param>
public sealed record NodeWorkInfo(long Run, string Step, bool ForOther);

/// <summary>What the nodes are.</summary>
/// <param name="Shared">Whether the service shares its database at all.</param>
/// <param name="Nodes">By name; none when it does not.</param>
public sealed record NodesInfo(bool Shared, IReadOnlyList<NodeInfo> Nodes);
