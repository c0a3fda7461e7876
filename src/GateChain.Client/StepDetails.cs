using System.Text.Json;

namespace GateChain.Client;

/// <summary>One step of a run, in full.</summary>
public sealed record StepDetail(
    StepStatus Status,
    string Kind,
    string Title,
    WhyInfo Why,
    JsonElement Inputs,
    JsonElement Outputs,
    ErrorInfo? Error,
    IReadOnlyList<AttemptInfo> Attempts
);

/// <summary>The explanation of a step's fate.</summary>
public sealed record WhyInfo(
    string Step,
    string State,
    string Sentence,
    string Join,
    IReadOnlyList<WhyGateInfo> Gates,
    IReadOnlyList<BranchInfo> Branches,
    IReadOnlyList<string> Warnings,
    GuardInfo? Guard
);

/// <summary>What a guard decided last.</summary>
/// <param name="Saw">What its probes saw.</param>
/// <param name="Parts">The parts of its rules' conditions with their values.</param>
/// <param name="By">The person who asked for the look, or let the step through; null for none.</param>
public sealed record GuardInfo(
    string Verdict,
    string? Message,
    int Look,
    JsonElement Saw,
    IReadOnlyList<PartInfo> Parts,
    string? By = null
);

/// <summary>What a gate has to do with a step's fate.</summary>
/// <param name="From">The id of the step it leaves from.</param>
/// <param name="Label">What its label says; empty for a plain link on success.</param>
/// <param name="State">Whether it opened, in a word.</param>
/// <param name="Saw">How its source ended, in a word.</param>
/// <param name="Sentence">All of it in a sentence.</param>
/// <param name="Parts">The parts of its condition with their values.</param>
/// <param name="Error">Why its condition could not be computed; null when it could.</param>
public sealed record WhyGateInfo(
    string From,
    string Label,
    string State,
    string Saw,
    string Sentence,
    IReadOnlyList<PartInfo> Parts,
    string? Error
);

/// <summary>A branch of a decide step.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Taken">Whether it was taken.</param>
/// <param name="Parts">The parts of its condition with their values.</param>
public sealed record BranchInfo(string Name, bool Taken, IReadOnlyList<PartInfo> Parts);

/// <param name="Value">Null when the part was not looked at.</param>
public sealed record PartInfo(string Text, int Start, string? Value);

/// <param name="Text">Lines of time, source (<c>out err note</c>) and text.</param>
/// <param name="From">Where the page begins, in bytes.</param>
/// <param name="Next">Where to continue reading, in bytes.</param>
/// <param name="Size">How many bytes the log has by now.</param>
/// <param name="Running">Whether the attempt may still say more.</param>
/// <param name="Ended">Whether it will not, and this page is behind the last one.</param>
public sealed record LogPage(string Text, long From, long Next, long Size, bool Running, bool Ended);

/// <summary>A line of a log that was looked for.</summary>
/// <param name="At">Where it begins, in bytes.</param>
/// <param name="Line">Time, source and text; at most 2,000 characters.</param>
public sealed record LogHitInfo(long At, string Line);

/// <summary>Lines of a log that were looked for.</summary>
/// <param name="Hits">In the order of the log.</param>
/// <param name="Next">Where to look further, in bytes; as big as the size when all was looked through.</param>
/// <param name="Size">How many bytes the log has by now.</param>
public sealed record LogHitsInfo(IReadOnlyList<LogHitInfo> Hits, long Next, long Size);
