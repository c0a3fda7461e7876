using System.Text.Json;

namespace GateChain.Client;

/// <summary>A chain in lists.</summary>
/// <param name="Release">Content hash of its latest release; null for a chain that is only a draft.</param>
/// <param name="Number">The number of that release.</param>
/// <param name="Draft">Its draft; null when there is none.</param>
/// <param name="Steps">How many steps it has, inner ones included.</param>
/// <param name="LastRuns">Its latest runs, newest first, at most ten.</param>
/// <param name="Area">The folder of the workspace that it lies in; empty for the workspace itself.</param>
public sealed record ChainSummary(
    string Name,
    string? Title,
    string? Release,
    int? Number,
    DateTimeOffset? Pushed,
    int Steps,
    DraftHead? Draft,
    IReadOnlyList<RunSummary> LastRuns,
    string Area = ""
)
{
    /// <summary>Since when nothing starts it any more; null for a chain in use.</summary>
    public RetirementInfo? Retired { get; init; }
}

/// <summary>That a chain is retired: nothing starts it, its runs stay and can be resumed.</summary>
/// <param name="By">Who said so.</param>
/// <param name="At">When.</param>
/// <param name="Why">Why; null when nobody said.</param>
public sealed record RetirementInfo(string By, DateTimeOffset At, string? Why);

/// <param name="Why">Why, in a sentence of at most 1,000 characters; null for no reason.</param>
public sealed record RetireRequest(string? Why = null);

/// <summary>A place where a chain is used.</summary>
/// <param name="Chain">The chain whose step calls it; null for a trigger.</param>
/// <param name="Step">The address of that step; null for a trigger.</param>
/// <param name="Trigger">The trigger that starts it; null for a call.</param>
/// <param name="Breaks">What the version that was asked about would break there, a sentence each.</param>
public sealed record ChainUseInfo(string? Chain, string? Step, string? Trigger, IReadOnlyList<string> Breaks);

/// <summary>A step of another chain that reads what a chain writes.</summary>
/// <param name="Data">The data, as the chain writes it.</param>
/// <param name="Chain">The other chain.</param>
/// <param name="Step">The address of its step.</param>
public sealed record DataReaderInfo(string Data, string Chain, string Step);

/// <summary>What hangs on a chain, and on what it hangs itself.</summary>
/// <param name="Uses">The steps that call it, and the triggers that start it.</param>
/// <param name="Listeners">The triggers that fire for how its runs end.</param>
/// <param name="Readers">The steps of others that read what it writes, as it is declared.</param>
/// <param name="Connections">The connections that it uses.</param>
/// <param name="Calls">The chains that it calls.</param>
/// <param name="Lanes">The lanes that its steps queue for.</param>
public sealed record ConsequencesInfo(
    IReadOnlyList<ChainUseInfo> Uses,
    IReadOnlyList<string> Listeners,
    IReadOnlyList<DataReaderInfo> Readers,
    IReadOnlyList<string> Connections,
    IReadOnlyList<string> Calls,
    IReadOnlyList<string> Lanes
);

/// <param name="Source">A version of the chain that is not released yet.</param>
public sealed record UsesRequest(string Source);

/// <summary>That there is a draft.</summary>
public sealed record DraftHead(long Version, string Author, DateTimeOffset Saved);

/// <summary>A chain in full.</summary>
/// <param name="Source">The chain file.</param>
/// <param name="Graph">Its steps and gates.</param>
public sealed record ChainDetail(
    string Name,
    string? Title,
    string? Notes,
    string Release,
    int Number,
    DateTimeOffset Pushed,
    string Source,
    IReadOnlyList<ParameterInfo> Params,
    IReadOnlyList<string> Vars,
    ChainGraph Graph,
    IReadOnlyList<string> Profiles,
    string Area = ""
)
{
    /// <summary>Since when nothing starts it any more; null for a chain in use.</summary>
    public RetirementInfo? Retired { get; init; }
}

/// <param name="Default">Null when it must be given.</param>
/// <param name="Secret">Whether it is given as the name of a secret: <c>secret:warehouse</c>.</param>
public sealed record ParameterInfo(
    string Name,
    string Type,
    string? Label,
    bool Required,
    JsonElement? Default,
    bool Secret = false
);

