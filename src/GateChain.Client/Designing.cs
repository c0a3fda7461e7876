using System.Text.Json;

namespace GateChain.Client;

/// <summary>A change of a text: some characters are replaced.</summary>
/// <param name="Start">Offset in UTF-16 code units.</param>
public sealed record TextEditInfo(int Start, int Length, string Text);

/// <param name="Chain">The name it is found by.</param>
/// <param name="Source">The chain file.</param>
public sealed record CheckRequest(string Chain, string Source);

/// <param name="Before">A chain file.</param>
/// <param name="After">Another one.</param>
public sealed record ComparisonRequest(string Before, string After);

/// <summary>One part of a chain that differs between two versions.</summary>
/// <param name="Part"><c>chain</c>, <c>step</c> or <c>gate</c>.</param>
/// <param name="Change"><c>added</c>, <c>removed</c>, <c>changed</c> or <c>renamed</c>.</param>
/// <param name="Address">A step's address; for a gate <c>scope/from → to</c>; empty for the chain itself.</param>
/// <param name="Was">The former address of a step that was renamed.</param>
/// <param name="Gate">Which gate: by its place in the newer version, or in the older one when it is not there any
/// more; null for what is no gate.</param>
public sealed record PartChangeInfo(
    string Part,
    string Change,
    string Address,
    string? Was,
    GatePlaceInfo? Gate,
    IReadOnlyList<SettingChangeInfo> Settings
);

/// <summary>One setting that differs.</summary>
/// <param name="Setting">Its path inside the step or gate: <c>set.batch</c>.</param>
/// <param name="Before">As it was; null when it was not there.</param>
/// <param name="After">As it is; null when it is not there.</param>
public sealed record SettingChangeInfo(string Setting, string? Before, string? After);

/// <param name="What"><c>step</c>, <c>variable</c>, <c>parameter</c> or <c>branch</c>.</param>
/// <param name="Scope">The address of the scope it is declared in, empty for the chain's own; for a branch that of its
/// step.</param>
public sealed record RenameRequest(string Chain, string Source, string What, string Scope, string From, string To);

/// <param name="Refusal">Why it can't be renamed; null when it can.</param>
public sealed record RenameResult(IReadOnlyList<RenamePlaceInfo> Places, string? Refusal);

/// <param name="What">What stands there: <c>a gate</c>, <c>an expression</c>.</param>
/// <param name="Before">The line as it is.</param>
/// <param name="After">The line as it will be.</param>
public sealed record RenamePlaceInfo(TextEditInfo Edit, string What, int Line, string Before, string After);

/// <summary>An expression that is being written.</summary>
/// <param name="Step">The address of its step; null for a gate's condition and the chain's outputs.</param>
/// <param name="Place">What it is for: <c>setting</c>, <c>guard</c>, <c>expect</c>, <c>assign</c>, <c>branch</c>,
/// <c>retry</c>, <c>over</c>, <c>collect</c>, <c>until</c>, <c>while</c>, <c>input</c>, <c>probe</c>.</param>
/// <param name="Scope">For a gate: the address of its scope; null for outputs.</param>
/// <param name="From">For a gate: the step it leaves from.</param>
/// <param name="Cursor">Where something is to be completed; null for nothing.</param>
/// <param name="Run">A run whose data it is computed with; null for none.</param>
/// <param name="Values">Values that it is computed with instead, by name as an expression reads them:
/// <c>vars.n</c>, <c>steps.load.rows</c>.</param>
public sealed record ExpressionRequest(
    string Chain,
    string Source,
    string Text,
    string? Step = null,
    string? Place = null,
    string? Scope = null,
    string? From = null,
    int? Cursor = null,
    long? Run = null,
    IReadOnlyDictionary<string, JsonElement>? Values = null
);

/// <param name="Type">Its type; null when it can't be read.</param>
/// <param name="Wanted">The type that is asked for, <c>any</c> for none.</param>
/// <param name="CompleteFrom">Where a completion begins to replace.</param>
/// <param name="Value">What it gives with the run's data; null when none was asked for or it can't be computed.</param>
/// <param name="ValueError">Why it can't be computed with that run.</param>
/// <param name="Parts">What its parts give.</param>
public sealed record ExpressionResult(
    string? Type,
    string Wanted,
    IReadOnlyList<ExpressionMistake> Problems,
    int CompleteFrom,
    IReadOnlyList<CompletionInfo> Completions,
    string? Value,
    string? ValueError,
    IReadOnlyList<PartInfo> Parts
);

/// <summary>What is wrong with an expression.</summary>
/// <param name="Message">One sentence.</param>
/// <param name="Start">Offset in it, in UTF-16 code units.</param>
/// <param name="Length">How many code units it is about.</param>
/// <param name="Fix">What would put it right; null when that is not known.</param>
/// <param name="Replacement">What to write there instead; null when one change does not do it.</param>
public sealed record ExpressionMistake(string Message, int Start, int Length, string? Fix, string? Replacement);

/// <param name="Kind"><c>name</c>, <c>function</c> or <c>word</c>.</param>
public sealed record CompletionInfo(string Label, string Kind, string Type, string? Doc);

/// <summary>A name that an expression can use.</summary>
/// <param name="Name">The name.</param>
/// <param name="Type">Its type, as the expression language writes it.</param>
public sealed record NameInfo(string Name, string Type);

