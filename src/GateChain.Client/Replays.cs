namespace GateChain.Client;

/// <summary>Past runs are to be played again under another content of their chain.</summary>
/// <param name="Source">The content; null for a release or the draft.</param>
/// <param name="Release">The number of a release; null for the draft when there is no source.</param>
/// <param name="Last">How many of the latest runs that have ended, 1 to 500.</param>
/// <param name="Since">Only those that began then or later; null for any.</param>
public sealed record ReplayRequest(
    string? Source = null,
    int? Release = null,
    int Last = 30,
    DateTimeOffset? Since = null
);

/// <summary>Something that would have been otherwise.</summary>
/// <param name="What"><c>run</c>, <c>gate</c>, <c>step</c>, <c>setting</c> or <c>output</c>.</param>
/// <param name="Path">Whose it is; of a gate its scope.</param>
/// <param name="Name">Of a gate <c>from → to</c>; of a setting or output its name.</param>
/// <param name="Was">How it was; null when there was none.</param>
/// <param name="WouldBe">How it would have been; null when there would be none.</param>
public sealed record ReplayDifferenceInfo(string What, string Path, string Name, string? Was, string? WouldBe);

/// <summary>A run that was played again.</summary>
/// <param name="Run">The run.</param>
/// <param name="Started">When it began.</param>
/// <param name="Release">The number of its release; null for a draft.</param>
/// <param name="Was">How its first leg ended.</param>
/// <param name="WouldBe">How it would have ended.</param>
/// <param name="SameWay">Whether it would have gone the same way: the same gates, the same outcomes.</param>
/// <param name="Differences">What would have been otherwise, nearest to the begin first; at most 200.</param>
/// <param name="Unknown">What can't be known, in sentences.</param>
/// <param name="Unlike">Where it does not go as it went even when it is played as it was; null when it does.</param>
/// <param name="Problem">Why it could not be played; null when it was.</param>
public sealed record ReplayedRunInfo(
    long Run,
    DateTimeOffset Started,
    int? Release,
    string Was,
    string WouldBe,
    bool SameWay,
    IReadOnlyList<ReplayDifferenceInfo> Differences,
    IReadOnlyList<string> Unknown,
    string? Unlike,
    string? Problem
);

/// <summary>Past runs, played again.</summary>
/// <param name="Under">What they were played under, in words.</param>
/// <param name="Runs">The runs, the latest first.</param>
public sealed record ReplayInfo(string Under, IReadOnlyList<ReplayedRunInfo> Runs);
