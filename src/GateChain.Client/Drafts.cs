using System.Text.Json;

namespace GateChain.Client;

/// <summary>A chain as somebody is designing it.</summary>
/// <param name="Version">Grows with each save; 0 when there is no draft yet and this is the latest release. Goes into
/// <c>If-Match</c>, in quotes.</param>
/// <param name="Source">The chain file.</param>
/// <param name="Base">The number of the release it began from; null for a chain without one.</param>
/// <param name="Author">Who saved it.</param>
/// <param name="Files">Names of its attachments.</param>
/// <param name="Latest">The number of the chain's latest release; null when there is none.</param>
/// <param name="Area">The folder of the workspace that the chain lies in, or is to lie in.</param>
public sealed record DraftInfo(
    string Chain,
    long Version,
    string Source,
    int? Base,
    string Author,
    DateTimeOffset Saved,
    IReadOnlyList<string> Files,
    int? Latest,
    string Area = ""
);

/// <summary>An earlier version of a draft.</summary>
public sealed record DraftVersionInfo(long Version, string Author, DateTimeOffset Saved, string Source);

/// <param name="Source">The chain file; it need not be free of problems.</param>
/// <param name="Files">Attachments to put to it, in base64 by name; others stay.</param>
/// <param name="Area">The folder of the workspace that a new chain is to lie in; null leaves it as it is.</param>
public sealed record SaveDraftRequest(
    string Source,
    IReadOnlyDictionary<string, string>? Files = null,
    string? Area = null
);

/// <summary>A release of a chain. It never changes.</summary>
/// <param name="Number">From 1 within the chain.</param>
/// <param name="Release">Content hash.</param>
public sealed record ReleaseInfo(int Number, string Release, string? Note, string Author, DateTimeOffset Made);

/// <summary>A release with its content.</summary>
/// <param name="Files">Its attachments in base64, by name.</param>
public sealed record ReleaseDetail(ReleaseInfo Head, string Source, IReadOnlyDictionary<string, string> Files);

/// <param name="Note">What the release is for.</param>
/// <param name="Again">The number of an earlier release whose content is released again; null releases the
/// draft.</param>
public sealed record ReleaseRequest(string? Note = null, int? Again = null);

/// <summary>Asks for a run of a draft, or of a part of it.</summary>
/// <param name="Source">The chain file; null for the draft as it was saved last.</param>
/// <param name="Part"><c>whole</c>, <c>from</c>, <c>only</c> or <c>upTo</c>.</param>
/// <param name="Step">The id of the step at which the part begins or ends.</param>
/// <param name="Known">An earlier run of the chain: steps before the part count as they ended there.</param>
/// <param name="Given">Outputs of steps before the part, by id.</param>
/// <param name="PauseBefore">Addresses of steps before which the run pauses.</param>
public sealed record TryRequest(
    string? Source = null,
    IReadOnlyDictionary<string, JsonElement>? Params = null,
    string? Profile = null,
    string Part = "whole",
    string? Step = null,
    long? Known = null,
    IReadOnlyDictionary<string, JsonElement>? Given = null,
    IReadOnlyList<string>? PauseBefore = null
);

/// <summary>What a run that tries a draft does of it.</summary>
/// <param name="Begin">Steps that started whatever their gates said.</param>
/// <param name="Taken">Steps that were taken as they ended elsewhere.</param>
/// <param name="LeftOut">Steps that are skipped.</param>
public sealed record TryInfo(
    IReadOnlyList<string> Begin,
    IReadOnlyList<string> Taken,
    IReadOnlyList<string> LeftOut,
    IReadOnlyList<string> PauseBefore
);

/// <summary>A workspace as files in base64, by name.</summary>
public sealed record WorkspaceFiles(IReadOnlyDictionary<string, string> Files);

/// <summary>A draft was saved or discarded.</summary>
/// <param name="Version">Its version now; 0 when there is none any more.</param>
public sealed record DraftNotification(string Chain, long Version, string By);