/// <summary>A kind of step, or a probe.</summary>
/// <param name="Purpose"><c>work</c>, <c>data</c>, <c>ways</c> or <c>run</c>.</param>
/// <param name="Container">Whether it holds steps.</param>
/// <param name="Schema">JSON Schema of everything a step of the kind may have; for a probe of its settings.</param>
/// <param name="Tells">What a drawing says of its settings, <c>{action} {path}</c>; null for nothing.</param>
public sealed record KindInfo(
    string Name,
    string Doc,
    string Purpose,
    bool Container,
    JsonElement Schema,
    IReadOnlyList<NameInfo> Outputs,
    string? Tells
);

/// <param name="Steps">Kinds of steps.</param>
/// <param name="Probes">What guards can look at.</param>
/// <param name="Rules">JSON Schemas of gates, guard rules, expect rules and the like, by name.</param>
public sealed record KindsInfo(
    IReadOnlyList<KindInfo> Steps,
    IReadOnlyList<KindInfo> Probes,
    IReadOnlyDictionary<string, JsonElement> Rules
);

/// <summary>What a draft can name.</summary>
public sealed record WorkspaceContextInfo(
    IReadOnlyList<NameInfo> Connections,
    IReadOnlyList<string> Lanes,
    IReadOnlyList<string> Profiles,
    IReadOnlyList<string> Files,
    IReadOnlyList<ChainNames> Chains
);

/// <param name="Params">What it takes.</param>
/// <param name="Outputs">What it gives.</param>
public sealed record ChainNames(string Name, IReadOnlyList<ParameterInfo> Params, IReadOnlyList<NameInfo> Outputs);

/// <summary>A chain to begin with.</summary>
/// <param name="Teaches">What one learns from it.</param>
public sealed record TemplateInfo(string Name, string Title, string Teaches, string Source);

/// <param name="Chain">The name the draft is found by.</param>
/// <param name="Source">The chain file.</param>
/// <param name="Step">The address of a load or check step.</param>
/// <param name="Run">A run whose data settings are computed with; null for none.</param>
public sealed record ColumnsRequest(string Chain, string Source, string Step, long? Run = null);

/// <param name="Chain">The chain, whose folder decides which connections it sees.</param>
/// <param name="What"><c>table</c> or <c>path</c>.</param>
/// <param name="Connection">Where to look; for a path null for the service's work folder.</param>
/// <param name="Begin">For a path: what is written of it already.</param>
public sealed record LookupRequest(string Chain, string What, string? Connection = null, string? Begin = null);

/// <summary>What a setting can name.</summary>
/// <param name="HasMore">Whether there is more than is told.</param>
/// <param name="Problem">Why nothing can be told; null when it can.</param>
public sealed record LookupInfo(IReadOnlyList<LookupItemInfo> Items, bool HasMore, string? Problem);

/// <param name="Text">As it is written in the setting.</param>
/// <param name="What"><c>table</c>, <c>view</c>, <c>folder</c> or <c>file</c>.</param>
public sealed record LookupItemInfo(string Text, string What);

/// <summary>The columns that a load step would meet.</summary>
/// <param name="Source">The source's columns; empty when they can't be told.</param>
/// <param name="Target">The target table's columns.</param>
/// <param name="Problem">Why something can't be told; null when all can.</param>
public sealed record ColumnsInfo(IReadOnlyList<string> Source, IReadOnlyList<string> Target, string? Problem);

/// <summary>What a load or check step would read.</summary>
/// <param name="What">What was looked at; null when nothing could be.</param>
/// <param name="Sample">What the step makes of the first rows as it is set; null when it can't read them.</param>
/// <param name="Found">What the file itself seems to be; null for a query, and where that can't be told.</param>
/// <param name="Problem">Why there is no sample; null when there is one.</param>
public sealed record PreviewInfo(string? What, SampleInfo? Sample, FoundInfo? Found, string? Problem);

/// <summary>What becomes of the first rows.</summary>
/// <param name="Names">The columns.</param>
/// <param name="Rows">The first rows, as texts.</param>
/// <param name="Seen">How many rows were looked at.</param>
/// <param name="IsAll">Whether these are all.</param>
/// <param name="Rejected">How many of them would be rejected.</param>
/// <param name="Rejects">The first of those.</param>
public sealed record SampleInfo(
    IReadOnlyList<string> Names,
    IReadOnlyList<IReadOnlyList<string?>> Rows,
    long Seen,
    bool IsAll,
    long Rejected,
    IReadOnlyList<RejectInfo> Rejects
);

/// <summary>A row that would be rejected.</summary>
/// <param name="Line">Where it stands.</param>
/// <param name="Reason">Why.</param>
public sealed record RejectInfo(long Line, string Reason);

/// <summary>What a file seems to be.</summary>
/// <param name="From">The settings that read it, as YAML.</param>
/// <param name="Columns">Its columns, as YAML, each in a line.</param>
/// <param name="Sentences">What was found.</param>
/// <param name="Header">The columns one by one.</param>
/// <param name="Sample">What these settings make of its first rows.</param>
public sealed record FoundInfo(
    string From,
    string Columns,
    IReadOnlyList<string> Sentences,
    IReadOnlyList<FoundColumnInfo> Header,
    SampleInfo Sample
);

/// <summary>A column of a file.</summary>
/// <param name="Name">Its name; <c>column1</c> and so on where the file has none.</param>
/// <param name="Type">What its values can be read as; null for texts.</param>
/// <param name="Format">How dates or times are written; null for the usual way.</param>
/// <param name="Empty">In how many rows it has nothing.</param>
/// <param name="Examples">Some of its values, at most three.</param>
public sealed record FoundColumnInfo(
    string Name,
    string? Type,
    string? Format,
    long Empty,
    IReadOnlyList<string> Examples
);