/// <summary>The steps of a chain and the gates between them, with those of its handlers.</summary>
public sealed record ChainGraph(
    IReadOnlyList<StepNode> Steps,
    IReadOnlyList<GateEdge> Gates,
    IReadOnlyList<HandlerGraph> Handlers
);

/// <summary>What a chain does on an occasion.</summary>
/// <param name="Occasion"><c>success failure end pause late endangered</c>.</param>
/// <param name="Graph">Its steps and gates.</param>
public sealed record HandlerGraph(string Occasion, ScopeGraph Graph);

/// <summary>The steps of one scope and the gates between them.</summary>
public sealed record ScopeGraph(IReadOnlyList<StepNode> Steps, IReadOnlyList<GateEdge> Gates);

/// <param name="Address">Ids from the outermost container down.</param>
/// <param name="Note">What the drawing says below the title, for example what an each goes over.</param>
/// <param name="Guarded">Whether a guard stands on its threshold.</param>
/// <param name="Lane">The lane it queues for; null for none.</param>
/// <param name="Place">Its place on the canvas, when the file has one.</param>
/// <param name="Inner">The scope inside, for containers.</param>
public sealed record StepNode(
    string Id,
    string Address,
    string Kind,
    string Title,
    string? Notes,
    string Join,
    string IfFails,
    bool Disabled,
    string? Note,
    bool Guarded,
    string? Lane,
    IReadOnlyList<double>? Place,
    ScopeGraph? Inner
);

/// <param name="Index">Its place among the gates of its scope.</param>
/// <param name="Label">What its label says; empty for a plain link on success.</param>
/// <param name="On">For example <c>success</c> or <c>failure</c>; tells the line's pattern.</param>
public sealed record GateEdge(int Index, string From, string To, string Label, string On, string? When);

/// <summary>A gate of a chain file.</summary>
/// <param name="Scope">The address of its scope: empty for the chain's own, <c>@failure</c> for a handler's.</param>
/// <param name="Index">Its place among the gates of its scope, from 0.</param>
public sealed record GatePlaceInfo(string Scope, int Index, string From, string To);

/// <summary>A problem of a file. Lines and columns are one-based.</summary>
/// <param name="EndLine">The line behind its last character.</param>
/// <param name="EndColumn">The column behind its last character.</param>
/// <param name="Start">Offset of its first character, in UTF-16 code units.</param>
/// <param name="End">Offset behind its last character; the same as its start for a point.</param>
/// <param name="Step">The address of the step that it is in; null for none.</param>
/// <param name="Gate">The gate that it is in; null for none.</param>
/// <param name="Means">What it says about its step, for programs: <c>neverRuns</c>; null for nothing in
/// particular.</param>
/// <param name="Docs">Where the docs tell of its kind, relative to the project.</param>
/// <param name="Format">The message with <c>{0}</c> where the first of its arguments stands.</param>
/// <param name="Arguments">What stands in it: names, types, numbers, and words that depend on them.</param>
/// <param name="Edit">The fix as a change of the file, where one change does it.</param>
public sealed record ProblemInfo(
    string Code,
    string Severity,
    string File,
    int Line,
    int Column,
    string Message,
    string? Fix,
    string Docs,
    int EndLine,
    int EndColumn,
    int Start,
    int End,
    string? Step,
    GatePlaceInfo? Gate,
    string? Means,
    string Format,
    IReadOnlyList<string> Arguments,
    TextEditInfo? Edit = null
);

/// <summary>What a push gave.</summary>
/// <param name="Problems">Hints and warnings; a push with errors is refused.</param>
public sealed record PushResult(IReadOnlyList<PushedChain> Chains, IReadOnlyList<ProblemInfo> Problems);

/// <summary>A chain that was pushed.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Release">The hash of its content.</param>
public sealed record PushedChain(string Name, string Release);

/// <summary>A workspace folder to be pushed.</summary>
/// <param name="Files">Contents in base64, by name relative to the folder.</param>
/// <param name="Note">What the releases are for.</param>
/// <param name="Known">SHA-256 in hex of what the folder had when it last was in step with the service, by path; null
/// when nobody knows: then what did not come by a push counts as changed since.</param>
/// <param name="Over">Whether it may overwrite what was changed in the service since, and break chains that it does not
/// bring.</param>
public sealed record PushRequest(
    IReadOnlyDictionary<string, string> Files,
    string? Note = null,
    IReadOnlyDictionary<string, string>? Known = null,
    bool Over = false
);
